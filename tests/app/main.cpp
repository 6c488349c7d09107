// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/application.hpp"
#include "fixture.hpp"
#include "support/plug_ins.hpp"

#include <gtest/gtest.h>
#include <QApplication>
#include <QSettings>

int main(int argc, char** argv) {
    // Settings of their own, so that tests neither see nor change the user's.
    const fw::test::TemporaryFolder settings;
    QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, QString::fromStdString(settings.path().string()));
    fw::test::see_made_plug_ins();
    fw::app::Application app(argc, argv);
    QApplication::setApplicationName("fakturwerk-test");
    QApplication::setOrganizationName("fakturwerk-test");
    QApplication::setStyle("Fusion");
    fw::app::apply_theme();
    testing::InitGoogleTest(&argc, argv);
    const int result = RUN_ALL_TESTS();
    fw::app::WindowTest::shut_down();
    return result;
}

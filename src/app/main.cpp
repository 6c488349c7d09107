// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/application.hpp"
#include "app/main_window.hpp"
#include "app/recovery.hpp"
#include "app/theme.hpp"
#include "app/tour.hpp"
#include "base/guard.hpp"

#include <QApplication>
#include <QCommandLineParser>
#include <QIcon>
#include <QSettings>
#include <iostream>

namespace {

int run(int argc, char** argv) {
    fw::app::Application app(argc, argv);
    QApplication::setApplicationName("fakturwerk");
    QApplication::setOrganizationName("fakturwerk");
    QApplication::setApplicationVersion(FW_VERSION);
    QApplication::setStyle("Fusion");

    QCommandLineParser parser;
    parser.setApplicationDescription("Rebuild a recording, element by element, and check it against the original.");
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument("FILE", "a recording or a remake to open");
    const QCommandLineOption tour("tour", "do the whole job by itself, leave pictures and files in FOLDER, and quit", "FOLDER");
    parser.addOption(tour);
    parser.process(app);

    if (QSettings().value("night", false).toBool() && !parser.isSet(tour)) fw::app::set_night(true);
    else fw::app::apply_theme();
    QApplication::setWindowIcon(QIcon(":/fakturwerk.svg"));
    fw::app::Session session;
    fw::app::MainWindow window(session);
    QObject::connect(&app, &fw::app::Application::failed, &session, &fw::app::Session::failed);
    fw::app::Recovery recovery(session);
    if (parser.isSet(tour)) window.resize(1280, 800);
    window.show();
    if (!parser.isSet(tour)) window.offer(recovery);
    if (!parser.positionalArguments().isEmpty()) window.open(parser.positionalArguments().first());
    if (parser.isSet(tour)) fw::app::start_tour(window, parser.value(tour));
    return QApplication::exec();
}

}  // namespace

int main(int argc, char** argv) {
    const fw::Result<int> code = fw::guarded("starting Fakturwerk", [&]() -> fw::Result<int> { return run(argc, argv); });
    if (code) return *code;
    std::cerr << code.error().message() << "\n";
    return 1;
}

// SPDX-License-Identifier: GPL-3.0-or-later
// What views and panels are made of: kept pictures, number fields, themes and how times are written.
#include "fixture.hpp"

#include "app/number_field.hpp"

#include <QLineEdit>
#include <QSignalSpy>

namespace fw::app {

TEST(StillPictureTest, IsDrawnOnceAndAnewOnlyWhenForgottenResizedOrOfAnotherTheme) {
    QWidget view;
    view.resize(40, 30);
    StillPicture still;
    still.follow(view, view, std::initializer_list<void (QWidget::*)()>{});
    int drawn = 0;
    const auto shown = [&] {
        QImage image(view.size(), QImage::Format_ARGB32_Premultiplied);
        image.fill(Qt::transparent);
        QPainter painter(&image);
        still.paint(painter, view, [&](QPainter& p) {
            ++drawn;
            p.fillRect(QRect(0, 0, 10 * drawn, 30), Qt::red);
        });
        return image.pixelColor(15, 5).alpha() > 0;
    };
    EXPECT_FALSE(shown());
    EXPECT_FALSE(shown()) << "a copy of the first picture";
    EXPECT_EQ(drawn, 1);
    still.renew(view);
    EXPECT_TRUE(shown()) << "drawn anew, over nothing of the old";
    view.resize(50, 30);
    shown();
    EXPECT_EQ(drawn, 3);
    const bool night = theme().night;
    set_night(!night);
    shown();
    set_night(night);
    shown();
    EXPECT_EQ(drawn, 5);
}

TEST(NumberFieldTest, DragsByStepsTypesAndStaysInRange) {
    NumberField field(0, -60, 12, 0.5, " dB", 1);
    field.resize(80, 24);
    field.show();
    QLineEdit* edit = field.findChild<QLineEdit*>();
    ASSERT_TRUE(edit);
    const QPoint from(20, 10);
    QTest::mousePress(edit, Qt::LeftButton, {}, from);
    QTest::mouseMove(edit, from - QPoint(0, 20));
    QTest::mouseMove(edit, from - QPoint(0, 40));
    QTest::mouseRelease(edit, Qt::LeftButton, {}, from - QPoint(0, 40));
    EXPECT_DOUBLE_EQ(field.value(), 5.0);
    QTest::mousePress(edit, Qt::LeftButton, {}, from);
    QTest::mouseMove(edit, from - QPoint(0, 2000));
    QTest::mouseRelease(edit, Qt::LeftButton, {}, from);
    EXPECT_DOUBLE_EQ(field.value(), 12.0);
    edit->selectAll();
    QTest::keyClicks(edit, "-7.5");
    QTest::keyClick(edit, Qt::Key_Return);
    EXPECT_DOUBLE_EQ(field.value(), -7.5);
}

TEST(ThemeTest, TimesAreMinutesSecondsAndMilliseconds) {
    EXPECT_EQ(time_text(0), "0:00.000");
    EXPECT_EQ(time_text(67.35), "1:07.350");
    EXPECT_EQ(time_text(3661.9996), "61:02.000");
    EXPECT_EQ(time_text(-3), "0:00.000");
}

TEST(ThemeTest, TextStandsOutFromItsGroundInBothThemes) {
    const auto luminance = [](const QColor& c) {
        const auto channel = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
        return 0.2126 * channel(c.redF()) + 0.7152 * channel(c.greenF()) + 0.0722 * channel(c.blueF());
    };
    const auto contrast = [&](const QColor& a, const QColor& b) {
        const double x = luminance(a), y = luminance(b);
        return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
    };
    for (const bool night : {false, true}) {
        set_night(night);
        EXPECT_GE(contrast(theme().text, theme().ground), 4.5);
        EXPECT_GE(contrast(theme().faint, theme().ground), 4.5);
        EXPECT_GE(contrast(theme().text, theme().raised), 4.5);
    }
    set_night(false);
}

}  // namespace fw::app

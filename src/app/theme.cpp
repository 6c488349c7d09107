// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/theme.hpp"

#include <QApplication>
#include <QFontDatabase>
#include <QPalette>
#include <QPixmap>
#include <QWidget>
#include <cmath>

// Resources of a static library are registered by hand, and only from outside any namespace.
static void register_resources() { Q_INIT_RESOURCE(fakturwerk); }

namespace fw::app {

namespace {

const Theme kPaper{QColor("#F5F1E8"),
                   QColor("#FBF8F2"),
                   QColor("#23272B"),
                   QColor("#5E6266"),
                   QColor("#D9D2C3"),
                   QColor("#0F6B78"),
                   QColor("#D3502A"),
                   QColor("#23272B"),
                   QPainter::CompositionMode_Multiply,
                   false};
const Theme kNight{QColor("#16191C"),
                   QColor("#1E2226"),
                   QColor("#E6E1D6"),
                   QColor("#A29D93"),
                   QColor("#353A3F"),
                   QColor("#4FC3CF"),
                   QColor("#FF8A5C"),
                   QColor("#E6E1D6"),
                   QPainter::CompositionMode_Screen,
                   true};
bool night_now = false;
QString sans = "Inter", figures = "Noto Mono";

}  // namespace

const Theme& theme() { return night_now ? kNight : kPaper; }

ThemeTeller& theme_teller() {
    static ThemeTeller teller;
    return teller;
}

void set_night(bool night) {
    night_now = night;
    apply_theme();
    emit theme_teller().changed();
}

QFont text_font(double points, bool bold) {
    QFont font(sans);
    font.setPointSizeF(points);
    font.setWeight(bold ? QFont::DemiBold : QFont::Normal);
    return font;
}

QFont figure_font(double points) {
    QFont font(figures);
    font.setPointSizeF(points);
    return font;
}

QColor with_alpha(QColor color, int alpha) {
    color.setAlpha(alpha);
    return color;
}

QBrush rebuild_hatch(int alpha) {
    QPixmap tile(6, 6);
    tile.fill(with_alpha(theme().rebuild, alpha * 45 / 100));
    QPainter p(&tile);
    p.setPen(QPen(with_alpha(theme().rebuild, alpha), 1.4));
    p.setRenderHint(QPainter::Antialiasing);
    for (int x = -6; x <= 6; x += 6) p.drawLine(x, 6, x + 6, 0);
    return QBrush(tile);
}

QString time_text(double seconds) {
    const double s = std::max(0.0, seconds);
    const auto ms = static_cast<long long>(std::llround(s * 1000));
    return QString("%1:%2.%3").arg(ms / 60000).arg(ms / 1000 % 60, 2, 10, QChar('0')).arg(ms % 1000, 3, 10, QChar('0'));
}

void apply_theme() {
    static bool loaded = false;
    if (!loaded) {
        loaded = true;
        register_resources();
        for (const char* file : {":/fonts/Inter-Regular.otf", ":/fonts/Inter-SemiBold.otf", ":/fonts/NotoMono-Regular.ttf"})
            QFontDatabase::addApplicationFont(file);
    }
    const Theme& t = theme();
    QPalette palette;
    palette.setColor(QPalette::Window, t.ground);
    palette.setColor(QPalette::WindowText, t.text);
    palette.setColor(QPalette::Base, t.raised);
    palette.setColor(QPalette::AlternateBase, t.ground);
    palette.setColor(QPalette::Text, t.text);
    palette.setColor(QPalette::Button, t.ground);
    palette.setColor(QPalette::ButtonText, t.text);
    palette.setColor(QPalette::Highlight, t.selection);
    palette.setColor(QPalette::HighlightedText, t.ground);
    palette.setColor(QPalette::ToolTipBase, t.raised);
    palette.setColor(QPalette::ToolTipText, t.text);
    palette.setColor(QPalette::PlaceholderText, t.faint);
    palette.setColor(QPalette::Disabled, QPalette::ButtonText, with_alpha(t.text, 110));
    palette.setColor(QPalette::Disabled, QPalette::WindowText, with_alpha(t.text, 110));
    palette.setColor(QPalette::Disabled, QPalette::Text, with_alpha(t.text, 110));
    QApplication::setPalette(palette);
    QApplication::setFont(text_font());
    const QString style =
        QString(R"(
        QToolTip { background: %1; color: %2; border: 1px solid %3; padding: 3px; }
        QPushButton { background: transparent; border: 1px solid %3; border-radius: 2px; padding: 3px 9px; color: %2; }
        QPushButton[compact="true"] { padding: 3px 4px; }
        QPushButton[fromLeft="true"] { text-align: left; }
        QPushButton:hover { border-color: %4; }
        QPushButton:focus { border-color: %2; }
        QPushButton:checked { background: %2; color: %5; border-color: %2; }
        QPushButton[byItself="true"]:checked { background: transparent; color: %4; border: 1px dotted %4; }
        QPushButton:disabled { color: %6; }
        QPushButton#desk { border: none; border-bottom: 2px solid transparent; border-radius: 0; padding: 6px 12px; }
        QPushButton#desk:checked { background: transparent; color: %2; border-bottom: 2px solid %2; font-weight: 600; }
        QPushButton#desk:hover { border-bottom: 2px solid %3; }
        QPushButton#original:checked { background: %7; border-color: %7; color: %5; }
        QPushButton#rebuild:checked { background: %8; border-color: %8; color: %5; }
        QLineEdit, QComboBox, QDoubleSpinBox, QSpinBox { background: %1; border: 1px solid %3; border-radius: 2px; padding: 2px 5px; color: %2; selection-background-color: %2; selection-color: %5; }
        QLineEdit:focus, QComboBox:focus, QDoubleSpinBox:focus, QSpinBox:focus { border-color: %2; }
        QComboBox QAbstractItemView { background: %1; color: %2; border: 1px solid %3; }
        QComboBox::drop-down { border: none; width: 18px; } QComboBox::down-arrow { image: url(:/arrow.svg); width: 10px; height: 10px; }
        QMenuBar { background: %5; } QMenuBar::item { padding: 4px 9px; } QMenuBar::item:selected { background: %3; }
        QMenu { background: %1; border: 1px solid %3; } QMenu::item { padding: 4px 24px; } QMenu::item:selected { background: %3; } QMenu::item:disabled { color: %6; }
        QTableWidget, QListWidget { background: %5; border: none; gridline-color: %3; }
        QTableWidget { outline: none; } QTableWidget::item:focus:!selected { background: %5; border: none; }
        QTableWidget::item:selected, QListWidget::item:selected { background: %3; color: %2; }
        QHeaderView::section { background: %5; color: %6; border: none; border-bottom: 1px solid %3; padding: 3px 6px; }
        QScrollArea, QSplitter { background: %5; border: none; } QScrollArea > QWidget > QWidget { background: %5; }
        QProgressBar { border: 1px solid %3; background: %1; height: 8px; } QProgressBar::chunk { background: %2; }
        QScrollBar:horizontal { background: %5; height: 10px; } QScrollBar::handle:horizontal { background: %3; min-width: 30px; }
        QScrollBar:vertical { background: %5; width: 10px; } QScrollBar::handle:vertical { background: %3; min-height: 30px; }
        QScrollBar::add-line, QScrollBar::sub-line { width: 0; height: 0; }
        QWidget#rule { background: %3; }
        QLabel#heading { color: %6; font-size: 8.5pt; } QLabel#figure { font-family: "Noto Mono"; }
        QLabel#value { font-size: 14pt; font-weight: 600; }
    )")
            .arg(t.raised.name(), t.text.name(), t.hairline.name(), t.faint.name(), t.ground.name(), t.faint.name(), t.original.name(), t.rebuild.name());
    qApp->setStyleSheet(style);
    for (QWidget* w : QApplication::topLevelWidgets()) w->update();
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <QColor>
#include <QFont>
#include <QObject>
#include <QPainter>
#include <QString>

namespace fw::app {

/// The look of a two-colour print: the original always in one ink, the rebuild in the other; where both lie they overprint
/// to near-black. Colour is used for nothing else but that, the states and the selection.
struct Theme {
    QColor ground, raised, text, faint, hairline, original, rebuild, selection;
    QPainter::CompositionMode overprint;  ///< paper multiplies, night screens
    bool night;
};

/// Tells that another theme holds now: whoever keeps something painted or worded in its colours listens.
class ThemeTeller final : public QObject {
    Q_OBJECT

signals:
    void changed();
};

const Theme& theme();
ThemeTeller& theme_teller();
void set_night(bool night);
/// Loads the fonts from the resources and sets palette and style sheet of the application.
void apply_theme();

QFont text_font(double points = 9.5, bool bold = false);
QFont figure_font(double points = 9.0);

/// A brush of the rebuild's ink with its fine diagonal hatch, so that nothing depends on hue alone.
QBrush rebuild_hatch(int alpha = 255);
QColor with_alpha(QColor color, int alpha);

/// "1:07.350".
QString time_text(double seconds);

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/theme.hpp"
#include "app/words.hpp"
#include "audio/peaks.hpp"
#include "model/remake.hpp"

#include <QPainter>
#include <QPixmap>
#include <QRectF>
#include <QTimer>
#include <QWidget>
#include <functional>
#include <initializer_list>
#include <optional>

namespace fw::app {

/// A waveform filling rect, for the times start_s..end_s.
void paint_waveform(QPainter& painter, const QRectF& rect, const Peaks& peaks, double start_s, double end_s, const QBrush& ink, float gain = 1.0F);

/// A figure of agreement as an ink: pale where it disagrees, near-black where it agrees.
QColor match_color(std::optional<double> match);
/// "97 %".
QString percent_text(double share);

/// The mark of a state: thin ring, dotted ring, filled square, struck ring; with ? and ≈ beside it where they apply.
void paint_state(QPainter& painter, const QRectF& rect, const ElementState& state);

/// Text cut with an ellipsis to fit; nothing when too narrow for a letter.
void paint_text(QPainter& painter, const QRectF& rect, int flags, const QString& text);

/// Calls with (bar number, start tick) for every bar between two ticks.
void for_each_bar(const Remake& remake, Ticks from, Ticks to, const std::function<void(int bar, Ticks start, Ticks end)>& call);

/// One sentence and nothing else in the middle of a view.
void paint_empty(QPainter& painter, const QRectF& rect, const QString& sentence);

/// What a view shows besides what moves thirty times a second: painted once, then copied until it is told to forget.
class StillPicture {
public:
    /// Forgets the picture and has the view painted anew.
    void renew(QWidget& view) {
        picture_ = QPixmap();
        view.update();
    }
    /// Whether a view is painted in the frame that follows the news, or a frame later: what lies beside the hand's work gives way to it.
    enum class When { AtOnce, AFrameLater };
    /// Renews whenever an object gives one of these signals, or the theme is another. The picture must be a member of the view, or the view a child of what
    /// holds it.
    template <class Sender>
    void follow(QWidget& view, const Sender& sender, std::initializer_list<void (Sender::*)()> news, When when = When::AtOnce) {
        for (const auto signal : news)
            QObject::connect(&sender, signal, &view, [this, &view, when] {
                constexpr int kFrame_ms = 16;
                if (when == When::AtOnce) return renew(view);
                picture_ = QPixmap();
                QTimer::singleShot(kFrame_ms, &view, [&view] { view.update(); });
            });
        QObject::connect(&theme_teller(), &ThemeTeller::changed, &view, [this, &view] { renew(view); });
    }
    /// Copies the picture of a view to its painter. `draw` paints it anew, on nothing, where it was forgotten or size or scale are others.
    void paint(QPainter& painter, const QWidget& view, const std::function<void(QPainter&)>& draw);

private:
    QPixmap picture_;
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/painting.hpp"
#include "app/session.hpp"

#include <QImage>
#include <QWidget>
#include <optional>
#include <tuple>
#include <vector>

namespace fw::app {

/// Both sources printed over each other, from the song to a note: where they agree it is dark, what only one has stands in its ink.
///
/// The wheel comes nearer and goes away, dragging moves, a double click shows all. A click on a finding's mark chooses it.
class OverprintView final : public QWidget {
    Q_OBJECT

public:
    enum class What { Spectrum, Notes, Hits, Left };
    static constexpr int kWhats = 4;

    explicit OverprintView(Session& session, QWidget* parent = nullptr);
    What what() const { return what_; }
    void show_what(What what);
    /// From … to in seconds.
    void show_span(double from_s, double to_s);
    double from_s() const { return from_s_; }
    double to_s() const { return to_s_; }
    /// The findings to mark, and which of them is chosen (-1: none).
    void mark(std::vector<Finding> findings, int chosen);
    QPointF mark_at(const Finding& finding) const;

signals:
    void mark_chosen(int index);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

private:
    QRectF area() const;
    double x_at(double time_s) const;
    double time_at(double x) const;
    double y_of(double pitch) const;
    double pitch_at(double y) const;
    void paint_still(QPainter& painter) const;
    void paint_spectrum(QPainter& painter, bool only_left) const;
    void paint_notes(QPainter& painter) const;
    void paint_hits(QPainter& painter) const;
    void paint_levels(QPainter& painter) const;
    void paint_marks(QPainter& painter) const;

    /// A picture that follows from what was heard and rendered, not from the document: kept over edits.
    struct Kept {
        std::tuple<What, double, double, QSize, const void*, const void*, bool> of{};
        QImage image;
    };
    template <class Ink>
    const QImage& kept(Kept& where, const void* first, const void* second, QColor ink, Ink&& alpha_at) const;

    Session& session_;
    StillPicture still_;
    mutable Kept original_, rebuild_;
    What what_ = What::Spectrum;
    double from_s_ = 0.0, to_s_ = 0.0;  ///< 0 and 0: the whole song
    std::vector<Finding> findings_;
    int chosen_ = -1;
    std::optional<QPointF> dragged_from_;
    double drag_from_s_ = 0.0;
};

}  // namespace fw::app

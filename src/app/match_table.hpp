// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/painting.hpp"
#include "app/session.hpp"

#include <QWidget>
#include <optional>

namespace fw::app {

/// A place of the rebuild: an element or the sound of all, a section or the whole, a bar of it or all.
struct MatchPlace {
    std::optional<ElementId> element;  ///< none: the whole
    bool sound = false;                ///< the row of the sound
    int section = -1;                  ///< -1: the whole song
    int bar = 0;                       ///< 0: all of the section
    bool operator==(const MatchPlace&) const = default;
};

/// Elements × sections with their figures, each cell with its bars below: where the rebuild agrees, and the way down to a bar.
///
/// A click on a figure chooses that element and section, one on a bar below it that bar; arrows move, Backspace goes back from the bar to its section and from
/// there to the whole.
class MatchTable final : public QWidget {
    Q_OBJECT

public:
    explicit MatchTable(Session& session, QWidget* parent = nullptr);
    const MatchPlace& place() const { return place_; }
    void choose(const MatchPlace& place);
    /// What a place's figure says, in words.
    QString words(const MatchPlace& place) const;
    /// From … to in seconds.
    std::pair<double, double> span(const MatchPlace& place) const;
    QRectF cell_rect(int row, int section) const;
    QSize sizeHint() const override;

signals:
    void chosen();

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;

private:
    struct Row {
        QString name;
        const ElementMatch* element = nullptr;  ///< null: the sound, or the whole
        bool sound = false;
    };
    std::vector<Row> rows() const;
    int sections() const;
    std::optional<double> figure(const Row& row, int section) const;
    std::pair<int, int> bars_of(int section) const;  ///< first, and one behind the last
    std::optional<MatchPlace> place_at(QPointF at) const;
    void paint_still(QPainter& painter) const;

    Session& session_;
    StillPicture still_;
    MatchPlace place_;
};

}  // namespace fw::app

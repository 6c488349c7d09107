// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/painting.hpp"
#include "app/session.hpp"

#include <QTemporaryDir>
#include <QWidget>
#include <memory>
#include <optional>

namespace fw::app {

/// The elements in working order: state, name, match figure with a bar per section, and for parts what of the original is theirs (the lens on the element),
/// solo and mute.
/// A click selects, a click on the mark or Return confirms and reopens, up and down walk.
class Ledger final : public QWidget {
    Q_OBJECT

public:
    explicit Ledger(Session& session, QWidget* parent = nullptr);
    /// The elements as they stand here from above: in working order, or by family.
    std::vector<ElementId> shown() const;
    /// Puts what belongs together under one heading, or all in working order; kept for the next time.
    void set_by_family(bool on);
    bool by_family() const { return by_family_; }
    /// Where a row and its switches lie, for tests and tooltips.
    QRect row_rect(int row) const;
    QRect share_rect(int row) const;
    QRect solo_rect(int row) const;
    QRect mute_rect(int row) const;
    QRect state_rect(int row) const;
    /// The file of the part that was dragged out last; empty for none.
    QString last_dragged() const { return last_dragged_; }

signals:
    /// A row is to be in view.
    void wanted(const QRect& row);

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    bool event(QEvent* event) override;

private:
    void paint_still(QPainter& painter) const;
    int row_at(const QPoint& p) const;
    /// How far from above a row begins, and the headings that stand between them.
    struct Lines {
        std::vector<int> rows;
        std::vector<std::pair<int, QString>> headings;
        int end = 0;
    };
    Lines lines() const;
    void fit();
    void toggle_confirmed(int row);
    /// Whether the original's share of an element is what is heard.
    bool hears_share_of(ElementId id) const;
    Session& session_;
    StillPicture still_;
    std::optional<QPoint> pressed_;
    std::unique_ptr<QTemporaryDir> dragged_;
    QString last_dragged_;
    bool share_ = false;  ///< as it was painted last
    bool by_family_ = false;
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/match_table.hpp"
#include "app/overprint_view.hpp"
#include "app/session.hpp"

#include <QWidget>
#include <optional>
#include <vector>

class QButtonGroup;
class QComboBox;
class QLabel;
class QPushButton;
class QTableWidget;

namespace fw::app {

class CommandRegistry;

/// How far the rebuild agrees: figures by element and section, both sources overprinted, and what to do about it — findings, what is left, what is next —
/// each line one key from being heard.
class CheckDesk final : public QWidget {
    Q_OBJECT

public:
    enum class List { Findings, Left, Next };

    CheckDesk(Session& session, const CommandRegistry& commands, QWidget* parent = nullptr);
    QTableWidget* findings() const { return lines_; }
    MatchTable* table() const { return table_; }
    OverprintView* overprint() const { return overprint_; }
    void show_list(List list);

    // What keys and buttons do.
    void walk(int by);
    void hear();
    /// Hears what is chosen through the lens it is told best by, or again through none.
    void hear_through_lens();
    /// Does what the chosen finding suggests.
    void apply_remedy();
    /// Says that the chosen finding's difference is meant: it is not reported again.
    void mark_intended();
    /// Leaves a question at the chosen finding's place.
    void ask();

protected:
    void showEvent(QShowEvent* event) override;

private:
    /// One line of the list that is shown.
    struct LineOf {
        std::optional<Finding> finding;
        std::optional<LeftMoment> left;
        std::optional<NextStep> next;
        QString place, words, sure, tip;
        bool reads_like(const LineOf& other) const { return place == other.place && words == other.words && sure == other.sure && tip == other.tip; }
    };
    void follow();
    /// While nobody sees it, it is not filled; it is before it is shown or used.
    void bring_up_to_date();
    void fill_filters();
    void fill();
    void choose_line(int row);
    std::vector<LineOf> all_lines() const;
    bool passes(const Finding& finding) const;
    QString counts_text() const;
    const Finding* chosen() const;
    void say_chosen_is_wanted(const QString& sentence);
    bool remark(const char* kind, const QString& done);

    Session& session_;
    MatchTable* table_ = nullptr;
    OverprintView* overprint_ = nullptr;
    QTableWidget* lines_ = nullptr;
    std::vector<LineOf> shown_;
    bool stale_ = false;
    QLabel *summary_ = nullptr, *counts_ = nullptr;
    QPushButton *remedy_ = nullptr, *intended_ = nullptr, *question_ = nullptr, *hear_ = nullptr;
    QComboBox *list_ = nullptr, *element_ = nullptr, *cause_ = nullptr, *what_ = nullptr;
};

}  // namespace fw::app

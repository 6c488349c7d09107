// SPDX-License-Identifier: GPL-3.0-or-later
// The facts of sections: their names and edges, and what changes from one to the next as a list to be gone through.
#include "app/calm_combo.hpp"
#include "app/changes.hpp"
#include "app/command_registry.hpp"
#include "app/facts_panel.hpp"
#include "app/survey.hpp"
#include "app/words.hpp"
#include "check/followed_changes.hpp"
#include "commands/call.hpp"

#include <QComboBox>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>
#include <map>

namespace fw::app {

void FactsPanel::sections() {
    heading(tr("Names; the letter tells what repeats"));
    section_rows();
    commands_row({{"song.split", tr("Split here")}, {"song.merge", tr("Merge with next")}});
    commands_row({{"song.section-start", tr("Let the nearest begin here")}});
    checklist();
    faint();
}

void FactsPanel::faint() {
    heading(tr("Faint: what sounds below the rest"));
    const Remake& r = session_.remake();
    const auto& found = session_.survey().faint();
    if (!found) commands_row({{"song.faint", tr("Look for it")}});
    else if (found->empty()) note(tr("Nothing was found."));
    int number = 0;
    const auto kept = [&](Ticks at, const std::string& words) {
        return std::any_of(r.notebook->remarks.begin(), r.notebook->remarks.end(),
                           [&](const Remark& m) { return m.kind == RemarkKind::Faint && m.start == at && m.words == words; });
    };
    for (const FaintFind& f : found.value_or(std::vector<FaintFind>())) {
        ++number;
        const Ticks at = r.song->tempo.nearest_tick(f.from_s) + number;  // several may be kept of one place
        const std::string words = faint_words(f, r.song->flats_at(at));
        auto* row = new QHBoxLayout;
        row->setSpacing(3);
        auto* hear = new QPushButton(of_core(words));
        hear->setObjectName(QString("faint%1").arg(number));
        hear->setProperty("compact", true);
        hear->setStyleSheet("text-align: left;");
        hear->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
        hear->setToolTip(tr("%1\nHear it through its band").arg(of_core(words)));
        connect(hear, &QPushButton::clicked, this, [this, f] { session_.survey().hear_faint(f); });
        auto* keep = new QPushButton(tr("keep"));
        keep->setObjectName(QString("keep_faint%1").arg(number));
        keep->setProperty("compact", true);
        keep->setCheckable(true);
        keep->setChecked(kept(at, words));
        keep->setToolTip(tr("Keeps it in the register of faint elements, with its place"));
        connect(keep, &QPushButton::clicked, this, [this, at, words, f](bool on) {
            Line line(on ? "remark.add" : "remark.remove");
            const MeterMap& meter = session_.remake().song->meter;
            line.with("kind", "faint").with("element", "sections").with("at", place_text(meter, at));
            if (on) line.with("length", length_text(std::max<Ticks>(1, session_.remake().song->tempo.nearest_tick(f.to_s) - at))).with("words", words);
            session_.documents().run(line);
        });
        row->addWidget(hear, 1);
        row->addWidget(keep);
        column_->addLayout(row);
    }
    if (!found)
        for (const Remark& m : r.notebook->remarks)
            if (m.kind == RemarkKind::Faint) note(of_core(m.words));
}

void FactsPanel::section_rows() {
    const Remake& r = session_.remake();
    for (std::size_t i = 0; i < r.song->sections.size(); ++i) {
        const Section& s = r.song->sections[i];
        auto* row = new QHBoxLayout;
        row->setSpacing(4);
        auto* loop = new QPushButton(tr("%1 · %2").arg(QString::fromStdString(s.label)).arg(r.song->meter.position(s.start).bar));
        loop->setObjectName(QString("loop_section%1").arg(i));
        loop->setFixedWidth(52);
        loop->setProperty("compact", true);
        loop->setToolTip(tr("Loop this section, which begins at bar %1").arg(r.song->meter.position(s.start).bar));
        connect(loop, &QPushButton::clicked, this, [this, i] {
            const Section& x = session_.remake().song->sections[i];
            session_.transport().set_loop(session_.remake().song->tempo.seconds(x.start), session_.remake().song->tempo.seconds(x.start + x.length));
            session_.transport().seek(session_.transport().loop_start());
        });
        auto* name = new QLineEdit(QString::fromStdString(s.name));
        name->setObjectName(QString("section%1").arg(i));
        name->setMinimumWidth(40);
        name->setCursorPosition(0);
        name->setToolTip(tr("What this section is called"));
        connect(name, &QLineEdit::editingFinished, this, [this, i, name] {
            if (i < session_.remake().song->sections.size() && name->text().toStdString() != session_.remake().song->sections[i].name)
                session_.documents().run(Line("section.rename")
                                             .with("section", section_text(session_.remake(), session_.remake().song->sections[i].id))
                                             .with("name", name->text().toStdString()));
        });
        auto* repeats = new CalmCombo;
        repeats->setObjectName(QString("repeats%1").arg(i));
        repeats->setToolTip(tr("Which earlier section it repeats"));
        repeats->setFixedWidth(70);
        repeats->addItem(tr("new"), QString("none"));
        for (std::size_t k = 0; k < i; ++k) {
            const Section& earlier = r.song->sections[k];
            if (earlier.repeat_of) continue;
            repeats->addItem(tr("= %1 %2").arg(QString::fromStdString(earlier.label)).arg(r.song->meter.position(earlier.start).bar),
                             QString::fromStdString(section_text(r, earlier.id)));
            if (earlier.id == s.repeat_of) repeats->setCurrentIndex(repeats->count() - 1);
        }
        connect(repeats, &QComboBox::activated, this, [this, id = s.id, repeats] {
            session_.documents().run(
                Line("section.repeat").with("section", section_text(session_.remake(), id)).with("of", repeats->currentData().toString().toStdString()));
        });
        auto* copy = new QPushButton(tr("copy"));
        copy->setFixedWidth(44);
        copy->setProperty("compact", true);
        copy->setObjectName(QString("copy_section%1").arg(i));
        copy->setToolTip(tr("Play what it plays once more somewhere else, with its curves, settings and clips"));
        connect(copy, &QPushButton::clicked, this, [this, id = s.id] {
            QInputDialog dialog(this);
            dialog.setObjectName("copy section");
            dialog.setWindowTitle(tr("Copy section"));
            dialog.setLabelText(tr("Where the copy begins: a bar (21) or a section (verse 2), whose place it takes:"));
            if (dialog.exec() == QDialog::Accepted && !dialog.textValue().trimmed().isEmpty())
                session_.documents().run(
                    Line("section.copy").with("section", section_text(session_.remake(), id)).with("to", dialog.textValue().trimmed().toStdString()));
        });
        row->addWidget(loop);
        row->addWidget(name, 1);
        row->addWidget(repeats);
        row->addWidget(copy);
        column_->addLayout(row);
        // An uneven length is a question, not a mistake.
        const Ticks bar = r.song->meter.at_bar(r.song->meter.position(s.start).bar).bar_ticks();
        const long bars = std::lround(static_cast<double>(s.length) / static_cast<double>(bar));
        const Section* model = r.song->section(s.repeat_of);
        if (model && model->length != s.length)
            note(tr("? %1 bars, where what it repeats has %2").arg(bars).arg(std::lround(static_cast<double>(model->length) / static_cast<double>(bar))));
        else if (!model && bars % 2 == 1 && bars > 2 && i + 1 < r.song->sections.size())
            note(tr("? %1 bars, an odd length: does an edge lie a bar off?").arg(bars));
    }
}

namespace {

/// A line of the list: what changes at a bar.
struct Change {
    Ticks at = 0;
    int bar = 1;
    QString what;
    double start_s = 0.0, end_s = 0.0, other_start_s = 0.0, other_end_s = 0.0;  ///< the two places heard in turn
    bool repeat = false;                                                        ///< of a repeat; else an entry or exit
    Followed followed = Followed::NotBuilt;                                     ///< whether the rebuild does so, too, in all of it that is built
};

/// Of several changes at one place: what is not built says nothing, one that is not followed outweighs those that are.
Followed together(Followed a, Followed b) {
    if (a == Followed::NotBuilt) return b;
    return b == Followed::No ? b : a;
}

std::vector<Change> changes_of(Session& session) {
    std::vector<Change> all;
    const auto analysis = session.recording().analysis;
    if (!analysis) return all;
    const Song& song = *session.remake().song;
    FollowedChanges rebuild(session.remake(), *analysis);
    const auto bar_at = [&](double s) { return song.meter.position(song.tempo.nearest_tick(s + 0.05)).bar; };
    std::map<int, std::pair<double, double>> bars;
    for (const Beat& b : analysis->beats)
        if (b.beat == 1) bars[b.bar].first = b.time_s;
    for (auto it = bars.begin(); it != bars.end(); ++it) it->second.second = std::next(it) != bars.end() ? std::next(it)->second.first : it->second.first + 2.0;
    for (const SectionSpan& s : analysis->sections)
        for (std::size_t i = 0; i < s.differences.size();) {
            std::vector<const BarDifference*> bar;
            for (const int number = s.differences[i].bar; i < s.differences.size() && s.differences[i].bar == number; ++i) bar.push_back(&s.differences[i]);
            const BarDifference& d = *bar.front();
            const auto other = bars.find(d.of_bar);
            Change c;
            c.repeat = true;
            c.bar = bar_at(d.start_s);
            c.at = song.meter.tick_of_bar(c.bar);
            c.start_s = d.start_s, c.end_s = d.end_s;
            if (other != bars.end()) c.other_start_s = other->second.first, c.other_end_s = other->second.second;
            for (const BarDifference* of : bar) c.followed = together(c.followed, rebuild.difference(*of));
            c.what = QString("%1 ≠ %2: %3").arg(d.bar).arg(d.of_bar).arg(change_words(session, bar));
            all.push_back(std::move(c));
        }
    struct Moves {
        QStringList in, out;
        Followed followed = Followed::NotBuilt;
    };
    std::map<int, Moves> moves;
    for (const Presence& p : analysis->presence) {
        if (const int bar = bar_at(p.start_s); bar > 1) {
            Moves& m = moves[bar];
            m.in << heard_element_name(p.element);
            m.followed = together(m.followed, rebuild.entry(p.element, p.start_s));
        }
        if (p.end_s >= analysis->duration_s - 1.0) continue;
        Moves& m = moves[bar_at(p.end_s)];
        m.out << heard_element_name(p.element);
        m.followed = together(m.followed, rebuild.exit(p.element, p.end_s));
    }
    for (const auto& [bar, moved] : moves) {
        if (bar <= 1) continue;
        Change c;
        c.bar = bar;
        c.at = song.meter.tick_of_bar(bar) + 1;  // beside a difference of the same bar
        c.start_s = song.tempo.seconds(song.meter.tick_of_bar(bar)), c.end_s = song.tempo.seconds(song.meter.tick_of_bar(bar + 1));
        c.other_start_s = song.tempo.seconds(song.meter.tick_of_bar(bar - 1)), c.other_end_s = c.start_s;
        QStringList words;
        if (!moved.in.isEmpty()) words << tr("in: %1").arg(moved.in.join(", "));
        if (!moved.out.isEmpty()) words << tr("out: %1").arg(moved.out.join(", "));
        c.followed = moved.followed;
        c.what = tr("%1 %2").arg(bar).arg(words.join("; "));
        all.push_back(std::move(c));
    }
    return all;
}

}  // namespace

void FactsPanel::checklist() {
    const auto changes = changes_of(session_);
    const auto& remarks = session_.remake().notebook->remarks;
    const auto said = [&](const Change& c) -> const Remark* {
        for (const Remark& m : remarks)
            if (m.element == ElementId::sections() && m.start == c.at &&
                (m.kind == RemarkKind::Seen || m.kind == RemarkKind::Dismissed || m.kind == RemarkKind::Question))
                return &m;
        return nullptr;
    };
    for (const bool repeat : {true, false}) {
        std::size_t open = 0, listed = 0;
        for (const Change& c : changes)
            if (c.repeat == repeat) ++listed, open += !said(c) && c.followed != Followed::Yes;
        heading(repeat ? tr("Repeats that differ: %1 of %2 to hear").arg(open).arg(listed) : tr("Entries and exits: %1 of %2 to hear").arg(open).arg(listed));
        if (listed == 0) note(tr("None was heard."));
        int number = 0;
        for (const Change& c : changes) {
            if (c.repeat != repeat) continue;
            ++number;
            const Remark* remark = said(c);
            if (remark && remark->kind == RemarkKind::Dismissed) continue;
            auto* row = new QHBoxLayout;
            row->setSpacing(3);
            const auto mark = [&](const QString& text, const char* kind, const QString& tip) {
                auto* b = new QPushButton(text);
                b->setObjectName(QString("%1_%2%3").arg(kind, repeat ? "change" : "move").arg(number));
                b->setFixedWidth(21);
                b->setProperty("compact", true);
                b->setCheckable(true);
                b->setChecked(remark && remark_name(remark->kind) == kind);
                b->setToolTip(tip);
                connect(b, &QPushButton::clicked, this, [this, at = c.at, kind, was = remark ? remark_name(remark->kind) : QString(), words = c.what] {
                    const std::string place = place_text(session_.remake().song->meter, at);
                    const auto about = [&](const char* command, const std::string& which) {
                        return Line(command).with("kind", which).with("element", "sections").with("at", place);
                    };
                    // One word gives way to another in one step.
                    const QString step = "change at " + QString::fromStdString(place);
                    if (!was.isEmpty()) session_.documents().run(about("remark.remove", was.toStdString()), step);
                    if (was != kind) session_.documents().run(about("remark.add", kind).with("words", words.toStdString()), step);
                    session_.documents().end_gesture();
                });
                return b;
            };
            auto* seen = mark(QString("✓"), "seen", tr("Heard, and so it is"));
            if (!remark && c.followed == Followed::Yes) {
                // Ticked by itself, and paler than what was heard; a click makes it the user's own word.
                seen->setChecked(true);
                seen->setProperty("byItself", true);
                seen->setToolTip(tr("The rebuild does so, too: ticked by itself. A click says that you have heard it."));
            }
            row->addWidget(seen);
            row->addWidget(mark(QString("?"), "question", tr("An open question, kept at its place")));
            auto* hear = new QPushButton(c.what);
            hear->setObjectName(QString("%1%2").arg(repeat ? "change" : "move").arg(number));
            hear->setProperty("compact", true);
            hear->setStyleSheet("text-align: left;");
            QString tip = repeat ? tr("%1\nHear both bars in turn").arg(c.what) : tr("%1\nHear the bar before and this one in turn").arg(c.what);
            if (c.followed == Followed::No) tip += tr("\nThe rebuild does not do so yet.");
            hear->setToolTip(tip);
            hear->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
            connect(hear, &QPushButton::clicked, this, [this, c] {
                if (c.other_end_s > c.other_start_s) session_.transport().hear_in_turn(c.start_s, c.end_s, c.other_start_s, c.other_end_s);
                else session_.transport().seek(c.start_s);
            });
            row->addWidget(hear, 1);
            row->addWidget(mark(QString("×"), "dismissed", tr("There is no such change: take it off the list")));
            column_->addLayout(row);
        }
        const auto dismissed = std::count_if(changes.begin(), changes.end(), [&](const Change& c) {
            const Remark* m = c.repeat == repeat ? said(c) : nullptr;
            return m && m->kind == RemarkKind::Dismissed;
        });
        if (dismissed > 0)
            button(tr("Bring back %1 taken off").arg(dismissed), tr("Shows again what was dismissed"), [this, repeat] {
                for (const Change& c : changes_of(session_))
                    for (const Remark& m : session_.remake().notebook->remarks)
                        if (c.repeat == repeat && m.kind == RemarkKind::Dismissed && m.element == ElementId::sections() && m.start == c.at) {
                            session_.documents().run(Line("remark.remove")
                                                         .with("kind", "dismissed")
                                                         .with("element", "sections")
                                                         .with("at", place_text(session_.remake().song->meter, c.at)));
                            break;
                        }
            });
    }
}

}  // namespace fw::app

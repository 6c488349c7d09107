// SPDX-License-Identifier: GPL-3.0-or-later
// The facts of sections: their names and edges, and what changes from one to the next as a list to be gone through.
#include "app/changes.hpp"
#include "app/command_registry.hpp"
#include "app/facts_column.hpp"
#include "app/facts_panel.hpp"
#include "app/survey.hpp"
#include "app/words.hpp"
#include "check/followed_changes.hpp"
#include "commands/call.hpp"

#include <QInputDialog>
#include <algorithm>
#include <cmath>
#include <map>

namespace fw::app {

void FactsPanel::sections() {
    facts_->heading(tr("Names; the letter tells what repeats"));
    section_rows();
    commands_row({{"song.split", tr("Split here")}, {"song.merge", tr("Merge with next")}});
    commands_row({{"song.section-start", tr("Let the nearest begin here")}});
    checklist();
    faint();
}

void FactsPanel::faint() {
    facts_->heading(tr("Faint: what sounds below the rest"));
    const Remake& r = session_.remake();
    const auto& found = session_.survey().faint();
    if (!found) commands_row({{"song.faint", tr("Look for it")}});
    else if (found->empty()) facts_->note(tr("Nothing was found."));
    int number = 0;
    const auto kept = [&](Ticks at, const std::string& words) {
        return std::any_of(r.notebook->remarks.begin(), r.notebook->remarks.end(),
                           [&](const Remark& m) { return m.kind == RemarkKind::Faint && m.start == at && m.words == words; });
    };
    for (const FaintFind& f : found.value_or(std::vector<FaintFind>())) {
        ++number;
        const Ticks at = r.song->tempo.nearest_tick(f.from_s) + number;  // several may be kept of one place
        const std::string words = faint_words(f, r.song->flats_at(at));
        const auto row = facts_->line(3);
        facts_->button({.text = of_core(words),
                        .tip = tr("%1\nHear it through its band").arg(of_core(words)),
                        .object = QString("faint%1").arg(number),
                        .run = [this, f] { session_.survey().hear_faint(f); },
                        .compact = true,
                        .width = FactWidth::Shared,
                        .stretch = 1,
                        .from_left = true});
        const bool is_kept = kept(at, words);
        facts_->button(
            {.text = tr("keep"),
             .tip = tr("Keeps it in the register of faint elements, with its place"),
             .object = QString("keep_faint%1").arg(number),
             .run =
                 [this, at, words, f, is_kept] {
                     Line line(is_kept ? "remark.remove" : "remark.add");
                     const MeterMap& meter = session_.remake().song->meter;
                     line.with("kind", "faint").with("element", "sections").with("at", place_text(meter, at));
                     if (!is_kept)
                         line.with("length", length_text(std::max<Ticks>(1, session_.remake().song->tempo.nearest_tick(f.to_s) - at))).with("words", words);
                     session_.documents().run(line);
                 },
             .compact = true,
             .checked = is_kept});
    }
    if (!found)
        for (const Remark& m : r.notebook->remarks)
            if (m.kind == RemarkKind::Faint) facts_->note(of_core(m.words));
}

/// What a section is called, which one it repeats, and a copy of it.
void FactsPanel::section_row(std::size_t i) {
    const Remake& r = session_.remake();
    const Section& s = r.song->sections[i];
    const int bar = r.song->meter.position(s.start).bar;
    const auto line = facts_->line();
    facts_->button({.text = tr("%1 · %2").arg(QString::fromStdString(s.label)).arg(bar),
                    .tip = tr("Loop this section, which begins at bar %1").arg(bar),
                    .object = QString("loop_section%1").arg(i),
                    .run =
                        [this, id = s.id] {
                            const Song& song = *session_.remake().song;
                            const Section* x = song.section(id);
                            if (!x) return;
                            session_.transport().set_loop(song.tempo.seconds(x->start), song.tempo.seconds(x->start + x->length));
                            session_.transport().seek(session_.transport().loop_start());
                        },
                    .compact = true,
                    .pixels = 52});
    facts_->edit({.object = QString("section%1").arg(i),
                  .text = QString::fromStdString(s.name),
                  .tip = tr("What this section is called"),
                  .entered =
                      [this, id = s.id](const QString& text) {
                          const Section* now = session_.remake().song->section(id);
                          if (now && text.toStdString() != now->name)
                              session_.documents().run(
                                  Line("section.rename").with("section", section_text(session_.remake(), id)).with("name", text.toStdString()));
                      },
                  .stretch = 1,
                  .least_pixels = 40});
    std::vector<std::pair<QString, QString>> earlier{{tr("new"), "none"}};
    int repeated = 0;
    for (std::size_t k = 0; k < i; ++k) {
        const Section& e = r.song->sections[k];
        if (e.repeat_of) continue;
        earlier.emplace_back(tr("= %1 %2").arg(QString::fromStdString(e.label)).arg(r.song->meter.position(e.start).bar),
                             QString::fromStdString(section_text(r, e.id)));
        if (e.id == s.repeat_of) repeated = static_cast<int>(earlier.size()) - 1;
    }
    facts_->choice({.object = QString("repeats%1").arg(i),
                    .tip = tr("Which earlier section it repeats"),
                    .items = earlier,
                    .chosen = repeated,
                    .taken =
                        [this, id = s.id, earlier](int chosen) {
                            session_.documents().run(Line("section.repeat")
                                                         .with("section", section_text(session_.remake(), id))
                                                         .with("of", earlier[static_cast<std::size_t>(chosen)].second.toStdString()));
                        },
                    .pixels = 70});
    facts_->button(
        {.text = tr("copy"),
         .tip = tr("Play what it plays once more somewhere else, with its curves, settings and clips"),
         .object = QString("copy_section%1").arg(i),
         .run =
             [this, id = s.id] {
                 QInputDialog dialog(this);
                 dialog.setObjectName("copy section");
                 dialog.setWindowTitle(tr("Copy section"));
                 dialog.setLabelText(tr("Where the copy begins: a bar (21) or a section (verse 2), whose place it takes:"));
                 if (dialog.exec() == QDialog::Accepted && !dialog.textValue().trimmed().isEmpty())
                     session_.documents().run(
                         Line("section.copy").with("section", section_text(session_.remake(), id)).with("to", dialog.textValue().trimmed().toStdString()));
             },
         .compact = true,
         .pixels = 44});
}

void FactsPanel::section_rows() {
    const Remake& r = session_.remake();
    for (std::size_t i = 0; i < r.song->sections.size(); ++i) {
        const Section& s = r.song->sections[i];
        section_row(i);
        // An uneven length is a question, not a mistake.
        const Ticks bar = r.song->meter.at_bar(r.song->meter.position(s.start).bar).bar_ticks();
        const long bars = std::lround(static_cast<double>(s.length) / static_cast<double>(bar));
        const Section* model = r.song->section(s.repeat_of);
        if (model && model->length != s.length)
            facts_->note(
                tr("? %1 bars, where what it repeats has %2").arg(bars).arg(std::lround(static_cast<double>(model->length) / static_cast<double>(bar))));
        else if (!model && bars % 2 == 1 && bars > 2 && i + 1 < r.song->sections.size())
            facts_->note(tr("? %1 bars, an odd length: does an edge lie a bar off?").arg(bars));
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
        facts_->heading(repeat ? tr("Repeats that differ: %1 of %2 to hear").arg(open).arg(listed)
                               : tr("Entries and exits: %1 of %2 to hear").arg(open).arg(listed));
        if (listed == 0) facts_->note(tr("None was heard."));
        int number = 0;
        for (const Change& c : changes) {
            if (c.repeat != repeat) continue;
            ++number;
            const Remark* remark = said(c);
            if (remark && remark->kind == RemarkKind::Dismissed) continue;
            const auto line = facts_->line(3);
            const auto mark = [&](const QString& text, const char* kind, const QString& tip) {
                return FactButton{.text = text,
                                  .tip = tip,
                                  .object = QString("%1_%2%3").arg(kind, repeat ? "change" : "move").arg(number),
                                  .run =
                                      [this, at = c.at, kind, was = remark ? remark_name(remark->kind) : QString(), words = c.what] {
                                          const std::string place = place_text(session_.remake().song->meter, at);
                                          const auto about = [&](const char* command, const std::string& which) {
                                              return Line(command).with("kind", which).with("element", "sections").with("at", place);
                                          };
                                          // One word gives way to another in one step.
                                          const QString step = "change at " + QString::fromStdString(place);
                                          if (!was.isEmpty()) session_.documents().run(about("remark.remove", was.toStdString()), step);
                                          if (was != kind) session_.documents().run(about("remark.add", kind).with("words", words.toStdString()), step);
                                          session_.documents().end_gesture();
                                      },
                                  .compact = true,
                                  .pixels = 21,
                                  .checked = remark && remark_name(remark->kind) == kind};
            };
            FactButton seen = mark(QString("✓"), "seen", tr("Heard, and so it is"));
            if (!remark && c.followed == Followed::Yes) {
                // Ticked by itself, and paler than what was heard; a click makes it the user's own word.
                seen.checked = seen.by_itself = true;
                seen.tip = tr("The rebuild does so, too: ticked by itself. A click says that you have heard it.");
            }
            facts_->button(std::move(seen));
            facts_->button(mark(QString("?"), "question", tr("An open question, kept at its place")));
            QString tip = repeat ? tr("%1\nHear both bars in turn").arg(c.what) : tr("%1\nHear the bar before and this one in turn").arg(c.what);
            if (c.followed == Followed::No) tip += tr("\nThe rebuild does not do so yet.");
            facts_->button({.text = c.what,
                            .tip = tip,
                            .object = QString("%1%2").arg(repeat ? "change" : "move").arg(number),
                            .run =
                                [this, c] {
                                    if (c.other_end_s > c.other_start_s) session_.transport().hear_in_turn(c.start_s, c.end_s, c.other_start_s, c.other_end_s);
                                    else session_.transport().seek(c.start_s);
                                },
                            .compact = true,
                            .width = FactWidth::Shared,
                            .stretch = 1,
                            .from_left = true});
            facts_->button(mark(QString("×"), "dismissed", tr("There is no such change: take it off the list")));
        }
        const auto dismissed = std::count_if(changes.begin(), changes.end(), [&](const Change& c) {
            const Remark* m = c.repeat == repeat ? said(c) : nullptr;
            return m && m->kind == RemarkKind::Dismissed;
        });
        if (dismissed > 0)
            facts_->button(tr("Bring back %1 taken off").arg(dismissed), tr("Shows again what was dismissed"), [this, repeat] {
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

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/facts_panel.hpp"

#include "app/changes.hpp"
#include "app/command_registry.hpp"
#include "app/doubt_walk.hpp"
#include "app/facts_column.hpp"
#include "app/survey.hpp"
#include "app/words.hpp"
#include "commands/call.hpp"

#include <QAction>
#include <QScrollBar>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {
constexpr int kAfterwards_ms = 60;  ///< how long after an edit, and between one look and the next whether the hand has let go
}

FactsPanel::FactsPanel(Session& session, const CommandRegistry& commands, QWidget* parent) : QScrollArea(parent), session_(session), commands_(commands) {
    setFixedWidth(272);
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setAccessibleName(tr("Facts"));
    facts_ = new FactsColumn;
    setWidget(facts_);
    soon_.setSingleShot(true);
    connect(&soon_, &QTimer::timeout, this, &FactsPanel::tell_when_free);
    // Told after the event that caused it, since that event may come from a widget in here.
    const auto later = [this] {
        if (std::exchange(pending_, true)) return;
        waiting_.start();
        soon_.start(0);
    };
    connect(facts_, &FactsColumn::acted, this, later);
    // What was edited is drawn and heard first; what is told of it, or of what was chosen just before, follows a moment later.
    connect(&session_, &Session::document_changed, this, [this] {
        constexpr int kLongest_ms = 200;
        if (!std::exchange(pending_, true)) waiting_.start();
        else if (waiting_.elapsed() > kLongest_ms) return;
        soon_.start(kAfterwards_ms);
    });
    connect(&session_, &Session::selection_changed, this, later);
    // Rivals are rendered once what is open has been.
    connect(&session_, &Session::report_changed, this, [this, later] {
        const Part* part = session_.selection().part();
        if (part && !part->rivals.empty() && session_.rebuild_is_current() && rival_sounds_of_ != session_.documents().document()) later();
    });
    connect(&session_.survey(), &Survey::changed, this, later);
    connect(&session_.walk(), &DoubtWalk::changed, this, later);
    tell();
}

void FactsPanel::set_chord_tick(Ticks tick) {
    chord_tick_ = tick;
    tell();
}

void FactsPanel::focus_chord_name() {
    if (auto* edit = widget()->findChild<QLineEdit*>("chord_name")) {
        edit->setFocus();
        edit->selectAll();
    }
}

void FactsPanel::commands_row(std::initializer_list<std::pair<const char*, QString>> commands) {
    const auto line = facts_->line();
    for (const auto& [id, text] : commands)
        facts_->button({.text = text,
                        .tip = commands_.with_keys(commands_.sentence(id), id),
                        .object = id,
                        .run = [action = commands_.action(id)] { action->trigger(); },
                        .compact = true,
                        .width = FactWidth::Shared});
}

void FactsPanel::tell_again() {
    pending_ = true;
    tell_when_free();
}

void FactsPanel::tell_when_free() {
    if (!pending_) return;
    if (facts_->in_hand()) {
        soon_.start(kAfterwards_ms);
        return;
    }
    soon_.stop();
    tell();
}

void FactsPanel::tell() {
    pending_ = false;
    const ElementId id = session_.selection().element();
    const bool chords_too = id == ElementId::chords();
    const QString subject =
        session_.has_reference() ? QString::fromStdString(id.text()) + (chords_too ? QString(" %1").arg(chord_tick_) : QString()) : QString();
    const bool another = facts_->begin(subject);
    if (session_.has_reference()) {
        facts_->title(QString::fromStdString(session_.remake().element_name(id)));
        if (id == ElementId::tempo()) tempo();
        else if (id == ElementId::key()) key();
        else if (id == ElementId::sections()) sections();
        else if (chords_too) chords();
        else part();
        element_state();
    }
    facts_->end();
    if (another) verticalScrollBar()->setValue(0);
}

void FactsPanel::part() {
    const Part* p = session_.selection().part();
    if (!p) return;
    const PartId id = p->id;
    facts_->heading(tr("Name"));
    facts_->edit({.object = "part_name", .text = QString::fromStdString(p->name), .entered = [this, id](const QString& text) {
                      const Part* now = session_.remake().part(id);
                      const std::string name = text.trimmed().toStdString();
                      if (now && !name.empty() && name != now->name)
                          session_.documents().run(Line("part.rename").with("part", part_text(session_.remake(), id)).with("name", name));
                  }});
    if (const auto a = session_.recording().analysis; a && p->role == PartRole::Drums && !a->feel.drums.empty()) {
        facts_->heading(tr("Feel in the original"));
        for (const DrumFeel& d : a->feel.drums) {
            double offset = 0, velocity = 0, count = 0;
            for (const StepFeel& s : d.steps) offset += s.offset_ms * s.count, velocity += s.velocity * s.count, count += s.count;
            const double ms = offset / count;
            QString steps;
            for (const StepFeel& s : d.steps)
                steps += tr("%1 %2 ms, velocity %3\n")
                             .arg(1.0 + static_cast<double>(s.step) / a->feel.steps_per_beat, 0, 'f', 2)
                             .arg(s.offset_ms, 0, 'f', 0)
                             .arg(s.velocity, 0, 'f', 0);
            facts_->note(
                tr("%1: %2, velocity %3")
                    .arg(QString(drum_sound(d.kind).name),
                         std::abs(ms) < 2.0 ? QString(tr("on the grid")) : QString("%1 ms %2").arg(std::abs(ms), 0, 'f', 0).arg(ms > 0 ? "late" : "early"))
                    .arg(velocity / count, 0, 'f', 0),
                "Against the straight grid, by beat of the bar:\n" + steps.trimmed());
        }
    }
    doubts(*p);
    facts_->heading(tr("In the original"));
    facts_->button(
        tr("Hear it where it is clearest"), commands_.with_keys(tr("Loop the next of the moments in which it stands most alone"), "song.clearest"),
        [this] { session_.survey().next_clearest(); }, "clearest");
    for (const Remark& m : session_.remake().notebook->remarks)
        if (m.kind == RemarkKind::Clearest && m.element == ElementId(id))
            facts_->button(tr("Best heard at %1").arg(QString::fromStdString(place_text(session_.remake().song->meter, m.start))), tr("Loop it"), [this, m] {
                const TempoMap& tempo = session_.remake().song->tempo;
                session_.transport().set_loop(tempo.seconds(m.start), tempo.seconds(m.start + m.length));
                session_.transport().seek(session_.transport().loop_start());
            });
    if (session_.transport().loop_end() > session_.transport().loop_start())
        facts_->button(
            tr("Keep the loop as best heard"), tr("Remembers the looped place with this element"),
            [this, id] {
                const Song& song = *session_.remake().song;
                const Ticks from = song.tempo.nearest_tick(session_.transport().loop_start()), to = song.tempo.nearest_tick(session_.transport().loop_end());
                session_.documents().run(Line("remark.add")
                                             .with("kind", "clearest")
                                             .with("element", element_text(session_.remake(), id))
                                             .with("at", place_text(song.meter, from))
                                             .with("length", length_text(std::max<Ticks>(1, to - from))));
            },
            "keep_clearest");
    facts_->heading(tr("In the mix"));
    for (const Parameter& row : kPartFields) {
        const auto line = facts_->line();
        facts_->word(row.label, 1);
        facts_->field(session_, {id, row.id}, row);
    }
    sound_manners(*p);
    dips(*p);
    notes_of(*p);
}

void FactsPanel::element_state() {
    const ElementId id = session_.selection().element();
    const ElementState state = session_.remake().element(id);
    facts_->heading(tr("State"));
    facts_->choice({.object = "state",
                    .tip = tr("Confirming is your word: the program only drafts"),
                    .items = {{tr("open"), {}}, {tr("draft"), {}}, {tr("confirmed"), {}}, {tr("left out"), {}}},
                    .chosen = static_cast<int>(state.state),
                    .taken = [this, id](int i) {
                        session_.documents().run(
                            Line("element.note").with("element", element_text(session_.remake(), id)).with("state", state_name(static_cast<State>(i))));
                    }});
    const auto words = [&](const char* argument, const QString& placeholder, std::string ElementState::*of) {
        facts_->edit({.object = argument,
                      .text = QString::fromStdString(state.*of),
                      .placeholder = placeholder,
                      .entered = [this, id, argument, of](const QString& typed) {
                          if (const std::string text = typed.toStdString(); text != session_.remake().element(id).*of)
                              session_.documents().run(Line("element.note").with("element", element_text(session_.remake(), id)).with(argument, text));
                      }});
    };
    words("question", tr("? an open question, in your words"), &ElementState::question);
    words("intended", tr("≈ a difference you intend"), &ElementState::intended);
    words("reason", tr("why it is close enough, or left out"), &ElementState::reason);
    questions(id);
    time_for(id);
}

/// What is asked at places: gone to, worded anew, taken back.
void FactsPanel::questions(ElementId id) {
    const Remake& r = session_.remake();
    bool first = true;
    for (const Remark& m : r.notebook->remarks) {
        if (m.kind != RemarkKind::Question || m.element != id) continue;
        if (std::exchange(first, false)) facts_->heading(tr("Questions at places"));
        const std::string at = place_text(r.song->meter, m.start);
        const auto line = facts_->line();
        facts_->button({.text = QString::fromStdString(at),
                        .tip = tr("Go there and loop it"),
                        .object = "question.go",
                        .run =
                            [this, m] {
                                const TempoMap& tempo = session_.remake().song->tempo;
                                session_.transport().set_loop(tempo.seconds(m.start), tempo.seconds(m.start + std::max<Ticks>(m.length, kTicksPerQuarter)));
                                session_.transport().seek(session_.transport().loop_start());
                            },
                        .compact = true});
        facts_->edit({.object = "question.words",
                      .text = QString::fromStdString(m.words),
                      .placeholder = tr("what is unsure, and why"),
                      .entered =
                          [this, m, at](const QString& typed) {
                              const std::string text = typed.trimmed().toStdString();
                              if (text == m.words) return;
                              session_.documents().run(Line("remark.add")
                                                           .with("kind", "question")
                                                           .with("element", element_text(session_.remake(), m.element))
                                                           .with("at", at)
                                                           .with("length", length_text(m.length))
                                                           .with("words", text));
                          },
                      .stretch = 1});
        facts_->button({.text = "×",
                        .tip = tr("It is answered: the question goes; undo brings it back"),
                        .object = "question.answered",
                        .run =
                            [this, m, at] {
                                session_.documents().run(
                                    Line("remark.remove").with("kind", "question").with("element", element_text(session_.remake(), m.element)).with("at", at));
                            },
                        .compact = true,
                        .pixels = 24});
    }
}

/// What was spent on it, what it may take, and a way to stop once that is used up.
void FactsPanel::time_for(ElementId id) {
    constexpr double kMore_min = 10.0;
    const ElementState state = session_.remake().element(id);
    const double spent_min = session_.documents().spent_s(id) / 60.0;
    facts_->heading(tr("Time for it"));
    const auto give = [this, id](double minutes) {
        if (minutes != session_.remake().element(id).budget_min)
            session_.documents().run(
                Line("element.note").with("element", element_text(session_.remake(), id)).with("budget", QString::number(minutes).toStdString()), "budget");
    };
    {
        const auto line = facts_->line(5);
        facts_->word(spent_min >= 1.0 ? tr("%1 min of").arg(std::lround(spent_min)) : tr("up to"));
        facts_->number({.object = "budget",
                        .tip = tr("How long it may take; what was spent counts while it is chosen and something is being done.\nCheck ▸ What next says where "
                                  "time is worth most."),
                        .value = state.budget_min,
                        .low = 0,
                        .high = 600,
                        .step = 5,
                        .suffix = tr(" min"),
                        .entered = give,
                        .lowest = tr("no end"),
                        .stretch = 1});
    }
    if (!session_.documents().time_is_up(id) || state.state == State::Confirmed || state.state == State::LeftOut) return;
    facts_->value(tr("Its time is used up."));
    facts_->button(
        tr("Close enough"), tr("Confirms it, with this as the reason; undo takes it back"),
        [this, id] {
            Line line = Line("element.note").with("element", element_text(session_.remake(), id)).with("state", state_name(State::Confirmed));
            if (session_.remake().element(id).reason.empty()) line.with("reason", tr("close enough for its time").toStdString());
            session_.documents().run(line);
        },
        "close_enough");
    facts_->button(
        tr("%1 min more").arg(kMore_min), tr("It may take longer; undo takes it back"), [give, now = state.budget_min] { give(now + kMore_min); }, "more_time");
}

}  // namespace fw::app

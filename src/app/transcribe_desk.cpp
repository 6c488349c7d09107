// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/command_registry.hpp"
#include "app/desks.hpp"
#include "app/words.hpp"

#include "analysis/decoders.hpp"
#include "app/doubt_walk.hpp"
#include "app/play_bar.hpp"
#include "app/play_in.hpp"
#include "app/theme.hpp"
#include "audio/audio_file.hpp"
#include "commands/call.hpp"
#include "fit/moments.hpp"
#include "model/edits/phrasing.hpp"

#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QComboBox>
#include <QCursor>
#include <QEvent>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <algorithm>

namespace fw::app {

namespace {

struct GridRow {
    const char* name;
    Ticks step;
    enum { Straight, Swung, Heard } kind = Straight;
};
constexpr GridRow kGrids[] = {{"whole", 3840},
                              {"half", 1920},
                              {"quarter", 960},
                              {"quarter dotted", 1440},
                              {"quarter triplet", 640},
                              {"eighth", 480},
                              {"eighth swung", 480, GridRow::Swung},
                              {"eighth dotted", 720},
                              {"eighth triplet", 320},
                              {"sixteenth", 240},
                              {"sixteenth swung", 240, GridRow::Swung},
                              {"sixteenth triplet", 160},
                              {"five a quarter", 192},
                              {"seven a quarter", 137},
                              {"thirty-second", 120},
                              {"sixty-fourth", 60},
                              {"strokes heard", 240, GridRow::Heard},
                              {"off", 0}};
constexpr int kSixteenth = 9;

}  // namespace

TranscribeDesk::TranscribeDesk(Session& session, const CommandRegistry& commands, QWidget* parent) : QWidget(parent), session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    auto* tools = new QHBoxLayout;
    tools->setContentsMargins(12, 6, 12, 6);
    title_ = new QLabel;
    title_->setFont(text_font(10.5, true));
    tools->addWidget(title_);
    legend_ = new QLabel;
    legend_->setObjectName("heading");
    tools->addSpacing(12);
    tools->addWidget(legend_);
    name_inks();
    connect(&theme_teller(), &ThemeTeller::changed, this, &TranscribeDesk::name_inks);
    tools->addSpacing(8);
    tools->addStretch(1);
    tools->addWidget(new QLabel(tr("Grid")));
    tools->addSpacing(6);
    grid_ = new QComboBox;
    grid_->setObjectName("grid");
    grid_->setToolTip(tr("Where strokes snap to; while dragging or drawing Alt leaves it and Shift takes triplets of it"));
    for (const GridRow& row : kGrids) grid_->addItem(tr(row.name));
    grid_->setCurrentIndex(kSixteenth);
    grid_->setMaximumWidth(124);
    tools->addWidget(grid_);
    reach_ = new QComboBox;
    reach_->setObjectName("reach");
    reach_->setToolTip(
        commands.with_keys(tr("Whether an edit changes a note wherever its pattern plays, or only here, for which a variant is made"), "note.reach"));
    reach_->addItems({tr("everywhere"), tr("here only")});
    connect(reach_, &QComboBox::activated, this, [this](int i) { session_.selection().set_reach(i == 1 ? Reach::Here : Reach::Everywhere); });
    tools->addSpacing(8);
    tools->addWidget(new QLabel(tr("Edit")));
    tools->addSpacing(6);
    tools->addWidget(reach_);
    neighbours_ = new QCheckBox(tr("Others"));
    neighbours_->setObjectName("neighbours");
    neighbours_->setChecked(true);
    neighbours_->setToolTip(tr("The other parts' notes as thin lines"));
    tools->addSpacing(8);
    tools->addWidget(neighbours_);
    pitch_ = new QCheckBox(tr("Bends"));
    pitch_->setObjectName("draw_pitch");
    pitch_->setToolTip(commands.with_keys(
        tr("A drag along a note draws its bend, a row a semitone; it arrives on the semitone nearby, with Alt it stays where it is drawn"), "note.draw-pitch"));
    tools->addSpacing(8);
    tools->addWidget(pitch_);
    read_ = new QComboBox;
    read_->setObjectName("read_as");
    read_->setToolTip(tr("How the drums' bars are drawn; nothing is changed"));
    read_->addItems({tr("bars as counted"), tr("in half time"), tr("in double time")});
    tools->addSpacing(8);
    tools->addWidget(read_);
    tools->addSpacing(6);
    const auto zoom = [&](const char* text, double factor, const QString& tip) {
        auto* b = new QPushButton(text);
        b->setToolTip(tip);
        b->setFixedWidth(30);
        connect(b, &QPushButton::clicked, this, [this, factor] {
            if (auto* c = current()) c->zoom(factor, c->width() / 2.0);
        });
        tools->addWidget(b);
    };
    zoom("−", 0.8, tr("Show more time (Ctrl+wheel)"));
    zoom("+", 1.25, tr("Show less time (Ctrl+wheel)"));
    column->addLayout(tools);
    column->addWidget(play_ = new PlayBar(session));
    stack_ = new QStackedWidget;
    stack_->addWidget(notes_ = new NoteCloseUp(session));
    stack_->addWidget(drums_ = new DrumCloseUp(session));
    stack_->addWidget(chords_ = new ChordCloseUp(session));
    empty_ = new QLabel(tr("Select the chords or a part in the ledger to see it large here."));
    empty_->setAlignment(Qt::AlignCenter);
    stack_->addWidget(empty_);
    column->addWidget(stack_, 1);
    connect(grid_, &QComboBox::currentIndexChanged, this, &TranscribeDesk::take_grid);
    connect(neighbours_, &QCheckBox::toggled, notes_, &CloseUp::set_neighbours);
    connect(pitch_, &QCheckBox::toggled, notes_, &NoteCloseUp::set_draws_pitch);
    connect(read_, &QComboBox::currentIndexChanged, this, [this](int i) {
        drums_->draw_bars(i == 1 ? DrawnBars::HalfTime : i == 2 ? DrawnBars::DoubleTime : DrawnBars::AsCounted);
    });
    for (QWidget* view : {static_cast<QWidget*>(notes_), static_cast<QWidget*>(drums_), static_cast<QWidget*>(chords_)}) play_->listen_in(*view);
    connect(&session_, &Session::selection_changed, this, &TranscribeDesk::follow);
    connect(&session_, &Session::document_changed, this, &TranscribeDesk::follow);
    follow();
}

void TranscribeDesk::name_inks() {
    legend_->setText(
        tr("<span style='color:%1'>■</span> original &nbsp; <span style='color:%2'>▨</span> yours").arg(theme().original.name(), theme().rebuild.name()));
}

CloseUp* TranscribeDesk::current() const { return qobject_cast<CloseUp*>(stack_->currentWidget()); }

void TranscribeDesk::follow() {
    const Part* part = session_.selection().part();
    reach_->setCurrentIndex(session_.selection().reach() == Reach::Here ? 1 : 0);
    title_->setText(session_.has_reference() ? QString::fromStdString(session_.remake().element_name(session_.selection().element())) : QString());
    QWidget* wanted = session_.selection().element() == ElementId::chords() ? static_cast<QWidget*>(chords_)
                      : !part                                               ? static_cast<QWidget*>(empty_)
                      : part->role == PartRole::Drums                       ? static_cast<QWidget*>(drums_)
                                                                            : static_cast<QWidget*>(notes_);
    if (!session_.has_reference()) wanted = notes_;
    neighbours_->setVisible(wanted == notes_);
    pitch_->setVisible(wanted == notes_);
    read_->setVisible(wanted == drums_);
    if (stack_->currentWidget() == wanted) return;
    // The new close-up opens where the last one stood.
    const CloseUp* before = current();
    const double at = before ? before->time_at(CloseUp::kLeft) : 0.0;
    stack_->setCurrentWidget(wanted);
    if (auto* now = current()) now->show_from(at);
}

void TranscribeDesk::take_grid() {
    const GridRow& row = kGrids[std::clamp(grid_->currentIndex(), 0, static_cast<int>(std::size(kGrids)) - 1)];
    const double swing = row.kind == GridRow::Swung ? session_.remake().song->swing_ratio : 0.5;
    for (CloseUp* c : {static_cast<CloseUp*>(notes_), static_cast<CloseUp*>(drums_), static_cast<CloseUp*>(chords_)})
        c->set_grid(row.step, swing, row.kind == GridRow::Heard);
    session_.play_in().set_step(row.step > 0 ? row.step : kTicksPerQuarter / 4);
}

bool TranscribeDesk::on_notes(const char* command, const std::vector<std::pair<const char*, std::string>>& arguments) {
    const Part* part = session_.selection().part();
    if (!part || session_.selection().notes().empty()) {
        emit session_.told(tr("Choose notes first: click one, or drag around several."));
        return false;
    }
    Line line = session_.selection().on_notes(command, session_.remake(), part->id);
    for (const auto& [name, value] : arguments) line.with(name, value);
    return session_.documents().run(line);
}

void TranscribeDesk::remove_selected() {
    if (session_.walk().current()) return session_.walk().remove();
    if (!session_.selection().notes().empty() && on_notes("note.remove")) session_.selection().select_notes({});
}

void TranscribeDesk::transpose(int semitones) {
    if (current() == notes_) notes_->transpose_selected(semitones);
}

void TranscribeDesk::nudge(int direction) {
    const Part* part = session_.selection().part();
    if (part && !session_.selection().notes().empty()) session_.selection().nudge(part->id, direction * (kTicksPerQuarter / 64));
}

void TranscribeDesk::quantise() {
    const GridRow& row = kGrids[std::clamp(grid_->currentIndex(), 0, static_cast<int>(std::size(kGrids)) - 1)];
    if (session_.selection().notes().empty() || row.step <= 0) return;
    if (row.kind == GridRow::Swung)
        on_notes("note.quantise", {{"grid", length_text(row.step)}, {"swing", std::to_string(std::clamp(session_.remake().song->swing_ratio, 0.5, 0.75))}});
    else on_notes("note.quantise", {{"grid", length_text(row.step)}});
}

void TranscribeDesk::straighten() {
    const Part* part = session_.selection().part();
    if (!part) return;
    const auto notes = notes_meant(*part, session_.selection().notes());
    if (std::any_of(notes.begin(), notes.end(), [](const PlacedNote& n) { return !n.note.bend->empty(); })) on_notes("note.straighten");
}

void TranscribeDesk::take_pitch() {
    constexpr std::size_t kMost = 64;
    const Part* part = session_.selection().part();
    if (!part || session_.selection().notes().empty()) {
        emit session_.told(tr("Choose notes first: they are given the pitch they have in the original."));
        return;
    }
    if (part->role == PartRole::Drums) {
        emit session_.told(tr("Strokes have no pitch to follow: choose notes of another part."));
        return;
    }
    if (!session_.recording().sound || !session_.recording().analysis) {
        emit session_.told(tr("The recording is still being read: try again in a moment."));
        return;
    }
    const auto notes = notes_meant(*part, session_.selection().notes());
    if (notes.size() > kMost) {
        emit session_.told(tr("Choose at most %1 notes: each is listened to on its own.").arg(kMost));
        return;
    }
    jobs_.run("pitch", tr("listening to notes"),
              [this, notes, id = part->id, document = session_.documents().document(), sound = session_.recording().sound,
               tuning = session_.recording().analysis->evidence->tuning.cents]() -> JobQueue::Work {
                  return [=, this](const Progress& progress) -> Result<JobQueue::Delivery> {
                      constexpr double kAround_s = 0.6;  // less than a second is no recording
                      const TempoMap& tempo = document->song->tempo;
                      std::vector<Line> lines;
                      std::size_t straight = 0, unclear = 0;
                      for (const PlacedNote& n : notes) {
                          progress.checkpoint();
                          const double from_s = tempo.seconds(n.note.start), to_s = tempo.seconds(n.note.start + n.note.length);
                          const double begin_s = std::max(0.0, from_s - kAround_s);
                          const auto mono = make_mono(cut_out(*sound, begin_s, to_s + kAround_s), "a note");
                          HeardNote heard;
                          heard.onset_s = from_s - begin_s, heard.duration_s = to_s - from_s, heard.pitch = n.note.pitch;
                          const auto way = mono ? hear_pitch(*mono, tuning, heard) : std::nullopt;
                          if (!way) {
                              ++unclear;
                              continue;
                          }
                          straight += way->empty();
                          if (way->empty() && n.note.bend->empty()) continue;
                          Line line(way->empty() ? "note.straighten" : "note.bend");
                          line.with("part", part_text(*document, id)).with("notes", note_text(*document, n));
                          if (!way->empty()) {
                              std::string points;
                              Ticks last = -1;
                              for (const HeardBend& b : *way) {
                                  const Ticks at = std::clamp<Ticks>(tempo.nearest_tick(from_s + b.offset_s) - n.note.start, 0, n.note.length);
                                  if (at <= last) continue;
                                  last = at;
                                  if (!points.empty()) points += ' ';
                                  points.append(std::to_string(at)).append(1, ':').append(std::to_string(std::lround(b.cents)));
                              }
                              line.with("points", points);
                          }
                          lines.push_back(std::move(line));
                      }
                      return JobQueue::Delivery([this, document, lines, straight, unclear, asked = notes.size()] {
                          if (document != session_.documents().document()) return;  // it was edited meanwhile: ask again
                          std::size_t given = 0;
                          for (Line line : lines) {
                              if (session_.selection().reach() == Reach::Here) line.with("reach", "here");
                              given += session_.documents().run(line, "pitch as in the original");
                          }
                          session_.documents().end_gesture();
                          QString sentence = tr("%1 of %2 notes: pitch as in the original").arg(asked - unclear).arg(asked);
                          if (straight > 0) sentence += tr(", %1 of them straight and in tune").arg(straight);
                          if (unclear > 0) sentence += tr("; %1 not heard clearly enough, and left").arg(unclear);
                          emit session_.told(sentence + ".");
                      });
                  };
              });
}

void TranscribeDesk::toggle_draws_pitch() {
    if (current() == notes_) pitch_->toggle();
}

void TranscribeDesk::select_all() {
    const Part* part = session_.selection().part();
    if (!part) return;
    std::vector<NoteRef> all;
    for (const PlacedNote& n : session_.documents().placed(*part)) all.push_back(n.ref());
    session_.selection().select_notes(std::move(all));
}

void TranscribeDesk::select_alternate_bars() {
    const Part* part = session_.selection().part();
    if (!part) return;
    const auto notes = notes_meant(*part, session_.selection().notes());
    if (notes.empty()) return;
    const MeterMap& meter = session_.remake().song->meter;
    const auto bar_of = [&](const PlacedNote& n) { return meter.position(n.note.start + kTicksPerQuarter / 8).bar; };
    const int first = bar_of(notes.front());
    std::vector<NoteRef> some;
    for (const PlacedNote& n : notes)
        if ((bar_of(n) - first) % 2 == 0) some.push_back(n.ref());
    session_.selection().select_notes(std::move(some));
}

void TranscribeDesk::split() {
    const Part* part = session_.selection().part();
    CloseUp* view = current();
    if (!part || !view) return;
    const QPointF pointer = view->mapFromGlobal(QCursor::pos());
    const auto under = view == notes_ && view->rect().contains(pointer.toPoint()) ? notes_->note_at(pointer) : std::nullopt;
    if (under && session_.selection().notes().empty()) session_.selection().select_notes({under->ref()});
    const Ticks at = under ? view->tick_at(pointer.x()) : session_.remake().song->tempo.nearest_tick(session_.transport().position_s());
    on_notes("note.split", {{"at", place_text(session_.remake().song->meter, at)}});
}

void TranscribeDesk::repeat(bool to_the_end) {
    const Part* part = session_.selection().part();
    if (!part) return;
    const auto notes = notes_meant(*part, session_.selection().notes());
    if (notes.empty()) {
        on_notes("note.copy");
        return;
    }
    // As far as they reach: whole bars, or whole beats where they stay within one bar and its half.
    const MeterMap& meter = session_.remake().song->meter;
    Ticks end = 0;
    for (const PlacedNote& n : notes) end = std::max(end, n.note.start + std::min(n.note.length, kTicksPerQuarter / 8));
    const int bar = meter.position(notes.front().note.start).bar;
    const Ticks begin = meter.tick_of_bar(bar), beat = meter.at_bar(bar).beat_ticks(), whole = meter.at_bar(bar).bar_ticks();
    const Ticks first_beat = begin + (notes.front().note.start - begin + beat / 8) / beat * beat, beats = (end - first_beat + beat - 1) / beat;
    const Ticks by = beats * beat * 2 <= whole ? std::max(beat, beats * beat) : (end - begin + whole - 1) / whole * whole;
    if (!to_the_end) {
        on_notes("note.copy", {{"by", length_text(by)}});
        return;
    }
    const int section = session_.remake().song->section_at(notes.front().note.start);
    if (section < 0) {
        emit session_.told(tr("These notes lie in no section: there is no end to repeat them to."));
        return;
    }
    const Section& s = session_.remake().song->sections[static_cast<std::size_t>(section)];
    on_notes("note.copy", {{"by", length_text(by)}, {"until", place_text(meter, s.start + s.length)}});
}

void TranscribeDesk::mute_or_not() {
    const Part* part = session_.selection().part();
    if (!part) return;
    const auto notes = notes_meant(*part, session_.selection().notes());
    const bool all = !notes.empty() && std::all_of(notes.begin(), notes.end(), [](const PlacedNote& n) { return n.note.muted; });
    on_notes("note.mute", {{"on", all ? "off" : "on"}});
}

void TranscribeDesk::toggle_play_bar() { play_->setVisible(!play_->isVisible()); }

void TranscribeDesk::record() {
    play_->show();
    session_.play_in().record(!session_.play_in().recording());
}

void TranscribeDesk::copy() {
    const Part* part = session_.selection().part();
    if (!part) return;
    std::vector<Note> copied;
    for (const PlacedNote& p : notes_meant(*part, session_.selection().notes())) copied.push_back(p.note);
    if (copied.empty()) return;
    const MeterMap& meter = session_.remake().song->meter;
    QApplication::clipboard()->setText(QString::fromStdString(written_text(copied, meter.tick_of_bar(meter.position(copied.front().start).bar))));
}

void TranscribeDesk::paste() {
    const Part* part = session_.selection().part();
    // What was copied here, or anywhere as text; by bar: it comes to lie in the playhead's bar as it lay in its own.
    const QString text = QApplication::clipboard()->text();
    if (!part || text.isEmpty()) return;
    const MeterMap& meter = session_.remake().song->meter;
    const int bar = meter.position(session_.remake().song->tempo.nearest_tick(session_.transport().position_s()) + kTicksPerQuarter / 8).bar;
    Line line("note.write");
    line.with("part", part_text(session_.remake(), part->id)).with("at", std::to_string(bar)).with("notes", text.toStdString());
    if (session_.selection().reach() == Reach::Here) line.with("reach", "here");
    session_.documents().run(line);
}

}  // namespace fw::app

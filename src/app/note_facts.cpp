// SPDX-License-Identifier: GPL-3.0-or-later
// The facts of a part's notes: what is doubtful, what is chosen, what repeats, what is made of the chords.
#include "analysis/like_stretches.hpp"
#include "analysis/partials.hpp"
#include "app/calm_combo.hpp"
#include "app/command_registry.hpp"
#include "app/derive_panel.hpp"
#include "app/doubt_walk.hpp"
#include "app/facts_panel.hpp"
#include "app/number_field.hpp"
#include "app/painting.hpp"
#include "app/sheet_widgets.hpp"
#include "app/survey.hpp"
#include "app/words.hpp"
#include "audio/mono.hpp"
#include "base/pitch.hpp"
#include "check/share.hpp"
#include "fit/moments.hpp"
#include "model/chord_words.hpp"
#include "model/edits/parts.hpp"
#include "model/edits/patterns.hpp"
#include "model/edits/phrasing.hpp"

#include <QCheckBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {

QString sound_or_note(int pitch, bool drums, bool flats) {
    if (!drums) return QString::fromStdString(note_name(pitch, flats));
    const DrumSound* sound = drum_sound_of_key(pitch);
    return sound ? tr(sound->name) : tr("key %1").arg(pitch);
}

/// How far a part's notes are heard in the original; nothing where they cannot be compared.
std::optional<double> notes_figure(const CheckReport& report, PartId part) {
    for (const ElementMatch& m : report.elements)
        if (m.id == ElementId(part)) return m.match.notes;
    return std::nullopt;
}

}  // namespace

void FactsPanel::tool(const QString& text, const QString& tip, const QString& object, const std::vector<Number>& numbers,
                      std::function<void(const std::vector<double>&)> run) {
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    auto* b = new QPushButton(text);
    b->setObjectName(object);
    b->setProperty("compact", true);
    b->setToolTip(tip);
    row->addWidget(b, 1);
    std::vector<NumberField*> fields;
    std::vector<std::string> keys;
    for (const Number& n : numbers) {
        const std::string key = object.toStdString() + "." + n.name;
        const auto kept = how_.find(key);
        auto* field = new NumberField(kept == how_.end() ? n.value : kept->second, n.low, n.high, n.step, n.suffix, n.decimals);
        field->setObjectName(QString::fromStdString(key));
        field->setToolTip(n.tip);
        field->setFixedWidth(76);
        connect(field, &QDoubleSpinBox::valueChanged, this, [this, key](double v) { how_[key] = v; });
        row->addWidget(field);
        fields.push_back(field);
    }
    connect(b, &QPushButton::clicked, this, [fields, run = std::move(run)] {
        std::vector<double> values;
        for (const NumberField* f : fields) values.push_back(f->value());
        run(values);
    });
    column_->addLayout(row);
}

void FactsPanel::doubts(const Part& part) {
    if (session_.provisional()) return;
    DoubtWalk& walk = session_.walk();
    const bool drums = part.role == PartRole::Drums;
    heading(tr("Doubtful"));
    const auto missing = std::count_if(walk.doubts().begin(), walk.doubts().end(), [](const Doubt& d) { return !d.note; });
    const auto doubtful = static_cast<std::ptrdiff_t>(walk.doubts().size()) - missing;
    if (!session_.report()) {
        note(tr("being checked"));
        return;
    }
    if (walk.doubts().empty()) note(drums ? tr("no hit is doubtful, none seems to be missing") : tr("no note is doubtful, none seems to be missing"));
    else note(tr("%1 %2 are doubtful, %3 may be missing").arg(doubtful).arg(drums ? tr("hits") : tr("notes")).arg(missing));
    const Doubt* d = walk.current();
    if (!d) {
        if (!walk.doubts().empty()) commands_row({{"doubt.next", tr("Hear them one by one")}});
        return;
    }
    const bool flats = session_.remake().song->flats_at(d->shown.start);
    value(tr("%1 of %2: %3 at %4")
              .arg(walk.index() + 1)
              .arg(walk.doubts().size())
              .arg(sound_or_note(d->shown.pitch, drums, flats), QString::fromStdString(place_text(session_.remake().song->meter, d->shown.start))));
    note(d->note ? tr("written; %1 likely to be right").arg(percent_text(d->right))
                 : tr("not written; %1 likely to be missing").arg(percent_text(1.0 - d->right)));
    if (d->masked != Masked::Not)
        note(d->masked == Masked::ByItsOctave    ? tr("hidden under what sounds an octave below")
             : d->masked == Masked::ByItsTwelfth ? tr("hidden under what sounds a twelfth below")
                                                 : tr("hidden in a chord"));
    for (std::size_t i = 0; i < d->alternatives.size(); ++i) {
        const Alternative& a = d->alternatives[i];
        QString text = QString("%1   %2").arg(sound_or_note(a.pitch, drums, flats), tr("heard %1").arg(percent_text(a.heard)));
        if (a.written) text += tr(", as written");
        else if (!a.also.empty()) text += tr(", in %1").arg(QString::fromStdString(a.also));
        auto* b = new QPushButton(text);
        b->setObjectName(QString("candidate%1").arg(i));
        b->setCheckable(true);
        b->setChecked(walk.candidate() == i);
        b->setToolTip(commands_.with_keys(tr("Hear it over the original, where it would be played"), "doubt.try"));
        connect(b, &QPushButton::clicked, this, [this, i] { session_.walk().try_candidate(i); });
        column_->addWidget(b);
    }
    commands_row({{"doubt.take", tr("Take")}, {"doubt.accept", d->note ? tr("Right") : tr("Nothing")}, {"doubt.question", tr("?")}});
    commands_row({{"doubt.previous", tr("Back")}, {"doubt.next", tr("Next")}, {"doubt.end", tr("End")}});
}

void FactsPanel::notes_of(const Part& p) {
    const bool drums = p.role == PartRole::Drums;
    const auto& all = session_.documents().placed(p);
    std::size_t accepted = 0, muted = 0, adrift = 0;
    for (const PlacedNote& n : all)
        accepted += n.note.accepted, muted += n.note.muted, adrift += n.note.origin != Origin::Heard && left_out_of_tune(n.note) != 0.0;
    heading(tr("Notes"));
    QString text = tr("%1 %2").arg(all.size()).arg(drums ? tr("hits") : tr("notes"));
    if (accepted) text += tr(", %1 accepted").arg(accepted);
    if (muted) text += tr(", %1 muted").arg(muted);
    note(text);
    if (adrift) note(tr("%1 end off any semitone: a glide that does not arrive, or a bend left out of tune").arg(adrift));
    chosen_notes(p);
    patterns(p);
    rivals(p);
    if (!drums) from_chords(p);
    else ready(p);
    grooves(p);
}

void FactsPanel::chosen_notes(const Part& p) {
    const PartId id = p.id;
    const bool drums = p.role == PartRole::Drums;
    const auto notes = notes_meant(p, session_.selection().notes());
    if (notes.empty()) return;
    if (notes.size() == 1) {
        const Note& n = notes.front().note;
        const bool flats = session_.remake().song->flats_at(n.start);
        note(QString("%1 at %2").arg(sound_or_note(n.pitch, drums, flats), QString::fromStdString(session_.remake().song->meter.position(n.start).text())));
        note(tr("velocity %1, length %2 beats, %3")
                 .arg(n.velocity)
                 .arg(static_cast<double>(n.length) / kTicksPerQuarter, 0, 'f', 2)
                 .arg(n.origin == Origin::Heard      ? tr("heard, %1 sure").arg(percent_text(n.confidence))
                      : n.origin == Origin::Imported ? tr("imported")
                      : n.origin == Origin::Played   ? tr("played")
                                                     : tr("drawn")));
        if (!drums) partials(id, n);
        if (const double off = left_out_of_tune(n); off != 0.0 && n.origin != Origin::Heard)
            note(tr("ends %1 cents off the nearest semitone").arg(off, 0, 'f', 0));
    } else {
        note(tr("%1 selected").arg(notes.size()));
    }
    if (!drums && notes.size() > 1) {
        std::vector<int> pitches;
        for (const PlacedNote& n : notes) pitches.push_back(n.note.pitch);
        const bool flats = session_.remake().song->flats_at(notes.front().note.start);
        int i = 0;
        for (const auto& [chord, fit] : chords_of_notes(pitches, 3)) {
            const Ticks from = notes.front().note.start;
            Ticks to = from;
            for (const PlacedNote& n : notes) to = std::max(to, n.note.start + n.note.length);
            button(
                tr("%1   fits %2").arg(QString::fromStdString(chord.name(flats)), percent_text(fit)), tr("Write this chord there, as long as the notes last"),
                [this, c = chord, from, to] {
                    const MeterMap& meter = session_.remake().song->meter;
                    const Ticks beat = meter.at_bar(meter.position(from).bar).beat_ticks();
                    const auto onto = [beat](Ticks t) { return (t + beat / 2) / beat * beat; };
                    session_.documents().run(Line("chord.set")
                                                 .with("at", place_text(meter, onto(from)))
                                                 .with("chord", c.label())
                                                 .with("length", length_text(std::max(beat, onto(to) - onto(from)))));
                },
                QString("named%1").arg(i++));
        }
    }
    const auto run = [this, id](const char* command, std::initializer_list<std::pair<const char*, std::string>> arguments) {
        Line line = session_.selection().on_notes(command, session_.remake(), id);
        for (const auto& [name, text] : arguments) line.with(name, text);
        session_.documents().run(line);
    };
    const auto whole = [](double v) { return std::to_string(std::lround(v)); };
    const auto real = [](double v) { return QString::number(v, 'f', 3).toStdString(); };
    tool(tr("Velocity"), tr("Plays the chosen notes harder or softer"), "velocity", {{"by", 4, -100, 100, 4, "", tr("By how much")}}, [=](const auto& v) {
        run("note.change", {{"velocity", whole(v[0])}});
    });
    tool(tr("Nudge"), tr("Plays them later; negative earlier"), "nudge", {{"ms", 5, -500, 500, 1, tr(" ms"), tr("Milliseconds")}}, [=](const auto& v) {
        run("note.change", {{"ms", real(v[0])}});
    });
    tool(tr("Quantise"), tr("To sixteenths, flams keep together; Q takes the grid above"), "quantise",
         {{"strength", 100, 0, 100, 5, " %", tr("How far towards the grid")},
          {"window", 0, 0, 120, 5, tr(" ticks"), tr("What is farther off than so many ticks is meant so; 0: nothing is")}},
         [=](const auto& v) {
             run("note.quantise", {{"grid", "1/16"}, {"strength", real(v[0] / 100.0)}, {"window", whole(v[1]) + " ticks"}});
         });
    tool(tr("Humanise"), tr("By chance, another throw each time"), "humanise",
         {{"range", 8, 0, 120, 1, tr(" ticks"), tr("Ticks at most to either side")}, {"velocity", 6, 0, 60, 1, "", tr("Velocity at most to either side")}},
         [this, run, whole](const std::vector<double>& v) {
             run("note.humanise", {{"range", whole(v[0]) + " ticks"}, {"velocity", whole(v[1])}, {"seed", whole(++how_["humanise.seed"])}});
         });
    if (!drums) {
        tool(tr("Space"), tr("How much of the time to the next note is held, and what is left free before it"), "space",
             {{"share", 100, 5, 100, 5, " %", tr("100 % is legato")}, {"gap", 30, 0, 480, 10, tr(" ticks"), tr("Ticks left free")}}, [=](const auto& v) {
                 run("note.space", {{"share", real(v[0] / 100.0)}, {"gap", whole(v[1]) + " ticks"}});
             });
        tool(tr("Glide"), tr("Into the next note, whose pitch it reaches as that begins"), "glide",
             {{"time", 240, 10, 1920, 10, tr(" ticks"), tr("Ticks it takes")}}, [=](const auto& v) {
                 run("note.glide", {{"time", whole(v[0]) + " ticks"}});
             });
        tool(tr("Vibrato"), tr("A wave of the pitch"), "vibrato",
             {{"depth", 25, 0, 200, 5, " c", tr("Cents to either side")}, {"rate", 5.5, 0.5, 12, 0.1, " Hz", tr("Waves a second"), 1}}, [=](const auto& v) {
                 run("note.vibrato", {{"depth", real(v[0])}, {"rate", real(v[1])}});
             });
    }
    if (!drums)
        for (const auto& other : session_.remake().parts)
            if (other->role == PartRole::Drums) {
                tool(tr("Lock to the kick"), tr("Each note onto the nearest kick"), "lock",
                     {{"window", 120, 5, 480, 5, tr(" ticks"), tr("What is farther off than so many ticks stays")}},
                     [=, name = part_text(session_.remake(), other->id)](const auto& v) {
                         run("note.lock", {{"to", name}, {"sound", "Kick"}, {"window", whole(v[0]) + " ticks"}});
                     });
                break;
            }
    tool(tr("Roll"), tr("Strikes each so many times, growing from soft to its velocity; 1 for once"), "roll",
         {{"strokes", 4, 1, 64, 1, "×", tr("Strokes")}, {"apart", 120, 5, 960, 5, tr(" ticks"), tr("Ticks from one to the next")}}, [=](const auto& v) {
             run("note.roll", {{"strokes", whole(v[0])}, {"apart", whole(v[1]) + " ticks"}, {"first", "40"}});
         });
    tool(tr("Play at another rate"), tr("From where the first of them begins: 2 is twice as fast, 0.5 half as fast"), "rate",
         {{"times", 2, 0.125, 8, 0.5, "×", tr("How fast")}}, [=](const auto& v) {
             run("note.rate", {{"times", real(v[0])}});
         });
    send_to(p);
    throws(id);
}

/// What a note is in Hz, and which of its partials stand out where the original plays it: heard through the element's lens, off the window's thread, once for
/// each note that is asked for.
void FactsPanel::partials(PartId part, const Note& n) {
    const Song& song = *session_.remake().song;
    const double hz = hertz_of(n.pitch + song.tuning_cents / 100.0);
    const auto told = [&](const QString& what) {
        note(tr("%1 Hz in the original's tuning%2").arg(hz, 0, 'f', 1).arg(what),
             tr("Measured in the original through the lens of this element while the note lasts, at most a second, against the strongest of them"));
    };
    constexpr double kLongest_s = 1.0;
    const double from_s = std::max(0.0, song.tempo.seconds(n.start)), to_s = std::min(from_s + kLongest_s, song.tempo.seconds(n.start + n.length));
    const AskedNote asked{part, n.pitch, from_s, to_s};
    if (partials_of_ == asked) return told(partials_);
    told(QString());
    const RecordingStore& recording = session_.recording();
    if (!recording.sound || !recording.analysis) return;
    jobs_.run(
        "partials", tr("listening to a note"),
        [this, asked, hz, document = session_.documents().document(), sound = recording.sound, analysis = recording.analysis]() -> JobQueue::Work {
            return [this, asked, hz, document, sound, analysis](const Progress&) -> Result<JobQueue::Delivery> {
                const Audio piece = cut_out(*sound, asked.from_s, asked.to_s, share_of(*analysis, *document, ElementId(asked.part)));
                auto all = standing_partials(mono_of(piece), piece.sample_rate_hz, hz);
                std::stable_sort(all.begin(), all.end(), [](const Partial& a, const Partial& b) { return a.db > b.db; });
                QStringList strongest;
                constexpr std::size_t kMost = 5;
                for (const Partial& p : std::span(all).first(std::min(kMost, all.size()))) strongest << tr("%1 (%2 dB)").arg(p.number).arg(p.db, 0, 'f', 0);
                const QString text =
                    strongest.isEmpty() ? tr("; none of its partials stands out there") : tr("; of its partials stand out %1").arg(strongest.join(", "));
                return JobQueue::Delivery([this, asked, text] {
                    partials_of_ = asked;
                    partials_ = text;
                    pending_ = true;
                    rebuild_when_free();
                });
            };
        },
        {}, JobQueue::Pace::Patient);
}

/// The chosen notes for another part to play: a line over two sounds, a chord over several instruments.
void FactsPanel::send_to(const Part& p) {
    auto* menu = new QMenu;
    for (const bool keep : {false, true}) {
        for (const auto& other : session_.remake().parts) {
            if (other->id == p.id || (other->role == PartRole::Drums) != (p.role == PartRole::Drums)) continue;
            const QString name = QString::fromStdString(other->name);
            menu->addAction(keep ? tr("Also %1").arg(name) : tr("%1 in its place").arg(name), this,
                            [this, id = p.id, keep, into = part_text(session_.remake(), other->id)] {
                                Line line = session_.selection().on_notes("note.send", session_.remake(), id);
                                line.with("into", into);
                                if (keep) line.with("keep", "on");
                                session_.documents().run(line);
                            });
        }
        if (!keep && !menu->isEmpty()) menu->addSeparator();
    }
    if (menu->isEmpty()) {
        delete menu;
        return;
    }
    column_->addWidget(
        menu_button(tr("Played by another part"), tr("Some notes of a line on another sound, or the tones of a chord over several parts"), "send_to", menu));
}

/// A send opened for the chosen notes only: to each bus there is, or to an echo made for it.
void FactsPanel::throws(PartId id) {
    const auto open_to = [this, id](const std::string& bus, double level_db) {
        const Remake& r = session_.remake();
        const Part* p = r.part(id);
        if (!p) return;
        session_.documents().run(Line("send.throw")
                                     .with("part", part_text(r, id))
                                     .with("bus", bus)
                                     .with("level", QString::number(level_db, 'f', 1).toStdString())
                                     .with("notes", notes_text(r, *p, session_.selection().notes())),
                                 "throw");
        session_.documents().end_gesture();
    };
    const QString tip = tr("Opens the send for as long as these notes sound and leaves it closed elsewhere in their sections");
    constexpr std::size_t kMost = 3;
    const auto& buses = session_.remake().mixer->buses;
    for (std::size_t i = 0; i < std::min(kMost, buses.size()); ++i)
        tool(tr("Throw to %1").arg(QString::fromStdString(buses[i].name)), tip, QString("throw%1").arg(i),
             {{"level", 0, -40, 12, 1, tr(" dB"), tr("How far the send opens")}},
             [open_to, name = bus_text(session_.remake(), buses[i].id)](const auto& v) { open_to(name, v[0]); });
    if (buses.empty())
        tool(tr("Throw into an echo"), tip + tr(". A bus with a delay is made for it"), "throw_new",
             {{"level", 0, -40, 12, 1, tr(" dB"), tr("How far the send opens")}}, [this, open_to](const auto& v) {
                 session_.documents().end_gesture();
                 if (!session_.documents().run(Line("bus.add").with("name", "Echo"), "throw")) return;
                 session_.documents().run(Line("step.add").with("bus", "Echo").with("kind", kDelay.id).with("mix", "100%"), "throw");
                 open_to("Echo", v[0]);
             });
}

void FactsPanel::patterns(const Part& p) {
    if (p.placements.empty()) return;
    const PartId id = p.id;
    heading(tr("Patterns"));
    const auto own = std::count_if(p.patterns.begin(), p.patterns.end(), [](const auto& x) { return !x->parent; });
    const auto changed = variations(p);
    note(tr("%1 patterns, placed %2 times, %3 of them changed").arg(own).arg(p.placements.size()).arg(changed.size()));
    button(
        tr("Find what repeats"),
        tr("Folds the part into patterns: what most repeats have is written once, what differs becomes a variant. Undo takes it back."),
        [this, id] {
            Line line("pattern.find");
            line.with("part", part_text(session_.remake(), id));
            if (how_["keep_timing"] > 0.0) line.with("timing", "keep");
            session_.documents().run(line);
        },
        "find_patterns");
    auto* keep = new QCheckBox(tr("Each repeat keeps its timing"));
    keep->setObjectName("keep_timing");
    keep->setToolTip(tr("Else a repeat is played as most of them are"));
    keep->setChecked(how_["keep_timing"] > 0.0);
    connect(keep, &QCheckBox::toggled, this, [this](bool on) { how_["keep_timing"] = on; });
    column_->addWidget(keep);
    spreading(p);
    constexpr std::size_t kMost = 8;
    for (std::size_t i = 0; i < std::min(kMost, changed.size()); ++i) {
        const Variation& v = changed[i];
        const Placement* place = p.placement(v.placement);
        const Pattern* pattern = place ? p.pattern(place->pattern) : nullptr;
        if (!pattern) continue;
        QStringList what;
        if (v.left_out) what << QString("−%1").arg(v.left_out);
        if (v.added) what << QString("+%1").arg(v.added);
        if (v.changed) what << QString("≠%1").arg(v.changed);
        button(
            QString("%1 at %2:  %3")
                .arg(QString::fromStdString(pattern->letter), QString::fromStdString(place_text(session_.remake().song->meter, v.start)), what.join(" ")),
            tr("Hear it in turn with the first place of its pattern: − notes fewer, + more, ≠ other ones"),
            [this, id, v, parent = pattern->parent] {
                const Part* part = session_.remake().part(id);
                const TempoMap& tempo = session_.remake().song->tempo;
                if (!part) return;
                for (const Placement& first : part->placements)
                    if (first.pattern == parent) {
                        session_.transport().hear_in_turn(tempo.seconds(first.start), tempo.seconds(first.start + v.length), tempo.seconds(v.start),
                                                          tempo.seconds(v.start + v.length));
                        return;
                    }
                session_.transport().set_loop(tempo.seconds(v.start), tempo.seconds(v.start + v.length));
                session_.transport().seek(session_.transport().loop_start());
            },
            QString("variation%1").arg(i));
    }
    if (changed.size() > kMost) note(tr("and %1 more").arg(changed.size() - kMost));
}

/// What was transcribed once, played wherever the recording has it again.
void FactsPanel::spreading(const Part& p) {
    if (!session_.recording().analysis || session_.provisional()) return;
    const auto [first, end] = session_.survey().bars_meant();
    const int last = std::max(first, end - 1);
    button(
        first == last ? tr("Bar %1 wherever it is heard").arg(first) : tr("Bars %1 to %2 wherever they are heard").arg(first).arg(last),
        tr("Looks in the recording for places that sound like the looped bars, or the playhead's, and plays them there; what is not heard there is left out, "
           "what is heard besides is added, and such places are listed below"),
        [this, id = p.id, first, last] { spread(id, first, last); }, "spread");
}

void FactsPanel::spread(PartId id, int first_bar, int last_bar) {
    const Part* part = session_.remake().part(id);
    const auto analysis = session_.recording().analysis;
    if (!part || !analysis) return;
    const Remake& r = session_.remake();
    const MeterMap& meter = r.song->meter;
    const Ticks from = meter.tick_of_bar(first_bar), length = meter.tick_of_bar(last_bar + 1) - from;
    const auto found = like_stretches(*analysis, *r.song, *part, from, length);
    if (found.empty()) {
        emit session_.told(tr("Nothing of what %1 plays there is heard clearly again.").arg(QString::fromStdString(part->name)));
        return;
    }
    std::map<NoteRef, std::string> names;
    for (const PlacedNote& n : session_.documents().placed(*part)) names[n.ref()] = note_text(r, n);
    std::string to;
    std::vector<Note> with;
    std::size_t changed = 0;
    for (const LikeStretch& s : found) {
        to += (to.empty() ? "" : ", ") + place_text(meter, s.at);
        for (const NoteRef& n : s.missing) to += " -" + names[n];
        with.insert(with.end(), s.more.begin(), s.more.end());
        changed += !s.missing.empty() || !s.more.empty();
    }
    Line line("pattern.spread");
    line.with("part", part_text(r, id)).with("from", std::to_string(first_bar)).with("length", length_text(length)).with("to", to);
    if (!with.empty()) line.with("with", written_text(with, from));
    if (session_.documents().run(line))
        emit session_.told(tr("It plays at %1 more places now, %2 of them with changes; undo takes it back.").arg(found.size()).arg(changed));
}

/// Whole versions of the part side by side, each with how far its notes are heard in the original.
void FactsPanel::rivals(const Part& p) {
    if (p.rivals.empty()) return;
    const PartId id = p.id;
    heading(tr("Rivals"));
    const auto document = session_.documents().document();
    const auto analysis = session_.recording().analysis;
    const bool known = rivals_of_ && rivals_of_->part(id) && rivals_of_->part(id)->rivals == p.rivals && rival_figures_.size() == p.rivals.size();
    if (!known && analysis && !session_.provisional())
        jobs_.run(
            "rivals", tr("comparing rivals"),
            [this, document, analysis, id]() -> JobQueue::Work {
                return [this, document, analysis, id](const Progress&) -> Result<JobQueue::Delivery> {
                    std::vector<std::optional<double>> figures;
                    for (std::size_t i = 0; i < document->part(id)->rivals.size(); ++i)
                        figures.push_back(notes_figure(check(choose_rival(*document, id, i), *analysis), id));
                    return JobQueue::Delivery([this, document, figures = std::move(figures)]() mutable {
                        rivals_of_ = document;
                        rival_figures_ = std::move(figures);
                        pending_ = true;
                        rebuild_when_free();
                    });
                };
            },
            {}, JobQueue::Pace::Patient);
    const auto figure_of = [&](std::optional<double> f) { return f ? tr("notes %1").arg(percent_text(*f)) : QString(tr("notes –")); };
    const auto report = session_.report();
    note(tr("now “%1”: %2").arg(QString::fromStdString(p.version_name), figure_of(report ? notes_figure(*report, id) : std::nullopt)));
    for (std::size_t i = 0; i < p.rivals.size(); ++i)
        button(
            tr("Play “%1”   %2").arg(QString::fromStdString(p.rivals[i]->version_name), known ? figure_of(rival_figures_[i]) : QString("…")),
            tr("It becomes the part, what was the part becomes a rival; while it plays, too"),
            [this, id, i] {
                session_.documents().run(Line("rival.choose").with("part", part_text(session_.remake(), id)).with("rival", std::to_string(i + 1)));
            },
            QString("rival%1").arg(i));
}

void FactsPanel::from_chords(const Part& p) {
    const PartId id = p.id;
    heading(tr("From the chords"));
    if (p.derived.linked) {
        note(tr("linked: it follows when chords change"));
        button(
            tr("Cut the link"), tr("The notes become the part's own"),
            [this, id] { session_.documents().run(Line("part.unlink").with("part", part_text(session_.remake(), id))); }, "unlink");
    }
    auto* b = new QPushButton(p.derived.linked ? tr("How it is made…") : tr("Make it from the chords…"));
    b->setObjectName("derive");
    b->setToolTip(
        tr("Block chords, roots, tops, an arpeggio or one tone of the chords, laid out as you say; it replaces what the part plays, undo takes it back"));
    connect(b, &QPushButton::clicked, this, [this, id, b] {
        auto* panel = new DerivePanel(session_, id, this);
        panel->setAttribute(Qt::WA_DeleteOnClose);
        panel->adjustSize();
        const QPoint at = b->mapToGlobal(QPoint(0, 0));
        panel->move(at.x() - panel->width() - 8, std::max(0, at.y() - panel->height() / 2));
        panel->show();
    });
    column_->addWidget(b);
}

}  // namespace fw::app

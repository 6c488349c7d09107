// SPDX-License-Identifier: GPL-3.0-or-later
// The facts of a part's notes: what is doubtful, what repeats, what is made of the chords.
#include "analysis/like_stretches.hpp"
#include "app/command_registry.hpp"
#include "app/derive_panel.hpp"
#include "app/doubt_walk.hpp"
#include "app/facts_column.hpp"
#include "app/facts_panel.hpp"
#include "app/painting.hpp"
#include "app/survey.hpp"
#include "app/words.hpp"
#include "base/pitch.hpp"
#include "check/rivals.hpp"
#include "engine/clip_sound.hpp"
#include "model/edits/parts.hpp"
#include "model/edits/patterns.hpp"
#include "model/edits/phrasing.hpp"

#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {

/// How far a part's notes are heard in the original; nothing where they cannot be compared.
std::optional<double> notes_figure(const CheckReport& report, PartId part) {
    for (const ElementMatch& m : report.elements)
        if (m.id == ElementId(part)) return m.match.notes;
    return std::nullopt;
}

}  // namespace

QString sound_or_note(int pitch, bool drums, bool flats) {
    if (!drums) return QString::fromStdString(note_name(pitch, flats));
    const DrumSound* sound = drum_sound_of_key(pitch);
    return sound ? QObject::tr(sound->name) : QObject::tr("key %1").arg(pitch);
}

void FactsPanel::tool(const QString& text, const QString& tip, const QString& object, const std::vector<Number>& numbers,
                      std::function<void(const std::vector<double>&)> run) {
    const auto line = facts_->line();
    const auto fields = std::make_shared<std::vector<const NumberField*>>();
    facts_->button({.text = text,
                    .tip = tip,
                    .object = object,
                    .run =
                        [fields, run = std::move(run)] {
                            std::vector<double> values;
                            for (const NumberField* f : *fields) values.push_back(f->value());
                            run(values);
                        },
                    .compact = true,
                    .stretch = 1});
    for (const Number& n : numbers) {
        const std::string key = object.toStdString() + "." + n.name;
        const auto kept = how_.find(key);
        fields->push_back(facts_->number({.object = QString::fromStdString(key),
                                          .tip = n.tip,
                                          .value = kept == how_.end() ? n.value : kept->second,
                                          .low = n.low,
                                          .high = n.high,
                                          .step = n.step,
                                          .suffix = n.suffix,
                                          .decimals = n.decimals,
                                          .turned = [this, key](double v) { how_[key] = v; },
                                          .pixels = 76}));
    }
}

void FactsPanel::doubts(const Part& part) {
    if (session_.provisional()) return;
    DoubtWalk& walk = session_.walk();
    const bool drums = part.role == PartRole::Drums;
    facts_->heading(tr("Doubtful"));
    const auto missing = std::count_if(walk.doubts().begin(), walk.doubts().end(), [](const Doubt& d) { return !d.note; });
    const auto doubtful = static_cast<std::ptrdiff_t>(walk.doubts().size()) - missing;
    if (!session_.report()) {
        facts_->note(tr("being checked"));
        return;
    }
    if (walk.doubts().empty()) facts_->note(drums ? tr("no hit is doubtful, none seems to be missing") : tr("no note is doubtful, none seems to be missing"));
    else facts_->note(tr("%1 %2 are doubtful, %3 may be missing").arg(doubtful).arg(drums ? tr("hits") : tr("notes")).arg(missing));
    const Doubt* d = walk.current();
    if (!d) {
        if (!walk.doubts().empty()) commands_row({{"doubt.next", tr("Hear them one by one")}});
        return;
    }
    const bool flats = session_.remake().song->flats_at(d->shown.start);
    facts_->value(tr("%1 of %2: %3 at %4")
                      .arg(walk.index() + 1)
                      .arg(walk.doubts().size())
                      .arg(sound_or_note(d->shown.pitch, drums, flats), QString::fromStdString(place_text(session_.remake().song->meter, d->shown.start))));
    facts_->note(d->note ? tr("written; %1 likely to be right").arg(percent_text(d->right))
                         : tr("not written; %1 likely to be missing").arg(percent_text(1.0 - d->right)));
    if (d->masked != Masked::Not)
        facts_->note(d->masked == Masked::ByItsOctave    ? tr("hidden under what sounds an octave below")
                     : d->masked == Masked::ByItsTwelfth ? tr("hidden under what sounds a twelfth below")
                                                         : tr("hidden in a chord"));
    for (std::size_t i = 0; i < d->alternatives.size(); ++i) {
        const Alternative& a = d->alternatives[i];
        QString text = QString("%1   %2").arg(sound_or_note(a.pitch, drums, flats), tr("heard %1").arg(percent_text(a.heard)));
        if (a.written) text += tr(", as written");
        else if (!a.also.empty()) text += tr(", in %1").arg(QString::fromStdString(a.also));
        facts_->button({.text = text,
                        .tip = commands_.with_keys(tr("Hear it over the original, where it would be played"), "doubt.try"),
                        .object = QString("candidate%1").arg(i),
                        .run = [this, i] { session_.walk().try_candidate(i); },
                        .checked = walk.candidate() == i});
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
    facts_->heading(tr("Notes"));
    QString text = tr("%1 %2").arg(all.size()).arg(drums ? tr("hits") : tr("notes"));
    if (accepted) text += tr(", %1 accepted").arg(accepted);
    if (muted) text += tr(", %1 muted").arg(muted);
    facts_->note(text);
    if (adrift) facts_->note(tr("%1 end off any semitone: a glide that does not arrive, or a bend left out of tune").arg(adrift));
    chosen_notes(p);
    patterns(p);
    rivals(p);
    if (!drums) from_chords(p);
    else ready(p);
    grooves(p);
}

void FactsPanel::patterns(const Part& p) {
    if (p.placements.empty()) return;
    const PartId id = p.id;
    facts_->heading(tr("Patterns"));
    const auto own = std::count_if(p.patterns.begin(), p.patterns.end(), [](const auto& x) { return !x->parent; });
    const auto changed = variations(p);
    facts_->note(tr("%1 patterns, placed %2 times, %3 of them changed").arg(own).arg(p.placements.size()).arg(changed.size()));
    facts_->button(
        tr("Find what repeats"),
        tr("Folds the part into patterns: what most repeats have is written once, what differs becomes a variant. Undo takes it back."),
        [this, id] {
            Line line("pattern.find");
            line.with("part", part_text(session_.remake(), id));
            if (how_["keep_timing"] > 0.0) line.with("timing", "keep");
            session_.documents().run(line);
        },
        "find_patterns");
    facts_->check(tr("Each repeat keeps its timing"), tr("Else a repeat is played as most of them are"), "keep_timing", how_["keep_timing"] > 0.0,
                  [this](bool on) { how_["keep_timing"] = on; });
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
        facts_->button(
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
    if (changed.size() > kMost) facts_->note(tr("and %1 more").arg(changed.size() - kMost));
}

/// What was transcribed once, played wherever the recording has it again.
void FactsPanel::spreading(const Part& p) {
    if (!session_.recording().analysis || session_.provisional()) return;
    const auto [first, end] = session_.survey().bars_meant();
    const int last = std::max(first, end - 1);
    facts_->button(
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
    facts_->heading(tr("Rivals"));
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
                        tell_again();
                    });
                };
            },
            {}, JobQueue::Pace::Patient);
    // How the whole sounds with each takes a rendering of all of it: once what is open has been rendered, and not while the hand works.
    const bool heard = rival_sounds_of_ == document && rival_sounds_part_ == id && rival_sounds_.size() == p.rivals.size();
    if (!heard && analysis && session_.recording().sound && session_.rebuild_is_current()) {
        jobs_.cancel("rival sounds");
        jobs_.run(
            "rival sounds", tr("rendering rivals"),
            [this, document, analysis, id, original = session_.recording().summary,
             inputs = PlanInputs{session_.transport().rate_hz(), assets_beside(session_.recording().sound)}]() -> JobQueue::Work {
                return [this, document, analysis, id, original, inputs](const Progress& progress) -> Result<JobQueue::Delivery> {
                    std::vector<std::optional<double>> figures;
                    for (std::size_t i = 0; i < document->part(id)->rivals.size(); ++i)
                        figures.push_back(sound_with_rival(*document, id, i, *analysis, original, inputs, progress));
                    return JobQueue::Delivery([this, document, id, figures = std::move(figures)]() mutable {
                        rival_sounds_of_ = document, rival_sounds_part_ = id;
                        rival_sounds_ = std::move(figures);
                        tell_again();
                    });
                };
            },
            {}, JobQueue::Pace::Patient);
    }
    const auto figure_of = [&](std::optional<double> f) { return f ? tr("notes %1").arg(percent_text(*f)) : QString(tr("notes –")); };
    const auto report = session_.report();
    facts_->note(tr("now “%1”: %2").arg(QString::fromStdString(p.version_name), figure_of(report ? notes_figure(*report, id) : std::nullopt)));
    for (std::size_t i = 0; i < p.rivals.size(); ++i)
        facts_->button(
            tr("Play “%1”   %2").arg(QString::fromStdString(p.rivals[i]->version_name), known ? figure_of(rival_figures_[i]) : QString("…")),
            tr("It becomes the part, what was the part becomes a rival; while it plays, too"),
            [this, id, i] {
                session_.documents().run(Line("rival.choose").with("part", part_text(session_.remake(), id)).with("rival", std::to_string(i + 1)));
            },
            QString("rival%1").arg(i));
    if (!heard || !report || !report->match.sound) return;
    QStringList whole;
    for (std::size_t i = 0; i < p.rivals.size(); ++i)
        if (rival_sounds_[i]) whole << tr("with “%1” %2").arg(QString::fromStdString(p.rivals[i]->version_name), percent_text(*rival_sounds_[i]));
    if (!whole.isEmpty()) facts_->note(tr("The whole's sound: now %1, %2").arg(percent_text(*report->match.sound), whole.join(", ")));
}

void FactsPanel::from_chords(const Part& p) {
    const PartId id = p.id;
    facts_->heading(tr("From the chords"));
    if (p.derived.linked) {
        facts_->note(tr("linked: it follows when chords change"));
        facts_->button(
            tr("Cut the link"), tr("The notes become the part's own"),
            [this, id] { session_.documents().run(Line("part.unlink").with("part", part_text(session_.remake(), id))); }, "unlink");
    }
    facts_->button(
        p.derived.linked ? tr("How it is made…") : tr("Make it from the chords…"),
        tr("Block chords, roots, tops, an arpeggio or one tone of the chords, laid out as you say; it replaces what the part plays, undo takes it back"),
        [this, id] {
            auto* panel = new DerivePanel(session_, id, this);
            panel->setAttribute(Qt::WA_DeleteOnClose);
            panel->adjustSize();
            const auto* b = facts_->findChild<QPushButton*>("derive");
            const QPoint at = b->mapToGlobal(QPoint(0, 0));
            panel->move(at.x() - panel->width() - 8, std::max(0, at.y() - panel->height() / 2));
            panel->show();
        },
        "derive");
    FactMenu menu;
    const Remake& r = session_.remake();
    const auto entry = [&](const QString& text, const Part& of, bool roots, const char* sound) {
        menu.emplace_back(text, [this, id, of = of.id, roots, sound] {
            const Remake& now = session_.remake();
            Line line("part.follow");
            line.with("part", part_text(now, id)).with("of", part_text(now, of));
            if (roots) line.with("pitch", "roots");
            if (sound) line.with("sound", sound);
            Transport& t = session_.transport();
            if (t.player().looping()) {
                const auto place = [&](double at_s) { return place_text(now.song->meter, std::max<Ticks>(0, now.song->tempo.nearest_tick(at_s))); };
                line.with("from", place(t.loop_start())).with("to", place(t.loop_end()));
            }
            session_.documents().run(line);
        });
    };
    for (const auto& other : r.parts) {
        if (other->id == id) continue;
        const QString name = QString::fromStdString(other->name);
        if (other->role != PartRole::Drums) entry(tr("the notes of %1, low").arg(name), *other, false, nullptr);
    }
    menu.emplace_back();
    for (const auto& other : r.parts) {
        if (other->id == id) continue;
        const QString name = QString::fromStdString(other->name);
        if (other->role == PartRole::Drums) entry(tr("the kick of %1, on the chords' lowest tones").arg(name), *other, true, "Kick");
        else entry(tr("the rhythm of %1, on the chords' lowest tones").arg(name), *other, true, nullptr);
    }
    facts_->menu(tr("Follow another part…"),
                 tr("Plays what another part plays, low and one note at a time, or its rhythm on the chords' lowest tones; only in the loop while that is on"),
                 "follow_line", std::move(menu));
}

}  // namespace fw::app

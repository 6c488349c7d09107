// SPDX-License-Identifier: GPL-3.0-or-later
// How the chosen part's sound behaves, measured: whether it speaks late, is out of tune, beats, and whether all its steps are heard.
#include "app/facts_column.hpp"
#include "app/facts_panel.hpp"
#include "app/painting.hpp"
#include "app/sheet_widgets.hpp"
#include "app/words.hpp"
#include "audio/audio_file.hpp"
#include "base/pitch.hpp"
#include "model/fields.hpp"

#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {

/// What decides how a part sounds.
bool same_sound(const Part& a, const Part& b) { return a.layers == b.layers && a.steps == b.steps; }

/// How long the sound is that a sampler's layer plays; nothing where it plays none or cannot be told.
std::optional<double> sampled_seconds(const Remake& remake, const Layer& l) {
    if (l.source != &kSampler) return std::nullopt;
    if (const Asset* asset = remake.clips->asset(l.asset)) return asset->end_s - asset->start_s;
    const auto reader = l.file.empty() ? Result<std::unique_ptr<AudioReader>>(Error{}) : AudioReader::open(l.file);
    if (!reader || (*reader)->stated_frames() <= 0) return std::nullopt;
    return static_cast<double>((*reader)->stated_frames()) / (*reader)->sample_rate_hz();
}

}  // namespace

void FactsPanel::measure_sound(const Part& p) {
    const auto document = session_.documents().document();
    const auto known = manners_of_ && manners_part_ == p.id ? manners_of_->part(p.id) : nullptr;
    if (known && same_sound(*known, p)) return;
    jobs_.run(
        "manners", tr("measuring a sound"),
        [this, document, id = p.id, sound = session_.recording().sound]() -> JobQueue::Work {
            return [this, document, id, sound](const Progress& progress) -> Result<JobQueue::Delivery> {
                const auto assets = assets_beside(sound);
                const auto measured = measure_manners(*document, id, assets);
                std::vector<std::pair<StepId, double>> unheard;
                for (const Step& s : document->part(id)->steps) {
                    progress.checkpoint();
                    constexpr double kUnheard_db = -60.0;
                    if (s.on < 0.5 || s.trigger.part) continue;
                    if (const auto db = heard_db(*document, id, s.id, assets); db && *db < kUnheard_db) unheard.emplace_back(s.id, *db);
                }
                std::vector<std::pair<LayerId, int>> cut;
                for (const Layer& l : document->part(id)->layers)
                    if (const auto sound_s = sampled_seconds(*document, l))
                        if (const int notes = notes_cut_short(*document->part(id), l, document->song->tempo, *sound_s); notes > 0)
                            cut.emplace_back(l.id, notes);
                return JobQueue::Delivery([this, document, id, measured, unheard = std::move(unheard), cut = std::move(cut)]() mutable {
                    manners_of_ = document;
                    manners_part_ = id;
                    manners_ = measured;
                    unheard_ = std::move(unheard);
                    cut_short_ = std::move(cut);
                    tell_again();
                });
            };
        },
        {}, JobQueue::Pace::Patient);
}

/// How many notes a sampler's layer plays farther from its root than a sound can be stretched without becoming another one.
int FactsPanel::stretched_notes(const Part& p, const Layer& l) const {
    constexpr double kGood_semitones = 12.0;
    if (l.source != &kSampler || l.on < 0.5 || p.role == PartRole::Drums) return 0;
    const double root = l.value(*index_of_field(kSampler.fields, "root")) - 12.0 * l.octave;
    int count = 0;
    for (const PlacedNote& n : session_.documents().placed(p))
        count += !n.muted && n.note.pitch >= l.low_key && n.note.pitch <= l.high_key && std::abs(n.note.pitch - root) > kGood_semitones;
    return count;
}

void FactsPanel::sound_manners(const Part& p) {
    if (session_.provisional()) return;
    measure_sound(p);
    for (const Layer& l : p.layers)
        if (const int far_off = stretched_notes(p, l); far_off > 0)
            facts_->note(tr("%1 notes lie more than an octave from the root of %2").arg(far_off).arg(layer_name(session_.remake(), l)),
                         tr("A sample stretched so far is another sound: give it a range of keys, and another sample to the rest"));
    const Part* measured = manners_of_ && manners_part_ == p.id ? manners_of_->part(p.id) : nullptr;
    if (!measured || !same_sound(*measured, p) || !manners_) return;
    const SoundManners& m = *manners_;
    facts_->heading(tr("Its sound"));
    constexpr double kLate_ms = 12.0, kOff_cents = 10.0, kSlow_ms = 90.0;
    const double late = m.speaks_ms - p.early_ms;
    if (std::abs(late) >= kLate_ms) {
        facts_->note(late > 0 ? tr("speaks %1 ms after the stroke").arg(late, 0, 'f', 0) : tr("is played %1 ms earlier than it speaks").arg(-late, 0, 'f', 0),
                     tr("Until it has half of the amplitude it reaches, at %1").arg(QString::fromStdString(note_name(m.key, false))));
        facts_->button(
            tr("Play it %1 ms early").arg(m.speaks_ms, 0, 'f', 0),
            tr("The score stays where it is; the part is played so much earlier that it is heard on time"),
            [this, id = p.id, ms = m.speaks_ms] {
                session_.documents().run(
                    Line("field.set").with("part", part_text(session_.remake(), id)).with("field", "early_ms").with("value", std::to_string(std::lround(ms))));
            },
            "play_early");
    } else {
        facts_->note(tr("speaks at once"));
    }
    if (m.cents && std::abs(*m.cents) >= kOff_cents)
        facts_->note(tr("sounds %1 cents %2 its notes").arg(std::abs(*m.cents), 0, 'f', 0).arg(*m.cents > 0 ? tr("above") : tr("below")),
                     tr("A pitch envelope, a resonator or the tuning of a layer leaves it out of tune"));
    if (m.settles_ms > kSlow_ms)
        facts_->note(tr("has its pitch after %1 ms only").arg(m.settles_ms, 0, 'f', 0),
                     tr("A glide or an envelope of pitch: notes shorter than that are out of tune"));
    if (m.beats_db > 0.0)
        facts_->note(tr("beats %1 times a second, %2 dB deep").arg(m.beats_hz, 0, 'f', 1).arg(m.beats_db, 0, 'f', 0),
                     tr("Voices beside each other cancel in turn: less detune, or phases that begin alike, make it even"));
    for (const auto& [id, notes] : cut_short_)
        if (const Layer* l = find_layer(session_.remake(), id))
            facts_->note(tr("%1 notes are longer than %2 lasts").arg(notes).arg(layer_name(session_.remake(), *l)),
                         tr("They break off: find its loop on the sheet, or take a longer sound"));
    constexpr double kLost_db = 2.0, kLowsOff = 0.1;
    if (m.mono_db > kLost_db)
        facts_->note(tr("loses %1 dB where both sides become one").arg(m.mono_db, 0, 'f', 1),
                     tr("Both sides cancel in part: fewer milliseconds between them, or less width, keeps it there on one loudspeaker"));
    if (m.lows_off > kLowsOff && p.role != PartRole::Drums) {
        facts_->note(tr("%1 of its lows are not in the middle").arg(percent_text(m.lows_off)),
                     tr("Below 150 Hz; a lead or a bass stands firmer in the middle"));
        facts_->button(
            tr("Put its lows in the middle"), tr("Adds a Width step that is mono below 150 Hz"),
            [this, id = p.id] {
                session_.documents().run(Line("step.add").with("part", part_text(session_.remake(), id)).with("kind", kWidth.id).with("mono_hz", "150Hz"));
            },
            "centre_lows");
    }
    for (const auto& [id, db] : unheard_)
        if (std::any_of(p.steps.begin(), p.steps.end(), [&, wanted = id](const Step& s) { return s.id == wanted; }))
            facts_->note(tr("%1 is not heard").arg(QString::fromStdString(owner_name(session_.remake(), id))),
                         tr("Switching it off changes less than −60 dB of the sound"));
}

}  // namespace fw::app

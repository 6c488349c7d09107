// SPDX-License-Identifier: GPL-3.0-or-later
// The facts of tempo, bars, key and tuning.
#include "app/command_registry.hpp"
#include "app/facts_column.hpp"
#include "app/facts_panel.hpp"
#include "app/painting.hpp"
#include "app/survey.hpp"
#include "app/words.hpp"
#include "base/pitch.hpp"
#include "commands/call.hpp"
#include "model/limits.hpp"

#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {

/// "drums 87 %, harmony 60 %, bass 70 %".
QString fits(const Reading& r) {
    QStringList words;
    for (const auto& [name, fit] : {std::pair{tr("drums"), r.drums}, {tr("harmony"), r.harmony}, {tr("bass"), r.bass}})
        if (fit) words << QString("%1 %2").arg(name, percent_text(*fit));
    return words.isEmpty() ? tr("nothing to go by") : words.join(", ");
}

/// The usual meters and the one that holds, which is chosen among them.
FactChoice meters(const QString& object, const QString& now, const QString& tip, std::function<void(const QString&)> taken) {
    std::vector<std::pair<QString, QString>> all;
    for (const char* m : {"2/4", "3/4", "4/4", "5/4", "7/4", "6/8", "9/8", "12/8"}) all.emplace_back(m, QString());
    auto at = std::find_if(all.begin(), all.end(), [&](const auto& m) { return m.first == now; });
    if (at == all.end()) at = all.insert(at, {now, {}});
    const auto chosen = static_cast<int>(at - all.begin());
    auto run = [all, taken = std::move(taken)](int i) { taken(all[static_cast<std::size_t>(i)].first); };
    return {.object = object, .tip = tip, .items = std::move(all), .chosen = chosen, .taken = std::move(run)};
}

QString text_of(const MeterMap::Change& m) { return QString("%1/%2").arg(m.numerator).arg(m.denominator); }

}  // namespace

void FactsPanel::tempo() {
    const Remake& r = session_.remake();
    facts_->heading(tr("Tempo"));
    facts_->value(QString::fromStdString(r.song->tempo_text()));
    facts_->note(tr("± %1 BPM, %2 sure").arg(r.song->tempo_error_bpm, 0, 'f', 3).arg(percent_text(r.song->tempo_confidence)));
    facts_->number({.object = "bpm",
                    .tip = tr("Type one tempo for the whole song, with decimals; it begins at the first beat, or the first that is pinned"),
                    .value = r.song->tempo.bpm_at(r.song->tempo.anchors().front().tick),
                    .low = limits::kSlowestBpm,
                    .high = 400.0,
                    .step = 0.1,
                    .suffix = tr(" BPM"),
                    .decimals = 3,
                    .entered = [this](double bpm) { session_.documents().run(Line("tempo.set").with("bpm", QString::number(bpm, 'f', 3).toStdString())); }});
    commands_row({{"song.halve", tr("Halve")},
                  {"song.double", tr("Double")},
                  {"song.tap", session_.survey().taps() ? tr("Tap: %1").arg(session_.survey().taps()) : tr("Tap along")}});
    facts_->button(
        tr("Downbeat at the cursor"), commands_.with_keys(tr("Make the beat nearest to the playhead the first of a bar"), "song.downbeat"),
        [this] { session_.downbeat_here(); }, "downbeat");
    readings();
    bars_and_beats();
}

void FactsPanel::readings() {
    Survey& survey = session_.survey();
    facts_->heading(tr("Other readings"));
    if (survey.readings().empty()) {
        facts_->note(tr("They are being judged …"));
        return;
    }
    facts_->note(tr("As it is: %1").arg(fits(survey.readings().front())), tr("How much is struck or changes on beats and bar lines against half-way between"));
    for (std::size_t i = 1; i < survey.readings().size(); ++i) {
        const Reading& reading = survey.readings()[i];
        const auto line = facts_->line(5);
        // Where only the beats move the tempo says nothing.
        facts_->button({.text = reading.factor == 1.0 ? of_core(reading.words) : tr("%1 · %2 BPM").arg(of_core(reading.words)).arg(reading.bpm, 0, 'f', 2),
                        .tip = tr("Count it so: %1 BPM. It fits %2 in all; %3. No note moves in time.")
                                   .arg(reading.bpm, 0, 'f', 2)
                                   .arg(percent_text(reading.fit), fits(reading)),
                        .object = QString("reading%1").arg(i),
                        .run = [this, reading] { session_.survey().take_reading(reading); },
                        .compact = true,
                        .width = FactWidth::Shared,
                        .stretch = 1});
        facts_->figure(percent_text(reading.fit), 34);
        const auto& heard = survey.heard_reading();
        const bool is_heard = heard && heard->words == reading.words;
        facts_->button({.text = tr("hear"),
                        .tip = tr("Hear it as clicks over the original before it is chosen"),
                        .object = QString("hear_reading%1").arg(i),
                        .run = [this, reading, is_heard] { session_.survey().hear_reading(is_heard ? nullptr : &reading); },
                        .checked = is_heard});
    }
}

void FactsPanel::bars_and_beats() {
    const Remake& r = session_.remake();
    const Song& song = *r.song;
    facts_->heading(tr("Meter"));
    const auto& first = song.meter.changes().front();
    facts_->choice(meters("meter", text_of(first), tr("Beats in a bar, counted from bar 1"),
                          [this](const QString& text) { session_.documents().run(Line("meter.set").with("meter", text.toStdString())); }));
    for (std::size_t i = 1; i < song.meter.changes().size() && i < 8; ++i)
        facts_->note(tr("%1 from bar %2").arg(text_of(song.meter.changes()[i])).arg(song.meter.changes()[i].bar));
    {
        const auto line = facts_->line(5);
        facts_->word(tr("From the cursor's bar"), 1);
        const int bar = song.meter.position(song.tempo.nearest_tick(session_.transport().position_s())).bar;
        facts_->choice(meters("meter_from_here", text_of(song.meter.at_bar(bar)), tr("Another meter from the playhead's bar to the next change"),
                              [this](const QString& text) {
                                  const Song& now = *session_.remake().song;
                                  const int here = now.meter.position(now.tempo.nearest_tick(session_.transport().position_s())).bar;
                                  session_.documents().run(Line("meter.set").with("meter", text.toStdString()).with("from", std::to_string(here)));
                              }));
    }
    {
        const auto line = facts_->line(5);
        facts_->word(tr("Upbeat"), 1);
        const Ticks first_tick = song.tempo.anchors().front().tick;
        const Ticks missing = first_tick > 0 && first_tick < first.bar_ticks() ? first.bar_ticks() - first_tick : 0;
        facts_->number(
            {.object = "upbeat",
             .tip = tr("Beats before the first full bar"),
             .value = static_cast<double>(missing / first.beat_ticks()),
             .low = 0,
             .high = first.beats() - 1.0,
             .step = 1,
             .suffix = tr(" beats"),
             .entered = [this](double beats) { session_.documents().run(Line("tempo.upbeat").with("beats", std::to_string(static_cast<int>(beats)))); }});
    }

    facts_->heading(tr("Bars and beats of the loop, or at the playhead"));
    commands_row({{"song.bar-more", tr("One bar more")}, {"song.bar-fewer", tr("One fewer")}});
    commands_row({{"song.steady", tr("Steady")}, {"song.follow", tr("Follow")}, {"song.free", tr("Free time")}});
    if (!song.pins.empty()) {
        facts_->note(song.pins.size() == 1 ? tr("One beat is pinned.") : tr("%1 beats are pinned.").arg(song.pins.size()),
                     tr("Triangles on the page; a double-click lets go of one"));
        commands_row({{"song.unpin", tr("Let go of the nearest")}});
    }
    for (const FreeTime& f : song.free_time)
        facts_->note(tr("Free time from bar %1 to %2").arg(song.meter.position(f.start).bar).arg(song.meter.position(f.start + f.length - 1).bar),
                     tr("Clicks are silent there"));
    if (const auto analysis = session_.recording().analysis; analysis && !analysis->tempo.free_time.empty()) {
        facts_->heading(tr("Heard without a pulse"));
        for (const auto& [from, to] : analysis->tempo.free_time)
            facts_->note(QString("%1 – %2").arg(time_text(from), time_text(to)), tr("No pulse is heard here; beats are counted through from both sides"));
    }
    facts_->heading(tr("Feel"));
    facts_->note(
        std::abs(song.swing_ratio - 0.5) < 0.02
            ? QString(tr("straight"))
            : tr("swung %1ths, %2 : %3").arg(song.swing_subdivision).arg(std::lround(song.swing_ratio * 100)).arg(std::lround(100 - song.swing_ratio * 100)));
}

void FactsPanel::choose_key(std::size_t area, const Key& key) {
    session_.documents().run(Line("key.set").with("key", key.name()).with("area", std::to_string(area + 1)));
}

void FactsPanel::key() {
    const Remake& r = session_.remake();
    Survey& survey = session_.survey();
    facts_->heading(tr("Tuning"));
    facts_->value(tr("%1%2 cents").arg(r.song->tuning_cents >= 0 ? "+" : "−").arg(std::abs(r.song->tuning_cents), 0, 'f', 1));
    facts_->note(QString("A4 = %1 Hz").arg(440.0 * std::exp2(r.song->tuning_cents / 1200.0), 0, 'f', 2));
    if (const auto a = session_.recording().analysis) {
        const double drift = a->tuning.drift_cents;
        facts_->note(std::abs(drift) < 4.0 ? QString(tr("steady from start to end"))
                                           : tr("ends %1 cents %2 than it starts").arg(std::abs(drift), 0, 'f', 0).arg(drift > 0 ? tr("higher") : tr("lower")));
    }
    const auto drone = [&](const QString& text, const QString& object, const QString& tip, const std::vector<int>& pitches) {
        const Drone& now = session_.transport().drone();
        const auto hz = [&](int pitch) { return hertz_of(pitch + r.song->tuning_cents / 100.0); };
        facts_->button({.text = text,
                        .tip = tip,
                        .object = object,
                        .run = [&survey, pitches] { survey.toggle_drone(pitches); },
                        .checked = now.count == pitches.size() && now.count > 0 && std::abs(now.hz[0] - hz(pitches[0])) < 0.01 &&
                                   std::abs(now.hz[now.count - 1] - hz(pitches.back())) < 0.01});
    };
    {
        const auto line = facts_->line(5);
        facts_->number(
            {.object = "tuning",
             .tip = tr("How far the recording lies above A4 = 440 Hz; hear the reference tone against it"),
             .value = r.song->tuning_cents,
             .low = -100.0,
             .high = 100.0,
             .step = 0.5,
             .suffix = tr(" cents"),
             .decimals = 1,
             .entered = [this](double cents) { session_.documents().run(Line("tuning.set").with("cents", QString::number(cents, 'f', 1).toStdString())); },
             .stretch = 1});
        drone(tr("A4"), "reference_tone", tr("Hold a reference tone, in the recording's tuning, over what is heard"), {69});
    }
    facts_->check(tr("The rebuild stands at 440 Hz"), tr("Off: it follows the recording's tuning, so that both can be heard together"), "at_440",
                  r.song->at_440, [this](bool on) { session_.documents().run(Line("tuning.standard").with("on", on ? "on" : "off")); });
    facts_->button(
        tr("Probe the pitch"),
        commands_.with_keys(tr("Of what is looped, or at the playhead, through the lens; of the chosen part where the rebuild is heard"), "song.probe"),
        [this] { session_.survey().probe(); }, "probe");
    if (survey.probed()) facts_->note(survey.probed_words());

    /// Root, fifth and the third that tells the mode, in the middle of the keyboard.
    const auto triad = [](const Key& key) {
        const auto scale = key.scale();
        const int root = 48 + key.tonic;
        return std::vector<int>{root, root + ((scale[2] - key.tonic + 12) % 12), root + ((scale[4] - key.tonic + 12) % 12)};
    };
    for (std::size_t i = 0; i < std::max<std::size_t>(1, r.song->keys.size()); ++i) {
        const KeyArea area = i < r.song->keys.size() ? r.song->keys[i] : KeyArea{};
        facts_->heading(r.song->keys.size() > 1 ? tr("Key from bar %1").arg(r.song->meter.position(area.start).bar) : QString(tr("Key")));
        {
            const auto line = facts_->line(5);
            std::vector<std::pair<QString, QString>> tonics, modes;
            for (int pc = 0; pc < 12; ++pc) tonics.emplace_back(QString::fromStdString(std::string(pitch_class_name(pc, Key{pc, area.key.mode}.flats()))), "");
            for (int m = 0; m < 7; ++m) modes.emplace_back(QString::fromStdString(std::string(mode_name(static_cast<Mode>(m)))), "");
            facts_->choice({.object = QString("tonic%1").arg(i),
                            .items = std::move(tonics),
                            .chosen = area.key.tonic,
                            .taken = [this, i, mode = area.key.mode](int tonic) {
                                choose_key(i, {tonic, mode});
                            }});
            facts_->choice({.object = QString("mode%1").arg(i),
                            .items = std::move(modes),
                            .chosen = static_cast<int>(area.key.mode),
                            .taken =
                                [this, i, tonic = area.key.tonic](int mode) {
                                    choose_key(i, {tonic, static_cast<Mode>(mode)});
                                },
                            .stretch = 1});
            drone(tr("hear"), QString("drone%1").arg(i), tr("Hold its triad over what is heard: a wrong key rubs"), triad(area.key));
        }
        facts_->note(tr("%1 sure").arg(percent_text(area.confidence)));
        int n = 0;
        for (const auto& [key, confidence] : area.alternatives) {
            const auto line = facts_->line(5);
            facts_->button({.text = QString("%1   %2").arg(QString::fromStdString(key.name()), percent_text(confidence)),
                            .tip = tr("Take this key instead"),
                            .run = [this, i, k = key] { choose_key(i, k); },
                            .width = FactWidth::Shared,
                            .stretch = 1});
            drone(tr("hear"), QString("drone%1_%2").arg(i).arg(n++), tr("Hold its triad over what is heard"), triad(key));
        }
        if (r.song->keys.size() > 1)
            facts_->button(
                tr("Take this area away"), tr("The key before it goes on"),
                [this, i] { session_.documents().run(Line("key.remove").with("area", std::to_string(i + 1))); }, QString("remove_key%1").arg(i));
    }
    facts_->button(
        tr("Another key from the playhead's bar"), tr("Begins an area of its own there, up to the next one"),
        [this] {
            const Song& now = *session_.remake().song;
            const Ticks here = now.tempo.nearest_tick(session_.transport().position_s());
            const Key* key = now.key_at(here);
            session_.documents().run(Line("key.add").with("key", key ? key->name() : "C major").with("from", std::to_string(now.meter.position(here).bar)));
        },
        "add_key");
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
// The facts of tempo, bars, key and tuning.
#include "app/calm_combo.hpp"
#include "app/command_registry.hpp"
#include "app/facts_panel.hpp"
#include "app/number_field.hpp"
#include "app/painting.hpp"
#include "app/survey.hpp"
#include "app/words.hpp"
#include "base/pitch.hpp"
#include "commands/call.hpp"
#include "model/limits.hpp"

#include <QCheckBox>
#include <QComboBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
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

QComboBox* meters(const QString& now) {
    auto* box = new CalmCombo;
    for (const char* m : {"2/4", "3/4", "4/4", "5/4", "7/4", "6/8", "9/8", "12/8"}) box->addItem(m);
    if (box->findText(now) < 0) box->addItem(now);
    box->setCurrentText(now);
    return box;
}

QString text_of(const MeterMap::Change& m) { return QString("%1/%2").arg(m.numerator).arg(m.denominator); }

}  // namespace

void FactsPanel::tempo() {
    const Remake& r = session_.remake();
    heading(tr("Tempo"));
    value(QString::fromStdString(r.song->tempo_text()));
    note(tr("± %1 BPM, %2 sure").arg(r.song->tempo_error_bpm, 0, 'f', 3).arg(percent_text(r.song->tempo_confidence)));
    auto* bpm = new NumberField(r.song->tempo.bpm_at(r.song->tempo.anchors().front().tick), limits::kSlowestBpm, 400.0, 0.1, tr(" BPM"), 3);
    bpm->setObjectName("bpm");
    bpm->setToolTip(tr("Type one tempo for the whole song, with decimals; it begins at the first beat, or the first that is pinned"));
    connect(bpm, &QDoubleSpinBox::editingFinished, this, [this, bpm, was = bpm->value()] {
        if (std::abs(bpm->value() - was) > 0.0004) session_.documents().run(Line("tempo.set").with("bpm", QString::number(bpm->value(), 'f', 3).toStdString()));
    });
    column_->addWidget(bpm);
    commands_row({{"song.halve", tr("Halve")},
                  {"song.double", tr("Double")},
                  {"song.tap", session_.survey().taps() ? tr("Tap: %1").arg(session_.survey().taps()) : tr("Tap along")}});
    button(
        tr("Downbeat at the cursor"), commands_.with_keys(tr("Make the beat nearest to the playhead the first of a bar"), "song.downbeat"),
        [this] { session_.downbeat_here(); }, "downbeat");
    readings();
    bars_and_beats();
}

void FactsPanel::readings() {
    Survey& survey = session_.survey();
    heading(tr("Other readings"));
    if (survey.readings().empty()) {
        note(tr("They are being judged …"));
        return;
    }
    note(tr("As it is: %1").arg(fits(survey.readings().front())), tr("How much is struck or changes on beats and bar lines against half-way between"));
    for (std::size_t i = 1; i < survey.readings().size(); ++i) {
        const Reading& reading = survey.readings()[i];
        auto* row = new QHBoxLayout;
        // Where only the beats move the tempo says nothing.
        auto* take =
            new QPushButton(reading.factor == 1.0 ? of_core(reading.words) : tr("%1 · %2 BPM").arg(of_core(reading.words)).arg(reading.bpm, 0, 'f', 2));
        take->setObjectName(QString("reading%1").arg(i));
        take->setToolTip(
            tr("Count it so: %1 BPM. It fits %2 in all; %3. No note moves in time.").arg(reading.bpm, 0, 'f', 2).arg(percent_text(reading.fit), fits(reading)));
        connect(take, &QPushButton::clicked, this, [this, reading] { session_.survey().take_reading(reading); });
        take->setProperty("compact", true);
        take->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
        auto* fit = new QLabel(percent_text(reading.fit));
        fit->setFixedWidth(34);
        fit->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
        auto* hear = new QPushButton(tr("hear"));
        hear->setObjectName(QString("hear_reading%1").arg(i));
        hear->setCheckable(true);
        const auto& heard = survey.heard_reading();
        hear->setChecked(heard && heard->words == reading.words);
        hear->setToolTip(tr("Hear it as clicks over the original before it is chosen"));
        connect(hear, &QPushButton::clicked, this, [this, reading](bool on) { session_.survey().hear_reading(on ? &reading : nullptr); });
        row->addWidget(take, 1);
        row->addWidget(fit);
        row->addWidget(hear);
        column_->addLayout(row);
    }
}

void FactsPanel::bars_and_beats() {
    const Remake& r = session_.remake();
    const Song& song = *r.song;
    heading(tr("Meter"));
    const auto& first = song.meter.changes().front();
    auto* meter = meters(text_of(first));
    meter->setObjectName("meter");
    meter->setToolTip(tr("Beats in a bar, counted from bar 1"));
    connect(meter, &QComboBox::textActivated, this,
            [this](const QString& text) { session_.documents().run(Line("meter.set").with("meter", text.toStdString())); });
    column_->addWidget(meter);
    for (std::size_t i = 1; i < song.meter.changes().size() && i < 8; ++i)
        note(tr("%1 from bar %2").arg(text_of(song.meter.changes()[i])).arg(song.meter.changes()[i].bar));
    auto* line = new QHBoxLayout;
    line->addWidget(new QLabel(tr("From the cursor's bar")), 1);
    const int bar = song.meter.position(song.tempo.nearest_tick(session_.transport().position_s())).bar;
    auto* from_here = meters(text_of(song.meter.at_bar(bar)));
    from_here->setObjectName("meter_from_here");
    from_here->setToolTip(tr("Another meter from the playhead's bar to the next change"));
    connect(from_here, &QComboBox::textActivated, this, [this](const QString& text) {
        const Song& now = *session_.remake().song;
        const int here = now.meter.position(now.tempo.nearest_tick(session_.transport().position_s())).bar;
        session_.documents().run(Line("meter.set").with("meter", text.toStdString()).with("from", std::to_string(here)));
    });
    line->addWidget(from_here);
    column_->addLayout(line);
    auto* upbeat_line = new QHBoxLayout;
    upbeat_line->addWidget(new QLabel(tr("Upbeat")), 1);
    const Ticks first_tick = song.tempo.anchors().front().tick;
    const int now = first_tick > 0 && first_tick < first.bar_ticks() ? static_cast<int>((first.bar_ticks() - first_tick) / first.beat_ticks()) : 0;
    auto* upbeat = new NumberField(now, 0, first.beats() - 1, 1, tr(" beats"), 0);
    upbeat->setObjectName("upbeat");
    upbeat->setToolTip(tr("Beats before the first full bar"));
    connect(upbeat, &QDoubleSpinBox::editingFinished, this, [this, upbeat, now] {
        if (const int beats = static_cast<int>(upbeat->value()); beats != now)
            session_.documents().run(Line("tempo.upbeat").with("beats", std::to_string(beats)));
    });
    upbeat_line->addWidget(upbeat);
    column_->addLayout(upbeat_line);

    heading(tr("Bars and beats of the loop, or at the playhead"));
    commands_row({{"song.bar-more", tr("One bar more")}, {"song.bar-fewer", tr("One fewer")}});
    commands_row({{"song.steady", tr("Steady")}, {"song.follow", tr("Follow")}, {"song.free", tr("Free time")}});
    if (!song.pins.empty()) {
        note(song.pins.size() == 1 ? tr("One beat is pinned.") : tr("%1 beats are pinned.").arg(song.pins.size()),
             tr("Triangles on the page; a double-click lets go of one"));
        commands_row({{"song.unpin", tr("Let go of the nearest")}});
    }
    for (const FreeTime& f : song.free_time)
        note(tr("Free time from bar %1 to %2").arg(song.meter.position(f.start).bar).arg(song.meter.position(f.start + f.length - 1).bar),
             tr("Clicks are silent there"));
    if (const auto analysis = session_.recording().analysis; analysis && !analysis->tempo.free_time.empty()) {
        heading(tr("Heard without a pulse"));
        for (const auto& [from, to] : analysis->tempo.free_time)
            note(QString("%1 – %2").arg(time_text(from), time_text(to)), tr("No pulse is heard here; beats are counted through from both sides"));
    }
    heading(tr("Feel"));
    note(std::abs(song.swing_ratio - 0.5) < 0.02
             ? QString(tr("straight"))
             : tr("swung %1ths, %2 : %3").arg(song.swing_subdivision).arg(std::lround(song.swing_ratio * 100)).arg(std::lround(100 - song.swing_ratio * 100)));
}

void FactsPanel::choose_key(std::size_t area, const Key& key) {
    session_.documents().run(Line("key.set").with("key", key.name()).with("area", std::to_string(area + 1)));
}

void FactsPanel::key() {
    const Remake& r = session_.remake();
    Survey& survey = session_.survey();
    heading(tr("Tuning"));
    value(tr("%1%2 cents").arg(r.song->tuning_cents >= 0 ? "+" : "−").arg(std::abs(r.song->tuning_cents), 0, 'f', 1));
    note(QString("A4 = %1 Hz").arg(440.0 * std::exp2(r.song->tuning_cents / 1200.0), 0, 'f', 2));
    if (const auto a = session_.recording().analysis) {
        const double drift = a->tuning.drift_cents;
        note(std::abs(drift) < 4.0 ? QString(tr("steady from start to end"))
                                   : tr("ends %1 cents %2 than it starts").arg(std::abs(drift), 0, 'f', 0).arg(drift > 0 ? tr("higher") : tr("lower")));
    }
    auto* line = new QHBoxLayout;
    auto* cents = new NumberField(r.song->tuning_cents, -100.0, 100.0, 0.5, tr(" cents"), 1);
    cents->setObjectName("tuning");
    cents->setToolTip(tr("How far the recording lies above A4 = 440 Hz; hear the reference tone against it"));
    connect(cents, &QDoubleSpinBox::editingFinished, this, [this, cents, was = cents->value()] {
        if (cents->value() != was) session_.documents().run(Line("tuning.set").with("cents", QString::number(cents->value(), 'f', 1).toStdString()));
    });
    const auto drone = [&](const QString& text, const QString& object, const QString& tip, const std::vector<int>& pitches) {
        auto* b = new QPushButton(text);
        b->setObjectName(object);
        b->setCheckable(true);
        const Drone& now = session_.transport().drone();
        b->setChecked(now.count == pitches.size() && now.count > 0 && std::abs(now.hz[0] - hertz_of(pitches[0] + r.song->tuning_cents / 100.0)) < 0.01 &&
                      std::abs(now.hz[now.count - 1] - hertz_of(pitches.back() + r.song->tuning_cents / 100.0)) < 0.01);
        b->setToolTip(tip);
        connect(b, &QPushButton::clicked, this, [&survey, pitches] { survey.toggle_drone(pitches); });
        return b;
    };
    line->addWidget(cents, 1);
    line->addWidget(drone(tr("A4"), "reference_tone", tr("Hold a reference tone, in the recording's tuning, over what is heard"), {69}));
    column_->addLayout(line);
    auto* standard = new QCheckBox(tr("The rebuild stands at 440 Hz"));
    standard->setObjectName("at_440");
    standard->setChecked(r.song->at_440);
    standard->setToolTip(tr("Off: it follows the recording's tuning, so that both can be heard together"));
    connect(standard, &QCheckBox::toggled, this, [this](bool on) { session_.documents().run(Line("tuning.standard").with("on", on ? "on" : "off")); });
    column_->addWidget(standard);
    button(
        tr("Probe the pitch"),
        commands_.with_keys(tr("Of what is looped, or at the playhead, through the lens; of the chosen part where the rebuild is heard"), "song.probe"),
        [this] { session_.survey().probe(); }, "probe");
    if (survey.probed()) note(survey.probed_words());

    /// Root, fifth and the third that tells the mode, in the middle of the keyboard.
    const auto triad = [](const Key& key) {
        const auto scale = key.scale();
        const int root = 48 + key.tonic;
        return std::vector<int>{root, root + ((scale[2] - key.tonic + 12) % 12), root + ((scale[4] - key.tonic + 12) % 12)};
    };
    for (std::size_t i = 0; i < std::max<std::size_t>(1, r.song->keys.size()); ++i) {
        const KeyArea area = i < r.song->keys.size() ? r.song->keys[i] : KeyArea{};
        heading(r.song->keys.size() > 1 ? tr("Key from bar %1").arg(r.song->meter.position(area.start).bar) : QString(tr("Key")));
        auto* row = new QHBoxLayout;
        auto* tonic = new CalmCombo;
        auto* mode = new CalmCombo;
        tonic->setObjectName(QString("tonic%1").arg(i));
        mode->setObjectName(QString("mode%1").arg(i));
        for (int pc = 0; pc < 12; ++pc) tonic->addItem(QString::fromStdString(std::string(pitch_class_name(pc, Key{pc, area.key.mode}.flats()))));
        for (int m = 0; m < 7; ++m) mode->addItem(QString::fromStdString(std::string(mode_name(static_cast<Mode>(m)))));
        tonic->setCurrentIndex(area.key.tonic);
        mode->setCurrentIndex(static_cast<int>(area.key.mode));
        const auto set = [this, i, tonic, mode] { choose_key(i, {tonic->currentIndex(), static_cast<Mode>(mode->currentIndex())}); };
        connect(tonic, &QComboBox::activated, this, set);
        connect(mode, &QComboBox::activated, this, set);
        row->addWidget(tonic);
        row->addWidget(mode, 1);
        row->addWidget(drone(tr("hear"), QString("drone%1").arg(i), tr("Hold its triad over what is heard: a wrong key rubs"), triad(area.key)));
        column_->addLayout(row);
        note(tr("%1 sure").arg(percent_text(area.confidence)));
        int n = 0;
        for (const auto& [key, confidence] : area.alternatives) {
            auto* choice = new QHBoxLayout;
            auto* take = new QPushButton(QString("%1   %2").arg(QString::fromStdString(key.name()), percent_text(confidence)));
            take->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
            take->setToolTip(tr("Take this key instead"));
            connect(take, &QPushButton::clicked, this, [this, i, k = key] { choose_key(i, k); });
            choice->addWidget(take, 1);
            choice->addWidget(drone(tr("hear"), QString("drone%1_%2").arg(i).arg(n++), tr("Hold its triad over what is heard"), triad(key)));
            column_->addLayout(choice);
        }
        if (r.song->keys.size() > 1)
            button(
                tr("Take this area away"), tr("The key before it goes on"),
                [this, i] { session_.documents().run(Line("key.remove").with("area", std::to_string(i + 1))); }, QString("remove_key%1").arg(i));
    }
    button(
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

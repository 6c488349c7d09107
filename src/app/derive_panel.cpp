// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/derive_panel.hpp"

#include "app/number_field.hpp"
#include "app/words.hpp"
#include "base/pitch.hpp"
#include "model/describe.hpp"

#include <QCheckBox>
#include <QComboBox>
#include <QGridLayout>
#include <QLabel>
#include <cmath>

namespace fw::app {

namespace {

struct Choice {
    const char *text, *value;
};
constexpr Choice kKinds[] = {{"All tones", "block"}, {"Lowest note", "lowest"}, {"Roots", "roots"},
                             {"Top note", "top"},    {"Arpeggio", "arpeggio"},  {"One tone", "tone"}};
constexpr Choice kLayouts[] = {{"Close", "close"}, {"Second from above dropped", "drop_2"}, {"Second and fourth dropped", "drop_2_4"}, {"Open", "open"}};
constexpr Choice kInversions[] = {{"As written", "0"}, {"First", "1"}, {"Second", "2"}, {"Third", "3"}, {"Shortest way", "smooth"}};
constexpr Choice kStrokes[] = {{"Once a chord", "0"},       {"Half notes", "1/2"},      {"Quarters", "1/4"},    {"Eighths", "1/8"},
                               {"Eighth triplets", "1/8T"}, {"Dotted eighths", "1/8."}, {"Sixteenths", "1/16"}, {"Sixteenth triplets", "1/16T"}};
constexpr Choice kEndStrokes[] = {{"As it begins", "0"}, {"Half notes", "1/2"},  {"Quarters", "1/4"},
                                  {"Eighths", "1/8"},    {"Sixteenths", "1/16"}, {"Thirty-seconds", "1/32"}};
constexpr Choice kDirections[] = {{"Up", "up"}, {"Down", "down"}, {"Up and down", "up_down"}, {"Down and up", "down_up"}, {"By chance", "random"}};
constexpr Choice kTones[] = {{"Root", "1"}, {"Third", "3"}, {"Fifth", "5"}, {"Seventh", "7"}, {"Ninth", "9"}};
constexpr int kLows[] = {24, 28, 36, 40, 48, 52, 55, 60, 67, 72};

}  // namespace

DerivePanel::DerivePanel(Session& session, PartId part, QWidget* parent) : QFrame(parent, Qt::Popup), session_(session), part_(part) {
    setObjectName("derive_panel");
    setFrameShape(QFrame::Box);
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(14, 10, 14, 12);
    grid->setVerticalSpacing(6);
    int row = 0;
    auto* title = new QLabel(tr("Made from the chords"));
    title->setObjectName("heading");
    grid->addWidget(title, row++, 0, 1, 2);
    const auto place = [&](const QString& label, QWidget* field, const QString& tip) {
        grid->addWidget(new QLabel(label), row, 0);
        field->setToolTip(tip);
        grid->addWidget(field, row++, 1);
    };
    const auto combo = [&](const QString& label, const char* name, auto&& choices, const QString& tip) {
        auto* c = new QComboBox;
        c->setObjectName(name);
        for (const Choice& choice : choices) c->addItem(tr(choice.text), QString(choice.value));
        place(label, c, tip);
        return c;
    };
    const auto number = [&](const QString& label, const char* name, double value, double low, double high, double step, const QString& suffix,
                            const QString& tip) {
        auto* f = new NumberField(value, low, high, step, suffix, 0);
        f->setObjectName(name);
        place(label, f, tip);
        return f;
    };
    kind_ = combo(tr("What"), "derive_kind", kKinds, tr("What the part has of each chord"));
    tone_ = combo(tr("Tone"), "derive_tone", kTones, tr("Which tone; a chord that lacks it is left out"));
    low_ = new QComboBox;
    low_->setObjectName("derive_low");
    for (const int pitch : kLows) low_->addItem(QString::fromStdString(note_name(pitch, false)), QString::number(pitch));
    place(tr("From"), low_, tr("The lowest note lies in the octave above"));
    voicing_ = combo(tr("Layout"), "derive_voicing", kLayouts, tr("How far the tones lie apart"));
    inversion_ = combo(tr("Inversion"), "derive_inversion", kInversions, tr("Which tone lies lowest; the shortest way leads each chord to the next"));
    every_ = combo(tr("Struck"), "derive_every", kStrokes, tr("How often"));
    every_at_end_ = combo(tr("At its end"), "derive_every_at_end", kEndStrokes, tr("An arpeggio changes its rate until the chord ends"));
    way_ = combo(tr("Direction"), "derive_way", kDirections, tr("Of an arpeggio"));
    octaves_ = number(tr("Octaves"), "derive_octaves", 1, 1, 4, 1, "", tr("An arpeggio goes through"));
    share_ = number(tr("Held"), "derive_share", 100, 5, 100, 5, " %", tr("Of the time to the next stroke"));
    strum_ = number(tr("Strum"), "derive_strum", 0, -200, 200, 2, tr(" ms"), tr("From one tone to the next; negative from the highest down"));
    velocity_ = number(tr("Velocity"), "derive_velocity", 88, 1, 127, 1, "", tr("Of the lowest tone"));
    slope_ = number(tr("Per tone"), "derive_slope", 0, -60, 60, 1, "", tr("How much harder each tone above it is played"));
    linked_ = new QCheckBox(tr("Follow when chords change"));
    linked_->setObjectName("derive_linked");
    linked_->setToolTip(tr("An edit of the part's notes cuts the link"));
    grid->addWidget(linked_, row++, 0, 1, 2);
    from_ = session_.documents().document();
    follow();
    for (QComboBox* c : {kind_, tone_, low_, voicing_, inversion_, every_, every_at_end_, way_}) connect(c, &QComboBox::activated, this, &DerivePanel::apply);
    for (NumberField* f : {octaves_, share_, strum_, velocity_, slope_}) connect(f, &QDoubleSpinBox::valueChanged, this, &DerivePanel::apply);
    connect(linked_, &QCheckBox::clicked, this, &DerivePanel::apply);
    session_.documents().end_gesture();
}

/// Shows how the part is made now.
void DerivePanel::follow() {
    const Part* p = session_.remake().part(part_);
    if (!p) return;
    const Derivation& d = p->derived;
    const bool fresh = d.kind == FromChords::Nothing;
    const auto choose = [](QComboBox* c, const QString& value) { c->setCurrentIndex(std::max(0, c->findData(value))); };
    choose(kind_, fresh ? (p->role == PartRole::Bass ? "lowest" : "block") : names::kFromChords[static_cast<std::size_t>(d.kind)]);
    choose(tone_, QString::number(d.tone));
    choose(low_, QString::number(fresh && p->role == PartRole::Bass ? 28 : d.low));
    choose(voicing_, names::kVoicings[static_cast<std::size_t>(d.voicing)]);
    choose(inversion_, d.inversion < 0 ? QString("smooth") : QString::number(d.inversion));
    const std::map<int, const char*> strokes{{120, "1/32"}, {0, "0"},      {1920, "1/2"}, {960, "1/4"},  {480, "1/8"},
                                             {320, "1/8T"}, {720, "1/8."}, {240, "1/16"}, {160, "1/16T"}};
    const auto stroke = strokes.find(d.every);
    choose(every_, stroke == strokes.end() ? "0" : stroke->second);
    const auto at_end = strokes.find(d.every_at_end);
    choose(every_at_end_, at_end == strokes.end() ? "0" : at_end->second);
    choose(way_, names::kWays[static_cast<std::size_t>(d.way)]);
    octaves_->setValue(d.octaves);
    share_->setValue(100.0 * d.length);
    strum_->setValue(d.strum_ms);
    velocity_->setValue(d.velocity);
    slope_->setValue(d.slope);
    linked_->setChecked(fresh || d.linked);
}

void DerivePanel::apply() {
    const QString kind = kind_->currentData().toString();
    tone_->setEnabled(kind == "tone");
    way_->setEnabled(kind == "arpeggio");
    every_at_end_->setEnabled(kind == "arpeggio");
    octaves_->setEnabled(kind == "arpeggio");
    const auto text = [](const QComboBox* c) { return c->currentData().toString().toStdString(); };
    const auto whole = [](const NumberField* f) { return std::to_string(std::lround(f->value())); };
    const int low = low_->currentData().toInt();
    Line line("part.derive");
    line.with("part", part_text(*from_, part_)).with("kind", text(kind_)).with("linked", linked_->isChecked() ? "on" : "off");
    line.with("voicing", text(voicing_))
        .with("inversion", text(inversion_))
        .with("low", std::to_string(low))
        .with("high", std::to_string(std::min(127, low + 24)));
    if (kind == "tone") line.with("tone", text(tone_));
    if (text(every_) != "0") line.with("every", text(every_));
    line.with("share", QString::number(share_->value() / 100.0, 'f', 2).toStdString());
    if (strum_->value() != 0.0) line.with("strum", whole(strum_));
    if (kind == "arpeggio" && text(every_at_end_) != "0") line.with("every_at_end", text(every_at_end_));
    if (kind == "arpeggio") line.with("way", text(way_)).with("octaves", whole(octaves_));
    line.with("velocity", whole(velocity_)).with("slope", whole(slope_));
    // Always from what was there before, so that all that is tried in one go is one step.
    session_.documents().run(line, "derive", from_);
}

}  // namespace fw::app

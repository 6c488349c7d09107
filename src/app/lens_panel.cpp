// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/lens_panel.hpp"

#include "app/command_registry.hpp"
#include "app/number_field.hpp"
#include "app/survey.hpp"
#include "app/words.hpp"
#include "base/pitch.hpp"

#include <QButtonGroup>
#include <QCheckBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>
#include <array>
#include <cmath>

namespace fw::app {

namespace {

constexpr std::array<LensRow, kLenses> kRows{
    {{LensKind::Whole, "Whole", "All of the sound", "lens.whole", "1"},
     {LensKind::Low, "Low", "Below 150 Hz", "lens.low", "2"},
     {LensKind::Body, "Body", "150 Hz to 2.5 kHz", "lens.body", "3"},
     {LensKind::Air, "Air", "Above 5 kHz", "lens.air", "4"},
     {LensKind::Tonal, "Tonal", "What lasts: notes without their strokes; it comes 93 ms late", "lens.tonal", "5"},
     {LensKind::Percussive, "Percussive", "What is struck; it comes 93 ms late", "lens.percussive", "6"},
     {LensKind::Centre, "Centre", "What both sides have alike; it comes 46 ms late", "lens.centre", "7"},
     {LensKind::Sides, "Sides", "What the sides have each for itself; it comes 46 ms late", "lens.sides", "8"},
     {LensKind::Speaker, "Small speaker", "Mono, without bass: a telephone or a kitchen radio", "lens.speaker", "9"},
     {LensKind::Loudspeakers, "Loudspeakers", "For headphones: each ear hears the lows of both sides, as before two loudspeakers", "lens.loudspeakers",
      "Ctrl+3"},
     {LensKind::Element, "This element", "What of the sound belongs to the chosen element, by the evidence; it comes 93 ms late", "lens.element", "0"},
     {LensKind::Band, "Band", "From one frequency to another, set below", "lens.band", "Ctrl+1"},
     {LensKind::Pitch, "Pitch", "Around one pitch and its first partials, set below", "lens.pitch", "Ctrl+2"}}};

QLabel* heading(const QString& text) {
    auto* label = new QLabel(text);
    label->setObjectName("heading");
    return label;
}

constexpr Parameter kPitch{"lens_pitch", "Pitch", Unit::Pitch, 21.0, 108.0, 57.0, Scale::Whole, 1.0, false};

}  // namespace

std::span<const LensRow> lens_rows() { return kRows; }

QString LensPanel::title(const Lens& lens) {
    if (lens.kind == LensKind::Band) return QString("%1–%2 Hz").arg(std::lround(lens.low_hz)).arg(std::lround(lens.high_hz));
    if (lens.kind == LensKind::Pitch)
        return tr("around %1").arg(QString::fromStdString(note_name(static_cast<int>(std::lround(pitch_of(lens.pitch_hz))), false)));
    if (lens.kind == LensKind::Element) return tr("this element");
    return of_core(lens_name(lens.kind));
}

LensPanel::LensPanel(Session& session, const CommandRegistry& commands, QWidget* parent) : QFrame(parent, Qt::Popup), session_(session) {
    setObjectName("lens_panel");
    setFrameShape(QFrame::Box);
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(14, 10, 14, 12);
    column->setSpacing(6);
    column->addWidget(heading(tr("Lens, on original and rebuild alike")));
    auto* grid = new QGridLayout;
    grid->setSpacing(4);
    lenses_ = new QButtonGroup(this);
    for (std::size_t i = 0; i < kRows.size(); ++i) {
        auto* b = new QPushButton(tr(kRows[i].text));
        b->setCheckable(true);
        b->setObjectName(kRows[i].command);
        b->setToolTip(commands.with_keys(tr(kRows[i].tip), kRows[i].command));
        lenses_->addButton(b, static_cast<int>(kRows[i].kind));
        grid->addWidget(b, static_cast<int>(i) / 3, static_cast<int>(i) % 3);
    }
    connect(lenses_, &QButtonGroup::idClicked, this, [this](int id) { set_lens(static_cast<LensKind>(id)); });
    column->addLayout(grid);
    auto* numbers = new QHBoxLayout;
    const auto number = [&](double value, double low, double high, double step, const QString& unit, int decimals, const char* object, const QString& tip) {
        auto* field = new NumberField(value, low, high, step, unit, decimals);
        field->setObjectName(object);
        field->setToolTip(tip);
        return field;
    };
    low_ = number(200, 20, 19000, 10, tr(" Hz"), 0, "band_low", tr("Where the band begins"));
    high_ = number(2000, 30, 20000, 10, tr(" Hz"), 0, "band_high", tr("Where the band ends"));
    pitch_ = new ParameterField(kPitch);
    pitch_->setObjectName(kPitch.id);
    pitch_->setToolTip(tr("The note whose surroundings are heard; type it, A3 or F#2, or drag it up and down"));
    numbers->addWidget(new QLabel(tr("Band")));
    numbers->addWidget(low_);
    numbers->addWidget(high_);
    numbers->addSpacing(8);
    numbers->addWidget(new QLabel(tr("Pitch")));
    numbers->addWidget(pitch_);
    column->addLayout(numbers);
    connect(low_, &QDoubleSpinBox::valueChanged, this, [this] { set_lens(LensKind::Band); });
    connect(high_, &QDoubleSpinBox::valueChanged, this, [this] { set_lens(LensKind::Band); });
    connect(pitch_, &QDoubleSpinBox::valueChanged, this, [this] { set_lens(LensKind::Pitch); });

    column->addWidget(heading(tr("Click")));
    auto* clicks = new QHBoxLayout;
    on_ = new QCheckBox(tr("On"));
    on_->setObjectName("click_on");
    on_->setToolTip(commands.with_keys(tr("Clicks on the beats, higher on the first of a bar"), "listen.click"));
    level_ = number(-6, -40, 6, 1, tr(" dB"), 0, "click_level", tr("How loud the clicks are"));
    clicks->addWidget(on_);
    clicks->addWidget(level_);
    between_ = new QButtonGroup(this);
    for (const auto& [text, between, tip] : {std::tuple{tr("beats"), 0, tr("Clicks on beats only")},
                                             {tr("halves"), 1, tr("One click more between beats")},
                                             {tr("thirds"), 2, tr("Two more: triplets")},
                                             {tr("quarters"), 3, tr("Three more")}}) {
        auto* b = new QPushButton(text);
        b->setCheckable(true);
        b->setToolTip(tip);
        between_->addButton(b, between);
        clicks->addWidget(b);
    }
    column->addLayout(clicks);
    count_in_ = new QCheckBox(tr("Count in a bar before it plays"));
    count_in_->setObjectName("count_in");
    count_in_->setToolTip(commands.with_keys(tr("One bar of clicks before it begins"), "listen.count-in"));
    column->addWidget(count_in_);
    connect(on_, &QCheckBox::toggled, this, &LensPanel::set_click);
    connect(count_in_, &QCheckBox::toggled, this, &LensPanel::set_click);
    connect(level_, &QDoubleSpinBox::valueChanged, this, &LensPanel::set_click);
    connect(between_, &QButtonGroup::idClicked, this, &LensPanel::set_click);

    column->addWidget(heading(tr("Remembered places")));
    spots_ = new QVBoxLayout;
    spots_->setSpacing(2);
    column->addLayout(spots_);
    auto* remember = new QPushButton(tr("Remember this place and lens"));
    remember->setObjectName("remember");
    remember->setToolTip(commands.with_keys(tr("What is looped, or the bar at the playhead"), "spot.remember"));
    connect(remember, &QPushButton::clicked, this, [this] {
        session_.survey().remember_spot();
        list_spots();
    });
    column->addWidget(remember);
    connect(&session_, &Session::transport_changed, this, &LensPanel::follow);
    connect(&session_, &Session::document_changed, this, [this] {
        if (isVisible()) list_spots();
    });
}

void LensPanel::set_lens(LensKind kind) {
    if (following_) return;
    Lens lens;
    lens.kind = kind;
    lens.low_hz = std::min(low_->value(), high_->value() - 1.0), lens.high_hz = high_->value();
    lens.pitch_hz = hertz_of(pitch_->value() + session_.remake().song->tuning_cents / 100.0);
    session_.survey().set_lens(lens);
}

void LensPanel::set_click() {
    if (following_) return;
    session_.survey().set_click({on_->isChecked(), count_in_->isChecked(), level_->value(), std::max(0, between_->checkedId())});
}

void LensPanel::follow() {
    if (!isVisible()) return;
    following_ = true;
    const Lens& lens = session_.transport().lens();
    lenses_->button(static_cast<int>(lens.kind))->setChecked(true);
    if (!low_->hasFocus() && !high_->hasFocus()) low_->setValue(lens.low_hz), high_->setValue(lens.high_hz);
    if (lens.kind == LensKind::Pitch && !pitch_->hasFocus()) pitch_->setValue(std::round(pitch_of(lens.pitch_hz)));
    const Transport::Click& click = session_.transport().click();
    on_->setChecked(click.on);
    count_in_->setChecked(click.count_in);
    level_->setValue(click.level_db);
    between_->button(click.between)->setChecked(true);
    following_ = false;
}

void LensPanel::list_spots() {
    while (QLayoutItem* item = spots_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    const auto& spots = session_.remake().notebook->spots;
    if (spots.empty()) spots_->addWidget(new QLabel(tr("None yet.")));
    for (const Spot& s : spots) {
        auto* line = new QWidget;
        auto* row = new QHBoxLayout(line);
        row->setContentsMargins(0, 0, 0, 0);
        auto* go = new QPushButton(QString::fromStdString(s.name));
        go->setToolTip(tr("Loop it again, through the same lens"));
        connect(go, &QPushButton::clicked, this, [this, spot = s] { session_.survey().go_to_spot(spot); });
        auto* forget = new QPushButton(tr("forget"));
        connect(
            forget, &QPushButton::clicked, this, [this, name = s.name] { session_.documents().run(Line("spot.remove").with("name", name)); },
            Qt::QueuedConnection);
        row->addWidget(go, 1);
        row->addWidget(forget);
        spots_->addWidget(line);
    }
    adjustSize();
}

void LensPanel::open_above(const QPoint& corner) {
    list_spots();
    show();
    move(corner.x(), corner.y() - height());
    follow();
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/reckoner.hpp"

#include "app/words.hpp"
#include "base/pitch.hpp"

#include <QGridLayout>
#include <QLabel>
#include <algorithm>
#include <array>
#include <cmath>

namespace fw::app {

namespace {

constexpr std::array kRows{
    Parameter{"semitones", "Semitones", Unit::Semitones, -60.0, 60.0, 7.0, Scale::Linear, 0.01, false, "Up; negative down. Hundredths are cents"},
    Parameter{"ratio", "Ratio", Unit::None, 0.03125, 32.0, 1.5, Scale::Logarithmic, 0.01, false, "Of frequencies, or of speeds of a tape"},
    Parameter{"value", "Note value", Unit::Beats, 0.015625, 64.0, 0.5, Scale::Logarithmic, 0.05, false, "As 1/8, 1/8T for triplets, 1/8. dotted, or in beats"},
    Parameter{"ms", "Time", Unit::Milliseconds, 0.1, 600000.0, 250.0, Scale::Logarithmic, 0.01, false, "At the tempo under the playhead"},
    Parameter{"ticks", "Ticks", Unit::None, 1.0, 100000.0, 120.0, Scale::Whole, 1.0, false, "960 to the quarter"},
    Parameter{"note", "Note", Unit::Pitch, 0.0, 127.0, 69.0, Scale::Whole, 1.0, false, "As A4 or Bb2"},
    Parameter{"hz", "Frequency", Unit::Hertz, 8.0, 20000.0, 440.0, Scale::Logarithmic, 0.01, false, "In the song's tuning"},
    Parameter{"partial", "Partial", Unit::None, 1.0, 64.0, 3.0, Scale::Whole, 1.0, false, "1 is the note itself"},
    Parameter{"db", "Level", Unit::Decibels, -60.0, 24.0, -6.0, Scale::Linear, 0.1, false, "Of a duck, a send, a mix"},
    Parameter{"left", "Left of it", Unit::Share, 0.001, 16.0, 0.5, Scale::Logarithmic, 0.01, false, "Of the amplitude"},
    Parameter{"bend", "Bend", Unit::Cents, -4800.0, 4800.0, 100.0, Scale::Linear, 1.0, false, "How far the pitch is bent"},
    Parameter{"height", "Height", Unit::Share, -1.0, 1.0, 0.5, Scale::Linear, 0.001, false, "Of the wheel or the curve, of its range"},
    Parameter{"range", "Range", Unit::Semitones, 1.0, 48.0, 2.0, Scale::Whole, 1.0, false, "To either side"},
};
const Parameter& row(std::string_view id) { return kRows[*index_of_field(kRows, id)]; }

}  // namespace

Reckoner::Reckoner(Session& session, QWidget* parent) : QDialog(parent), session_(session) {
    setWindowTitle(tr("Reckoner"));
    setObjectName("reckoner");
    grid_ = new QGridLayout(this);
    grid_->setHorizontalSpacing(12);
    grid_->setColumnStretch(4, 1);
    pair(
        "pitch", tr("Pitch and speed"), row("semitones"), row("ratio"), [](double v) { return std::exp2(v / 12.0); },
        [](double v) { return 12.0 * std::log2(v); });
    pair(
        "time", tr("Note value"), row("value"), row("ms"), [this](double v) { return 1000.0 * v * quarter_s(); },
        [this](double v) { return v / 1000.0 / quarter_s(); });
    pair(
        "ticks", tr("Ticks"), row("ticks"), row("ms"), [this](double v) { return 1000.0 * v / kTicksPerQuarter * quarter_s(); },
        [this](double v) { return v / 1000.0 / quarter_s() * kTicksPerQuarter; });
    auto* note = pair(
        "note", tr("Note"), row("note"), row("hz"), [this](double v) { return hertz_of(v, a4_hz()); }, [this](double v) { return fw::pitch_of(v, a4_hz()); });
    auto* partial = pair(
        "partial", tr("Its partial"), row("partial"), row("hz"), [this, note](double v) { return v * hertz_of(note->value(), a4_hz()); },
        [this, note](double v) { return v / hertz_of(note->value(), a4_hz()); });
    pair(
        "level", tr("Level"), row("db"), row("left"), [](double v) { return std::pow(10.0, v / 20.0); }, [](double v) { return 20.0 * std::log10(v); });
    auto* range = new ParameterField(row("range"));
    auto* bend = pair(
        "bend", tr("Bend"), row("bend"), row("height"), [range](double v) { return v / (100.0 * range->value()); },
        [range](double v) { return v * 100.0 * range->value(); });
    range->setObjectName("range");
    range->setToolTip(row("range").help);
    grid_->addWidget(range, grid_->rowCount() - 1, 4);
    // What rests on another number follows it.
    const auto again = [](ParameterField* left) { return [left] { emit left->valueChanged(left->value()); }; };
    connect(note, &QDoubleSpinBox::valueChanged, partial, again(partial));
    connect(range, &QDoubleSpinBox::valueChanged, bend, again(bend));
    // How far a frequency lies from the nearest key.
    for (const char* name : {"note", "partial"}) {
        auto* hz = findChild<ParameterField*>(QString("%1 right").arg(name));
        auto* label = new QLabel;
        label->setObjectName(QString("%1 nearest").arg(name));
        int at = 0, column = 0, rows = 0, columns = 0;
        grid_->getItemPosition(grid_->indexOf(hz), &at, &column, &rows, &columns);
        grid_->addWidget(label, at, 4);
        const auto tell = [this, hz, label] {
            const double pitch = fw::pitch_of(hz->value(), a4_hz()), nearest = std::round(pitch);
            const long cents = std::lround(100.0 * (pitch - nearest));
            label->setText(
                tr("%1 %2%3 cents").arg(QString::fromStdString(note_name(static_cast<int>(nearest), false)), cents < 0 ? "−" : "+").arg(std::abs(cents)));
        };
        connect(hz, &QDoubleSpinBox::valueChanged, label, tell);
        tell();
    }
    auto* foot = new QLabel(tr("Times at the tempo under the playhead, frequencies in the tuning of the rebuild."));
    foot->setObjectName("note");
    grid_->addWidget(foot, grid_->rowCount(), 0, 1, 5);
}

double Reckoner::quarter_s() const {
    const Song& song = *session_.remake().song;
    const Ticks at = song.tempo.nearest_tick(session_.transport().position_s());
    const double s = song.tempo.seconds(at + kTicksPerQuarter) - song.tempo.seconds(at);
    return s > 0.0 ? s : 0.5;
}

double Reckoner::a4_hz() const { return hertz_of(69.0 + session_.remake().song->rebuild_tuning_cents() / 100.0); }

ParameterField* Reckoner::pair(const char* object, const QString& name, const Parameter& left_row, const Parameter& right_row, const Sum& there,
                               const Sum& back) {
    auto *left = new ParameterField(left_row), *right = new ParameterField(right_row);
    left->setObjectName(QString("%1 left").arg(object));
    right->setObjectName(QString("%1 right").arg(object));
    for (auto* box : {left, right}) {
        box->setFixedWidth(118);
        box->setToolTip(QString("%1: %2").arg(tr(box->row().label), tr(box->row().help)));
    }
    connect(left, &QDoubleSpinBox::valueChanged, right, [right, there](double v) { right->setValue(clamped(right->row(), there(v))); });
    connect(right, &QDoubleSpinBox::valueChanged, left, [left, back](double v) {
        const QSignalBlocker quiet(left);  // the one that was changed stays as it is
        left->setValue(clamped(left->row(), back(v)));
    });
    const int at = grid_->rowCount();
    grid_->addWidget(new QLabel(name), at, 0);
    grid_->addWidget(left, at, 1);
    grid_->addWidget(new QLabel("="), at, 2);
    grid_->addWidget(right, at, 3);
    right->setValue(clamped(right_row, there(left->value())));
    return left;
}

}  // namespace fw::app

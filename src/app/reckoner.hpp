// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/number_field.hpp"

#include <QDialog>
#include <functional>

class QGridLayout;
class QLabel;

namespace fw::app {

/// The sums of the trade, each both ways: semitones and ratio, note values and milliseconds at the tempo under the playhead, notes and hertz in the song's
/// tuning, partials, decibels and what is left, a bend and the height of its curve. It changes nothing.
class Reckoner final : public QDialog {
    Q_OBJECT

public:
    Reckoner(Session& session, QWidget* parent);

private:
    using Sum = std::function<double(double)>;
    /// Two numbers that say the same; changing one changes the other.
    ParameterField* pair(const char* object, const QString& name, const Parameter& left, const Parameter& right, const Sum& there, const Sum& back);
    QLabel* beside(int row);
    double quarter_s() const;
    double a4_hz() const;
    Session& session_;
    QGridLayout* grid_ = nullptr;
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/number_field.hpp"
#include "app/words.hpp"

#include "app/move_recorder.hpp"
#include "app/theme.hpp"

#include <QLineEdit>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>
#include <utility>

namespace fw::app {

namespace {
constexpr double kPixelsPerStep = 4.0;
}

NumberField::NumberField(double value, double low, double high, double step, const QString& suffix, int decimals, QWidget* parent) : QDoubleSpinBox(parent) {
    setButtonSymbols(QAbstractSpinBox::NoButtons);
    setRange(low, high);
    setDecimals(decimals);
    setSingleStep(step);
    setValue(value);
    setSuffix(suffix);
    setFont(figure_font(9));
    setAlignment(Qt::AlignRight);
    setFocusPolicy(Qt::StrongFocus);
    setKeyboardTracking(false);
    lineEdit()->setCursor(Qt::SizeVerCursor);
    lineEdit()->installEventFilter(this);
}

double NumberField::stepped(double from, int steps) const { return from + steps * singleStep(); }

void NumberField::stepBy(int steps) {
    setValue(stepped(value(), steps));
    selectAll();
}

bool NumberField::eventFilter(QObject* watched, QEvent* event) {
    if (watched == lineEdit()) {
        if (event->type() == QEvent::MouseButtonPress) {
            pressed_ = true;
            dragging_ = false;
            press_y_ = static_cast<QMouseEvent*>(event)->globalPosition().y();
            pressed_value_ = value();
        } else if (event->type() == QEvent::MouseMove && pressed_) {
            const double moved = press_y_ - static_cast<QMouseEvent*>(event)->globalPosition().y();
            dragging_ = dragging_ || std::abs(moved) > kPixelsPerStep;
            if (dragging_) {
                setValue(stepped(pressed_value_, static_cast<int>(std::lround(moved / kPixelsPerStep))));
                return true;
            }
        } else if (event->type() == QEvent::MouseButtonRelease) {
            const bool dragged = std::exchange(dragging_, false);
            pressed_ = false;
            emit let_go();
            if (dragged) {
                lineEdit()->deselect();
                return true;
            }
        }
    }
    return QDoubleSpinBox::eventFilter(watched, event);
}

void NumberField::wheelEvent(QWheelEvent* event) { hasFocus() ? QDoubleSpinBox::wheelEvent(event) : event->ignore(); }

ParameterField::ParameterField(const Parameter& row, QWidget* parent) : NumberField(row.neutral, row.low, row.high, row.step, {}, 6, parent), row_(row) {
    setValue(row.neutral);  // shown as the row says: before, the number was written
}

double ParameterField::stepped(double from, int steps) const {
    if (row_.scale == Scale::Logarithmic) return clamped(row_, from * std::pow(1.0 + row_.step, steps));
    return clamped(row_, from + steps * row_.step);
}

QString ParameterField::textFromValue(double value) const { return QString::fromStdString(value_text(row_, value)); }

double ParameterField::valueFromText(const QString& text) const { return parse_value(row_, text.toStdString()).value_or(value()); }

QValidator::State ParameterField::validate(QString& text, int&) const {
    return parse_value(row_, text.toStdString()) ? QValidator::Acceptable : QValidator::Intermediate;
}

FieldBox::FieldBox(Session& session, FieldRef field, const Parameter& row, QWidget* parent)
    : ParameterField(row, parent), session_(session), field_(std::move(field)) {
    setObjectName(QString::fromStdString(field_.field));
    setToolTip(tr("%1: %2\n%3. Drag up and down, type, or use the arrow keys; double-click the name to reset.")
                   .arg(row.label, row.help, QString::fromStdString(range_text(row))));
    setFixedWidth(84);
    follow();
    connect(this, &QDoubleSpinBox::valueChanged, this, [this](double v) {
        if (!section_ && session_.moves().moved(field_, row_, v)) return;
        const std::string key = "field " + about("").text() + field_.field;
        session_.documents().run(about("field.set").with("field", field_.field).with("value", value_text(row_, v)), QString::fromStdString(key));
        follow();  // where it was refused
    });
    connect(this, &NumberField::let_go, &session_.moves(), &MoveRecorder::let_go);
    connect(this, &NumberField::let_go, &session_.documents(), &DocumentStore::end_gesture);
    connect(this, &QDoubleSpinBox::editingFinished, &session_.documents(), &DocumentStore::end_gesture);
    connect(&session_, &Session::document_changed, this, &FieldBox::follow);
}

Line FieldBox::about(const char* command) const {
    Line line(command);
    name_owner(line, session_.remake(), field_.owner);
    if (section_) line.with("section", section_text(session_.remake(), section_));
    return line;
}

void FieldBox::follow() {
    auto now = field_value(session_.remake(), field_);
    if (!now) return;
    bool held = false;
    for (const SectionSetting& s : session_.remake().automation->settings)
        if (s.field == field_ && section_ && s.section == section_) now = s.value, held = true;
    if (const auto recorded = session_.moves().held(field_)) now = recorded;
    const QSignalBlocker quiet(this);
    setValue(*now);
    QFont f = figure_font(9);
    f.setBold(held);
    setFont(f);
}

void FieldBox::set_section(SectionId section) {
    section_ = row_.moves ? section : SectionId();
    follow();
}

void FieldBox::reset() { session_.documents().run(about("field.reset").with("field", field_.field)); }

}  // namespace fw::app

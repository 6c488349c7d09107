// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"
#include "base/parameter.hpp"

#include <QDoubleSpinBox>

namespace fw::app {

/// A number with its unit: type it, step it with the arrow keys, or drag it up and down with the mouse.
class NumberField : public QDoubleSpinBox {
    Q_OBJECT

public:
    NumberField(double value, double low, double high, double step, const QString& suffix, int decimals, QWidget* parent = nullptr);
    /// While the mouse drags it: then whoever owns it must let it live.
    bool in_hand() const { return pressed_; }

signals:
    /// The mouse has let go of it.
    void let_go();

protected:
    /// The value so many steps from another.
    virtual double stepped(double from, int steps) const;
    void stepBy(int steps) override;
    bool eventFilter(QObject* watched, QEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;

private:
    double pressed_value_ = 0.0;
    double press_y_ = 0.0;
    bool dragging_ = false, pressed_ = false;
};

/// A number shown, typed, dragged and stepped as a field's row says.
class ParameterField : public NumberField {
    Q_OBJECT

public:
    /// row must outlive the box, as all rows do.
    explicit ParameterField(const Parameter& row, QWidget* parent = nullptr);
    const Parameter& row() const { return row_; }

protected:
    double stepped(double from, int steps) const override;
    QString textFromValue(double value) const override;
    double valueFromText(const QString& text) const override;
    QValidator::State validate(QString& text, int& at) const override;
    const Parameter& row_;
};

/// A field of the document: shown, typed, dragged and stepped as its row says, and set by a command. It follows the document in place and lives as long as
/// its owner does.
class FieldBox final : public ParameterField {
    Q_OBJECT

public:
    FieldBox(Session& session, FieldRef field, const Parameter& row, QWidget* parent = nullptr);
    const FieldRef& field() const { return field_; }
    /// In which section values are shown and set; none: the whole song.
    void set_section(SectionId section);
    /// Back to where the field starts, or to the song's value in a section.
    void reset();

private:
    void follow();
    Line about(const char* command) const;
    Session& session_;
    FieldRef field_;
    SectionId section_;
};

}  // namespace fw::app

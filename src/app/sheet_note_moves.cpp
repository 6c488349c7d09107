// SPDX-License-Identifier: GPL-3.0-or-later
// Fields that each note moves anew, on a sound sheet: where each goes, in what time, and the way it takes.
#include "app/calm_combo.hpp"
#include "app/painting.hpp"
#include "app/sheet_widgets.hpp"
#include "app/sound_sheet.hpp"
#include "app/words.hpp"
#include "model/note_move.hpp"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QVBoxLayout>

namespace fw::app {

namespace {

/// The way a note moves a field, from its beginning until it has come back; the mark on the ground is where the note ends.
class WayPicture final : public QWidget {
public:
    WayPicture(Session& session, FieldRef field) : session_(session), field_(std::move(field)) {
        setFixedSize(132, 44);
        setObjectName("note_way");
        setToolTip(tr("The way each note takes; the mark is where the note ends"));
        connect(&session_, &Session::document_changed, this, [this] { update(); });
    }

protected:
    void paintEvent(QPaintEvent*) override {
        const NoteMove* m = session_.remake().automation->note_move(field_);
        if (!m) return;
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        const QRectF area = QRectF(rect()).adjusted(2, 4, -2, -6);
        // Held as long as it takes to fall, so that all of it is seen.
        const double held_s = (m->attack_ms + m->decay_ms) / 1000.0 * 1.2, whole_s = held_s + m->release_ms / 1000.0 * 1.1;
        const auto x_of = [&](double s) { return area.left() + area.width() * s / whole_s; };
        p.setPen(theme().hairline);
        p.drawLine(area.bottomLeft(), area.bottomRight());
        QPolygonF way{area.bottomLeft()};
        constexpr int kPieces = 128;
        for (int k = 0; k <= kPieces; ++k) {
            const double s = whole_s * k / kPieces;
            way << QPointF(x_of(s), area.bottom() - area.height() * note_way(*m, s, held_s));
        }
        p.setPen(QPen(theme().rebuild, 1.6));
        p.drawPolyline(way);
        p.setPen(theme().faint);
        p.drawLine(QPointF(x_of(held_s), area.bottom()), QPointF(x_of(held_s), area.bottom() + 5));
    }

private:
    Session& session_;
    FieldRef field_;
};

}  // namespace

void SoundSheet::move_by_notes_entry(QMenu& menu, const FieldRef& field, const Parameter& row) {
    const NoteMove* move = session_.remake().automation->note_move(field);
    auto* entry = menu.addAction(move ? tr("No longer moved by notes") : tr("Let each note move it"), this, [this, field, &row, moved = move != nullptr] {
        const Remake& r = session_.remake();
        Line line("field.by-notes");
        name_owner(line, r, field.owner).with("field", field.field);
        if (moved) {
            line.with("on", "off");
        } else {
            // Up to half of what is left of its range: to be heard, and to be changed.
            const double at = position_of(row, field_value(r, field).value_or(row.neutral));
            line.with("to", value_text(row, value_at(row, at < 0.75 ? at + 0.5 * (1.0 - at) : 0.5 * at)));
            if (const Part* part = session_.selection().part()) line.with("of", part_text(r, part->id));
        }
        session_.documents().run(line);
    });
    entry->setObjectName("move_by_notes");
    menu.addSeparator();
}

void SoundSheet::note_move_lines() {
    const Remake& r = session_.remake();
    const Part* part = session_.selection().part();
    if (!part) return;
    std::vector<const NoteMove*> shown;
    for (const NoteMove& m : r.automation->by_notes)
        if (find_field(r, m.field)) {
            // A bus's or the master's are everybody's.
            const PartId of = part_of(r, m.field.owner);
            if (m.by == part->id || !of || of == part->id) shown.push_back(&m);
        }
    if (shown.empty()) return;
    heading(tr("Moved by each note"));
    for (const NoteMove* move : shown) {
        const Parameter& field_row = *find_field(r, move->field);
        const FieldRef field = move->field;
        const auto run = [this, field](const char* argument, const std::string& value, bool dragging) {
            Line line("field.by-notes");
            name_owner(line, session_.remake(), field.owner).with("field", field.field).with(argument, value);
            session_.documents().run(line, dragging ? QString("note move %1").arg(argument) : QString());
        };
        auto* top = new QHBoxLayout;
        top->setSpacing(6);
        auto* name = new QLabel(QString("%1: %2").arg(words(owner_name(r, field.owner)), tr(field_row.label)));
        name->setMinimumWidth(180);
        top->addWidget(name);
        const auto box = [&](QHBoxLayout* into, const Parameter& row, const char* argument, const QString& label, const QString& help, auto value_of) {
            auto* number = new ParameterField(row);
            number->setObjectName(QString("note_move_%1").arg(argument));
            number->setToolTip(help);
            number->setFixedWidth(84);
            const auto show = [this, number, field, value_of] {
                const NoteMove* now = session_.remake().automation->note_move(field);
                const QSignalBlocker quiet(number);
                if (now && !number->in_hand()) number->setValue(value_of(*now));
            };
            show();
            connect(&session_, &Session::document_changed, number, show);
            connect(number, &QDoubleSpinBox::valueChanged, this, [run, argument, &row](double v) { run(argument, value_text(row, v), true); });
            connect(number, &NumberField::let_go, &session_.documents(), &DocumentStore::end_gesture);
            into->addWidget(new QLabel(label));
            into->addWidget(number);
        };
        box(top, field_row, "to", tr("to"), tr("Where each note takes it"), [](const NoteMove& m) { return m.to; });
        top->addWidget(new QLabel(tr("with notes of")));
        auto* by = new CalmCombo;
        by->setObjectName("note_move_of");
        by->setToolTip(tr("Whose notes move it"));
        for (const auto& p : r.parts) {
            by->addItem(words(p->name), words(part_text(r, p->id)));
            if (p->id == move->by) by->setCurrentIndex(by->count() - 1);
        }
        connect(by, &QComboBox::activated, this, [run, by] { run("of", by->currentData().toString().toStdString(), false); });
        top->addWidget(by);
        top->addStretch(1);
        auto* gone = small_button("×", tr("Let notes leave it alone"), "remove_note_move");
        connect(gone, &QToolButton::clicked, this, [run] { run("on", "off", false); });
        top->addWidget(gone);
        column_->addLayout(top);
        auto* below = new QHBoxLayout;
        below->setContentsMargins(26, 0, 0, 6);
        below->setSpacing(6);
        below->addWidget(new WayPicture(session_, field));
        auto* numbers = new QVBoxLayout;
        numbers->setSpacing(2);
        for (std::size_t f = 0; f < kNoteMoveFields.size();) {
            auto* row = new QHBoxLayout;
            row->setSpacing(6);
            for (int k = 0; k < 3 && f < kNoteMoveFields.size(); ++k, ++f)
                box(row, kNoteMoveFields[f], kNoteMoveFields[f].id, tr(kNoteMoveFields[f].label), tr(kNoteMoveFields[f].help),
                    [f](const NoteMove& m) { return m.*kNoteMoveMembers[f]; });
            row->addStretch(1);
            numbers->addLayout(row);
        }
        below->addLayout(numbers, 1);
        column_->addLayout(below);
    }
}

}  // namespace fw::app

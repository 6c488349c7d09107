// SPDX-License-Identifier: GPL-3.0-or-later
// Macros on a sound sheet: one control that moves many fields, and what it moves.
#include "app/sheet_widgets.hpp"
#include "app/sound_sheet.hpp"
#include "app/words.hpp"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QVBoxLayout>

namespace fw::app {

QMenu* SoundSheet::movers_menu(const FieldRef& field) {
    auto* menu = new QMenu;
    menu->setObjectName("movers_menu");
    const Parameter* row = find_field(session_.remake(), field);
    if (!row || !row->moves || std::holds_alternative<MacroId>(field.owner)) {
        menu->addAction(tr("Neither a macro nor notes can move it"))->setEnabled(false);
        return menu;
    }
    move_by_notes_entry(*menu, field, *row);
    const auto target = [this, field](const std::string& macro, const char* command) {
        Line line(command);
        session_.documents().run(name_owner(line, session_.remake(), field.owner).with("field", field.field).with("by", macro), "macro");
    };
    for (const Macro& m : session_.remake().automation->macros) {
        const bool moved = std::any_of(m.targets.begin(), m.targets.end(), [&](const MacroTarget& t) { return t.field == field; });
        menu->addAction(moved ? tr("No longer moved by %1").arg(words(m.name)) : tr("Let %1 move it").arg(words(m.name)), this,
                        [target, name = m.name, moved] { target(name, moved ? "macro.untarget" : "macro.target"); });
    }
    if (!menu->isEmpty()) menu->addSeparator();
    menu->addAction(tr("Let a new macro move it…"), this, [this, target] {
        bool ok = false;
        const QString name = QInputDialog::getText(this, tr("New macro"), tr("What the control is called:"), QLineEdit::Normal, tr("Open up"), &ok).trimmed();
        if (!ok || name.isEmpty()) return;
        session_.documents().end_gesture();
        if (session_.documents().run(Line("macro.add").with("name", name.toStdString()), "macro")) target(name.toStdString(), "macro.target");
        session_.documents().end_gesture();
    });
    return menu;
}

void SoundSheet::macro_lines() {
    const Remake& r = session_.remake();
    if (r.automation->macros.empty()) return;
    heading(tr("Macros"));
    for (const Macro& m : r.automation->macros) {
        auto* row = line(m.id, words(m.name));
        fields_of_line(row, m.id, {"amount"});
        row->addWidget(new QLabel(m.targets.empty() ? tr("moves nothing yet: right button on a field's name")
                                                    : tr("moves %n fields", nullptr, static_cast<int>(m.targets.size()))));
        end_of_line(row, m.id, Line("macro.remove").with("macro", m.name), tr("macro"));
        if (!unfolded_.contains(key_of(m.id))) continue;
        for (const MacroTarget& t : m.targets) {
            const Parameter* field_row = find_field(r, t.field);
            if (!field_row) continue;
            auto* of = new QHBoxLayout;
            of->setContentsMargins(26, 0, 0, 0);
            auto* name = new QLabel(QString("%1: %2").arg(words(owner_name(r, t.field.owner)), tr(field_row->label)));
            name->setMinimumWidth(220);
            of->addWidget(name);
            const auto end = [&](const char* which, const QString& text, double value) {
                auto* box = new ParameterField(*field_row);
                box->setObjectName(QString("macro_%1").arg(which));
                box->setToolTip(text);
                box->setFixedWidth(84);
                {
                    const QSignalBlocker quiet(box);
                    box->setValue(value);
                }
                connect(box, &QDoubleSpinBox::valueChanged, this, [this, which, field_row, id = m.id, field = t.field](double v) {
                    const Macro* now = session_.remake().automation->macro(id);
                    if (!now) return;
                    for (const MacroTarget& x : now->targets) {
                        if (x.field != field) continue;
                        const bool first = std::string_view(which) == "from";
                        Line set("macro.target");
                        name_owner(set, session_.remake(), field.owner)
                            .with("field", field.field)
                            .with("by", now->name)
                            .with("from", value_text(*field_row, first ? v : x.from))
                            .with("to", value_text(*field_row, first ? x.to : v));
                        session_.documents().run(set, QString("macro range %1").arg(which));
                        return;
                    }
                });
                connect(box, &NumberField::let_go, &session_.documents(), &DocumentStore::end_gesture);
                of->addWidget(box);
            };
            end("from", tr("Its value at 0 %"), t.from);
            of->addWidget(new QLabel(tr("to")));
            end("to", tr("Its value at 100 %"), t.to);
            of->addStretch(1);
            auto* gone = small_button("×", tr("Let the macro leave it alone"), "remove_target");
            connect(gone, &QToolButton::clicked, this, [this, macro = m.name, field = t.field] {
                Line line("macro.untarget");
                session_.documents().run(name_owner(line, session_.remake(), field.owner).with("field", field.field).with("by", macro));
            });
            of->addWidget(gone);
            column_->addLayout(of);
        }
    }
}

}  // namespace fw::app

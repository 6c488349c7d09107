// SPDX-License-Identifier: GPL-3.0-or-later
// The steps of a part, a bus or the master on a sound sheet.
#include "app/calm_combo.hpp"
#include "app/sheet_widgets.hpp"
#include "app/sound_sheet.hpp"
#include "app/words.hpp"
#include "engine/clip_sound.hpp"
#include "fit/before.hpp"

#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>
#include <cmath>

namespace fw::app {

namespace {

/// The values that tell most of a step.
std::vector<std::string> telling(const StepType& type) {
    std::vector<std::string> some(type.telling.begin(), type.telling.end());
    if (some.empty())
        for (const Parameter& p : type.fields.first(std::min<std::size_t>(3, type.fields.size()))) some.emplace_back(p.id);
    return some;
}

}  // namespace

QMenu* SoundSheet::step_menu(const Chain& chain) {
    auto* menu = new QMenu;
    for (const StepType* type : step_types()) {
        auto* a = menu->addAction(type->label);
        a->setToolTip(type->help);
        connect(a, &QAction::triggered, this, [this, chain, type] {
            Line add("step.add");
            name_chain(add, session_.remake(), chain).with("kind", type->id);
            // A duck is set off by the drums' kick until something else is chosen.
            if (type->triggered)
                for (const auto& p : session_.remake().parts)
                    if (p->role == PartRole::Drums) {
                        add.with("by", part_text(session_.remake(), p->id)).with("sound", drum_sound(DrumKind::Kick).name);
                        break;
                    }
            if ((type == &kReverb || type == &kPlate || type == &kSpring) && !std::holds_alternative<PartId>(chain))
                add.with("mix", "100%");  // on a bus only the room is wanted
            session_.documents().run(add);
        });
    }
    auto* plug_ins = menu->addMenu(tr("Plug-ins"));
    plug_ins->setObjectName("plug_ins");
    connect(plug_ins, &QMenu::aboutToShow, this, [this, plug_ins, chain] {
        list_plug_ins(plug_ins, plug_in_steps(), tr("This machine has no LV2 effects"), [this, chain](const StepType& type) {
            Line add("step.add");
            session_.documents().run(name_chain(add, session_.remake(), chain).with("kind", type.id));
        });
    });
    menu->setToolTipsVisible(true);
    if (const PartId* part = std::get_if<PartId>(&chain)) {
        menu->addSeparator();
        for (const auto& [id, text] : {std::pair("steps.background", tr("Put it in the background")), std::pair("steps.thicken", tr("Thicken it")),
                                       std::pair("steps.amp", tr("Through an amplifier"))}) {
            auto* several = menu->addAction(text, this, [this, id = std::string(id), part = *part] {
                session_.documents().run(Line(id).with("part", part_text(session_.remake(), part)));
            });
            several->setObjectName(id);
            several->setToolTip(words(find_command(id)->help));
        }
    }
    return menu;
}

/// Stays down while what stands before the steps is heard.
QToolButton* SoundSheet::before_button(const Chain& chain, const std::vector<StepId>& steps, const QString& tip) {
    auto* b = small_button("◐", tip, "before");
    b->setCheckable(true);
    const auto show = [this, b, steps] { b->setChecked(before_ == steps); };
    show();
    connect(&session_, &Session::heard_instead, b, show);
    connect(&session_, &Session::document_changed, b, show);
    connect(b, &QToolButton::clicked, this, [this, chain, steps](bool down) {
        before_.clear();
        jobs_.cancel("before");
        if (!down) return session_.hear_instead(nullptr);
        before_ = steps;
        emit session_.heard_instead();  // another one goes up
        jobs_.run("before", tr("matching the loudness"),
                  [this, document = session_.documents().document(), chain, steps, sound = session_.recording().sound]() -> JobQueue::Work {
                      return [this, document, chain, steps, sound](const Progress& progress) -> Result<JobQueue::Delivery> {
                          auto before = before_steps(*document, chain, steps, {44100.0, assets_beside(sound)}, progress);
                          return JobQueue::Delivery([this, document, steps, before] {
                              if (before_ != steps || document != session_.documents().document()) return;
                              if (!before) {
                                  before_.clear();
                                  emit session_.heard_instead();
                                  emit session_.failed(of_core(before.error().message()));
                                  return;
                              }
                              session_.hear_instead(std::make_shared<const Remake>(before->remake));
                              const bool rebuild = session_.transport().player().source() != Source::Original;
                              emit session_.told(tr("Before: %1 dB %2 than behind it, made up for while you compare.%3")
                                                     .arg(std::abs(before->louder_db), 0, 'f', 1)
                                                     .arg(before->louder_db >= 0.0 ? tr("softer") : tr("louder"))
                                                     .arg(rebuild ? QString() : tr(" Choose Rebuild to hear it.")));
                          });
                      };
                  });
    });
    return b;
}

void SoundSheet::step_lines(const Chain& chain, const std::vector<Step>& steps) {
    for (std::size_t i = 0; i < steps.size(); ++i) {
        const Step& s = steps[i];
        const QString hear_before = tr("Before %1: hear it without this step, as loud as with it, until this is pressed again").arg(s.type->label);
        auto* row = line(s.id, s.type->label, before_button(chain, {s.id}, hear_before));
        if (s.type->triggered) {
            auto* by = new CalmCombo;
            by->setObjectName("trigger");
            by->setToolTip(tr("What sets it off"));
            by->addItem(tr("own notes"), QStringList{});
            for (const auto& p : session_.remake().parts) {
                by->addItem("by " + words(p->name), QStringList{words(part_text(session_.remake(), p->id))});
                if (s.trigger.part == p->id && s.trigger.key < 0) by->setCurrentIndex(by->count() - 1);
                if (p->role != PartRole::Drums) continue;
                for (const DrumSound& sound : drum_sounds()) {
                    by->addItem("by " + words(p->name) + ": " + sound.name, QStringList{words(part_text(session_.remake(), p->id)), sound.name});
                    if (s.trigger.part == p->id && s.trigger.key == sound.key) by->setCurrentIndex(by->count() - 1);
                }
            }
            connect(by, &QComboBox::activated, this, [this, by, id = s.id](int n) {
                const QStringList chosen = by->itemData(n).toStringList();
                Line set("step.trigger");
                name_owner(set, session_.remake(), id);
                if (chosen.isEmpty()) {
                    const Part* own = part_with(session_.remake(), id);
                    if (!own) return;
                    set.with("by", part_text(session_.remake(), own->id));
                } else {
                    set.with("by", chosen[0].toStdString());
                    if (chosen.size() > 1) set.with("sound", chosen[1].toStdString());
                }
                session_.documents().run(set);
            });
            row->addWidget(by);
        }
        const auto told = telling(*s.type);
        fields_of_line(row, s.id, told);
        const auto mover = [&](const QString& text, const QString& tip, const QString& object, std::size_t to) {
            auto* b = small_button(text, tip, object);
            connect(b, &QToolButton::clicked, this, [this, id = s.id, to] {
                Line move("step.move");
                session_.documents().run(name_owner(move, session_.remake(), id).with("to", std::to_string(to)));
            });
            row->addWidget(b);
            b->setEnabled(to >= 1 && to <= steps.size());
        };
        mover("↑", tr("Before the step above it"), "step_up", i);
        mover("↓", tr("Behind the step below it"), "step_down", i + 2);
        Line removal("step.remove");
        end_of_line(row, s.id, name_owner(removal, session_.remake(), s.id), "step");
        if (s.type == &kDuck) duck_leaves(s.id);
        if (s.type->plug_in) plug_in_line(s.id, *s.type->plug_in, s.state, s.file);
        unfolded(s.id, told);
    }
}

/// Decibels as what is left of the level, below the line, which has no room for it.
void SoundSheet::duck_leaves(StepId duck) {
    auto* left = new QLabel;
    left->setObjectName("duck_leaves");
    left->setContentsMargins(26, 0, 0, 2);
    const auto tell = [this, left, duck] {
        if (const auto db = field_value(session_.remake(), {duck, "depth"}))
            left->setText(tr("leaves %1 % of the level while it is down").arg(100.0 * std::pow(10.0, -*db / 20.0), 0, 'f', 0));
    };
    tell();
    connect(&session_, &Session::document_changed, left, tell);
    column_->addWidget(left);
}

}  // namespace fw::app

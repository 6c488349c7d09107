// SPDX-License-Identifier: GPL-3.0-or-later
// What of a sound sheet belongs to the whole song: buses, the master, clips.
#include "app/sheet_widgets.hpp"
#include "app/sound_sheet.hpp"
#include "app/words.hpp"

#include <QCheckBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QVBoxLayout>

namespace fw::app {

void SoundSheet::bus_lines() {
    const Remake& r = session_.remake();
    for (const Bus& b : r.mixer->buses) {
        heading(tr("Bus ") + words(b.name), [&](QHBoxLayout* head) {
            head->addWidget(menu_button(tr("Add step"), tr("An effect on the bus"), "add_bus_step", step_menu(b.id)));
            auto* gone = small_button("×", tr("Take the bus away; what goes there goes to the master"), "remove_bus");
            connect(gone, &QToolButton::clicked, this,
                    [this, id = b.id] { session_.documents().run(Line("bus.remove").with("bus", bus_text(session_.remake(), id))); });
            head->addWidget(gone);
        });
        step_lines(b.steps);
        auto* row = line(b.id, tr("to the master"));
        fields_of_line(row, b.id, {"level", "pan"});
    }
    heading(tr("Master"),
            [&](QHBoxLayout* head) { head->addWidget(menu_button(tr("Add step"), tr("An effect on the whole"), "add_master_step", step_menu(MasterRef{}))); });
    step_lines(r.mixer->master.steps);
    auto* row = line(MasterRef{}, "out");
    fields_of_line(row, MasterRef{}, {"level"});
}

void SoundSheet::clip_lines() {
    const Remake& r = session_.remake();
    if (r.clips->clips.empty()) return;
    heading(tr("Clips"));
    for (const Clip& c : r.clips->clips) {
        auto* row = new QHBoxLayout;
        row->setSpacing(6);
        const Asset* asset = r.clips->asset(c.asset);
        auto* name = new QLabel(words(c.name) + (asset && asset->origin == AssetOrigin::Original ? tr(", from the original") : ""));
        name->setMinimumWidth(180);
        row->addWidget(name);
        const auto text = [&](const char* object, const QString& label, const std::string& now, const char* command, const char* argument, const QString& tip) {
            row->addWidget(new QLabel(label));
            auto* edit = new QLineEdit(words(now));
            edit->setObjectName(object);
            edit->setToolTip(tip);
            // It may be said twice that editing is finished, the second time when the line goes.
            connect(edit, &QLineEdit::editingFinished, this, [this, edit, said = now, clip = c.id, command, argument]() mutable {
                if (edit->text().toStdString() == said) return;
                said = edit->text().toStdString();
                session_.documents().run(Line(command).with("clip", clip_text(session_.remake(), clip)).with(argument, said));
            });
            row->addWidget(edit, std::string_view(object) == "clip_recipe" ? 1 : 0);
            if (std::string_view(object) != "clip_recipe") edit->setFixedWidth(84);
        };
        if (asset && asset->origin != AssetOrigin::Original) {
            auto* keep = new QCheckBox(tr("in the file"));
            keep->setObjectName("clip_keep");
            keep->setToolTip(tr("Whether the remake file holds the sound, too, so that it is there wherever the file goes"));
            keep->setChecked(asset->kept);
            connect(keep, &QCheckBox::toggled, this, [this, clip = c.id](bool on) {
                session_.documents().run(Line("clip.keep").with("clip", clip_text(session_.remake(), clip)).with("on", on ? "on" : "off"));
            });
            row->addWidget(keep);
        }
        text("clip_place", c.ends_here ? tr("ends at") : "at", place_text(r.song->meter, c.start), "clip.move", "to",
             "Where: a bar (5), a beat (5.3), a section (verse 2)");
        text("clip_recipe", "recipe", recipe_text(c.recipe), "clip.recipe", "recipe",
             "What is done to the sound, in this order: trim 0 400, fade 2 20, reverse, gain -6, pitch -12, stretch 2");
        auto* gone = small_button("×", tr("Take the clip away"), "remove_clip");
        connect(gone, &QToolButton::clicked, this,
                [this, clip = c.id] { session_.documents().run(Line("clip.remove").with("clip", clip_text(session_.remake(), clip))); });
        row->addWidget(gone);
        column_->addLayout(row);
    }
}

}  // namespace fw::app

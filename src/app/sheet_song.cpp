// SPDX-License-Identifier: GPL-3.0-or-later
// What of a sound sheet belongs to the whole song: buses, the master, clips.
#include "app/calm_combo.hpp"
#include "app/place_sound.hpp"
#include "app/record_panel.hpp"
#include "app/sheet_widgets.hpp"
#include "app/sound_sheet.hpp"
#include "app/transition_menu.hpp"
#include "app/words.hpp"
#include "model/describe.hpp"
#include "model/fields.hpp"

#include <QCheckBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <cmath>

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
        step_lines(b.id, b.steps);
        auto* row = line(b.id, {});
        row->addWidget(output_box(
            "bus_output", tr("Where the bus goes"), b.output,
            [&](const Bus& other) { return !r.mixer->leads(other.id, b.id); },  // it would go round in a circle
            [this, id = b.id](const std::string& to) {
                Line set("bus.output");
                set.with("bus", bus_text(session_.remake(), id));
                if (!to.empty()) set.with("to", to);
                return set;
            }));
        fields_of_line(row, b.id, {"level", "pan"});
    }
    heading(tr("Master"), [&](QHBoxLayout* head) {
        auto* loud = new QPushButton(tr("As loud as the original"));
        loud->setObjectName("match_loudness");
        const auto tell = [this, loud] {
            const auto report = session_.report();
            const bool known = report && session_.rebuild_is_current() && !report->sound.tone.empty();
            loud->setEnabled(known);
            loud->setToolTip(known ? tr("Moves the master by %1 dB: both are then as loud as each other by their integrated loudness (ITU-R BS.1770)")
                                         .arg(report->sound.match_gain_db, 0, 'f', 1)
                                   : tr("The rebuild is being rendered: a moment"));
        };
        tell();
        connect(&session_, &Session::report_changed, loud, tell);
        connect(&session_, &Session::document_changed, loud, tell);
        connect(loud, &QPushButton::clicked, this, [this] {
            const auto report = session_.report();
            const Parameter& row = kMasterFields[0];
            if (!report) return;
            const double now = session_.remake().mixer->master.gain_db;
            session_.documents().run(Line("field.set")
                                         .with("master", "on")
                                         .with("field", row.id)
                                         .with("value", value_text(row, clamped(row, std::round(2.0 * (now + report->sound.match_gain_db)) / 2.0))));
        });
        head->addWidget(loud);
        head->addWidget(menu_button(tr("Add step"), tr("An effect on the whole"), "add_master_step", step_menu(MasterRef{})));
    });
    step_lines(MasterRef{}, r.mixer->master.steps);
    auto* row = line(MasterRef{}, "out");
    fields_of_line(row, MasterRef{}, {"level"});
}

void SoundSheet::clip_lines() {
    const Remake& r = session_.remake();
    heading(tr("Clips"), [&](QHBoxLayout* head) {
        auto* menu = new QMenu;
        // Filled as it opens, since the playhead is elsewhere by then.
        connect(menu, &QMenu::aboutToShow, this, [this, menu] {
            menu->clear();
            const Song& song = *session_.remake().song;
            const Ticks now = song.tempo.nearest_tick(session_.transport().position_s());
            const int bar = song.meter.position(now).bar;
            const Ticks line = song.meter.tick_of_bar(bar), next = song.meter.tick_of_bar(bar + 1), place = now - line < next - now ? line : next;
            menu->addSection(tr("at bar %1").arg(song.meter.position(place).bar));
            add_transitions(*menu, session_, place);
        });
        auto* file = new QPushButton(tr("Add sound…"));
        file->setObjectName("add_sound");
        file->setToolTip(tr("A sound file at the playhead; files can be dropped onto the arrangement, too"));
        connect(file, &QPushButton::clicked, this, [this] {
            const QString path = QFileDialog::getOpenFileName(this, tr("Sound to place at the playhead"), {},
                                                              tr("Sound (*.wav *.flac *.ogg *.oga *.mp3 *.aif *.aiff);;All files (*)"));
            if (!path.isEmpty()) place_sound(session_, path, session_.remake().song->tempo.nearest_tick(session_.transport().position_s()));
        });
        head->addWidget(file);
        auto* record = new QPushButton(tr("Record…"));
        record->setObjectName("record");
        record->setToolTip(tr("Your own voice or instrument over what plays, take by take"));
        connect(record, &QPushButton::clicked, this, [this] {
            if (!recording_) recording_ = new RecordPanel(session_, window());
            recording_->show();
            recording_->raise();
        });
        head->addWidget(record);
        head->addWidget(menu_button(tr("Add transition"), tr("A sound made to lead into the bar line at the playhead, or out of it, tuned to the key"),
                                    "add_transition", menu));
    });
    if (r.clips->clips.empty()) {
        auto* none = new QLabel(tr("No clip yet: pieces of the original, sound files and transitions stand here and beneath the arrangement."));
        none->setWordWrap(true);
        column_->addWidget(none);
    }
    constexpr int kName = 130, kIndent = 20;
    for (const Clip& c : r.clips->clips) {
        // Two rows a clip: where and how loud it is, and what is done to it.
        auto* row = new QHBoxLayout;
        row->setSpacing(6);
        auto* below = new QHBoxLayout;
        below->setSpacing(6);
        const Asset* asset = r.clips->asset(c.asset);
        const bool made = asset && asset->made.kind != Transition::None;
        auto* name = new QLabel(words(c.name) + (asset && asset->origin == AssetOrigin::Original ? tr(", from the original") : ""));
        name->setMinimumWidth(kName);
        name->setMaximumWidth(made ? kName : 2 * kName);
        row->addWidget(name);
        const auto text = [&](QHBoxLayout* to, const char* object, const QString& label, const std::string& now, const char* command, const char* argument,
                              const QString& tip) {
            to->addWidget(new QLabel(label));
            auto* edit = new QLineEdit(words(now));
            edit->setObjectName(object);
            edit->setToolTip(tip);
            // It may be said twice that editing is finished, the second time when the line goes.
            connect(edit, &QLineEdit::editingFinished, this, [this, edit, said = now, clip = c.id, command, argument]() mutable {
                if (edit->text().toStdString() == said) return;
                said = edit->text().toStdString();
                session_.documents().run(Line(command).with("clip", clip_text(session_.remake(), clip)).with(argument, said));
            });
            to->addWidget(edit, std::string_view(object) == "clip_recipe" ? 1 : 0);
            if (std::string_view(object) != "clip_recipe") edit->setFixedWidth(78);
        };
        if (asset && asset->origin != AssetOrigin::Original && !made) {
            auto* keep = new QCheckBox(tr("in the file"));
            keep->setObjectName("clip_keep");
            keep->setToolTip(tr("Whether the remake file holds the sound, too, so that it is there wherever the file goes"));
            keep->setChecked(asset->kept);
            connect(keep, &QCheckBox::toggled, this, [this, clip = c.id](bool on) {
                session_.documents().run(Line("clip.keep").with("clip", clip_text(session_.remake(), clip)).with("on", on ? "on" : "off"));
            });
            below->addWidget(keep);
        }
        if (made) {
            auto* kind = new CalmCombo;
            kind->setObjectName("clip_kind");
            kind->setToolTip(tr("What is made"));
            for (int k = 1; k < kTransitions; ++k)
                kind->addItem(transition_name(static_cast<Transition>(k)), QString(names::kTransitions[static_cast<std::size_t>(k)]));
            kind->setCurrentIndex(static_cast<int>(asset->made.kind) - 1);
            connect(kind, &QComboBox::activated, this, [this, kind, clip = c.id] {
                session_.documents().run(
                    Line("transition.change").with("clip", clip_text(session_.remake(), clip)).with("kind", kind->currentData().toString().toStdString()));
            });
            row->addWidget(kind);
            const auto length = static_cast<Ticks>(std::llround(asset->made.beats * kTicksPerQuarter));
            text(row, "clip_length", tr("over"), length_text(length), "transition.change", "length", tr("How long it is: 2 bars, 4 beats, 1/2"));
        }
        if (asset && asset->made.kind == Transition::None && asset->origin != AssetOrigin::Original) {  // whose name says so
            auto* origin = new QLabel(asset->origin == AssetOrigin::Recorded ? tr("your own recording")
                                      : asset->origin == AssetOrigin::Made   ? tr("made here")
                                                                             : tr("from a file"));
            origin->setObjectName("clip_origin");
            origin->setToolTip(words(asset->path));
            row->addWidget(origin);
        }
        text(row, "clip_level", tr("level"), value_text(rows::kLevel, c.gain_db), "clip.level", "level", tr("How loud it is: -6dB"));
        text(row, "clip_place", c.ends_here ? tr("ends at") : "at", place_text(r.song->meter, c.start), "clip.move", "to",
             "Where: a bar (5), a beat (5.3), a section (verse 2)");
        text(below, "clip_recipe", tr("done to it"), recipe_text(c.recipe), "clip.recipe", "recipe",
             tr("As it is done to the sound: %1").arg(find_command("clip.recipe")->arguments[1].help));
        if (!r.mixer->buses.empty())
            below->addWidget(output_box(
                "clip_output", tr("Where the clip goes"), c.output, [](const Bus&) { return true; },
                [this, clip = c.id](const std::string& bus) {
                    Line set("clip.output");
                    set.with("clip", clip_text(session_.remake(), clip));
                    if (!bus.empty()) set.with("bus", bus);
                    return set;
                }));
        row->addStretch(1);
        auto* gone = small_button("×", tr("Take the clip away"), "remove_clip");
        connect(gone, &QToolButton::clicked, this,
                [this, clip = c.id] { session_.documents().run(Line("clip.remove").with("clip", clip_text(session_.remake(), clip))); });
        row->addWidget(gone);
        column_->addLayout(row);
        below->insertSpacing(0, kIndent);
        column_->addLayout(below);
    }
}

}  // namespace fw::app

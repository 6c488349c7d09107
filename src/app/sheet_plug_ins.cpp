// SPDX-License-Identifier: GPL-3.0-or-later
// What a plug-in has on a sound sheet besides its fields: its presets, and the file it is given.
#include "app/sheet_widgets.hpp"
#include "app/sound_sheet.hpp"

#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPointer>
#include <QSettings>
#include <QVBoxLayout>

namespace fw::app {

void SoundSheet::plug_in_line(const FieldOwner& owner, const PlugIn& plug_in, const std::string& state, const std::string& file) {
    if (!plug_in.here) return;
    auto* row = new QHBoxLayout;
    row->setContentsMargins(26, 0, 0, 2);
    row->setSpacing(6);
    const auto button = [&](const QString& text, const QString& tip, const char* object) {
        auto* b = new QPushButton(text);
        b->setObjectName(object);
        b->setProperty("compact", true);
        b->setToolTip(tip);
        row->addWidget(b);
        return b;
    };
    auto* presets = button(tr("Presets…"), tr("What %1 comes with: all its fields are set as the one you choose has them").arg(words(plug_in.name)), "presets");
    connect(presets, &QPushButton::clicked, this, [this, owner, presets, type = &plug_in] { choose_preset(owner, *type, presets); });
    if (plug_in.takes_file) {
        auto* choose = button(file.empty() ? tr("File…") : QFileInfo(words(file)).fileName(),
                              file.empty() ? tr("A file that %1 is given, such as a sample").arg(words(plug_in.name)) : words(file), "plug_in_file");
        connect(choose, &QPushButton::clicked, this, [this, owner] {
            const QString chosen = QFileDialog::getOpenFileName(this, tr("File for the plug-in"), QSettings().value("samples").toString(), tr("All files (*)"));
            if (chosen.isEmpty()) return;
            QSettings().setValue("samples", QFileInfo(chosen).absolutePath());
            give_file(owner, chosen);
        });
    }
    if (!state.empty()) {
        auto* kept = new QLabel(tr("keeps a state of its own"));
        kept->setObjectName("own_state");
        kept->setToolTip(tr("Besides its fields it keeps what came with its preset; the remake file holds that, too"));
        row->addWidget(kept);
    }
    row->addStretch(1);
    column_->addLayout(row);
}

void SoundSheet::give_file(const FieldOwner& owner, const QString& file) {
    Line line(std::holds_alternative<LayerId>(owner) ? "layer.own" : "step.own");
    session_.documents().run(name_owner(line, session_.remake(), owner).with("file", file.toStdString()));
}

/// A menu below a button; asked of a process of its own, which takes a moment the first time.
void SoundSheet::choose_preset(const FieldOwner& owner, const PlugIn& plug_in, QWidget* below) {
    jobs_.run("presets", tr("asking for presets"), [this, owner, type = &plug_in, below = QPointer<QWidget>(below)]() -> JobQueue::Work {
        return [this, owner, type, below](const Progress&) -> Result<JobQueue::Delivery> {
            return JobQueue::Delivery([this, owner, below, all = &presets_of(*type)] {
                if (!below) return;
                auto* menu = new QMenu(this);
                menu->setObjectName("preset_menu");
                menu->setAttribute(Qt::WA_DeleteOnClose);
                for (const PlugInPreset& p : *all)
                    menu->addAction(words(p.name), this, [this, owner, name = p.name] {
                        Line line(std::holds_alternative<LayerId>(owner) ? "layer.preset" : "step.preset");
                        session_.documents().run(name_owner(line, session_.remake(), owner).with("preset", name));
                    });
                if (menu->isEmpty()) menu->addAction(tr("It comes with none"))->setEnabled(false);
                menu->popup(below->mapToGlobal(QPoint(0, below->height())));
            });
        };
    });
}

}  // namespace fw::app

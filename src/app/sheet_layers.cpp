// SPDX-License-Identifier: GPL-3.0-or-later
// The lines of a sound sheet that are layers.
#include "app/calm_combo.hpp"
#include "app/sheet_widgets.hpp"
#include "app/sound_sheet.hpp"
#include "app/words.hpp"
#include "sound/sources/soundfont.hpp"

#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSettings>

namespace fw::app {

QWidget* SoundSheet::instrument_box(const Part& part, const Layer& layer) {
    auto* box = new CalmCombo;
    box->setObjectName("instrument");
    box->setToolTip(tr("What the layer sounds with"));
    box->setMinimumWidth(132);
    const bool drums = part.role == PartRole::Drums;
    for (const SourceType* type : {&kSynth, &kDrumKit, &kDrumVoice})
        if ((type != &kSynth) == drums || layer.source == type)
            for (const std::string& patch : type->patches()) {
                box->addItem(words(patch), QStringList{type->id, words(patch), "0"});
                if (layer.source == type && layer.patch == patch) box->setCurrentIndex(box->count() - 1);
            }
    box->insertSeparator(box->count());
    for (int program = 0; program < (drums ? 1 : 128); ++program) {
        box->addItem(drums ? QString(tr("Sampled kit")) : words(general_midi_names()[static_cast<std::size_t>(program)]),
                     QStringList{kSoundFont.id, {}, QString::number(program)});
        if (layer.source == &kSoundFont && (drums || layer.program == program)) box->setCurrentIndex(box->count() - 1);
    }
    box->insertSeparator(box->count());
    if (layer.source == &kSampler) {
        box->addItem(layer_name(session_.remake(), layer));
        box->setCurrentIndex(box->count() - 1);
    }
    box->addItem(tr("Sound file…"), QStringList{kSampler.id, {}, {}});
    connect(box, &QComboBox::activated, this, [this, box, id = layer.id](int i) {
        const QStringList chosen = box->itemData(i).toStringList();
        if (chosen.size() != 3) return;
        if (chosen[0] == kSampler.id) return choose_sample(id);
        Line set("layer.source");
        name_owner(set, session_.remake(), id).with("source", chosen[0].toStdString());
        if (!chosen[1].isEmpty()) set.with("patch", chosen[1].toStdString());
        if (chosen[0] == kSoundFont.id) set.with("program", chosen[2].toStdString());
        session_.documents().run(set);
    });
    return box;
}

void SoundSheet::choose_sample(LayerId layer) {
    const QString file = QFileDialog::getOpenFileName(this, tr("Sound for the sampler"), QSettings().value("samples").toString(),
                                                      tr("Sounds (*.wav *.flac *.ogg *.aif *.aiff *.mp3);;All files (*)"));
    if (file.isEmpty()) {  // what was chosen before is shown again
        laid_out_.clear();
        return follow();
    }
    QSettings().setValue("samples", QFileInfo(file).absolutePath());
    Line set("layer.source");
    session_.documents().run(name_owner(set, session_.remake(), layer).with("source", kSampler.id).with("file", file.toStdString()));
}

void SoundSheet::layer_line(const Part& part, std::size_t index) {
    const Layer& l = part.layers[index];
    auto* row = line(l.id, {});
    row->addWidget(instrument_box(part, l));
    static const std::vector<std::string> kTold{"level", "octave", "offset_ms"};
    if (const Asset* asset = session_.remake().clips->asset(l.asset); asset && asset->origin == AssetOrigin::Original) {
        auto* mark = new QLabel(tr("from the original"));
        mark->setObjectName("from_original");
        mark->setToolTip(tr("It can be left out of all that is handed off"));
        row->addWidget(mark);
    }
    fields_of_line(row, l.id, kTold);
    auto* finder = new QPushButton(tr("Find…"));
    finder->setObjectName("find_sound");
    finder->setProperty("compact", true);
    finder->setToolTip(tr("A sound like the original's: among your folders and the shipped ones, fitted on the synth, or cut from the original"));
    connect(finder, &QPushButton::clicked, this, [this, part = part.id, layer = l.id] { emit finder_wanted(part, layer); });
    row->addWidget(finder);
    Line removal("layer.remove");
    end_of_line(row, l.id, name_owner(removal, session_.remake(), l.id), "layer");
    unfolded(l.id, kTold);
}

}  // namespace fw::app

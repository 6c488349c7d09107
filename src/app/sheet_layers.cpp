// SPDX-License-Identifier: GPL-3.0-or-later
// The lines of a sound sheet that are layers.
#include "app/calm_combo.hpp"
#include "app/painting.hpp"
#include "app/sheet_widgets.hpp"
#include "app/sound_sheet.hpp"
#include "app/words.hpp"
#include "audio/mono.hpp"
#include "dsp/likeness.hpp"
#include "engine/clip_sound.hpp"
#include "fit/manners.hpp"
#include "fit/moments.hpp"
#include "formats/sound_file.hpp"
#include "sound/sources/soundfont.hpp"

#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPainter>
#include <QPushButton>
#include <QSettings>
#include <algorithm>
#include <optional>

namespace fw::app {

namespace {

const QString kPlugInChoice = "plug-in";

/// A layer's share of its part, as a bar in our ink and a figure.
class LayerShare final : public QWidget {
public:
    LayerShare() {
        setObjectName("layer_share");
        setFixedSize(36, 20);
        setToolTip(QObject::tr("How much of the part's energy this layer makes on the note the part plays most"));
    }
    void show_share(std::optional<double> share) {
        share_ = share;
        setAccessibleName(share ? percent_text(*share) : QString());
        update();
    }

protected:
    void paintEvent(QPaintEvent*) override {
        if (!share_) return;
        QPainter p(this);
        p.fillRect(QRectF(0, 15, width() * *share_, 3), theme().rebuild);
        p.fillRect(QRectF(width() * *share_, 15, width() * (1.0 - *share_), 3), theme().hairline);
        p.setPen(theme().text);
        p.setFont(figure_font(8));
        p.drawText(QRectF(0, 0, width(), 14), Qt::AlignRight | Qt::AlignVCenter, percent_text(*share_));
    }

private:
    std::optional<double> share_;
};

}  // namespace

QWidget* SoundSheet::instrument_box(const Part& part, const Layer& layer) {
    auto* box = new CalmCombo;
    box->setObjectName("instrument");
    box->setToolTip(tr("What the layer sounds with"));
    box->setMinimumWidth(104);
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
    // Plug-ins are listed where the list is opened; until then only the one that plays is there.
    if (layer.source->plug_in) {
        box->addItem(words(layer.source->label));
        box->setItemData(box->count() - 1, words(layer.source->help), Qt::ToolTipRole);
        box->setCurrentIndex(box->count() - 1);
    }
    if (!drums) box->addItem(tr("Plug-in…"), QStringList{kPlugInChoice, {}, {}});
    if (layer.source == &kSampler) {
        box->addItem(layer_name(session_.remake(), layer));
        box->setCurrentIndex(box->count() - 1);
    }
    box->addItem(tr("Sound file…"), QStringList{kSampler.id, {}, {}});
    connect(box, &QComboBox::activated, this, [this, box, id = layer.id, plays = box->currentIndex()](int i) {
        const QStringList chosen = box->itemData(i).toStringList();
        if (chosen.size() != 3) return;
        if (chosen[0] == kSampler.id) return choose_sample(id);
        if (chosen[0] == kPlugInChoice) {
            box->setCurrentIndex(plays);  // until one is chosen
            return choose_plug_in(id, box);
        }
        Line set("layer.source");
        name_owner(set, session_.remake(), id).with("source", chosen[0].toStdString());
        if (!chosen[1].isEmpty()) set.with("patch", chosen[1].toStdString());
        if (chosen[0] == kSoundFont.id) set.with("program", chosen[2].toStdString());
        session_.documents().run(set);
    });
    return box;
}

/// A menu of this machine's instruments below the box.
void SoundSheet::choose_plug_in(LayerId id, QWidget* below) {
    auto* menu = new QMenu(this);
    menu->setObjectName("instrument_plug_ins");
    menu->setAttribute(Qt::WA_DeleteOnClose);
    list_plug_ins(menu, plug_in_sources(), tr("This machine has no LV2 instruments"), [this, id](const SourceType& type) {
        Line set("layer.source");
        session_.documents().run(name_owner(set, session_.remake(), id).with("source", type.id));
    });
    menu->popup(below->mapToGlobal(QPoint(0, below->height())));
}

/// How much of the part each layer makes: measured anew where its sound is another.
void SoundSheet::measure_shares() {
    const auto document = session_.documents().document();
    const Part* p = session_.selection().part();
    if (!p || p->layers.size() < 2 || session_.provisional()) return;
    const Part* was = shares_of_ && shares_part_ == p->id ? shares_of_->part(p->id) : nullptr;
    if (was && was->layers == p->layers && was->steps == p->steps) return;
    jobs_.run(
        "shares", tr("measuring layers"),
        [this, document, id = p->id, sound = session_.recording().sound]() -> JobQueue::Work {
            return [this, document, id, sound](const Progress&) -> Result<JobQueue::Delivery> {
                return JobQueue::Delivery([this, document, id, shares = layer_shares(*document, id, assets_beside(sound))] {
                    shares_of_ = document, shares_part_ = id, shares_ = shares;
                    emit shares_changed();
                });
            };
        },
        {}, JobQueue::Pace::Patient);
}

void SoundSheet::choose_sample(LayerId layer) {
    const QString file = QFileDialog::getOpenFileName(this, tr("Sound for the sampler"), QSettings().value("samples").toString(),
                                                      tr("Sounds and sampled instruments (*.wav *.flac *.ogg *.aif *.aiff *.mp3 *.sfz);;All files (*)"));
    if (file.isEmpty()) {  // what was chosen before is shown again
        laid_out_.clear();
        return follow();
    }
    QSettings().setValue("samples", QFileInfo(file).absolutePath());
    if (file.endsWith(".sfz", Qt::CaseInsensitive)) return recall_sound_from(file);
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
    if (part.layers.size() > 1) {
        auto* share = new LayerShare;
        connect(this, &SoundSheet::shares_changed, share, [this, share, id = l.id] {
            const auto at = std::find_if(shares_.begin(), shares_.end(), [&](const auto& s) { return s.first == id; });
            share->show_share(at == shares_.end() ? std::nullopt : std::optional(at->second));
        });
        row->addWidget(share);
    }
    auto* finder = new QPushButton(tr("Find…"));
    finder->setObjectName("find_sound");
    finder->setProperty("compact", true);
    finder->setToolTip(tr("A sound like the original's: among your folders and the shipped ones, fitted on the synth, or cut from the original"));
    connect(finder, &QPushButton::clicked, this, [this, part = part.id, layer = l.id] { emit finder_wanted(part, layer); });
    row->addWidget(finder);
    Line removal("layer.remove");
    end_of_line(row, l.id, name_owner(removal, session_.remake(), l.id), "layer");
    if (l.source->plug_in) plug_in_line(l.id, *l.source->plug_in, l.state, l.file);
    unfolded(l.id, kTold);
}

/// Of a sampler's layer that is unfolded: its loop, found where its sound is most like itself.
void SoundSheet::loop_line(LayerId layer) {
    auto* row = new QHBoxLayout;
    row->setContentsMargins(26, 0, 0, 2);
    auto* find = new QPushButton(tr("Find its loop"));
    find->setObjectName("find_loop");
    find->setToolTip(tr("Sets length and loop start to the two places at which its waveform is most alike, so that held notes go round unheard"));
    connect(find, &QPushButton::clicked, this, [this, layer] { find_loop(layer); });
    row->addWidget(find);
    row->addStretch(1);
    column_->addLayout(row);
}

void SoundSheet::find_loop(LayerId id) {
    const Layer* l = find_layer(session_.remake(), id);
    if (!l || l->source != &kSampler) return;
    const Asset* asset = session_.remake().clips->asset(l->asset);
    if (!asset && l->file.empty()) {
        emit session_.told(tr("The layer has no sound yet: choose a sound file first."));
        return;
    }
    jobs_.run("loop", tr("looking for a loop"),
              [this, id, asset = asset ? std::optional(*asset) : std::nullopt, file = l->file, start = l->value(*index_of_field(kSampler.fields, "start")),
               assets = assets_beside(session_.recording().sound)]() -> JobQueue::Work {
                  return [this, id, asset, file, start, assets](const Progress&) -> Result<JobQueue::Delivery> {
                      const auto sound = asset ? assets(*asset) : read_audio(file);
                      if (!sound) return sound.error();
                      const std::vector<float> mono = mono_of(*sound);
                      const auto from = static_cast<std::size_t>(start * static_cast<double>(mono.size()));
                      const auto round = find_round(std::span(mono).subspan(from), sound->sample_rate_hz);
                      const double played_s = static_cast<double>(mono.size() - from) / sound->sample_rate_hz;
                      return JobQueue::Delivery([this, id, round, played_s] {
                          if (!find_layer(session_.remake(), id)) return;
                          if (!round) {
                              emit session_.told(tr("Nowhere is it enough like itself to go round unheard: it is left as it is."));
                              return;
                          }
                          session_.documents().end_gesture();
                          for (const auto& [field, value] : loop_fields(*round, played_s)) {
                              Line line("field.set");
                              name_owner(line, session_.remake(), id).with("field", field);
                              session_.documents().run(line.with("value", exact_text(kSampler.fields[*index_of_field(kSampler.fields, field)], value)), "loop");
                          }
                          session_.documents().end_gesture();
                          emit session_.told(tr("It goes round from %1 to %2 ms, %3 alike.")
                                                 .arg(1000.0 * round->start_s, 0, 'f', 0)
                                                 .arg(1000.0 * round->end_s, 0, 'f', 0)
                                                 .arg(percent_text(round->likeness)));
                      });
                  };
              });
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
// The three ways to a sound, each a job: found, fitted, cut.
#include "app/kept_file.hpp"
#include "app/number_field.hpp"
#include "app/painting.hpp"
#include "app/sound_finder.hpp"
#include "app/words.hpp"
#include "base/pitch.hpp"
#include "fit/freed.hpp"
#include "fit/moments.hpp"
#include "formats/sound_file.hpp"

#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QProgressBar>
#include <QPushButton>
#include <QTreeWidget>
#include <algorithm>

namespace fw::app {

namespace {

/// Progress of a job on a bar, which outlives it.
Progress::Callback shows_on(QProgressBar* bar) {
    return [bar](double f, std::string_view) {
        QMetaObject::invokeMethod(
            bar, [bar, f] { bar->setValue(static_cast<int>(1000 * f)); }, Qt::QueuedConnection);
    };
}

}  // namespace

/// The moment that is chosen, cut out where it is called: in a job.
SoundFinder::Target SoundFinder::target() const {
    const ClearMoment* m = moment();
    const auto sound = session_.recording().sound;
    if (!m || !sound) return nullptr;
    const auto analysis = alone_->isChecked() ? session_.recording().analysis : nullptr;
    return [sound, analysis, m = *m, document = session_.documents().document(), part = part_, tuning = session_.remake().song->tuning_cents] {
        const double length_s = std::clamp(m.end_s - m.start_s, 0.15, 1.2);
        // A drum is struck by its own key, and has no tuning of the song's.
        const bool drum = m.pitch < 0;
        const double long_s = drum ? std::max(length_s, 0.4) : length_s;
        const double end_s = m.start_s + long_s;
        const Audio piece = analysis ? freed(*sound, *analysis, *document, part, m, end_s) : cut_out(*sound, m.start_s, end_s);
        return moment_from(piece, drum ? drum_sound(m.kind).key : m.pitch, 100, length_s, drum ? 0.0 : tuning);
    };
}

void SoundFinder::look() {
    if (!isVisible()) return;
    const auto opened = index();
    const Part* p = session_.remake().part(part_);
    if (!opened || !p) return;
    FindWish wish;
    wish.drums = p->role == PartRole::Drums;
    for (const QString& word : words_->text().split(' ', Qt::SkipEmptyParts)) wish.words.push_back(word.toLower().toStdString());
    for (const std::string_view word : ear_words())
        if (auto* b = findChild<QPushButton*>("ear_" + QString::fromUtf8(word.data(), static_cast<int>(word.size()))); b && b->isChecked())
            wish.words.emplace_back(word);
    const auto m = target();
    const double pitch_hz = moment() && moment()->pitch >= 0 ? hertz_of(moment()->pitch + session_.remake().song->tuning_cents / 100.0) : 0.0;
    jobs_.run("find", tr("looking for a sound"), [this, opened, wish, m, pitch_hz]() -> JobQueue::Work {
        return [this, opened, wish, m, pitch_hz](const Progress&) mutable -> Result<JobQueue::Delivery> {
            if (m) {
                wish.like = print_of(Audio{static_cast<int>(SoundTarget::kRate), 1, m().mono, {}});
                // The evidence knows the pitch better than a piece of the mix does.
                if (pitch_hz > 0.0) wish.like->pitch_hz = static_cast<float>(pitch_hz);
            }
            return JobQueue::Delivery([this, found = opened->find(wish)]() mutable {
                found_ = std::move(found);
                show_found();
            });
        };
    });
}

void SoundFinder::show_found() {
    const QSignalBlocker quiet(results_);
    results_->clear();
    for (const FoundSound& f : found_) {
        QStringList cells{QString::fromStdString(f.sound.name()), percent_text(f.fits)};
        if (f.like.all > 0.0) cells << percent_text(f.like.tone) << percent_text(f.like.envelope) << percent_text(f.like.pitch) << percent_text(f.like.noise);
        auto* item = new QTreeWidgetItem(cells);
        for (int c = 1; c < cells.size(); ++c) item->setTextAlignment(c, Qt::AlignRight | Qt::AlignVCenter);
        item->setToolTip(0, QString::fromStdString(f.sound.file.empty() ? f.sound.source->label : f.sound.file));
        results_->addTopLevelItem(item);
    }
    results_->setCurrentItem(nullptr);
}

void SoundFinder::tell_index() {
    if (!index_) return;
    const auto folders = index_->folders();
    index_told_->setText(tr("%1 sounds, %2 folders of yours").arg(index_->size()).arg(folders.size()));
}

void SoundFinder::add_folder(const QString& folder) {
    const auto opened = index();
    if (!opened) return;
    index_progress_->setValue(0);
    index_progress_->show();
    jobs_.run(
        "index", tr("listening to the sounds of %1").arg(folder),
        [this, opened, folder]() -> JobQueue::Work {
            return [this, opened, folder](const Progress& progress) -> Result<JobQueue::Delivery> {
                const auto done = opened->add_folder(folder.toStdString(), progress);
                if (!done) return done.error();
                return JobQueue::Delivery([this, done = *done] {
                    emit session_.told(done.unreadable.empty() ? tr("%1 sounds in the folder, %2 listened to anew.").arg(done.sounds).arg(done.looked_at)
                                                               : tr("%1 sounds in the folder, %2 listened to anew, %3 cannot be read: %4")
                                                                     .arg(done.sounds)
                                                                     .arg(done.looked_at)
                                                                     .arg(done.unreadable.size())
                                                                     .arg(of_core(done.unreadable.front())));
                });
            };
        },
        shows_on(index_progress_), JobQueue::Pace::Patient);
}

/// Whether what is chosen next can go into the layer; else what to do instead is said.
bool SoundFinder::ready_to_choose() {
    tried_.catch_up();
    if (find_layer(*tried_.from(), layer_)) return true;
    emit session_.told(tr("The layer this was opened for is gone: press Find… on another one."));
    return false;
}

/// The key of the drum that is meant: the layer's own where it is for one, else the moment's; -1 for none.
int SoundFinder::drum_key() const {
    const Layer& layer = *find_layer(*tried_.from(), layer_);
    return layer.low_key == layer.high_key ? static_cast<int>(layer.low_key) : moment() ? drum_sound(moment()->kind).key : -1;
}

Line SoundFinder::source_line(const SourceType& type) const {
    const Remake& from = *tried_.from();
    const Layer& layer = *find_layer(from, layer_);
    // A drum's sound stands beside the kit, on a layer of its own.
    const bool beside = from.part(part_)->role == PartRole::Drums && layer.low_key != layer.high_key;
    Line line(beside ? "part.add-layer" : "layer.source");
    if (beside) line.with("part", part_text(from, part_)).with("low_key", note_name(drum_key(), false)).with("high_key", note_name(drum_key(), false));
    else name_owner(line, from, layer_);
    return line.with("source", type.id);
}

const SourceType& SoundFinder::fitted_type() const {
    const Part* part = session_.remake().part(part_);
    const Layer* layer = find_layer(session_.remake(), layer_);
    if (layer && layer->source == &kSampler) return kSampler;
    return part && part->role == PartRole::Drums ? kDrumVoice : kSynth;
}

void SoundFinder::take_found(int row) {
    if (row < 0 || row >= static_cast<int>(found_.size()) || !ready_to_choose()) return;
    const KnownSound& s = found_[static_cast<std::size_t>(row)].sound;
    const Remake& from = *tried_.from();
    const bool drums = from.part(part_)->role == PartRole::Drums;
    if (drums && drum_key() < 0) {
        emit session_.told(tr("Choose a stroke of the original first: the sound is to stand for one drum, not for the whole kit."));
        return;
    }
    Line line = source_line(*s.source);
    if (!s.patch.empty()) line.with("patch", s.patch);
    if (s.source == &kSoundFont) line.with("program", std::to_string(s.program));
    if (s.source == &kSampler) {
        line.with("file", s.file);
        // Its root, so that it sounds at the pitch that is written; a drum as it is.
        if (drums) line.with("root", note_name(drum_key(), false));
        else if (s.print.pitch_hz > 0.0F) {
            const Root root = root_at(static_cast<double>(s.print.pitch_hz));
            line.with("root", note_name(root.key, false)).with("tune", QString::number(-root.cents, 'f', 1).toStdString());
        }
    }
    tried_.run(line, "find a sound");
}

void SoundFinder::fit(bool go_on) {
    const auto m = target();
    if (!m) {
        emit session_.told(tr("Choose a moment of the original first: it is what is fitted to."));
        return;
    }
    const Part* part = session_.remake().part(part_);
    const Layer* layer = find_layer(session_.remake(), layer_);
    if (!part || !layer) return;
    const bool drums = part->role == PartRole::Drums;
    FitWish wish;
    wish.seconds = seconds_->value();
    wish.equaliser = part->layers.size() == 1 && !drums;  // it would change the part's other layers, too
    // What a sampler plays is read once, in the job.
    if (!go_on) fitted_of_ = &fitted_type();
    FitSource source{fitted_of_, {}, {}};
    source.spec.drums = drums;
    std::optional<Asset> asset;
    std::string file;
    if (source.type == &kSampler) {
        if (const Asset* own = session_.remake().clips->asset(layer->asset)) asset = *own;
        else file = layer->file;
        source.settings = layer->settings.all();
    }
    if (go_on) wish.from = fitted_;
    else fitted_.clear();
    fit_progress_->setValue(0);
    // What is found for a layer or moment is not shown for the next one.
    const int number = ++fit_number_;
    jobs_.run(
        "fit", tr("fitting a sound"),
        [this, number, m, wish, source, asset, file, assets = assets_beside(session_.recording().sound)]() -> JobQueue::Work {
            return [this, number, m, wish, source, asset, file, assets](const Progress& progress) mutable -> Result<JobQueue::Delivery> {
                if (asset || !file.empty()) {
                    auto sound = asset ? assets(*asset) : read_audio(file);
                    if (!sound) return sound.error();
                    source.spec.sound = std::make_shared<const Audio>(std::move(*sound));
                }
                const auto show = [this, number](std::vector<FittedSound> found) {
                    if (number != fit_number_ || found.empty()) return;
                    fitted_ = std::move(found);
                    show_fitted();
                };
                auto found = fit_sound(m(), source, wish, progress, [&](const FittedSound& better) {
                    QMetaObject::invokeMethod(
                        this, [show, better] { show({better}); }, Qt::QueuedConnection);
                });
                return JobQueue::Delivery([show, found = std::move(found)] { show(found); });
            };
        },
        shows_on(fit_progress_));
    show_fitted();
}

void SoundFinder::show_fitted() {
    const bool runs = jobs_.busy("fit");
    const SourceType& type = fitted_type();
    const bool sample = &type == &kSampler, drum = &type == &kDrumVoice;
    fit_help_->setText((sample ? tr("Searches the sample's envelope, filter and tuning until it sounds like the moment.")
                        : drum ? tr("Searches the fields of a made drum until it sounds like the moment.")
                               : tr("Searches the synth's fields until it sounds like the moment.")) +
                       (sample || drum ? tr(" The best so far is heard as it is chosen.")
                                       : tr(" The best so far is heard as it is chosen, with an equaliser where one helps.")));
    fit_->setText(runs ? tr("Stop") : sample ? tr("Fit the sample") : drum ? tr("Fit a made drum") : tr("Fit the synth"));
    fit_->setToolTip(runs     ? tr("What was found so far is kept")
                     : sample ? tr("Begins with the sample as it is set")
                              : tr("Begins with all sounds of the kind and goes on from those nearest"));
    go_on_->setEnabled(!runs && !fitted_.empty());
    rivals_->setEnabled(!runs && fitted_.size() > 1);
    const QSignalBlocker quiet(fits_);
    const int row = fits_->currentRow();
    fits_->clear();
    for (const FittedSound& f : fitted_)
        fits_->addItem(tr("from %1%6   %2 dB away: tone %3, level %4, pitch %5")
                           .arg(f.patch.empty() ? tr("the sample") : tr("“%1”").arg(QString::fromStdString(f.patch)))
                           .arg(f.distance.total(), 0, 'f', 1)
                           .arg(f.distance.tone, 0, 'f', 1)
                           .arg(f.distance.envelope, 0, 'f', 1)
                           .arg(f.distance.pitch, 0, 'f', 1)
                           .arg(f.tone.empty() ? QString() : tr(" and an equaliser")));
    if (row >= 0 && row < fits_->count()) fits_->setCurrentRow(row);
    fit_told_->setText(fitted_.empty() ? tr("The same sound is 0 dB away, one taken at random 25 to 50 dB.")
                                       : tr("Choose one to hear it where the part plays."));
}

bool SoundFinder::has_equaliser(const FittedSound& sound) const {
    const Part* part = tried_.from()->part(part_);
    return !sound.tone.empty() && part && part->layers.size() == 1;
}

std::vector<Line> SoundFinder::lines_of(const FittedSound& sound) const {
    const Remake& from = *tried_.from();
    const SourceType& type = *fitted_of_;
    std::vector<Line> lines;
    if (&type == &kSampler) {
        // It plays the sound it plays: only what was searched is set.
        const Layer& layer = *find_layer(from, layer_);
        for (std::size_t f = 0; f < type.fields.size(); ++f) {
            const auto set = std::find_if(sound.settings.begin(), sound.settings.end(), [&](const auto& s) { return s.first == f; });
            const double value = set == sound.settings.end() ? type.value_in(layer.patch, f) : set->second;
            // What another one of them sets is set back.
            const bool set_by_any = std::any_of(fitted_.begin(), fitted_.end(), [&](const FittedSound& other) {
                return std::any_of(other.settings.begin(), other.settings.end(), [&](const auto& s) { return s.first == f; });
            });
            if (value == layer.value(f) && !set_by_any) continue;
            Line line("field.set");
            lines.push_back(name_owner(line, from, layer_).with("field", type.fields[f].id).with("value", exact_text(type.fields[f], value)));
        }
    } else {
        Line& line = lines.emplace_back(source_line(type));
        line.with("patch", sound.patch);
        for (const auto& [field, value] : sound.settings) line.with(type.fields[field].id, exact_text(type.fields[field], value));
    }
    if (!has_equaliser(sound)) return lines;
    // Before the part's other steps.
    Line& tone = lines.emplace_back("step.add");
    tone.with("part", part_text(from, part_)).with("kind", kEqualiser.id).with("at", "1");
    for (const auto& [field, value] : sound.tone) tone.with(kEqualiser.fields[field].id, exact_text(kEqualiser.fields[field], value));
    return lines;
}

void SoundFinder::take_fitted(int row) {
    if (row < 0 || row >= static_cast<int>(fitted_.size()) || !ready_to_choose()) return;
    const QString key = "find a sound";
    bool first = true;
    for (const Line& line : lines_of(fitted_[static_cast<std::size_t>(row)])) std::exchange(first, false) ? tried_.run(line, key) : tried_.also(line, key);
}

void SoundFinder::keep_rivals() {
    if (fitted_.size() < 2 || !ready_to_choose()) return;
    // Each is the part as it was with that sound: kept as a rival, the farthest first; the nearest is the part itself in the end.
    const QString key = "keep fits";
    const std::string part = part_text(*tried_.from(), part_);
    bool first = true;
    const auto run = [&](const Line& line) { std::exchange(first, false) ? tried_.run(line, key) : tried_.also(line, key); };
    for (std::size_t i = fitted_.size(); i-- > 0;) {
        if (!first && fitted_of_ != &kSampler && source_line(*fitted_of_).command() == "part.add-layer")
            run(Line("layer.remove").with("part", part).with("layer", std::to_string(tried_.from()->part(part_)->layers.size() + 1)));
        if (!first && has_equaliser(fitted_[i + 1])) run(Line("step.remove").with("part", part).with("step", "1"));
        for (const Line& line : lines_of(fitted_[i])) run(line);
        if (i > 0) run(Line("rival.add").with("part", part).with("name", "fit " + std::to_string(i + 1)));
    }
    tried_.begin();
}

void SoundFinder::cut() {
    const ClearMoment* m = moment();
    const Part* p = session_.remake().part(part_);
    if (!m || !p || !session_.recording().sound) {
        emit session_.told(tr("Choose a moment of the original first: it is what is cut."));
        return;
    }
    const ClearMoment moment = *m;
    const bool drums = p->role == PartRole::Drums;
    const auto analysis = alone_->isChecked() ? session_.recording().analysis : nullptr;
    const double end_s = drums ? moment.start_s + 0.35 : std::max(moment.end_s, moment.start_s + 0.1);
    jobs_.run("cut", tr("cutting a sound from the original"),
              [this, sound = session_.recording().sound, analysis, document = session_.documents().document(), part = part_, moment, drums,
               end_s]() -> JobQueue::Work {
                  return [this, sound, analysis, document, part, moment, drums, end_s](const Progress&) -> Result<JobQueue::Delivery> {
                      const Audio piece = analysis ? freed(*sound, *analysis, *document, part, moment, end_s) : cut_out(*sound, moment.start_s, end_s);
                      const auto root = drums ? std::nullopt : find_root(piece);
                      std::string file;
                      if (analysis) {
                          // The remake knows that it is from the original.
                          const auto kept = kept_as_file(piece, "cuts");
                          if (!kept) return kept.error();
                          file = *kept;
                      }
                      return JobQueue::Delivery([this, moment, drums, end_s, root, file] {
                          const Remake& r = session_.remake();
                          if (!r.part(part_)) return;
                          const auto seconds = [](double s) { return QString::number(s, 'f', 4).toStdString() + "s"; };
                          Line line("layer.from-original");
                          line.with("part", part_text(r, part_)).with("from", seconds(moment.start_s)).with("to", seconds(end_s));
                          if (!file.empty()) line.with("file", file);
                          if (drums)
                              line.with("only", note_name(drum_sound(moment.kind).key, false)).with("root", note_name(drum_sound(moment.kind).key, false));
                          else if (root) line.with("root", note_name(root->key, false)).with("cents", QString::number(root->cents, 'f', 1).toStdString());
                          else line.with("root", note_name(std::max(0, moment.pitch), false));
                          if (!session_.documents().run(line)) return;
                          tried_.begin();
                          cut_told_->setText(drums  ? tr("It plays %1 now, marked as from the original.").arg(tr(drum_sound(moment.kind).name))
                                             : root ? tr("Its key is %1, %2 cents %3 it.")
                                                          .arg(QString::fromStdString(note_name(root->key, false)))
                                                          .arg(std::abs(root->cents), 0, 'f', 0)
                                                          .arg(root->cents < 0 ? tr("below") : tr("above"))
                                                    : tr("It has no clear pitch of its own: the note's key was taken."));
                      });
                  };
              });
}

}  // namespace fw::app

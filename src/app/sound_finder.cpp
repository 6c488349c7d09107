// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sound_finder.hpp"

#include "app/number_field.hpp"
#include "app/painting.hpp"
#include "app/words.hpp"
#include "base/pitch.hpp"
#include "check/share.hpp"
#include "fit/moments.hpp"

#include <QCheckBox>
#include <QComboBox>
#include <QCryptographicHash>
#include <QDir>
#include <QFileDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPointer>
#include <QProgressBar>
#include <QPushButton>
#include <QSettings>
#include <QStandardPaths>
#include <QTabWidget>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>

namespace fw::app {

namespace {

QLabel* faint_label(const QString& text = {}) {
    auto* l = new QLabel(text);
    l->setObjectName("note");
    l->setWordWrap(true);
    return l;
}

/// In the window's thread, from any other.
void later(QObject* where, std::function<void()> what) { QMetaObject::invokeMethod(where, std::move(what), Qt::QueuedConnection); }

}  // namespace

SoundFinder::SoundFinder(Session& session, QWidget* parent) : QDialog(parent, Qt::Tool), session_(session), index_file_(SoundIndex::of_user()) {
    setObjectName("sound_finder");
    setWindowTitle(tr("A sound for the part"));
    resize(520, 560);
    auto* column = new QVBoxLayout(this);
    column->setSpacing(6);
    auto* like = new QHBoxLayout;
    like->addWidget(new QLabel(tr("Like")));
    moment_ = new QComboBox;
    moment_->setObjectName("moment");
    moment_->setToolTip(tr("A moment in which the original shows this part most clearly, the clearest first"));
    like->addWidget(moment_, 1);
    auto* hear = new QPushButton(tr("Hear"));
    hear->setObjectName("hear_moment");
    hear->setToolTip(tr("Loops it in the original, through the part's share"));
    connect(hear, &QPushButton::clicked, this, &SoundFinder::hear_moment);
    like->addWidget(hear);
    column->addLayout(like);
    alone_ = new QCheckBox(tr("Freed of what sounds beside it"));
    alone_->setObjectName("freed");
    alone_->setChecked(true);
    alone_->setToolTip(tr("Only the part's share of the moment is looked at and cut, as far as the evidence tells it apart"));
    column->addWidget(alone_);
    tabs_ = new QTabWidget;
    tabs_->setObjectName("finder_tabs");
    column->addWidget(tabs_, 1);

    auto* find = new QWidget;
    auto* rows = new QVBoxLayout(find);
    words_ = new QLineEdit;
    words_->setObjectName("words");
    words_->setPlaceholderText(tr("soft dark kick"));
    words_->setToolTip(tr("Words by ear, or parts of names; press Return"));
    connect(words_, &QLineEdit::returnPressed, this, &SoundFinder::look);
    rows->addWidget(words_);
    auto* ear = new QGridLayout;
    ear->setSpacing(4);
    int i = 0;
    for (const std::string_view word : ear_words()) {
        const QString text = QString::fromUtf8(word.data(), static_cast<int>(word.size()));
        auto* b = new QPushButton(tr(text.toUtf8().constData()));
        b->setObjectName("ear_" + text);
        b->setProperty("compact", true);
        b->setCheckable(true);
        b->setToolTip(tr("Also %1").arg(text));
        connect(b, &QPushButton::toggled, this, &SoundFinder::look);
        ear->addWidget(b, i / 6, i % 6);
        ++i;
    }
    rows->addLayout(ear);
    results_ = new QTreeWidget;
    results_->setObjectName("results");
    results_->setRootIsDecorated(false);
    results_->setUniformRowHeights(true);
    results_->setHeaderLabels({tr("Sound"), tr("fits"), tr("tone"), tr("level"), tr("pitch"), tr("noise")});
    results_->header()->setSectionResizeMode(0, QHeaderView::Stretch);
    results_->header()->setStretchLastSection(false);
    for (int column_of = 1; column_of < 6; ++column_of) results_->header()->resizeSection(column_of, 56);
    results_->setToolTip(
        tr("The one chosen is heard where the part plays; up and down try the others.\nHow alike its tone, its level over time, its pitch and its share of "
           "noise are"));
    connect(results_, &QTreeWidget::currentItemChanged, this, [this](QTreeWidgetItem* item) { take_found(item ? results_->indexOfTopLevelItem(item) : -1); });
    rows->addWidget(results_, 1);
    auto* folders = new QHBoxLayout;
    index_told_ = faint_label();
    folders->addWidget(index_told_, 1);
    index_progress_ = new QProgressBar;
    index_progress_->setFixedWidth(90);
    index_progress_->setRange(0, 1000);
    index_progress_->hide();
    folders->addWidget(index_progress_);
    auto* add = new QPushButton(tr("Add folder…"));
    add->setObjectName("add_folder");
    add->setToolTip(tr("Listens to all sounds in a folder, once; afterwards only to what has changed"));
    connect(add, &QPushButton::clicked, this, [this] {
        const QString folder = QFileDialog::getExistingDirectory(this, tr("A folder of sounds"), QSettings().value("samples").toString());
        if (!folder.isEmpty()) add_folder(folder);
    });
    folders->addWidget(add);
    auto* stop = new QPushButton(tr("Stop"));
    stop->setObjectName("stop_index");
    stop->setToolTip(tr("What was listened to is kept"));
    connect(stop, &QPushButton::clicked, this, [this] { jobs_.cancel("index"); });
    folders->addWidget(stop);
    rows->addLayout(folders);
    tabs_->addTab(find, tr("Find"));

    auto* fitting = new QWidget;
    rows = new QVBoxLayout(fitting);
    rows->addWidget(faint_label(tr("Searches the synth's fields until it sounds like the moment. The best so far is heard as it is chosen.")));
    auto* go = new QHBoxLayout;
    fit_ = new QPushButton(tr("Fit the synth"));
    fit_->setObjectName("fit");
    connect(fit_, &QPushButton::clicked, this, [this] {
        if (jobs_.busy("fit")) jobs_.cancel("fit");
        else fit(false);
    });
    go->addWidget(fit_);
    go_on_ = new QPushButton(tr("Go on"));
    go_on_->setObjectName("fit_on");
    go_on_->setToolTip(tr("From the sounds below"));
    connect(go_on_, &QPushButton::clicked, this, [this] { fit(true); });
    go->addWidget(go_on_);
    go->addStretch(1);
    go->addWidget(new QLabel(tr("for")));
    seconds_ = new NumberField(45, 2, 600, 5, tr(" s"), 0);
    seconds_->setObjectName("fit_seconds");
    seconds_->setToolTip(tr("How long it may take"));
    go->addWidget(seconds_);
    rows->addLayout(go);
    fit_progress_ = new QProgressBar;
    fit_progress_->setRange(0, 1000);
    rows->addWidget(fit_progress_);
    fit_told_ = faint_label();
    rows->addWidget(fit_told_);
    fits_ = new QListWidget;
    fits_->setObjectName("fits");
    connect(fits_, &QListWidget::currentRowChanged, this, &SoundFinder::take_fitted);
    rows->addWidget(fits_, 1);
    rivals_ = new QPushButton(tr("Keep all as rivals"));
    rivals_->setObjectName("keep_rivals");
    rivals_->setToolTip(tr("The nearest becomes the part's sound, the others rivals of the part"));
    connect(rivals_, &QPushButton::clicked, this, &SoundFinder::keep_rivals);
    rows->addWidget(rivals_);
    tabs_->addTab(fitting, tr("Fit"));

    auto* cutting = new QWidget;
    rows = new QVBoxLayout(cutting);
    rows->addWidget(
        faint_label(tr("Cuts the moment out of the original, finds its key and plays it on a layer of its own. It is marked as from the original and can be "
                       "left out of everything "
                       "that is handed off.")));
    cut_told_ = faint_label();
    rows->addWidget(cut_told_);
    auto* cut_it = new QPushButton(tr("Cut it out"));
    cut_it->setObjectName("cut");
    connect(cut_it, &QPushButton::clicked, this, &SoundFinder::cut);
    rows->addWidget(cut_it);
    rows->addStretch(1);
    tabs_->addTab(cutting, tr("Cut"));

    auto* end = new QHBoxLayout;
    auto* back = new QPushButton(tr("As it was"));
    back->setObjectName("finder_back");
    back->setToolTip(tr("Takes back what was chosen here"));
    connect(back, &QPushButton::clicked, this, [this] {
        if (from_ && session_.documents().document() != from_) session_.documents().undo();
    });
    end->addWidget(back);
    end->addStretch(1);
    auto* keep = new QPushButton(tr("Keep it"));
    keep->setObjectName("finder_keep");
    keep->setDefault(false);
    connect(keep, &QPushButton::clicked, this, [this] {
        session_.documents().end_gesture();
        hide();
    });
    end->addWidget(keep);
    column->addLayout(end);
    connect(moment_, &QComboBox::activated, this, [this] {
        fitted_.clear();
        show_fitted();
        look();
    });
    connect(alone_, &QCheckBox::clicked, this, &SoundFinder::look);
    connect(&jobs_, &JobQueue::failed, &session_, &Session::failed);
    connect(&jobs_, &JobQueue::finished, this, [this](const QString& name) {
        if (name == "index") index_progress_->hide(), tell_index(), look();
        if (name == "fit") show_fitted();
    });
    connect(&session_, &Session::opened, this, [this] { hide(); });
    show_fitted();
}

SoundFinder::~SoundFinder() {
    jobs_.cancel("fit");
    jobs_.cancel("index");
}

bool SoundFinder::busy() const { return jobs_.busy("find") || jobs_.busy("fit") || jobs_.busy("index") || jobs_.busy("cut"); }

std::shared_ptr<SoundIndex> SoundFinder::index() {
    if (index_) return index_;
    auto opened = SoundIndex::open(index_file_);
    if (!opened) {
        emit session_.failed(of_core(opened.error().message()));
        return nullptr;
    }
    index_ = std::move(*opened);
    return index_;
}

void SoundFinder::open_for(PartId part, LayerId layer) {
    const Part* p = session_.remake().part(part);
    if (!p) return;
    if (part != part_ || layer != layer_) jobs_.cancel("fit"), fitted_.clear();
    part_ = part;
    layer_ = layer;
    session_.documents().end_gesture();
    from_ = session_.documents().document();
    setWindowTitle(tr("A sound for %1").arg(QString::fromStdString(p->name)));
    tabs_->setTabEnabled(1, p->role != PartRole::Drums);
    fill_moments();
    show_fitted();
    show();
    raise();
    const auto opened = index();
    if (!opened) return;
    tell_index();
    // What is shipped is listened to once, behind everything else.
    jobs_.run(
        "index", tr("listening to the shipped sounds"),
        [opened, lock = index_in_use_]() -> JobQueue::Work {
            return [opened, lock](const Progress& progress) -> Result<JobQueue::Delivery> {
                const std::lock_guard guard(*lock);
                const auto done = opened->add_shipped(progress);
                if (!done) return done.error();
                return JobQueue::Delivery([] {});
            };
        },
        {}, JobQueue::Pace::Patient);
    look();
}

void SoundFinder::fill_moments() {
    const Part* p = session_.remake().part(part_);
    const auto analysis = session_.recording().analysis;
    moments_ = p && analysis ? clearest_moments(*analysis, p->role, p->role == PartRole::Other ? p->name : std::string()) : std::vector<ClearMoment>();
    moment_->clear();
    const Song& song = *session_.remake().song;
    for (const ClearMoment& m : moments_) {
        const Ticks at = song.tempo.nearest_tick(m.start_s);
        const DrumSound& drum = drum_sound(m.kind);
        moment_->addItem(tr("%1 at %2, %3 alone")
                             .arg(m.pitch >= 0 ? QString::fromStdString(note_name(m.pitch, song.flats_at(at))) : tr(drum.name),
                                  QString::fromStdString(song.meter.position(at).text()), percent_text(m.alone)));
    }
    moment_->addItem(tr("no moment, by words alone"));
    const ClearMoment* first = moment();
    cut_told_->setText(first ? tr("%1 ms from %2").arg(1000.0 * (first->end_s - first->start_s), 0, 'f', 0).arg(time_text(first->start_s)) : QString());
}

const ClearMoment* SoundFinder::moment() const {
    const auto i = static_cast<std::size_t>(std::max(0, moment_->currentIndex()));
    return i < moments_.size() ? &moments_[i] : nullptr;
}

void SoundFinder::hear_moment() {
    const ClearMoment* m = moment();
    const auto analysis = session_.recording().analysis;
    if (!m || !analysis) return;
    Transport& t = session_.transport();
    Lens lens;
    if (alone_->isChecked()) lens.kind = LensKind::Element, lens.share = share_of(*analysis, session_.remake(), ElementId(part_));
    t.set_source(Source::Original);
    t.set_lens(std::move(lens));
    t.set_loop(std::max(0.0, m->start_s - 0.05), std::max(m->end_s, m->start_s + 0.3) + 0.1);
    t.seek(t.loop_start());
    if (!t.player().playing()) t.toggle_play();
}

std::optional<LoneNote> SoundFinder::target() const {
    const ClearMoment* m = moment();
    const RecordingStore& recording = session_.recording();
    if (!m || !recording.sound || !recording.analysis) return std::nullopt;
    const double length_s = std::clamp(m->end_s - m->start_s, 0.15, 1.2);
    const auto share = alone_->isChecked() ? share_of(*recording.analysis, session_.remake(), ElementId(part_)) : nullptr;
    const Audio piece = cut_out(*recording.sound, m->start_s, m->start_s + length_s, share);
    return moment_from(piece, std::max(0, m->pitch), 100, length_s, session_.remake().song->tuning_cents);
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
    jobs_.run("find", tr("looking for a sound"), [this, opened, wish, m, pitch_hz, lock = index_in_use_]() -> JobQueue::Work {
        return [this, opened, wish, m, pitch_hz, lock](const Progress&) mutable -> Result<JobQueue::Delivery> {
            if (m) {
                Audio audio{static_cast<int>(SoundTarget::kRate), 1, m->mono, {}};
                wish.like = print_of(audio);
                // The evidence knows the pitch better than a piece of the mix does.
                if (pitch_hz > 0.0) wish.like->pitch_hz = static_cast<float>(pitch_hz);
            }
            const std::lock_guard guard(*lock);
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
    const std::unique_lock guard(*index_in_use_, std::try_to_lock);
    if (!guard) return;
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
        [this, opened, folder, lock = index_in_use_]() -> JobQueue::Work {
            return [this, opened, folder, lock](const Progress& progress) -> Result<JobQueue::Delivery> {
                const std::lock_guard guard(*lock);
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
        [bar = QPointer<QProgressBar>(index_progress_)](double f, std::string_view) {
            if (bar)
                later(bar, [bar, f] {
                    if (bar) bar->setValue(static_cast<int>(1000 * f));
                });
        },
        JobQueue::Pace::Patient);
}

void SoundFinder::choose(Line line) {
    // Always from what was there as this was opened: what is tried in one go is one step.
    if (!from_ || !session_.remake().part(part_)) return;
    session_.documents().run(line, "find a sound", from_);
}

void SoundFinder::take_found(int row) {
    if (row < 0 || row >= static_cast<int>(found_.size()) || !from_) return;
    const KnownSound& s = found_[static_cast<std::size_t>(row)].sound;
    Line line("layer.source");
    name_owner(line, *from_, layer_).with("source", s.source->id);
    if (!s.patch.empty()) line.with("patch", s.patch);
    if (s.source == &kSoundFont) line.with("program", std::to_string(s.program));
    if (s.source == &kSampler) {
        line.with("file", s.file);
        // Its root, so that it sounds at the pitch that is written.
        if (s.print.pitch_hz > 0.0F && session_.remake().part(part_)->role != PartRole::Drums) {
            const double key = 69.0 + 12.0 * std::log2(static_cast<double>(s.print.pitch_hz) / 440.0), whole = std::round(key);
            line.with("root", note_name(static_cast<int>(std::clamp(whole, 0.0, 127.0)), false))
                .with("tune", QString::number(-100.0 * (key - whole), 'f', 1).toStdString());
        }
    }
    choose(std::move(line));
}

void SoundFinder::fit(bool go_on) {
    const auto m = target();
    if (!m) {
        emit session_.told(tr("Choose a moment of the original first: the synth is fitted to it."));
        return;
    }
    FitWish wish;
    wish.seconds = seconds_->value();
    if (go_on) wish.from = fitted_;
    else fitted_.clear();
    fit_progress_->setValue(0);
    const QPointer<SoundFinder> self(this);
    jobs_.run(
        "fit", tr("fitting the synth"),
        [this, self, m, wish]() -> JobQueue::Work {
            return [this, self, m, wish](const Progress& progress) -> Result<JobQueue::Delivery> {
                auto found = fit_synth(*m, wish, progress, [self](const FittedSound& better) {
                    if (self)
                        later(self, [self, better] {
                            if (!self || !self->jobs_.busy("fit")) return;
                            self->fitted_ = {better};
                            self->show_fitted();
                        });
                });
                return JobQueue::Delivery([this, found = std::move(found)]() mutable {
                    if (!found.empty()) fitted_ = std::move(found);
                    show_fitted();
                });
            };
        },
        [bar = QPointer<QProgressBar>(fit_progress_)](double f, std::string_view) {
            if (bar)
                later(bar, [bar, f] {
                    if (bar) bar->setValue(static_cast<int>(1000 * f));
                });
        });
    show_fitted();
}

void SoundFinder::show_fitted() {
    const bool runs = jobs_.busy("fit");
    fit_->setText(runs ? tr("Stop") : tr("Fit the synth"));
    fit_->setToolTip(runs ? tr("What was found so far is kept") : tr("Begins with all sounds of the synth and goes on from those nearest"));
    go_on_->setEnabled(!runs && !fitted_.empty());
    rivals_->setEnabled(!runs && fitted_.size() > 1);
    const QSignalBlocker quiet(fits_);
    const int row = fits_->currentRow();
    fits_->clear();
    for (const FittedSound& f : fitted_)
        fits_->addItem(tr("from “%1”   %2 dB away: tone %3, level %4, pitch %5")
                           .arg(QString::fromStdString(f.patch))
                           .arg(f.distance.total(), 0, 'f', 1)
                           .arg(f.distance.tone, 0, 'f', 1)
                           .arg(f.distance.envelope, 0, 'f', 1)
                           .arg(f.distance.pitch, 0, 'f', 1));
    if (row >= 0 && row < fits_->count()) fits_->setCurrentRow(row);
    fit_told_->setText(fitted_.empty() ? tr("The same sound is 0 dB away, one taken at random 25 to 50 dB.")
                                       : tr("Choose one to hear it where the part plays."));
}

Line SoundFinder::fitted_line(const FittedSound& sound) const {
    Line line("layer.source");
    name_owner(line, *from_, layer_).with("source", kSynth.id).with("patch", sound.patch);
    for (const auto& [field, value] : sound.settings) {
        const Parameter& row = kSynth.fields[field];
        line.with(row.id, row.scale == Scale::Choice || row.scale == Scale::Switch ? value_text(row, value) : QString::number(value, 'g', 7).toStdString());
    }
    return line;
}

void SoundFinder::take_fitted(int row) {
    if (row >= 0 && row < static_cast<int>(fitted_.size()) && from_) choose(fitted_line(fitted_[static_cast<std::size_t>(row)]));
}

void SoundFinder::keep_rivals() {
    if (fitted_.size() < 2 || !from_ || !session_.remake().part(part_)) return;
    // The farthest first, each kept as a rival as the next takes its place; the nearest is the part itself in the end.
    for (std::size_t i = fitted_.size(); i-- > 0;) {
        session_.documents().run(fitted_line(fitted_[i]), "keep fits", i + 1 == fitted_.size() ? from_ : nullptr);
        if (i > 0)
            session_.documents().run(Line("rival.add").with("part", part_text(session_.remake(), part_)).with("name", "fit " + std::to_string(i + 1)),
                                     "keep fits");
    }
    session_.documents().end_gesture();
    from_ = session_.documents().document();
}

void SoundFinder::cut() {
    const ClearMoment* m = moment();
    const Part* p = session_.remake().part(part_);
    const RecordingStore& recording = session_.recording();
    if (!m || !p || !recording.sound || !recording.analysis) {
        emit session_.told(tr("Choose a moment of the original first: it is what is cut."));
        return;
    }
    const ClearMoment moment = *m;
    const bool drums = p->role == PartRole::Drums, freed = alone_->isChecked();
    const auto share = freed ? share_of(*recording.analysis, session_.remake(), ElementId(part_)) : nullptr;
    const double end_s = drums ? moment.start_s + 0.35 : std::max(moment.end_s, moment.start_s + 0.1);
    jobs_.run("cut", tr("cutting a sound from the original"), [this, sound = recording.sound, share, moment, drums, freed, end_s]() -> JobQueue::Work {
        return [this, sound, share, moment, drums, freed, end_s](const Progress&) -> Result<JobQueue::Delivery> {
            const Audio piece = cut_out(*sound, moment.start_s, end_s, share);
            const auto root = drums ? std::nullopt : find_root(piece);
            std::string file;
            if (freed) {
                // Kept where it outlasts the day; the remake knows that it is from the original.
                const QString folder = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/cuts";
                QDir().mkpath(folder);
                const auto hash = QCryptographicHash::hash(
                    QByteArrayView(reinterpret_cast<const char*>(piece.samples.data()), static_cast<qsizetype>(piece.samples.size() * sizeof(float))),
                    QCryptographicHash::Sha1);
                file = (folder + "/" + QString::fromLatin1(hash.toHex().left(16)) + ".wav").toStdString();
                if (const auto written = write_audio(file, piece); !written) return written.error();
            }
            return JobQueue::Delivery([this, moment, drums, end_s, root, file] {
                const Remake& r = session_.remake();
                if (!r.part(part_)) return;
                const auto seconds = [](double s) { return QString::number(s, 'f', 4).toStdString() + "s"; };
                Line line("layer.from-original");
                line.with("part", part_text(r, part_)).with("from", seconds(moment.start_s)).with("to", seconds(end_s));
                if (!file.empty()) line.with("file", file);
                if (drums) line.with("only", note_name(drum_sound(moment.kind).key, false)).with("root", note_name(drum_sound(moment.kind).key, false));
                else if (root) line.with("root", note_name(root->key, false)).with("cents", QString::number(root->cents, 'f', 1).toStdString());
                else line.with("root", note_name(std::max(0, moment.pitch), false));
                if (!session_.documents().run(line)) return;
                session_.documents().end_gesture();
                from_ = session_.documents().document();
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

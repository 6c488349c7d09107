// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sound_finder.hpp"

#include "app/number_field.hpp"
#include "app/painting.hpp"
#include "app/words.hpp"
#include "base/pitch.hpp"
#include "check/share.hpp"

#include <QCheckBox>
#include <QComboBox>
#include <QFileDialog>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QProgressBar>
#include <QPushButton>
#include <QSettings>
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

}  // namespace

SoundFinder::SoundFinder(Session& session, QWidget* parent)
    : QDialog(parent, Qt::Tool), session_(session), tried_(session.documents()), index_file_(SoundIndex::of_user()) {
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
    alone_->setToolTip(
        tr("What its note has in common with others the part plays is looked at and cut; where there are few like it, the part's share of the moment"));
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
    fit_help_ = faint_label();
    rows->addWidget(fit_help_);
    auto* go = new QHBoxLayout;
    fit_ = new QPushButton;
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
        if (!tried_.take_back()) emit session_.told(tr("Nothing was chosen here since the last edit: Undo takes that back."));
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
        tell_moment();
        jobs_.cancel("fit"), fitted_.clear(), ++fit_number_;
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
    if (part != part_ || layer != layer_) jobs_.cancel("fit"), fitted_.clear(), ++fit_number_;
    part_ = part;
    layer_ = layer;
    tried_.begin();
    setWindowTitle(tr("A sound for %1").arg(QString::fromStdString(p->name)));
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
        [opened]() -> JobQueue::Work {
            return [opened](const Progress& progress) -> Result<JobQueue::Delivery> {
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
    moments_ = p && analysis ? clearest_moments(*analysis, p->role, p->name) : std::vector<ClearMoment>();
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
    tell_moment();
}

void SoundFinder::tell_moment() {
    const ClearMoment* m = moment();
    cut_told_->setText(m ? tr("%1 ms from %2").arg(1000.0 * (m->end_s - m->start_s), 0, 'f', 0).arg(time_text(m->start_s)) : QString());
}

/// What of a moment belongs to the part: of drums to the one that was struck.
std::shared_ptr<const Share> SoundFinder::share_of_moment(const ClearMoment& moment) const {
    const auto analysis = session_.recording().analysis;
    if (!analysis) return nullptr;
    return moment.pitch < 0 ? share_of_drum(*analysis, moment.kind) : share_of(*analysis, session_.remake(), ElementId(part_));
}

const ClearMoment* SoundFinder::moment() const {
    const auto i = static_cast<std::size_t>(std::max(0, moment_->currentIndex()));
    return i < moments_.size() ? &moments_[i] : nullptr;
}

void SoundFinder::hear_moment() {
    const ClearMoment* m = moment();
    if (!m) return;
    Transport& t = session_.transport();
    Lens lens;
    if (alone_->isChecked()) lens.kind = LensKind::Element, lens.share = share_of_moment(*m);
    t.set_source(Source::Original);
    t.set_lens(std::move(lens));
    t.set_loop(std::max(0.0, m->start_s - 0.05), std::max(m->end_s, m->start_s + 0.3) + 0.1);
    t.seek(t.loop_start());
    if (!t.player().playing()) t.toggle_play();
}

}  // namespace fw::app

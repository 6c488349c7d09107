// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session.hpp"

#include "app/doubt_walk.hpp"
#include "app/move_recorder.hpp"
#include "app/play_in.hpp"
#include "app/survey.hpp"
#include "app/words.hpp"

#include "analysis/draft.hpp"
#include "base/guard.hpp"
#include "check/part_sound.hpp"
#include "engine/offline.hpp"
#include "formats/remake_file.hpp"
#include "sound/plug_ins/plug_ins.hpp"

#include <QMetaObject>
#include <QStringList>
#include <atomic>
#include <cmath>

namespace fw::app {

struct Session::Opened {
    Remake remake;
    RecordingStore recording;
    QString file;     ///< the remake's, empty for a new one
    QString warning;  ///< a sentence for the user, empty for none
    bool first_look = false;
    QString recovered_from;   ///< the copy it was opened from that was kept of unsaved work; empty for none
    bool relocated = false;   ///< the recording is not where the file says
    bool only_sound = false;  ///< all else was there before
};

Session::Session(std::unique_ptr<AudioOutput> output, QObject* parent) : QObject(parent), transport_(std::move(output)) {
    rebuild_timer_.setSingleShot(true);
    rebuild_timer_.setInterval(350);
    connect(&rebuild_timer_, &QTimer::timeout, this, &Session::start_rebuild);
    watch_timer_.setInterval(500);
    connect(&watch_timer_, &QTimer::timeout, this, [this] {
        if (const auto failure = plan_ ? plan_->failure() : std::nullopt) tell_trouble(*failure);
    });
    watch_timer_.start();
    connect(&jobs_, &JobQueue::failed, this, [this](const QString& sentence) {
        // A plug-in that fails does so where it plays and where it is rendered.
        if (sentence == told_trouble_) return;
        told_trouble_ = sentence;
        emit failed(sentence);
    });
    connect(&jobs_, &JobQueue::finished, this, [this](const QString& name) {
        if (name == "opening" && !busy()) opening_is_over();
    });
    connect(&documents_, &DocumentStore::failed, this, &Session::failed);
    connect(&documents_, &DocumentStore::changed, this, &Session::document_was_changed);
    connect(&documents_, &DocumentStore::saved, this, &Session::document_changed);
    connect(&selection_, &Selection::changed, this, &Session::selection_changed);
    connect(&transport_, &Transport::changed, this, &Session::transport_changed);
    connect(&transport_, &Transport::failed, this, &Session::failed);
    // Ahead of the first menu that lists them.
    jobs_.run("plug-ins", tr("looking through the plug-ins"), []() -> JobQueue::Work {
        return [](const Progress&) -> Result<JobQueue::Delivery> {
            (void)plug_ins_looked_through();
            return JobQueue::Delivery();
        };
    });
    survey_ = std::make_unique<Survey>(*this);
    walk_ = std::make_unique<DoubtWalk>(*this);
    play_in_ = std::make_unique<PlayIn>(*this);
    moves_ = std::make_unique<MoveRecorder>(*this);
    say_lock();
}

Session::~Session() = default;

void Session::say_lock() {
    documents_.lock(provisional()      ? tr("The recording is still being listened to: change and save things once that is done.")
                    : !has_reference() ? tr("There is nothing to change yet: open a recording or a remake first.")
                                       : QString());
}

// --- what follows an edit ---

void Session::hear_instead(std::shared_ptr<const Remake> other) {
    if (instead_ == other) return;
    instead_ = std::move(other);
    refresh_plan();
    emit heard_instead();
}

void Session::document_was_changed() {
    if (std::exchange(instead_, nullptr)) emit heard_instead();
    emit document_changed();
    refresh_plan();
    check_again();
    if (provisional()) return;
    jobs_.cancel("sound");  // of a document that is no more
    rebuild_timer_.start();
}

void Session::check_again() {
    if (!recording().analysis || provisional()) return;
    jobs_.run(
        "check", tr("checking the rebuild"),
        [this]() -> JobQueue::Work {
            return [this, document = documents_.document(), analysis = recording().analysis](const Progress&) -> Result<JobQueue::Delivery> {
                auto report = std::make_shared<CheckReport>(check(*document, *analysis));
                return JobQueue::Delivery([this, document, analysis, report] {
                    if (analysis != recording().analysis) return;  // something else is open by now
                    // The figures of notes follow at once; those of the sound, which take longer, stay until the hand rests.
                    if (open_.report) keep_sound(*document, *open_.report, *report);
                    open_.report = report;
                    emit report_changed();
                });
            };
        },
        {}, JobQueue::Pace::Patient);
}

PlanInputs Session::plan_inputs() const { return {transport_.rate_hz(), assets_beside(recording().sound)}; }

void Session::refresh_plan() {
    jobs_.run("plan", tr("preparing the rebuild"), [this]() -> JobQueue::Work {
        return [this, document = instead_ ? instead_ : documents_.document(), inputs = plan_inputs(),
                before = plan_](const Progress&) -> Result<JobQueue::Delivery> {
            Error trouble;
            auto plan = compile_plan(*document, inputs, before, &trouble);
            return JobQueue::Delivery([this, plan, trouble] {
                plan_ = plan;
                transport_.player().set_plan(plan_);
                // Before its sound is read, what is cut from the recording cannot be there: it comes with the sound.
                if (trouble.subject.empty() || recording().sound) tell_trouble(trouble);
            });
        };
    });
}

/// Once each, however often the plan is made anew.
void Session::tell_trouble(const Error& trouble) {
    const QString sentence = trouble.subject.empty() ? QString() : of_core(trouble.message());
    if (sentence != told_trouble_ && !sentence.isEmpty()) emit failed(sentence);
    told_trouble_ = sentence;
}

// --- the rebuild's sound, in the background ---

void Session::start_rebuild() {
    if (!recording().sound) return;
    jobs_.cancel("sound");
    jobs_.run(
        "sound", tr("rendering the rebuild"),
        [this]() -> JobQueue::Work {
            return [this, document = documents_.document(), original = recording().summary, analysis = recording().analysis,
                    inputs = plan_inputs()](const Progress& progress) -> Result<JobQueue::Delivery> {
                const auto plan = compile_plan(*document, inputs);  // sounds of its own: the player's are in use
                const int rate_hz = static_cast<int>(std::lround(inputs.sample_rate_hz));
                auto peaks = std::make_shared<Peaks>(rate_hz, 2);
                SoundMeter meter(rate_hz, 2);
                render_offline(
                    *plan, {},
                    [&](std::span<const float> block) {
                        peaks->add(block);
                        meter.add(block);
                        return true;
                    },
                    progress);
                auto rebuild = std::make_shared<const SoundSummary>(meter.summary());
                auto all = full_check(*document, *analysis, *plan, original, *rebuild, progress);
                auto report = std::make_shared<const CheckReport>(std::move(all.report));
                auto left = std::make_shared<const LeftOver>(std::move(all.left));
                auto parts = std::make_shared<const std::vector<PartSound>>(std::move(all.parts));
                return JobQueue::Delivery([this, document, peaks, report, rebuild, left, parts] {
                    if (document != documents_.document()) return;  // overtaken by an edit; the next run is on its way
                    open_.rebuild_peaks = std::move(*peaks);
                    open_.rebuild_document = document;
                    open_.rebuild_summary = rebuild;
                    open_.left = left;
                    open_.part_sounds = parts;
                    open_.report = report;
                    open_.rebuild_lufs = report->sound.rebuild_lufs;
                    if (open_.history.empty() || open_.history.back().match.notes != report->match.notes ||
                        open_.history.back().match.sound != report->match.sound)
                        open_.history.push_back({QTime::currentTime(), report->match});
                    match_loudness();
                    emit report_changed();
                });
            };
        },
        {}, JobQueue::Pace::Patient);
}

void Session::match_loudness() { transport_.set_loudness(recording().analysis ? recording().analysis->integrated_lufs : -70.0, open_.rebuild_lufs); }

// --- opening ---

void Session::start_job(const QString& what, std::function<Status(const Progress&, int)> work) {
    cancel_job();
    const int number = ++job_number_;
    if (provisional()) bring_back();
    auto last = std::make_shared<std::atomic<int>>(-1);
    jobs_.run(
        "opening", what,
        [number, work = std::move(work)]() -> JobQueue::Work {
            return [number, work](const Progress& progress) -> Result<JobQueue::Delivery> {
                const Status done = work(progress, number);
                if (!done) return done.error();
                return JobQueue::Delivery();
            };
        },
        [this, last, number](double fraction, std::string_view stage) {
            const int permille = static_cast<int>(fraction * 1000.0);
            if (last->exchange(permille) == permille) return;
            QMetaObject::invokeMethod(
                this,
                [this, fraction, number, text = QString::fromUtf8(stage.data(), static_cast<qsizetype>(stage.size()))] {
                    if (number == job_number_) emit progress(fraction, text);
                },
                Qt::QueuedConnection);
        });
}

void Session::opening_is_over() {
    if (provisional()) bring_back();  // stopped, or failed after the first look
    else if (has_reference() && !recording().sound)
        emit failed(tr("The sound of %1 was not read: open it again to hear the original.").arg(QString::fromStdString(recording().analysis->path)));
    emit job_finished();
}

void Session::cancel_job() { jobs_.cancel("opening"); }

/// From the job's thread into the window's.
void Session::deliver(Opened opened, int number) {
    QMetaObject::invokeMethod(
        this,
        [this, number, opened = std::make_shared<Opened>(std::move(opened))] {
            if (number != job_number_) return;
            if (opened->only_sound) {
                take_sound(std::move(opened->recording));
                if (!opened->warning.isEmpty()) emit failed(opened->warning);
            } else adopt(std::move(*opened));
        },
        Qt::QueuedConnection);
}

void Session::adopt(Opened opened) {
    jobs_.cancel("sound");
    rebuild_timer_.stop();
    // When the whole follows a first look, the place, the loop and the sound go on as they are.
    const bool follows = provisional() && !opened.first_look;
    const ElementId element = selection_.element();
    DocumentStore::Contents next{{}, opened.file};
    next.history.reset(std::make_shared<const Remake>(std::move(opened.remake)));
    if (opened.file.isEmpty() || opened.relocated) next.history.mark_never_saved();
    auto document_before = documents_.exchange(std::move(next));
    recovered_from_ = opened.recovered_from;
    Contents contents;
    contents.recording = std::move(opened.recording);
    Contents before = std::exchange(open_, std::move(contents));
    if (opened.first_look) shelved_ = std::make_unique<Shelved>(Shelved{std::move(before), std::move(document_before), element});
    else shelved_.reset();
    say_lock();
    selection_.begin_anew(follows ? element : ElementId{});
    if (!follows) {
        transport_.set_original(recording().sound);
        transport_.begin_anew();
        emit this->opened();
    }
    match_loudness();
    emit analysis_changed();
    document_was_changed();
    emit selection_changed();
    if (!opened.warning.isEmpty()) emit failed(opened.warning);
}

/// The sound of a recording that was known already.
void Session::take_sound(RecordingStore recording) {
    open_.recording = std::move(recording);
    transport_.set_original(open_.recording.sound);
    refresh_plan();  // with what is cut from it
    rebuild_timer_.start();
}

void Session::bring_back() {
    transport_.player().stop();
    open_ = std::move(shelved_->contents);
    documents_.exchange(std::move(shelved_->documents));
    selection_.begin_anew(shelved_->element);
    shelved_.reset();
    say_lock();
    transport_.set_original(recording().sound);
    transport_.set_loop(0.0, 0.0, false);
    match_loudness();
    refresh_plan();
    emit analysis_changed();
    emit document_changed();
    emit report_changed();
    emit selection_changed();
    if (has_reference() && !rebuild_is_current()) rebuild_timer_.start();
}

namespace {

/// What the user should know about a file, a sentence each.
QString sentences(const std::vector<ErrorCode>& remarks, const std::filesystem::path& file) {
    QStringList out;
    for (const ErrorCode remark : remarks) out << QString::fromStdString(Error{remark, file.string(), {}}.message());
    return out.join(' ');
}

}  // namespace

void Session::open_recording(const QString& path) {
    const std::filesystem::path file = path.toStdString();
    start_job(tr("opening %1").arg(path), [this, file, store = evidence_, rate = transport_.rate_hz()](const Progress& progress, int number) -> Status {
        bool there = false;
        return app::open_recording(file, rate, store, progress, [&](RecordingStep step) {
            Opened opened;
            if (!there) opened.remake = draft_remake(*step.recording.analysis);
            opened.only_sound = there;
            opened.first_look = step.first_look;
            opened.warning = sentences(step.remarks, file);
            opened.recording = std::move(step.recording);
            there = !opened.first_look;
            deliver(std::move(opened), number);
        });
    });
}

void Session::open_file(const QString& path, const QString& reference, const std::optional<QString>& belongs_to) {
    const std::filesystem::path file = path.toStdString();
    start_job(tr("opening %1").arg(path),
              [this, file, path, reference, belongs_to, store = evidence_, rate = transport_.rate_hz()](const Progress& progress, int number) -> Status {
                  auto remake = load_remake(file);
                  if (!remake) return remake.error();
                  // Where the recording is at fault, the user may know another place for it.
                  const auto ask = [this, path](const Error& e) -> Status {
                      if (e.code == ErrorCode::Cancelled) return e;
                      QMetaObject::invokeMethod(
                          this, [this, path, s = QString::fromStdString(e.message())] { emit reference_wanted(path, s); }, Qt::QueuedConnection);
                      return Done{};
                  };
                  auto found =
                      reference.isEmpty() ? find_reference(*remake, file) : Result<std::filesystem::path>(std::filesystem::path(reference.toStdString()));
                  if (!found) return ask(found.error());
                  const std::string place = std::filesystem::absolute(*found).string();
                  bool there = false, another = false;
                  const Status done = app::open_recording(*found, rate, store, progress, [&](RecordingStep step) {
                      another = step.recording.analysis->content_hash != remake->reference.content_hash;
                      if (another || step.first_look) return;  // the document is there already: it is shown with the whole
                      Opened opened;
                      if (!there) opened.remake = *remake;
                      opened.only_sound = there;
                      opened.relocated = belongs_to || remake->reference.path != place;
                      opened.remake.reference.path = place;
                      opened.file = belongs_to.value_or(path);
                      if (belongs_to) opened.recovered_from = path;
                      opened.warning = sentences(step.remarks, *found);
                      opened.recording = std::move(step.recording);
                      there = true;
                      deliver(std::move(opened), number);
                  });
                  if (another) return ask({ErrorCode::ReferenceChanged, found->string(), {}});
                  return done || there ? done : ask(done.error());
              });
}

bool Session::add_midi(const QString& path, const MidiSong& song, double offset_s) {
    auto next = guarded("adding " + path.toStdString(), [&] { return with_given_parts(remake(), song.parts, offset_s, path.toStdString()); });
    if (!next) {
        emit failed(of_core(next.error().message()));
        return false;
    }
    const std::size_t before = remake().parts.size();
    documents_.edit(std::move(*next), tr("Add parts from MIDI"));
    if (remake().parts.size() > before) selection_.select_element(remake().parts[before]->id);
    return true;
}

// --- what is done with more than one of them ---

void Session::toggle_play() {
    if (!has_reference()) return;
    if (transport_.player().playing() || !transport_.click().count_in) return transport_.toggle_play();
    const Song& song = *remake().song;
    const Ticks here = song.tempo.nearest_tick(transport_.position_s());
    const auto& meter = song.meter.at_bar(song.meter.position(here).bar);
    transport_.play_after(meter.beats(), (song.tempo.seconds(here + meter.bar_ticks()) - song.tempo.seconds(here)) / meter.beats());
}

void Session::downbeat_here() { documents_.run(Line("tempo.downbeat").with("at", seconds_text(transport_.position_s()))); }

void Session::toggle_confirmed(ElementId id) {
    const bool confirmed = remake().element(id).state == State::Confirmed;
    documents_.run(Line("element.note").with("element", element_text(remake(), id)).with("state", confirmed ? "draft" : "confirmed"));
}

}  // namespace fw::app

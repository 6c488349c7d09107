// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/session.hpp"

#include "analysis/analyst.hpp"
#include "analysis/draft.hpp"
#include "base/files.hpp"
#include "base/guard.hpp"
#include "base/pitch.hpp"
#include "engine/offline.hpp"
#include "formats/midi_file.hpp"
#include "formats/remake_file.hpp"
#include "model/validate.hpp"

#include <QMetaObject>
#include <algorithm>
#include <atomic>
#include <cmath>
#include <future>

namespace fw::app {

/// What a job brings back.
struct Session::Loaded {
    Remake remake;
    std::shared_ptr<const Audio> original;  ///< stereo, at the output's rate
    Peaks peaks;
    SoundSummary summary;
    std::shared_ptr<const Analysis> analysis;
    double lufs = -70.0;
    QString file;     ///< the remake's, empty for a new one
    QString warning;  ///< a sentence for the user, empty for none
    bool first_look = false;
    bool relocated = false;  ///< the recording is not where the file says
};

Session::Session(std::unique_ptr<AudioOutput> output, QObject* parent) : QObject(parent), output_(output ? std::move(output) : open_audio_output(44100.0)) {
    player_ = std::make_unique<Player>(output_->sample_rate_hz());
    // A device that fails to start is told once; the simulated one takes its place, so that the transport still works.
    if (auto started = output_->start([this](std::span<float> l, std::span<float> r) { player_->process(l, r); }); !started) {
        const QString sentence = QString::fromStdString(started.error().message());
        output_ = std::make_unique<SimulatedOutput>(player_->sample_rate_hz());
        (void)output_->start([this](std::span<float> l, std::span<float> r) { player_->process(l, r); });
        QMetaObject::invokeMethod(
            this, [this, sentence] { emit failed(sentence); }, Qt::QueuedConnection);
    }
    rebuild_timer_.setSingleShot(true);
    rebuild_timer_.setInterval(350);
    connect(&rebuild_timer_, &QTimer::timeout, this, &Session::start_rebuild);
    connect(&jobs_, &JobQueue::failed, this, &Session::failed);
    connect(&jobs_, &JobQueue::finished, this, [this](const QString& name) {
        if (name == "opening" && !busy()) opening_is_over();
    });
    collect_timer_.setInterval(500);
    connect(&collect_timer_, &QTimer::timeout, this, [this] { player_->collect(); });
    collect_timer_.start();
}

Session::~Session() { output_->stop(); }

// --- the document ---

bool Session::may_change() {
    if (!has_reference()) emit failed("There is nothing to change yet: open a recording or a remake first.");
    else if (provisional()) emit failed("The recording is still being listened to: change things once that is done.");
    else return true;
    return false;
}

bool Session::run(const Line& line, const QString& merge_key, const std::shared_ptr<const Remake>& from) {
    if (!may_change()) return false;
    nudged_from_.reset();
    auto done = run_command(from ? *from : remake(), line);
    if (!done) {
        emit failed(QString::fromStdString(done.error().message()));
        return false;
    }
    open_.history.push(std::move(done->remake), done->command->undo_text, merge_key.toStdString(), line.text());
    document_was_changed();
    return true;
}

QString Session::what_was_done() const {
    QString text;
    for (const std::string& line : open_.history.lines()) text += QString::fromStdString(line) + "\n";
    return text;
}

void Session::edit(Remake next, const QString& label, const QString& merge_key) {
    if (!may_change()) return;
    // What was wrong before is no reason to refuse: nobody is locked out of a document by its fault.
    if (const auto wrong = what_is_wrong(next); wrong && !what_is_wrong(remake())) {
        emit failed(QString("%1 was not done, because afterwards %2.").arg(label, QString::fromStdString(*wrong)));
        return;
    }
    open_.history.push(std::move(next), label.toStdString(), merge_key.toStdString());
    document_was_changed();
}

void Session::undo() {
    nudged_from_.reset();
    open_.history.undo();
    selected_notes.clear();
    document_was_changed();
}

void Session::redo() {
    open_.history.redo();
    selected_notes.clear();
    document_was_changed();
}

void Session::document_was_changed() {
    emit document_changed();
    refresh_plan();
    check_again();
    if (!provisional()) rebuild_timer_.start();
}

void Session::check_again() {
    if (!open_.analysis || provisional()) return;
    jobs_.run("check", "checking the rebuild", [this]() -> JobQueue::Work {
        return [this, document = document(), analysis = open_.analysis](const Progress&) -> Result<JobQueue::Delivery> {
            auto report = std::make_shared<CheckReport>(check(*document, *analysis));
            return JobQueue::Delivery([this, analysis, report] {
                if (analysis != open_.analysis) return;  // something else is open by now
                // The figures of notes follow at once; those of the sound, which take longer, stay until the hand rests.
                if (open_.report) {
                    report->tone = open_.report->tone;
                    report->width = open_.report->width;
                    report->original_lufs = open_.report->original_lufs;
                    report->rebuild_lufs = open_.report->rebuild_lufs;
                    report->match_gain_db = open_.report->match_gain_db;
                }
                open_.report = report;
                emit report_changed();
            });
        };
    });
}

PlanInputs Session::plan_inputs() const { return {player_->sample_rate_hz(), assets_beside(open_.original)}; }

void Session::refresh_plan() {
    jobs_.run("plan", "preparing the rebuild", [this]() -> JobQueue::Work {
        return [this, document = document(), inputs = plan_inputs(), before = plan_](const Progress&) -> Result<JobQueue::Delivery> {
            Error trouble;
            auto plan = compile_plan(*document, inputs, before, &trouble);
            return JobQueue::Delivery([this, plan, trouble] {
                plan_ = plan;
                player_->set_plan(plan_);
                if (!trouble.subject.empty()) emit failed(QString::fromStdString(trouble.message()));
            });
        };
    });
}

// --- the rebuild's sound, in the background ---

void Session::start_rebuild() {
    if (!open_.original || !open_.analysis) return;
    jobs_.cancel("sound");
    jobs_.run("sound", "rendering the rebuild", [this]() -> JobQueue::Work {
        return [this, document = document(), original = open_.original_summary, analysis = open_.analysis,
                inputs = plan_inputs()](const Progress& progress) -> Result<JobQueue::Delivery> {
            const auto plan = compile_plan(*document, inputs);  // sounds of its own: the player's are in use
            const int rate_hz = static_cast<int>(std::lround(inputs.sample_rate_hz));
            auto peaks = std::make_shared<Peaks>(rate_hz, 2);
            SoundMeter meter(rate_hz, 2, plan->end_frame);
            render_offline(
                *plan, {},
                [&](std::span<const float> block) {
                    peaks->add(block);
                    meter.add(block);
                    return true;
                },
                progress);
            const SoundSummary rebuild = meter.summary();
            auto report = std::make_shared<const CheckReport>(check(*document, *analysis, &original, &rebuild));
            return JobQueue::Delivery([this, document, peaks, report] {
                if (document != open_.history.current()) return;  // overtaken by an edit; the next run is on its way
                open_.rebuild_peaks = std::move(*peaks);
                open_.rebuild_document = document;
                open_.report = report;
                open_.rebuild_lufs = report->rebuild_lufs;
                update_gains();
                emit report_changed();
            });
        };
    });
}

// --- jobs ---

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
    emit job_finished();
}

void Session::cancel_job() { jobs_.cancel("opening"); }

void Session::adopt(std::shared_ptr<Loaded> loaded, int number) {
    if (number != job_number_) return;
    jobs_.cancel("sound");
    rebuild_timer_.stop();
    // When the whole follows a first look, the place, the loop and the sound go on as they are.
    const bool follows = provisional() && !loaded->first_look;
    Contents next;
    next.original = loaded->original;
    next.original_peaks = std::move(loaded->peaks);
    next.analysis = loaded->analysis;
    next.original_summary = std::move(loaded->summary);
    next.original_lufs = loaded->lufs;
    next.file = loaded->file;
    next.history.reset(std::make_shared<const Remake>(std::move(loaded->remake)));
    if (next.file.isEmpty() || loaded->relocated) next.history.mark_never_saved();
    if (follows) next.element = open_.element;
    if (loaded->first_look) shelved_ = std::make_unique<Contents>(std::move(open_));
    else shelved_.reset();
    open_ = std::move(next);
    selected_notes.clear();
    if (!follows) {
        player_->stop();
        player_->set_original(open_.original);
        player_->seek(0.0);
        set_loop(0.0, 0.0, false);
        emit opened();
    }
    update_gains();
    emit analysis_changed();
    document_was_changed();
    emit selection_changed();
    if (!loaded->warning.isEmpty()) emit failed(loaded->warning);
}

void Session::bring_back() {
    player_->stop();
    open_ = std::move(*shelved_);
    shelved_.reset();
    selected_notes.clear();
    player_->set_original(open_.original);
    set_loop(0.0, 0.0, false);
    update_gains();
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

/// A recording as the player, the views and the check take it.
struct Playable {
    std::shared_ptr<const Audio> sound;
    Peaks peaks;
    SoundSummary summary;
};

Playable playable(Audio sound, double rate_hz) {
    SoundSummary summary = summarise(sound);
    auto played = std::make_shared<const Audio>(at_rate(std::move(sound), rate_hz));
    Peaks peaks(*played);
    return {std::move(played), std::move(peaks), std::move(summary)};
}

}  // namespace

void Session::open_recording(const QString& path) {
    const std::filesystem::path file = path.toStdString();
    start_job("opening " + path, [this, file, store = store_, rate = player_->sample_rate_hz()](const Progress& progress, int number) -> Status {
        auto recording = read_recording(file, progress);
        if (!recording) return recording.error();
        const MonoSignal& mono = recording->mono;
        // What is played and drawn is made while the analysis listens, so that the first look need not wait for it.
        auto making = std::async(std::launch::async, [&] { return playable(std::move(recording->sound), rate); }).share();
        const auto bring = [&](const std::shared_ptr<const Analysis>& analysis, bool first_look) {
            auto loaded = std::make_shared<Loaded>();
            loaded->analysis = analysis;
            loaded->lufs = mono.integrated_lufs;
            const Playable& made = making.get();
            loaded->original = made.sound, loaded->peaks = made.peaks, loaded->summary = made.summary;
            loaded->remake = draft_remake(*analysis);
            loaded->first_look = first_look;
            if (!first_look) loaded->warning = sentences(mono.remarks, file);
            QMetaObject::invokeMethod(
                this, [this, loaded, number] { adopt(loaded, number); }, Qt::QueuedConnection);
        };
        auto analysis = analyse(
            mono, file.string(), progress, [&](const std::shared_ptr<const Analysis>& a) { bring(a, true); }, store);
        if (!analysis) return analysis.error();
        bring(*analysis, false);
        return Done{};
    });
}

void Session::open_remake(const QString& path, const QString& reference) {
    const std::filesystem::path file = path.toStdString();
    start_job(
        "opening " + path, [this, file, path, reference, store = store_, rate = player_->sample_rate_hz()](const Progress& progress, int number) -> Status {
            auto remake = load_remake(file);
            if (!remake) return remake.error();
            // Where the recording is at fault, the user may know another place for it.
            const auto ask = [this, path](const Error& e) -> Status {
                if (e.code == ErrorCode::Cancelled) return e;
                QMetaObject::invokeMethod(
                    this, [this, path, s = QString::fromStdString(e.message())] { emit reference_wanted(path, s); }, Qt::QueuedConnection);
                return Done{};
            };
            auto found = reference.isEmpty() ? find_reference(*remake, file) : Result<std::filesystem::path>(std::filesystem::path(reference.toStdString()));
            if (!found) return ask(found.error());
            auto recording = read_recording(*found, progress);
            if (!recording) return ask(recording.error());
            const MonoSignal& mono = recording->mono;
            if (mono.content_hash != remake->reference.content_hash) return ask({ErrorCode::ReferenceChanged, found->string(), {}});
            auto analysis = analyse(mono, found->string(), progress, {}, store);
            if (!analysis) return analysis.error();
            auto loaded = std::make_shared<Loaded>();
            loaded->analysis = *analysis;
            loaded->lufs = mono.integrated_lufs;
            Playable made = playable(std::move(recording->sound), rate);
            loaded->original = std::move(made.sound), loaded->peaks = std::move(made.peaks), loaded->summary = std::move(made.summary);
            loaded->remake = std::move(*remake);
            const std::string place = std::filesystem::absolute(*found).string();
            loaded->relocated = loaded->remake.reference.path != place;
            loaded->remake.reference.path = place;
            loaded->file = path;
            loaded->warning = sentences(mono.remarks, *found);
            QMetaObject::invokeMethod(
                this, [this, loaded, number] { adopt(loaded, number); }, Qt::QueuedConnection);
            return Done{};
        });
}

bool Session::add_midi(const QString& path, const MidiSong& song, double offset_s) {
    auto next = guarded("adding " + path.toStdString(), [&] { return with_given_parts(remake(), song.parts, offset_s, path.toStdString()); });
    if (!next) {
        emit failed(QString::fromStdString(next.error().message()));
        return false;
    }
    const std::size_t before = remake().parts.size();
    edit(std::move(*next), "Add parts from MIDI");
    if (remake().parts.size() > before) select_element(remake().parts[before]->id);
    return true;
}

bool Session::save(const QString& path) {
    if (provisional()) {
        emit failed("The recording is still being listened to: save once that is done.");
        return false;
    }
    const auto saved = guarded("saving " + path.toStdString(), [&]() -> Status {
        const std::vector<std::filesystem::path> inputs{remake().reference.path};
        if (auto spared = spares_inputs(path.toStdString(), inputs); !spared) return spared;
        return save_remake(path.toStdString(), remake());
    });
    if (!saved) {
        emit failed(QString::fromStdString(saved.error().message()));
        return false;
    }
    open_.file = path;
    open_.history.close_step();
    open_.history.mark_saved();
    emit document_changed();
    return true;
}

// --- listening ---

void Session::update_gains() {
    if (!loudness_match_ || open_.original_lufs <= -69.0 || open_.rebuild_lufs <= -69.0) {
        player_->set_gains(1.0F, 1.0F);
        return;
    }
    // The louder one comes down to the softer one, so that matching never clips; but never by more than 24 dB.
    const double difference = std::clamp(open_.original_lufs - open_.rebuild_lufs, -24.0, 24.0);
    player_->set_gains(static_cast<float>(std::pow(10.0, -std::max(0.0, difference) / 20.0)),
                       static_cast<float>(std::pow(10.0, std::min(0.0, difference) / 20.0)));
}

void Session::set_loudness_match(bool on) {
    loudness_match_ = on;
    update_gains();
    emit transport_changed();
}

void Session::seek(double time_s) {
    player_->seek(std::max(0.0, time_s));
    emit transport_changed();
}

void Session::toggle_play() {
    if (!has_reference()) return;
    if (player_->playing()) player_->stop();
    else player_->play();
    emit transport_changed();
}

void Session::set_source(Source source) {
    player_->set_source(source);
    emit transport_changed();
}

void Session::flip_source() { set_source(player_->source() == Source::Rebuild ? Source::Original : Source::Rebuild); }

void Session::set_loop(double start_s, double end_s, bool on) {
    loop_start_ = std::min(start_s, end_s);
    loop_end_ = std::max(start_s, end_s);
    player_->set_loop(loop_start_, loop_end_);
    player_->set_looping(on && loop_end_ > loop_start_);
    emit transport_changed();
}

// --- selection ---

void Session::select_element(ElementId id) {
    if (open_.element == id) return;
    open_.element = id;
    selected_notes.clear();
    notes_selected();
}

void Session::downbeat_here() { run(Line("tempo.downbeat").with("at", seconds_text(position_s()))); }

void Session::toggle_confirmed(ElementId id) {
    const bool confirmed = remake().element(id).state == State::Confirmed;
    run(Line("element.note").with("element", element_text(remake(), id)).with("state", confirmed ? "draft" : "confirmed"));
}

const Part* Session::selected_part() const { return open_.element.part() ? remake().part(open_.element.part()) : nullptr; }

bool Session::is_selected(const PlacedNote& note) const { return std::find(selected_notes.begin(), selected_notes.end(), note.ref()) != selected_notes.end(); }

Line Session::on_notes(const char* command, const Remake& document, PartId part) const {
    Line line(command);
    line.with("part", part_text(document, part));
    if (const Part* p = document.part(part)) line.with("notes", notes_text(document, *p, selected_notes));
    if (reach_ == Reach::Here) line.with("reach", reach_text(reach_));
    return line;
}

void Session::draw_note(PartId part, const Note& n) {
    Line line("note.add");
    line.with("part", part_text(remake(), part))
        .with("at", place_text(remake().song->meter, n.start))
        .with("pitch", note_name(n.pitch, false))
        .with("length", length_text(n.length))
        .with("velocity", std::to_string(n.velocity));
    if (reach_ == Reach::Here) line.with("reach", reach_text(reach_));
    selected_notes.clear();
    if (!run(line)) return;
    const Part* now = remake().part(part);
    for (const PlacedNote& x : placed_notes(*now))
        if (x.note.start == n.start && x.note.pitch == n.pitch) selected_notes = {x.ref()};
    notes_selected();
}

void Session::nudge(PartId part, Ticks ticks) {
    // Always from where the notes were before the first press, so that the presses are one step and one line.
    if (!nudged_from_) nudged_from_ = document(), nudged_ = 0;
    const auto from = nudged_from_;
    nudged_ += ticks;
    if (run(on_notes("note.change", *from, part).with("move", length_text(nudged_)), "nudge", from)) nudged_from_ = from;
}

void Session::set_reach(Reach reach) {
    reach_ = reach;
    emit selection_changed();
}

}  // namespace fw::app

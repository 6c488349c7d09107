// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/document_store.hpp"
#include "app/job_queue.hpp"
#include "app/recording_store.hpp"
#include "app/selection.hpp"
#include "app/transport.hpp"
#include "check/check.hpp"
#include "check/left_over.hpp"
#include "check/part_sound.hpp"
#include "formats/midi_file.hpp"

#include <QObject>
#include <QString>
#include <QTime>
#include <QTimer>
#include <filesystem>
#include <functional>
#include <memory>
#include <optional>

namespace fw::app {

class DoubtWalk;
class MoveRecorder;
class PlayIn;
class Survey;

/// What the whole window works on: the document, what is known of its recording, what is chosen, what is heard; and the jobs that open things and that follow
/// edits: planning, checking, rendering.
///
/// Lives in the window's thread; jobs run in threads of their own on snapshots and come back through the event loop.
class Session final : public QObject {
    Q_OBJECT

public:
    /// output: where sound goes, see Transport.
    explicit Session(std::unique_ptr<AudioOutput> output = nullptr, QObject* parent = nullptr);
    ~Session() override;

    DocumentStore& documents() { return documents_; }
    const DocumentStore& documents() const { return documents_; }
    Selection& selection() { return selection_; }
    const Selection& selection() const { return selection_; }
    Transport& transport() { return transport_; }
    const Transport& transport() const { return transport_; }
    Survey& survey() { return *survey_; }
    DoubtWalk& walk() { return *walk_; }
    PlayIn& play_in() { return *play_in_; }
    MoveRecorder& moves() { return *moves_; }
    const RecordingStore& recording() const { return open_.recording; }
    const Remake& remake() const { return documents_.remake(); }

    bool has_reference() const { return recording().analysis != nullptr; }
    /// What is shown is a first look at a recording that is still being listened to: it can be played, not changed or saved.
    bool provisional() const { return shelved_ != nullptr; }

    // --- opening ---
    /// Opens a recording and drafts a remake of it. One that is known from before is there at once, its sound follows; of another a first look with
    /// waveform, tempo and beats comes early. When the analysis is stopped or fails, what was open before comes back as it was.
    void open_recording(const QString& path);
    /// Opens a remake; when its reference is gone, reference_wanted() is sent and open_remake may be called again with where it is.
    void open_remake(const QString& path, const QString& reference = {}) { open_file(path, reference, std::nullopt); }
    /// Opens a copy that was kept of a remake: it counts as unsaved and belongs where the remake was saved last, empty for nowhere.
    void open_recovered(const QString& copy, const QString& belongs_to) { open_file(copy, {}, belongs_to); }
    /// The copy that what is open was opened from by open_recovered; empty for none.
    QString recovered_from() const { return recovered_from_; }
    /// Adds the parts of a MIDI file whose beginning lies offset_s into the recording, as one step that undo takes back. path stands for it in messages.
    bool add_midi(const QString& path, const MidiSong& song, double offset_s);
    /// Runs work that opens something, in the place of what was being opened. What it throws is told as a sentence, like any other failure. work gets the
    /// job's number, which what it brings back must bear: a job that was overtaken by another is not listened to.
    void start_job(const QString& what, std::function<Status(const Progress&, int number)> work);
    void cancel_job();
    bool busy() const { return jobs_.busy("opening"); }
    /// Plays another remake in the document's place, until the next edit or until nothing is given: for comparing by ear.
    void hear_instead(std::shared_ptr<const Remake> other);
    const std::shared_ptr<const Remake>& instead() const { return instead_; }
    /// Nothing of the last edits is still being planned or checked.
    bool settled() const { return !jobs_.busy("plan") && !jobs_.busy("check"); }
    /// Where evidence is looked for and kept from now on; at first the user's own.
    void set_evidence_store(EvidenceStore store) { evidence_ = std::move(store); }

    // --- what follows from the document ---
    std::shared_ptr<const CheckReport> report() const { return open_.report; }
    const Peaks& rebuild_peaks() const { return open_.rebuild_peaks; }
    /// Of the rebuild as it was last rendered; null before it was.
    std::shared_ptr<const SoundSummary> rebuild_summary() const { return open_.rebuild_summary; }
    /// What of the original it does not have; null before it was rendered.
    std::shared_ptr<const LeftOver> left() const { return open_.left; }
    /// How its parts sound against the original, as far as the mix tells; null before it was rendered.
    std::shared_ptr<const std::vector<PartSound>> part_sounds() const { return open_.part_sounds; }
    /// The document all these are of; null before it was rendered.
    std::shared_ptr<const Remake> rebuild_document() const { return open_.rebuild_document; }
    /// The figures as they were at each rendering since this was opened.
    struct Moment {
        QTime at;
        Match match;
    };
    const std::vector<Moment>& history() const { return open_.history; }
    /// The rebuild's sound and the full report belong to the current document.
    bool rebuild_is_current() const { return open_.rebuild_document == documents_.document(); }

    // --- what is done with more than one of them ---
    /// Nothing is played before something is open.
    void toggle_play();
    /// Makes the beat nearest to the playhead the first of a bar.
    void downbeat_here();
    /// Confirms an element, or takes that back.
    void toggle_confirmed(ElementId id);

signals:
    void document_changed();
    void analysis_changed();
    /// Something else is open now than before.
    void opened();
    void report_changed();
    void selection_changed();
    void transport_changed();
    void heard_instead();
    void progress(double fraction, const QString& stage);
    void job_finished();
    void failed(const QString& sentence);
    /// Something was done that does not show by itself.
    void told(const QString& sentence);
    void reference_wanted(const QString& remake_path, const QString& sentence);

private:
    /// What a job brings back.
    struct Opened;
    /// All that belongs to what is open, besides the document.
    struct Contents {
        RecordingStore recording;
        std::shared_ptr<const CheckReport> report;
        std::shared_ptr<const Remake> rebuild_document;
        Peaks rebuild_peaks;
        std::shared_ptr<const SoundSummary> rebuild_summary;
        std::shared_ptr<const LeftOver> left;
        std::shared_ptr<const std::vector<PartSound>> part_sounds;
        std::vector<Moment> history;
        double rebuild_lufs = -70.0;
    };
    struct Shelved {
        Contents contents;
        DocumentStore::Contents documents;
        ElementId element;
    };
    void open_file(const QString& path, const QString& reference, const std::optional<QString>& belongs_to);
    void opening_is_over();
    void deliver(Opened opened, int number);
    void adopt(Opened opened);
    void take_sound(RecordingStore recording);
    void bring_back();
    void say_lock();
    void document_was_changed();
    PlanInputs plan_inputs() const;
    void tell_trouble(const Error& trouble);
    std::shared_ptr<const Remake> instead_;
    void refresh_plan();
    void check_again();
    void start_rebuild();
    void match_loudness();

    DocumentStore documents_;
    Selection selection_{documents_};
    Transport transport_;
    EvidenceStore evidence_ = EvidenceStore::of_user();
    Contents open_;
    QString recovered_from_;
    std::unique_ptr<Shelved> shelved_;  ///< what was open before a first look
    std::shared_ptr<const Plan> plan_;

    std::unique_ptr<Survey> survey_;
    std::unique_ptr<DoubtWalk> walk_;
    std::unique_ptr<PlayIn> play_in_;
    std::unique_ptr<MoveRecorder> moves_;

    int job_number_ = 0;
    QTimer rebuild_timer_;
    QTimer watch_timer_;    ///< looks whether a plug-in has failed while it plays
    QString told_trouble_;  ///< what of the plan was told last
    JobQueue jobs_;         // last, so that it has ended before anything it works for goes
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/analysis.hpp"
#include "analysis/evidence_store.hpp"
#include "app/job_queue.hpp"
#include "audio/peaks.hpp"
#include "check/check.hpp"
#include "commands/call.hpp"
#include "devices/audio_output.hpp"
#include "engine/player.hpp"
#include "formats/midi_file.hpp"
#include "model/history.hpp"

#include <QObject>
#include <QString>
#include <QTimer>
#include <filesystem>
#include <functional>
#include <memory>
#include <vector>

namespace fw::app {

/// What the whole window works on: the document and its history, the recording, the evidence, the player and the long jobs.
///
/// Lives in the window's thread; jobs run in threads of their own on snapshots and come back through the event loop.
class Session final : public QObject {
    Q_OBJECT

public:
    /// output: where sound goes; the default picks the sound card or, without one, the simulated device.
    explicit Session(std::unique_ptr<AudioOutput> output = nullptr, QObject* parent = nullptr);
    ~Session() override;

    // --- the document ---
    const Remake& remake() const { return *open_.history.current(); }
    std::shared_ptr<const Remake> document() const { return open_.history.current(); }
    const History& history() const { return open_.history; }
    bool has_reference() const { return open_.original != nullptr; }
    /// What is shown is a first look at a recording that is still being listened to: it can be played, not changed or saved.
    bool provisional() const { return shelved_ != nullptr; }
    /// Runs a command on the document, or on the one a gesture began with; refused with a sentence where run_command refuses it, and like edit(). Steps of
    /// one merge key in a row are one step. True where it was done.
    bool run(const Line& line, const QString& merge_key = {}, const std::shared_ptr<const Remake>& from = nullptr);
    /// All that was done since the document was opened, as lines of a script.
    QString what_was_done() const;
    /// Changes the document by something that is no command; refused with a sentence while there is none or it is provisional, and where what comes out would
    /// not be a valid remake.
    void edit(Remake next, const QString& label, const QString& merge_key = {});
    void undo();
    void redo();
    /// A gesture has ended, a drag or the typing of a number: what is edited next is a step of its own, whatever its merge key.
    void end_gesture() {
        open_.history.close_step();
        nudged_from_.reset();
    }

    // --- files ---
    /// Reads and analyses a recording and drafts a remake of it. A first look with waveform, tempo and beats comes early; when the
    /// analysis is stopped or fails, what was open before comes back as it was.
    void open_recording(const QString& path);
    /// Opens a remake; when its reference is gone, reference_wanted() is sent and open_remake may be called again with where it is.
    void open_remake(const QString& path, const QString& reference = {});
    /// Adds the parts of a MIDI file whose beginning lies offset_s into the recording, as one step that undo takes back. path stands for it in messages.
    bool add_midi(const QString& path, const MidiSong& song, double offset_s);
    bool save(const QString& path);
    QString file() const { return open_.file; }
    bool unsaved() const { return !provisional() && open_.history.unsaved() && has_reference(); }
    /// Runs work that opens something, in the place of what was being opened. What it throws is told as a sentence, like any other failure. work gets the
    /// job's number, which what it brings back must bear: a job that was overtaken by another is not listened to.
    void start_job(const QString& what, std::function<Status(const Progress&, int number)> work);
    /// Where evidence is looked for and kept from now on; at first the user's own.
    void set_evidence_store(EvidenceStore store) { store_ = std::move(store); }
    void cancel_job();
    bool busy() const { return jobs_.busy("opening"); }
    /// Nothing of the last edits is still being planned or checked.
    bool settled() const { return !jobs_.busy("plan") && !jobs_.busy("check"); }

    // --- what is known ---
    std::shared_ptr<const Analysis> analysis() const { return open_.analysis; }
    std::shared_ptr<const CheckReport> report() const { return open_.report; }
    std::shared_ptr<const Audio> original() const { return open_.original; }
    const SoundSummary& original_summary() const { return open_.original_summary; }
    const Peaks& original_peaks() const { return open_.original_peaks; }
    const Peaks& rebuild_peaks() const { return open_.rebuild_peaks; }
    /// The rebuild's sound and the full report belong to the current document.
    bool rebuild_is_current() const { return open_.rebuild_document == open_.history.current(); }

    // --- listening ---
    Player& player() { return *player_; }
    const AudioOutput& output() const { return *output_; }
    void set_loudness_match(bool on);
    bool loudness_match() const { return loudness_match_; }
    double original_lufs() const { return open_.original_lufs; }
    double rebuild_lufs() const { return open_.rebuild_lufs; }
    void seek(double time_s);
    void toggle_play();
    void flip_source();
    void set_source(Source source);
    void set_loop(double start_s, double end_s, bool on = true);
    double loop_start() const { return loop_start_; }
    double loop_end() const { return loop_end_; }

    // --- selection ---
    ElementId element() const { return open_.element; }
    void select_element(ElementId id);
    /// Makes the beat nearest to the playhead the first of a bar.
    void downbeat_here();
    /// Confirms an element, or takes that back.
    void toggle_confirmed(ElementId id);
    /// The selected part, or null where the element is no part.
    const Part* selected_part() const;
    std::vector<NoteRef> selected_notes;
    bool is_selected(const PlacedNote& note) const;
    /// Begins a command on the selected notes of a part, as they are in a document, with the reach that is set.
    Line on_notes(const char* command, const Remake& document, PartId part) const;
    /// Draws a note and selects it.
    void draw_note(PartId part, const Note& note);
    /// Moves the selected notes by ticks; presses in a row are one step.
    void nudge(PartId part, Ticks ticks);
    /// How far edits of notes reach.
    Reach reach() const { return reach_; }
    void set_reach(Reach reach);
    void notes_selected() {
        end_gesture();
        emit selection_changed();
    }
    double position_s() const { return player_->position_s(); }

signals:
    void document_changed();
    void analysis_changed();
    /// Something else is open now than before.
    void opened();
    void report_changed();
    void selection_changed();
    void transport_changed();
    void progress(double fraction, const QString& stage);
    void job_finished();
    void failed(const QString& sentence);
    void reference_wanted(const QString& remake_path, const QString& sentence);

private:
    struct Loaded;
    /// All that belongs to what is open.
    struct Contents {
        History history;
        QString file;
        ElementId element;
        std::shared_ptr<const Analysis> analysis;
        std::shared_ptr<const Audio> original;
        SoundSummary original_summary;
        std::shared_ptr<const CheckReport> report;
        std::shared_ptr<const Remake> rebuild_document;
        Peaks original_peaks, rebuild_peaks;
        double original_lufs = -70.0, rebuild_lufs = -70.0;
    };
    void opening_is_over();
    void adopt(std::shared_ptr<Loaded> loaded, int number);
    void bring_back();
    void document_was_changed();
    bool may_change();
    PlanInputs plan_inputs() const;
    void refresh_plan();
    void check_again();
    void start_rebuild();
    void update_gains();

    EvidenceStore store_ = EvidenceStore::of_user();
    Contents open_;
    std::unique_ptr<Contents> shelved_;  ///< what was open before a first look
    std::unique_ptr<AudioOutput> output_;
    std::unique_ptr<Player> player_;
    std::shared_ptr<const Plan> plan_;
    bool loudness_match_ = true;
    Reach reach_ = Reach::Everywhere;
    std::shared_ptr<const Remake> nudged_from_;  ///< before the presses that are going on
    Ticks nudged_ = 0;
    double loop_start_ = 0.0, loop_end_ = 0.0;

    int job_number_ = 0;
    QTimer rebuild_timer_, collect_timer_;
    JobQueue jobs_;  // last, so that it has ended before anything it works for goes
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/job_queue.hpp"
#include "app/tryout.hpp"
#include "commands/command.hpp"
#include "devices/midi_input.hpp"
#include "model/automation.hpp"
#include "model/played.hpp"
#include "model/remake.hpp"

#include <QObject>
#include <QString>
#include <QTimer>
#include <memory>
#include <optional>
#include <vector>

namespace fw::app {

class Session;

/// Playing a part in from keys: heard at once, kept as takes where it is recorded, one for each time round the loop; or step by step.
///
/// Lives in the window's thread and asks the keyboard every few milliseconds; when a key went down is told by the keyboard, not by when it was asked.
class PlayIn final : public QObject {
    Q_OBJECT

public:
    explicit PlayIn(Session& session);
    ~PlayIn() override;

    /// Listens to a keyboard, or to the computer's keys for none.
    void listen(std::unique_ptr<MidiInput> keyboard);
    void stop_listening();
    bool listening() const { return listening_; }
    /// The computer's keys are what is played on.
    bool by_computer_keys() const { return listening_ && !keyboard_; }
    /// A key of the computer that stands for a pitch.
    void key(int pitch, bool down);
    int octave() const { return octave_; }
    void set_octave(int octave) { octave_ = octave; }

    /// What is played now is kept, until it is stopped; playback begins if it does not run.
    void record(bool on);
    bool recording() const { return recording_; }
    /// How much later than it was meant what is played comes: taken off.
    void set_latency_ms(double ms) { latency_ms_ = ms; }
    double latency_ms() const { return latency_ms_; }

    struct Take {
        std::vector<Note> notes;          ///< in song time
        std::vector<CurvePoint> level{};  ///< where a fader was moved, dB, in song time
        /// How likely its notes are right by the evidence, on average; nothing while that is not known.
        std::optional<double> right{};
    };
    const std::vector<Take>& takes() const { return takes_; }
    std::optional<std::size_t> taken() const { return taken_; }
    /// Notes that came another way, as one more take, written at once.
    void add_take(std::vector<Note> notes);
    /// Writes one take into the part, in place of the one that was taken before; where the document was edited since, beside what is there.
    void take(std::size_t index);

    /// Each key, or keys held together, writes a note of the grid's length at the playhead, which goes on by it.
    void set_step_entry(bool on) { step_entry_ = on, emit changed(); }
    bool step_entry() const { return step_entry_; }
    void set_step(Ticks step) { step_ = step; }

signals:
    void changed();

private:
    void poll();
    void handle(const MidiMessage& message);
    void enter_step(int pitch, int velocity, bool down);
    void end_pass(double at_s);
    Line line_of(std::size_t take) const;
    void write_level(const Take& take);
    /// Has a take judged against the original, behind everything else.
    void judge(std::size_t take);
    /// The place that was heard at a moment.
    double heard_at(Moment at) const;

    Session& session_;
    std::unique_ptr<MidiInput> keyboard_;
    bool listening_ = false, recording_ = false, step_entry_ = false;
    int octave_ = 4;
    double latency_ms_ = 0.0;
    Ticks step_ = kTicksPerQuarter / 4;
    QTimer timer_;
    // Where the playhead is, smoothed: the device goes on block by block, a hand does not.
    Moment clock_at_{};
    double clock_s_ = 0.0, last_position_s_ = 0.0;
    std::vector<KeyEvent> events_;
    std::vector<std::pair<double, int>> fader_;  ///< seconds of the recording, 0 to 127
    std::vector<Take> takes_;
    std::optional<std::size_t> taken_;
    Tryout tried_;  ///< the takes, one in the place of the other
    PartId part_;
    JobQueue jobs_;
    int held_ = 0;  ///< keys of the step that is being entered
};

}  // namespace fw::app

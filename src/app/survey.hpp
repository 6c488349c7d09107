// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/clearest.hpp"
#include "analysis/readings.hpp"
#include "app/job_queue.hpp"
#include "app/session.hpp"
#include "check/faint.hpp"
#include "dsp/probe.hpp"

#include <QObject>
#include <QTimer>
#include <memory>
#include <optional>
#include <utility>
#include <vector>

namespace fw::app {

/// What is done about the map of the recording, whichever key, menu or button asks for it: readings and taps, beats and bars, what is looped, and through which
/// lens and with which clicks it is heard.
///
/// Lives in the window's thread; readings are judged in a job.
class Survey final : public QObject {
    Q_OBJECT

public:
    explicit Survey(Session& session);

    // --- how it is counted ---
    /// Ways to count the recording, the present one first; empty until they were judged.
    const std::vector<Reading>& readings() const { return readings_; }
    /// A way to count is heard as clicks over the original; the song's own for none.
    void hear_reading(const Reading* reading);
    const std::optional<Reading>& heard_reading() const { return heard_reading_; }
    void take_reading(const Reading& reading);
    /// The playhead is on a beat: four or more in a row tell tempo and place, taken once the hand rests.
    void tap();
    std::size_t taps() const { return taps_s_.size(); }

    /// The bars of the loop, or else the one at the playhead: the first and the one behind the last.
    std::pair<int, int> bars_meant() const;
    /// Counts the bars meant as so many more, or fewer.
    void count_more_bars(int more);
    void make_steady();
    /// Puts the beats of the bars meant where the recording has them.
    void follow_recording();
    void toggle_free_time();
    /// Puts the beat nearest to the playhead there and pins it; or lets go of the pin nearest to it.
    void pin_here();
    void unpin_here();

    // --- sections ---
    void split_section_here();
    void merge_section_here();
    /// The section that begins nearest to the playhead begins there.
    void start_section_here();

    // --- how it is heard ---
    /// What part of the sound is heard. An element's share is that of the one chosen, and goes with the choice.
    void set_lens(Lens lens);
    void set_click(const Transport::Click& click);
    void loop_bar();
    void loop_section();
    void loop_notes();
    /// Remembers what is looped, or the bar at the playhead, with the lens; goes to the next one remembered.
    void remember_spot();
    void next_spot();
    void go_to_spot(const Spot& spot);
    /// Loops the next of the moments in which the chosen element stands most alone.
    void next_clearest();
    const std::vector<ClearMoment>& clearest() const { return clearest_; }
    /// The sounding pitch of what is looped, or of a quarter of a second at the playhead, through the lens: of the original, or of the chosen part's own sound
    /// where the rebuild is the source. Told once it is known.
    void probe();
    const std::optional<ProbedPitch>& probed() const { return probed_; }
    QString probed_words() const;
    /// Looks for what sounds below all else; faint() tells.
    void scan_for_faint();
    const std::optional<std::vector<FaintFind>>& faint() const { return faint_; }
    /// Loops a part of it through the band it is heard best in.
    void hear_faint(const FaintFind& find);
    /// A drone of these pitches (MIDI), in the recording's tuning; none for an empty list, or for those that sound now.
    void toggle_drone(const std::vector<int>& pitches);

signals:
    void changed();

private:
    void follow();
    void refresh_clicks();
    void judge();
    void take_taps();
    void take_time();
    Ticks here() const;
    void loop(Ticks from, Ticks to);

    Session& session_;
    std::vector<Reading> readings_;
    std::optional<Reading> heard_reading_;
    std::vector<double> taps_s_;
    QTimer tap_timer_;
    std::shared_ptr<const Analysis> analysis_;
    std::shared_ptr<const Song> counted_;  ///< whose count clicks and readings belong to
    ElementId clearest_of_;
    std::vector<ClearMoment> clearest_;
    std::size_t clearest_at_ = 0;
    std::optional<ProbedPitch> probed_;
    std::optional<std::vector<FaintFind>> faint_;  ///< none before it was scanned for
    QTimer clock_;
    std::shared_ptr<const Remake> seen_;  ///< the document when time was last taken
    JobQueue jobs_;                       // last, so that it has ended before anything it works for goes
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "devices/audio_output.hpp"
#include "engine/player.hpp"

#include <QObject>
#include <QTimer>
#include <memory>

namespace fw::app {

/// Listening: the device, the player, what is heard from where to where and how loud.
///
/// Lives in the window's thread; the player is asked by the device's.
class Transport final : public QObject {
    Q_OBJECT

public:
    /// output: where sound goes; null picks the sound card or, without one, the simulated device. One that fails to start is told once, and the simulated
    /// one takes its place, so that the transport still works.
    explicit Transport(std::unique_ptr<AudioOutput> output);
    ~Transport() override;

    Player& player() { return *player_; }
    const AudioOutput& output() const { return *output_; }
    double rate_hz() const { return player_->sample_rate_hz(); }

    void set_original(std::shared_ptr<const Audio> sound) { player_->set_original(std::move(sound)); }
    /// Stops and goes back to the beginning, without a loop.
    void begin_anew();

    double position_s() const { return player_->position_s(); }
    void seek(double time_s);
    void toggle_play();
    /// Plays after a count-in of clicks.
    void play_after(int clicks, double interval_s);
    void flip_source();
    void set_source(Source source);
    /// 0.25 to 1, pitch kept.
    void set_speed(double speed);
    void set_loop(double start_s, double end_s, bool on = true);
    /// A stretch is heard in turn with another, from the beginning of the first.
    void hear_in_turn(double start_s, double end_s, double other_start_s, double other_end_s);
    double loop_start() const { return loop_start_; }
    double loop_end() const { return loop_end_; }

    void set_lens(Lens lens);
    const Lens& lens() const { return player_->lens(); }
    /// Clicks over what is heard: whether, at which level, how many between two beats; and one beat after the other before it begins.
    struct Click {
        bool on = false, count_in = false;
        double level_db = -6.0;
        int between = 0;
    };
    const Click& click() const { return click_; }
    void set_click(const Click& click);
    /// Where they fall; heard while they are on, or whenever `always`.
    void set_clicks(std::shared_ptr<const ClickTrack> clicks, bool always = false);
    void set_drone(const Drone& drone);
    const Drone& drone() const { return drone_; }

    void set_loudness_match(bool on);
    bool loudness_match() const { return loudness_match_; }
    /// Integrated loudness of both sources (LUFS), by which they are matched; −70 where it is not known yet.
    void set_loudness(double original_lufs, double rebuild_lufs);

signals:
    void changed();
    void failed(const QString& sentence);

private:
    void update_gains();
    void update_clicks();

    std::unique_ptr<AudioOutput> output_;
    std::unique_ptr<Player> player_;
    bool loudness_match_ = true;
    Click click_;
    Drone drone_;
    std::shared_ptr<const ClickTrack> clicks_;
    bool always_click_ = false;
    double loop_start_ = 0.0, loop_end_ = 0.0, original_lufs_ = -70.0, rebuild_lufs_ = -70.0;
    QTimer collect_timer_;
};

}  // namespace fw::app

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
    void flip_source();
    void set_source(Source source);
    void set_loop(double start_s, double end_s, bool on = true);
    double loop_start() const { return loop_start_; }
    double loop_end() const { return loop_end_; }

    void set_loudness_match(bool on);
    bool loudness_match() const { return loudness_match_; }
    /// Integrated loudness of both sources (LUFS), by which they are matched; −70 where it is not known yet.
    void set_loudness(double original_lufs, double rebuild_lufs);

signals:
    void changed();
    void failed(const QString& sentence);

private:
    void update_gains();

    std::unique_ptr<AudioOutput> output_;
    std::unique_ptr<Player> player_;
    bool loudness_match_ = true;
    double loop_start_ = 0.0, loop_end_ = 0.0, original_lufs_ = -70.0, rebuild_lufs_ = -70.0;
    QTimer collect_timer_;
};

}  // namespace fw::app

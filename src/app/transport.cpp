// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/transport.hpp"
#include "app/words.hpp"

#include <QMetaObject>
#include <algorithm>
#include <cmath>

namespace fw::app {

Transport::Transport(std::unique_ptr<AudioOutput> output) : output_(output ? std::move(output) : open_audio_output(44100.0)) {
    player_ = std::make_unique<Player>(output_->sample_rate_hz());
    const auto render = [this](std::span<float> l, std::span<float> r) { player_->process(l, r); };
    if (auto started = output_->start(render); !started) {
        const QString sentence = of_core(started.error().message());
        output_ = std::make_unique<SimulatedOutput>(player_->sample_rate_hz());
        (void)output_->start(render);
        QMetaObject::invokeMethod(
            this, [this, sentence] { emit failed(sentence); }, Qt::QueuedConnection);
    }
    collect_timer_.setInterval(500);
    connect(&collect_timer_, &QTimer::timeout, this, [this] { player_->collect(); });
    collect_timer_.start();
}

Transport::~Transport() { output_->stop(); }

void Transport::begin_anew() {
    player_->stop();
    player_->seek(0.0);
    set_loop(0.0, 0.0, false);
    set_lens({});
    set_drone({});
}

void Transport::seek(double time_s) {
    player_->seek(std::max(0.0, time_s));
    emit changed();
}

void Transport::toggle_play() {
    if (player_->playing()) player_->stop();
    else player_->play();
    emit changed();
}

void Transport::play_after(int clicks, double interval_s) {
    player_->play_after(clicks, interval_s);
    emit changed();
}

void Transport::set_lens(Lens lens) {
    player_->set_lens(std::move(lens));
    emit changed();
}

void Transport::set_click(const Click& click) {
    click_ = click;
    update_clicks();
    emit changed();
}

void Transport::set_clicks(std::shared_ptr<const ClickTrack> clicks, bool always) {
    clicks_ = std::move(clicks);
    always_click_ = always;
    update_clicks();
}

void Transport::update_clicks() {
    player_->set_click_gain(static_cast<float>(std::pow(10.0, click_.level_db / 20.0)));
    player_->set_clicks(click_.on || always_click_ ? clicks_ : nullptr);
}

void Transport::set_drone(const Drone& drone) {
    drone_ = drone;
    player_->set_drone(drone);
    emit changed();
}

void Transport::hear_in_turn(double start_s, double end_s, double other_start_s, double other_end_s) {
    set_loop(start_s, end_s);
    player_->set_loop_partner(other_start_s, other_end_s);
    seek(loop_start_);
    if (!player_->playing()) toggle_play();
}

void Transport::set_speed(double speed) {
    player_->set_speed(speed);
    emit changed();
}

void Transport::set_source(Source source) {
    player_->set_source(source);
    emit changed();
}

void Transport::flip_source() { set_source(player_->source() == Source::Rebuild ? Source::Original : Source::Rebuild); }

void Transport::set_loop(double start_s, double end_s, bool on) {
    loop_start_ = std::min(start_s, end_s);
    loop_end_ = std::max(start_s, end_s);
    player_->set_loop(loop_start_, loop_end_);
    player_->set_looping(on && loop_end_ > loop_start_);
    emit changed();
}

void Transport::set_loudness_match(bool on) {
    loudness_match_ = on;
    update_gains();
    emit changed();
}

void Transport::set_loudness(double original_lufs, double rebuild_lufs) {
    original_lufs_ = original_lufs, rebuild_lufs_ = rebuild_lufs;
    update_gains();
}

void Transport::update_gains() {
    const bool known = original_lufs_ > -69.0 && rebuild_lufs_ > -69.0;
    player_->set_match(known ? static_cast<float>(std::pow(10.0, std::clamp(original_lufs_ - rebuild_lufs_, -24.0, 24.0) / 20.0)) : 1.0F);
    if (!loudness_match_ || !known) {
        player_->set_gains(1.0F, 1.0F);
        return;
    }
    // The louder one comes down to the softer one, so that matching never clips; but never by more than 24 dB.
    const double difference = std::clamp(original_lufs_ - rebuild_lufs_, -24.0, 24.0);
    player_->set_gains(static_cast<float>(std::pow(10.0, -std::max(0.0, difference) / 20.0)),
                       static_cast<float>(std::pow(10.0, std::min(0.0, difference) / 20.0)));
}

}  // namespace fw::app

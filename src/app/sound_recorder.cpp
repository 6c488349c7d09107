// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sound_recorder.hpp"

#include "app/kept_file.hpp"
#include "app/words.hpp"

#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {
/// Softer than this nothing was played or sung.
constexpr double kSilence = 0.001, kShortest_s = 0.1;
}  // namespace

SoundRecorder::SoundRecorder(Session& session) : session_(session), tried_(session.documents()) {
    timer_.setInterval(15);
    connect(&timer_, &QTimer::timeout, this, &SoundRecorder::poll);
    connect(&session_, &Session::opened, this, [this] {
        record(false);
        takes_.clear(), taken_.reset(), tried_.forget();
        emit changed();
    });
}

void SoundRecorder::use(std::unique_ptr<AudioInput> microphone) {
    record(false);
    microphone_ = std::move(microphone);
    emit changed();
}

void SoundRecorder::record(bool on) {
    if (on == recording_) return;
    if (!on) {
        poll();
        recording_ = false;
        timer_.stop();
        microphone_->stop();
        end_pass();
        if (takes_.empty()) emit session_.told(tr("Nothing was heard: no take was kept."));
        emit changed();
        return;
    }
    if (!microphone_ || session_.provisional() || !session_.has_reference()) return;
    if (const auto started = microphone_->start(); !started) {
        emit session_.failed(of_core(started.error().message()));
        return;
    }
    tried_.begin();
    takes_.clear(), taken_.reset(), pass_.clear();
    recording_ = true;
    if (!session_.transport().player().playing()) session_.transport().toggle_play();
    at_s_ = last_position_s_ = session_.transport().position_s();
    timer_.start();
    emit changed();
}

void SoundRecorder::poll() {
    if (!recording_) return;
    const std::vector<float> heard = microphone_->take();
    for (const float s : heard) peak_ = std::max(peak_, static_cast<double>(std::abs(s)));
    const double position = session_.transport().position_s();
    if (position < last_position_s_) {
        // The loop has begun again: what was heard since belongs to the next take.
        const auto since = static_cast<std::size_t>(std::max(0.0, position - session_.transport().loop_start()) * microphone_->sample_rate_hz());
        const std::size_t split = heard.size() - std::min(heard.size(), since);
        pass_.insert(pass_.end(), heard.begin(), heard.begin() + static_cast<std::ptrdiff_t>(split));
        end_pass();
        at_s_ = position - static_cast<double>(heard.size() - split) / microphone_->sample_rate_hz();
        pass_.assign(heard.begin() + static_cast<std::ptrdiff_t>(split), heard.end());
    } else {
        pass_.insert(pass_.end(), heard.begin(), heard.end());
    }
    last_position_s_ = position;
    if (!session_.transport().player().playing()) record(false);
}

void SoundRecorder::end_pass() {
    const double rate = microphone_->sample_rate_hz();
    std::vector<float> sound = std::exchange(pass_, {});
    double peak = 0.0;
    for (const float s : sound) peak = std::max(peak, static_cast<double>(std::abs(s)));
    if (static_cast<double>(sound.size()) < kShortest_s * rate || peak < kSilence) return;
    Audio audio{static_cast<int>(std::lround(rate)), 1, std::move(sound), {}};
    const double seconds = audio.duration_s();
    const auto file = kept_as_file(audio, "recordings");
    if (!file) {
        emit session_.failed(of_core(file.error().message()));
        return;
    }
    takes_.push_back({*file, at_s_ - latency_ms_ / 1000.0, seconds, peak});
    take(takes_.size() - 1);
}

void SoundRecorder::take(std::size_t index) {
    if (index >= takes_.size() || !tried_.begun()) return;
    if (tried_.catch_up() && taken_) emit session_.told(tr("The remake was edited since: this take stands beside the one before."));
    const Take& t = takes_[index];
    const Song& song = *tried_.from()->song;
    // What began before the song did is cut off there.
    const double begins_s = song.tempo.seconds(Ticks{0}), late_s = std::max(0.0, begins_s - t.at_s);
    Line line("clip.from-file");
    line.with("file", t.file)
        .with("to", place_text(song.meter, std::max<Ticks>(0, song.tempo.nearest_tick(t.at_s))))
        .with("seconds", QString::number(t.seconds, 'f', 4).toStdString())
        .with("name", tr("Take %1").arg(index + 1).toStdString())
        .with("origin", "recorded");
    if (late_s > 0.0) line.with("recipe", "trim " + std::to_string(1000.0 * late_s) + " " + std::to_string(1000.0 * t.seconds) + ", fade 3 3");
    else line.with("recipe", "fade 3 3");
    if (tried_.run(line, "recorded take")) taken_ = index;
    emit changed();
}

}  // namespace fw::app

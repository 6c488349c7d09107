// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"
#include "app/tryout.hpp"
#include "devices/audio_input.hpp"

#include <QTimer>
#include <optional>
#include <vector>

namespace fw::app {

/// Recording of one's own over what plays: a take for each time round the loop, one in the place of the other in the song, all kept as files.
///
/// Lives in the window's thread and takes what the microphone heard every few milliseconds.
class SoundRecorder final : public QObject {
    Q_OBJECT

public:
    explicit SoundRecorder(Session& session);
    /// What is listened to; none: nothing can be recorded.
    void use(std::unique_ptr<AudioInput> microphone);
    const AudioInput* microphone() const { return microphone_.get(); }
    /// Records until it is stopped, or playback is; playback begins if it does not run.
    void record(bool on);
    bool recording() const { return recording_; }
    /// How much later than it was meant what is recorded comes: taken off.
    void set_latency_ms(double ms) { latency_ms_ = ms; }
    double latency_ms() const { return latency_ms_; }
    /// The loudest sample since it was asked last, 0 … 1.
    double peak() { return std::exchange(peak_, 0.0); }

    struct Take {
        std::string file;
        double at_s = 0.0;  ///< of the song, where its first sample belongs
        double seconds = 0.0;
        double peak = 0.0;
    };
    const std::vector<Take>& takes() const { return takes_; }
    std::optional<std::size_t> taken() const { return taken_; }
    /// Puts a take into the song in the place of the one before; where the document was edited since, beside it.
    void take(std::size_t index);

signals:
    void changed();

private:
    void poll();
    void end_pass();
    Session& session_;
    std::unique_ptr<AudioInput> microphone_;
    QTimer timer_;
    bool recording_ = false;
    double latency_ms_ = 0.0, peak_ = 0.0, at_s_ = 0.0, last_position_s_ = 0.0;
    std::vector<float> pass_;
    std::vector<Take> takes_;
    std::optional<std::size_t> taken_;
    Tryout tried_;
};

}  // namespace fw::app

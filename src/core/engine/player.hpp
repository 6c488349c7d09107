// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "engine/click.hpp"
#include "engine/drone.hpp"
#include "engine/lens.hpp"
#include "engine/remainder.hpp"
#include "engine/renderer.hpp"

#include <array>
#include <atomic>
#include <cstdint>
#include <memory>
#include <span>

namespace RubberBand {
class RubberBandStretcher;
}

namespace fw {

/// What the listener hears.
enum class Source { Original, Rebuild, TakeTurns, LeftRight, Remainder };
inline constexpr int kSources = 5;
const char* source_name(Source source);  ///< "take turns", …

/// Plays the original and the rebuild side by side at one musical place.
///
/// process() is called by the audio device and neither allocates, locks, blocks nor throws; a test counts allocations, also at slow speed. All other
/// functions belong to one control thread: they leave their wish in atomics and are heard within one block of at most 1024 frames; what is set by two
/// values (gains, loop) may for that block be heard half. Documents and recordings are handed over by pointer; what the audio thread is done with is
/// freed by the control thread in collect(). The device must be stopped before the player goes.
class Player {
public:
    explicit Player(double sample_rate_hz);
    ~Player();

    double sample_rate_hz() const noexcept { return rate_; }

    // Control thread.
    void set_plan(std::shared_ptr<const Plan> plan);
    void set_original(std::shared_ptr<const Audio> stereo_at_rate);
    /// What part of either source is heard. Masks of spectra make both later by the same (see LensFilter); position_s() tells what is heard.
    void set_lens(Lens lens);
    const Lens& lens() const noexcept { return *lens_; }
    /// Clicks over what is heard; none for null.
    void set_clicks(std::shared_ptr<const ClickTrack> clicks);
    void set_click_gain(float gain) noexcept { click_gain_ = gain; }
    /// Held tones over what is heard, also while stopped; none for an empty one.
    void set_drone(const Drone& drone);
    void play() noexcept { playing_ = true; }
    /// Plays after so many clicks, one every interval_s.
    void play_after(int clicks, double interval_s) noexcept;
    void stop() noexcept { playing_ = false; }
    bool playing() const noexcept { return playing_; }
    void seek(double time_s) noexcept { seek_request_ = static_cast<std::int64_t>(time_s * rate_); }
    /// An empty span clears the loop.
    void set_loop(double start_s, double end_s) noexcept;
    /// Another stretch that is heard in turn with the loop; an empty span for none, as set_loop leaves it.
    void set_loop_partner(double start_s, double end_s) noexcept;
    void set_looping(bool on) noexcept { looping_ = on; }
    bool looping() const noexcept { return looping_; }
    void set_source(Source source) noexcept { source_ = static_cast<int>(source); }
    Source source() const noexcept { return static_cast<Source>(source_.load()); }
    /// 0.25 … 1, pitch kept.
    void set_speed(double speed) noexcept;
    double speed() const noexcept { return speed_; }
    /// Gains that bring both sources to one loudness; 1 and 1 for no matching.
    void set_gains(float original, float rebuild) noexcept;
    /// The gain that brings the rebuild to the original's loudness where the two are compared for the remainder, whatever gains they are heard at.
    void set_match(float rebuild) noexcept { match_ = rebuild; }
    /// What is heard now; at slow speed what the stretcher gives out, not what it was fed.
    double position_s() const noexcept { return static_cast<double>(position_.load()) / rate_; }
    /// Peak levels since the last call, linear.
    float take_original_peak() noexcept { return original_peak_.exchange(0.0F); }
    float take_rebuild_peak() noexcept { return rebuild_peak_.exchange(0.0F); }
    /// True while take turns is on the rebuild.
    bool turn_is_rebuild() const noexcept { return turn_rebuild_; }
    /// Frees what the audio thread has given back. Call now and then.
    void collect();
    /// Plays one short note of a part at once, as the part sounds, for hearing an edit on click.
    void audition(PartId part, int key, int velocity) noexcept;

    // Audio thread.
    void process(std::span<float> left, std::span<float> right) noexcept;

private:
    struct Held;
    void send();
    void take_messages() noexcept;
    void give_back(Held* old) noexcept;
    void render_block(std::span<float> left, std::span<float> right) noexcept;
    void mix_block(std::span<float> left, std::span<float> right) noexcept;
    void begin_stretch() noexcept;
    void count(std::span<float> left, std::span<float> right) noexcept;

    double rate_;
    // control → audio
    std::atomic<bool> playing_{false}, looping_{false};
    std::atomic<int> source_{0};
    std::atomic<double> speed_{1.0};
    std::atomic<float> original_gain_{1.0F}, rebuild_gain_{1.0F}, match_{1.0F};
    std::atomic<float> click_gain_{0.5F};
    std::atomic<std::int64_t> seek_request_{-1}, loop_start_{0}, loop_end_{0}, partner_start_{0}, partner_end_{0}, audition_{-1};
    std::atomic<int> count_in_{0};
    std::atomic<double> count_interval_s_{0.5};
    std::atomic<Held*> incoming_{nullptr};
    // audio → control
    std::atomic<Held*> outgoing_{nullptr};
    std::atomic<std::int64_t> position_{0};
    std::atomic<float> original_peak_{0.0F}, rebuild_peak_{0.0F};
    std::atomic<bool> turn_rebuild_{false};
    // control thread only: what was sent last
    std::shared_ptr<const Plan> plan_;
    std::shared_ptr<const Audio> original_;
    std::shared_ptr<const Lens> lens_ = std::make_shared<const Lens>();
    std::shared_ptr<const ClickTrack> clicks_;
    Drone drone_;
    // audio thread only
    Held *held_ = nullptr, *retiring_ = nullptr;
    PlanRenderer renderer_;
    std::unique_ptr<RubberBand::RubberBandStretcher> stretcher_;
    bool stretching_ = false;
    double stretch_speed_ = 1.0;
    double heard_ = 0.0;  // at slow speed: the frame that is given out, while frame_ is the one that is fed
    std::int64_t frame_ = 0;
    bool was_playing_ = false;
    float fade_ = 0.0F;
    /// How much of each goes through the first lens, and how far the ears are apart: at 1 the first lens has only the original, folded into the left
    /// ear, and a second one the rebuild, folded into the right.
    struct Mixture {
        float original = 1.0F, rebuild = 0.0F, remainder = 0.0F, ears = 0.0F;
    };
    Mixture mixture_;
    std::vector<float> rebuild_left_, rebuild_right_, block_left_, block_right_;
    Remainder remainder_;
    bool remains_ = false;  // the remainder was fed up to here
    std::vector<float> original_left_, original_right_, matched_left_, matched_right_;
    LensFilter lens_filter_, second_lens_;
    std::vector<float> second_left_, second_right_;
    ClickVoice click_;
    DroneVoice drone_voice_;
    bool in_partner_ = false;
    std::int64_t lens_from_ = 0;  ///< the frame since which the lens was fed
    int counts_left_ = 0;
    std::int64_t count_wait_ = 0;  ///< frames to the next click of the count-in, or to the beginning
    bool auditioning_ = false;
    std::int64_t audition_left_ = 0;
};

}  // namespace fw

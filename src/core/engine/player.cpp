// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/player.hpp"

#include <rubberband/RubberBandStretcher.h>
#include <algorithm>
#include <cmath>
#include <utility>

namespace fw {

namespace {
constexpr std::size_t kLargestBlock = 1024;  // frames mixed at a time
constexpr std::size_t kBlock = 256;          // frames the stretcher is fed with at a time
constexpr double kCrossfade_s = 0.005;
}  // namespace

/// One hand-over: the plan and recording to use from now on. A chain of them travels back when several were replaced.
struct Player::Held {
    std::shared_ptr<const Plan> plan;
    std::shared_ptr<const Audio> original;
    std::shared_ptr<const Lens> lens;
    std::shared_ptr<const ClickTrack> clicks;
    Drone drone{};
    Held* next = nullptr;
};

const char* source_name(Source source) {
    switch (source) {
        case Source::Original: return "original";
        case Source::Rebuild: return "rebuild";
        case Source::TakeTurns: return "take turns";
        case Source::LeftRight: return "left/right";
        case Source::Remainder: break;
    }
    return "remainder";
}

Player::Player(double sample_rate_hz)
    : rate_(sample_rate_hz),
      stretcher_(std::make_unique<RubberBand::RubberBandStretcher>(static_cast<std::size_t>(sample_rate_hz), 2,
                                                                   RubberBand::RubberBandStretcher::OptionProcessRealTime |
                                                                       RubberBand::RubberBandStretcher::OptionThreadingNever |
                                                                       RubberBand::RubberBandStretcher::OptionChannelsTogether)),
      rebuild_left_(kLargestBlock),
      rebuild_right_(kLargestBlock),
      block_left_(kLargestBlock),
      block_right_(kLargestBlock),
      original_left_(kLargestBlock),
      original_right_(kLargestBlock),
      matched_left_(kLargestBlock),
      matched_right_(kLargestBlock),
      lens_filter_(sample_rate_hz),
      second_lens_(sample_rate_hz),
      second_left_(kLargestBlock),
      second_right_(kLargestBlock) {
    stretcher_->setMaxProcessSize(kBlock);
    held_ = new Held{nullptr, nullptr, lens_, nullptr, {}};
}

Player::~Player() {
    delete incoming_.load();
    delete retiring_;
    delete held_;
    for (Held* h = outgoing_.load(); h;) {
        Held* next = h->next;
        delete h;
        h = next;
    }
}

void Player::send() {
    // An older message nobody has taken yet is simply replaced.
    delete incoming_.exchange(new Held{plan_, original_, lens_, clicks_, drone_});
    collect();
}

void Player::set_plan(std::shared_ptr<const Plan> plan) {
    plan_ = std::move(plan);
    send();
}

void Player::set_original(std::shared_ptr<const Audio> original) {
    original_ = std::move(original);
    send();
}

void Player::set_lens(Lens lens) {
    lens_ = std::make_shared<const Lens>(std::move(lens));
    send();
}

void Player::set_clicks(std::shared_ptr<const ClickTrack> clicks) {
    clicks_ = std::move(clicks);
    send();
}

void Player::set_drone(const Drone& drone) {
    drone_ = drone;
    send();
}

void Player::set_loop_partner(double start_s, double end_s) noexcept {
    partner_end_ = 0;
    partner_start_ = static_cast<std::int64_t>(std::max(0.0, start_s) * rate_);
    partner_end_ = static_cast<std::int64_t>(std::max(0.0, end_s) * rate_);
}

void Player::play_after(int clicks, double interval_s) noexcept {
    count_interval_s_ = interval_s;
    count_in_ = clicks;
    playing_ = true;
}

void Player::collect() {
    for (Held* h = outgoing_.exchange(nullptr); h;) {
        Held* next = h->next;
        delete h;
        h = next;
    }
}

void Player::set_loop(double start_s, double end_s) noexcept {
    loop_end_ = 0;  // never an end before a start, even for one block
    partner_end_ = 0;
    loop_start_ = static_cast<std::int64_t>(std::max(0.0, start_s) * rate_);
    loop_end_ = static_cast<std::int64_t>(std::max(0.0, end_s) * rate_);
}

void Player::set_speed(double speed) noexcept { speed_ = std::clamp(speed, 0.25, 1.0); }

void Player::set_gains(float original, float rebuild) noexcept {
    original_gain_ = original;
    rebuild_gain_ = rebuild;
}

void Player::audition(PartId part, int key, int velocity) noexcept { audition_ = (std::int64_t{part.number} << 16) | (std::int64_t{key} << 8) | velocity; }

void Player::take_messages() noexcept {
    // While one plan or lens gives way to another both must live: the next waits those few milliseconds.
    const auto settled = [this] { return renderer_.settled() && lens_filter_.settled(); };
    if (Held* message = settled() ? incoming_.exchange(nullptr) : nullptr) {
        if (retiring_) give_back(std::exchange(retiring_, nullptr));
        renderer_.adopt(message->plan.get());
        if (message->lens != held_->lens) {
            // What is not heard needs no crossfade.
            if (was_playing_) lens_filter_.change(message->lens.get());
            else lens_filter_.jump(message->lens.get());
            second_lens_.jump(message->lens.get());
        }
        Held* old = held_;
        held_ = message;
        retiring_ = old;
    }
    if (retiring_ && settled()) give_back(std::exchange(retiring_, nullptr));
    if (const std::int64_t wish = seek_request_.exchange(-1); wish >= 0) {
        frame_ = wish;
        if (was_playing_) renderer_.seek(frame_);
        turn_rebuild_ = in_partner_ = false;
        lens_from_ = frame_;
        if (stretching_) begin_stretch();
        position_ = frame_;
    }
    if (const std::int64_t wish = audition_.exchange(-1); wish >= 0 && held_->plan) {
        renderer_.strike(PartId(static_cast<int>(wish >> 16)), static_cast<int>((wish >> 8) & 127), static_cast<int>(wish & 127));
        auditioning_ = true;
        audition_left_ = static_cast<std::int64_t>(0.35 * rate_);
    }
}

/// Pushes what is no longer needed onto the chain that collect() takes as a whole.
void Player::give_back(Held* old) noexcept {
    old->next = outgoing_.load();
    while (!outgoing_.compare_exchange_weak(old->next, old)) {
    }
}

/// Both sources at frame_ mixed as the chosen source asks, loops followed; advances frame_.
void Player::mix_block(std::span<float> left, std::span<float> right) noexcept {
    std::size_t done = 0;
    while (done < left.size()) {
        std::size_t step = std::min(left.size() - done, kLargestBlock);
        const std::int64_t first_end = loop_end_, first_start = loop_start_, partner_start = partner_start_, partner_end = partner_end_;
        const bool loop = looping_ && first_end > first_start + 64, has_partner = loop && partner_end > partner_start + 64;
        if (!has_partner) in_partner_ = false;
        if (loop) {
            if (frame_ >= (in_partner_ ? partner_end : first_end)) {
                // Take turns changes with each time round, of both stretches where there are two.
                if (!has_partner || in_partner_) turn_rebuild_ = !turn_rebuild_;
                in_partner_ = has_partner && !in_partner_;
                frame_ = lens_from_ = in_partner_ ? partner_start : first_start;
                renderer_.seek(frame_);
            }
            step = std::min<std::size_t>(step, static_cast<std::size_t>((in_partner_ ? partner_end : first_end) - frame_));
        }
        const auto l = left.subspan(done, step), r = right.subspan(done, step);
        const auto mine_l = std::span(rebuild_left_).first(step), mine_r = std::span(rebuild_right_).first(step);
        renderer_.render({mine_l, mine_r});
        const Audio* original = held_->original.get();
        const auto frames = original ? static_cast<std::int64_t>(original->frames()) : 0;
        const Source source = static_cast<Source>(source_.load());
        const bool mine = source == Source::Rebuild || (source == Source::TakeTurns && turn_rebuild_);
        const float original_gain = original_gain_, rebuild_gain = rebuild_gain_;
        Mixture target{0.0F, 0.0F, 0.0F, 0.0F};
        if (source == Source::LeftRight) target.original = original_gain, target.ears = 1.0F;
        else if (source == Source::Remainder) target.remainder = 1.0F;
        else if (mine) target.rebuild = rebuild_gain;
        else target.original = original_gain;
        const float ramp = static_cast<float>(1.0 / (kCrossfade_s * rate_));
        float original_peak = 0.0F, rebuild_peak = 0.0F;
        for (std::size_t i = 0; i < step; ++i) {
            const std::int64_t f = frame_ + static_cast<std::int64_t>(i);
            const bool inside = f >= 0 && f < frames;
            original_left_[i] = inside ? original->samples[static_cast<std::size_t>(2 * f)] : 0.0F;
            original_right_[i] = inside ? original->samples[static_cast<std::size_t>(2 * f + 1)] : 0.0F;
        }
        const auto left_over_l = std::span(matched_left_).first(step), left_over_r = std::span(matched_right_).first(step);
        if (target.remainder > 0.0F || mixture_.remainder > 0.0F) {
            if (!std::exchange(remains_, true)) remainder_.reset();
            // Both at one loudness, whether they are heard so or not: what is only softer is not missing.
            const float louder = match_;
            for (std::size_t i = 0; i < step; ++i) matched_left_[i] = louder * mine_l[i], matched_right_[i] = louder * mine_r[i];
            remainder_.process(std::span(original_left_).first(step), std::span(original_right_).first(step), left_over_l, left_over_r, left_over_l,
                               left_over_r);
        } else {
            remains_ = false;
        }
        for (std::size_t i = 0; i < step; ++i) {
            const auto approach = [ramp](float& now, float wanted) { now += std::clamp(wanted - now, -ramp, ramp); };
            approach(mixture_.original, target.original);
            approach(mixture_.rebuild, target.rebuild);
            approach(mixture_.remainder, target.remainder);
            const float ol = original_left_[i], orr = original_right_[i];
            original_peak = std::max({original_peak, std::abs(ol), std::abs(orr)});
            rebuild_peak = std::max({rebuild_peak, std::abs(mine_l[i]), std::abs(mine_r[i])});
            const float left_over = remains_ ? mixture_.remainder * original_gain : 0.0F;
            l[i] = mixture_.original * ol + mixture_.rebuild * mine_l[i] + left_over * left_over_l[i];
            r[i] = mixture_.original * orr + mixture_.rebuild * mine_r[i] + left_over * left_over_r[i];
        }
        lens_filter_.process(l, r, frame_);
        if (target.ears > 0.0F || mixture_.ears > 0.0F) {
            if (mixture_.ears <= 0.0F) second_lens_.reset();
            const auto second_l = std::span(second_left_).first(step), second_r = std::span(second_right_).first(step);
            for (std::size_t i = 0; i < step; ++i) second_l[i] = rebuild_gain * mine_l[i], second_r[i] = rebuild_gain * mine_r[i];
            second_lens_.process(second_l, second_r, frame_);
            // Both folded to mono, one an ear; getting there is a crossfade, too.
            for (std::size_t i = 0; i < step; ++i) {
                mixture_.ears += std::clamp(target.ears - mixture_.ears, -ramp, ramp);
                const float e = mixture_.ears, left_ear = 0.5F * (l[i] + r[i]), right_ear = 0.5F * (second_l[i] + second_r[i]);
                l[i] += e * (left_ear - l[i]);
                r[i] += e * (right_ear - r[i]);
            }
        }
        if (const ClickTrack* track = held_->clicks.get()) {
            // With what is heard, which a lens may hold back.
            const auto late = static_cast<std::int64_t>(lens_filter_.latency_frames());
            const double from_s = static_cast<double>(frame_ - late) / rate_, to_s = from_s + static_cast<double>(step) / rate_;
            auto next = std::lower_bound(track->clicks.begin(), track->clicks.end(), from_s, [](const ClickTrack::Click& c, double t) { return c.time_s < t; });
            std::size_t at = 0;
            for (; next != track->clicks.end() && next->time_s < to_s; ++next) {
                const auto there = std::min(step, static_cast<std::size_t>((next->time_s - from_s) * rate_));
                click_.add(l.subspan(at, there - at), r.subspan(at, there - at), click_gain_);
                click_.strike(next->kind, rate_);
                at = there;
            }
            click_.add(l.subspan(at), r.subspan(at), click_gain_);
        }
        if (original_peak > original_peak_) original_peak_ = original_peak;
        if (rebuild_peak > rebuild_peak_) rebuild_peak_ = rebuild_peak;
        frame_ += static_cast<std::int64_t>(step);
        done += step;
    }
}

void Player::begin_stretch() noexcept {
    stretcher_->reset();
    heard_ = static_cast<double>(frame_);
}

void Player::render_block(std::span<float> left, std::span<float> right) noexcept {
    const double speed = speed_;
    if (speed >= 0.999) {
        // Back at full speed it goes on from where the ear is, not from what the stretcher was fed.
        if (std::exchange(stretching_, false)) frame_ = static_cast<std::int64_t>(heard_), renderer_.seek(frame_);
        mix_block(left, right);
        position_ = std::max(lens_from_, frame_ - static_cast<std::int64_t>(lens_filter_.latency_frames()));
        return;
    }
    if (!stretching_ || stretch_speed_ != speed) {
        if (!stretching_) begin_stretch();
        stretcher_->setTimeRatio(1.0 / speed);
        stretching_ = true;
        stretch_speed_ = speed;
    }
    std::size_t done = 0;
    while (done < left.size()) {
        while (stretcher_->available() <= 0) {
            const auto l = std::span(block_left_).first(kBlock), r = std::span(block_right_).first(kBlock);
            mix_block(l, r);
            const float* in[2] = {l.data(), r.data()};
            stretcher_->process(in, kBlock, false);
        }
        float* out[2] = {left.data() + done, right.data() + done};
        done += stretcher_->retrieve(out, std::min(left.size() - done, static_cast<std::size_t>(stretcher_->available())));
    }
    // What is heard was fed a while ago; how far the ear has come is told by what was given out.
    heard_ += static_cast<double>(left.size()) * speed;
    const auto loop_start = static_cast<double>((in_partner_ ? partner_start_ : loop_start_).load()),
               loop_end = static_cast<double>((in_partner_ ? partner_end_ : loop_end_).load());
    if (looping_ && loop_end > loop_start + 64 && heard_ >= loop_end) heard_ = loop_start + std::fmod(heard_ - loop_start, loop_end - loop_start);
    position_ = static_cast<std::int64_t>(heard_);
}

/// Clicks before the beginning; begins at the block's end, which is a few milliseconds at most.
void Player::count(std::span<float> left, std::span<float> right) noexcept {
    std::size_t at = 0;
    while (at < left.size()) {
        if (count_wait_ <= 0) {
            if (counts_left_ == 0) break;
            click_.strike(ClickTrack::Kind::Beat, rate_);
            --counts_left_;
            count_wait_ = static_cast<std::int64_t>(count_interval_s_ * rate_);
        }
        const std::size_t step = std::min(left.size() - at, static_cast<std::size_t>(count_wait_));
        click_.add(left.subspan(at, step), right.subspan(at, step), click_gain_);
        count_wait_ -= static_cast<std::int64_t>(step);
        at += step;
    }
}

void Player::process(std::span<float> left, std::span<float> right) noexcept {
    for (std::size_t at = 0; at < left.size(); at += kLargestBlock) {
        const std::size_t n = std::min(kLargestBlock, left.size() - at);
        const auto l = left.subspan(at, n), r = right.subspan(at, n);
        take_messages();
        const bool playing = playing_;
        const double from_s = static_cast<double>(position_.load()) / rate_;
        if (playing && !was_playing_) {
            renderer_.seek(frame_), turn_rebuild_ = false;
            lens_filter_.reset(), second_lens_.reset();
            lens_from_ = frame_;
            counts_left_ = count_in_.exchange(0);
            count_wait_ = 0;
        }
        if (!playing) counts_left_ = 0, count_wait_ = 0;
        if (playing && (counts_left_ > 0 || count_wait_ > 0)) {
            std::fill(l.begin(), l.end(), 0.0F);
            std::fill(r.begin(), r.end(), 0.0F);
            count(l, r);
        } else if (playing || fade_ > 0.0F) {
            render_block(l, r);
            const float ramp = static_cast<float>(1.0 / (kCrossfade_s * rate_));
            for (std::size_t i = 0; i < n; ++i) {
                fade_ = std::clamp(fade_ + (playing ? ramp : -ramp), 0.0F, 1.0F);
                l[i] *= fade_;
                r[i] *= fade_;
            }
            if (!playing && fade_ <= 0.0F) renderer_.rest(frame_), lens_filter_.settle();
        } else {
            std::fill(l.begin(), l.end(), 0.0F);
            std::fill(r.begin(), r.end(), 0.0F);
            if (audition_left_ > 0) renderer_.render_resting({l, r});
        }
        if (audition_left_ > 0) {
            audition_left_ -= static_cast<std::int64_t>(n);
            if (audition_left_ <= static_cast<std::int64_t>(0.2 * rate_) && std::exchange(auditioning_, false)) renderer_.release();
        }
        drone_voice_.add(held_->drone, l, r, rate_, from_s, playing ? speed_.load() : 0.0);
        was_playing_ = playing;
    }
}

}  // namespace fw

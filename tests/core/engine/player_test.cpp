// SPDX-License-Identifier: GPL-3.0-or-later
#include "engine/player.hpp"

#include "model/edits.hpp"
#include "support/remakes.hpp"
#include "support/rendering.hpp"

#include <gtest/gtest.h>
#include <atomic>
#include <cmath>
#include <cstdlib>
#include <functional>
#include <tuple>

// Counts what the audio thread asks of the heap: every allocation of the program passes here, whichever library makes it.
namespace {
thread_local bool counting = false;
std::atomic<int> allocations{0};
}  // namespace
extern "C" {
void* __libc_malloc(std::size_t);
void* __libc_calloc(std::size_t, std::size_t);
void* __libc_realloc(void*, std::size_t);
void __libc_free(void*);
#if !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
void* malloc(std::size_t n) {
    if (counting) ++allocations;
    return __libc_malloc(n);
}
void* calloc(std::size_t n, std::size_t m) {
    if (counting) ++allocations;
    return __libc_calloc(n, m);
}
void* realloc(void* p, std::size_t n) {
    if (counting) ++allocations;
    return __libc_realloc(p, n);
}
void free(void* p) {
    if (counting && p) ++allocations;
    __libc_free(p);
}
#endif
}

namespace fw {

using test::kBass;
using test::kDrums;
using test::plan_of;
using test::refs;
using test::small_remake;

namespace {

/// An original whose every sample tells its own place: left counts up, right is constant.
std::shared_ptr<const Audio> counting_original(double seconds = 17.0) {
    auto a = std::make_shared<Audio>();
    a->sample_rate_hz = 44100;
    a->channels = 2;
    for (int f = 0; f < static_cast<int>(seconds * 44100); ++f) {
        a->samples.push_back(static_cast<float>(f) / (44100.0F * 40.0F));
        a->samples.push_back(0.25F);
    }
    return a;
}

struct Rig {
    Rig() : player(44100.0) {
        player.set_plan(plan_of(small_remake()));
        player.set_original(counting_original());
    }
    /// Runs the callback for some blocks and keeps what came out.
    std::vector<float> run(int blocks, std::size_t size = 128) {
        std::vector<float> l(size), r(size), out;
        for (int b = 0; b < blocks; ++b) {
            player.process(l, r);
            for (std::size_t i = 0; i < size; ++i) out.push_back(l[i]), out.push_back(r[i]);
        }
        return out;
    }
    Player player;
};

}  // namespace

TEST(PlayerTest, PlaysTheOriginalSampleForSampleFromWhereItWasPut) {
    Rig rig;
    rig.player.seek(2.0);
    rig.player.play();
    const auto out = rig.run(40);
    for (std::size_t f = 1000; f < 5000; ++f) ASSERT_NEAR(out[2 * f], static_cast<float>(88200 + f) / (44100.0F * 40.0F), 2e-7F) << f;
    EXPECT_NEAR(rig.player.position_s(), 2.0 + 40 * 128 / 44100.0, 1e-9);
}

TEST(PlayerTest, StoppedItIsSilentAndStaysInPlace) {
    Rig rig;
    rig.player.seek(3.0);
    for (const float s : rig.run(20)) ASSERT_EQ(s, 0.0F);
    EXPECT_NEAR(rig.player.position_s(), 3.0, 1e-9);
}

TEST(PlayerTest, AuditioningWhileStoppedSoundsThatNoteAlone) {
    // At 0.6 s a bass note is held; at 17.9 s nothing is. The auditioned note must be the same sound at both.
    const auto heard = [](double at) {
        Rig rig;
        rig.player.seek(at);
        rig.run(4);
        rig.player.audition(kBass, 57, 100);
        return rig.run(80);
    };
    const auto held = heard(0.6), alone = heard(17.9);
    float peak = 0.0F;
    for (std::size_t i = 0; i < held.size(); ++i) {
        ASSERT_EQ(held[i], alone[i]) << i;
        peak = std::max(peak, std::abs(held[i]));
    }
    EXPECT_GT(peak, 0.01F);
}

TEST(PlayerTest, AuditioningSoundsAsThePartDoes) {
    const auto heard = [](const std::function<void(Part&)>& change) {
        Player player(44100.0);
        player.set_plan(plan_of(with_part(small_remake(), kBass, [&](Part& p) {
            p.layers[0].patch = "Sub bass";
            change(p);
        })));
        player.audition(kBass, 57, 100);
        std::vector<float> l(44100 / 4), r(l.size());
        player.process(l, r);
        int crossings = 0;
        float left = 0.0F, right = 0.0F;
        for (std::size_t i = 1; i < l.size() / 2; ++i) {
            crossings += l[i - 1] < 0 && l[i] >= 0;
            left = std::max(left, std::abs(l[i])), right = std::max(right, std::abs(r[i]));
        }
        return std::tuple(crossings, left, right);
    };
    const auto [plain, plain_left, plain_right] = heard([](Part&) {});
    const auto [high, high_left, high_right] = heard([](Part& p) { p.layers[0].octave = 1; });
    const auto [soft, soft_left, soft_right] = heard([](Part& p) { p.layers[0].gain_db = -6.0, p.gain_db = -14.0; });
    const auto [panned, panned_left, panned_right] = heard([](Part& p) { p.pan = -1.0; });
    EXPECT_NEAR(high, 2 * plain, 1);
    EXPECT_NEAR(soft_left, plain_left * 0.1F, 0.002F);
    EXPECT_GT(panned_left, plain_left);
    EXPECT_LT(panned_right, 1e-6F);
}

TEST(PlayerTest, SwitchingToLeftAndRightFoldsBothSourcesWithoutAStep) {
    Player player(44100.0);
    auto steady = std::make_shared<Audio>(Audio{44100, 2, {}, {}});
    for (int f = 0; f < 3 * 44100; ++f) steady->samples.push_back(0.5F), steady->samples.push_back(-0.3F);
    player.set_original(steady);
    player.play();
    std::vector<float> l(512), r(512), left, right;
    const auto run = [&] {
        for (int b = 0; b < 20; ++b) {
            player.process(l, r);
            left.insert(left.end(), l.begin(), l.end());
            right.insert(right.end(), r.begin(), r.end());
        }
    };
    run();
    player.set_source(Source::LeftRight);
    run();
    EXPECT_NEAR(left.back(), 0.1F, 1e-4F) << "the original as mono in the left ear";
    EXPECT_NEAR(right.back(), 0.0F, 1e-4F) << "nothing but the rebuild in the right";
    player.set_source(Source::Original);
    run();
    EXPECT_NEAR(left.back(), 0.5F, 1e-4F);
    EXPECT_NEAR(right.back(), -0.3F, 1e-4F);
    float step = 0.0F;
    for (std::size_t i = 1000; i < left.size(); ++i) step = std::max({step, std::abs(left[i] - left[i - 1]), std::abs(right[i] - right[i - 1])});
    EXPECT_LT(step, 0.01F) << "a crossfade of 5 ms moves by less a sample";
}

TEST(PlayerTest, AtSlowSpeedThePositionIsWhatIsHeard) {
    for (const double speed : {0.25, 0.5, 0.8}) {
        Player player(44100.0);
        auto click = std::make_shared<Audio>(Audio{44100, 2, std::vector<float>(2 * 44100 * 4, 0.0F), {}});
        for (std::size_t f = 44100; f < 44100 + 2000; ++f)
            click->samples[2 * f] = click->samples[2 * f + 1] = 0.8F * static_cast<float>(std::sin(0.3 * static_cast<double>(f)));
        player.set_original(click);
        player.set_speed(speed);
        player.play();
        std::vector<float> l(128), r(128);
        double heard_at = -1.0, last = 0.0;
        for (int b = 0; b < 3000 && heard_at < 0.0; ++b) {
            player.process(l, r);
            EXPECT_GE(player.position_s(), last - 0.03) << "it never jumps back";
            last = player.position_s();
            for (const float s : l)
                if (std::abs(s) > 0.3F) heard_at = player.position_s();
        }
        EXPECT_NEAR(heard_at, 1.0, 0.03) << speed;
    }
}

TEST(PlayerTest, AtSlowSpeedALoopsPositionStaysInTheLoop) {
    Rig rig;
    rig.player.set_speed(0.5);
    rig.player.set_loop(1.0, 1.4);
    rig.player.set_looping(true);
    rig.player.seek(1.0);
    rig.player.play();
    int jumps = 0;
    double last = 1.0;
    for (int b = 0; b < 1500; ++b) {
        rig.run(1);
        const double now = rig.player.position_s();
        ASSERT_GE(now, 0.999);
        ASSERT_LE(now, 1.401);
        jumps += now < last - 0.2;
        last = now;
    }
    EXPECT_NEAR(jumps, 1500 * 128 / 44100.0 * 0.5 / 0.4, 1.01) << "once a turn of the loop";
}

TEST(PlayerTest, AFlipIsHeardWithinABlockAtTheSamePlaceWithoutAClick) {
    Rig rig;
    rig.player.seek(1.0);
    rig.player.play();
    rig.run(50);
    const double before = rig.player.position_s();
    rig.player.set_source(Source::Rebuild);
    const auto out = rig.run(10);
    EXPECT_NEAR(rig.player.position_s(), before + 10 * 128 / 44100.0, 1e-9) << "the flip costs no time";
    // The original's right channel is a constant 0.25: within the first block it begins to leave, within 5 ms (and the limiter's delay) it is gone.
    EXPECT_LT(out[2 * 127 + 1] - out[1], -0.01F);
    Rig only;
    only.player.set_source(Source::Rebuild);
    only.player.seek(1.0);
    only.player.play();
    const auto wanted = only.run(60);
    for (std::size_t f = 400; f < 1280; ++f) ASSERT_NEAR(out[2 * f], wanted[2 * (f + 50 * 128)], 1e-5F) << "the rebuild, at the same sample";
    for (std::size_t f = 1; f < 1280; ++f) ASSERT_LT(std::abs(out[2 * f + 1] - out[2 * f - 1]), 0.2F);
}

TEST(PlayerTest, LeftRightPutsOneSourceInEachEar) {
    Rig rig;
    rig.player.set_source(Source::LeftRight);
    rig.player.seek(0.1);  // before the rebuild's first note
    rig.player.play();
    const auto out = rig.run(40);
    EXPECT_GT(std::abs(out[2 * 4000]), 0.1F);
    EXPECT_NEAR(out[2 * 4000 + 1], 0.0F, 1e-5F);
}

TEST(PlayerTest, TakeTurnsPlaysTheLoopOnceInEach) {
    Rig rig;
    rig.player.set_source(Source::TakeTurns);
    rig.player.set_loop(0.0, 0.2);
    rig.player.set_looping(true);
    rig.player.seek(0.0);
    rig.player.play();
    const auto out = rig.run(3 * 8820 / 128 + 4);
    const auto right_at = [&](double s) { return out[2 * static_cast<std::size_t>(s * 44100) + 1]; };
    EXPECT_NEAR(right_at(0.1), 0.25F, 1e-3F);
    EXPECT_NEAR(right_at(0.3), 0.0F, 1e-3F) << "the rebuild's turn: nothing sounds there yet";
    EXPECT_NEAR(right_at(0.5), 0.25F, 1e-3F);
}

TEST(PlayerTest, ALoopComesBackToTheExactSample) {
    Rig rig;
    rig.player.set_loop(1.0, 1.1);
    rig.player.set_looping(true);
    rig.player.seek(1.0);
    rig.player.play();
    const auto out = rig.run(120);
    for (std::size_t f = 600; f < 4000; ++f) ASSERT_NEAR(out[2 * f], out[2 * (f + 4410)], 1e-6F);
}

TEST(PlayerTest, LoudnessGainsApplyToTheirSourceOnly) {
    Rig rig;
    rig.player.set_gains(0.5F, 1.0F);
    rig.player.seek(1.0);
    rig.player.play();
    const auto out = rig.run(30);
    EXPECT_NEAR(out[2 * 3000 + 1], 0.125F, 1e-4F);
}

TEST(PlayerTest, HalfSpeedTakesTwiceAsLongAndKeepsThePitch) {
    Player player(44100.0);
    auto tone = std::make_shared<Audio>();
    tone->sample_rate_hz = 44100;
    tone->channels = 2;
    for (int f = 0; f < 44100 * 8; ++f)
        for (int c = 0; c < 2; ++c) tone->samples.push_back(0.4F * static_cast<float>(std::sin(2 * 3.14159265 * 441 * f / 44100.0)));
    player.set_plan(plan_of(small_remake()));
    player.set_original(tone);
    player.set_speed(0.5);
    player.play();
    std::vector<float> l(128), r(128), out;
    for (int b = 0; b < 690; ++b) {
        player.process(l, r);
        out.insert(out.end(), l.begin(), l.end());
    }
    EXPECT_NEAR(player.position_s(), 1.0, 0.12);
    int crossings = 0;
    for (std::size_t i = 44100; i < 88200; ++i) crossings += out[i - 1] < 0 && out[i] >= 0;
    EXPECT_NEAR(crossings, 441, 6);
}

TEST(PlayerTest, EditsWhilePlayingAreHeardAndNothingHangs) {
    Rig rig;
    rig.player.set_source(Source::Rebuild);
    rig.player.seek(0.4);
    rig.player.play();
    rig.run(100);
    Remake r = small_remake();
    for (const PartId id : {kBass, kDrums}) r = with_part(r, id, [](Part& p) { p.patterns[0].edit().notes.clear(); });
    rig.player.set_plan(plan_of(r));
    const auto out = rig.run(1400);
    float late = 0;
    for (std::size_t i = out.size() - 2000; i < out.size(); ++i) late = std::max(late, std::abs(out[i]));
    EXPECT_LT(late, 1e-3F) << "a note of the old document must not sound on";
    rig.player.collect();
}

TEST(PlayerTest, TheRemainderIsWhatOnlyTheOriginalHas) {
    // The original is the rebuild itself with a whistle of its own; what is left is the whistle, at the loudness it has there, and nothing else.
    const auto plan = plan_of(small_remake());
    auto mine = render_offline(*plan, {RenderWhat::whole(), 0, 8 * 44100});
    ASSERT_TRUE(mine);
    const auto with_whistle = [&](float amplitude, float scale) {
        auto a = std::make_shared<Audio>(*mine);
        for (std::size_t f = 0; f < a->frames(); ++f)
            for (std::size_t c = 0; c < 2; ++c)
                a->samples[2 * f + c] = scale * a->samples[2 * f + c] + amplitude * std::sin(static_cast<float>(f) * 2.0F * 3.14159265F * 3100.0F / 44100.0F);
        return a;
    };
    const auto power_of = [](const std::vector<float>& out) {
        double sum = 0.0;
        for (std::size_t i = out.size() / 4; i < out.size(); ++i) sum += static_cast<double>(out[i]) * out[i];
        return 10.0 * std::log10(sum / (0.75 * static_cast<double>(out.size())) + 1e-12);
    };
    const auto heard = [&](std::shared_ptr<const Audio> original, Source source, float match, std::shared_ptr<const Plan> of = nullptr) {
        Player player(44100.0);
        player.set_plan(of ? of : plan);
        player.set_original(std::move(original));
        player.set_source(source);
        player.set_match(match);
        player.play();
        std::vector<float> l(512), r(512), out;
        for (int b = 0; b < 600; ++b) {
            player.process(l, r);
            out.insert(out.end(), l.begin(), l.end());
        }
        return power_of(out);
    };
    const double whistle = 10.0 * std::log10(0.05 * 0.05 / 2.0), whole = heard(with_whistle(0.0F, 1.0F), Source::Original, 1.0F);
    ASSERT_GT(whole, whistle) << "the music is louder than the whistle";
    EXPECT_LT(heard(with_whistle(0.0F, 1.0F), Source::Remainder, 1.0F), whole - 30.0) << "of a right answer nothing is left";
    EXPECT_NEAR(heard(with_whistle(0.05F, 1.0F), Source::Remainder, 1.0F), whistle, 1.5);
    EXPECT_LT(heard(with_whistle(0.0F, 0.25F), Source::Remainder, 0.25F), whole - 12.0 - 30.0) << "softer by the whole is not missing";
    Remake nothing = small_remake();
    for (const PartId id : {kBass, kDrums}) nothing = with_part(nothing, id, [](Part& p) { p.patterns[0].edit().notes.clear(); });
    EXPECT_NEAR(heard(with_whistle(0.0F, 1.0F), Source::Remainder, 1.0F, plan_of(nothing)), whole, 0.3) << "nothing built: all of it is left";
}

TEST(PlayerTest, TheCallbackNeitherAllocatesNorFrees) {
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
    GTEST_SKIP() << "sanitizers bring their own heap";
#endif
    Remake r = small_remake();
    r = add_layer(r, kBass, {&kSoundFont, {}, 32});
    for (const StepType* t : step_types()) {
        Step step;
        step.type = t;
        r = add_step(r, kBass, step);
    }
    Player player(44100.0);
    const auto first = plan_of(r);
    player.set_plan(first);
    player.set_original(counting_original());
    std::vector<float> l(128), m(128);
    player.play();
    player.process(l, m);
    const auto plan = plan_of(remove_step(change_notes(r, kBass, refs(r, kBass, {0}), {.semitones = 1}), r.part(kBass)->steps[1].id), first);
    allocations = 0;
    const auto run = [&](int blocks) {
        counting = true;
        for (int b = 0; b < blocks; ++b) player.process(l, m);
        counting = false;
    };
    for (const Source s : {Source::Original, Source::Rebuild, Source::TakeTurns, Source::LeftRight, Source::Remainder}) {
        player.set_source(s);
        player.seek(0.3);
        run(400);
    }
    player.set_clicks(std::make_shared<const ClickTrack>(clicks_of(*r.song, 17.0, 1)));
    for (int k = 0; k < kLenses; ++k) {
        Lens lens;
        lens.kind = static_cast<LensKind>(k);
        player.set_lens(lens);
        run(150);
    }
    player.set_lens({});
    player.set_loop(1.0, 1.5);
    player.set_loop_partner(2.0, 2.5);
    player.set_looping(true);
    run(400);
    player.set_plan(plan);
    run(200);
    player.set_speed(0.5);
    player.process(l, m);  // the stretcher is set up for a speed when it is first asked for it
    run(400);
    player.set_speed(1.0);
    player.audition(kBass, 60, 100);
    player.stop();
    run(300);
    EXPECT_EQ(allocations, 0);
}

TEST(PlayerTest, TheLensActsOnBothSourcesAndThePlaceShownIsWhatIsHeard) {
    Rig rig;
    Lens air;
    air.kind = LensKind::Air;
    rig.player.set_lens(air);
    rig.player.seek(2.0);
    rig.player.play();
    // A slope and a constant have nothing above 5 kHz.
    rig.run(60);
    for (const float s : rig.run(40)) ASSERT_LT(std::abs(s), 1e-3F);
    EXPECT_NEAR(rig.player.position_s(), 2.0 + 100 * 128 / 44100.0, 1e-9) << "filters are not late";
    Lens sides;
    sides.kind = LensKind::Sides;
    rig.player.set_lens(sides);
    rig.run(200);
    EXPECT_NEAR(rig.player.position_s(), 2.0 + (300 * 128 - 2048) / 44100.0, 1e-9) << "spectra are";
    rig.player.seek(5.0);
    rig.run(1);
    EXPECT_NEAR(rig.player.position_s(), 5.0, 1e-9) << "but never before where it was put";
    rig.player.set_lens({});
    rig.run(200);
    const auto out = rig.run(1);
    EXPECT_NEAR(out[0], static_cast<float>(5.0 * 44100 + 201 * 128) / (44100.0F * 40.0F), 1e-5F) << "whole again, sample for sample";
}

TEST(PlayerTest, ALensSetWhileStoppedIsThereAtOnceAndPlansGoOnComing) {
    Rig rig;
    Lens low;
    low.kind = LensKind::Tonal;
    rig.player.play();
    rig.run(10);
    rig.player.set_lens(low);
    rig.run(2);
    rig.player.stop();
    rig.run(20);
    std::weak_ptr<const Plan> old;
    {
        auto plan = plan_of(small_remake());
        old = plan;
        rig.player.set_plan(plan);
    }
    rig.run(4);
    rig.player.set_plan(plan_of(small_remake()));
    rig.run(4);
    rig.player.set_plan(plan_of(small_remake()));
    rig.run(4);
    rig.player.collect();
    EXPECT_TRUE(old.expired()) << "a lens that was changing when all stopped holds nothing up";
}

TEST(PlayerTest, LeftAndRightHearEachSourceThroughTheLens) {
    Rig rig;
    Lens speaker;
    speaker.kind = LensKind::Speaker;
    rig.player.set_lens(speaker);
    rig.player.set_source(Source::LeftRight);
    rig.player.seek(2.0);
    rig.player.play();
    rig.run(100);
    float left = 0.0F, right = 0.0F;
    const auto out = rig.run(100);
    for (std::size_t i = 0; i < out.size(); i += 2) left = std::max(left, std::abs(out[i])), right = std::max(right, std::abs(out[i + 1]));
    EXPECT_LT(left, 1e-3F) << "the original here is all below 250 Hz";
    EXPECT_GT(right, 0.003F) << "the rebuild is not";
}

TEST(PlayerTest, ClicksFallOnTheirBeatsToTheSample) {
    Player player(44100.0);
    auto silence = std::make_shared<Audio>();
    silence->sample_rate_hz = 44100;
    silence->channels = 2;
    silence->samples.assign(44100 * 20, 0.0F);
    player.set_original(silence);
    player.set_clicks(std::make_shared<const ClickTrack>(clicks_of(*small_remake().song, 10.0)));
    player.play();
    std::vector<float> l(128), r(128), all;
    for (int b = 0; b < 1400; ++b) {
        player.process(l, r);
        all.insert(all.end(), l.begin(), l.end());
    }
    // Beats from 0.5 s on, two a second; the first of four is the loudest.
    std::vector<double> begins;
    std::vector<float> peaks;
    for (std::size_t f = 1; f < all.size(); ++f) {
        if (all[f] != 0.0F && (begins.empty() || static_cast<double>(f) / 44100.0 - begins.back() > 0.2))
            begins.push_back(static_cast<double>(f) / 44100.0), peaks.push_back(0.0F);
        if (!peaks.empty()) peaks.back() = std::max(peaks.back(), std::abs(all[f]));
    }
    ASSERT_GE(begins.size(), 7u);
    const std::size_t shift = static_cast<std::size_t>(std::lround((begins[0] - 0.5) / 0.5) == 0 ? 0 : 4);
    for (std::size_t i = 0; i < 7; ++i) {
        EXPECT_NEAR(std::fmod(begins[i] + 0.25, 0.5), 0.25, 2.0 / 44100.0) << i;
        if (i > 0 && (i + shift) % 4 != 0) {
            EXPECT_LT(peaks[i], 0.8F * *std::max_element(peaks.begin(), peaks.end()));
        }
    }
    Song free = *small_remake().song;
    free.free_time = {{0, 3840, {}}};
    EXPECT_EQ(clicks_of(free, 10.0).clicks.size() + 4, clicks_of(*small_remake().song, 10.0).clicks.size());
    EXPECT_EQ(clicks_of(*small_remake().song, 10.4, 1).clicks.size(), 2 * clicks_of(*small_remake().song, 10.4).clicks.size());
}

TEST(PlayerTest, ItCountsInBeforeItPlays) {
    Rig rig;
    rig.player.seek(2.0);
    rig.player.play_after(4, 0.25);
    rig.run(100);
    EXPECT_NEAR(rig.player.position_s(), 2.0, 1e-9) << "it waits";
    rig.run(300);
    EXPECT_NEAR(rig.player.position_s(), 2.0 + 400 * 128 / 44100.0 - 1.0, 0.004);
    rig.player.stop();
    rig.run(10);
    rig.player.play();
    rig.run(10);
    EXPECT_GT(rig.player.position_s(), 2.0 + 400 * 128 / 44100.0 - 1.0) << "the next time without";
}

TEST(PlayerTest, TwoStretchesAreHeardInTurn) {
    Rig rig;
    rig.player.set_loop(2.0, 2.1);
    rig.player.set_loop_partner(6.0, 6.2);
    rig.player.set_looping(true);
    rig.player.seek(2.0);
    rig.player.play();
    std::vector<double> begins;
    double before = 2.0;
    for (int b = 0; b < 4000; ++b) {
        rig.run(1, 32);
        const double now = rig.player.position_s();
        if (std::abs(now - before) > 0.05) begins.push_back(now);
        before = now;
    }
    ASSERT_GE(begins.size(), 8u);
    for (std::size_t i = 0; i < begins.size(); ++i) EXPECT_NEAR(begins[i], i % 2 ? 2.0 : 6.0, 0.002) << i;
    rig.player.set_loop(3.0, 3.1);
    rig.player.seek(3.0);
    rig.run(200);
    EXPECT_LT(rig.player.position_s(), 3.11) << "another loop has no partner";
}

TEST(PlayerTest, ANoteOverTheOriginalSoundsWhereItWouldBePlayedAndNowhereElse) {
    Rig rig;
    auto silent = std::make_shared<Audio>();
    silent->sample_rate_hz = 44100, silent->channels = 2;
    silent->samples.resize(2 * 44100 * 10);
    rig.player.set_original(silent);
    rig.player.set_source(Source::Original);
    Drone note;
    note.hz[0] = 440.0, note.count = 1;
    note.within_s = {2.0, 2.5};
    rig.player.set_drone(note);
    for (const float x : rig.run(60)) ASSERT_EQ(x, 0.0F) << "nothing while it is stopped";
    rig.player.seek(1.5);
    rig.player.play();
    std::vector<float> out;
    while (rig.player.position_s() < 3.2 && out.size() < 44100u * 10) {
        const auto more = rig.run(1);
        out.insert(out.end(), more.begin(), more.end());
    }
    std::size_t first = 0, last = 0;
    for (std::size_t i = 0; i < out.size(); i += 2)
        if (std::abs(out[i]) > 0.01F) {
            if (first == 0) first = i / 2;
            last = i / 2;
        }
    ASSERT_GT(first, 0u);
    EXPECT_NEAR(static_cast<double>(last - first) / 44100.0, 0.5, 0.02);
    EXPECT_NEAR(static_cast<double>(first) / 44100.0, 0.5, 0.04);
    rig.player.set_drone({});
    rig.run(10);
}

TEST(PlayerTest, ADroneSoundsAlsoWhileStoppedAndEndsWithoutAClick) {
    Rig rig;
    Drone a;
    a.hz[0] = 440.0, a.count = 1;
    rig.player.set_drone(a);
    rig.run(40);
    const auto out = rig.run(100);
    int crossings = 0;
    for (std::size_t i = 2; i < out.size(); i += 2) crossings += out[i - 2] < 0 && out[i] >= 0;
    EXPECT_NEAR(crossings / (100 * 128 / 44100.0), 440.0, 5.0);
    rig.player.set_drone({});
    const auto end = rig.run(40);
    for (std::size_t i = 2; i < end.size(); i += 2) ASSERT_LT(std::abs(end[i] - end[i - 2]), 0.02F);
    EXPECT_EQ(end.back(), 0.0F);
}

}  // namespace fw

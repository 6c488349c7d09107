// SPDX-License-Identifier: GPL-3.0-or-later
// A step whose signal processing is a .dsp file, compiled to C++ by the build. Each control in the .dsp bears the id of its field.
#pragma once

#include "base/parameter.hpp"
#include "sound/processor.hpp"
#include "sound/smoothed.hpp"

// Generated code includes these from within its namespace, where they must have been included before.
#include <float.h>
#include <math.h>
#include <cfloat>
#include <cmath>
#include <cstdint>

#include <algorithm>
#include <array>
#include <cassert>
#include <cstring>
#include <memory>
#include <span>

namespace fw_faust {

/// What generated code needs to know of the world around it.
struct Meta {
    void declare(const char*, const char*) {}
};
struct UI {
    virtual ~UI() = default;
    virtual void addHorizontalSlider(const char* label, float* zone, float init, float low, float high, float step) = 0;
    void openVerticalBox(const char*) {}
    void openHorizontalBox(const char*) {}
    void closeBox() {}
    void declare(float*, const char*, const char*) {}
};
class dsp {
public:
    virtual ~dsp() = default;
};

}  // namespace fw_faust

namespace fw {

/// Dsp: the generated class; N: how many fields its table has.
template <class Dsp, std::size_t N>
class FaustStep final : public Processor {
public:
    FaustStep(std::span<const Parameter, N> table, double sample_rate_hz, double tail_s) : smoothed_(sample_rate_hz), tail_s_(tail_s) {
        dsp_->init(static_cast<int>(std::lround(sample_rate_hz)));
        Zones zones(table, zones_);
        dsp_->buildUserInterface(&zones);
        for (std::size_t i = 0; i < N; ++i) {
            assert(zones_[i] && "every field has its control in the .dsp");
            smoothed_.set(i, table[i].neutral);
            glides_[i] = table[i].scale == Scale::Linear || table[i].scale == Scale::Logarithmic;
        }
    }

    void reset() noexcept override {
        dsp_->instanceClear();
        smoothed_.reset();
    }
    double tail_s() const noexcept override { return tail_s_; }
    void set(std::size_t field, double value) noexcept override { smoothed_.set(field, value); }
    void process(Stereo io, Stereo) noexcept override {
        if (smoothed_.advance(io.size()))
            for (std::size_t i = 0; i < N; ++i) *zones_[i] = static_cast<float>(glides_[i] ? smoothed_[i] : smoothed_.target(i));
        for (const auto side : {io.left, io.right})
            for (float& s : side)
                if (!std::isfinite(s)) s = 0.0F;
        float* both[2] = {io.left.data(), io.right.data()};
        std::copy(io.left.begin(), io.left.end(), in_[0].begin());
        std::copy(io.right.begin(), io.right.end(), in_[1].begin());
        float* in[2] = {in_[0].data(), in_[1].data()};
        dsp_->compute(static_cast<int>(io.size()), in, both);
    }

private:
    struct Zones final : fw_faust::UI {
        Zones(std::span<const Parameter> t, std::array<float*, N>& z) : table(t), zones(z) {}
        void addHorizontalSlider(const char* label, float* zone, float, float, float, float) override {
            const auto i = index_of_field(table, label);
            assert(i && "every control of the .dsp is a field");
            zones[*i] = zone;
        }
        std::span<const Parameter> table;
        std::array<float*, N>& zones;
    };

    std::unique_ptr<Dsp> dsp_ = std::make_unique<Dsp>();
    std::array<float*, N> zones_{};
    std::array<bool, N> glides_{};
    std::array<std::array<float, kSlice>, 2> in_{};
    Smoothed<N> smoothed_;
    double tail_s_;
};

}  // namespace fw

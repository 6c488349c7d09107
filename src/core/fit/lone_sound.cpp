// SPDX-License-Identifier: GPL-3.0-or-later
#include "fit/lone_sound.hpp"

#include <algorithm>

namespace fw {

Audio struck(const SourceType& source, const SourceSpec& spec, const std::vector<std::pair<std::size_t, double>>& settings, const Strike& strike) {
    constexpr int kRate = 44100;
    Audio out{kRate, 2, {}, {}};
    std::vector<float> left(static_cast<std::size_t>(std::max(0.0, strike.length_s) * kRate), 0.0F), right = left;
    if (auto made = source.made(spec, kRate)) {
        Processor& p = **made;
        for (std::size_t f = 0; f < source.fields.size(); ++f) p.set(f, source.value_in(spec.patch, f));
        for (const auto& [field, value] : settings) p.set(field, value);
        p.note_on(1, strike.key, strike.velocity);
        const auto held = static_cast<std::size_t>(std::max(0.01, strike.held_s) * kRate) / kSlice * kSlice;
        for (std::size_t at = 0; at < left.size(); at += kSlice) {
            if (at == held) p.note_off(1);
            const std::size_t n = std::min(kSlice, left.size() - at);
            p.process({std::span(left).subspan(at, n), std::span(right).subspan(at, n)}, {});
        }
    }
    out.samples.reserve(2 * left.size());
    for (std::size_t i = 0; i < left.size(); ++i) out.samples.push_back(left[i]), out.samples.push_back(right[i]);
    return out;
}

}  // namespace fw

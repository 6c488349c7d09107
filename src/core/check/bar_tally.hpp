// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include <algorithm>
#include <cstddef>
#include <optional>
#include <vector>

namespace fw {

/// How much of what is written is right and of what is surely heard is written, bar by bar.
class BarTally {
public:
    explicit BarTally(std::size_t bars) : bars_(bars) {}
    /// What is written and right is heard there and written, too.
    void written(int bar, double right) { add(bar, {right, 1.0, right, right}); }
    void heard(int bar, double there, double weight) { add(bar, {0.0, 0.0, there * weight, weight}); }
    std::optional<double> match() const { return all_.figure(); }
    std::vector<std::optional<double>> bars() const {
        std::vector<std::optional<double>> out;
        for (const Sums& s : bars_) out.push_back(s.figure());
        return out;
    }
    /// Of some bars together: first, and one behind the last, from bar 1.
    std::optional<double> between(int first, int end) const {
        Sums sum;
        for (int b = std::max(1, first); b < end && static_cast<std::size_t>(b) <= bars_.size(); ++b) sum.add(bars_[static_cast<std::size_t>(b - 1)]);
        return sum.figure();
    }
    double weight() const { return all_.written + all_.heard - all_.right; }
    void add(const BarTally& other) {
        for (std::size_t i = 0; i < bars_.size(); ++i) bars_[i].add(other.bars_[i]);
        all_.add(other.all_);
    }

private:
    struct Sums {
        double right = 0.0, written = 0.0, there = 0.0, heard = 0.0;
        void add(const Sums& s) { right += s.right, written += s.written, there += s.there, heard += s.heard; }
        /// Their harmonic mean; what there is none of says nothing.
        std::optional<double> figure() const {
            if (written <= 0.0 && heard <= 0.0) return std::nullopt;
            const double p = written > 0.0 ? right / written : 0.0, r = heard > 0.0 ? there / heard : p;
            if (written <= 0.0) return 0.0;
            return p + r > 0.0 ? 2.0 * p * r / (p + r) : 0.0;
        }
    };
    void add(int bar, Sums s) {
        all_.add(s);
        if (bar >= 1 && static_cast<std::size_t>(bar) <= bars_.size()) bars_[static_cast<std::size_t>(bar - 1)].add(s);
    }
    std::vector<Sums> bars_;
    Sums all_;
};

}  // namespace fw

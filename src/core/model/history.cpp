// SPDX-License-Identifier: GPL-3.0-or-later
#include "model/history.hpp"

namespace fw {

void History::reset(std::shared_ptr<const Remake> first) {
    steps_.clear();
    steps_.push_back({std::move(first), {}, {}, {}});
    at_ = 0;
    saved_ = 0;
}

void History::push(Remake next, std::string label, const std::string& merge_key, std::string line) {
    if (saved_ > static_cast<std::ptrdiff_t>(at_)) saved_ = -1;  // the saved document is on a branch that is given up here
    steps_.resize(at_ + 1);
    auto document = std::make_shared<const Remake>(std::move(next));
    const bool merges = !merge_key.empty() && at_ > 0 && steps_[at_].merge_key == merge_key && saved_ != static_cast<std::ptrdiff_t>(at_);
    if (merges) {
        steps_[at_].remake = std::move(document);
        steps_[at_].line = std::move(line);
        return;
    }
    steps_.push_back({std::move(document), std::move(label), merge_key, std::move(line)});
    ++at_;
}

std::vector<std::string> History::lines() const {
    std::vector<std::string> all;
    for (std::size_t i = 1; i <= at_; ++i) all.push_back(steps_[i].line.empty() ? "# " + steps_[i].label : steps_[i].line);
    return all;
}

void History::undo() {
    if (can_undo()) --at_;
}

void History::redo() {
    if (can_redo()) ++at_;
}

}  // namespace fw

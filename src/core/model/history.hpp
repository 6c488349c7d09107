// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "model/remake.hpp"

#include <memory>
#include <string>
#include <vector>

namespace fw {

/// The list of documents an editing session has been through. Undo is stepping back in it. Not thread-safe; the documents are.
class History {
public:
    History() : History(std::make_shared<const Remake>()) {}
    explicit History(std::shared_ptr<const Remake> first) { reset(std::move(first)); }

    /// Forgets everything and starts with one document, which counts as saved.
    void reset(std::shared_ptr<const Remake> first);
    /// Adds a document made by an edit. Steps of the same non-empty merge key in a row become one (a drag is one step).
    /// line: the command that made it, as text; empty for none.
    void push(Remake next, std::string label, const std::string& merge_key = {}, std::string line = {});
    const std::shared_ptr<const Remake>& current() const { return steps_[at_].remake; }

    bool can_undo() const noexcept { return at_ > 0; }
    bool can_redo() const noexcept { return at_ + 1 < steps_.size(); }
    std::string undo_label() const { return can_undo() ? steps_[at_].label : std::string(); }
    std::string redo_label() const { return can_redo() ? steps_[at_ + 1].label : std::string(); }
    /// The commands from the first document to the current one; what was done by none is a remark.
    std::vector<std::string> lines() const;
    void undo();
    void redo();
    /// Ends a run of merged steps, so that the next edit is a step of its own.
    void close_step() { steps_[at_].merge_key.clear(); }

    void mark_saved() noexcept { saved_ = static_cast<std::ptrdiff_t>(at_); }
    bool unsaved() const noexcept { return saved_ != static_cast<std::ptrdiff_t>(at_); }
    /// Makes the current state count as unsaved whatever happened (a new, never saved remake).
    void mark_never_saved() noexcept { saved_ = -1; }

private:
    struct Step {
        std::shared_ptr<const Remake> remake;
        std::string label, merge_key, line;
    };
    std::vector<Step> steps_;
    std::size_t at_ = 0;
    std::ptrdiff_t saved_ = 0;
};

}  // namespace fw

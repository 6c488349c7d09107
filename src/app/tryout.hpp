// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/document_store.hpp"

#include <memory>

namespace fw::app {

/// Things tried one in the place of the other: each starts from the document as it was before the first, so that all together are one step of undo. What was
/// edited otherwise in between is never lost: then what is tried next starts from there.
class Tryout {
public:
    explicit Tryout(DocumentStore& documents) : documents_(documents) {}

    /// The next thing is the first.
    void begin() {
        documents_.end_gesture();
        from_ = documents_.document();
        with_.reset();
    }
    /// Before something is tried. True where something else was edited since the last.
    bool catch_up() {
        const auto now = documents_.document();
        if (from_ && (now == from_ || now == with_)) return false;
        const bool since = with_ != nullptr;
        begin();
        return since;
    }
    /// Runs what is tried; key: of the steps that are one.
    bool run(const Line& line, const QString& key) {
        if (!documents_.run(line, key, from_)) return false;
        with_ = documents_.document();
        return true;
    }
    /// What belongs to it besides, on top of it.
    bool also(const Line& line, const QString& key) {
        const bool done = documents_.run(line, key);
        with_ = documents_.document();
        return done;
    }
    /// Takes back what was tried; false where nothing was, or something else was edited since.
    bool take_back() {
        if (!with_ || documents_.document() != with_) return false;
        documents_.undo();
        begin();
        return true;
    }
    /// Before the first.
    const std::shared_ptr<const Remake>& from() const { return from_; }
    bool begun() const { return from_ != nullptr; }
    void forget() { from_.reset(), with_.reset(); }

private:
    DocumentStore& documents_;
    std::shared_ptr<const Remake> from_, with_;
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"

#include <functional>

namespace fw::app {

/// What is done to a clip after listening to it: off the window's thread, told in a sentence where nothing is found.
///
/// Lives in the window's thread.
class ClipListening final : public QObject {
    Q_OBJECT

public:
    explicit ClipListening(Session& session);
    /// Trims a clip to the shortest time after which its sound begins again.
    void trim_to_repeat(ClipId clip);
    /// Chops a clip where it is struck; onto: the grid its pieces go onto, none: they stay.
    void chop_at_hits(ClipId clip, const std::string& onto);
    /// A part of its own that plays a clip's sound on keys.
    void make_instrument(ClipId clip);

private:
    /// measure: of a clip's asset, by itself or as its recipe has it; runs in another thread and gives what is left to do in the window's.
    void listen(ClipId clip, const QString& what, bool treated, std::function<Result<JobQueue::Delivery>(const Audio&)> measure);
    Session& session_;
    JobQueue jobs_;
};

}  // namespace fw::app

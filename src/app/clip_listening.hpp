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
    /// Brings what begins in a clip onto one of retime_choices().
    void retime(ClipId clip, const std::string& argument, const std::string& value);
    /// A part of its own that plays a clip's sound on keys.
    void make_instrument(ClipId clip);

private:
    /// measure: of a clip's asset after a recipe; runs in another thread and gives what is left to do in the window's.
    void listen(ClipId clip, const QString& what, std::vector<RecipeEntry> recipe, std::function<Result<JobQueue::Delivery>(const Audio&)> measure);
    std::vector<RecipeEntry> recipe_of(ClipId clip) const;
    Session& session_;
    JobQueue jobs_;
};

/// What a clip's sound can be brought onto: a name for the eye, and what clip.retime is told.
struct RetimeChoice {
    QString name;
    const char* argument;
    std::string value;
};
std::vector<RetimeChoice> retime_choices(const Song& song);

}  // namespace fw::app

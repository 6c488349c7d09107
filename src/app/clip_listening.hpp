// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/session.hpp"

#include <functional>

namespace fw::app {

/// What a clip's sound can be brought onto: a name for the eye, and what clip.retime is told.
struct RetimeChoice {
    QString name;
    const char* argument;
    std::string value;
};
std::vector<RetimeChoice> retime_choices(const Song& song);
/// The line that brings what begins in a clip, seconds from its beginning, onto a choice; strength: a share of the way there, 0 … 1.
Line retime_line(const Remake& remake, ClipId clip, const std::vector<double>& begins_s, const RetimeChoice& onto, double strength = 1.0);
/// Times as clip.chop and clip.retime are told them.
std::string times_text(const std::vector<double>& times_s);

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
    void retime(ClipId clip, const RetimeChoice& onto);
    /// A part of its own that plays a clip's sound on keys.
    void make_instrument(ClipId clip);

    /// measure: of a clip's asset after a recipe; runs in another thread and gives what is left to do in the window's.
    void listen(ClipId clip, const QString& what, std::vector<RecipeEntry> recipe, std::function<Result<JobQueue::Delivery>(const Audio&)> measure);

private:
    std::vector<RecipeEntry> recipe_of(ClipId clip) const;
    Session& session_;
    JobQueue jobs_;
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/transport.hpp"
#include "check/doubts.hpp"

#include <QObject>
#include <optional>
#include <vector>

namespace fw::app {

class Session;

/// Walking through what is doubtful of the chosen part: each place is looped, slowed and heard through a lens around its pitch, what might stand there instead
/// is heard over the original, and it is accepted, changed or questioned.
///
/// Lives in the window's thread.
class DoubtWalk final : public QObject {
    Q_OBJECT

public:
    explicit DoubtWalk(Session& session);

    /// What is doubtful of the chosen part now, in order of time; empty before it was checked.
    const std::vector<Doubt>& doubts() const;
    /// The one being looked at; null while nobody walks.
    const Doubt* current() const;
    /// Its place among the doubts, from 0.
    std::size_t index() const { return refresh(), at_; }
    /// The alternative that is heard over the original, by its place among the doubt's; none: the original alone.
    std::optional<std::size_t> candidate() const { return refresh(), candidate_; }

    /// On to the next doubt (1) or the one before (−1), from where the walk is, or else from the playhead.
    void go(int direction);
    /// Hears the next alternative over the original, or the one before.
    void try_next(int direction);
    void try_candidate(std::size_t alternative);
    /// Takes the alternative that is heard: the note is changed, or what was missing is added; then on. Without one the same as accept().
    void take();
    /// It is right as it is, or nothing is missing there; then on.
    void accept();
    /// Takes the note away; then on.
    void remove();
    /// Leaves a question at the place; then on.
    void question();
    /// Puts loop, lens, speed and source back as they were.
    void end();

signals:
    void changed();
    /// A place to be shown.
    void shows(double start_s, double end_s);

private:
    void news();
    void refresh() const;
    void settle_on(std::size_t index);
    void hear();
    void forget();

    Session& session_;
    // Told anew when they are asked for, once after any number of edits.
    mutable bool stale_ = true;
    mutable std::vector<Doubt> doubts_;
    mutable std::size_t at_ = 0;
    mutable std::optional<std::size_t> candidate_;
    bool walking_ = false;
    PartId walked_, told_of_;
    std::pair<double, int> place_{-1e9, -1};  ///< of the doubt walked to last, by time and pitch
    /// How it was heard before the walk.
    struct Before {
        double loop_start_s = 0.0, loop_end_s = 0.0, speed = 1.0;
        bool looping = false;
        Source source = Source::Original;
        Lens lens;
    };
    std::optional<Before> before_;
};

}  // namespace fw::app

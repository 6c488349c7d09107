// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "commands/call.hpp"
#include "model/history.hpp"

#include <QObject>
#include <QString>
#include <map>
#include <memory>
#include <span>
#include <vector>

namespace fw::app {

/// The open document, its history and its file.
///
/// Lives in the window's thread; documents themselves are immutable and go anywhere.
class DocumentStore final : public QObject {
    Q_OBJECT

public:
    struct Contents {
        History history;
        QString file;                           ///< empty: never saved
        std::map<ElementId, double> spent_s{};  ///< on elements since it was opened; kept with what is saved, and no step of the history
    };

    const Remake& remake() const { return *open_.history.current(); }
    std::shared_ptr<const Remake> document() const { return open_.history.current(); }
    const History& history() const { return open_.history; }
    QString file() const { return open_.file; }
    bool unsaved() const { return locked_.isEmpty() && open_.history.unsaved(); }

    /// The notes of a part of the present document as placed_notes tells them, put together once for each version of it: views ask often. Of a part of another
    /// document they hold until one of another is asked for.
    const std::vector<PlacedNote>& placed(const Part& part) const;
    /// Of those all that begin or sound somewhere between two places, both included, and some that have ended before: what a view shows of thousands.
    std::span<const PlacedNote> placed_within(const Part& part, Ticks from, Ticks to) const;

    /// Opens other contents and gives back what was open; says nothing of it.
    Contents exchange(Contents next) { return std::exchange(open_, std::move(next)); }
    /// Why nothing may be changed and saved now, in a sentence that ends by saying when that can be done; empty: it may.
    void lock(const QString& why) { locked_ = why; }

    /// Runs a command on the document, or on the one a gesture began with; refused with a sentence where run_command refuses it, and while it is locked.
    /// Steps of one merge key in a row are one step. True where it was done.
    bool run(const Line& line, const QString& merge_key = {}, const std::shared_ptr<const Remake>& from = nullptr);
    /// Changes the document by something that is no command; refused where what comes out would not be a valid remake.
    bool edit(Remake next, const QString& label, const QString& merge_key = {});
    void undo();
    void redo();
    /// A gesture has ended, a drag or the typing of a number: what is edited next is a step of its own, whatever its merge key.
    void end_gesture() { open_.history.close_step(), emit gesture_ended(); }
    /// All that was done since the document was opened, as lines of a script.
    QString what_was_done() const;
    /// Time was spent on an element; how much it is altogether.
    void spend(ElementId element, double seconds) { open_.spent_s[element] += seconds; }
    double spent_s(ElementId element) const;
    /// Whether an element that was given an end has used up its time.
    bool time_is_up(ElementId element) const;
    /// Writes the document; never over its recording.
    bool save(const QString& path);

signals:
    void changed();
    /// Undo or redo: what was selected may not be there any more.
    void travelled();
    void gesture_ended();
    void saved();
    void failed(const QString& sentence);

private:
    bool may_change();

    struct Placed {
        Shared<Part> part;  ///< held, lest another come to lie at its address
        std::vector<PlacedNote> notes;
        Ticks longest = 0;
    };
    /// Of a part of the present document; null of another.
    const Placed* known(const Part& part) const;
    mutable std::map<const Part*, Placed> placed_;
    mutable std::vector<PlacedNote> elsewhere_;
    Contents open_;
    QString locked_;
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
// What the window does at keys and from menus about chosen notes and doubtful ones.
#include "app/desks.hpp"
#include "app/doubt_walk.hpp"
#include "app/main_window.hpp"
#include "app/words.hpp"
#include "base/guard.hpp"
#include "formats/midi_file.hpp"
#include "model/edits/parts.hpp"

#include <QFileDialog>

namespace fw::app {

void MainWindow::make_transcribe_commands() {
    DoubtWalk& walk = session_.walk();
    Selection& selection = session_.selection();
    const auto add = [&](const char* id, const QString& text, const QKeySequence& keys, std::function<void()> run, const QString& help = {}) {
        commands_.add({id, text, keys, std::move(run), WindowCommand::Where::CloseUps, help});
    };
    add(
        "doubt.next", tr("&Next doubtful note"), QKeySequence(Qt::Key_D), [&walk] { walk.go(1); }, tr("Looped and slowed, through a lens around its pitch"));
    add("doubt.previous", tr("&Previous doubtful note"), QKeySequence("Shift+D"), [&walk] { walk.go(-1); });
    add(
        "doubt.try", tr("&Hear what else it may be"), QKeySequence(Qt::Key_X), [&walk] { walk.try_next(1); },
        tr("The next likely pitch, sounding over the original where it would be played"));
    add("doubt.try-back", tr("Hear the one before"), QKeySequence("Shift+X"), [&walk] { walk.try_next(-1); });
    add(
        "doubt.take", tr("&Take what is heard"), QKeySequence(Qt::Key_Return), [&walk] { walk.take(); },
        tr("The note gets that pitch, or what was missing is written; then on to the next"));
    add(
        "doubt.accept", tr("It is &right as it is"), QKeySequence(Qt::Key_A), [&walk] { walk.accept(); },
        tr("Or nothing is missing there; then on to the next"));
    add("doubt.question", tr("Leave a &question there"), QKeySequence(Qt::Key_O), [&walk] { walk.question(); });
    add(
        "doubt.end", tr("&End the walk"), QKeySequence(Qt::Key_Backspace), [&walk] { walk.end(); },
        tr("Loop, lens, speed and source are as they were before it"));

    add("note.select-all", tr("Select all notes"), QKeySequence::SelectAll, [this] { transcribe_->select_all(); });
    add("note.alternate", tr("Of the chosen every other bar"), QKeySequence("Ctrl+Shift+A"), [this] { transcribe_->select_alternate_bars(); });
    add("note.delete", tr("Delete notes"), QKeySequence(Qt::Key_Delete), [this] { transcribe_->remove_selected(); });
    add("note.copy", tr("Copy notes"), QKeySequence::Copy, [this] { transcribe_->copy(); });
    add(
        "note.paste", tr("Paste notes"), QKeySequence::Paste, [this] { transcribe_->paste(); }, tr("In the playhead's bar they lie as they lay in their own"));
    add("note.semitone-up", tr("Semitone up"), QKeySequence(Qt::Key_Up), [this] { transcribe_->transpose(1); });
    add("note.semitone-down", tr("Semitone down"), QKeySequence(Qt::Key_Down), [this] { transcribe_->transpose(-1); });
    add("note.octave-up", tr("Octave up"), QKeySequence("Shift+Up"), [this] { transcribe_->transpose(12); });
    add("note.octave-down", tr("Octave down"), QKeySequence("Shift+Down"), [this] { transcribe_->transpose(-12); });
    const auto on_notes = [this](const char* command, std::initializer_list<std::pair<const char*, std::string>> arguments) {
        return [this, command, all = std::vector<std::pair<const char*, std::string>>(arguments)] { transcribe_->on_notes(command, all); };
    };
    add("note.step-up", tr("Step of the scale up"), QKeySequence("Ctrl+Up"), on_notes("note.step", {{"steps", "1"}}));
    add("note.step-down", tr("Step of the scale down"), QKeySequence("Ctrl+Down"), on_notes("note.step", {{"steps", "-1"}}));
    add("note.double-up", tr("Double an octave above"), QKeySequence("Ctrl+Shift+Up"), on_notes("note.double", {{"semitones", "12"}}));
    add("note.double-down", tr("Double an octave below"), QKeySequence("Ctrl+Shift+Down"), on_notes("note.double", {{"semitones", "-12"}}));
    add("note.earlier", tr("Nudge earlier"), QKeySequence(Qt::Key_Left), [this] { transcribe_->nudge(-1); });
    add("note.later", tr("Nudge later"), QKeySequence(Qt::Key_Right), [this] { transcribe_->nudge(1); });
    add("note.quantise", tr("Quantise to the grid"), QKeySequence(Qt::Key_Q), [this] { transcribe_->quantise(); });
    add("note.legato", tr("Legato: close the gaps"), QKeySequence(Qt::Key_K), on_notes("note.space", {}), tr("Each note is held until the next begins"));
    add("note.detached", tr("Detached: half as long"), QKeySequence("Shift+K"), on_notes("note.space", {{"share", "0.5"}}),
        tr("Each note is held for half the time to the next"));
    add("note.cut-overlaps", tr("Cut overlaps"), QKeySequence("Ctrl+Shift+V"), on_notes("note.cut-overlaps", {}),
        tr("No note sounds into the next: one voice"));
    add(
        "note.split", tr("Split"), QKeySequence(Qt::Key_Z), [this] { transcribe_->split(); }, tr("At the pointer where it is on a note, else at the playhead"));
    add("note.join", tr("Join"), QKeySequence("Shift+Z"), on_notes("note.join", {}), tr("One note of those of each pitch"));
    add(
        "note.repeat", tr("Once more behind"), QKeySequence(Qt::Key_W), [this] { transcribe_->repeat(false); },
        tr("So many whole bars or beats later as they reach"));
    add("note.repeat-to-end", tr("Repeat to the section's end"), QKeySequence("Shift+W"), [this] { transcribe_->repeat(true); });
    add("note.mute", tr("Mute, or let sound"), QKeySequence("Shift+Del"), [this] { transcribe_->mute_or_not(); });
    add("note.glide", tr("Glide into the next"), QKeySequence("Ctrl+G"), on_notes("note.glide", {{"time", "1/16"}}),
        tr("Over a sixteenth, there as the next begins"));
    add("note.vibrato", tr("Vibrato"), QKeySequence("Ctrl+Shift+G"), on_notes("note.vibrato", {}));
    add(
        "note.draw-pitch", tr("Draw pitch, or move notes"), QKeySequence("Ctrl+B"), [this] { transcribe_->toggle_draws_pitch(); },
        tr("A drag along a note draws its bend"));
    add(
        "note.take-pitch", tr("Pitch as in the original"), QKeySequence("Ctrl+Alt+B"), [this] { transcribe_->take_pitch(); },
        tr("Each chosen note is listened to: how its pitch glides and wobbles there, and how far it lies beside the tuning"));
    add("note.straighten", tr("Straighten pitch"), QKeySequence("Shift+Q"), [this] { transcribe_->straighten(); });
    add("note.grace", tr("Grace note from below"), QKeySequence("Ctrl+Alt+G"), on_notes("note.grace", {{"semitones", "-1"}}));
    add("note.flam", tr("Flam"), QKeySequence("Ctrl+Shift+Y"), on_notes("note.roll", {{"strokes", "2"}, {"ms", "28"}, {"first", "50"}, {"leads_in", "on"}}),
        tr("A soft stroke just ahead; it stays with its note whatever is quantised"));
    add("note.roll", tr("Roll"), QKeySequence("Ctrl+Y"), on_notes("note.roll", {{"strokes", "8"}, {"apart", "1/32"}, {"first", "40"}}),
        tr("Eight thirty-seconds, growing louder; its numbers are among the facts"));
    add(
        "play.bar", tr("&Play in…"), QKeySequence("Ctrl+P"), [this] { transcribe_->toggle_play_bar(); }, tr("From a keyboard or the computer's keys"));
    add(
        "play.record", tr("Record, or stop"), QKeySequence("Ctrl+R"), [this] { transcribe_->record(); }, tr("What is played, over what plays"));
    add(
        "note.midi-out", tr("Write as &MIDI…"), QKeySequence(), [this] { write_notes_as_midi(); }, tr("The chosen notes, or all of the part"));
    add("note.reach", tr("Everywhere or here only"), QKeySequence(Qt::Key_R),
        [&selection] { selection.set_reach(selection.reach() == Reach::Here ? Reach::Everywhere : Reach::Here); });
}

void MainWindow::write_notes_as_midi() {
    const Part* part = session_.selection().part();
    if (!part) return tell(tr("Choose a part in the ledger first: its notes are written."));
    const QString path = QFileDialog::getSaveFileName(this, tr("Write as MIDI"), QString::fromStdString(part->name) + ".mid", tr("MIDI files (*.mid)"));
    if (path.isEmpty()) return;
    const Remake some = only_part(session_.remake(), part->id, session_.selection().notes());
    const auto done = guarded("writing " + path.toStdString(), [&] { return write_midi(path.toStdString(), some); });
    tell(done ? tr("%1 notes are in %2.").arg(placed_notes(*some.parts.front()).size()).arg(path) : of_core(done.error().message()));
}

}  // namespace fw::app

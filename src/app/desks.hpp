// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/arrangement_grid.hpp"
#include "app/clip_view.hpp"
#include "app/close_up.hpp"
#include "app/curve_view.hpp"
#include "app/job_queue.hpp"
#include "app/painting.hpp"
#include "app/session.hpp"
#include "app/sound_sheet.hpp"

#include <QWidget>

class QCheckBox;
class QComboBox;
class QLabel;
class QProgressBar;
class QPushButton;
class QStackedWidget;
class QTableWidget;

namespace fw::app {

class SoundFinder;

class CommandRegistry;
class PlayBar;

/// Close-up of the selected element: notes, drums or chords.
class TranscribeDesk final : public QWidget {
    Q_OBJECT

public:
    TranscribeDesk(Session& session, const CommandRegistry& commands, QWidget* parent = nullptr);
    NoteCloseUp* notes() const { return notes_; }
    DrumCloseUp* drums() const { return drums_; }
    ChordCloseUp* chords() const { return chords_; }
    /// The close-up shown now.
    CloseUp* current() const;
    /// Runs a command on the chosen notes with further arguments; says that notes have to be chosen where none are.
    bool on_notes(const char* command, const std::vector<std::pair<const char*, std::string>>& arguments = {});
    void remove_selected();
    void transpose(int semitones);
    void nudge(int direction);
    void quantise();
    void straighten();
    /// Gives the chosen notes the way their pitch goes in the original, glides, wobbles and being out of tune among it.
    void take_pitch();
    void toggle_draws_pitch();
    void select_all();
    /// Of the chosen notes only those in every other bar, the first one's among them.
    void select_alternate_bars();
    /// Cuts the chosen notes, or the one under the pointer, there; else at the playhead.
    void split();
    /// Once more behind themselves, a whole number of bars or beats later; with `to_the_end` until the section ends.
    void repeat(bool to_the_end);
    /// Mutes the chosen notes, or lets them sound if all are muted.
    void mute_or_not();
    void toggle_play_bar();
    void record();
    void copy();
    void paste();

private:
    void follow();
    void name_inks();
    void take_grid();
    Session& session_;
    QLabel* legend_ = nullptr;
    QStackedWidget* stack_ = nullptr;
    NoteCloseUp* notes_ = nullptr;
    DrumCloseUp* drums_ = nullptr;
    ChordCloseUp* chords_ = nullptr;
    QLabel* empty_ = nullptr;
    QLabel* title_ = nullptr;
    QComboBox *grid_ = nullptr, *reach_ = nullptr;
    QCheckBox *neighbours_ = nullptr, *pitch_ = nullptr;
    QComboBox* read_ = nullptr;
    PlayBar* play_ = nullptr;
    JobQueue jobs_;
};

/// Both sources' spectra overprinted.
class ToneView final : public QWidget {
    Q_OBJECT

public:
    explicit ToneView(Session& session, QWidget* parent = nullptr);

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    void paint_still(QPainter& painter) const;
    Session& session_;
    StillPicture still_;
};

/// Who plays where, how the chosen field moves or the chosen clip sounds, and the selected part's sound sheet.
class RebuildDesk final : public QWidget {
    Q_OBJECT

public:
    explicit RebuildDesk(Session& session, QWidget* parent = nullptr);
    ArrangementGrid* grid() const { return grid_; }
    SoundSheet* sheet() const { return sheet_; }
    CurveView* curve() const { return curve_; }
    ClipView* clip() const { return clip_; }
    SoundFinder* finder() const { return finder_; }

private:
    SoundFinder* finder_ = nullptr;
    ArrangementGrid* grid_ = nullptr;
    CurveView* curve_ = nullptr;
    ClipView* clip_ = nullptr;  ///< in the curve's place while a clip is chosen
    SoundSheet* sheet_ = nullptr;
};

/// What will be delivered and where, with progress.
class HandOffDesk final : public QWidget {
    Q_OBJECT

public:
    explicit HandOffDesk(Session& session, QWidget* parent = nullptr);
    /// Exports into a folder what is chosen; done() follows. Also the window's File menu and tests use it.
    void deliver(const QString& folder);

signals:
    void done(bool ok, const QString& sentence);

private:
    void follow();
    Session& session_;
    QLabel* folder_ = nullptr;
    QLabel* preview_ = nullptr;
    QLabel* message_ = nullptr;
    QProgressBar* progress_ = nullptr;
    QPushButton *go_ = nullptr, *cancel_ = nullptr;
    std::vector<QCheckBox*> choices_;
    QCheckBox* without_original_ = nullptr;
    JobQueue jobs_;
};

}  // namespace fw::app

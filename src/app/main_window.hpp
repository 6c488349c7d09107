// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/command_registry.hpp"
#include "app/session.hpp"
#include "app/source_search.hpp"

#include <QMainWindow>
#include <QPointer>
#include <span>

class QButtonGroup;
class QLabel;
class QMenu;
class QProgressBar;
class QPushButton;
class QStackedWidget;

namespace fw::app {

class Recovery;

class CheckDesk;
class FactsPanel;
class HandOffDesk;
class Ledger;
class ListeningBar;
class PageView;
class RebuildDesk;
class SongStrip;
class TranscribeDesk;

enum class Desk { Survey, Transcribe, Rebuild, Check, HandOff };

/// The desks in the order of the work.
struct DeskName {
    Desk desk;
    const char *name, *what, *command;
};
std::span<const DeskName> desk_names();

/// For dialogs that ask for a file.
QString audio_filter();
QString remake_filter();

/// The one window: desks above, song strip, ledger, the desk's view, facts, listening bar.
class MainWindow final : public QMainWindow {
    Q_OBJECT

public:
    explicit MainWindow(Session& session, QWidget* parent = nullptr);

    void show_desk(Desk desk);
    Desk desk() const;
    /// Opens a recording or a remake; a MIDI file is added to what is open.
    void open(const QString& path);
    /// Offers what a program that is gone had not saved, and gives up what the user does not want to keep.
    void offer(Recovery& recovery);
    /// Asks before unsaved changes are lost; true to go on.
    bool may_discard();

    Session& session() { return session_; }
    const CommandRegistry& commands() const { return commands_; }
    PageView* page() const { return page_; }
    TranscribeDesk* transcribe() const { return transcribe_; }
    RebuildDesk* rebuild_desk() const { return rebuild_; }
    CheckDesk* check_desk() const { return check_; }
    HandOffDesk* hand_off() const { return hand_off_; }
    FactsPanel* facts() const { return facts_; }
    Ledger* ledger() const { return ledger_; }
    ListeningBar* listening() const { return listening_; }
    SongStrip* strip() const { return strip_; }
    /// The last sentence told to the user, for tests.
    QString last_message() const { return last_message_; }

protected:
    void closeEvent(QCloseEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

private:
    // window_commands.cpp
    void make_commands();
    void make_survey_commands();
    void make_transcribe_commands();
    void make_menus();
    void follow();
    void tell(const QString& sentence);
    bool save();
    bool save_as();
    void ask_for_reference(const QString& remake, const QString& sentence);
    void remember(const QString& path);
    void fill_recent();
    void open_dialog(const QString& title, const QString& filter);
    void show_shortcuts();
    void add_midi(const QString& path);
    /// Asks for a place as people say it, and goes there.
    void go_to_place();
    void import_beats();
    void export_beats();
    void write_notes_as_midi();
    void add_row();
    /// Asks where what is looped goes, and cuts it from the original.
    void cut_from_original();
    /// Asks for a recording and looks in it for what the loop was taken from.
    void find_source_of_loop();

    Session& session_;
    SourceSearch sources_{session_};
    QStackedWidget* stack_ = nullptr;
    QButtonGroup* desks_ = nullptr;
    QLabel *title_ = nullptr, *confirmed_ = nullptr;
    QWidget* notice_ = nullptr;
    QLabel* notice_text_ = nullptr;
    QWidget* job_bar_ = nullptr;
    QLabel* job_text_ = nullptr;
    QProgressBar* job_progress_ = nullptr;
    CommandRegistry commands_{this};
    QMenu* recent_ = nullptr;
    PageView* page_ = nullptr;
    TranscribeDesk* transcribe_ = nullptr;
    RebuildDesk* rebuild_ = nullptr;
    CheckDesk* check_ = nullptr;
    HandOffDesk* hand_off_ = nullptr;
    FactsPanel* facts_ = nullptr;
    Ledger* ledger_ = nullptr;
    ListeningBar* listening_ = nullptr;
    SongStrip* strip_ = nullptr;
    QString last_message_;
    QPointer<Recovery> recovery_;
};

}  // namespace fw::app

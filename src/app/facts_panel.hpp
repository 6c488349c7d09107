// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/ready_patterns.hpp"
#include "app/session.hpp"
#include "check/kick_dips.hpp"
#include "fit/manners.hpp"

#include <QElapsedTimer>
#include <QScrollArea>
#include <QTimer>
#include <functional>
#include <initializer_list>
#include <map>
#include <memory>
#include <string>
#include <utility>
#include <vector>

namespace fw::app {

class CommandRegistry;
class FactsColumn;

/// "C4", or of drums the sound a key stands for.
QString sound_or_note(int pitch, bool drums, bool flats);

/// Numbers, alternatives and actions for the selected element; told anew, in place, a moment after the document or the selection changes.
class FactsPanel final : public QScrollArea {
    Q_OBJECT

public:
    FactsPanel(Session& session, const CommandRegistry& commands, QWidget* parent = nullptr);
    void set_chord_tick(Ticks tick);
    void focus_chord_name();
    /// They are about to be told anew.
    bool pending() const { return pending_; }

signals:
    /// A chord at a place is to be looked at.
    void chord_wanted(fw::Ticks tick);

private:
    void tell();
    /// Tells what is pending unless the hand holds something in here; then once it has let go.
    void tell_when_free();
    /// What was measured for it has come.
    void tell_again();
    /// Buttons side by side, each of a command of the window.
    void commands_row(std::initializer_list<std::pair<const char*, QString>> commands);
    void choose_key(std::size_t area, const Key& key);
    void choose_chord(const Chord& chord);
    void hear_chord(const Chord& chord);
    void hear_pitches(const std::vector<int>& pitches);
    void chord_layout(const ChordEvent& chord, bool flats);
    // song_facts.cpp
    void tempo();
    void readings();
    void bars_and_beats();
    void key();
    void sections();
    // form_facts.cpp
    void section_rows();
    void section_row(std::size_t index);
    void checklist();
    void faint();
    void chords();
    void part();
    void element_state();
    void questions(ElementId id);
    void time_for(ElementId id);
    // sound_facts.cpp
    void measure_sound(const Part& part);
    void sound_manners(const Part& part);
    int stretched_notes(const Part& part, const Layer& layer) const;
    // ducking_facts.cpp
    void measure_dips();
    void dips(const Part& part);
    // note_facts.cpp
    void doubts(const Part& part);
    void notes_of(const Part& part);
    void chosen_notes(const Part& part);
    void partials(PartId part, const Note& n);
    void send_to(const Part& part);
    void throws(PartId id);
    void patterns(const Part& part);
    void spreading(const Part& part);
    void spread(PartId part, int first_bar, int last_bar);
    void rivals(const Part& part);
    void from_chords(const Part& part);
    // rhythm_facts.cpp
    void grooves(const Part& part);
    void grooves_in_files();
    void take_groove_of_original(PartId part);
    void fills(const Part& part);
    void ready(const Part& part);
    void write_ready(PartId part, const ReadyPattern& ready, int first_bar, int end_bar);
    /// A button and numbers beside it that say how: run gets their values.
    struct Number {
        const char* name;
        double value, low, high, step;
        QString suffix;
        QString tip;
        int decimals = 0;
    };
    void tool(const QString& text, const QString& tip, const QString& object, const std::vector<Number>& numbers,
              std::function<void(const std::vector<double>&)> run);

    Session& session_;
    const CommandRegistry& commands_;
    FactsColumn* facts_ = nullptr;
    std::shared_ptr<const Remake> rivals_of_;           ///< the document the rivals' figures belong to
    std::vector<std::optional<double>> rival_figures_;  ///< how far each of the chosen part's rivals is heard there
    std::shared_ptr<const Remake> rival_sounds_of_;     ///< the document the following was rendered of
    PartId rival_sounds_part_;                          ///< and whose rivals
    std::vector<std::optional<double>> rival_sounds_;   ///< how near the whole sounds with each of them
    std::shared_ptr<const Remake> manners_of_;          ///< the document the chosen part's sound was measured in
    PartId manners_part_;                               ///< and which part it was
    std::optional<SoundManners> manners_;
    std::vector<std::pair<StepId, double>> unheard_;  ///< steps that nobody hears, with how far below the sound they lie
    /// A note as it is heard in the recording.
    struct AskedNote {
        PartId part;
        int pitch = 0;
        double from_s = 0.0, to_s = 0.0;
        bool operator==(const AskedNote&) const = default;
    };
    std::optional<AskedNote> partials_of_;
    QString partials_;
    std::vector<std::pair<LayerId, int>> cut_short_;   ///< samplers' layers, and how many notes break off
    std::shared_ptr<const Remake> dips_of_;            ///< the document in whose sections and kicks the original's ducking was measured
    std::vector<std::pair<SectionId, KickDip>> dips_;  ///< where it ducks
    Ticks chord_tick_ = 0;
    int heard_chord_ = 0;
    std::map<std::string, double> how_;  ///< what the numbers of tools were set to, by tool and name
    bool pending_ = false;
    QTimer soon_;            ///< until what is pending is told
    QElapsedTimer waiting_;  ///< since it is pending
    JobQueue jobs_;
};

}  // namespace fw::app

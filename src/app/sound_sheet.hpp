// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "app/number_field.hpp"
#include "app/session.hpp"

#include <QPointer>
#include <QScrollArea>
#include <set>

class QComboBox;
class QHBoxLayout;
class QMenu;
class QToolButton;
class QVBoxLayout;

class QPrinter;

namespace fw::app {

class RecordPanel;

/// The selected part's sound written out in the order of the signal: layers, steps, where it goes, then the buses and the master. A line a thing, with the
/// values that tell most; a line unfolds to all its fields. Values follow the document in place; lines are laid out anew only when there are others.
class SoundSheet final : public QScrollArea {
    Q_OBJECT

public:
    explicit SoundSheet(Session& session, QWidget* parent = nullptr);
    /// The sheet as text, for the clipboard and for print: a line a thing, with every field that is not where it starts.
    QString as_text() const;
    void print_on(QPrinter& printer) const;
    /// Gives the chosen part the sound that a file holds: one saved here, or a sampled instrument in SFZ text.
    void recall_sound_from(const QString& path);
    /// Gives a plug-in, of a layer or a step, a file to play.
    void give_file(const FieldOwner& owner, const QString& file);
    void copy_to_part();
    /// The field whose curve is shown; none at first.
    std::optional<FieldRef> chosen_field() const { return chosen_; }
    /// In which section values are shown and set.
    void set_section(SectionId section);

    /// What a field's name offers on the right button: notes and macros may move it.
    QMenu* movers_menu(const FieldRef& field);

signals:
    void field_chosen();
    void shares_changed();
    /// A sound for a layer is to be looked for.
    void finder_wanted(fw::PartId part, fw::LayerId layer);

private:
    void follow();
    void lay_out();
    std::string signature() const;
    void heading(const QString& text, const std::function<void(QHBoxLayout*)>& more = {});
    void layer_line(const Part& part, std::size_t index);
    void step_lines(const Chain& chain, const std::vector<Step>& steps);
    QToolButton* before_button(const Chain& chain, const std::vector<StepId>& steps, const QString& tip);
    void duck_leaves(StepId duck);
    void plug_in_line(const FieldOwner& owner, const PlugIn& plug_in, const std::string& state, const std::string& file);
    void choose_preset(const FieldOwner& owner, const PlugIn& plug_in, QWidget* below);
    void send_lines(const Part& part);
    void macro_lines();
    void note_move_lines();
    void move_by_notes_entry(QMenu& menu, const FieldRef& field, const Parameter& row);
    void bus_lines();
    void clip_lines();
    /// A line's beginning: a mark for on or off, what else stands before it, the thing's name.
    QHBoxLayout* line(const FieldOwner& owner, const QString& name, QToolButton* beside = nullptr);
    void fields_of_line(QHBoxLayout* row, const FieldOwner& owner, const std::vector<std::string>& telling);
    void unfolded(const FieldOwner& owner, const std::vector<std::string>& told);
    void group(const FieldOwner& owner, const std::string& name, const std::vector<const Parameter*>& fields);
    QWidget* field(const FieldOwner& owner, const Parameter& row);
    void end_of_line(QHBoxLayout* row, const FieldOwner& owner, const Line& removal, const QString& what);
    QMenu* step_menu(const Chain& chain);
    void choose_sample(LayerId layer);
    void choose_plug_in(LayerId layer, QWidget* below);
    QComboBox* output_box(const QString& object, const QString& tip, BusId now, const std::function<bool(const Bus&)>& may,
                          const std::function<Line(const std::string& bus)>& line);
    void measure_shares();
    void loop_line(LayerId layer);
    void find_loop(LayerId layer);
    QWidget* instrument_box(const Part& part, const Layer& layer);
    std::string key_of(const FieldOwner& owner) const;
    void print();
    void save_sound();
    void save_sound_with_samples();
    void recall_sound();

    Session& session_;
    QVBoxLayout* column_ = nullptr;
    std::string laid_out_;
    std::set<std::string> unfolded_;
    std::optional<FieldRef> chosen_;
    std::vector<StepId> before_;  ///< what is left out of what is heard, for comparing
    SectionId section_;
    bool pending_ = false;
    QPointer<RecordPanel> recording_;
    std::shared_ptr<const Remake> shares_of_;  ///< the document the shares are of
    PartId shares_part_;
    std::vector<std::pair<LayerId, double>> shares_;
    JobQueue jobs_;
};

}  // namespace fw::app

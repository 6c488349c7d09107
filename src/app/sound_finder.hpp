// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/clearest.hpp"
#include "app/session.hpp"
#include "app/tryout.hpp"
#include "fit/fit_sound.hpp"
#include "fit/sound_index.hpp"

#include <QDialog>
#include <functional>
#include <memory>
#include <vector>

class QCheckBox;
class QComboBox;
class QLabel;
class QLineEdit;
class QListWidget;
class QProgressBar;
class QPushButton;
class QTabWidget;
class QTreeWidget;

namespace fw::app {

class NumberField;

/// A sound for the chosen part, against a moment in which the original shows it: found among the user's and the shipped sounds, fitted — on the synthesiser, on
/// a made drum, by envelope and filter on a sample that was found —, or cut from the original itself. What is chosen is heard at once where the part plays;
/// closing keeps it, one step of undo takes all of it back.
class SoundFinder final : public QDialog {
    Q_OBJECT

public:
    explicit SoundFinder(Session& session, QWidget* parent = nullptr);
    ~SoundFinder() override;

    /// For a layer of a part; what was found for another one is forgotten.
    void open_for(PartId part, LayerId layer);
    /// The index is kept in another file, for tests.
    void set_index_file(const std::filesystem::path& file) { index_file_ = file; }
    const std::vector<ClearMoment>& moments() const { return moments_; }
    const std::vector<FoundSound>& found() const { return found_; }
    const std::vector<FittedSound>& fitted() const { return fitted_; }
    bool busy() const;
    void add_folder(const QString& folder);

private:
    void fill_moments();
    const ClearMoment* moment() const;
    void hear_moment();
    void look();
    void show_found();
    void take_found(int row);
    void fit(bool go_on);
    void show_fitted();
    void take_fitted(int row);
    void keep_rivals();
    void cut();
    bool ready_to_choose();
    void tell_moment();
    std::shared_ptr<const Share> share_of_moment(const ClearMoment& moment) const;
    std::shared_ptr<SoundIndex> index();
    void tell_index();
    using Target = std::function<LoneNote()>;
    Target target() const;
    /// What is fitted for the layer: a sampler's own sound, of drums a made drum, else the synth.
    const SourceType& fitted_type() const;
    int drum_key() const;
    /// For a sound the part plays besides or instead of what the layer plays: of a kit's layer one of its own, for the moment's drum alone.
    Line source_line(const SourceType& type) const;
    /// What gives the part a sound that was found, in this order, with the equaliser that belongs to it; on top of what stands before them.
    std::vector<Line> lines_of(const FittedSound& sound) const;
    bool has_equaliser(const FittedSound& sound) const;

    Session& session_;
    PartId part_;
    LayerId layer_;
    Tryout tried_;  ///< what is chosen here, one in the place of the other
    int fit_number_ = 0;
    std::vector<ClearMoment> moments_;
    std::vector<FoundSound> found_;
    std::vector<FittedSound> fitted_;
    const SourceType* fitted_of_ = &kSynth;  ///< the kind they are of
    std::filesystem::path index_file_;
    std::shared_ptr<SoundIndex> index_;
    JobQueue jobs_;
    QComboBox* moment_ = nullptr;
    QCheckBox* alone_ = nullptr;
    QTabWidget* tabs_ = nullptr;
    QLineEdit* words_ = nullptr;
    QTreeWidget* results_ = nullptr;
    QListWidget* fits_ = nullptr;
    QLabel *index_told_ = nullptr, *fit_help_ = nullptr, *fit_told_ = nullptr, *cut_told_ = nullptr;
    QProgressBar *index_progress_ = nullptr, *fit_progress_ = nullptr;
    QPushButton *fit_ = nullptr, *go_on_ = nullptr, *rivals_ = nullptr;
    NumberField* seconds_ = nullptr;
};

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "analysis/clearest.hpp"
#include "app/session.hpp"
#include "fit/sound_curves.hpp"

#include <QWidget>
#include <memory>
#include <optional>

namespace fw::app {

/// A layer's sound over the original's: spectrum, level and pitch over time of a note at the moment in which the original shows the part most clearly, the
/// original in its ink, the layer in ours. It follows every change of the part's sound.
class SoundPicture final : public QWidget {
    Q_OBJECT

public:
    SoundPicture(Session& session, PartId part, LayerId layer, QWidget* parent = nullptr);
    QSize sizeHint() const override { return {400, 132}; }
    bool ready() const { return !mine_.empty(); }
    const SoundCurves& original() const { return original_; }
    const SoundCurves& mine() const { return mine_; }

protected:
    void paintEvent(QPaintEvent* event) override;

private:
    /// The original's note: what it was chosen by, the moment itself and its curves. While these stay, so does it, however the layer is turned.
    struct Shown {
        std::shared_ptr<const Analysis> analysis;
        PartRole role = PartRole::Other;
        std::string name;
        double low_key = 0.0, high_key = 127.0;
        double tuning_cents = 0.0;
        ClearMoment moment;
        std::size_t frames = 0;  ///< of the note, mono, at 44.1 kHz
        SoundCurves curves;
        bool is_for(const Shown& other) const {
            return analysis == other.analysis && role == other.role && name == other.name && low_key == other.low_key && high_key == other.high_key &&
                   tuning_cents == other.tuning_cents;
        }
    };
    void follow();
    Session& session_;
    PartId part_;
    LayerId layer_;
    std::shared_ptr<const Remake> shown_;  ///< the document the curves are of
    std::shared_ptr<const Shown> note_;
    SoundCurves original_, mine_;
    QString moment_;
    JobQueue jobs_;
};

}  // namespace fw::app

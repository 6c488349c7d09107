// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

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
    void follow();
    Session& session_;
    PartId part_;
    LayerId layer_;
    std::shared_ptr<const Remake> shown_;  ///< the document the curves are of
    SoundCurves original_, mine_;
    QString moment_;
    JobQueue jobs_;
};

}  // namespace fw::app

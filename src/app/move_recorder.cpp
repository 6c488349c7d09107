// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/move_recorder.hpp"

#include "app/words.hpp"
#include "model/edits.hpp"

#include <utility>

namespace fw::app {

namespace {
const QString kKey = "recorded move";
}

MoveRecorder::MoveRecorder(Session& session) : session_(session), tried_(session.documents()) {
    quiet_.setSingleShot(true);
    quiet_.setInterval(900);
    connect(&quiet_, &QTimer::timeout, this, &MoveRecorder::let_go);
    connect(&session_, &Session::transport_changed, this, [this] {
        if (field_ && !session_.transport().player().playing()) let_go();
    });
    connect(&session_, &Session::opened, this, [this] { field_.reset(), points_.clear(), tried_.forget(); });
}

void MoveRecorder::arm(bool on) {
    if (on == armed_) return;
    let_go();
    armed_ = on;
    emit changed();
}

Ticks MoveRecorder::heard() const { return std::max<Ticks>(0, session_.remake().song->tempo.nearest_tick(session_.transport().position_s())); }

std::optional<double> MoveRecorder::held(const FieldRef& field) const {
    if (field_ != field || points_.empty()) return std::nullopt;
    return points_.back().value;
}

bool MoveRecorder::lay(Ticks to, const std::vector<CurvePoint>& points) {
    const Remake& r = *tried_.from();
    Line line("curve.lay");
    name_owner(line, r, field_->owner)
        .with("field", field_->field)
        .with("from", fw::place_text(r.song->meter, points.front().tick))
        .with("to", fw::place_text(r.song->meter, to))
        .with("points", points_text(r, *row_, 0, points));
    return tried_.run(line, kKey);
}

bool MoveRecorder::moved(const FieldRef& field, const Parameter& row, double value) {
    if (!armed_ || !row.moves || session_.provisional() || !session_.transport().player().playing()) return false;
    const Ticks now = heard();
    // Another field, or the loop begins again: what was moved so far is a move of its own.
    if (field_ && (field_ != field || now < points_.back().tick)) let_go();
    if (!field_) {
        tried_.begin();
        field_ = field, row_ = &row;
        points_.clear();
    }
    if (!points_.empty() && points_.back().tick == now) points_.back().value = value;
    else points_.push_back({now, value});
    // What is moved is heard at once, and for as long as the hand may rest.
    const Ticks ahead = session_.remake().song->tempo.nearest_tick(session_.transport().position_s() + 4.0);
    const bool done = lay(std::max(ahead, now + 2), points_);
    quiet_.start();
    if (!done) field_.reset(), points_.clear(), tried_.forget();
    return done;
}

void MoveRecorder::let_go() {
    quiet_.stop();
    if (!field_ || points_.empty()) return;
    // As few points as stay within a hundredth of the field's scale, where the ear goes by.
    constexpr double kWithin = 0.01;
    const Ticks now = std::max(heard(), points_.back().tick + 1), to = now > points_.back().tick + 60 * kTicksPerQuarter ? points_.back().tick + 1 : now;
    std::vector<BendPoint> drawn;
    for (const CurvePoint& p : points_) drawn.push_back({p.tick, position_of(*row_, p.value)});
    std::vector<CurvePoint> few;
    for (const BendPoint& p : thinned(drawn, kWithin)) few.push_back({p.tick, value_at(*row_, p.cents)});
    lay(std::max(to, few.front().tick + 2), few);
    session_.documents().end_gesture();
    const QString told = tr("%1 recorded: %n points", nullptr, static_cast<int>(few.size())).arg(tr(row_->label));
    field_.reset(), points_.clear(), tried_.forget();
    emit session_.told(told);
    emit changed();
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/changes.hpp"
#include "app/words.hpp"
#include "model/describe.hpp"

#include <QStringList>

namespace fw::app {

QString heard_element_name(const std::string& element) {
    for (const DrumSound& s : drum_sounds())
        if (element == s.id) return QString::fromStdString(s.name);
    return QString::fromStdString(element);
}

std::vector<const BarDifference*> bar_changes(const Session& session, Ticks start, Ticks end) {
    std::vector<const BarDifference*> found;
    const auto analysis = session.recording().analysis;
    if (!analysis) return found;
    const double middle = session.remake().song->tempo.seconds((start + end) / 2);
    for (const SectionSpan& s : analysis->sections)
        for (const BarDifference& d : s.differences)
            if (middle >= d.start_s && middle < d.end_s) found.push_back(&d);
    return found;
}

QString remark_name(RemarkKind kind) { return names::kRemarks[static_cast<std::size_t>(kind)]; }

int section_shift(const Session& session, Ticks start, Ticks end) {
    const auto analysis = session.recording().analysis;
    if (!analysis) return 0;
    const double middle = session.remake().song->tempo.seconds((start + end) / 2);
    for (const SectionSpan& s : analysis->sections)
        if (middle >= s.start_s && middle < s.end_s) return s.repeat_of >= 0 ? s.up : 0;
    return 0;
}

namespace {

/// "up a third".
QString interval_words(int up) {
    static const char* const kNames[] = {"",        "a semitone", "a tone",  "a third",   "a third",   "a fourth", "a tritone",
                                         "a fifth", "a sixth",    "a sixth", "a seventh", "a seventh", "an octave"};
    const int size = std::abs(up);
    const QString name = size <= 12 ? tr(kNames[size]) : tr("%1 semitones").arg(size);
    return up > 0 ? tr("up %1").arg(name) : tr("down %1").arg(name);
}

QString chord_words(const std::string& label, bool flats) {
    const auto chord = parse_chord(label);
    return QString::fromStdString(chord ? chord->name(flats) : label);
}

}  // namespace

QString change_words(const Session& session, const std::vector<const BarDifference*>& changes) {
    QStringList words;
    for (const BarDifference* d : changes) {
        const QString name = heard_element_name(d->element);
        const Song& song = *session.remake().song;
        const bool flats = song.flats_at(song.tempo.nearest_tick(d->start_s));
        if (!d->from.empty()) words << tr("%1 → %2").arg(chord_words(d->from, flats), chord_words(d->to, flats));
        else if (d->up != 0) words << name + " " + interval_words(d->up);
        else if (d->missing == 0) words << QString("%1 +%2").arg(name).arg(d->added);
        else if (d->added == 0) words << QString("%1 −%2").arg(name).arg(d->missing);
        else if (d->missing == d->added) words << tr("%1 %2 other").arg(name).arg(d->missing);
        else words << QString("%1 −%2 +%3").arg(name).arg(d->missing).arg(d->added);
    }
    return words.join(", ");
}

}  // namespace fw::app

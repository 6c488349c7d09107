// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/changes.hpp"
#include "app/words.hpp"

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

QString change_words(const std::vector<const BarDifference*>& changes) {
    QStringList words;
    for (const BarDifference* d : changes) {
        const QString name = heard_element_name(d->element);
        if (d->missing == d->added) words << tr("%1 %2 other").arg(name).arg(d->missing);
        else if (d->missing == 0) words << tr("%1 %2 more").arg(name).arg(d->added);
        else if (d->added == 0) words << tr("%1 %2 fewer").arg(name).arg(d->missing);
        else words << tr("%1 %2 fewer and %3 more").arg(name).arg(d->missing).arg(d->added);
    }
    return words.join(", ");
}

}  // namespace fw::app

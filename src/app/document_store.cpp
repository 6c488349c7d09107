// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/document_store.hpp"
#include "app/words.hpp"

#include "base/files.hpp"
#include "base/guard.hpp"
#include "formats/remake_file.hpp"
#include "model/validate.hpp"

#include <algorithm>
#include <filesystem>
#include <vector>

namespace fw::app {

bool DocumentStore::may_change() {
    if (!locked_.isEmpty()) emit failed(locked_);
    return locked_.isEmpty();
}

const DocumentStore::Placed* DocumentStore::known(const Part& part) const {
    if (const auto at = placed_.find(&part); at != placed_.end()) return &at->second;
    for (const auto& p : remake().parts) {
        if (p.get() != &part) continue;
        std::erase_if(placed_, [&](const auto& old) { return old.second.part->id == part.id; });
        Placed now{p, placed_notes(part), 0};
        for (const PlacedNote& n : now.notes) now.longest = std::max(now.longest, n.note.length);
        return &placed_.emplace(&part, std::move(now)).first->second;
    }
    return nullptr;
}

const std::vector<PlacedNote>& DocumentStore::placed(const Part& part) const {
    const Placed* found = known(part);
    return found ? found->notes : elsewhere_ = placed_notes(part);
}

std::span<const PlacedNote> DocumentStore::placed_within(const Part& part, Ticks from, Ticks to) const {
    const Placed* found = known(part);
    if (!found) return placed(part);
    const auto begin =
        std::lower_bound(found->notes.begin(), found->notes.end(), from - found->longest, [](const PlacedNote& n, Ticks t) { return n.note.start < t; });
    return {begin, std::upper_bound(begin, found->notes.end(), to, [](Ticks t, const PlacedNote& n) { return t < n.note.start; })};
}

bool DocumentStore::run(const Line& line, const QString& merge_key, const std::shared_ptr<const Remake>& from) {
    if (!may_change()) return false;
    auto done = run_command(from ? *from : remake(), line);
    if (!done) {
        emit failed(of_core(done.error().message()));
        return false;
    }
    open_.history.push(std::move(done->remake), done->command->undo_text, merge_key.toStdString(), line.text());
    emit changed();
    return true;
}

bool DocumentStore::edit(Remake next, const QString& label, const QString& merge_key) {
    if (!may_change()) return false;
    // What was wrong before is no reason to refuse: nobody is locked out of a document by its fault.
    if (const auto wrong = what_is_wrong(next); wrong && !what_is_wrong(remake())) {
        emit failed(tr("%1 was not done, because afterwards %2.").arg(label, QString::fromStdString(*wrong)));
        return false;
    }
    open_.history.push(std::move(next), label.toStdString(), merge_key.toStdString());
    emit changed();
    return true;
}

void DocumentStore::undo() {
    open_.history.undo();
    emit travelled();
    emit changed();
}

void DocumentStore::redo() {
    open_.history.redo();
    emit travelled();
    emit changed();
}

QString DocumentStore::what_was_done() const {
    QString text;
    for (const std::string& line : open_.history.lines()) text += QString::fromStdString(line) + "\n";
    return text;
}

double DocumentStore::spent_s(ElementId element) const {
    const auto at = open_.spent_s.find(element);
    return remake().element(element).time_spent_s + (at == open_.spent_s.end() ? 0.0 : at->second);
}

bool DocumentStore::time_is_up(ElementId element) const {
    const double given_min = remake().element(element).budget_min;
    return given_min > 0.0 && spent_s(element) >= given_min * 60.0;
}

bool DocumentStore::save(const QString& path) {
    if (!may_change()) return false;
    const auto done = guarded("saving " + path.toStdString(), [&]() -> Status {
        const std::vector<std::filesystem::path> inputs{remake().reference.path};
        if (auto spared = spares_inputs(path.toStdString(), inputs); !spared) return spared;
        Remake kept = remake();
        for (const auto& [element, seconds] : open_.spent_s)
            if (const auto ids = kept.element_ids(); std::find(ids.begin(), ids.end(), element) != ids.end()) {
                kept.notebook.edit().elements[element].time_spent_s = spent_s(element);
                kept.notebook.edit().time_spent_s += seconds;
            }
        return save_remake(path.toStdString(), kept);
    });
    if (!done) {
        emit failed(of_core(done.error().message()));
        return false;
    }
    open_.file = path;
    open_.history.close_step();
    open_.history.mark_saved();
    emit saved();
    return true;
}

}  // namespace fw::app

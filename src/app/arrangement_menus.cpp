// SPDX-License-Identifier: GPL-3.0-or-later
// What can be done with a cell of the arrangement, a section's head and a clip.
#include "app/arrangement_grid.hpp"
#include "app/kept_file.hpp"
#include "app/transition_menu.hpp"
#include "engine/print.hpp"

#include <QMenu>
#include <algorithm>
#include <cmath>

namespace fw::app {

void ArrangementGrid::mute(const Cell& cell) {
    const Remake& r = session_.remake();
    const Part& part = *r.parts[static_cast<std::size_t>(cell.part)];
    const Section& section = r.song->sections[static_cast<std::size_t>(cell.section)];
    if (const Placement* x = placement_in(part, section))
        run(Line("part.mute-in").with("part", part_text(r, part.id)).with("section", section_text(r, section.id)).with("on", x->muted ? "off" : "on"));
}

void ArrangementGrid::leave_out(const Cell& cell) {
    const Remake& r = session_.remake();
    run(Line("part.leave-out")
            .with("part", part_text(r, r.parts[static_cast<std::size_t>(cell.part)]->id))
            .with("section", section_text(r, r.song->sections[static_cast<std::size_t>(cell.section)].id)));
}

QMenu* ArrangementGrid::cell_menu(int part_row, int column) {
    const Remake& r = session_.remake();
    const Part& part = *r.parts[static_cast<std::size_t>(part_row)];
    const Section& section = r.song->sections[static_cast<std::size_t>(column)];
    const std::string p = part_text(r, part.id), s = section_text(r, section.id);
    auto* menu = new QMenu(this);
    const Placement* here = placement_in(part, section);
    QAction* muted = menu->addAction(here && here->muted ? tr("Let it sound here") : tr("Mute it here"), this, [this, part_row, column] {
        mute({part_row, column});
    });
    muted->setEnabled(here);
    muted->setObjectName("cell_mute");
    QAction* out = menu->addAction(tr("Leave it out here"), this, [this, part_row, column] { leave_out({part_row, column}); });
    out->setEnabled(here);
    out->setObjectName("cell_leave_out");
    QMenu* as = menu->addMenu(tr("Play here what it plays in"));
    as->setObjectName("cell_play_as");
    for (const Section& other : r.song->sections) {
        if (other.id == section.id || !placement_in(part, other)) continue;
        const std::string like = section_text(r, other.id);
        as->addAction(QString::fromStdString(like), this,
                      [this, p, s, like] { run(Line("part.play-as").with("part", p).with("section", s).with("like", like)); });
    }
    as->setEnabled(!as->isEmpty());
    QMenu* turns = menu->addMenu(tr("Take turns, bar by bar, with"));
    turns->setObjectName("cell_turns");
    for (const auto& other : r.parts)
        if (other->id != part.id && placement_in(*other, section))
            turns->addAction(QString::fromStdString(other->name), this, [this, p, s, with = part_text(r, other->id)] {
                run(Line("part.take-turns").with("part", p).with("with", with).with("section", s));
            });
    turns->setEnabled(here && !turns->isEmpty());
    QMenu* fall = menu->addMenu(tr("Let it fall out at the end, for"));
    fall->setObjectName("cell_fall_out");
    fall->setEnabled(here);
    const Ticks end = section.start + section.length, bar = r.song->meter.at_bar(r.song->meter.position(end - 1).bar).bar_ticks();
    for (const auto& [name, length] : {std::pair(tr("a beat"), bar / std::max(1, r.song->meter.at_bar(r.song->meter.position(end - 1).bar).beats())),
                                       std::pair(tr("half a bar"), bar / 2), std::pair(tr("a bar"), bar)})
        fall->addAction(name, this, [this, p, from = place_text(r.song->meter, end - length), to = place_text(r.song->meter, end)] {
            run(Line("part.fall-out").with("part", p).with("from", from).with("to", to));
        });
    menu->addSeparator();
    for (const bool steps : {true, false}) {
        QAction* print = menu->addAction(steps ? tr("Print it here as sound, with its steps") : tr("Print it here as sound, without its steps"), this,
                                         [this, id = part.id, at = section.id, steps] { print_here(id, at, steps); });
        print->setEnabled(here);
        print->setObjectName(steps ? "cell_print" : "cell_print_dry");
        print->setToolTip(tr("The sound becomes a clip that can be reversed, chopped and stretched; the part is muted there and kept"));
    }
    return menu;
}

/// The sound lies in the remake file from then on, so that nothing depends on the file it is handed over in.
void ArrangementGrid::print_here(PartId part, SectionId at, bool steps) {
    const Remake& r = session_.remake();
    const Section* s = r.song->section(at);
    if (!s || !r.part(part)) return;
    jobs_.run("print", tr("printing %1").arg(QString::fromStdString(r.part(part)->name)),
              [this, document = session_.documents().document(), inputs = PlanInputs{session_.transport().rate_hz(), assets_beside(session_.recording().sound)},
               part, at, from = s->start, to = s->start + s->length, steps]() -> JobQueue::Work {
                  return [this, document, inputs, part, at, from, to, steps](const Progress& progress) -> Result<JobQueue::Delivery> {
                      const auto sound = print_part(*document, part, from, to, steps, inputs, progress);
                      if (!sound) return sound.error();
                      const auto file = kept_as_file(*sound, "prints");
                      if (!file) return file.error();
                      return JobQueue::Delivery([this, part, at, file = *file, seconds = sound->duration_s()] {
                          const Remake& now = session_.remake();
                          const Section* where = now.song->section(at);
                          const Part* what = now.part(part);
                          if (!where || !what) return;
                          const std::string section = section_text(now, at), player = part_text(now, part), name = what->name + " in " + section;
                          const QString key = "print";
                          auto& documents = session_.documents();
                          documents.end_gesture();
                          if (!documents.run(Line("clip.from-file")
                                                 .with("file", file)
                                                 .with("to", place_text(now.song->meter, where->start))
                                                 .with("seconds", QString::number(seconds, 'f', 4).toStdString())
                                                 .with("name", name),
                                             key))
                              return;
                          documents.run(Line("clip.keep").with("clip", clip_text(session_.remake(), session_.remake().clips->clips.back().id)).with("on", "on"),
                                        key);
                          documents.run(Line("part.mute-in").with("part", player).with("section", section).with("on", "on"), key);
                          documents.end_gesture();
                      });
                  };
              });
}

QMenu* ArrangementGrid::head_menu(int column) {
    const Remake& r = session_.remake();
    const Section& section = r.song->sections[static_cast<std::size_t>(column)];
    const std::string from = place_text(r.song->meter, section.start), to = place_text(r.song->meter, section.start + section.length);
    auto* menu = new QMenu(this);
    add_transitions(*menu, session_, section.start);
    menu->addSeparator();
    QMenu* stop = menu->addMenu(tr("Everything stops before it, for"));
    stop->setObjectName("head_stop");
    stop->setEnabled(section.start > 0);
    const auto& meter = r.song->meter.at_bar(r.song->meter.position(section.start - 1).bar);
    for (const auto& [name, length] :
         {std::pair(tr("a beat"), meter.beat_ticks()), std::pair(tr("half a bar"), meter.bar_ticks() / 2), std::pair(tr("a bar"), meter.bar_ticks())})
        stop->addAction(name, this, [this, from, before = place_text(r.song->meter, section.start - length)] {
            run(Line("part.fall-out").with("from", before).with("to", from));
        });
    menu->addAction(section.condensed_out ? tr("Take it into the condensed version again") : tr("Leave it out of the condensed version"), this,
                    [this, name = section_text(r, section.id), out = section.condensed_out] {
                        run(Line("section.condense").with("section", name).with("on", out ? "off" : "on"));
                    })
        ->setObjectName("head_condense");
    menu->addAction(tr("Fill it with the original, its parts muted"), this,
                    [this, from, to] { run(Line("original.fill").with("from", from).with("to", to).with("alone", "on")); })
        ->setObjectName("head_fill");
    return menu;
}

QMenu* ArrangementGrid::clip_menu(ClipId id) {
    const Remake& r = session_.remake();
    const Clip& clip = *r.clips->clip(id);
    const std::string name = clip_text(r, id), recipe = recipe_text(clip.recipe);
    auto* menu = new QMenu(this);
    // Each is one more entry of its recipe, which stays to be changed.
    const auto more = [&](QMenu* to, const QString& text, const std::string& entry, const char* object = nullptr) {
        auto* action = to->addAction(text, this, [this, name, entry, recipe] {
            run(Line("clip.recipe").with("clip", name).with("recipe", recipe.empty() ? entry : recipe + ", " + entry));
        });
        if (object) action->setObjectName(object);
    };
    more(menu, tr("Reverse"), "reverse", "clip_reverse");
    QMenu* bars = menu->addMenu(tr("Stretch to"));
    for (const auto& [text, n] : {std::pair(tr("a beat"), "0.25"), std::pair(tr("half a bar"), "0.5"), std::pair(tr("1 bar"), "1"),
                                  std::pair(tr("2 bars"), "2"), std::pair(tr("4 bars"), "4"), std::pair(tr("8 bars"), "8")})
        more(bars, text, std::string("bars ") + n);
    QMenu* pitch = menu->addMenu(tr("Pitch"));
    for (const int semitones : {12, 7, 5, 2, 1, -1, -2, -5, -7, -12})
        more(pitch, tr("%1%2 semitones").arg(semitones > 0 ? "+" : "−").arg(std::abs(semitones)), "pitch " + std::to_string(semitones));
    QMenu* voice = menu->addMenu(tr("Pitch of a voice, its colour kept"));
    for (const int semitones : {12, 7, 5, -5, -7, -12})
        more(voice, tr("%1%2 semitones").arg(semitones > 0 ? "+" : "−").arg(std::abs(semitones)), "pitch " + std::to_string(semitones) + " 1");
    more(menu, tr("Lower its noise"), "clean 15", "clip_clean");
    more(menu, tr("Bring both sides to the same level"), "even 100%", "clip_even");
    more(menu, tr("Centre its notes"), "tune 1 " + std::to_string(std::lround(r.song->rebuild_tuning_cents())), "clip_tune");
    more(menu, tr("Fade in and out"), "fade 20 200");
    more(menu, tr("Slow to a stop at its end"), "stop 500", "clip_stop");
    QMenu* gates = menu->addMenu(tr("Gate"));
    for (const auto& [text, n] :
         {std::pair(tr("in eighths"), "2"), std::pair(tr("in triplets"), "3"), std::pair(tr("in sixteenths"), "4"), std::pair(tr("in thirty-seconds"), "8")})
        more(gates, text, std::string("gate ") + n + " 50%");
    more(menu, tr("Hold its beginning for 4 s"), "freeze 100 4000");
    menu->addAction(tr("Trim it to what repeats in it"), this, [this, id] { listening_.trim_to_repeat(id); })->setObjectName("clip_repeat");
    QMenu* chop = menu->addMenu(tr("Chop into"));
    chop->setObjectName("clip_chop");
    for (const auto& [text, n] :
         {std::pair(tr("bars"), "1 bar"), std::pair(tr("quarters"), "1/4"), std::pair(tr("eighths"), "1/8"), std::pair(tr("sixteenths"), "1/16")})
        chop->addAction(text, this, [this, name, n = std::string(n)] { run(Line("clip.chop").with("clip", name).with("length", n)); });
    chop->addSeparator();
    chop->addAction(tr("pieces at its hits, where they are"), this, [this, id] { listening_.chop_at_hits(id, {}); })->setObjectName("clip_hits");
    chop->addAction(tr("pieces at its hits, onto sixteenths"), this, [this, id] { listening_.chop_at_hits(id, "1/16"); })->setObjectName("clip_hits_onto");
    chop->setEnabled(!clip.ends_here);
    QMenu* retime = menu->addMenu(tr("Re-time it onto"));
    retime->setObjectName("clip_retime");
    for (const RetimeChoice& c : retime_choices(*r.song)) retime->addAction(c.name, this, [this, id, c] { listening_.retime(id, c); });
    menu->addSeparator();
    menu->addAction(tr("Make an instrument of it"), this, [this, id] { listening_.make_instrument(id); })->setObjectName("clip_instrument");
    menu->addAction(clip.mute ? tr("Let it sound") : tr("Mute"), this,
                    [this, name, mute = clip.mute] { run(Line("clip.mute").with("clip", name).with("on", mute ? "off" : "on")); });
    menu->addAction(tr("Take it away"), this, [this, name] { run(Line("clip.remove").with("clip", name)); })->setObjectName("clip_remove");
    return menu;
}

}  // namespace fw::app

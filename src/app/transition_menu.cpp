// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/transition_menu.hpp"

#include "app/words.hpp"
#include "model/describe.hpp"
#include "model/recipe.hpp"

#include <QMenu>

namespace fw::app {

QString transition_name(Transition kind) {
    switch (kind) {
        case Transition::None: break;
        case Transition::Riser: return tr("Riser");
        case Transition::Sweep: return tr("Sweep of noise");
        case Transition::Fall: return tr("Fall");
        case Transition::Impact: return tr("Impact");
        case Transition::Crash: return tr("Crash");
        case Transition::Swell: return tr("Reversed crash");
        case Transition::SubDrop: return tr("Sub drop");
        case Transition::NoiseBuild: return tr("Build of noise");
        case Transition::SnareBuild: return tr("Build of snares");
        case Transition::ChordSwell: return tr("Chord, reversed");
    }
    return tr("none");
}

void add_transitions(QMenu& menu, Session& session, Ticks place) {
    const auto add = [&](QMenu* to, Transition kind, bool ends) {
        QMenu* lengths = to->addMenu(transition_name(kind));
        lengths->setObjectName(names::kTransitions[static_cast<std::size_t>(kind)]);
        for (const auto& [text, length] :
             {std::pair(tr("over half a bar"), "0.5 bars"), std::pair(tr("over 1 bar"), "1 bar"), std::pair(tr("over 2 bars"), "2 bars"),
              std::pair(tr("over 4 bars"), "4 bars"), std::pair(tr("over 8 bars"), "8 bars")})
            lengths->addAction(text, &session, [&session, kind, ends, place, length = std::string(length)] {
                session.documents().run(Line("transition.add")
                                            .with("kind", names::kTransitions[static_cast<std::size_t>(kind)])
                                            .with("to", place_text(session.remake().song->meter, place))
                                            .with("length", length)
                                            .with("ends", ends ? "on" : "off"));
            });
    };
    QMenu* into = menu.addMenu(tr("Lead into it with"));
    into->setObjectName("lead_into");
    for (int k = 1; k < kTransitions; ++k)
        if (const auto kind = static_cast<Transition>(k); leads_to_its_place(kind)) add(into, kind, true);
    QMenu* out = menu.addMenu(tr("Begin it with"));
    out->setObjectName("begin_with");
    // A sweep comes and goes: it does for both.
    for (int k = 1; k < kTransitions; ++k)
        if (const auto kind = static_cast<Transition>(k); !leads_to_its_place(kind) || kind == Transition::Sweep) add(out, kind, false);
}

}  // namespace fw::app

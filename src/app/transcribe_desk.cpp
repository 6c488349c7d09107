// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/command_registry.hpp"
#include "app/desks.hpp"
#include "app/words.hpp"

#include "app/theme.hpp"

#include <QComboBox>
#include <QEvent>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace fw::app {

TranscribeDesk::TranscribeDesk(Session& session, const CommandRegistry& commands, QWidget* parent) : QWidget(parent), session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    auto* tools = new QHBoxLayout;
    tools->setContentsMargins(12, 6, 12, 6);
    title_ = new QLabel;
    title_->setFont(text_font(10.5, true));
    tools->addWidget(title_);
    legend_ = new QLabel;
    legend_->setObjectName("heading");
    tools->addSpacing(12);
    tools->addWidget(legend_);
    name_inks();
    connect(&theme_teller(), &ThemeTeller::changed, this, &TranscribeDesk::name_inks);
    tools->addStretch(1);
    tools->addWidget(new QLabel(tr("Grid")));
    tools->addSpacing(6);
    grid_ = new QComboBox;
    grid_->setObjectName("grid");
    grid_->setToolTip(tr("Where notes snap to; Alt while dragging moves freely"));
    for (const auto& [name, ticks] : {std::pair{"quarter", 960},
                                      {"eighth", 480},
                                      {"eighth triplet", 320},
                                      {"sixteenth", 240},
                                      {"sixteenth triplet", 160},
                                      {"thirty-second", 120},
                                      {"off", 0}})
        grid_->addItem(name, ticks);
    grid_->setCurrentIndex(3);
    tools->addWidget(grid_);
    reach_ = new QComboBox;
    reach_->setObjectName("reach");
    reach_->setToolTip(
        commands.with_keys(tr("Whether an edit changes a note wherever its pattern plays, or only here, for which a variant is made"), "note.reach"));
    reach_->addItems({tr("everywhere it plays"), tr("here only")});
    connect(reach_, &QComboBox::activated, this, [this](int i) { session_.selection().set_reach(i == 1 ? Reach::Here : Reach::Everywhere); });
    tools->addSpacing(8);
    tools->addWidget(new QLabel(tr("Edit")));
    tools->addSpacing(6);
    tools->addWidget(reach_);
    const auto zoom = [&](const char* text, double factor, const QString& tip) {
        auto* b = new QPushButton(text);
        b->setToolTip(tip);
        b->setFixedWidth(30);
        connect(b, &QPushButton::clicked, this, [this, factor] {
            if (auto* c = current()) c->zoom(factor, c->width() / 2.0);
        });
        tools->addWidget(b);
    };
    zoom("−", 0.8, tr("Show more time (Ctrl+wheel)"));
    zoom("+", 1.25, tr("Show less time (Ctrl+wheel)"));
    column->addLayout(tools);
    stack_ = new QStackedWidget;
    stack_->addWidget(notes_ = new NoteCloseUp(session));
    stack_->addWidget(drums_ = new DrumCloseUp(session));
    stack_->addWidget(chords_ = new ChordCloseUp(session));
    empty_ = new QLabel(tr("Select the chords or a part in the ledger to see it large here."));
    empty_->setAlignment(Qt::AlignCenter);
    stack_->addWidget(empty_);
    column->addWidget(stack_, 1);
    connect(grid_, &QComboBox::currentIndexChanged, this, [this] {
        for (CloseUp* c : {static_cast<CloseUp*>(notes_), static_cast<CloseUp*>(drums_), static_cast<CloseUp*>(chords_)})
            c->set_grid(grid_->currentData().toInt());
    });
    connect(&session_, &Session::selection_changed, this, &TranscribeDesk::follow);
    connect(&session_, &Session::document_changed, this, &TranscribeDesk::follow);
    follow();
}

void TranscribeDesk::name_inks() {
    legend_->setText(tr("<span style='color:%1'>■</span> original's evidence &nbsp; <span style='color:%2'>▨</span> your rebuild")
                         .arg(theme().original.name(), theme().rebuild.name()));
}

CloseUp* TranscribeDesk::current() const { return qobject_cast<CloseUp*>(stack_->currentWidget()); }

void TranscribeDesk::follow() {
    const Part* part = session_.selection().part();
    reach_->setCurrentIndex(session_.selection().reach() == Reach::Here ? 1 : 0);
    title_->setText(session_.has_reference() ? QString::fromStdString(session_.remake().element_name(session_.selection().element())) : QString());
    QWidget* wanted = session_.selection().element() == ElementId::chords() ? static_cast<QWidget*>(chords_)
                      : !part                                               ? static_cast<QWidget*>(empty_)
                      : part->role == PartRole::Drums                       ? static_cast<QWidget*>(drums_)
                                                                            : static_cast<QWidget*>(notes_);
    if (!session_.has_reference()) wanted = notes_;
    if (stack_->currentWidget() == wanted) return;
    // The new close-up opens where the last one stood.
    const CloseUp* before = current();
    const double at = before ? before->time_at(CloseUp::kLeft) : 0.0;
    stack_->setCurrentWidget(wanted);
    if (auto* now = current()) now->show_from(at);
}

void TranscribeDesk::remove_selected() { current() == drums_ ? drums_->delete_selected() : notes_->delete_selected(); }
void TranscribeDesk::transpose(int semitones) {
    if (current() == notes_) notes_->transpose_selected(semitones);
}
void TranscribeDesk::nudge(int direction) {
    const Ticks step = direction * (kTicksPerQuarter / 64);
    current() == drums_ ? drums_->nudge_selected(step) : notes_->nudge_selected(step);
}
void TranscribeDesk::quantise() { current() == drums_ ? drums_->quantise_selected() : notes_->quantise_selected(); }
void TranscribeDesk::straighten() {
    if (current() == notes_) notes_->straighten_selected();
}
void TranscribeDesk::select_all() {
    if (session_.selection().part()) notes_->select_all();
}

}  // namespace fw::app

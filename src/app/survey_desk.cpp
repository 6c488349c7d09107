// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/survey_desk.hpp"

#include "app/calm_combo.hpp"
#include "app/command_registry.hpp"
#include "app/page_view.hpp"
#include "app/tempo_lane.hpp"
#include "app/words.hpp"

#include <QCheckBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QMenu>
#include <QPushButton>
#include <QVBoxLayout>

namespace fw::app {

SurveyDesk::SurveyDesk(Session& session, const CommandRegistry& commands, QWidget* parent) : QWidget(parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    page_ = new PageView(session);
    lane_ = new TempoLane(session);

    auto* bar = new QHBoxLayout;
    bar->setContentsMargins(12, 4, 12, 4);
    bar->setSpacing(8);
    bar->addWidget(new QLabel(tr("Bars in a row")));
    auto* phrase = new CalmCombo;
    phrase->setObjectName("phrase");
    for (const auto& [text, bars] : {std::pair{tr("auto"), 0}, {QString("2"), 2}, {QString("4"), 4}, {QString("8"), 8}, {QString("16"), 16}})
        phrase->addItem(text, bars);
    phrase->setToolTip(tr("How long a row is; each section begins a new one"));
    connect(phrase, &QComboBox::activated, this, [this, phrase] { page_->set_phrase(phrase->currentData().toInt()); });
    bar->addWidget(phrase);
    auto* strips = new QCheckBox(tr("What plays"));
    strips->setObjectName("strips");
    strips->setChecked(true);
    strips->setToolTip(tr("Thin strips of what was heard, stronger where it is surer; whatever has been built"));
    connect(strips, &QCheckBox::toggled, page_, &PageView::show_strips);
    bar->addWidget(strips);
    auto* tempo = new QCheckBox(tr("Tempo"));
    tempo->setObjectName("tempo_lane");
    tempo->setChecked(true);
    tempo->setToolTip(tr("The tempo of every beat along the song"));
    connect(tempo, &QCheckBox::toggled, lane_, &QWidget::setVisible);
    bar->addWidget(tempo);
    bar->addStretch(1);
    for (const auto& [text, id, tip] : {std::tuple{tr("Farther"), "view.farther", tr("More of the song at once")},
                                        {tr("Nearer"), "view.nearer", tr("Fewer bars, larger")},
                                        {tr("Go to…"), "view.go", tr("A bar, a beat, a section or a time")}}) {
        auto* b = new QPushButton(text);
        b->setObjectName(id);
        b->setToolTip(commands.with_keys(tip, id));
        connect(b, &QPushButton::clicked, commands.action(id), &QAction::trigger);
        bar->addWidget(b);
    }
    column->addLayout(bar);
    column->addWidget(page_, 1);
    column->addWidget(lane_);
    connect(page_, &PageView::menu_wanted, this, [this, &commands](const QPoint& at) {
        QMenu menu(this);
        commands.fill(menu, {"song.downbeat", "song.pin", "song.unpin", "", "song.bar-more", "song.bar-fewer", "song.steady", "song.follow", "song.free", "",
                             "song.split", "song.merge", "song.section-start", "", "listen.loop-bar", "listen.loop-section", "spot.remember"});
        menu.exec(at);
    });
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/listening_bar.hpp"
#include "app/words.hpp"

#include "app/command_registry.hpp"
#include "app/lens_panel.hpp"
#include "app/number_field.hpp"
#include "app/painting.hpp"
#include "app/survey.hpp"
#include "app/theme.hpp"

#include <QButtonGroup>
#include <QCheckBox>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QTimer>
#include <algorithm>
#include <cmath>

namespace fw::app {

/// Peak levels of both sources, -60 to 0 dBFS, original above, rebuild below.
class ListeningBar::Meters final : public QWidget {
public:
    explicit Meters(QWidget* parent) : QWidget(parent) {
        setFixedHeight(30);
        setObjectName("meters");
        setMinimumWidth(64);
        setMaximumWidth(150);
        setToolTip(tr("Peak level of the original (above) and the rebuild (below), −60 to 0 dBFS, before loudness match."));
    }
    void feed(float original, float rebuild) {
        const auto fall = [](double& now, float peak) { now = std::max(20.0 * std::log10(std::max(1e-4, static_cast<double>(peak))), now - 1.2); };
        fall(original_, original);
        fall(rebuild_, rebuild);
        update();
    }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        const auto bar = [&](int y, double db, const QBrush& ink) {
            p.fillRect(QRectF(0, y, width(), 9), theme().hairline);
            p.fillRect(QRectF(0, y, width() * std::clamp((db + 60.0) / 60.0, 0.0, 1.0), 9), ink);
        };
        bar(2, original_, theme().original);
        bar(14, rebuild_, rebuild_hatch());
        p.setFont(figure_font(6.5));
        p.setPen(theme().faint);
        for (int db = -48; db < 0; db += width() < 130 ? 24 : 12)
            p.drawText(QRectF(width() * (db + 60) / 60.0 - 12, 22, 24, 9), Qt::AlignCenter, QString::number(db));
    }

private:
    double original_ = -60.0, rebuild_ = -60.0;
};

namespace {

/// Where the sound goes, cut with an ellipsis where the window is narrow.
class DeviceName final : public QWidget {
public:
    DeviceName(const QString& name, QWidget* parent) : QWidget(parent), name_(name) {
        setObjectName("device");
        setToolTip(name + tr(": where the sound goes"));
        setMinimumWidth(40);
        setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Preferred);
    }
    QSize sizeHint() const override { return {static_cast<int>(QFontMetricsF(text_font(8.5)).horizontalAdvance(name_)) + 4, 20}; }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setFont(text_font(8.5));
        p.setPen(theme().faint);
        paint_text(p, rect(), Qt::AlignVCenter, name_);
    }

private:
    QString name_;
};

}  // namespace

ListeningBar::ListeningBar(Session& session, const CommandRegistry& commands, QWidget* parent) : QWidget(parent), session_(session) {
    setFixedHeight(48);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(12, 4, 12, 4);
    row->setSpacing(5);
    play_ = new QPushButton(tr("Play"));
    play_->setCheckable(true);
    play_->setMinimumWidth(58);
    play_->setToolTip(commands.with_keys(tr("Play or stop"), "listen.play"));
    connect(play_, &QPushButton::clicked, &session_, &Session::toggle_play);
    loop_ = new QPushButton(tr("Loop"));
    loop_->setCheckable(true);
    loop_->setToolTip(commands.with_keys(tr("Repeat the marked stretch; drag in the song strip to mark one"), "listen.loop"));
    connect(loop_, &QPushButton::clicked, this,
            [this](bool on) { session_.transport().set_loop(session_.transport().loop_start(), session_.transport().loop_end(), on); });
    place_ = new QLabel("1·1·000");
    place_->setFont(figure_font(11));
    place_->setMinimumWidth(92);
    place_->setToolTip(tr("Bar · beat · tick (960 a quarter)"));
    time_ = new QLabel("0:00.000");
    time_->setFont(figure_font(9));
    time_->setMinimumWidth(72);
    time_->setToolTip(tr("Minutes, seconds, milliseconds in the recording"));
    speed_ = new NumberField(100, 25, 100, 5, " %", 0);
    speed_->setFixedWidth(64);
    speed_->setToolTip(tr("Speed, pitch kept: type it or drag it up and down"));
    connect(speed_, &QDoubleSpinBox::valueChanged, this, [this](double v) { session_.transport().set_speed(v / 100.0); });
    row->addWidget(play_);
    row->addWidget(loop_);
    row->addSpacing(6);
    row->addWidget(place_);
    row->addWidget(time_);
    row->addWidget(speed_);
    row->addSpacing(10);
    sources_ = new QButtonGroup(this);
    const QString tips[] = {
        commands.with_keys(tr("Hear the original, or flip to the rebuild"), "listen.flip"),
        commands.with_keys(tr("Hear the rebuild, or flip to the original"), "listen.flip"),
        commands.with_keys(tr("Hear a loop once in the original, once in the rebuild"), "listen.turns"),
        commands.with_keys(tr("Hear the original in the left ear, the rebuild in the right"), "listen.ears"),
        commands.with_keys(tr("Hear what the original has and the rebuild has not, as far as spectra tell; it comes 43 ms late"), "listen.remainder")};
    for (int s = 0; s < kSources; ++s) {
        QString name = source_name(static_cast<Source>(s));
        name[0] = name[0].toUpper();
        auto* button = new QPushButton(name);
        button->setObjectName(s == 0 ? "original" : s == 1 ? "rebuild" : "mixed");
        button->setCheckable(true);
        button->setProperty("compact", true);
        button->setToolTip(tips[s]);
        sources_->addButton(button, s);
        row->addWidget(button);
    }
    sources_->button(0)->setChecked(true);
    connect(sources_, &QButtonGroup::idClicked, this, [this](int id) { session_.transport().set_source(static_cast<Source>(id)); });
    lens_ = new QPushButton;
    lens_->setObjectName("lens");
    lens_->setCheckable(true);
    lens_->setMinimumWidth(72);
    lens_->setMaximumWidth(124);
    lens_->setProperty("compact", true);
    lens_->setToolTip(commands.with_keys(tr("What part of the sound is let through; clicks and remembered places"), "listen.panel"));
    connect(lens_, &QPushButton::clicked, this, &ListeningBar::toggle_panel);
    click_ = new QPushButton(tr("Click"));
    click_->setObjectName("click");
    click_->setCheckable(true);
    click_->setToolTip(commands.with_keys(tr("Clicks on the beats"), "listen.click"));
    connect(click_, &QPushButton::clicked, this, [this](bool on) {
        Transport::Click click = session_.transport().click();
        click.on = on;
        session_.survey().set_click(click);
    });
    row->addSpacing(6);
    row->addWidget(lens_);
    row->addWidget(click_);
    panel_ = new LensPanel(session_, commands, this);
    match_ = new QCheckBox(tr("Match"));
    match_->setChecked(true);
    match_->setToolTip(tr("Play both at one loudness (ITU-R BS.1770)"));
    connect(match_, &QCheckBox::toggled, &session_.transport(), &Transport::set_loudness_match);
    row->addWidget(match_);
    row->addStretch(1);
    meters_ = new Meters(this);
    row->addWidget(meters_, 4);
    row->addWidget(new DeviceName(QString::fromStdString(session_.transport().output().name()), this));
    connect(&session_, &Session::transport_changed, this, &ListeningBar::follow);
    auto* timer = new QTimer(this);
    timer->setInterval(40);
    connect(timer, &QTimer::timeout, this, &ListeningBar::tick);
    timer->start();
    follow();
}

void ListeningBar::toggle_panel() {
    if (panel_->isVisible()) panel_->hide();
    else panel_->open_above(lens_->mapToGlobal(QPoint(0, -8)));
    follow();
}

void ListeningBar::follow() {
    const Lens& lens = session_.transport().lens();
    lens_->setText(tr("Lens: %1").arg(LensPanel::title(lens)));
    lens_->setChecked(lens.kind != LensKind::Whole);
    click_->setChecked(session_.transport().click().on);
    play_->setChecked(session_.transport().player().playing());
    play_->setText(session_.transport().player().playing() ? tr("Stop") : tr("Play"));
    loop_->setChecked(session_.transport().player().looping());
    loop_->setEnabled(session_.transport().loop_end() > session_.transport().loop_start());
    if (auto* button = sources_->button(static_cast<int>(session_.transport().player().source()))) button->setChecked(true);
    if (!speed_->in_hand()) speed_->setValue(100.0 * session_.transport().player().speed());
    tick();
}

void ListeningBar::tick() {
    const double s = session_.transport().position_s();
    const Remake& r = session_.remake();
    place_->setText(QString::fromStdString(r.song->meter.position(r.song->tempo.nearest_tick(s)).text()));
    time_->setText(time_text(s));
    meters_->feed(session_.transport().player().take_original_peak(), session_.transport().player().take_rebuild_peak());
    // At the end of the song the transport stops by itself.
    if (session_.transport().player().playing() && !session_.transport().player().looping() && session_.has_reference() &&
        s > std::max(r.reference.duration_s, r.song->tempo.seconds(r.end_tick())))
        session_.toggle_play();
}

}  // namespace fw::app

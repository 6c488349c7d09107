// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/command_registry.hpp"
#include "app/desks.hpp"

#include "app/painting.hpp"
#include "app/time_axis.hpp"
#include "check/remedy.hpp"
#include "check/words.hpp"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

namespace fw::app {

namespace {

/// Elements × sections as cells of match, and both waveforms overprinted below.
class MatchView final : public QWidget {
public:
    explicit MatchView(Session& session) : session_(session) {
        setMinimumHeight(210);
        setToolTip(tr("Match by element and section; below, both sources' waveforms overprinted: dark where they agree."));
        still_.follow(*this, session_, {&Session::report_changed, &Session::document_changed, &Session::selection_changed});
        connect(&session_, &Session::transport_changed, this, qOverload<>(&QWidget::update));
    }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        if (!session_.report() || !session_.has_reference()) {
            p.fillRect(rect(), theme().ground);
            paint_empty(p, rect(), tr("Open a recording first: the check compares your rebuild with it, element by element."));
            return;
        }
        still_.paint(p, *this, [this](QPainter& still) { paint_still(still); });
        p.setPen(QPen(theme().text, 1.2));
        const double x = axis().x_at(session_.transport().position_s());
        p.drawLine(QPointF(x, kTop), QPointF(x, height() - 2));
    }

private:
    static constexpr double kNames = 142, kTop = 22;

    double right() const { return width() - 14; }
    TimeAxis axis() const { return TimeAxis::of_song(*session_.remake().song, kNames, right(), session_.remake().reference.duration_s); }

    void paint_still(QPainter& p) const {
        p.fillRect(rect(), theme().ground);
        const Remake& r = session_.remake();
        const TimeAxis axis = this->axis();
        const auto report = session_.report();
        const double wave_height = std::clamp(height() * 0.3, 56.0, 90.0);
        std::vector<const ElementMatch*> parts;  // what the analysis itself decided has no match
        for (const ElementMatch& e : report->elements)
            if (e.kind == "part") parts.push_back(&e);
        const double row = std::min(34.0, (height() - wave_height - kTop - 8) / static_cast<double>(std::max<std::size_t>(1, parts.size())));
        p.setFont(text_font(8.5));
        for (const Section& s : r.song->sections) {
            p.setPen(theme().faint);
            paint_text(p, QRectF(axis.x_of(s.start) + 3, 2, axis.x_of(s.start + s.length) - axis.x_of(s.start) - 4, 18), Qt::AlignVCenter,
                       QString::fromStdString(s.label + " " + s.name));
        }
        for (std::size_t i = 0; i < parts.size(); ++i) {
            const ElementMatch& e = *parts[i];
            const double y = kTop + static_cast<double>(i) * row;
            p.setPen(theme().text);
            p.setFont(text_font(8.5, e.id == session_.selection().element()));
            paint_text(p, QRectF(12, y, kNames - 60, row), Qt::AlignVCenter, QString::fromStdString(e.name));
            p.setFont(figure_font(8.5));
            p.drawText(QRectF(kNames - 48, y, 42, row), Qt::AlignVCenter | Qt::AlignRight, e.match.notes ? percent_text(*e.match.notes) : QString("–"));
            for_each_bar(r, 0, r.end_tick(), [&](int bar, Ticks a, Ticks b) {
                if (static_cast<std::size_t>(bar) > e.bars.size()) return;
                const auto m = e.bars[static_cast<std::size_t>(bar - 1)];
                const double x0 = axis.x_of(a), x1 = axis.x_of(b);
                if (!m) p.fillRect(QRectF(x0, y + row / 2, x1 - x0 - 1, 1), theme().hairline);
                else p.fillRect(QRectF(x0, y + 2, x1 - x0 - 1, row - 4), match_color(m));
            });
        }
        const QRectF wave(kNames, height() - wave_height - 2, right() - kNames, wave_height);
        p.setPen(theme().faint);
        p.setFont(text_font(8.5));
        p.drawText(QRectF(12, wave.top(), kNames - 18, wave_height), Qt::AlignVCenter | Qt::TextWordWrap,
                   session_.rebuild_is_current() ? tr("both sources") : tr("rebuild is being rendered…"));
        const double gain = std::pow(10.0, std::clamp(report->match_gain_db, -24.0, 24.0) / 20.0);
        p.setCompositionMode(theme().overprint);
        paint_waveform(p, wave, session_.recording().peaks, 0, r.reference.duration_s, with_alpha(theme().original, 170));
        paint_waveform(p, wave, session_.rebuild_peaks(), 0, r.reference.duration_s, with_alpha(theme().rebuild, 170), static_cast<float>(gain));
        p.setCompositionMode(QPainter::CompositionMode_SourceOver);
    }

    Session& session_;
    StillPicture still_;
};

}  // namespace

CheckDesk::CheckDesk(Session& session, const CommandRegistry& commands, QWidget* parent) : QWidget(parent), session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    auto* head = new QHBoxLayout;
    head->setContentsMargins(12, 6, 12, 6);
    summary_ = new QLabel;
    summary_->setObjectName("summary");
    summary_->setWordWrap(true);
    head->addWidget(summary_, 1);
    remedy_ = new QPushButton(tr("Apply remedy"));
    remedy_->setObjectName("remedy");
    remedy_->setToolTip(commands.with_keys(tr("Do what the selected finding suggests; undo takes it back"), "check.remedy"));
    remedy_->setEnabled(false);
    connect(remedy_, &QPushButton::clicked, this, &CheckDesk::apply_remedy);
    head->addWidget(remedy_);
    column->addLayout(head);
    waves_ = new MatchView(session);
    column->addWidget(waves_, 5);
    auto* lower = new QHBoxLayout;
    lower->setSpacing(0);
    findings_ = new QTableWidget(0, 3);
    findings_->setObjectName("findings");
    findings_->setHorizontalHeaderLabels({tr("Place"), tr("Finding"), tr("Sure")});
    findings_->verticalHeader()->setVisible(false);
    // A finding is read whole: what does not fit on a line goes on in the next.
    findings_->setWordWrap(true);
    findings_->setTextElideMode(Qt::ElideNone);
    findings_->verticalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
    findings_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    findings_->horizontalHeader()->setSectionResizeMode(1, QHeaderView::Stretch);
    findings_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    findings_->setColumnWidth(0, 112);
    findings_->setColumnWidth(2, 52);
    findings_->setSelectionBehavior(QAbstractItemView::SelectRows);
    findings_->setSelectionMode(QAbstractItemView::SingleSelection);
    findings_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    findings_->setShowGrid(false);
    findings_->setToolTip(tr("Surest first. A click goes there and hears it; take turns to hear both. What is less than 50 % sure is counted and not listed."));
    connect(findings_, &QTableWidget::cellClicked, this, [this](int row, int) { hear(row); });
    connect(findings_, &QTableWidget::itemSelectionChanged, this, [this] { remedy_->setEnabled(!findings_->selectedItems().isEmpty()); });
    lower->addWidget(findings_, 3);
    auto* tone = new ToneView(session);
    tone->setMaximumWidth(420);
    tone->setMinimumWidth(210);
    lower->addWidget(tone, 2);
    column->addLayout(lower, 4);
    connect(&session_, &Session::report_changed, this, &CheckDesk::follow);
    follow();
}

void CheckDesk::follow() {
    const auto report = session_.report();
    // The list is filled anew after every edit; what was selected stays selected where it is still there.
    const QString chosen = findings_->currentRow() >= 0 && findings_->item(findings_->currentRow(), 0)
                               ? findings_->item(findings_->currentRow(), 0)->data(Qt::UserRole).toString()
                               : QString();
    findings_->setRowCount(0);
    if (!report) {
        listed_.clear();
        summary_->setText(QString());
        return;
    }
    const auto figure = [](const std::optional<double>& v) { return v ? percent_text(*v) : tr("none"); };
    listed_.clear();
    std::copy_if(report->findings.begin(), report->findings.end(), std::back_inserter(listed_), [](const Finding& f) { return f.listed(); });
    const std::size_t perhaps = report->findings.size() - listed_.size();
    QString text =
        report->match.notes
            ? tr("<b>Notes %1</b>, <b>sound %2</b>, known %3").arg(figure(report->match.notes), figure(report->match.sound), figure(report->match.known))
            : tr("<b>Nothing is built yet</b>: there are no notes to compare");
    text += tr(". %1 finding%2").arg(listed_.size()).arg(listed_.size() == 1 ? "" : "s");
    if (perhaps > 0) text += tr(", and perhaps %1 more").arg(perhaps);
    if (session_.rebuild_is_current())
        text += tr(". Loudness: original %1 LUFS, rebuild %2 LUFS").arg(report->original_lufs, 0, 'f', 1).arg(report->rebuild_lufs, 0, 'f', 1);
    summary_->setText(text);
    // The worst few hundred are plenty to work through; the figures above count all.
    const int rows = static_cast<int>(std::min<std::size_t>(300, listed_.size()));
    findings_->setRowCount(rows);
    for (int i = 0; i < rows; ++i) {
        const Finding& f = listed_[static_cast<std::size_t>(i)];
        const auto cell = [&](int column, const QString& t) {
            auto* item = new QTableWidgetItem(t);
            item->setTextAlignment(Qt::AlignLeft | Qt::AlignTop);
            item->setToolTip(tr("%1 Remedy: %2.").arg(of_core(finding_sentence(f)), of_core(remedy_words(f))));
            findings_->setItem(i, column, item);
        };
        cell(0, (f.place.empty() ? QString(tr("whole song")) : QString::fromStdString(f.place)) + "\n" + QString::fromStdString(f.name));
        QString what = of_core(finding_message(f));
        if (!what.isEmpty()) what[0] = what[0].toUpper();
        cell(1, what);
        cell(2, QString("%1 %").arg(std::lround(f.confidence * 100)));
        const QString identity = QString("%1 %2").arg(f.start_s).arg(what);
        findings_->item(i, 0)->setData(Qt::UserRole, identity);
        if (identity == chosen) findings_->setCurrentCell(i, 0);
    }
}

void CheckDesk::hear(int row) {
    if (row < 0 || row >= static_cast<int>(listed_.size())) return;
    const Finding& f = listed_[static_cast<std::size_t>(row)];
    if (f.element) session_.selection().select_element(*f.element);
    // A beat of run-up and a beat after: a note is judged in its phrase.
    const double beat = 60.0 / session_.remake().song->tempo.bpm_at(session_.remake().song->tempo.nearest_tick(f.start_s));
    const bool whole = f.kind == FindingKind::Tone || f.kind == FindingKind::Level || f.kind == FindingKind::Transposed || f.kind == FindingKind::Shifted;
    const double end = whole ? f.start_s + 8 * beat : std::min(f.end_s, f.start_s + 4 * beat) + beat;
    session_.transport().set_loop(std::max(0.0, f.start_s - beat), end);
    session_.transport().seek(session_.transport().loop_start());
    if (!session_.transport().player().playing()) session_.toggle_play();
}

void CheckDesk::apply_remedy() {
    const auto report = session_.report();
    const int row = findings_->currentRow();
    if (row < 0 || row >= static_cast<int>(listed_.size())) {
        emit session_.failed(report ? tr("Select a finding on the Check desk first: its remedy is then applied.")
                                    : tr("There is nothing to check yet: open a recording or a remake first."));
        return;
    }
    const Finding f = listed_[static_cast<std::size_t>(row)];
    if (const auto line = remedy_line(session_.remake(), f)) session_.documents().run(*line);
    else emit session_.failed(tr("This one is for your ears: %1.").arg(of_core(remedy_words(f))));
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/ledger.hpp"

#include "base/guard.hpp"
#include "formats/midi_file.hpp"
#include "model/edits/parts.hpp"

#include "app/survey.hpp"

#include <QApplication>
#include <QDrag>
#include <QHelpEvent>
#include <QMimeData>
#include <QMouseEvent>
#include <QPainter>
#include <QRegularExpression>
#include <QSettings>
#include <QToolTip>
#include <QUrl>
#include <algorithm>
#include <cmath>
#include <utility>

namespace fw::app {

namespace {
constexpr int kRow = 46, kHead = 28, kFamily = 22;

/// What an element belongs to, in the order families stand.
int family_of(const Remake& r, ElementId id) {
    if (id.kind() == ElementId::Kind::Own) return 6;
    const Part* part = id.part() ? r.part(id.part()) : nullptr;
    if (!part) return 0;
    switch (part->role) {
        case PartRole::Drums: return 1;
        case PartRole::Bass: return 2;
        case PartRole::Chords: return 3;
        case PartRole::Lead: return 4;
        case PartRole::Other: break;
    }
    return 5;
}

/// Mean match over the bars of each section, for the small bars under a name.
std::vector<std::optional<double>> by_section(const Remake& r, const ElementMatch& m) {
    std::vector<std::optional<double>> out;
    for (const Section& s : r.song->sections) {
        double sum = 0.0;
        int count = 0;
        for (int bar = r.song->meter.position(s.start).bar; bar <= r.song->meter.position(s.start + s.length - 1).bar; ++bar)
            if (bar >= 1 && static_cast<std::size_t>(bar) <= m.bars.size() && m.bars[static_cast<std::size_t>(bar - 1)])
                sum += *m.bars[static_cast<std::size_t>(bar - 1)], ++count;
        out.push_back(count ? std::optional(sum / count) : std::nullopt);
    }
    return out;
}
}  // namespace

Ledger::Ledger(Session& session, QWidget* parent) : QWidget(parent), session_(session) {
    by_family_ = QSettings().value("elements_by_family", false).toBool();
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName(tr("Ledger"));
    still_.follow(*this, session_, {&Session::document_changed, &Session::report_changed, &Session::selection_changed}, StillPicture::When::AFrameLater);
    connect(&session_, &Session::document_changed, this, &Ledger::fit);
    connect(&session_, &Session::selection_changed, this, [this] {
        const auto ids = shown();
        const auto at = std::find(ids.begin(), ids.end(), session_.selection().element());
        if (at != ids.end()) emit wanted(row_rect(static_cast<int>(at - ids.begin())));
    });
    connect(&session_, &Session::transport_changed, this, [this] {
        if (hears_share_of(session_.selection().element()) != std::exchange(share_, hears_share_of(session_.selection().element()))) still_.renew(*this);
    });
}

std::vector<ElementId> Ledger::shown() const {
    auto ids = session_.remake().element_ids();
    if (by_family_)
        std::stable_sort(ids.begin(), ids.end(),
                         [this](ElementId a, ElementId b) { return family_of(session_.remake(), a) < family_of(session_.remake(), b); });
    return ids;
}

Ledger::Lines Ledger::lines() const {
    const QString names[] = {tr("The song"), tr("Drums"), tr("Basses"), tr("Chord parts"), tr("Leads and voices"), tr("Other parts"), tr("Rows of your own")};
    Lines out;
    int y = kHead, family = -1;
    for (const ElementId id : shown()) {
        if (by_family_ && std::exchange(family, family_of(session_.remake(), id)) != family_of(session_.remake(), id)) {
            out.headings.emplace_back(y, names[family]);
            y += kFamily;
        }
        out.rows.push_back(y);
        y += kRow;
    }
    out.end = y;
    return out;
}

void Ledger::fit() { setMinimumHeight(lines().end); }

void Ledger::set_by_family(bool on) {
    by_family_ = on;
    QSettings().setValue("elements_by_family", on);
    fit();
    still_.renew(*this);
}

QRect Ledger::row_rect(int row) const {
    const auto all = lines().rows;
    return row >= 0 && row < static_cast<int>(all.size()) ? QRect(0, all[static_cast<std::size_t>(row)], width(), kRow) : QRect();
}
QRect Ledger::state_rect(int row) const { return {8, row_rect(row).top() + 8, 20, 20}; }
QRect Ledger::share_rect(int row) const { return {width() - 128, row_rect(row).top() + 24, 40, 17}; }
QRect Ledger::solo_rect(int row) const { return {width() - 84, row_rect(row).top() + 24, 36, 17}; }
QRect Ledger::mute_rect(int row) const { return {width() - 44, row_rect(row).top() + 24, 38, 17}; }

int Ledger::row_at(const QPoint& p) const {
    const auto all = lines().rows;
    const auto row = std::find_if(all.begin(), all.end(), [&](int y) { return p.y() >= y && p.y() < y + kRow; });
    return row == all.end() ? -1 : static_cast<int>(row - all.begin());
}

void Ledger::paintEvent(QPaintEvent*) {
    QPainter p(this);
    still_.paint(p, *this, [this](QPainter& still) { paint_still(still); });
}

void Ledger::paint_still(QPainter& p) const {
    p.fillRect(rect(), theme().ground);
    p.setPen(theme().hairline);
    p.drawLine(width() - 1, 0, width() - 1, height());
    const Remake& r = session_.remake();
    p.setFont(text_font(8.5));
    p.setPen(theme().faint);
    p.drawText(QRect(12, 0, width() - 20, kHead), Qt::AlignVCenter, by_family_ ? tr("Elements by family") : tr("Elements in working order"));
    p.drawText(QRect(12, 0, width() - 20, kHead), Qt::AlignVCenter | Qt::AlignRight, "match");
    if (!session_.has_reference()) return;
    const auto report = session_.report();
    const auto ids = shown();
    for (const auto& [y, name] : lines().headings) {
        p.setFont(text_font(8.5, true));
        p.setPen(theme().faint);
        p.drawText(QRect(12, y, width() - 20, kFamily - 2), Qt::AlignBottom, name);
    }
    for (int row = 0; row < static_cast<int>(ids.size()); ++row) {
        const ElementId id = ids[static_cast<std::size_t>(row)];
        const QRect area = row_rect(row);
        const bool selected = session_.selection().element() == id;
        if (selected) {
            p.fillRect(area.adjusted(0, 0, -1, 0), theme().raised);
            p.fillRect(QRect(0, area.top(), 3, area.height()), theme().selection);
        }
        p.setPen(theme().hairline);
        p.drawLine(12, area.bottom(), width() - 12, area.bottom());
        const ElementState state = r.element(id);
        paint_state(p, state_rect(row), state);
        p.setPen(theme().text);
        p.setFont(text_font(9.5, selected));
        QString name = QString::fromStdString(r.element_name(id));
        if (!state.question.empty()) name += "  ?";
        if (!state.intended.empty()) name += "  ≈";
        if (session_.documents().time_is_up(id)) name += tr("  over time");
        paint_text(p, QRectF(34, area.top() + 6, width() - 34 - 88, 20), Qt::AlignVCenter, name);
        if (report) {
            const auto m = std::find_if(report->elements.begin(), report->elements.end(), [&](const ElementMatch& e) { return e.id == id; });
            if (m != report->elements.end()) {
                p.setFont(figure_font(9));
                // What the analysis decided has no match, it has a sureness: faint, and with a word.
                p.setPen(m->match.notes ? theme().text : theme().faint);
                const QString figure = m->match.notes                 ? percent_text(*m->match.notes)
                                       : !id.part() && m->match.known ? tr("%1 sure").arg(percent_text(*m->match.known))
                                                                      : tr("not built");
                p.drawText(QRectF(width() - 90, area.top() + 6, 82, 20), Qt::AlignVCenter | Qt::AlignRight, figure);
                const auto bars = by_section(r, *m);
                const bool part = static_cast<bool>(id.part());
                const double wide = (part ? width() - 34 - 136 : width() - 34 - 12), step = std::min(16.0, wide / std::max<std::size_t>(1, bars.size()));
                for (std::size_t i = 0; id.part() && i < bars.size(); ++i) {
                    const double h = bars[i] ? std::max(1.0, 12.0 * *bars[i]) : 1.0;
                    p.fillRect(QRectF(34 + static_cast<double>(i) * step, area.top() + 40 - h, step - 2, h), match_color(bars[i]));
                }
            }
        }
        if (id.part()) {
            const Part* part = r.part(id.part());
            const auto button = [&](const QRect& b, const QString& text, bool on) {
                p.setPen(on ? theme().text : theme().hairline);
                p.setBrush(on ? QBrush(theme().text) : QBrush(Qt::NoBrush));
                p.drawRoundedRect(QRectF(b).adjusted(0.5, 0.5, -0.5, -0.5), 2, 2);
                p.setPen(on ? theme().ground : theme().faint);
                p.setFont(text_font(8));
                p.drawText(b, Qt::AlignCenter, text);
            };
            if (part) {
                button(share_rect(row), tr("share"), hears_share_of(id));
                button(solo_rect(row), "solo", part->solo);
                button(mute_rect(row), "mute", part->mute);
            }
        }
    }
}

bool Ledger::hears_share_of(ElementId id) const { return session_.transport().lens().kind == LensKind::Element && session_.selection().element() == id; }

void Ledger::toggle_confirmed(int row) {
    const auto ids = shown();
    if (row < 0 || row >= static_cast<int>(ids.size())) return;
    const ElementId id = ids[static_cast<std::size_t>(row)];
    session_.toggle_confirmed(id);
}

void Ledger::mousePressEvent(QMouseEvent* e) {
    if (e->pos().y() < kHead) return set_by_family(!by_family_);
    const int row = row_at(e->pos());
    if (row < 0 || !session_.has_reference()) return;
    const Remake& r = session_.remake();
    const ElementId id = shown()[static_cast<std::size_t>(row)];
    if (id.part() && (solo_rect(row).contains(e->pos()) || mute_rect(row).contains(e->pos()))) {
        const bool solo = solo_rect(row).contains(e->pos());
        const Part& part = *r.part(id.part());
        const bool on = solo ? part.solo : part.mute;
        session_.documents().run(Line(solo ? "part.solo" : "part.mute").with("part", part_text(r, part.id)).with("on", on ? "off" : "on"));
        return;
    }
    if (id.part() && share_rect(row).contains(e->pos())) {
        Lens lens;
        if (!hears_share_of(id)) lens.kind = LensKind::Element;
        session_.selection().select_element(id);
        session_.survey().set_lens(lens);
        return;
    }
    session_.selection().select_element(id);
    if (state_rect(row).contains(e->pos())) toggle_confirmed(row);
    else if (id.part() && e->button() == Qt::LeftButton) pressed_ = e->pos();
}

void Ledger::mouseMoveEvent(QMouseEvent* e) {
    if (!pressed_ || !(e->buttons() & Qt::LeftButton) || (e->pos() - *pressed_).manhattanLength() < QApplication::startDragDistance()) return;
    pressed_.reset();
    const Part* part = session_.selection().part();
    if (!part) return;
    // A file of the part as it is now, which lives as long as the program: whoever it is dropped on may read it late.
    if (!dragged_) dragged_ = std::make_unique<QTemporaryDir>();
    QString name = QString::fromStdString(part->name);
    name.replace(QRegularExpression("[^\\w -]"), "_");
    const QString path = dragged_->filePath(name + ".mid");
    const auto done = guarded("writing " + path.toStdString(), [&] { return write_midi(path.toStdString(), only_part(session_.remake(), part->id)); });
    if (!done) {
        emit session_.failed(of_core(done.error().message()));
        return;
    }
    auto* file = new QMimeData;
    file->setUrls({QUrl::fromLocalFile(path)});
    last_dragged_ = path;
    auto* drag = new QDrag(this);
    drag->setMimeData(file);
    drag->exec(Qt::CopyAction);
}

void Ledger::mouseReleaseEvent(QMouseEvent*) { pressed_.reset(); }

void Ledger::keyPressEvent(QKeyEvent* e) {
    const auto ids = shown();
    const auto at = static_cast<int>(std::find(ids.begin(), ids.end(), session_.selection().element()) - ids.begin());
    if (e->key() == Qt::Key_Down && at + 1 < static_cast<int>(ids.size())) session_.selection().select_element(ids[static_cast<std::size_t>(at + 1)]);
    else if (e->key() == Qt::Key_Up && at > 0) session_.selection().select_element(ids[static_cast<std::size_t>(at - 1)]);
    else if (e->key() == Qt::Key_Return) toggle_confirmed(at);
    else QWidget::keyPressEvent(e);
}

bool Ledger::event(QEvent* e) {
    if (e->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(e);
        const int row = row_at(help->pos());
        QString text = tr("Elements to get right. Return confirms the selected one. A click here puts them in working order, or by family.");
        if (row >= 0) {
            const ElementId id = shown()[static_cast<std::size_t>(row)];
            const ElementState s = session_.remake().element(id);
            text = QString::fromStdString(session_.remake().element_name(id)) + ": " + state_name(s.state) + tr(". Click the mark to confirm it.");
            if (id.part() && share_rect(row).contains(help->pos()))
                text = tr("Hear what of the original is this part's, by the evidence (lens: this element, 0).");
            if (solo_rect(row).contains(help->pos())) text = tr("Hear only this part of the rebuild.");
            if (mute_rect(row).contains(help->pos())) text = tr("Leave this part out of the rebuild's sound.");
            if (const auto report = session_.report())
                for (const ElementMatch& m : report->elements)
                    if (m.id == id && help->pos().x() > width() - 90 && !mute_rect(row).contains(help->pos()))
                        text = (m.match.notes ? tr("Notes: ") : QString()) + of_core(m.measures) + ".";
            if (session_.documents().time_is_up(id)) text += tr("\nIts %1 min are used up: is it close enough?").arg(s.budget_min);
            if (!s.question.empty()) text += "\n? " + QString::fromStdString(s.question);
            if (!s.intended.empty()) text += "\n≈ " + QString::fromStdString(s.intended);
        }
        QToolTip::showText(help->globalPos(), text, this);
        return true;
    }
    return QWidget::event(e);
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/check_desk.hpp"

#include "app/calm_combo.hpp"
#include "app/command_registry.hpp"
#include "app/desks.hpp"
#include "app/painting.hpp"
#include "check/remedy.hpp"
#include "check/share.hpp"
#include "check/words.hpp"
#include "commands/call.hpp"

#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <array>
#include <cmath>

namespace fw::app {

namespace {

constexpr std::array kCauses{"pitch", "time", "missing", "extra", "part", "chord", "sound"};

QString capital(QString text) {
    if (!text.isEmpty()) text[0] = text[0].toUpper();
    return text;
}

}  // namespace

CheckDesk::CheckDesk(Session& session, const CommandRegistry& commands, QWidget* parent) : QWidget(parent), session_(session) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(0);
    summary_ = new QLabel;
    summary_->setObjectName("summary");
    summary_->setWordWrap(true);
    summary_->setContentsMargins(12, 6, 12, 4);
    column->addWidget(summary_);
    column->addWidget(table_ = new MatchTable(session));

    auto* tools = new QHBoxLayout;
    tools->setContentsMargins(12, 4, 12, 2);
    what_ = new CalmCombo;
    what_->setObjectName("what");
    what_->addItems({tr("Spectrum"), tr("Pitches and notes"), tr("Strokes and hits"), tr("What is left")});
    what_->setToolTip(
        tr("What is printed over each other: the spectra of both; what was heard and what is written; or what of the original the rebuild has not"));
    tools->addWidget(what_);
    auto* legend = new QLabel;
    legend->setObjectName("legend");
    const auto name_inks = [legend] {
        legend->setText(tr("<span style='color:%1'>■</span> original &nbsp; <span style='color:%2'>▨</span> rebuild &nbsp; both: dark")
                            .arg(theme().original.name(), theme().rebuild.name()));
    };
    name_inks();
    connect(&theme_teller(), &ThemeTeller::changed, legend, name_inks);
    tools->addSpacing(8);
    tools->addWidget(legend);
    tools->addStretch(1);
    counts_ = new QLabel;
    counts_->setObjectName("counts");
    tools->addWidget(counts_);
    tools->addSpacing(8);
    auto* whole = new QPushButton(tr("Whole song"));
    whole->setToolTip(tr("Show all of it, with all findings"));
    connect(whole, &QPushButton::clicked, this, [this] { table_->choose({}); });
    tools->addWidget(whole);
    column->addLayout(tools);
    column->addWidget(overprint_ = new OverprintView(session), 5);

    auto* filters = new QHBoxLayout;
    filters->setContentsMargins(12, 4, 12, 4);
    filters->setSpacing(6);
    const auto combo = [&](const char* name, const QString& tip) {
        auto* c = new CalmCombo;
        c->setObjectName(name);
        c->setToolTip(tip);
        filters->addWidget(c);
        return c;
    };
    list_ = combo("list", tr("What is listed: differences found, what of the original is left, or what to do next"));
    list_->addItems({tr("Findings"), tr("What is left"), tr("What next")});
    element_ = combo("element-filter", tr("Only findings of one element"));
    cause_ = combo("cause-filter", tr("Only findings of one cause"));
    cause_->addItem(tr("All causes"));
    for (const char* c : kCauses) cause_->addItem(capital(of_core(c)));
    filters->addStretch(1);
    const auto button = [&](const char* name, const QString& text, const char* command, const QString& tip, auto does) {
        auto* b = new QPushButton(text);
        b->setObjectName(name);
        b->setToolTip(commands.with_keys(tip, command));
        connect(b, &QPushButton::clicked, this, does);
        filters->addWidget(b);
        return b;
    };
    hear_ = button("hear", tr("Hear"), "check.hear", tr("Loop this place: with take turns once in the original and once in the rebuild"), &CheckDesk::hear);
    remedy_ = button("remedy", tr("Remedy"), "check.remedy", tr("Do what the chosen finding suggests; undo takes it back"), &CheckDesk::apply_remedy);
    intended_ = button("intended", tr("Intended"), "check.intended", tr("The difference is meant: it is not reported again; undo takes it back"),
                       &CheckDesk::mark_intended);
    question_ = button("question", tr("Question"), "check.question", tr("Leave a question at this place, for later"), &CheckDesk::ask);
    column->addLayout(filters);

    auto* lower = new QHBoxLayout;
    lower->setSpacing(0);
    lines_ = new QTableWidget(0, 3);
    lines_->setObjectName("findings");
    lines_->setHorizontalHeaderLabels({tr("Place"), tr("Finding"), tr("Sure")});
    lines_->verticalHeader()->setVisible(false);
    // A finding is read whole: what does not fit on a line goes on in the next.
    lines_->setWordWrap(true);
    lines_->setTextElideMode(Qt::ElideNone);
    // Heights are worked out for rows that are new, and for all where the width is another: three hundred of them take longer than a frame.
    lines_->verticalHeader()->setSectionResizeMode(QHeaderView::Fixed);
    connect(lines_->horizontalHeader(), &QHeaderView::sectionResized, this, [this](int resized, int, int) {
        if (resized == 1) lines_->resizeRowsToContents();
    });
    lines_->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
    lines_->horizontalHeader()->setSectionResizeMode(1, QHeaderView::Stretch);
    lines_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    lines_->setColumnWidth(0, 112);
    lines_->setColumnWidth(2, 52);
    lines_->setSelectionBehavior(QAbstractItemView::SelectRows);
    lines_->setSelectionMode(QAbstractItemView::SingleSelection);
    lines_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    lines_->setShowGrid(false);
    lines_->setToolTip(tr("Worst first: how sure by how audible. A click goes there and hears it. What is less than 50 % sure is counted and not listed."));
    connect(lines_, &QTableWidget::cellClicked, this, [this](int row, int) { choose_line(row), hear(); });
    connect(lines_, &QTableWidget::currentCellChanged, this, [this](int row, int, int, int) { choose_line(row); });
    lower->addWidget(lines_, 3);
    auto* tone = new ToneView(session);
    tone->setMaximumWidth(420);
    tone->setMinimumWidth(210);
    lower->addWidget(tone, 2);
    column->addLayout(lower, 4);

    connect(what_, &QComboBox::currentIndexChanged, this, [this](int i) { overprint_->show_what(static_cast<OverprintView::What>(i)); });
    connect(list_, &QComboBox::currentIndexChanged, this, &CheckDesk::fill);
    connect(element_, &QComboBox::currentIndexChanged, this, &CheckDesk::fill);
    connect(cause_, &QComboBox::currentIndexChanged, this, &CheckDesk::fill);
    connect(table_, &MatchTable::chosen, this, [this] {
        const auto [from, to] = table_->span(table_->place());
        // A bar is seen with what is around it.
        const double around = table_->place().bar > 0 ? to - from : 0.0;
        overprint_->show_span(from - around, to + around);
        fill();
    });
    connect(overprint_, &OverprintView::mark_chosen, this, [this](int i) { lines_->setCurrentCell(i, 0), hear(); });
    connect(&session_, &Session::report_changed, this, [this] {
        stale_ = true;
        if (isVisible()) bring_up_to_date();
    });
    follow();
}

void CheckDesk::showEvent(QShowEvent* e) {
    QWidget::showEvent(e);
    bring_up_to_date();
}

void CheckDesk::bring_up_to_date() {
    if (std::exchange(stale_, false)) follow();
}

void CheckDesk::show_list(List list) { list_->setCurrentIndex(static_cast<int>(list)); }

void CheckDesk::follow() {
    const auto report = session_.report();
    fill_filters();
    fill();
    if (!report) {
        summary_->setText(QString());
        return;
    }
    const auto figure = [](const std::optional<double>& v) { return v ? percent_text(*v) : tr("none"); };
    QString text =
        report->match.notes
            ? tr("<b>Notes %1</b>, <b>sound %2</b>, known %3").arg(figure(report->match.notes), figure(report->match.sound), figure(report->match.known))
            : tr("<b>Nothing is built yet</b>: there are no notes to compare");
    const SoundReport& s = report->sound;
    if (session_.rebuild_is_current())
        text += tr(". Loudness: original %1 LUFS, rebuild %2 LUFS; true peak %3 and %4 dB")
                    .arg(s.original_lufs, 0, 'f', 1)
                    .arg(s.rebuild_lufs, 0, 'f', 1)
                    .arg(s.original_peak_db, 0, 'f', 1)
                    .arg(s.rebuild_peak_db, 0, 'f', 1);
    QString past;
    for (const auto& then : session_.history())
        if (then.match.notes) past += tr("%1: notes %2, sound %3\n").arg(then.at.toString("HH:mm"), figure(then.match.notes), figure(then.match.sound));
    if (!session_.history().empty()) {
        const Match& then = session_.history().front().match;
        if (figure(then.notes) != figure(report->match.notes) || figure(then.sound) != figure(report->match.sound))
            text += tr(". At %1 it was notes %2, sound %3").arg(session_.history().front().at.toString("HH:mm"), figure(then.notes), figure(then.sound));
    }
    summary_->setText(text);
    summary_->setToolTip(
        tr("Notes: how much of what is written is heard there, and of what is surely heard is written; 0 %% is chance. Sound: how near level, tone and "
           "width are. Known: how much the evidence is clear about.")
            .replace("%%", "%") +
        (past.isEmpty() ? QString() : "\n\n" + past.trimmed()));
}

void CheckDesk::fill_filters() {
    const auto report = session_.report();
    const QString was = element_->currentText();
    const QSignalBlocker quiet(element_);
    element_->clear();
    element_->addItem(tr("All elements"));
    std::vector<std::string> names;
    if (report)
        for (const Finding& f : report->findings)
            if (f.listed() && std::find(names.begin(), names.end(), f.name) == names.end()) names.push_back(f.name);
    std::sort(names.begin(), names.end());
    for (const std::string& n : names) element_->addItem(QString::fromStdString(n));
    element_->setCurrentIndex(std::max(0, element_->findText(was)));
}

bool CheckDesk::passes(const Finding& f) const {
    if (element_->currentIndex() > 0 && element_->currentText() != QString::fromStdString(f.name)) return false;
    if (cause_->currentIndex() > 0 && kCauses[static_cast<std::size_t>(cause_->currentIndex() - 1)] != std::string(finding_cause_name(f.kind))) return false;
    const MatchPlace& place = table_->place();
    if (place.sound && !is_of_sound(f)) return false;
    if (place.element && f.element != place.element) return false;
    if (place.section < 0 && place.bar == 0) return true;
    const auto [from, to] = table_->span(place);
    // What concerns the whole is found everywhere.
    return is_of_whole_part(f) || f.place.empty() || (f.start_s >= from - 0.02 && f.start_s < to - 0.02);
}

std::vector<CheckDesk::LineOf> CheckDesk::all_lines() const {
    std::vector<LineOf> out;
    const auto report = session_.report();
    if (!report) return out;
    const auto bar_at = [&](double s) { return tr("bar %1").arg(session_.remake().song->meter.position(session_.remake().song->tempo.nearest_tick(s)).bar); };
    switch (static_cast<List>(list_->currentIndex())) {
        case List::Findings:
            for (const Finding& f : report->findings) {
                if (!f.listed() || !passes(f)) continue;
                LineOf line;
                line.finding = f;
                line.place = (f.place.empty() ? QString(tr("whole song")) : QString::fromStdString(f.place)) + "\n" + QString::fromStdString(f.name);
                line.words = capital(of_core(finding_message(f)));
                line.sure = QString("%1 %").arg(std::lround(f.confidence * 100));
                line.tip = tr("%1 Remedy: %2.").arg(of_core(finding_sentence(f)), of_core(remedy_words(f)));
                out.push_back(std::move(line));
            }
            break;
        case List::Left:
            if (const auto left = session_.left()) {
                const auto add = [&](const LeftMoment& m, bool faint) {
                    const auto& song = *session_.remake().song;
                    LineOf line;
                    line.left = m;
                    line.place = m.bars > 1 ? tr("bars %1 to %2").arg(m.bar).arg(m.bar + m.bars - 1) : tr("bar %1").arg(m.bar);
                    line.words = of_core(left_words(m, song.flats_at(song.meter.tick_of_bar(m.bar))));
                    line.words = (faint ? tr("Faint, all through: ") : QString()) + line.words.section(", ", 1);
                    line.tip = tr("Hear it with the source \"remainder\": what the original has and the rebuild has not.");
                    out.push_back(std::move(line));
                };
                for (const LeftMoment& m : left->moments) add(m, false);
                for (const LeftMoment& m : left->faint) add(m, true);
            }
            break;
        case List::Next:
            for (const NextStep& n : what_next(session_.remake(), *report, session_.left().get())) {
                LineOf line;
                line.next = n;
                line.place = bar_at(n.from_s);
                line.words = of_core(n.words);
                line.tip = tr("Ranked by how much of what is heard is at stake.");
                out.push_back(std::move(line));
            }
    }
    return out;
}

void CheckDesk::fill() {
    // The list is filled anew after every edit; what was chosen stays chosen where it is still there, else what follows it.
    const int row = lines_->currentRow();
    const QString chosen = row >= 0 && row < static_cast<int>(shown_.size())
                               ? shown_[static_cast<std::size_t>(row)].place + shown_[static_cast<std::size_t>(row)].words
                               : QString();
    const auto before = std::exchange(shown_, all_lines());
    const auto report = session_.report();
    const bool findings = list_->currentIndex() == 0;
    for (QComboBox* c : {element_, cause_}) c->setVisible(findings);
    const QSignalBlocker quiet(lines_);
    // The worst few hundred are plenty to work through; the figures above count all.
    const int rows = static_cast<int>(std::min<std::size_t>(300, shown_.size()));
    lines_->horizontalHeaderItem(1)->setText(findings ? tr("Finding") : list_->currentText());
    lines_->setColumnHidden(2, !findings);
    const int kept = before.empty() ? 0 : std::min(rows, lines_->rowCount());
    if (kept == 0) lines_->setRowCount(0);
    lines_->setRowCount(rows);
    if (rows == 0 && report) {
        // An empty list says so, and what to do.
        lines_->setRowCount(1);
        auto* nothing = new QTableWidgetItem(findings ? tr("Nothing is found here. Choose another place or filter to see more.") : counts_text());
        nothing->setFlags(Qt::NoItemFlags);
        lines_->setItem(0, 1, nothing);
        lines_->resizeRowToContents(0);
    }
    int select = -1;
    for (int i = 0; i < rows; ++i) {
        const LineOf& line = shown_[static_cast<std::size_t>(i)];
        if (line.place + line.words == chosen) select = i;
        if (i < kept && before[static_cast<std::size_t>(i)].reads_like(line)) continue;
        const QString texts[] = {line.place, line.words, line.sure};
        for (int c = 0; c < 3; ++c) {
            auto* item = new QTableWidgetItem(texts[c]);
            item->setTextAlignment(Qt::AlignLeft | Qt::AlignTop);
            item->setToolTip(line.tip);
            lines_->setItem(i, c, item);
        }
        lines_->resizeRowToContents(i);
    }
    lines_->setCurrentCell(select, select < 0 ? -1 : 0);
    counts_->setText(counts_text());
    choose_line(lines_->currentRow());
}

QString CheckDesk::counts_text() const {
    const auto report = session_.report();
    if (!report) return {};
    if (list_->currentIndex() != 0) {
        if (shown_.empty()) return session_.rebuild_is_current() ? tr("nothing") : tr("the rebuild is being rendered…");
        return tr("%1 place%2").arg(shown_.size()).arg(shown_.size() == 1 ? "" : "s");
    }
    std::size_t perhaps = 0, listed = 0;
    for (const Finding& f : report->findings)
        if (passes(f)) ++(f.listed() ? listed : perhaps);
    return tr("%1 finding%2, perhaps %3 more").arg(listed).arg(listed == 1 ? "" : "s").arg(perhaps);
}

const Finding* CheckDesk::chosen() const {
    const int row = lines_->currentRow();
    return row >= 0 && row < static_cast<int>(shown_.size()) && shown_[static_cast<std::size_t>(row)].finding ? &*shown_[static_cast<std::size_t>(row)].finding
                                                                                                              : nullptr;
}

void CheckDesk::choose_line(int row) {
    std::vector<Finding> marks;
    for (const LineOf& line : shown_)
        if (line.finding && marks.size() < 300) marks.push_back(*line.finding);
    overprint_->mark(std::move(marks), row);
    const Finding* f = chosen();
    remedy_->setEnabled(f != nullptr);
    intended_->setEnabled(f != nullptr);
    question_->setEnabled(f != nullptr);
    hear_->setEnabled(row >= 0 && row < static_cast<int>(shown_.size()));
    if (f && f->element) session_.selection().select_element(*f->element);
}

void CheckDesk::say_chosen_is_wanted(const QString& sentence) {
    emit session_.failed(session_.report() ? sentence : tr("There is nothing to check yet: open a recording or a remake first."));
}

void CheckDesk::walk(int by) {
    bring_up_to_date();
    if (shown_.empty()) {
        say_chosen_is_wanted(tr("There is nothing in this list to go to."));
        return;
    }
    const int row = lines_->currentRow();
    lines_->setCurrentCell(row < 0 ? (by > 0 ? 0 : lines_->rowCount() - 1) : (row + by + lines_->rowCount()) % lines_->rowCount(), 0);
    lines_->scrollToItem(lines_->item(lines_->currentRow(), 0));
    hear();
}

void CheckDesk::hear() {
    bring_up_to_date();
    const int row = lines_->currentRow();
    if (row < 0 || row >= static_cast<int>(shown_.size())) {
        say_chosen_is_wanted(tr("Choose a line of the list first: its place is then heard."));
        return;
    }
    const LineOf& line = shown_[static_cast<std::size_t>(row)];
    const auto& song = *session_.remake().song;
    double from = 0.0, to = 0.0;
    if (line.finding) {
        const Finding& f = *line.finding;
        // A beat of run-up and a beat after: a note is judged in its phrase.
        const double beat = 60.0 / song.tempo.bpm_at(song.tempo.nearest_tick(f.start_s));
        const bool whole = is_of_whole_part(f) || is_of_sound(f);
        from = f.start_s - beat;
        to = whole ? f.start_s + 8 * beat : std::min(f.end_s, f.start_s + 4 * beat) + beat;
    } else if (line.left) {
        from = line.left->from_s, to = std::min(line.left->to_s, line.left->from_s + 12.0);
        session_.transport().set_source(Source::Remainder);
    } else {
        from = line.next->from_s, to = std::min(line.next->to_s, line.next->from_s + 12.0);
    }
    session_.transport().set_loop(std::max(0.0, from), to);
    session_.transport().seek(session_.transport().loop_start());
    // The picture follows, unless the place is in it already and large enough to see.
    if (from < overprint_->from_s() || to > overprint_->to_s()) overprint_->show_span(from - 2.0 * (to - from), to + 2.0 * (to - from));
    if (!session_.transport().player().playing()) session_.toggle_play();
}

void CheckDesk::hear_through_lens() {
    bring_up_to_date();
    const int row = lines_->currentRow();
    if (row < 0 || row >= static_cast<int>(shown_.size()) || !session_.recording().analysis) return hear();
    const LineOf& line = shown_[static_cast<std::size_t>(row)];
    Lens lens;
    if (session_.transport().lens().kind == LensKind::Whole) {
        if (line.finding) {
            lens = lens_of(*line.finding, *session_.recording().analysis, session_.remake());
        } else if (line.left) {
            lens.kind = LensKind::Band;
            lens.low_hz = std::max(20.0, line.left->low_hz), lens.high_hz = std::max(line.left->high_hz, 1.3 * lens.low_hz);
        }
    }
    // As it is: an element's share here may be that of a single drum.
    session_.transport().set_lens(std::move(lens));
    hear();
}

void CheckDesk::apply_remedy() {
    bring_up_to_date();
    const Finding* f = chosen();
    if (!f) {
        say_chosen_is_wanted(tr("Select a finding on the Check desk first: its remedy is then applied."));
        return;
    }
    if (const auto line = remedy_line(session_.remake(), *f)) session_.documents().run(*line);
    else emit session_.failed(tr("This one is for your ears: %1.").arg(of_core(remedy_words(*f))));
}

bool CheckDesk::remark(const char* kind, const QString& words) {
    bring_up_to_date();
    const Finding* f = chosen();
    if (!f) {
        say_chosen_is_wanted(tr("Select a finding on the Check desk first."));
        return false;
    }
    const auto& song = *session_.remake().song;
    const Ticks at = std::max<Ticks>(0, song.tempo.nearest_tick(f->start_s)), end = std::max(at + kTicksPerQuarter / 8, song.tempo.nearest_tick(f->end_s));
    // What concerns the sound of all is said of the sections.
    const bool of_sound = is_of_sound(*f) && std::string(kind) == "intended";
    const ElementId element = of_sound ? ElementId::sections() : f->element.value_or(ElementId::sections());
    session_.documents().run(Line("remark.add")
                                 .with("kind", kind)
                                 .with("element", session_.remake().element_name(element))
                                 .with("at", place_text(song.meter, at))
                                 .with("length", length_text(end - at))
                                 .with("words", words.toStdString()));
    return true;
}

void CheckDesk::mark_intended() {
    if (const Finding* f = chosen()) {
        if (is_of_whole_part(*f) && f->element) {
            session_.documents().run(Line("element.note").with("element", session_.remake().element_name(*f->element)).with("intended", finding_message(*f)));
            return;
        }
        if (!f->element && f->kind == FindingKind::MissingElement) {
            emit session_.failed(tr("There is no such part to say it of: add a row of your own to the ledger and mark that as left out."));
            return;
        }
    }
    const Finding* f = chosen();
    remark("intended", f ? of_core(sound_title(*f) + ": " + finding_message(*f)) : QString());
}

void CheckDesk::ask() {
    const Finding* f = chosen();
    if (remark("question", f ? of_core(finding_message(*f)) : QString())) walk(1);
}

}  // namespace fw::app

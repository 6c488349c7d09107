// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/facts_column.hpp"

#include "app/theme.hpp"

#include <QAbstractItemView>
#include <QApplication>
#include <QCompleter>
#include <QHBoxLayout>
#include <QMenu>
#include <QStringListModel>
#include <QStyle>
#include <QVBoxLayout>
#include <algorithm>
#include <limits>

namespace fw::app {

namespace {

/// A widget and what it does now: what was told first has seen other values.
template <class W, class Does>
struct Acting final : W {
    using W::W;
    Does does{};
};

struct NumberDoes {
    std::function<void(double)> entered, turned;
    double told = 0.0, shown = 0.0;  ///< what it was set to, and what became of that by its decimals
};

struct EditDoes {
    std::function<void(const QString&)> entered;
    std::function<QStringList(const QString&)> completed;
    QString told;
};

using Button = Acting<QPushButton, FactAction>;
using MenuButton = Acting<QPushButton, FactMenu>;
using Edit = Acting<QLineEdit, EditDoes>;
using Number = Acting<NumberField, NumberDoes>;
using Choice = Acting<CalmCombo, std::function<void(int)>>;
using Check = Acting<QCheckBox, std::function<void(bool)>>;

void set_tip(QWidget* w, const QString& tip) {
    if (w->toolTip() != tip) w->setToolTip(tip);
}

/// Whether something was typed there that has not been entered.
bool is_typed_in(QWidget* w) {
    const auto* text = qobject_cast<const QLineEdit*>(w);
    if (!text) text = w->findChild<const QLineEdit*>();
    return w->hasFocus() && text && text->isModified();
}

void set_property(QWidget* w, const char* name, bool on) {
    if (w->property(name).toBool() == on) return;
    w->setProperty(name, on);
    if (!w->testAttribute(Qt::WA_WState_Polished)) return;
    w->style()->unpolish(w);
    w->style()->polish(w);
}

}  // namespace

FactsColumn::FactsColumn(QWidget* parent) : QWidget(parent) {
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(14, 10, 14, 14);
    layout->setSpacing(5);
    layout->addStretch(1);
    column_.layout = layout;
}

bool FactsColumn::begin(const QString& subject) {
    anew_ = subject != subject_;
    if (QWidget* focused = QApplication::focusWidget(); anew_ && focused && isAncestorOf(focused) && is_typed_in(focused)) focused->clearFocus();
    if (anew_) {
        // Most of it goes or comes: laid out once for all, before it is next painted.
        focused_ = isAncestorOf(QApplication::focusWidget()) ? QApplication::focusWidget() : nullptr;
        hide();
    }
    subject_ = subject;
    under_.clear();
    open_ = &column_;
    column_.before = std::exchange(column_.told, {});
    telling_ = true;
    return anew_;
}

void FactsColumn::end() {
    close(column_);
    telling_ = anew_ = false;
    if (std::exchange(any_made_, false)) order_tabs();
    // At once: a layout shows what is put into it a turn of the window's thread later, and a frame could come between.
    for (QWidget* w : std::exchange(made_, {})) w->setVisible(true);
    if (isHidden()) show();
    if (focused_ && isAncestorOf(focused_)) focused_->setFocus();
    focused_ = nullptr;
    // Laid out, and then as high as that needs: else lines that have become two are cut until the next turn.
    QCoreApplication::sendPostedEvents(this, QEvent::LayoutRequest);
    if (parentWidget()) QCoreApplication::sendPostedEvents(parentWidget(), QEvent::LayoutRequest);
}

bool FactsColumn::in_hand() const {
    for (const QWidget* w : findChildren<QWidget*>()) {
        if (const auto* b = qobject_cast<const QAbstractButton*>(w); b && b->isDown()) return true;
        if (const auto* n = qobject_cast<const NumberField*>(w); n && n->in_hand()) return true;
        if (const auto* c = qobject_cast<const QComboBox*>(w); c && c->view()->isVisible()) return true;
    }
    return false;
}

template <class Action, class... Values>
void FactsColumn::act(const Action& action, const Values&... values) {
    if (telling_ || !action) return;
    // A copy: telling anew in the midst of it gives the widget another one.
    const Action now = action;
    now(values...);
    emit acted();
}

template <class W>
std::pair<W*, bool> FactsColumn::known(const char* kind, const QString& object, int stretch, const std::function<W*()>& make) {
    const std::string key = std::string(kind) + " " + (object.isEmpty() ? "under " + under_ : object.toStdString());
    const auto at = std::find_if(open_->before.begin(), open_->before.end(), [&](const Fact& f) { return f.widget && f.key == key; });
    const bool made = at == open_->before.end();
    W* w = made ? make() : static_cast<W*>(std::exchange(at->widget, nullptr));
    if (made) {
        any_made_ = true;
        w->setObjectName(object);
        if (isVisible()) made_.push_back(w);
    }
    const auto place = static_cast<int>(open_->told.size());
    open_->told.push_back({key, w});
    const QLayoutItem* there = open_->layout->itemAt(place);
    if (!there || there->widget() != w) {
        if (!made) open_->layout->removeWidget(w);
        open_->layout->insertWidget(place, w, stretch);
    }
    return {w, made};
}

void FactsColumn::close(Box& box) {
    for (const Fact& f : std::exchange(box.before, {})) {
        if (!f.widget) continue;
        std::erase(made_, f.widget);
        lines_.erase(f.widget);
        box.layout->removeWidget(f.widget);
        // It may be what just acted.
        f.widget->hide();
        f.widget->setParent(nullptr);
        f.widget->deleteLater();
    }
}

void FactsColumn::order_tabs() {
    QWidget* last = nullptr;
    const auto next = [&](QWidget* w) {
        if (w->focusPolicy() == Qt::NoFocus) return;
        if (last) setTabOrder(last, w);
        last = w;
    };
    for (const Fact& f : column_.told) {
        const auto line = lines_.find(f.widget);
        if (line == lines_.end()) next(f.widget);
        else
            for (const Fact& of_line : line->second.told) next(of_line.widget);
    }
}

FactsColumn::Line::Line(FactsColumn& column, int spacing) : column_(column) {
    const auto [w, made] = column.known<QWidget>("line", {}, 0, [] { return new QWidget; });
    Box& box = column.lines_[w];
    if (made) {
        box.layout = new QHBoxLayout(w);
        box.layout->setContentsMargins(0, 0, 0, 0);
    }
    box.layout->setSpacing(spacing);
    box.before = std::exchange(box.told, {});
    column.open_ = &box;
}

FactsColumn::Line::~Line() {
    column_.close(*column_.open_);
    column_.open_ = &column_.column_;
}

void FactsColumn::label(const char* kind, const char* object, const QString& text, const QString& tip) {
    const auto [w, made] = known<QLabel>(kind, {}, 0, [] { return new QLabel; });
    if (made) {
        w->setObjectName(object);
        w->setWordWrap(true);
    }
    w->setText(text);
    set_tip(w, tip);
}

void FactsColumn::title(const QString& text) {
    const auto [w, made] = known<QLabel>("title", {}, 0, [] { return new QLabel; });
    if (made) w->setFont(text_font(11.5, true));
    w->setText(text);
}

void FactsColumn::heading(const QString& text) {
    const auto [w, made] = known<QLabel>("heading", {}, 0, [] { return new QLabel; });
    if (made) {
        w->setObjectName("heading");
        w->setContentsMargins(0, 8, 0, 0);
    }
    w->setText(text);
    under_.clear();
    for (const QChar c : text.section(QChar(':'), 0, 0))
        if (!c.isDigit()) under_ += QString(c).toStdString();
}

void FactsColumn::value(const QString& text, const QString& tip) { label("value", "value", text, tip); }
void FactsColumn::note(const QString& text, const QString& tip) { label("note", "", text, tip); }

void FactsColumn::word(const QString& text, int stretch, const QString& tip) {
    QLabel* w = known<QLabel>("word", {}, stretch, [] { return new QLabel; }).first;
    w->setText(text);
    set_tip(w, tip);
}

void FactsColumn::figure(const QString& text, int pixels) {
    const auto [w, made] = known<QLabel>("figure", {}, 0, [] { return new QLabel; });
    if (made) {
        w->setFixedWidth(pixels);
        w->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
    }
    w->setText(text);
}

void FactsColumn::button(FactButton fact) {
    const auto [w, made] = known<Button>(fact.compact ? "compact button" : "button", fact.object, fact.stretch, [this] {
        auto* b = new Button;
        connect(b, &QPushButton::clicked, this, [this, b] { act(b->does); });
        return b;
    });
    if (made) {
        w->setProperty("compact", fact.compact);
        w->setProperty("fromLeft", fact.from_left);
        if (fact.pixels > 0) w->setFixedWidth(fact.pixels);
        if (fact.width == FactWidth::Shared) w->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
    }
    w->does = std::move(fact.run);
    if (w->text() != fact.text) w->setText(fact.text);
    set_tip(w, fact.tip);
    w->setCheckable(fact.checked.has_value());
    w->setChecked(fact.checked.value_or(false));
    set_property(w, "byItself", fact.by_itself);
}

void FactsColumn::menu(const QString& text, const QString& tip, const QString& object, FactMenu entries) {
    const auto [w, made] = known<MenuButton>("menu", object, 0, [] {
        auto* b = new MenuButton;
        b->setMenu(new QMenu(b));
        return b;
    });
    if (w->text() != text) w->setText(text);
    set_tip(w, tip);
    const bool same =
        std::equal(entries.begin(), entries.end(), w->does.begin(), w->does.end(), [](const auto& a, const auto& b) { return a.first == b.first; });
    w->does = std::move(entries);
    if (same) return;
    w->menu()->clear();
    for (std::size_t i = 0; i < w->does.size(); ++i)
        if (w->does[i].first.isEmpty()) w->menu()->addSeparator();
        else
            connect(w->menu()->addAction(w->does[i].first), &QAction::triggered, this, [this, b = w, i] {
                if (i < b->does.size()) act(b->does[i].second);
            });
}

void FactsColumn::edit(FactEdit fact) {
    const auto [w, made] = known<Edit>("edit", fact.object, fact.stretch, [&, this] {
        auto* e = new Edit;
        connect(e, fact.on_return ? &QLineEdit::returnPressed : &QLineEdit::editingFinished, this, [this, e] {
            e->setModified(false);
            act(e->does.entered, e->text());
        });
        return e;
    });
    if (made && fact.completed) {
        auto* model = new QStringListModel(w);
        auto* completer = new QCompleter(model, w);
        completer->setCaseSensitivity(Qt::CaseInsensitive);
        completer->setCompletionMode(QCompleter::PopupCompletion);
        w->setCompleter(completer);
        connect(w, &QLineEdit::textEdited, model, [model, e = w](const QString& text) { model->setStringList(e->does.completed(text)); });
    }
    w->does.entered = std::move(fact.entered);
    w->does.completed = std::move(fact.completed);
    // What is entered by Return and was not taken stays, to be mended.
    if (made || anew_ || (!is_typed_in(w) && (!fact.on_return || fact.text != w->does.told))) {
        if (w->text() != fact.text) {
            w->setText(fact.text);
            w->setCursorPosition(0);
        }
        w->does.told = fact.text;
    }
    if (w->placeholderText() != fact.placeholder) w->setPlaceholderText(fact.placeholder);
    if (fact.least_pixels > 0) w->setMinimumWidth(fact.least_pixels);
    set_tip(w, fact.tip);
}

const NumberField* FactsColumn::number(FactNumber fact) {
    const auto [w, made] = known<Number>("number", fact.object, fact.stretch, [&, this] {
        auto* n = new Number(fact.value, fact.low, fact.high, fact.step, fact.suffix, fact.decimals);
        const auto entered = [this, n] {
            n->findChild<QLineEdit*>()->setModified(false);
            if (n->value() == n->does.shown) return;
            n->does.shown = n->value();
            n->does.told = std::numeric_limits<double>::quiet_NaN();  // if it is refused, what holds is shown again
            act(n->does.entered, n->does.shown);
        };
        connect(n, &NumberField::let_go, this, entered);
        connect(n, &QDoubleSpinBox::editingFinished, this, entered);
        connect(n, &QDoubleSpinBox::valueChanged, this, [this, n](double v) {
            if (!telling_ && n->does.turned) n->does.turned(v);
        });
        return n;
    });
    w->does.entered = std::move(fact.entered);
    w->does.turned = std::move(fact.turned);
    if (w->minimum() != fact.low || w->maximum() != fact.high) w->setRange(fact.low, fact.high);
    if (w->suffix() != fact.suffix) w->setSuffix(fact.suffix);
    if (w->specialValueText() != fact.lowest) w->setSpecialValueText(fact.lowest);
    if (made || anew_ || (!is_typed_in(w) && (fact.value != w->does.told || w->value() != w->does.shown))) {
        w->setValue(fact.value);
        w->does.told = fact.value;
        w->does.shown = w->value();
    }
    if (fact.pixels > 0) w->setFixedWidth(fact.pixels);
    set_tip(w, fact.tip);
    return w;
}

void FactsColumn::choice(FactChoice fact) {
    const auto [w, made] = known<Choice>("choice", fact.object, fact.stretch, [&, this] {
        auto* c = new Choice;
        if (fact.pixels > 0) c->setFixedWidth(fact.pixels);
        if (fact.least_letters > 0) {
            c->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
            c->setMinimumContentsLength(fact.least_letters);
        }
        connect(c, &QComboBox::activated, this, [this, c](int i) { act(c->does, i); });
        return c;
    });
    w->does = std::move(fact.taken);
    bool same = w->count() == static_cast<int>(fact.items.size());
    for (int i = 0; same && i < w->count(); ++i) {
        const auto& [text, meant] = fact.items[static_cast<std::size_t>(i)];
        same = w->itemText(i) == text && w->itemData(i).toString() == meant;
    }
    if (!same) {
        w->clear();
        for (const auto& [text, meant] : fact.items) w->addItem(text, meant);
    }
    if (w->currentIndex() != fact.chosen) w->setCurrentIndex(fact.chosen);
    set_tip(w, fact.tip);
}

void FactsColumn::check(const QString& text, const QString& tip, const QString& object, bool on, std::function<void(bool)> switched) {
    const auto [w, made] = known<Check>("check", object, 0, [this] {
        auto* c = new Check;
        connect(c, &QCheckBox::toggled, this, [this, c](bool now) { act(c->does, now); });
        return c;
    });
    w->does = std::move(switched);
    if (w->text() != text) w->setText(text);
    w->setChecked(on);
    set_tip(w, tip);
}

void FactsColumn::field(Session& session, const FieldRef& field, const Parameter& row) {
    // It stands for one field only: of another part it is another one.
    known<FieldBox>(("field of " + subject_.toStdString()).c_str(), row.id, 0, [&] { return new FieldBox(session, field, row); });
}

}  // namespace fw::app

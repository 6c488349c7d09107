// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/sound_sheet.hpp"

#include "app/duck_picture.hpp"
#include "app/sheet_widgets.hpp"
#include "app/sound_picture.hpp"
#include "app/tone_picture.hpp"
#include "app/words.hpp"

#include "app/calm_combo.hpp"
#include "app/theme.hpp"
#include "model/describe.hpp"
#include "sound/sources/soundfont.hpp"

#include <QApplication>
#include <QCheckBox>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QMouseEvent>
#include <QPushButton>
#include <QScrollBar>
#include <QSettings>
#include <QTimer>
#include <QToolButton>
#include <QVBoxLayout>
#include <algorithm>
#include <sstream>

namespace fw::app {

namespace {

/// A field's name: a click chooses the field for the curve below, a double-click resets it.
class FieldName final : public QLabel {
public:
    FieldName(const QString& text, std::function<void()> choose, std::function<void()> reset, std::function<QMenu*()> menu)
        : QLabel(text), choose_(std::move(choose)), reset_(std::move(reset)), menu_(std::move(menu)) {
        setCursor(Qt::PointingHandCursor);
        setToolTip(
            tr("Click to see and draw how it moves, in the curve under the arrangement; double-click to put it back to where it starts; "
               "the right button lets each note or a macro move it"));
    }

protected:
    void mousePressEvent(QMouseEvent*) override { choose_(); }
    void mouseDoubleClickEvent(QMouseEvent*) override { reset_(); }
    void contextMenuEvent(QContextMenuEvent* event) override {
        const std::unique_ptr<QMenu> menu(menu_());
        menu->exec(event->globalPos());
    }

private:
    std::function<void()> choose_, reset_;
    std::function<QMenu*()> menu_;
};

}  // namespace

SoundSheet::SoundSheet(Session& session, QWidget* parent) : QScrollArea(parent), session_(session) {
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setAccessibleName(tr("Sound sheet"));
    setObjectName("sound_sheet");
    // After the event that caused it, since that may come from a widget in here.
    const auto later = [this] {
        if (pending_) return;
        pending_ = true;
        QTimer::singleShot(0, this, &SoundSheet::follow);
    };
    connect(&session_, &Session::document_changed, this, [this] { before_.clear(); });  // what is compared is of the document before
    connect(&session_, &Session::document_changed, this, later);
    connect(&session_, &Session::selection_changed, this, later);
    connect(&session_, &Session::opened, this, [this] { section_ = {}; });  // another song may have one with that number
    connect(&jobs_, &JobQueue::failed, &session_, &Session::failed);
    lay_out();
}

std::string SoundSheet::key_of(const FieldOwner& owner) const {
    Line line("");
    return name_owner(line, session_.remake(), owner).text();
}

/// What decides which lines there are; values do not.
std::string SoundSheet::signature() const {
    const Remake& r = session_.remake();
    const Part* part = session_.selection().part();
    std::ostringstream s;
    s << session_.has_reference() << '|' << section_.number;
    const auto chain = [&](const std::vector<Step>& steps) {
        for (const Step& x : steps) s << ',' << x.id.number << x.type->id << x.trigger.part.number << '/' << x.trigger.key << x.state.empty() << x.file;
    };
    for (const auto& p : r.parts) s << '|' << p->name;
    if (part) {
        s << '|' << part->id.number << part->version_name << part->rivals.size() << '/' << part->output.number;
        for (const Layer& l : part->layers) s << ';' << l.id.number << l.source->id << l.patch << l.program << l.file << l.state.empty();
        chain(part->steps);
        for (const Send& x : part->sends) s << '>' << x.bus.number;
    }
    for (const Bus& b : r.mixer->buses) s << '|' << b.id.number << b.name << '>' << b.output.number, chain(b.steps);
    s << '|';
    chain(r.mixer->master.steps);
    for (const Macro& m : r.automation->macros) {
        s << '%' << m.id.number << m.name;
        for (const MacroTarget& t : m.targets) s << ',' << key_of(t.field.owner) << t.field.field << ' ' << t.from << ' ' << t.to;
    }
    for (const NoteMove& m : r.automation->by_notes) s << '~' << key_of(m.field.owner) << m.field.field << m.by.number;
    for (const Section& x : r.song->sections) s << '|' << x.name;
    for (const Clip& c : r.clips->clips)
        s << '#' << c.id.number << c.name << c.start << recipe_text(c.recipe) << c.gain_db << '>' << c.output.number << ':' << c.asset.number
          << (r.clips->asset(c.asset) && r.clips->asset(c.asset)->kept);
    for (const std::string& u : unfolded_) s << '+' << u;
    return s.str();
}

void SoundSheet::follow() {
    if (widget())
        for (const NumberField* box : widget()->findChildren<NumberField*>())
            if (box->in_hand()) {
                QTimer::singleShot(50, this, &SoundSheet::follow);
                return;  // its drag would end with it
            }
    pending_ = false;
    if (section_ && !session_.remake().song->section(section_)) section_ = {};
    if (chosen_ && !find_field(session_.remake(), *chosen_)) chosen_.reset(), emit field_chosen();
    if (signature() != laid_out_) lay_out();
    measure_shares();
}

void SoundSheet::set_section(SectionId section) {
    section_ = section;
    follow();
}

QWidget* SoundSheet::field(const FieldOwner& owner, const Parameter& row) {
    auto* both = new QWidget;
    auto* line = new QHBoxLayout(both);
    line->setContentsMargins(0, 0, 10, 0);
    line->setSpacing(5);
    if (row.scale == Scale::Choice || row.scale == Scale::Switch) {
        auto* name = new QLabel(row.label);
        name->setToolTip(row.help);
        auto* box = new CalmCombo;
        box->setObjectName(row.id);
        box->setToolTip(row.help);
        if (row.scale == Scale::Switch) box->addItems({"off", "on"});
        else
            for (const char* choice : row.choices) box->addItem(choice);
        // A plug-in's choices may be sentences: the list shows them whole, the row keeps its width.
        constexpr qsizetype kMostLetters = 16;
        if (std::any_of(row.choices.begin(), row.choices.end(), [](const char* c) { return QString(c).size() > kMostLetters; })) {
            box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
            box->setMinimumContentsLength(kMostLetters);
            box->view()->setMinimumWidth(box->view()->sizeHintForColumn(0) + 24);
        }
        const auto show = [this, box, owner, id = std::string(row.id)] {
            if (const auto now = field_value(session_.remake(), {owner, id})) box->setCurrentIndex(static_cast<int>(*now));
        };
        show();
        connect(&session_, &Session::document_changed, box, show);
        connect(box, &QComboBox::activated, this, [this, owner, id = std::string(row.id), box] {
            Line set("field.set");
            name_owner(set, session_.remake(), owner).with("field", id).with("value", box->currentText().toStdString());
            session_.documents().run(set);
        });
        line->addWidget(name);
        line->addWidget(box);
        return both;
    }
    auto* box = new FieldBox(session_, {owner, row.id}, row);
    box->set_section(section_);
    const FieldRef ref{owner, row.id};
    auto* name = new FieldName(
        row.label,
        [this, ref, moves = row.moves] {
            if (moves) chosen_ = ref, emit field_chosen();
        },
        [box = QPointer<FieldBox>(box)] {
            if (box) box->reset();
        },
        [this, ref] { return movers_menu(ref); });
    line->addWidget(name);
    line->addWidget(box);
    return both;
}

void SoundSheet::heading(const QString& text, const std::function<void(QHBoxLayout*)>& more) {
    auto* row = new QHBoxLayout;
    row->setContentsMargins(0, 8, 0, 2);
    auto* label = new QLabel(text);
    label->setObjectName("heading");
    row->addWidget(label);
    row->addStretch(1);
    if (more) more(row);
    column_->addLayout(row);
    auto* rule = new QWidget;
    rule->setObjectName("rule");
    rule->setFixedHeight(1);
    column_->addWidget(rule);
}

QHBoxLayout* SoundSheet::line(const FieldOwner& owner, const QString& name, QToolButton* beside) {
    auto* row = new QHBoxLayout;
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(6);
    const auto all = fields_of(session_.remake(), owner);
    if (std::any_of(all.begin(), all.end(), [](const Parameter* p) { return std::string_view(p->id) == "on"; })) {
        auto* on = new QCheckBox;
        on->setObjectName("on");
        on->setToolTip(tr("On or off"));
        on->setAccessibleName(name + " on");
        // In a section that has a value of its own, that one is shown and set.
        const auto show = [this, on, owner] {
            double now = field_value(session_.remake(), {owner, "on"}).value_or(1.0);
            for (const SectionSetting& s : session_.remake().automation->settings)
                if (section_ && s.section == section_ && s.field == FieldRef{owner, "on"}) now = s.value;
            const QSignalBlocker quiet(on);
            on->setChecked(now >= 0.5);
        };
        show();
        connect(&session_, &Session::document_changed, on, show);
        connect(on, &QCheckBox::toggled, this, [this, owner](bool checked) {
            Line set("field.set");
            name_owner(set, session_.remake(), owner).with("field", "on").with("value", checked ? "on" : "off");
            if (section_) set.with("section", section_text(session_.remake(), section_));
            session_.documents().run(set);
        });
        row->addWidget(on);
    }
    if (!name.isEmpty()) {
        auto* label = new QLabel(name);
        constexpr int kName = 104, kButton = 30;
        if (beside) row->addWidget(beside);
        label->setMinimumWidth(beside ? kName - kButton : kName);
        row->addWidget(label);
    }
    column_->addLayout(row);
    return row;
}

void SoundSheet::fields_of_line(QHBoxLayout* row, const FieldOwner& owner, const std::vector<std::string>& told) {
    for (const Parameter* p : fields_of(session_.remake(), owner))
        if (std::find(told.begin(), told.end(), p->id) != told.end()) row->addWidget(field(owner, *p));
    row->addStretch(1);
}

void SoundSheet::unfolded(const FieldOwner& owner, const std::vector<std::string>& told) {
    if (!unfolded_.contains(key_of(owner))) return;
    if (const auto* layer = std::get_if<LayerId>(&owner))
        if (const Part* part = part_with(session_.remake(), *layer)) {
            auto* indented = new QHBoxLayout;
            indented->setContentsMargins(26, 6, 0, 4);
            indented->addWidget(new SoundPicture(session_, part->id, *layer));
            column_->addLayout(indented);
            if (find_layer(session_.remake(), *layer)->source == &kSampler) loop_line(*layer);
        }
    if (const auto* id = std::get_if<StepId>(&owner)) {
        const Step& step = *find_step(session_.remake(), *id);
        const Part* part = part_with(session_.remake(), *id);
        QWidget* picture = nullptr;
        if (part && TonePicture::draws(step)) picture = new TonePicture(session_, part->id, *id);
        if (step.type == &kDuck) picture = new DuckPicture(session_, *id);
        if (picture) {
            auto* indented = new QHBoxLayout;
            indented->setContentsMargins(26, 6, 0, 4);
            indented->addWidget(picture);
            column_->addLayout(indented);
        }
    }
    auto* grid = new QGridLayout;
    grid->setContentsMargins(26, 2, 0, 8);
    grid->setVerticalSpacing(3);
    int i = 0;
    std::vector<std::pair<std::string, std::vector<const Parameter*>>> groups;
    for (const Parameter* p : fields_of(session_.remake(), owner)) {
        if (std::string_view(p->id) == "on" || std::find(told.begin(), told.end(), p->id) != told.end()) continue;
        if (*p->group) {
            if (groups.empty() || groups.back().first != p->group) groups.push_back({p->group, {}});
            groups.back().second.push_back(p);
            continue;
        }
        grid->addWidget(field(owner, *p), i / 3, i % 3, Qt::AlignLeft);
        ++i;
    }
    for (int c = 0; c < 3; ++c) grid->setColumnStretch(c, 1);
    column_->addLayout(grid);
    for (const auto& [name, fields] : groups) group(owner, name, fields);
}

/// Fields that belong together under a line that says in short what of them is set, and unfolds.
void SoundSheet::group(const FieldOwner& owner, const std::string& name, const std::vector<const Parameter*>& fields) {
    const std::string key = key_of(owner) + "/" + name;
    const bool open = unfolded_.contains(key);
    auto* head = new QPushButton;
    head->setObjectName("group " + words(name));
    head->setFlat(true);
    head->setStyleSheet("text-align: left; border: none; padding: 1px 0px;");
    const auto tell = [this, head, owner, name, fields, open] {
        constexpr int kMost = 4;
        QStringList set;
        for (const Parameter* p : fields)
            if (const auto now = field_value(session_.remake(), {owner, p->id}); now && *now != p->neutral)
                set << QString("%1 %2").arg(tr(p->label).toLower(), words(value_text(*p, *now)));
        const auto more = set.size() - kMost;
        if (more > 0) set = set.mid(0, kMost) << tr("%1 more").arg(more);
        head->setText(QString("%1 %2   %3").arg(open ? "▾" : "▸", tr(name.c_str()), open ? QString() : set.join(", ")));
    };
    tell();
    connect(&session_, &Session::document_changed, head, tell);
    connect(head, &QPushButton::clicked, this, [this, key] {
        if (!unfolded_.erase(key)) unfolded_.insert(key);
        QTimer::singleShot(0, this, &SoundSheet::follow);
    });
    auto* row = new QHBoxLayout;
    row->setContentsMargins(26, 0, 0, 0);
    row->addWidget(head, 1);
    column_->addLayout(row);
    if (!open) return;
    auto* grid = new QGridLayout;
    grid->setContentsMargins(42, 0, 0, 6);
    grid->setVerticalSpacing(3);
    for (std::size_t i = 0; i < fields.size(); ++i) grid->addWidget(field(owner, *fields[i]), static_cast<int>(i) / 3, static_cast<int>(i) % 3, Qt::AlignLeft);
    for (int c = 0; c < 3; ++c) grid->setColumnStretch(c, 1);
    column_->addLayout(grid);
}

void SoundSheet::end_of_line(QHBoxLayout* row, const FieldOwner& owner, const Line& removal, const QString& what) {
    const std::string key = key_of(owner);
    const bool open = unfolded_.contains(key);
    auto* more = small_button(open ? "▾" : "▸", open ? tr("Fold") : tr("All fields of the ") + what, "unfold");
    connect(more, &QToolButton::clicked, this, [this, key] {
        if (!unfolded_.erase(key)) unfolded_.insert(key);
        QTimer::singleShot(0, this, &SoundSheet::follow);
    });
    row->addWidget(more);
    auto* gone = small_button("×", tr("Take the ") + what + tr(" away"), "remove");
    connect(gone, &QToolButton::clicked, this, [this, removal] { session_.documents().run(removal); });
    row->addWidget(gone);
}

/// The master and the buses something may go to; line: what is run for one of them, named, or for none.
QComboBox* SoundSheet::output_box(const QString& object, const QString& tip, BusId now, const std::function<bool(const Bus&)>& may,
                                  const std::function<Line(const std::string& bus)>& line) {
    auto* to = new CalmCombo;
    to->setObjectName(object);
    to->setToolTip(tip);
    to->addItem(tr("to the master"), QString());
    for (const Bus& b : session_.remake().mixer->buses) {
        if (!may(b)) continue;
        to->addItem("to " + words(b.name), words(bus_text(session_.remake(), b.id)));
        if (now == b.id) to->setCurrentIndex(to->count() - 1);
    }
    connect(to, &QComboBox::activated, this, [this, to, line](int i) { session_.documents().run(line(to->itemData(i).toString().toStdString())); });
    return to;
}

void SoundSheet::send_lines(const Part& part) {
    const Remake& r = session_.remake();
    auto* row = line(part.id, {});
    row->addWidget(output_box(
        "output", tr("Where the part goes"), part.output, [](const Bus&) { return true; },
        [this, id = part.id](const std::string& bus) {
            Line set("part.output");
            set.with("part", part_text(session_.remake(), id));
            if (!bus.empty()) set.with("bus", bus);
            return set;
        }));
    fields_of_line(row, part.id, {"level", "pan"});
    for (const Send& s : part.sends) {
        const Bus* bus = r.mixer->bus(s.bus);
        const SendRef ref{part.id, s.bus};
        auto* send = line(ref, tr("and to ") + words(bus ? bus->name : std::string()));
        fields_of_line(send, ref, {"level"});
        auto* gone = small_button("×", tr("Send nothing there any more"), "remove");
        connect(gone, &QToolButton::clicked, this, [this, ref] {
            session_.documents().run(
                Line("send.remove").with("part", part_text(session_.remake(), ref.part)).with("bus", bus_text(session_.remake(), ref.bus)));
        });
        send->addWidget(gone);
    }
}

void SoundSheet::lay_out() {
    laid_out_ = signature();
    const bool has_keys = QApplication::focusWidget() && isAncestorOf(QApplication::focusWidget());
    const int scrolled = verticalScrollBar()->value();
    auto* inner = new QWidget;
    column_ = new QVBoxLayout(inner);
    column_->setContentsMargins(14, 4, 14, 10);
    column_->setSpacing(3);
    const Remake& r = session_.remake();
    const Part* part = session_.selection().part();
    if (!session_.has_reference() || !part) {
        auto* empty = new QLabel(session_.has_reference() ? tr("Select a part in the ledger or in the grid: its sound is written out here.")
                                                          : tr("Open a recording first; its parts' sounds are written out here."));
        empty->setObjectName("heading");
        column_->addWidget(empty);
        if (session_.has_reference()) clip_lines(), bus_lines();
        column_->addStretch(1);
        setWidget(inner);
        return;
    }
    heading(words(part->name) + (part->version_name.empty() ? QString() : ", “" + words(part->version_name) + "”"), [&](QHBoxLayout* head) {
        auto* where = new CalmCombo;
        where->setObjectName("values_in");
        where->setToolTip(tr("Whether values are set for the whole song or for one section only"));
        where->addItem(tr("values in the whole song"), 0);
        for (const Section& s : r.song->sections) {
            where->addItem(tr("only in ") + words(section_text(r, s.id)), s.id.number);
            if (s.id == section_) where->setCurrentIndex(where->count() - 1);
        }
        connect(where, &QComboBox::activated, this, [this, where](int i) { set_section(SectionId(where->itemData(i).toInt())); });
        head->addWidget(where);
        auto* rivals = new QMenu;
        auto* keep = rivals->addAction(tr("Keep as it is, and go on with a copy…"));
        connect(keep, &QAction::triggered, this, [this, id = part->id] {
            bool ok = false;
            const QString name =
                QInputDialog::getText(this, tr("Keep a rival"), tr("What the copy you go on with is called:"), QLineEdit::Normal, "second", &ok);
            if (ok) session_.documents().run(Line("rival.add").with("part", part_text(session_.remake(), id)).with("name", name.trimmed().toStdString()));
        });
        if (!part->rivals.empty()) rivals->addSeparator();
        for (std::size_t i = 0; i < part->rivals.size(); ++i)
            connect(rivals->addAction(tr("Play “") + words(part->rivals[i]->version_name) + tr("” instead")), &QAction::triggered, this,
                    [this, id = part->id, i] {
                        session_.documents().run(Line("rival.choose").with("part", part_text(session_.remake(), id)).with("rival", std::to_string(i + 1)));
                    });
        head->addWidget(menu_button(tr("Rivals (%1)").arg(part->rivals.size()), tr("Whole versions of the part, kept beside this one"), "rivals", rivals));
        auto* out = new QMenu;
        connect(out->addAction(tr("Copy as text")), &QAction::triggered, this, [this] { QApplication::clipboard()->setText(as_text()); });
        connect(out->addAction(tr("Print…")), &QAction::triggered, this, &SoundSheet::print);
        out->addSeparator();
        connect(out->addAction(tr("Copy to another part…")), &QAction::triggered, this, &SoundSheet::copy_to_part);
        connect(out->addAction(tr("Save as a sound…")), &QAction::triggered, this, &SoundSheet::save_sound);
        connect(out->addAction(tr("Save with its samples…")), &QAction::triggered, this, &SoundSheet::save_sound_with_samples);
        connect(out->addAction(tr("Recall a sound…")), &QAction::triggered, this, &SoundSheet::recall_sound);
        head->addWidget(menu_button(tr("Sheet"), tr("The whole sheet as text, on paper, for another part or another remake"), "sheet_out", out));
    });
    heading(tr("Layers"), [&](QHBoxLayout* head) {
        auto* add = new QPushButton(tr("Add layer"));
        add->setObjectName("add_layer");
        add->setToolTip(tr("Another instrument that plays along"));
        connect(add, &QPushButton::clicked, this,
                [this, id = part->id] { session_.documents().run(Line("part.add-layer").with("part", part_text(session_.remake(), id))); });
        head->addWidget(add);
    });
    for (std::size_t i = 0; i < part->layers.size(); ++i) layer_line(*part, i);
    heading(tr("Steps"), [&](QHBoxLayout* head) {
        if (!part->steps.empty()) {
            const bool any_on = std::any_of(part->steps.begin(), part->steps.end(), [](const Step& s) { return s.on >= 0.5; });
            auto* all = new QPushButton(any_on ? tr("All off") : tr("All on"));
            all->setObjectName("all_steps");
            all->setToolTip(tr("The part with or without all its steps"));
            const auto name = [this, all, id = part->id] {
                const Part* now = session_.remake().part(id);
                const bool on = now && std::any_of(now->steps.begin(), now->steps.end(), [](const Step& s) { return s.on >= 0.5; });
                all->setText(on ? tr("All off") : tr("All on"));
            };
            connect(&session_, &Session::document_changed, all, name);
            connect(all, &QPushButton::clicked, this, [this, all, id = part->id] {
                session_.documents().run(
                    Line("steps.switch").with("part", part_text(session_.remake(), id)).with("on", all->text() == "All off" ? "off" : "on"));
            });
            std::vector<StepId> heard;
            for (const Step& s : part->steps) heard.push_back(s.id);
            if (heard.size() > 1)
                head->addWidget(
                    before_button(part->id, heard, tr("Before all steps: hear the part without them, as loud as with them, until it is pressed again")));
            head->addWidget(all);
        }
        head->addWidget(menu_button(tr("Add step"), tr("An effect, behind those that are there"), "add_step", step_menu(part->id)));
    });
    step_lines(part->id, part->steps);
    heading(tr("Where it goes"), [&](QHBoxLayout* head) {
        auto* menu = new QMenu;
        for (const Bus& b : r.mixer->buses)
            if (std::none_of(part->sends.begin(), part->sends.end(), [&](const Send& s) { return s.bus == b.id; }))
                connect(menu->addAction("to " + words(b.name)), &QAction::triggered, this, [this, id = part->id, bus = b.id] {
                    session_.documents().run(Line("send.add").with("part", part_text(session_.remake(), id)).with("bus", bus_text(session_.remake(), bus)));
                });
        if (!menu->isEmpty()) menu->addSeparator();
        connect(menu->addAction(tr("to a new bus…")), &QAction::triggered, this, [this, id = part->id] {
            bool ok = false;
            const QString name = QInputDialog::getText(this, tr("New bus"), tr("What the bus is called:"), QLineEdit::Normal, "Room", &ok).trimmed();
            if (ok && !name.isEmpty())
                session_.documents().run(Line("bus.add").with("name", name.toStdString()).with("part", part_text(session_.remake(), id)));
        });
        head->addWidget(menu_button(tr("Send"), tr("A share of the part to a bus"), "add_send", menu));
    });
    send_lines(*part);
    note_move_lines();
    clip_lines();
    macro_lines();
    bus_lines();
    column_->addStretch(1);
    setWidget(inner);
    verticalScrollBar()->setValue(scrolled);
    emit shares_changed();     // what was measured before holds until it is measured anew
    if (has_keys) setFocus();  // not some field that happens to stand first and keeps the window's keys to itself
}

}  // namespace fw::app

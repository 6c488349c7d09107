// SPDX-License-Identifier: GPL-3.0-or-later
// A sound sheet outside the window: as text, on paper, as a sound that another part or remake can have, copied to another part.
#include "app/painting.hpp"
#include "app/sheet_widgets.hpp"
#include "app/sound_sheet.hpp"
#include "app/words.hpp"
#include "formats/sound_file.hpp"
#include "sound/sources/soundfont.hpp"

#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QDialogButtonBox>
#include <QFileDialog>
#include <QFileInfo>
#include <QLabel>
#include <QPrintDialog>
#include <QPrinter>
#include <QTextDocument>
#include <QVBoxLayout>
#include <algorithm>

namespace fw::app {

QString layer_name(const Remake& remake, const Layer& l) {
    if (const Asset* asset = remake.clips->asset(l.asset)) return words(asset->name);
    if (l.source == &kSoundFont) {
        const auto& names = general_midi_names();
        return words(names[static_cast<std::size_t>(std::clamp(l.program, 0, 127))]);
    }
    if (l.source == &kSampler) return l.file.empty() ? QObject::tr("Struck bar") : QFileInfo(words(l.file)).fileName();
    return words(l.patch);
}

QString SoundSheet::as_text() const {
    const Remake& r = session_.remake();
    const Part* part = session_.selection().part();
    if (!part) return {};
    QString text;
    const auto put = [&](const QString& name, const FieldOwner& owner) {
        text += "  " + name;
        for (const Parameter* p : fields_of(r, owner)) {
            const double now = *field_value(r, {owner, p->id});
            if (now != p->neutral) text += QString(", %1 %2").arg(QString(p->label).toLower(), words(value_text(*p, now)));
            for (const SectionSetting& s : r.automation->settings)
                if (s.field == FieldRef{owner, p->id})
                    text += QString(", in %1 %2 %3").arg(words(section_text(r, s.section)), QString(p->label).toLower(), words(value_text(*p, s.value)));
            for (const Curve& c : r.automation->curves)
                if (c.field == FieldRef{owner, p->id})
                    text += tr(", %1 moves in %2").arg(QString(p->label).toLower(), c.section ? words(section_text(r, c.section)) : QString(tr("the song")));
        }
        text += "\n";
    };
    text += words(part->name) + tr("\nLayers\n");
    for (const Layer& l : part->layers) put(layer_name(r, l), l.id);
    text += tr("Steps\n");
    for (const Step& s : part->steps) put(s.type->label, s.id);
    const Bus* out = r.mixer->bus(part->output);
    text += tr("Where it goes\n");
    put(out ? "to " + words(out->name) : QString(tr("to the master")), part->id);
    for (const Send& s : part->sends)
        if (const Bus* b = r.mixer->bus(s.bus)) put(tr("and to ") + words(b->name), SendRef{part->id, s.bus});
    return text;
}

void SoundSheet::print_on(QPrinter& printer) const {
    QTextDocument page;
    page.setDefaultFont(text_font(10));
    page.setPlainText(as_text());
    page.print(&printer);
}

void SoundSheet::print() {
    QPrinter printer;
    QPrintDialog dialog(&printer, this);
    if (dialog.exec() == QDialog::Accepted) print_on(printer);
}

void SoundSheet::save_sound() {
    const Part* part = session_.selection().part();
    if (!part) return;
    const QString path = QFileDialog::getSaveFileName(this, tr("Save the part's sound"), words(part->name) + ".sound.txt", tr("Sounds (*.sound.txt)"));
    if (path.isEmpty()) return;
    const auto done = write_sound(path.toStdString(), session_.remake(), part->id);
    if (!done) emit session_.failed(of_core(done.error().message()));
    else emit session_.told(tr("The sound of %1 is in %2.").arg(words(part->name), path));
}

void SoundSheet::recall_sound() {
    if (!session_.selection().part()) return;
    const QString path = QFileDialog::getOpenFileName(this, tr("Recall a sound"), {}, tr("Sounds (*.sound.txt);;All files (*)"));
    if (!path.isEmpty()) recall_sound_from(path);
}

void SoundSheet::recall_sound_from(const QString& path) {
    const Part* part = session_.selection().part();
    if (!part) return;
    auto with = read_sound(path.toStdString(), session_.remake(), part->id);
    if (!with) {
        emit session_.failed(of_core(with.error().message()));
        return;
    }
    session_.documents().edit(std::move(*with), tr("Recall sound"));
}

/// To another part goes what is ticked.
void SoundSheet::copy_to_part() {
    const Part* part = session_.selection().part();
    if (!part) return;
    auto* dialog = new QDialog(this);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    dialog->setObjectName("copy_sheet");
    dialog->setWindowTitle(tr("Copy %1 to another part").arg(words(part->name)));
    auto* column = new QVBoxLayout(dialog);
    auto* to = new QComboBox;
    to->setObjectName("copy_to");
    for (const auto& other : session_.remake().parts)
        if (other->id != part->id) to->addItem(words(other->name), words(part_text(session_.remake(), other->id)));
    column->addWidget(to);
    struct Piece {
        const char* word;
        QString label;
        bool on;
    };
    std::vector<std::pair<const char*, QCheckBox*>> boxes;
    for (const Piece& piece : {Piece{"layers", tr("Layers"), true}, Piece{"steps", tr("Steps"), true}, Piece{"place", tr("Level, pan and sends"), false},
                               Piece{"notes", tr("Notes"), false}}) {
        auto* box = new QCheckBox(piece.label);
        box->setObjectName(QString("copy_") + piece.word);
        box->setChecked(piece.on);
        column->addWidget(box);
        boxes.emplace_back(piece.word, box);
    }
    auto* note = new QLabel(tr("What the other part had of these gives way; undo brings it back. Curves are not copied."));
    note->setObjectName("note");
    note->setWordWrap(true);
    column->addWidget(note);
    auto* buttons = new QDialogButtonBox;
    buttons->addButton(tr("Copy"), QDialogButtonBox::AcceptRole)->setObjectName("copy_now");
    buttons->addButton(tr("Leave"), QDialogButtonBox::RejectRole);
    column->addWidget(buttons);
    connect(buttons, &QDialogButtonBox::rejected, dialog, &QDialog::reject);
    connect(buttons, &QDialogButtonBox::accepted, dialog, [this, dialog, to, boxes, from = part->id] {
        std::string take;
        for (const auto& [word, box] : boxes)
            if (box->isChecked()) take.append(take.empty() ? "" : " ").append(word);
        if (!take.empty() && to->count() > 0)
            session_.documents().run(Line("part.copy-sheet")
                                         .with("part", part_text(session_.remake(), from))
                                         .with("to", to->currentData().toString().toStdString())
                                         .with("take", take));
        dialog->accept();
    });
    dialog->open();
}

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
// A sound sheet outside the window: as text, on paper, as a sound that another part or remake can have, copied to another part.
#include "app/painting.hpp"
#include "app/sheet_widgets.hpp"
#include "app/sound_sheet.hpp"
#include "app/words.hpp"
#include "formats/sfz.hpp"
#include "formats/sheet_words.hpp"
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

QString layer_name(const Remake& remake, const Layer& l) { return words(layer_in_words(remake, l)); }

QString SoundSheet::as_text() const {
    const Part* part = session_.selection().part();
    return part ? words(sheet_in_words(session_.remake(), part->id)) : QString();
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

void SoundSheet::save_sound_with_samples() {
    const Part* part = session_.selection().part();
    if (!part) return;
    const QString path =
        QFileDialog::getSaveFileName(this, tr("Save the part's sound with its samples"), words(part->name) + ".sound.txt", tr("Sounds (*.sound.txt)"));
    if (path.isEmpty()) return;
    const auto done = write_sound_with_samples(path.toStdString(), session_.remake(), part->id);
    if (!done) emit session_.failed(of_core(done.error().message()));
    else emit session_.told(tr("The sound of %1 is in %2, its samples in a folder beside it: give both away together.").arg(words(part->name), path));
}

void SoundSheet::recall_sound() {
    if (!session_.selection().part()) return;
    const QString path = QFileDialog::getOpenFileName(this, tr("Recall a sound"), {}, tr("Sounds and sampled instruments (*.sound.txt *.sfz);;All files (*)"));
    if (!path.isEmpty()) recall_sound_from(path);
}

void SoundSheet::recall_sound_from(const QString& path) {
    const Part* part = session_.selection().part();
    if (!part) return;
    if (path.endsWith(".sfz", Qt::CaseInsensitive)) {
        auto sampled = read_sfz(path.toStdString(), session_.remake(), part->id);
        if (!sampled) {
            emit session_.failed(of_core(sampled.error().message()));
            return;
        }
        const auto used = sampled->used, regions = sampled->regions;
        session_.documents().edit(std::move(sampled->remake), tr("Recall sound"));
        if (used < regions)
            emit session_.told(tr("%1 of its %2 samples are played: a part has that many layers at most, so keys and velocities between them share one.")
                                   .arg(used)
                                   .arg(regions));
        return;
    }
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

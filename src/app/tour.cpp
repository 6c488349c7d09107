// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/tour.hpp"

#include "app/check_desk.hpp"
#include "app/desks.hpp"
#include "app/doubt_walk.hpp"
#include "app/facts_panel.hpp"
#include "app/lens_panel.hpp"
#include "app/listening_bar.hpp"
#include "app/page_view.hpp"
#include "app/sound_finder.hpp"
#include "app/sound_picture.hpp"
#include "app/survey.hpp"

#include <QApplication>
#include <QComboBox>
#include <QDir>
#include <QMenu>
#include <QPixmap>
#include <QScrollBar>
#include <QTimer>
#include <QToolButton>
#include <functional>
#include <iostream>
#include <memory>

namespace fw::app {

namespace {

/// Steps taken one after another, each once its condition holds.
class Tour final : public QObject {
public:
    Tour(MainWindow& window, const QString& folder) : QObject(&window), window_(window), folder_(folder) {
        QDir().mkpath(folder);
        timer_.setInterval(150);
        connect(&timer_, &QTimer::timeout, this, [this] { step(); });
        timer_.start();
        connect(window.hand_off(), &HandOffDesk::done, this, [this](bool ok, const QString& sentence) {
            std::cout << sentence.toStdString() << std::endl;
            delivered_ = true;
            ok_ = ok_ && ok;
        });
    }

private:
    void shot(const char* name) {
        const QString file = QDir(folder_).filePath(QString(name) + ".png");
        ok_ = window_.grab().save(file) && ok_;
        std::cout << "picture of the desk: " << file.toStdString() << std::endl;
    }

    /// Folds the first line of the sheet that is unfolded.
    void fold_one() {
        for (auto* fold : window_.rebuild_desk()->sheet()->widget()->findChildren<QToolButton*>("unfold"))
            if (fold->text() == "▾") return fold->click();
    }

    void step() {
        Session& s = window_.session();
        if (++waited_ > 2400 || (!s.has_reference() && !s.busy() && waited_ > 20)) {
            std::cerr << "The tour could not go on: " << window_.last_message().toStdString() << std::endl;
            QApplication::exit(1);
            timer_.stop();
            return;
        }
        if (!s.has_reference() || s.busy() || !s.rebuild_is_current() || window_.facts()->pending()) return;  // and the facts are of what is chosen
        const auto part = [&](PartRole role) {
            for (const auto& p : s.remake().parts)
                if (p->role == role) return ElementId(p->id);
            return ElementId::chords();
        };
        switch (at_++) {
            case 0:
                window_.show_desk(Desk::Survey);
                s.selection().select_element(ElementId::tempo());
                s.transport().seek(12.4);
                break;
            case 1:
                if (s.survey().readings().empty()) {
                    --at_;
                    return;
                }
                shot("1-survey");
                break;
            case 2: s.selection().select_element(ElementId::sections()); break;
            case 3:
                shot("1-survey-form");
                window_.listening()->toggle_panel();
                ok_ = window_.listening()->panel()->grab().save(QDir(folder_).filePath("1-lens.png")) && ok_;
                window_.listening()->toggle_panel();
                break;
            case 4:
                s.selection().select_element(ElementId::key());
                for (int k = 0; k < 9; ++k) window_.page()->zoom(-1);
                break;
            case 5: shot("1-survey-far"); break;
            case 6:
                for (int k = 0; k < 9; ++k) window_.page()->zoom(1);
                s.selection().select_element(part(PartRole::Lead));
                window_.show_desk(Desk::Transcribe);
                window_.transcribe()->current()->show_from(10.2);
                break;
            case 7: {
                shot("2-transcribe-notes");
                // Some notes chosen: what can be done with them.
                std::vector<NoteRef> some;
                for (const PlacedNote& n : placed_notes(*s.selection().part()))
                    if (n.note.start >= s.remake().song->tempo.nearest_tick(11.0) && some.size() < 6) some.push_back(n.ref());
                s.selection().select_notes(std::move(some));
                break;
            }
            case 8:
                shot("2-transcribe-chosen");
                s.selection().select_element(part(PartRole::Chords));
                s.walk().go(1);
                s.walk().try_next(1);
                break;
            case 9:
                shot("2-transcribe-doubt");
                s.walk().end();
                break;
            case 10:
                s.selection().select_element(part(PartRole::Drums));
                window_.transcribe()->current()->show_from(10.2);
                break;
            case 11: shot("2-transcribe-drums"); break;
            case 12:
                s.selection().select_element(ElementId::chords());
                window_.transcribe()->current()->show_from(10.2);
                window_.transcribe()->chords()->select_tick(window_.transcribe()->chords()->tick_at(300));
                break;
            case 13: shot("2-transcribe-chords"); break;
            case 14:
                // A sound with something on its sheet.
                for (const Line& line :
                     {Line("step.add").with("part", "Bass").with("kind", "equaliser").with("low", "2.5dB").with("high_cut", "4k"),
                      Line("step.add").with("part", "Bass").with("kind", "duck").with("by", "Drums").with("sound", "Kick").with("release", "1/8"),
                      Line("bus.add").with("name", "Quay"), Line("step.add").with("bus", "Quay").with("kind", "reverb").with("mix", "100%"),
                      Line("send.add").with("part", "Bass").with("bus", "Quay").with("level", "-18dB"),
                      Line("curve.set")
                          .with("part", "Bass")
                          .with("layer", "1")
                          .with("field", "cutoff")
                          .with("section", "#2")
                          .with("points", "1 250 smooth, 5 900 straight, 8.4 350"),
                      Line("transition.add").with("kind", "riser").with("to", "13").with("length", "2 bars").with("level", "-9dB"),
                      Line("transition.add").with("kind", "crash").with("to", "13").with("length", "2 bars").with("level", "-9dB"),
                      Line("transition.add").with("kind", "chord_swell").with("to", "33").with("length", "1 bar").with("level", "-6dB"),
                      Line("clip.from-original").with("from", "29").with("length", "1 bar").with("to", "41").with("recipe", "reverse")})
                    s.documents().run(line);
                s.selection().select_element(part(PartRole::Bass));
                window_.show_desk(Desk::Rebuild);
                if (const Part* bass = s.selection().part()) window_.rebuild_desk()->curve()->show_field(FieldRef{bass->layers.front().id, "cutoff"});
                break;
            case 15: shot("3-rebuild"); break;
            case 16:
                // A sound like the original's, found and fitted.
                if (const Part* bass = s.selection().part()) window_.rebuild_desk()->finder()->open_for(bass->id, bass->layers.front().id);
                break;
            case 17:
                if (window_.rebuild_desk()->finder()->busy()) {
                    --at_;
                    return;
                }
                ok_ = window_.rebuild_desk()->finder()->grab().save(QDir(folder_).filePath("3-find-sound.png")) && ok_;
                window_.rebuild_desk()->finder()->hide();
                break;
            case 18: {
                // A layer unfolded: its picture over the original's, its fields in groups.
                const auto folds = window_.rebuild_desk()->sheet()->widget()->findChildren<QToolButton*>("unfold");
                if (!folds.isEmpty()) folds.front()->click();
                break;
            }
            case 19: {
                const auto* picture = window_.rebuild_desk()->sheet()->widget()->findChild<SoundPicture*>("sound_picture");
                if (picture && !picture->ready()) {
                    --at_;
                    return;
                }
                shot("3-rebuild-layer");
                break;
            }
            case 20: {
                // An equaliser over what the original asks of its part, and a control that moves several fields.
                for (const Line& line : {Line("macro.add").with("name", "Open up"),
                                         Line("macro.target")
                                             .with("by", "Open up")
                                             .with("part", "Bass")
                                             .with("layer", "1")
                                             .with("field", "cutoff")
                                             .with("from", "200Hz")
                                             .with("to", "3kHz"),
                                         Line("macro.target")
                                             .with("by", "Open up")
                                             .with("part", "Bass")
                                             .with("step", "duck")
                                             .with("field", "depth")
                                             .with("from", "9dB")
                                             .with("to", "2dB"),
                                         Line("field.set").with("macro", "Open up").with("field", "amount").with("value", "40%")})
                    s.documents().run(line);
                const auto folds = window_.rebuild_desk()->sheet()->widget()->findChildren<QToolButton*>("unfold");
                if (folds.size() > 1) folds[0]->click();
                break;
            }
            case 21: {
                const auto folds = window_.rebuild_desk()->sheet()->widget()->findChildren<QToolButton*>("unfold");
                if (folds.size() > 1) folds[1]->click();
                break;
            }
            case 22: {
                auto* sheet = window_.rebuild_desk()->sheet();
                if (auto* picture = sheet->widget()->findChild<QWidget*>("tone_picture")) sheet->ensureWidgetVisible(picture, 0, 260);
                if (!s.rebuild_is_current()) {
                    --at_;
                    return;
                }
                break;
            }
            case 23:
                shot("3-rebuild-equaliser");
                // A clip whose beginnings are brought onto the beats, under it a field that each note moves.
                for (const Line& line : {Line("field.by-notes")
                                             .with("part", "Bass")
                                             .with("layer", "1")
                                             .with("field", "cutoff")
                                             .with("to", "2.4kHz")
                                             .with("decay", "240ms")
                                             .with("sustain", "25%"),
                                         Line("clip.from-original").with("from", "9").with("length", "2 bars").with("to", "13").with("name", "Two bars")})
                    s.documents().run(line);
                fold_one();
                window_.rebuild_desk()->grid()->choose(s.remake().clips->clips.back().id);
                break;
            case 24: {
                ClipView* view = window_.rebuild_desk()->clip();
                if (!view->ready()) {
                    --at_;
                    return;
                }
                const std::unique_ptr<QMenu> menu(view->onto_menu());
                for (QAction* a : menu->actions())
                    if (a->text() == "eighths") a->trigger();
                fold_one();
                break;
            }
            case 25:
                window_.rebuild_desk()->sheet()->verticalScrollBar()->setValue(0);
                if (auto* way = window_.rebuild_desk()->sheet()->widget()->findChild<QWidget*>("note_way"))
                    window_.rebuild_desk()->sheet()->ensureWidgetVisible(way, 0, 60);
                break;
            case 26:
                shot("3-rebuild-clip");
                window_.show_desk(Desk::Check);
                break;
            case 27: shot("4-check"); break;
            case 28: {
                // Down to a bar: what is written over what was heard.
                CheckDesk& check = *window_.check_desk();
                check.findChild<QComboBox*>("what")->setCurrentIndex(static_cast<int>(OverprintView::What::Notes));
                check.table()->choose({part(PartRole::Lead), false, 2, 17});
                break;
            }
            case 29: shot("4-check-bar"); break;
            case 30: {
                CheckDesk& check = *window_.check_desk();
                check.table()->choose({});
                check.findChild<QComboBox*>("what")->setCurrentIndex(static_cast<int>(OverprintView::What::Left));
                check.show_list(CheckDesk::List::Left);
                break;
            }
            case 31: shot("4-check-left"); break;
            case 32:
                window_.show_desk(Desk::HandOff);
                window_.hand_off()->deliver(QDir(folder_).filePath("hand-off"));
                break;
            default:
                if (!delivered_) return;
                shot("5-hand-off");
                timer_.stop();
                // The tour's changes are nobody's work: leave without asking.
                QApplication::exit(ok_ ? 0 : 1);
        }
    }

    MainWindow& window_;
    QString folder_;
    QTimer timer_;
    int at_ = 0, waited_ = 0;
    bool delivered_ = false, ok_ = true;
};

}  // namespace

void start_tour(MainWindow& window, const QString& folder) { new Tour(window, folder); }

}  // namespace fw::app

// SPDX-License-Identifier: GPL-3.0-or-later
// Parts on the Transcribe desk: patterns, chords, parts made of others, hits, rivals.
#include "transcribe_fixture.hpp"

#include "formats/midi_file.hpp"
#include "model/edits/patterns.hpp"
#include "model/edits/phrasing.hpp"

#include <QApplication>
#include <QClipboard>
#include <QComboBox>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <set>

namespace fw::app {

TEST_F(TranscribeTest, RepeatsAreFoldedIntoPatternsAndWhatChangesIsTold) {
    select(PartRole::Drums);
    QTest::mouseClick(fact<QPushButton>("find_patterns"), Qt::LeftButton);
    const Part& drums = *part(PartRole::Drums);
    EXPECT_GT(drums.placements.size(),
              2 * static_cast<std::size_t>(std::count_if(drums.patterns.begin(), drums.patterns.end(), [](const auto& p) { return !p->parent; })));
    if (!variations(drums).empty()) {
        auto* one = fact<QPushButton>("variation0");
        ASSERT_TRUE(one);
        QTest::mouseClick(one, Qt::LeftButton);
        const auto v = variations(drums).front();
        EXPECT_TRUE(session->transport().player().looping());
        (void)v;
        session->transport().player().stop();
    }
}

TEST_F(TranscribeTest, ABassFollowsTheLeadLowInTheLoopAndTheKickOnTheChordsEverywhere) {
    select(PartRole::Bass);
    const auto& tempo = session->remake().song->tempo;
    const auto choose = [&](const QString& words) {
        auto* open = fact<QPushButton>("follow_line");
        ASSERT_TRUE(open && open->menu());
        for (QAction* a : open->menu()->actions())
            if (a->text().contains(words)) return a->trigger();
        FAIL() << words.toStdString();
    };
    const Section& section = session->remake().song->sections[1];
    const Ticks from = section.start, to = section.start + section.length;
    session->transport().set_loop(tempo.seconds(from), tempo.seconds(to));
    const auto outside = [&] {
        std::vector<std::pair<Ticks, int>> all;
        for (const PlacedNote& n : notes(PartRole::Bass))
            if (n.note.start < from || n.note.start >= to) all.emplace_back(n.note.start, n.note.pitch);
        return all;
    };
    const auto before = outside();
    choose("the notes of Lead, low");
    EXPECT_EQ(outside(), before) << "only in the loop";
    std::set<Ticks> lead;
    for (const PlacedNote& n : notes(PartRole::Lead)) lead.insert(n.note.start);
    int there = 0;
    for (const PlacedNote& n : notes(PartRole::Bass)) {
        if (n.note.start < from || n.note.start >= to) continue;
        ++there;
        EXPECT_TRUE(lead.contains(n.note.start));
        EXPECT_LT(n.note.pitch, 40);
    }
    EXPECT_GT(there, 4);
    session->transport().set_loop(0.0, 0.0, false);
    choose("the kick of Drums");
    std::set<Ticks> kicks;
    for (const PlacedNote& n : notes(PartRole::Drums))
        if (n.note.pitch == 36 || n.note.pitch == 35) kicks.insert(n.note.start);
    ASSERT_FALSE(notes(PartRole::Bass).empty());
    for (const PlacedNote& n : notes(PartRole::Bass)) EXPECT_TRUE(kicks.contains(n.note.start)) << n.note.start;
    session->documents().undo();
    session->documents().undo();
    EXPECT_EQ(outside(), before);
}

TEST_F(TranscribeTest, APartIsMadeOfTheChordsAndFollowsThem) {
    select(PartRole::Chords);
    auto* open = fact<QPushButton>("derive");
    ASSERT_TRUE(open);
    QTest::mouseClick(open, Qt::LeftButton);
    QWidget* panel = nullptr;
    for (QWidget* w : QApplication::topLevelWidgets())
        if (w->objectName() == "derive_panel" && w->isVisible()) panel = w;
    if (!panel)
        for (QWidget* w : window->facts()->findChildren<QWidget*>("derive_panel")) panel = w;
    ASSERT_TRUE(panel);
    auto* kind = panel->findChild<QComboBox*>("derive_kind");
    kind->setCurrentIndex(kind->findData("arpeggio"));
    emit kind->activated(kind->currentIndex());
    EXPECT_EQ(part(PartRole::Chords)->derived.kind, FromChords::Arpeggio);
    auto* every = panel->findChild<QComboBox*>("derive_every");
    every->setCurrentIndex(every->findData("1/16"));
    emit every->activated(every->currentIndex());
    EXPECT_EQ(part(PartRole::Chords)->derived.every, 240);
    EXPECT_TRUE(part(PartRole::Chords)->derived.linked);
    panel->close();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
    const auto earlier = notes(PartRole::Chords).front().note;
    run("chord.set at=" + place_text(session->remake().song->meter, session->remake().song->chords.front().start) + " chord=F#m");
    EXPECT_NE(notes(PartRole::Chords).front().note.pitch, earlier.pitch) << "it follows";
    auto* cut = fact<QPushButton>("unlink");
    ASSERT_TRUE(cut);
    QTest::mouseClick(cut, Qt::LeftButton);
    EXPECT_FALSE(part(PartRole::Chords)->derived.linked);
}

TEST_F(TranscribeTest, ChordsAreTypedExtendedFollowedAndEnteredInARow) {
    session->selection().select_element(ElementId::chords());
    const ChordEvent third = session->remake().song->chords[2];
    window->transcribe()->chords()->select_tick(third.start + 10);
    auto* name = fact<QLineEdit>("chord_name");
    ASSERT_TRUE(name);
    name->setFocus();
    name->setText("iv");
    QTest::keyClick(name, Qt::Key_Return);
    const auto chord = [&] { return session->remake().song->chords[2].chord; };
    EXPECT_EQ(chord_kinds()[static_cast<std::size_t>(chord().kind)].sign, "m") << "a degree of the key";
    EXPECT_GT(session->transport().drone().count, 0u) << "heard on entry";
    QTest::mouseClick(fact<QPushButton>("extend"), Qt::LeftButton);
    EXPECT_EQ(chord_kinds()[static_cast<std::size_t>(chord().kind)].tones().size(), 4u);
    QTest::mouseClick(fact<QPushButton>("reduce"), Qt::LeftButton);
    EXPECT_EQ(chord_kinds()[static_cast<std::size_t>(chord().kind)].sign, "m");
    auto* next = fact<QPushButton>("next0");
    ASSERT_TRUE(next);
    const QString wanted = next->text();
    QTest::mouseClick(next, Qt::LeftButton);
    EXPECT_EQ(QString::fromStdString(session->remake().song->chords[3].chord.name(session->remake().song->flats_at(third.start))), wanted);
    QCoreApplication::processEvents();
    EXPECT_EQ(window->transcribe()->chords()->selected_tick(), third.start + third.length) << "and on to it";
    auto* several = fact<QLineEdit>("several_chords");
    several->setFocus();
    several->setText("Dm7 G7 | C . | nonsense");
    const auto before = session->documents().document();
    QTest::keyClick(several, Qt::Key_Return);
    EXPECT_EQ(session->documents().document(), before) << "nothing is written where one is no chord";
    EXPECT_TRUE(window->last_message().contains("nonsense"));
    several = fact<QLineEdit>("several_chords");
    several->setFocus();
    several->setText("Dm7 G7 | C .");
    QTest::keyClick(several, Qt::Key_Return);
    EXPECT_NE(session->documents().document(), before);
    session->transport().set_drone({});
}

TEST_F(TranscribeTest, HitsAreMadeHarderByDraggingUpAndReadyPatternsAreWritten) {
    select(PartRole::Drums);
    session->selection().set_reach(Reach::Here);
    DrumCloseUp* view = window->transcribe()->drums();
    view->show_from(30.0);
    QCoreApplication::processEvents();
    PlacedNote hit;
    int row = 0;
    for (const PlacedNote& n : notes(PartRole::Drums))
        if (view->x_of(n.note.start) > CloseUp::kLeft + 200 && n.note.velocity < 100) {
            hit = n;
            break;
        }
    ASSERT_TRUE(hit.note.id);
    const auto keys = view->rows();
    row = static_cast<int>(std::find(keys.begin(), keys.end(), drum_sound_of_key(hit.note.pitch)->key) - keys.begin());
    const QPoint on(static_cast<int>(std::lround(view->x_of(hit.note.start))), static_cast<int>(view->row_rect(row).bottom() - 5));
    drag(view, on, on - QPoint(0, 12));
    int velocity = 0;
    for (const PlacedNote& n : notes(PartRole::Drums))
        if (n.note.start == hit.note.start && n.note.pitch == hit.note.pitch) velocity = n.note.velocity;
    EXPECT_GT(velocity, hit.note.velocity + 5);
    const std::size_t before = notes_of(PartRole::Drums);
    session->transport().seek(30.0);
    session->selection().select_notes({});
    auto* ready = fact<QPushButton>("ready0");
    ASSERT_TRUE(ready);
    QTest::mouseClick(ready, Qt::LeftButton);
    EXPECT_GT(notes_of(PartRole::Drums), before + 3);
}

TEST_F(TranscribeTest, APartIsDraggedOutAsAFile) {
    select(PartRole::Bass);
    int row = -1;
    const auto ids = session->remake().element_ids();
    for (std::size_t i = 0; i < ids.size(); ++i)
        if (ids[i] == ElementId(part(PartRole::Bass)->id)) row = static_cast<int>(i);
    const QPoint from = window->ledger()->row_rect(row).center() - QPoint(40, 8);
    // Nobody takes it here: the drag ends by itself once the button is let go.
    QTimer::singleShot(300, [] { QTest::keyClick(window, Qt::Key_Escape); });
    QTest::mousePress(window->ledger(), Qt::LeftButton, {}, from);
    for (int i = 1; i < 4; ++i) {
        QMouseEvent move(QEvent::MouseMove, QPointF(from + QPoint(12 * i, 0)), window->ledger()->mapToGlobal(QPointF(from + QPoint(12 * i, 0))), Qt::NoButton,
                         Qt::LeftButton, {});
        QApplication::sendEvent(window->ledger(), &move);
    }
    QTest::mouseRelease(window->ledger(), Qt::LeftButton, {}, from + QPoint(36, 0));
    ASSERT_FALSE(window->ledger()->last_dragged().isEmpty());
    const auto song = read_midi(window->ledger()->last_dragged().toStdString());
    ASSERT_TRUE(song);
    ASSERT_EQ(song->parts.size(), 1u);
    EXPECT_EQ(song->parts[0].notes.size(), notes_of(PartRole::Bass));
}

TEST_F(TranscribeTest, RivalsStandSideBySideWithTheirFigures) {
    select(PartRole::Lead);
    run("rival.add part=Lead name=second");
    run("note.change part=Lead from=1 to=200 semitones=1");
    settle();
    QPushButton* other = nullptr;
    ASSERT_TRUE(QTest::qWaitFor(
        [&] {
            other = fact<QPushButton>("rival0");
            return other && other->text().contains('%');
        },
        30000))
        << "its figure comes";
    const auto figure = [](const QString& text) { return text.section(' ', -2, -2).toInt(); };
    EXPECT_GT(figure(other->text()), 30) << "what was right before stays right beside";
    QTest::mouseClick(other, Qt::LeftButton);
    EXPECT_EQ(part(PartRole::Lead)->version_name, "first");
    ASSERT_TRUE(QTest::qWaitFor(
        [&] {
            other = fact<QPushButton>("rival0");
            return other && other->text().contains('%');
        },
        30000));
    EXPECT_LT(figure(other->text()), 30) << "a semitone off it is hardly heard";
}

TEST_F(TranscribeTest, RivalsAreToldByHowTheWholeSoundsWithEach) {
    select(PartRole::Drums);
    run("rival.add part=Drums name=silent");
    run("field.set part=Drums field=level value=-60dB");
    const auto told = [] {
        for (const QLabel* l : window->facts()->findChildren<QLabel*>())
            if (l->text().startsWith("The whole's sound")) return l->text();
        return QString();
    };
    ASSERT_TRUE(QTest::qWaitFor([&] { return !told().isEmpty(); }, 60000)) << "its figure comes";
    const auto figure = [&](const QString& behind) {
        const QString text = told().mid(told().indexOf(behind) + behind.size());
        return text.left(text.indexOf(' ')).toInt();
    };
    EXPECT_GT(figure("with “first” "), figure("now ") + 5) << told().toStdString() << ": without its drums the whole is farther away";
}

TEST_F(TranscribeTest, ABarIsSpreadOverTheSongAndWhatDiffersIsListed) {
    select(PartRole::Bass);
    const Song& song = *session->remake().song;
    int bar = 0;
    for (const PlacedNote& n : notes(PartRole::Bass))
        if (bar == 0 && song.meter.position(n.note.start).bar > 8) bar = song.meter.position(n.note.start).bar;
    session->transport().set_loop(song.tempo.seconds(song.meter.tick_of_bar(bar)), song.tempo.seconds(song.meter.tick_of_bar(bar + 1)));
    auto* spread = fact<QPushButton>("spread");
    ASSERT_TRUE(spread);
    EXPECT_TRUE(spread->text().contains(QString::number(bar)));
    QTest::mouseClick(spread, Qt::LeftButton);
    ASSERT_TRUE(window->last_message().contains("more places")) << window->last_message().toStdString();
    const Part& p = *part(PartRole::Bass);
    const Ticks from = session->remake().song->meter.tick_of_bar(bar);
    PatternId pattern;
    for (const Placement& x : p.placements)
        if (x.start == from) pattern = x.pattern;
    ASSERT_TRUE(pattern);
    const PatternId parent = p.pattern(pattern)->parent ? p.pattern(pattern)->parent : pattern;
    const auto places = std::count_if(p.placements.begin(), p.placements.end(),
                                      [&](const Placement& x) { return x.pattern == parent || p.pattern(x.pattern)->parent == parent; });
    EXPECT_GT(places, 1) << "it plays elsewhere, too";
    session->documents().undo();
}

TEST_F(TranscribeTest, AChordsOwnLayoutIsTriedInPlaceAndPartsMadeOfItFollow) {
    session->selection().select_element(ElementId::chords());
    window->transcribe()->chords()->select_tick(session->remake().song->chords[3].start);
    auto* layout = fact<QComboBox>("chord_layout");
    ASSERT_TRUE(layout);
    const Ticks start = session->remake().song->chords[3].start;
    const auto voiced_now = [&] {
        for (const ChordEvent& c : session->remake().song->chords)
            if (c.start == start) return c.voiced;
        return std::vector<int>();
    };
    layout->setCurrentIndex(5);
    emit layout->activated(5);
    const auto open = voiced_now();
    EXPECT_GE(open.size(), 3u);
    layout = fact<QComboBox>("chord_layout");
    layout->setCurrentIndex(2);
    emit layout->activated(2);
    EXPECT_NE(voiced_now(), open);
    auto* inversion = fact<QComboBox>("chord_inversion");
    const auto close = voiced_now();
    inversion->setCurrentIndex(1);
    emit inversion->activated(1);
    EXPECT_NE(voiced_now(), close);
    // Another chord has no layout of its own and is not told to have this one's.
    window->transcribe()->chords()->select_tick(session->remake().song->chords[4].start);
    EXPECT_EQ(fact<QComboBox>("chord_layout")->currentIndex(), 0);
    window->transcribe()->chords()->select_tick(start);
    EXPECT_EQ(fact<QComboBox>("chord_layout")->currentIndex(), 2) << "close";
    EXPECT_EQ(fact<QComboBox>("chord_inversion")->currentIndex(), 1);
    run("part.derive part=Bass kind=block low=C3\n");
    const auto now = voiced_now();
    std::vector<int> played;
    for (const PlacedNote& n : notes(PartRole::Bass))
        if (n.note.start == start) played.push_back(n.note.pitch);
    EXPECT_EQ(played, now) << "a part made of the chords has its pitches";
    layout = fact<QComboBox>("chord_layout");
    layout->setCurrentIndex(0);
    emit layout->activated(0);
    EXPECT_TRUE(voiced_now().empty());
}

TEST_F(TranscribeTest, DrumsAreReadInHalfTimeWithoutAnyChangeAndAFillIsWrittenBeforeASection) {
    select(PartRole::Drums);
    auto* read = window->findChild<QComboBox*>("read_as");
    ASSERT_TRUE(read && read->isVisible());
    const auto before = session->documents().document();
    const QImage counted = window->transcribe()->drums()->grab().toImage();
    read->setCurrentIndex(1);
    const QImage half = window->transcribe()->drums()->grab().toImage();
    EXPECT_NE(half, counted);
    read->setCurrentIndex(2);
    EXPECT_NE(window->transcribe()->drums()->grab().toImage(), half);
    EXPECT_EQ(session->documents().document(), before) << "only the drawing";
    read->setCurrentIndex(0);
    auto* fill = fact<QPushButton>("fill0");
    ASSERT_TRUE(fill);
    const std::size_t count = notes_of(PartRole::Drums);
    QTest::mouseClick(fill, Qt::LeftButton);
    EXPECT_GT(notes_of(PartRole::Drums), count);
    QTest::mouseClick(fact<QPushButton>("hear_fill0"), Qt::LeftButton);
    EXPECT_GT(session->transport().loop_end(), session->transport().loop_start());
}

}  // namespace fw::app

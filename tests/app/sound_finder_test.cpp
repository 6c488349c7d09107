// SPDX-License-Identifier: GPL-3.0-or-later
// A sound like the original's: found, fitted, cut; and how a part's sound behaves.
#include "fixture.hpp"

#include "app/number_field.hpp"
#include "app/sound_finder.hpp"
#include "app/sound_picture.hpp"
#include "formats/sound_file.hpp"

#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPrinter>
#include <QPushButton>
#include <QTabWidget>
#include <QToolButton>
#include <QTreeWidget>

namespace fw::app {

class SoundFinderTest : public WindowTest {
protected:
    void SetUp() override {
        WindowTest::SetUp();
        window->show_desk(Desk::Rebuild);
        finder()->set_index_file(folder / "sounds.sqlite");
    }
    void TearDown() override { finder()->hide(); }
    static SoundFinder* finder() { return window->rebuild_desk()->finder(); }
    void open(PartRole role) {
        select(role);
        auto* button = in_sheet<QPushButton>("find_sound");
        ASSERT_TRUE(button);
        QTest::mouseClick(button, Qt::LeftButton);
        ASSERT_TRUE(finder()->isVisible());
    }
    static void wait() {
        ASSERT_TRUE(QTest::qWaitFor([] { return !finder()->busy(); }, 180000));
    }
    static const Layer& layer(PartRole role) { return part(role)->layers.front(); }

    const test::TemporaryFolder folder;
};

TEST_F(SoundFinderTest, SoundsOfAFolderAreHeardInPlaceWhileChoosingAndOneStepTakesThemBack) {
    std::filesystem::create_directories(folder / "mine");
    ASSERT_TRUE(write_audio(folder / "mine/low tone.wav", test::tones({{0.0, 0.8, 50}}, 1)));
    ASSERT_TRUE(write_audio(folder / "mine/high tone.wav", test::tones({{0.0, 0.8, 81}}, 1)));
    open(PartRole::Lead);
    ASSERT_FALSE(finder()->moments().empty());
    wait();
    finder()->add_folder(QString::fromStdString((folder / "mine").string()));
    wait();
    EXPECT_TRUE(window->last_message().contains("2 sounds")) << window->last_message().toStdString();
    // By a word of their names.
    auto* words = finder()->findChild<QLineEdit*>("words");
    QTest::keyClicks(words, "tone");
    QTest::keyClick(words, Qt::Key_Return);
    wait();
    auto* results = finder()->findChild<QTreeWidget*>("results");
    ASSERT_GT(results->topLevelItemCount(), 10) << "shipped sounds are among them";
    const auto before = session->documents().document();
    int mine = -1;
    for (int i = 0; i < results->topLevelItemCount(); ++i)
        if (results->topLevelItem(i)->text(0).startsWith("low tone")) mine = i;
    ASSERT_GE(mine, 0);
    results->setCurrentItem(results->topLevelItem(mine));
    EXPECT_EQ(layer(PartRole::Lead).source, &kSampler);
    EXPECT_NE(layer(PartRole::Lead).file.find("low tone.wav"), std::string::npos);
    EXPECT_EQ(layer(PartRole::Lead).value(*index_of_field(kSampler.fields, "root")), 50.0) << "its key was found";
    results->setCurrentItem(results->topLevelItem(mine == 0 ? 1 : 0));
    EXPECT_NE(layer(PartRole::Lead).file, (folder / "mine/low tone.wav").string()) << "the next one is tried";
    QTest::mouseClick(finder()->findChild<QPushButton*>("finder_back"), Qt::LeftButton);
    EXPECT_EQ(*session->documents().document(), *before) << "all that was tried is one step";
}

TEST_F(SoundFinderTest, TheSynthIsFittedToAMomentAndTheBestAreKeptAsRivals) {
    open(PartRole::Bass);
    wait();
    finder()->findChild<QTabWidget*>("finder_tabs")->setCurrentIndex(1);
    finder()->findChild<QDoubleSpinBox*>("fit_seconds")->setValue(6);
    QTest::mouseClick(finder()->findChild<QPushButton*>("fit"), Qt::LeftButton);
    EXPECT_TRUE(finder()->busy());
    ASSERT_TRUE(QTest::qWaitFor([] { return !finder()->fitted().empty(); }, 60000)) << "the best so far is shown while it goes on";
    wait();
    ASSERT_GE(finder()->fitted().size(), 2u);
    const auto fits = finder()->fitted();
    for (std::size_t i = 1; i < fits.size(); ++i) EXPECT_GE(fits[i].distance.total(), fits[i - 1].distance.total());
    finder()->findChild<QListWidget*>("fits")->setCurrentRow(0);
    EXPECT_EQ(layer(PartRole::Bass).patch, fits.front().patch);
    for (const auto& [field, value] : fits.front().settings)
        EXPECT_NEAR(layer(PartRole::Bass).value(field), value, 1e-3 * std::abs(value) + 1e-3) << kSynth.fields[field].id;
    QTest::mouseClick(finder()->findChild<QPushButton*>("keep_rivals"), Qt::LeftButton);
    EXPECT_EQ(part(PartRole::Bass)->rivals.size(), fits.size() - 1);
    EXPECT_EQ(layer(PartRole::Bass).patch, fits.front().patch) << "the nearest is the part itself";
}

TEST_F(SoundFinderTest, ASampleThatWasFoundIsFittedByItsEnvelopeAndADrumOnALayerOfItsOwn) {
    open(PartRole::Bass);
    wait();
    run("layer.source part=Bass layer=1 source=sampler root=E2\n");
    open(PartRole::Bass);
    wait();
    finder()->findChild<QTabWidget*>("finder_tabs")->setCurrentIndex(1);
    auto* fit = finder()->findChild<QPushButton*>("fit");
    EXPECT_EQ(fit->text(), "Fit the sample");
    finder()->findChild<QDoubleSpinBox*>("fit_seconds")->setValue(4);
    const auto before = session->documents().document();
    QTest::mouseClick(fit, Qt::LeftButton);
    ASSERT_TRUE(QTest::qWaitFor([] { return !finder()->fitted().empty(); }, 60000));
    wait();
    finder()->findChild<QListWidget*>("fits")->setCurrentRow(0);
    EXPECT_EQ(layer(PartRole::Bass).source, &kSampler);
    for (const auto& [field, value] : finder()->fitted().front().settings)
        EXPECT_NEAR(layer(PartRole::Bass).value(field), value, 1e-3 * std::abs(value) + 1e-3) << kSampler.fields[field].id;
    EXPECT_EQ(layer(PartRole::Bass).value(*index_of_field(kSampler.fields, "root")), 40.0);
    EXPECT_EQ(part(PartRole::Bass)->steps.size(), finder()->fitted().front().tone.empty() ? 0u : 1u);
    QTest::mouseClick(finder()->findChild<QPushButton*>("finder_back"), Qt::LeftButton);
    EXPECT_EQ(*session->documents().document(), *before);
    // Of the drums one that is made, beside the kit.
    open(PartRole::Drums);
    wait();
    EXPECT_EQ(fit->text(), "Fit a made drum");
    QTest::mouseClick(fit, Qt::LeftButton);
    ASSERT_TRUE(QTest::qWaitFor([] { return !finder()->fitted().empty(); }, 60000));
    wait();
    const std::size_t layers = part(PartRole::Drums)->layers.size();
    finder()->findChild<QListWidget*>("fits")->setCurrentRow(0);
    ASSERT_EQ(part(PartRole::Drums)->layers.size(), layers + 1);
    const Layer& made = part(PartRole::Drums)->layers.back();
    EXPECT_EQ(made.source, &kDrumVoice);
    EXPECT_EQ(made.low_key, drum_sound(finder()->moments().front().kind).key);
    EXPECT_EQ(made.high_key, made.low_key);
    if (finder()->fitted().size() > 1) {
        QTest::mouseClick(finder()->findChild<QPushButton*>("keep_rivals"), Qt::LeftButton);
        EXPECT_EQ(part(PartRole::Drums)->layers.size(), layers + 1) << "each rival has one";
        EXPECT_EQ(part(PartRole::Drums)->rivals.size(), finder()->fitted().size() - 1);
    }
}

TEST_F(SoundFinderTest, AMomentIsCutOutWithItsKeyMarkedAndLeftOutOfWhatLeavesTheHouse) {
    open(PartRole::Bass);
    wait();
    finder()->findChild<QTabWidget*>("finder_tabs")->setCurrentIndex(2);
    finder()->findChild<QCheckBox*>("freed")->setChecked(false);
    QTest::mouseClick(finder()->findChild<QPushButton*>("cut"), Qt::LeftButton);
    wait();
    ASSERT_EQ(part(PartRole::Bass)->layers.size(), 2u) << window->last_message().toStdString();
    const Layer& cut = part(PartRole::Bass)->layers.back();
    ASSERT_TRUE(cut.asset);
    const Asset* asset = session->remake().clips->asset(cut.asset);
    ASSERT_TRUE(asset);
    EXPECT_EQ(asset->origin, AssetOrigin::Original);
    EXPECT_TRUE(in_sheet<QLabel>("from_original"));
    const Remake out = without_original(session->remake());
    EXPECT_TRUE(out.clips->assets.empty());
    EXPECT_EQ(out.part(part(PartRole::Bass)->id)->layers.back().on, 0.0);
    session->documents().undo();
    EXPECT_EQ(part(PartRole::Bass)->layers.size(), 1u);
    // Freed of its neighbours it lies in a file of its own and is still the original's.
    finder()->findChild<QCheckBox*>("freed")->setChecked(true);
    QTest::mouseClick(finder()->findChild<QPushButton*>("cut"), Qt::LeftButton);
    wait();
    ASSERT_EQ(part(PartRole::Bass)->layers.size(), 2u);
    asset = session->remake().clips->asset(part(PartRole::Bass)->layers.back().asset);
    EXPECT_TRUE(std::filesystem::exists(asset->path));
    EXPECT_EQ(asset->origin, AssetOrigin::Original);
}

TEST_F(SoundFinderTest, ADrumsMomentStandsForItsOneSoundOnly) {
    open(PartRole::Drums);
    wait();
    QTest::mouseClick(finder()->findChild<QPushButton*>("cut"), Qt::LeftButton);
    wait();
    const Part& drums = *part(PartRole::Drums);
    ASSERT_EQ(drums.layers.size(), 2u);
    EXPECT_EQ(drums.layers.back().low_key, drums.layers.back().high_key);
}

TEST_F(SoundFinderTest, ALateSoundIsMeasuredAndPlayedEarlyByOneButton) {
    select(PartRole::Lead);
    run("field.set part=Lead layer=1 field=attack_ms value=400\n");
    auto* early = static_cast<QPushButton*>(nullptr);
    ASSERT_TRUE(QTest::qWaitFor([&] { return (early = fact<QPushButton>("play_early")) != nullptr; }, 30000));
    QTest::mouseClick(early, Qt::LeftButton);
    EXPECT_GT(part(PartRole::Lead)->early_ms, 40.0);
    EXPECT_LT(part(PartRole::Lead)->early_ms, 250.0);
    // What was measured of one part is not told of another.
    session->documents().undo();
    ASSERT_TRUE(QTest::qWaitFor([&] { return fact<QPushButton>("play_early") != nullptr; }, 30000));
    select(PartRole::Bass);
    QTest::qWait(800);
    EXPECT_FALSE(fact<QPushButton>("play_early"));
}

TEST_F(SoundFinderTest, ASampleStretchedFarFromItsRootIsWarnedOf) {
    const auto says = [] {
        fact<QWidget>("part_name");
        for (const QLabel* l : window->facts()->widget()->findChildren<QLabel*>())
            if (l->text().contains("more than an octave from the root")) return true;
        return false;
    };
    select(PartRole::Bass);
    EXPECT_FALSE(says());
    run("layer.source part=Bass layer=1 source=sampler root=C7\n");
    EXPECT_TRUE(QTest::qWaitFor(says, 5000));
    run("layer.source part=Bass layer=1 source=sampler root=G2\n");
    EXPECT_TRUE(QTest::qWaitFor([&] { return !says(); }, 5000));
}

TEST_F(SoundFinderTest, ALayersPictureLiesOverTheOriginalAndFollowsItsFields) {
    select(PartRole::Bass);
    auto* fold = in_sheet<QToolButton>("unfold");
    ASSERT_TRUE(fold);
    QTest::mouseClick(fold, Qt::LeftButton);
    auto* picture = in_sheet<SoundPicture>("sound_picture");
    ASSERT_TRUE(picture);
    ASSERT_TRUE(QTest::qWaitFor([&] { return picture->ready(); }, 60000));
    EXPECT_FALSE(picture->original().empty());
    const auto dark = picture->mine().spectrum_db, theirs = picture->original().spectrum_db;
    run("field.set part=Bass layer=1 field=cutoff value=9000\nfield.set part=Bass layer=1 field=slope value=\"12 dB\"\n");
    ASSERT_TRUE(QTest::qWaitFor([&] { return picture->mine().spectrum_db != dark; }, 60000));
    double before = 0.0, now = 0.0;
    for (std::size_t i = dark.size() * 2 / 3; i < dark.size(); ++i) before += dark[i], now += picture->mine().spectrum_db[i];
    EXPECT_GT(now, before) << "an open filter is brighter";
    EXPECT_EQ(picture->original().spectrum_db, theirs) << "the original stays what it is";
    // A group of fields unfolds under a line that says what is set in it.
    auto* group = in_sheet<QPushButton>("group Filter");
    ASSERT_TRUE(group);
    EXPECT_TRUE(group->text().contains("cutoff")) << group->text().toStdString();
    QTest::mouseClick(group, Qt::LeftButton);
    EXPECT_TRUE(in_sheet<FieldBox>("resonance"));
    QTest::mouseClick(in_sheet<QToolButton>("unfold"), Qt::LeftButton);
}

TEST_F(SoundFinderTest, ASheetIsCopiedToAnotherPartSavedRecalledAndPrinted) {
    select(PartRole::Bass);
    run("field.set part=Bass layer=1 field=cutoff value=444\nstep.add part=Bass kind=drive drive=6dB\n");
    window->rebuild_desk()->sheet()->copy_to_part();
    auto* dialog = window->findChild<QDialog*>("copy_sheet");
    ASSERT_TRUE(dialog);
    auto* to = dialog->findChild<QComboBox*>("copy_to");
    to->setCurrentIndex(to->findText(QString::fromStdString(part(PartRole::Lead)->name)));
    QTest::mouseClick(dialog->findChild<QPushButton*>("copy_now"), Qt::LeftButton);
    EXPECT_EQ(layer(PartRole::Lead).value(*index_of_field(kSynth.fields, "cutoff")), 444.0);
    EXPECT_EQ(part(PartRole::Lead)->steps.size(), 1u);
    ASSERT_TRUE(write_sound(folder / "deep.sound.txt", session->remake(), part(PartRole::Bass)->id));
    session->documents().undo();
    EXPECT_NE(layer(PartRole::Lead).value(*index_of_field(kSynth.fields, "cutoff")), 444.0);
    select(PartRole::Lead);
    window->rebuild_desk()->sheet()->recall_sound_from(QString::fromStdString((folder / "deep.sound.txt").string()));
    EXPECT_NEAR(layer(PartRole::Lead).value(*index_of_field(kSynth.fields, "cutoff")), 444.0, 1e-3);
    QPrinter printer;
    printer.setOutputFormat(QPrinter::PdfFormat);
    printer.setOutputFileName(QString::fromStdString((folder / "sheet.pdf").string()));
    window->rebuild_desk()->sheet()->print_on(printer);
    EXPECT_GT(std::filesystem::file_size(folder / "sheet.pdf"), 1000u);
}

TEST_F(SoundFinderTest, ASoundForADrumStandsBesideTheKitAndNotInItsPlace) {
    open(PartRole::Drums);
    wait();
    auto* results = finder()->findChild<QTreeWidget*>("results");
    ASSERT_GT(results->topLevelItemCount(), 3);
    const SourceType* kit = layer(PartRole::Drums).source;
    results->setCurrentItem(results->topLevelItem(0));
    ASSERT_EQ(part(PartRole::Drums)->layers.size(), 2u);
    EXPECT_EQ(layer(PartRole::Drums).source, kit) << "the kit stays";
    EXPECT_EQ(part(PartRole::Drums)->layers[1].low_key, part(PartRole::Drums)->layers[1].high_key);
    results->setCurrentItem(results->topLevelItem(1));
    EXPECT_EQ(part(PartRole::Drums)->layers.size(), 2u) << "the next one takes the place of the first";
    auto* moment = finder()->findChild<QComboBox*>("moment");
    moment->setCurrentIndex(moment->count() - 1);
    emit moment->activated(moment->count() - 1);
    wait();
    QTest::mouseClick(finder()->findChild<QPushButton*>("finder_back"), Qt::LeftButton);
    EXPECT_EQ(part(PartRole::Drums)->layers.size(), 1u);
    results->setCurrentItem(results->topLevelItem(2));
    EXPECT_EQ(part(PartRole::Drums)->layers.size(), 1u) << "for no drum in particular nothing is chosen";
    EXPECT_TRUE(window->last_message().contains("one drum")) << window->last_message().toStdString();
}

TEST_F(SoundFinderTest, WhatIsEditedMeanwhileIsNeitherLostByChoosingNorTakenBack) {
    open(PartRole::Bass);
    wait();
    auto* results = finder()->findChild<QTreeWidget*>("results");
    results->setCurrentItem(results->topLevelItem(0));
    const std::string first_choice = layer(PartRole::Bass).patch;
    run("part.rename part=Lead name=Squeeze\n");
    results->setCurrentItem(results->topLevelItem(1));
    EXPECT_EQ(part(PartRole::Lead)->name, "Squeeze") << "another choice does not lose the edit";
    run("part.rename part=Squeeze name=Box\n");
    QTest::mouseClick(finder()->findChild<QPushButton*>("finder_back"), Qt::LeftButton);
    EXPECT_EQ(part(PartRole::Lead)->name, "Box") << "what was done since is not what was chosen here";
    EXPECT_TRUE(window->last_message().contains("Nothing was chosen here")) << window->last_message().toStdString();
    // The layer it was opened for is gone.
    run("part.add-layer part=Bass source=synth\nlayer.remove part=Bass layer=1\n");
    results->setCurrentItem(results->topLevelItem(2));
    EXPECT_TRUE(window->last_message().contains("is gone")) << window->last_message().toStdString();
}

}  // namespace fw::app

// A song in the real window: made from the demo's loop by a key, sections and regions by mouse and by keys,
// played from the middle, edited while it plays, fixed, exported, taken back.

#include <QLabel>
#include <QSignalSpy>

#include "app/desk/duck_words.h"
#include "app/loop/song_overview.h"
#include "app/shell/hit_row.h"
#include "app/shell/ledger_line.h"
#include "app/stages/duck/dip_picture.h"
#include "app/stages/tune/pitch_field.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/events.h"
#include "core/session/edits/parts.h"
#include "core/session/pattern.h"
#include "tests/app/window_fixture.h"

namespace heft::app {
namespace {

class SongWindowTest : public WindowTest {
 protected:
  SongOverview& overview() { return *window.findChild<SongOverview*>(); }
  Transport& transport() { return window.transport(); }
  // The demo's two bars forty times.
  void makeSong() {
    openDemo();
    QTest::keyClick(&window, Qt::Key_J, Qt::ControlModifier);
    settle();
    ASSERT_TRUE(session().track.song);
    typeInto("Loop length", "80 bars");
    window.loopStrip()->setFocus();
    auto* strip = window.loopStrip();
    strip->doEdit(LoopStrip::EditKind::SelectAll);
    document().edit(Edit{"fill the song", [](Session& s) {
                           for (Part& part : s.parts) {
                             const Part two = part;
                             part.hits.clear(), part.notes.clear();
                             for (int i = 0; i < 40; ++i) {
                               for (Hit h : two.hits) h.startQuarters += 8.0 * i, part.hits.push_back(h);
                               for (Note n : two.notes) n.startQuarters += 8.0 * i, part.notes.push_back(n);
                             }
                           }
                         }});
    settle();
  }
  QWidget* strip() { return window.loopStrip(); }
};

TEST_F(SongWindowTest, ALoopBecomesASongAndTheOverviewComesAndGoes) {
  makeSong();
  EXPECT_TRUE(overview().isVisible());
  EXPECT_LT(window.loopStrip()->view().to(), 20.0) << "a few bars of it are shown";
  EXPECT_EQ(find<ValueField>("Loop length")->shownText(), "80 bars, 2:37");
  while (!document().undoName().isEmpty()) document().undo();
  settle();
  EXPECT_FALSE(session().track.song);
  EXPECT_EQ(session().track.loopBeats, 8);
  EXPECT_TRUE(document().isSaved()) << "as it was opened";
  EXPECT_FALSE(overview().isVisible()) << "two bars need none";
}

// Two windows on one song share renders, not edits: while one plays, each sounds as its own session made cold.
TEST_F(SongWindowTest, TwoWindowsOnOneSongSoundAsTheirOwnSessions) {
  makeSong();
  const QString saved = QString::fromStdString(folder / "song.heft");
  ASSERT_TRUE(document().files().save(saved));
  Window other(QString::fromStdString(folder / "other.db"), sharedCache());
  other.show();
  ASSERT_TRUE(other.openFolder(saved));
  EXPECT_TRUE(other.document().files().isReadOnly());
  EXPECT_EQ(other.findChild<QLabel*>("Ledger without lines")->text(),
            "Measurements and fixes appear here once the track is measured.");
  transport().locate(100.0), transport().play();
  const double at = session().kick().hits[100].startQuarters;
  for (int i = 1; i <= 4; ++i) {
    document().edit(setVelocity(session().kick(), at, 0.2 * i));
    other.document().edit(setPartLevel(other.document().session().bass(), -3.0 * i));
    QTest::qWait(30);
  }
  settle();
  ASSERT_TRUE(QTest::qWaitFor([&] { return !other.document().isBusy(); }, 60000));
  transport().stop();
  EXPECT_NE(session(), other.document().session());
  for (Document* each : {&document(), &other.document()}) {
    StepCache cold;
    const auto alone = render(each->session(), each->assets(), cold);
    ASSERT_TRUE(alone);
    const auto first = static_cast<int64_t>(at * session().track.framesPerQuarter());
    EXPECT_EQ(each->stems()->sum.read(0, first, 40000), alone->sum.read(0, first, 40000));
  }
}

// Whoever watches a song play sees the hit that sounds; a chosen one comes back when it stops.
TEST_F(SongWindowTest, TuneAndDuckShowTheHitUnderThePlayhead) {
  makeSong();
  document().edit(setDucking(session().duck(), true));
  settle();
  const auto& frames = document().stems()->hitFrames();
  const double perQuarter = session().track.framesPerQuarter();
  window.selection().setHit(2);
  auto* field = window.findChild<PitchField*>();
  auto* dip = window.findChild<DipPicture*>();
  const ResolvedDuck* duck = resolvedDuck(document(), session().duck());
  ASSERT_TRUE(duck);
  for (const size_t hit : {size_t{0}, size_t{20}, frames.size() - 1}) {
    const double at = (frames[hit] + 10.0) / perQuarter;
    field->setPlayhead(at), dip->setPlayhead(at);
    EXPECT_EQ(field->shownHit(), static_cast<int>(hit));
    EXPECT_EQ(dip->shownTrigger(*duck), hit);
  }
  field->setPlayhead({}), dip->setPlayhead({});
  EXPECT_EQ(field->shownHit(), 2);
  EXPECT_EQ(dip->shownTrigger(*duck), size_t{2});
  // As it plays, from a bar in the middle.
  window.showStage(Stage::Tune);
  transport().chooseDevice("simulated");
  transport().locate(160.0);
  transport().play();
  EXPECT_TRUE(QTest::qWaitFor([&] { return field->shownHit() > 20; }, 10000));
  // Stopped while another stage is in sight.
  window.showStage(Stage::Align);
  transport().stop();
  window.selection().setHit(2);
  EXPECT_TRUE(QTest::qWaitFor([&] { return field->shownHit() == 2; }, 2000));
  EXPECT_EQ(dip->shownTrigger(*resolvedDuck(document(), session().duck())), size_t{2});
}

TEST_F(SongWindowTest, SectionsAreDraggedNamedRepeatedAndCopied) {
  makeSong();
  SongOverview& song = overview();
  drag(&song, song.at(0.2), song.at(31.0));
  ASSERT_TRUE(transport().region());
  EXPECT_EQ(*transport().region(), std::pair(0.0, 32.0)) << "whole bars";
  EXPECT_EQ(find<ValueField>("Region")->shownText(), "region 1 to 8");
  QTest::keyClick(&window, Qt::Key_K, Qt::ControlModifier);
  settle();
  typeInto("Region", "9 to 24");
  QTest::keyClick(&window, Qt::Key_K, Qt::ControlModifier);
  settle();
  ASSERT_EQ(session().sections.size(), 2u);
  EXPECT_EQ(session().sections[1].name, "Drop");
  EXPECT_EQ(session().sections[1].fromQuarters, 32.0);
  EXPECT_EQ(session().sections[1].toQuarters, 96.0);
  // A border is dragged, no further than its neighbour.
  drag(&song, song.nameAt(96.0) - QPointF(2, 0), song.nameAt(112.0));
  EXPECT_EQ(session().sections[1].toQuarters, 112.0);
  drag(&song, song.nameAt(32.0) + QPointF(2, 0), song.nameAt(8.0));
  EXPECT_EQ(session().sections[1].fromQuarters, 32.0);
  // One press makes it the region.
  QTest::mouseClick(&song, Qt::LeftButton, {}, song.nameAt(60.0).toPoint());
  EXPECT_EQ(*transport().region(), std::pair(32.0, 112.0));
  EXPECT_EQ(transport().start(), 32.0);
  EXPECT_LE(window.loopStrip()->view().from(), 32.0);
  EXPECT_GT(window.loopStrip()->view().to(), 32.0);
  song.setFocus();
  QTest::keyClick(&song, Qt::Key_Escape);
  EXPECT_FALSE(transport().region());
  // Zooming by keys keeps in sight what is in sight, also where the cursor is elsewhere.
  const double middle = 0.5 * (window.loopStrip()->view().from() + window.loopStrip()->view().to());
  ASSERT_GT(window.loopStrip()->view().from(), 0.0);
  QTest::keyClick(window.loopStrip(), Qt::Key_Minus);
  EXPECT_LT(window.loopStrip()->view().from(), middle);
  EXPECT_GT(window.loopStrip()->view().to(), middle);
  QSignalSpy told(&window.loopStrip()->view(), &TimeView::changed);
  QTest::keyClick(window.loopStrip(), Qt::Key_0);
  EXPECT_EQ(told.count(), 1) << "the overview draws what is shown";
  EXPECT_EQ(window.loopStrip()->view().to(), session().track.loopQuarters());
  song.setFocus();
  QTest::keyClick(&song, Qt::Key_Delete);
  settle();
  EXPECT_EQ(session().sections.size(), 1u);
  EXPECT_EQ(song.accessibleItems().size(), 1u);
}

TEST_F(SongWindowTest, IsLocatedByKeyAndByBarAndHitsAreStepped) {
  makeSong();
  typeInto("Position", "57.3");
  EXPECT_NEAR(transport().start(), 226.0, 1e-9);
  EXPECT_GT(window.loopStrip()->view().to(), 226.0);
  EXPECT_EQ(find<ValueField>("Position")->shownText(), "57.3.1");
  const auto& all = document().stems()->hitFrames();
  const double there = 226.0 * session().track.framesPerQuarter();
  const auto shown = static_cast<size_t>(window.selection().hit());
  EXPECT_LE(all[shown], there + 1.0) << "the stages show the hit that sounds there";
  EXPECT_GT(all[shown + 1], there + 1.0);
  overview().setFocus();
  QTest::keyClick(&overview(), Qt::Key_Right);
  EXPECT_NEAR(transport().start(), 228.0, 1e-9);
  QTest::keyClick(&overview(), Qt::Key_Home);
  EXPECT_EQ(transport().start(), 0.0);
  QTest::keyClick(&window, Qt::Key_Period);
  QTest::keyClick(&window, Qt::Key_Period);
  const auto& hits = document().stems()->hitFrames();
  EXPECT_NEAR(transport().start() * session().track.framesPerQuarter(), hits[2], 1.0);
  QTest::keyClick(&window, Qt::Key_Comma);
  EXPECT_NEAR(transport().start() * session().track.framesPerQuarter(), hits[1], 1.0);
  typeInto("Position", "999");
  EXPECT_NEAR(transport().start() * session().track.framesPerQuarter(), hits[1], 1.0) << "there is no such bar";
}

TEST_F(SongWindowTest, PlaysFromTheMiddleWhileItIsEditedAndRepeatsItsRegion) {
  makeSong();
  transport().chooseDevice("simulated");
  typeInto("Position", "40");
  QTest::keyClick(strip(), Qt::Key_Space);
  ASSERT_TRUE(QTest::qWaitFor([&] { return transport().positionQuarters() > 156.5; }, 5000));
  const auto hits = session().kick().hits.size();
  auto* loop = window.loopStrip();
  QTest::mouseClick(loop, Qt::LeftButton, {}, loop->kickAt(157.25).toPoint());
  settle();
  EXPECT_EQ(session().kick().hits.size(), hits + 1) << "placed where the song is, while it plays";
  transport().setRegion(std::pair(156.0, 158.0));
  transport().locate(156.0);
  for (int i = 0; i < 30; ++i) {
    QTest::qWait(50);
    ASSERT_LT(transport().positionQuarters(), 158.3);
  }
  QTest::keyClick(strip(), Qt::Key_Space);
  ASSERT_TRUE(QTest::qWaitFor([&] { return !transport().isPlaying(); }, 3000));
}

TEST_F(SongWindowTest, IsFixedAndSavedAndOpenedAsItWas) {
  makeSong();
  settleRemedies();
  const auto fixable = std::find_if(document().findings().begin(), document().findings().end(),
                                    [](const Finding& f) { return f.remedy.has_value(); });
  ASSERT_NE(fixable, document().findings().end()) << "the demo has faults to mend";
  const size_t hits = session().kick().hits.size(), notes = session().bass().notes.size();
  document().fixes().apply(*fixable);
  settle();
  EXPECT_EQ(session().kick().hits.size(), hits);
  EXPECT_EQ(session().bass().notes.size(), notes);
  const QString saved = QString::fromStdString(folder / "song.heft");
  ASSERT_TRUE(document().files().save(saved));
  const Session was = session();
  ASSERT_TRUE(window.openFolder(saved));
  settle();
  EXPECT_EQ(session().track, was.track);
  EXPECT_EQ(session().sections, was.sections);
  EXPECT_EQ(session().kick().hits, was.kick().hits);
  EXPECT_TRUE(overview().isVisible());
  EXPECT_FALSE(transport().region()) << "another session's region is none of this one's";
}

// A line about hundreds of hits names the sections that they are in; a press shows the worst one there.
TEST_F(SongWindowTest, ALinesHitsAreToldBySection) {
  makeSong();
  document().edit(Edit{"sections", [](Session& s) {
                         s.sections = {{1, "Verse", 0.0, 160.0}, {2, "Drop", 160.0, 320.0}};
                       }});
  settle();
  const auto lines = window.findChildren<LedgerLine*>();
  const auto at = std::find_if(lines.begin(), lines.end(), [](LedgerLine* line) {
    return line->isVisible() && line->hits()->accessibleName().contains("Drop");
  });
  ASSERT_NE(at, lines.end());
  const auto& hits = (*at)->finding().hits;
  const auto inDrop = std::find_if(hits.begin(), hits.end(), [](const HitLine& h) {
    return h.section == "Drop" && h.verdict != Verdict::Holds;
  });
  ASSERT_NE(inDrop, hits.end());
  QTest::mouseClick((*at)->hits(), Qt::LeftButton, {}, (*at)->hits()->cell(inDrop->hit).center().toPoint());
  EXPECT_EQ(hits[static_cast<size_t>(window.selection().hit())].section, "Drop");
  (*at)->setFocus();
  QTest::keyClick(*at, Qt::Key_Right);
  EXPECT_GT(window.selection().hit(), 0) << "keys step through all of them";
}

}  // namespace
}  // namespace heft::app

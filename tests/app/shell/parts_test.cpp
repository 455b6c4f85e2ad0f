// Parts beside kick and bass: added, filled, played, levelled, renamed, bounced, deleted; and a session of an
// earlier version opened, changed, saved and opened again.

#include <QInputDialog>
#include <QLineEdit>

#include "app/desk/part_menu.h"
#include "app/loop/loop_strip.h"
#include "app/stages/sounds/sounds_page.h"
#include "core/judge/part_tuning.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/events.h"
#include "core/session/folder.h"
#include "tests/app/window_fixture.h"
#include "tests/reference/kick_maker.h"

namespace heft::app {
namespace {

class PartsTest : public WindowTest {
 protected:
  LoopStrip* strip() { return window.loopStrip(); }
  void press(QWidget* on, const QPointF& at) { QTest::mouseClick(on, Qt::LeftButton, {}, at.toPoint()); }
  LayerChoice& choice() { return window.findChild<SoundsPage*>()->choice(); }
  const Part& third() { return session().parts.at(2); }
  // A burst of noise that dies away: a clap, as far as a lane is concerned.
  std::string clapFile() {
    std::vector<double> x(9600);
    uint32_t seed = 7;
    for (size_t i = 0; i < x.size(); ++i) {
      seed = seed * 1664525u + 1013904223u;
      x[i] = (static_cast<double>(seed >> 8) / (1 << 24) - 0.5) * std::exp(-static_cast<double>(i) / 1500.0);
    }
    return reference::writeSound(folder, "clap.wav", reference::bufferOf(x, 48000));
  }
  void addClap() {
    openDemo();
    click(find("Add part"));
    drop(find("Part 3 card"), clapFile());
    settle();
    for (double at : {1.0, 3.0}) press(strip(), strip()->partAt(third().id, at) + QPointF(3, 0));
    settle();
  }
  // Chooses from the menu of the part that is looked at; words are written into a dialog that asks.
  void fromPartMenu(const QString& entry, const QString& words = {}) {
    QMenu menu;
    fillPartMenu(menu, choice(), &window);
    if (!words.isEmpty())
      QTimer::singleShot(100, &window, [words] {
        auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
        ASSERT_TRUE(dialog);
        dialog->setTextValue(words);
        dialog->accept();
      });
    for (QAction* action : menu.actions())
      if (action->text() == entry) {
        ASSERT_TRUE(action->isEnabled());
        action->trigger();
        settle();
        return;
      }
    FAIL() << entry.toStdString();
  }
};

// Drums beside the pair are tuned on Tune's page, all at once or each by its own list; a clap without a note
// is not listed.
TEST_F(PartsTest, DrumsAreTunedToTheKeyOnTunesPage) {
  addClap();
  EXPECT_FALSE(document().study()->soundOf(third().id)->landing.noteHz());
  click(find("Add part"));
  reference::KickRecipe recipe;
  recipe.landingHz = 104.5, recipe.tailMs = 400;  // just over G#2, in A minor no note
  drop(find("Part 4 card"),
       reference::writeSound(folder, "tom.wav", reference::bufferOf(reference::makeKick(recipe), 48000)));
  settle();
  press(strip(), strip()->partAt(session().parts.at(3).id, 2.0) + QPointF(3, 0));
  settle();
  window.showStage(Stage::Tune);
  auto* tom = find<ValueField>("Part 4 pitch");
  ASSERT_TRUE(tom && tom->isVisible());
  EXPECT_TRUE(tom->shownText().endsWith("off key")) << tom->shownText().toStdString();
  EXPECT_EQ(find<ValueField>("Part 3 pitch")->shownText(), "no note");
  EXPECT_EQ(openPartKeyLines(session(), document().findings()),
            std::vector<std::string>{partKeyLineId(session().parts.at(3).id)});
  WindowTest::press("Tune parts");
  settleRemedies();
  EXPECT_EQ(document().undoName(), "tune parts to A minor");
  EXPECT_TRUE(tom->shownText().endsWith("in key")) << tom->shownText().toStdString();
  EXPECT_FALSE(find<QPushButton>("Tune parts")->isEnabled()) << "nothing is left to tune";
  document().undo();
  settle();
  // By hand: the first entry is the recording, the second the smallest shift.
  choose("Part 4 pitch", 1);
  EXPECT_TRUE(tom->shownText().endsWith("in key")) << tom->shownText().toStdString();
  choose("Part 4 pitch", 0);
  EXPECT_TRUE(tom->shownText().endsWith("off key")) << tom->shownText().toStdString();
}

TEST_F(PartsTest, AClapIsAddedPlayedLevelledBouncedAndUndone) {
  openDemo();
  const Session before = session();
  const auto sumBefore = document().stems()->sum;
  click(find("Add part"));
  ASSERT_EQ(session().parts.size(), 3u);
  EXPECT_EQ(choice().place(), Place{third().id}) << "it is what is looked at";
  drop(find("Part 3 card"), clapFile());
  settle();
  ASSERT_EQ(third().layers.size(), 1u);
  for (double at : {1.0, 3.0}) press(strip(), strip()->partAt(third().id, at) + QPointF(3, 0));
  settle();
  ASSERT_EQ(third().hits.size(), 2u);
  EXPECT_EQ(third().hits[1].startQuarters, 3.0);
  EXPECT_EQ(session().kick(), before.kick());
  const Stems* stems = document().stems();
  ASSERT_EQ(stems->lanes.size(), 3u);
  EXPECT_NE(stems->sum.key(), sumBefore.key()) << "it is heard in the sum";
  // Its level, typed at the lane's head.
  const float loud = peakOf(stems->lane(third().id)->heard.toBuffer(48000));
  typeInto("Part 3 lane level", "-6");
  settle();
  EXPECT_EQ(third().levelDb, -6);
  EXPECT_NEAR(peakOf(document().stems()->lane(third().id)->heard.toBuffer(48000)) / loud, 0.501, 0.001);
  // Bounced: a recording in the layer's place, the lane as it was, to the bit.
  document().edit(Edit{"drive", [&](Session& s) {
                         s.parts[2].layers[0].chain.put({0, Drive{true, DriveKind::Hard, 0, 12, 1}});
                       }});
  settle();
  const auto lane = document().stems()->lane(third().id)->heard.toBuffer(48000);
  const Session driven = session();
  fromPartMenu("Bounce Part 3 to a recording");
  ASSERT_NE(session(), driven);
  EXPECT_TRUE(third().layers[0].chain.list.empty());
  EXPECT_EQ(document().stems()->lane(third().id)->heard.toBuffer(48000).channels, lane.channels);
  document().undo();
  EXPECT_EQ(session(), driven) << "one step";
  while (!document().undoName().isEmpty()) document().undo();
  settle();
  EXPECT_EQ(session(), before);
}

TEST_F(PartsTest, APartIsNamedOrderedDuplicatedAndRemoved) {
  addClap();
  const int id = third().id;
  fromPartMenu("Rename Part 3...", "Clap");
  EXPECT_EQ(third().title(), "Clap");
  EXPECT_TRUE(window.findChild<QWidget*>("Clap card"));
  EXPECT_TRUE(window.findChild<QWidget*>("Clap lane level"));
  fromPartMenu("Duplicate Clap");
  ASSERT_EQ(session().parts.size(), 4u);
  EXPECT_EQ(session().parts[3].hits, third().hits);
  EXPECT_EQ(session().parts[3].title(), "Clap copy");
  fromPartMenu("Move its lane up");
  EXPECT_EQ(session().parts[2].title(), "Clap copy");
  EXPECT_EQ(document().stems()->lanes[2].part, session().parts[2].id);
  fromPartMenu("Remove Clap copy");
  ASSERT_EQ(session().parts.size(), 3u);
  EXPECT_EQ(session().parts[2].id, id);
  // Kick and bass stay.
  choice().choose(Place{1}, 1);
  QMenu menu;
  fillPartMenu(menu, choice(), &window);
  for (QAction* a : menu.actions())
    if (a->text().startsWith("Remove")) EXPECT_FALSE(a->isEnabled());
}

TEST_F(PartsTest, APartThatIsAddedBesideASoloedOneIsSilent) {
  window.transport().setSolo(1, true);
  addClap();
  EXPECT_TRUE(window.transport().lanes().isSilenced(third().id));
  EXPECT_TRUE(window.transport().silenced().contains(third().id)) << "as its lane shows";
  window.transport().setSolo(1, false);
  EXPECT_TRUE(window.transport().silenced().empty());
}

// Mute and solo of its lane only affect listening; a part that plays notes gets them.
TEST_F(PartsTest, ALaneOfItsOwnForHitsOrNotes) {
  addClap();
  const int id = third().id;
  const QPointF head(156, strip()->partAt(id, 0).y());
  press(strip(), head);
  EXPECT_TRUE(window.transport().lanes().isSolo(id));
  press(strip(), head);
  press(strip(), strip()->partAt(id, 1.0) + QPointF(3, 0));
  press(strip(), strip()->partAt(id, 1.0) + QPointF(3, 0));
  EXPECT_EQ(third().hits.size(), 1u) << "a second click on a chosen hit removes it";
  fromPartMenu("Play notes");
  EXPECT_TRUE(third().hits.empty() && third().playsNotes());
  press(strip(), strip()->partAt(id, 2.0) + QPointF(3, 0));
  ASSERT_EQ(third().notes.size(), 1u);
  EXPECT_EQ(third().notes[0].startQuarters, 2.0);
  EXPECT_EQ(third().layers.size(), 1u) << "a recording plays notes as well";
  // The keyboard's cursor goes from lane to lane.
  strip()->setFocus();
  QTest::keyClick(strip(), Qt::Key_Up, Qt::ControlModifier);
  QTest::keyClick(strip(), Qt::Key_Up, Qt::ControlModifier);
  QTest::keyClick(strip(), Qt::Key_Down, Qt::ControlModifier);
  QTest::keyClick(strip(), Qt::Key_PageDown);
  QTest::keyClick(strip(), Qt::Key_Right);
  QTest::keyClick(strip(), Qt::Key_Return);
  EXPECT_GE(third().notes.size(), 1u);
}

// Pressing the sum's name opens its processors, which act on the audible lanes.
TEST_F(PartsTest, TheSumIsFinishedAndStemsAreNot) {
  openDemo();
  const auto kick = document().stems()->kick().key();
  press(strip(), QPointF(30, strip()->height() - 12));
  ASSERT_TRUE(choice().isSum());
  document().edit(addProcessor({}, freshProcessor(Processor::What(Limiter()).index())));
  ASSERT_TRUE(window.findChild<SoundsPage*>()->showProcessor("Limiter"));
  typeInto("Ceiling", "-12");
  settle();
  EXPECT_EQ(session().sum.finish.first<Limiter>()->ceilingDb, -12.0);
  EXPECT_LE(peakOf(document().stems()->sum.toBuffer(48000)), amplitudeFromDb(-12) + 1e-6);
  EXPECT_EQ(document().stems()->kick().key(), kick);
  EXPECT_EQ(document().snapshot()->lanes, 1u);
  window.transport().setMuted(2, true);
  settle();
  const Signal& heard = document().snapshot()->after[0]->signal();
  EXPECT_NE(heard.key(), document().stems()->sum.key()) << "without the bass";
}

// Without a mouse: added by Tab and Space, built by Return and the menu's first entry, its level typed at the
// lane's head, a hit placed in its lane by the loop's cursor.
TEST_F(PartsTest, ByKeyboardAlone) {
  openDemo();
  auto focused = [] { return QApplication::focusWidget(); };
  auto tabTo = [&](const QString& name) {
    for (int i = 0; i < 200; ++i) {
      if (focused() && focused()->objectName() == name) return true;
      QTest::keyClick(focused() ? focused() : &window, Qt::Key_Tab);
    }
    return false;
  };
  ASSERT_TRUE(tabTo("Add part"));
  QTest::keyClick(focused(), Qt::Key_Space);
  settle();
  ASSERT_EQ(session().parts.size(), 3u);
  ASSERT_TRUE(tabTo("Part 3 card"));
  QTimer::singleShot(100, &window, [] {
    auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
    ASSERT_TRUE(menu);
    menu->setActiveAction(menu->actions().first());
    QTest::keyClick(menu, Qt::Key_Return);
  });
  QTest::keyClick(focused(), Qt::Key_Return);
  settle();
  ASSERT_EQ(third().layers.size(), 1u);
  ASSERT_TRUE(tabTo("Part 3 lane level"));
  QTest::keyClick(focused(), Qt::Key_Return);
  QTest::keyClick(focused(), Qt::Key_A, Qt::ControlModifier);
  QTest::keyClicks(focused(), "-5");
  QTest::keyClick(focused(), Qt::Key_Return);
  EXPECT_EQ(third().levelDb, -5);
  ASSERT_TRUE(tabTo("Loop strip"));
  for (int i = 0; i < 2; ++i) QTest::keyClick(focused(), Qt::Key_PageDown);
  for (int i = 0; i < 4; ++i) QTest::keyClick(focused(), Qt::Key_Right);
  QTest::keyClick(focused(), Qt::Key_Return);
  ASSERT_EQ(third().hits.size(), 1u);
  EXPECT_EQ(third().hits[0].startQuarters, 1.0);
}

TEST_F(PartsTest, ASessionOfVersionTwoIsChangedSavedAndOpenedAgain) {
  const std::string kept = std::string(HEFT_TEST_DATA) + "/../kept/07.heft", copy = folder / "old.heft";
  std::filesystem::copy(kept, copy, std::filesystem::copy_options::recursive);
  ASSERT_TRUE(window.openFolder(QString::fromStdString(copy)));
  settle();
  const Session opened = session();
  ASSERT_EQ(opened.parts.size(), 2u);
  click(find("Add part"));
  typeInto("Kick lane level", "-3");
  settle();
  const Session changed = session();
  ASSERT_TRUE(document().files().save(QString::fromStdString(copy)));
  const auto again = openSession(copy);
  ASSERT_TRUE(again);
  Session back = again->session;
  back.savedOn = changed.savedOn;
  EXPECT_EQ(back.parts, changed.parts);
  EXPECT_EQ(back.kick().levelDb, -3);
  document().undo(), document().undo();
  EXPECT_EQ(session(), opened);
}

}  // namespace
}  // namespace heft::app

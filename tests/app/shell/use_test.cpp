// What a press, a drop and a typed value do across the window: Fix all, sounds on one side, metre and A4,
// exports.

#include <QDir>
#include <QLabel>
#include <QPlainTextEdit>

#include "app/stages/export/export_page.h"
#include "app/theme/theme.h"
#include "tests/app/window_fixture.h"
#include "tests/reference/kick_maker.h"

namespace heft::app {
namespace {

class UseTest : public WindowTest {};

// What is in range, intended, applied as one step.
TEST_F(UseTest, MendAllIsOneStepAndLeavesWhatIsIntended) {
  openDemo();
  settleRemedies();
  const Session before = session();
  document().fixes().setMeantSo("kick-key", true);
  settleRemedies();
  fixAll();
  settleRemedies();
  EXPECT_EQ(session().kick().layers[0].recorded()->targetMidi, before.kick().layers[0].recorded()->targetMidi);
  EXPECT_NE(session(), before);
  EXPECT_NE(session().kick().layers[0].recorded()->length, before.kick().layers[0].recorded()->length);
  EXPECT_TRUE(find("Notice words")->isVisible()) << "it says what it did";
  QTest::keyClick(&window, Qt::Key_Z, Qt::ControlModifier);
  settle();
  EXPECT_FALSE(find("Notice words")->isVisible()) << "which is so no more";
  Session back = session();
  back.meantSo = before.meantSo;
  EXPECT_EQ(back, before);
}

// A sound only on the right channel has a wave on its card and in the loop.
TEST_F(UseTest, ASoundOnOneSideIsDrawn) {
  AudioBuffer right(48000, 2, 24000);
  const auto x = reference::sine(50, 0.5, 0.5, 48000);
  std::copy(x.begin(), x.end(), right.channels[1].begin());
  EXPECT_EQ(&louderChannel(right), &right.channels[1]);
  const QImage before = find("Bass card")->grab().toImage();
  drop(find("Bass card"), reference::writeSound(folder, "right.wav", right));
  ASSERT_TRUE(QTest::qWaitFor([&] { return session().bassLayer() != nullptr; }, 10000));
  settle();
  const QImage card = find("Bass card")->grab().toImage();
  int inked = 0;  // left of the boxes, well above and below the middle line
  for (int px = 9; px < 54; ++px)
    for (int py : {8, 18}) inked += card.pixelColor(px, py) == theme().bass;
  EXPECT_GT(inked, 10);
}

// Metre and A4 are typed in the header; what they mean follows.
TEST_F(UseTest, MetreAndConcertPitchAreTyped) {
  openDemo();
  typeInto("Time signature", "6/8");
  EXPECT_EQ(session().track.beatsPerBar, 6);
  EXPECT_EQ(session().track.beatUnit, 8);
  typeInto("Time signature", "4/4");
  typeInto("A4", "432");
  EXPECT_EQ(session().track.notes.a4Hz, 432);
  settle();
  const Finding* key = finding("kick-key");
  ASSERT_TRUE(key);
  EXPECT_EQ(key->sentence.find("58 cents"), std::string::npos) << "another A1: " << key->sentence;
  typeInto("A4", "flat");
  EXPECT_EQ(session().track.notes.a4Hz, 432);
}

// An export that would replace files asks first.
TEST_F(UseTest, AnExportAsksBeforeItWritesOver) {
  openDemo();
  window.showStage(Stage::Export);
  auto* page = static_cast<ExportPage*>(window.page(Stage::Export));
  page->setFolder(QString::fromStdString(folder / "out"));
  auto* log = find<QPlainTextEdit>("Export log");
  click(find<QPushButton>("Write files"));
  ASSERT_TRUE(QTest::qWaitFor([&] { return log->toPlainText().contains("Written to"); }, 20000));
  const QStringList files = QDir(QString::fromStdString(folder / "out")).entryList(QDir::Files);
  ASSERT_GE(files.size(), 3);
  const std::string mine = folder / ("out/" + files[0].toStdString());
  reference::writeBytes(mine, "my own");
  settle();
  click(find<QPushButton>("Write files"));
  QTest::qWait(500);
  EXPECT_EQ(reference::contentsOf(mine), "my own") << "asked first";
}

}  // namespace
}  // namespace heft::app

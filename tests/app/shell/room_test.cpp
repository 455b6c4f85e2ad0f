// The picture is the page at every size: how high it is, and that lanes never get smaller than their text.

#include <QLabel>
#include <QScrollBar>

#include "app/loop/loop_strip.h"
#include "app/shell/ledger_panel.h"
#include "app/stages/duck/dip_picture.h"
#include "app/stages/duck/trigger_lane.h"
#include "app/stages/sounds/wave_picture.h"
#include "app/stages/spectrum_pane.h"
#include "app/stages/tune/pitch_field.h"
#include "app/widgets/value_field.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/values.h"
#include "tests/app/stages/sounds_fixture.h"
#include "tests/reference/kick_maker.h"

namespace heft::app {
namespace {

class RoomTest : public SoundsTest {
 protected:
  // Height of a page's largest picture as a share of the page, once it is laid out.
  double share(Stage stage, double wanted) {
    window.showStage(stage);
    settle();
    const auto now = [&] {
      StagePage* shown = window.page(stage);
      int highest = 0;
      for (const Picture* picture : shown->findChildren<Picture*>())
        if (picture->isVisible() && picture->width() > 300) highest = std::max(highest, picture->height());
      return static_cast<double>(highest) / shown->height();
    };
    (void)QTest::qWaitFor([&] { return now() >= wanted; }, 1000);
    return now();
  }
};

TEST_F(RoomTest, ThePictureIsThePage) {
  constexpr double kLeast = 0.55;
  openDemo();
  for (const bool full : {false, true}) {
    if (full) {
      // Eight parts, eight duckings, an EQ with all of its bands on.
      for (int id = 3; id <= 8; ++id)
        document().edit(addPart(id, "Part " + std::to_string(id), id % 2 ? Plays::Hits : Plays::Notes));
      for (int id = 2; id <= 8; ++id) document().edit(addDuck(id, unducked(session())));
      look("EQ");
      for (int band = 1; band <= 4; ++band)
        document().edit(putValue("x", page()->choice().chainPlace()->owner(),
                                 "eq.band_" + std::to_string(band) + ".on", true));
    }
    for (const QSize size : {QSize(1100, 700), QSize(1280, 800), QSize(1920, 1080)}) {
      window.resize(size);
      for (const Stage stage : {Stage::Sounds, Stage::Tune, Stage::Align, Stage::Duck, Stage::Compare})
        EXPECT_GE(share(stage, kLeast), kLeast) << window.page(stage)->height() << " " << size.width() << " "
                                                << stageName(stage) << (full ? " full" : "");
    }
  }
}

// With the spectrum beside it and with the library open, nothing of a page is beyond its edges or under the
// Ledger.
TEST_F(RoomTest, APageEndsWhereTheLedgerBegins) {
  openDemo();
  auto* ledger = window.findChild<LedgerPanel*>();
  const auto beyond = [&](Stage stage) {
    StagePage* shown = window.page(stage);
    std::string out;
    const int end = ledger->isVisible() ? ledger->mapTo(&window, QPoint()).x() : window.width();
    for (const QWidget* part : shown->findChildren<QWidget*>())
      if (part->isVisible() && part->mapTo(&window, QPoint(part->width(), 0)).x() > end &&
          !part->visibleRegion().isEmpty())
        out += part->objectName().toStdString() + "; ";
    return out;
  };
  for (const QSize size : {QSize(1100, 700), QSize(1280, 800), QSize(1920, 1080)}) {
    window.resize(size);
    const std::string at = " at " + std::to_string(size.width());
    for (const bool spectrum : {false, true})
      for (const Stage stage : {Stage::Sounds, Stage::Tune, Stage::Align, Stage::Duck, Stage::Compare}) {
        window.showStage(stage);
        if (auto* show = window.page(stage)->findChild<QPushButton*>("Show spectrum"))
          show->setChecked(spectrum);
        settle();
        EXPECT_EQ(beyond(stage), "") << stageName(stage) << (spectrum ? " with its spectrum" : "") << at;
      }
    for (const Stage stage : {Stage::Sounds, Stage::Tune, Stage::Align, Stage::Duck, Stage::Compare}) {
      window.showStage(stage);
      window.showLibrary(true);
      settle();
      EXPECT_EQ(beyond(stage), "") << stageName(stage) << " beside the library" << at;
      window.showLibrary(false);
    }
  }
}

// Where both do not fit, F swaps picture and spectrum, and the focus goes along: a second F swaps back.
TEST_F(RoomTest, TheFocusGoesWithTheSpectrum) {
  openDemo();
  window.resize(1100, 700);
  window.showLibrary(true);
  for (const Stage stage : {Stage::Sounds, Stage::Tune}) {
    window.showStage(stage);
    settle();
    auto* pane = window.page(stage)->findChild<SpectrumPane*>();
    QWidget* picture = stage == Stage::Sounds ? static_cast<QWidget*>(window.findChild<WavePicture*>())
                                              : window.findChild<PitchField*>();
    picture->setFocus();
    QTest::keyClick(picture, Qt::Key_F);
    EXPECT_TRUE(pane->isVisible() && !picture->isVisible()) << stageName(stage);
    ASSERT_EQ(window.focusWidget(), pane) << stageName(stage);
    QTest::keyClick(pane, Qt::Key_F);
    EXPECT_TRUE(picture->isVisible() && !pane->isVisible()) << stageName(stage);
    EXPECT_EQ(window.focusWidget(), picture) << stageName(stage);
  }
}

// Sixteen parts at the least height: a lane is as high as its text, those out of sight are brought there by the
// wheel and by keys, and a click lands in the lane that is seen.
TEST_F(RoomTest, LanesScrollInsteadOfShrinking) {
  openDemo();
  for (int id = 3; id <= 16; ++id) document().edit(addPart(id, "Part " + std::to_string(id), Plays::Hits));
  window.resize(1100, 700);
  settle();
  LoopStrip* strip = window.loopStrip();
  auto* scroll = strip->findChild<QScrollBar*>("Lanes");
  ASSERT_TRUE(scroll->isVisible());
  const auto click = [&](int y) {
    QTest::mouseClick(strip, Qt::LeftButton, {}, QPoint(strip->width() / 2, y));
    settle();
  };
  // What is covered by the sum's lane cannot be clicked.
  const Session before = session();
  click(strip->height() - 12);
  EXPECT_EQ(session(), before);
  QWheelEvent down(QPointF(40, 60), strip->mapToGlobal(QPointF(40, 60)), {}, QPoint(0, -120), Qt::NoButton, {},
                   Qt::NoScrollPhase, false);
  for (int i = 0; i < 40; ++i) QApplication::sendEvent(strip, &down);
  EXPECT_EQ(scroll->value(), scroll->maximum());
  // The backing is the last above the sum, the sixteenth part above it.
  const int bottom = strip->height() - 4 - 26;
  click(bottom - 26 - 9);
  EXPECT_EQ(session().part(16)->hits.size(), 1u);
  strip->setFocus();
  for (int i = 0; i < 16; ++i) QTest::keyClick(strip, Qt::Key_Up, Qt::ControlModifier);
  EXPECT_EQ(scroll->value(), 0) << "the hand is in the kick's lane, which is in sight";
  for (const auto* field : strip->findChildren<ValueField*>())
    if (field->isVisible() && field->objectName().contains("level", Qt::CaseInsensitive))
      EXPECT_GE(field->y(), 18) << field->objectName().toStdString();
}

// Partial repaints equal a full one: a playhead leaves the picture as it was.
TEST_F(RoomTest, APlayheadLeavesWhatItPassed) {
  openDemo();
  document().edit(duckBy(session(), 8.0));
  window.showStage(Stage::Duck);
  settle();
  for (QWidget* picture :
       {static_cast<QWidget*>(window.loopStrip()), static_cast<QWidget*>(window.findChild<DipPicture*>()),
        static_cast<QWidget*>(window.findChild<TriggerLane*>())}) {
    const QImage whole = picture->grab().toImage();
    for (const int x : {217, 240, 555, 801, picture->width() - 20}) {
      QImage part = whole;
      part.fill(whole.pixelColor(0, whole.height() - 1));  // its ground
      const QRect column(x, 0, 7, picture->height());
      QPixmap onto = QPixmap::fromImage(part);
      picture->render(&onto, column.topLeft(), column, {});
      // An antialiased edge may be a little paler at the clip.
      const QImage is = onto.toImage().copy(column), was = whole.copy(column);
      int differ = 0;
      for (int px = 1; px < column.width() - 1; ++px)
        for (int y = 0; y < column.height(); ++y)
          differ += std::abs(is.pixelColor(px, y).lightness() - was.pixelColor(px, y).lightness()) > 24;
      EXPECT_LE(differ, 2) << picture->accessibleName().toStdString() << " at " << x;
    }
  }
}

// An empty window offers the files, a folder and the demo; files dropped anywhere on it find their places.
TEST_F(RoomTest, AnEmptyWindowTakesThreeFilesAtOnce) {
  ASSERT_TRUE(find("First steps")->isVisible());
  const auto kick =
      reference::writeSound(folder, "kick 9.wav", reference::bufferOf(reference::makeKick({}), 48000));
  const auto bass = reference::writeSound(folder, "sub one.wav",
                                          reference::bufferOf(reference::sine(55, 0.5, 2.0, 48000), 48000));
  const auto rest =
      reference::writeSound(folder, "chords.wav", reference::bufferOf(reference::noise(0.1, 200000, 4), 48000));
  QMimeData files;
  files.setUrls({QUrl::fromLocalFile(QString::fromStdString(rest)),
                 QUrl::fromLocalFile(QString::fromStdString(bass)),
                 QUrl::fromLocalFile(QString::fromStdString(kick))});
  QDragEnterEvent enter(QPoint(600, 400), Qt::CopyAction, &files, Qt::LeftButton, {});
  QApplication::sendEvent(&window, &enter);
  QDropEvent drop(QPointF(600, 400), Qt::CopyAction, &files, Qt::LeftButton, {});
  QApplication::sendEvent(&window, &drop);
  ASSERT_TRUE(QTest::qWaitFor(
      [&] { return !session().backing.asset.empty() && session().kickLayer() && session().bassLayer(); },
      20000));
  settle();
  EXPECT_EQ(session().kickLayer()->asset().name, "kick 9.wav");
  EXPECT_EQ(session().bassLayer()->asset().name, "sub one.wav");
  EXPECT_EQ(session().backing.asset.name, "chords.wav");
  EXPECT_FALSE(find("First steps")->isVisible());
  // A second kick replaces none: a message says where it can go.
  const Session before = session();
  QApplication::sendEvent(&window, &enter);
  QDropEvent again(QPointF(600, 400), Qt::CopyAction, &files, Qt::LeftButton, {});
  QApplication::sendEvent(&window, &again);
  settle();
  EXPECT_EQ(session(), before);
  EXPECT_TRUE(find<QLabel>("Notice words")->text().contains("on a card"));
}

TEST_F(RoomTest, TheDemoOpensFromAnEmptyWindow) {
  const QByteArray was = qgetenv("XDG_DATA_HOME");
  qputenv("XDG_DATA_HOME", QByteArray::fromStdString(folder / "data"));
  press("Open the demo");
  ASSERT_TRUE(QTest::qWaitFor([&] { return document().track().name == "Saltworks"; }, 60000));
  settle();
  EXPECT_TRUE(session().kickLayer());
  qputenv("XDG_DATA_HOME", was);
}

// The wave zooms at the pointer, scrolls, and fits again; its handles follow.
TEST_F(RoomTest, AWaveZoomsAtThePointer) {
  openDemo();
  page()->choice().choose(kickOf(session()), session().kick().layers[0].id);
  auto* wave = window.findChild<WavePicture*>();
  ASSERT_TRUE(wave->isVisible());
  const QPointF length = wave->lengthHandle();
  const auto wheel = [&](QPointF at, int turn, Qt::KeyboardModifiers keys) {
    QWheelEvent event(at, wave->mapToGlobal(at), {}, QPoint(0, turn), Qt::NoButton, keys, Qt::NoScrollPhase,
                      false);
    QApplication::sendEvent(wave, &event);
  };
  for (int i = 0; i < 6; ++i) wheel(QPointF(length.x(), 100), 120, Qt::ControlModifier);
  EXPECT_NEAR(wave->lengthHandle().x(), length.x(), 1.0) << "what is under the pointer stays";
  const double strike = wave->handle(WavePicture::Grip::Start).x();
  EXPECT_LT(strike, 0.0) << "the strike is out of sight";
  // A pixel is finer now: the same drag trims less.
  const double before = document().study()->pair.kick.sound->tailMs;
  drag(wave, wave->lengthHandle(), wave->lengthHandle() - QPointF(40, 0), Qt::AltModifier);
  const double after = session().kick().layers[0].recorded()->length->toMs(session().track.tempoBpm);
  EXPECT_LT(before - after, 10.0);
  EXPECT_GT(before - after, 0.5);
  wheel(QPointF(length.x(), 100), 240, {});
  EXPECT_GT(wave->handle(WavePicture::Grip::Start).x(), strike) << "scrolled towards the strike";
  wave->setFocus();
  QTest::keyClick(wave, Qt::Key_0, Qt::ControlModifier);
  EXPECT_GT(wave->handle(WavePicture::Grip::Start).x(), 0.0);
}

// Files of one name are told apart by their folders, else by their number.
TEST_F(RoomTest, ReferencesOfOneNameAreToldApart) {
  Session s;
  s.references = {{{.hash = "a", .name = "mix.wav", .from = "/x/one/mix.wav"}},
                  {{.hash = "b", .name = "mix.wav", .from = "/x/two/mix.wav"}},
                  {{.hash = "c", .name = "other.wav", .from = "/x/two/other.wav"}},
                  {{.hash = "d", .name = "mix.wav"}}};
  EXPECT_EQ(referenceNames(s), QStringList({"mix (one)", "mix (two)", "other", "mix (4)"}));
}

}  // namespace
}  // namespace heft::app

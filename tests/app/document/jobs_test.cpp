// Long work runs aside: the window shows it, it can be cancelled, and edits play meanwhile.

#include <gtest/gtest.h>

#include <QLabel>
#include <QPushButton>
#include <QTest>
#include <map>
#include <memory>

#include "app/desk/layer_choice.h"
#include "app/document/aside.h"
#include "app/shell/ledger_panel.h"
#include "app/shell/window.h"
#include "core/session/folder.h"
#include "tests/app/window_fixture.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/signals.h"

namespace heft::app {
namespace {

using namespace reference;

AudioBuffer minutesOfNoise(double minutes) {
  return bufferOf(noise(0.2, static_cast<size_t>(minutes * 60 * 44100), 7), 44100, 2);
}

class JobsTest : public WindowTest {};

// Work that ends at once reports once, and nothing reports to a deleted owner: both failed with the toolkit's
// own futures, one time in some ten thousand.
TEST(Aside, EveryResultIsToldOnceAndToNobodyWhoIsGone) {
  constexpr int kTimes = 20000;
  std::map<int, int> told;
  int gone = 0;
  QObject owner;
  for (int i = 0; i < kTimes; ++i) {
    runAside(
        &owner, [i] { return i; }, [&](int result) { ++told[result]; }, [](const QString&) {});
    auto leaving = std::make_unique<QObject>();
    runAside(
        leaving.get(), [] { return 0; }, [&](int) { ++gone; }, [](const QString&) {});
    leaving.reset();
    if (i % 97 == 0) QCoreApplication::processEvents();
  }
  ASSERT_TRUE(QTest::qWaitFor([&] { return told.size() == kTimes; }, 20000));
  EXPECT_TRUE(std::all_of(told.begin(), told.end(), [](const auto& t) { return t.second == 1; }));
  EXPECT_EQ(gone, 0);
}

// A hundred requests in a row run twice: the one in progress, whose result is no longer wanted, and the last
// one.
TEST(Aside, OfManyThingsAskedForTheLastIsTold) {
  QObject owner;
  LatestAside aside;
  std::atomic<int> ran = 0;
  std::vector<int> told;
  int now = 0;
  for (now = 1; now <= 100; ++now)
    aside.ask(
        &owner,
        [&] {
          return [&ran, is = now] {
            ++ran;
            QThread::msleep(2);
            return is;
          };
        },
        [&](int is) { told.push_back(is); }, [](const QString&) {});
  now = 100;
  ASSERT_TRUE(aside.isRunning());
  ASSERT_TRUE(QTest::qWaitFor([&] { return !aside.isRunning(); }, 5000));
  EXPECT_EQ(told, std::vector<int>{100});
  EXPECT_EQ(ran, 2);
}

// Nothing that a job throws ends the window or leaves it busy: a sentence is shown, and the next job runs.
TEST_F(JobsTest, AJobThatThrowsSaysSoAndIsOver) {
  bool done = false;
  document().jobs().start(
      "Reading bad.wav", Jobs::Kind::CanBeCancelled,
      [](const std::stop_token&) -> int { throw std::length_error("vector"); }, [&](int) { done = true; });
  settle();
  EXPECT_FALSE(done);
  EXPECT_FALSE(document().jobs().isBusy());
  const QString said = find<QLabel>("Notice words")->text();
  EXPECT_TRUE(said.startsWith("Reading bad.wav: ")) << said.toStdString();
  LatestAside aside;
  int failed = 0;
  for (int i = 0; i < 3; ++i)
    aside.ask(
        &window, [] { return []() -> int { throw std::bad_alloc(); }; }, [](int) { FAIL(); },
        [&](const QString&) { ++failed; });
  ASSERT_TRUE(QTest::qWaitFor([&] { return !aside.isRunning(); }, 5000));
  EXPECT_EQ(failed, 1) << "of three that were asked for the last is told";
}

TEST_F(JobsTest, AReferenceBeingReadIsShownAndCanBeCalledOff) {
  const auto path =
      QString::fromStdString(writeSound(folder, "night.wav", minutesOfNoise(3), SampleFormat::Wav16));
  auto* bar = window.findChild<QWidget*>("Activity");
  EXPECT_FALSE(bar->isVisible());
  document().sounds().load(kReferences, path);
  ASSERT_TRUE(QTest::qWaitFor([&] { return bar->isVisible(); }, 5000));
  EXPECT_EQ(window.findChild<QLabel*>("Activity words")->text(), "Reading night.wav...");
  QTest::mouseClick(window.findChild<QPushButton*>("Cancel activity"), Qt::LeftButton);
  EXPECT_FALSE(bar->isVisible());
  settle();
  QTest::qWait(300);
  EXPECT_TRUE(document().session().references.empty()) << "called off, it changes nothing";
  EXPECT_EQ(document().undoName(), "");
}

TEST_F(JobsTest, EditsAreHeardWhileReferencesAreMeasured) {
  Session s;
  Assets assets;
  const auto take = [&](const std::string& name, const AudioBuffer& sound) {
    const auto path = writeSound(folder, name, sound, SampleFormat::Wav16);
    return assets.add(*loadSound(path), path);
  };
  s.bass().layers = {recordedLayer(take("bass.wav", bufferOf(sine(55, 0.5, 1.0, 48000), 48000)))};
  s.bass().notes = {{0.0, 1.0, 33, 0.8}};
  s.references = {{take("long.wav", minutesOfNoise(4))}};
  ASSERT_TRUE(saveSession(folder / "long.heft", s, assets));
  document().files().openAside(QString::fromStdString(folder / "long.heft"));
  ASSERT_TRUE(
      QTest::qWaitFor([&] { return document().study() && !document().study()->notMeasured.empty(); }, 60000));
  EXPECT_TRUE(document().jobs().isBusy());
  EXPECT_TRUE(document().jobs().words().startsWith("Measuring")) << document().jobs().words().toStdString();
  bool heard = false;
  QObject::connect(&document(), &Document::rendered, &window, [&] { heard = true; });
  document().edit(Edit{"quieter", [](Session& now) { now.bass().layers[0].levelDb = -3; }});
  ASSERT_TRUE(QTest::qWaitFor([&] { return heard; }, 60000));
  EXPECT_TRUE(document().study()->references.empty() || !document().study()->references[0])
      << "the sound came before the reference's figures";
  settle();
  ASSERT_EQ(document().study()->references.size(), 1u);
  ASSERT_TRUE(document().study()->references[0]);
  EXPECT_TRUE(document().study()->notMeasured.empty());
  EXPECT_EQ(document().session().bass().layers[0].levelDb, -3);
}

TEST_F(JobsTest, SavedAsideAndOpenedAsideIsTheSame) {
  document().edit(Edit{"name", [](Session& s) { s.track.name = "Aside"; }});
  document().files().saveAside(QString::fromStdString(folder / "aside.heft"));
  settle();
  EXPECT_TRUE(document().isSaved());
  Session kept = document().session();
  kept.savedOn = thisMachine();
  document().newSession();
  document().files().openAside(QString::fromStdString(folder / "aside.heft"));
  settle();
  EXPECT_EQ(document().session(), kept);
  EXPECT_TRUE(document().isSaved());
  // A change made during a read is not lost.
  document().files().openAside(QString::fromStdString(folder / "aside.heft"));
  document().edit(Edit{"name", [](Session& s) { s.track.name = "Changed meanwhile"; }});
  settle();
  EXPECT_EQ(document().session().track.name, "Changed meanwhile");
}

// File names are plain text, never markup.
TEST_F(JobsTest, NamesOfFilesAreShownAsTheyAre) {
  const std::string name = "<b>loud</b> & more.wav";
  reference::KickRecipe recipe;
  drop(find("Kick card"),
       reference::writeSound(folder, "k & <i>x.wav", reference::bufferOf(reference::makeKick(recipe), 48000)));
  ASSERT_TRUE(QTest::qWaitFor([&] { return session().kickLayer() != nullptr; }, 10000));
  reference::writeBytes(folder / "<h1>big.wav", "no sound");
  drop(find("Bass card"), folder / "<h1>big.wav");
  auto* words = find<QLabel>("Notice words");
  ASSERT_TRUE(QTest::qWaitFor([&] { return words->text().contains("<h1>big.wav"); }, 5000));
  EXPECT_EQ(words->textFormat(), Qt::PlainText);
  QTextDocument tip;
  tip.setHtml(find("Kick card")->toolTip());
  EXPECT_TRUE(tip.toPlainText().startsWith("k & <i>x.wav")) << tip.toPlainText().toStdString();
  for (QLabel* label : window.findChildren<QLabel*>())
    if (label->text().contains("<i>"))
      EXPECT_EQ(label->textFormat(), Qt::PlainText)
          << label->objectName().toStdString() << ": " << label->text().toStdString();
}

// Notices disappear by themselves, cover the page without moving it, and end with their session.
TEST_F(JobsTest, ANoticeMovesNothing) {
  openDemo();
  const QPoint strip = window.loopStrip()->mapToGlobal(QPoint()), header = find("Tempo")->mapToGlobal(QPoint());
  document().tell("Something to know.");
  auto* notice = find("Notice");
  ASSERT_TRUE(QTest::qWaitFor([&] { return notice->isVisible(); }, 3000));
  EXPECT_EQ(window.loopStrip()->mapToGlobal(QPoint()), strip);
  EXPECT_EQ(find("Tempo")->mapToGlobal(QPoint()), header);
  document().newSession();
  settle();
  EXPECT_FALSE(notice->isVisible());
}

// A message covers a pending offer, and the offer returns after it.
TEST_F(JobsTest, NewsIsToldWhileAnOfferWaits) {
  openDemo();
  auto* words = find<QLabel>("Notice words");
  Q_EMIT document().sounds().firstBeatFound(0.25);
  EXPECT_TRUE(words->text().contains("first beat")) << words->text().toStdString();
  document().tell("Mended: three lines.");
  EXPECT_EQ(words->text(), "Mended: three lines.");
  click(find("Notice no"));
  EXPECT_TRUE(words->text().contains("first beat"));
  click(find("Notice yes"));
  EXPECT_EQ(session().backing.offsetSeconds, 0.25);
}

// After an edit what is drawn is told twice, by its sound and with its figures; remedies that are tried tell
// their lines alone, and no line is ever seen lower than its words.
TEST_F(JobsTest, RemediesThatAreTriedDrawNothingAnewButTheirLines) {
  openDemo();
  settleRemedies();
  int rendered = 0, studied = 0, clipped = 0;
  QObject here;
  QObject::connect(&document(), &Document::rendered, &here, [&] { ++rendered; });
  QObject::connect(&document(), &Document::studied, &here, [&] { ++studied; });
  document().edit(Edit{"quieter", [](Session& s) { s.kick().levelDb = -1.0; }});
  while (!document().remediesTried() || document().isBusy()) {
    QApplication::processEvents(QEventLoop::AllEvents, 5);
    for (auto* line : window.findChildren<LedgerLine*>())
      for (auto* words : line->findChildren<QLabel*>())
        clipped += words->isVisible() && words->height() < words->heightForWidth(words->width());
  }
  EXPECT_EQ(rendered, 2);
  EXPECT_GT(studied, 2);
  EXPECT_EQ(clipped, 0);
}

// A loop dropped on a card is named as one; one press uses it as what it is, in one step.
TEST_F(JobsTest, ALoopOnACardIsOfferedAsWhatItIs) {
  openDemo();
  reference::KickRecipe recipe;
  const auto kick = reference::makeKick(recipe);
  std::vector<double> loop(96000);
  for (size_t beat = 0; beat < 4; ++beat)
    for (size_t i = 0; i < kick.size() && beat * 24000 + i < loop.size(); ++i)
      loop[beat * 24000 + i] += 0.6 * kick[i];
  const std::string file = reference::writeSound(folder, "four.wav", reference::bufferOf(loop, 48000));
  const Session before = session();
  drop(find("Kick card"), file);
  auto* words = find<QLabel>("Notice words");
  ASSERT_TRUE(QTest::qWaitFor([&] { return words->text().contains("is a loop"); }, 10000));
  settle();
  const AssetRef asset = session().kick().layers[0].recorded()->asset;
  EXPECT_TRUE(words->text().contains("4 onsets")) << words->text().toStdString();
  EXPECT_TRUE(finding("kick-material"));
  EXPECT_FALSE(finding("kick-tail"));
  const Session dropped = session();
  click(find("Notice answer 4"));
  EXPECT_LT(session().kick().layers[0].recorded()->length->toMs(120), 520.0) << "its first hit";
  document().undo();
  EXPECT_EQ(session(), dropped);
  Q_EMIT document().sounds().materialFound(kickOf(session()), session().kick().layers[0].id,
                                  recogniseMaterial(reference::bufferOf(loop, 48000)));
  click(find("Notice answer 2"));
  settle();
  EXPECT_EQ(session().backing.asset, asset);
  EXPECT_TRUE(session().kick().layers.empty());
  document().undo(), document().undo();
  EXPECT_EQ(session(), before);
}

}  // namespace
}  // namespace heft::app

// Processors in the real window: added, moved, copied, presets stepped through by keys and mouse; dragging in
// their pictures.

#include <QClipboard>
#include <QInputDialog>
#include <QSignalSpy>
#include <filesystem>

#include "app/stages/processors/drive_picture.h"
#include "app/stages/processors/eq_picture.h"
#include "app/stages/processors/level_picture.h"
#include "app/stages/processors/shape_picture.h"
#include "app/stages/processors/space_picture.h"
#include "app/stages/sounds/chain_strip.h"
#include "tests/app/stages/sounds_fixture.h"

namespace heft::app {
namespace {

class ChainWindowTest : public SoundsTest {
 protected:
  void SetUp() override {
    SoundsTest::SetUp();
    openDemo();
    page()->choice().choose(kickOf(session()), session().kick().layers[0].id);
  }
  ChainStrip* strip() { return window.findChild<ChainStrip*>(); }
  const std::vector<Processor>& list() { return session().kick().layers[0].chain.list; }
  Owner layer() { return {.part = session().kick().id, .layer = session().kick().layers[0].id}; }
  template <class P>
  P* shown() {
    auto* picture = window.findChild<P*>();
    EXPECT_TRUE(picture->isVisible());
    EXPECT_TRUE(QTest::qWaitFor([&] { return picture->look() && !picture->isMeasuring(); }, 20000));
    settle();
    return picture;
  }
  // Presses a row of the menu that the keys open.
  void addByKeys(int row) {
    QTimer::singleShot(50, receiver.get(), [row] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      ASSERT_TRUE(menu);
      menu->setActiveAction(menu->actions().at(row));
      QTest::keyClick(menu, Qt::Key_Return);
    });
    QTest::keyClick(strip(), Qt::Key_Insert);
  }
};

TEST_F(ChainWindowTest, TwoDrivesAreSwappedByTheKeyboard) {
  strip()->setFocus();
  addByKeys(3);
  ASSERT_EQ(list().size(), 1u);
  typeInto("Amount", "3");
  strip()->setFocus();
  addByKeys(3);
  typeInto("Amount", "18");
  ASSERT_EQ(list().size(), 2u);
  EXPECT_EQ(list()[1].as<Drive>()->driveDb, 18.0);
  const int second = list()[1].id;
  strip()->setFocus();
  QTest::keyClick(strip(), Qt::Key_Left, Qt::AltModifier);
  EXPECT_EQ(list()[0].id, second);
  EXPECT_EQ(page()->choice().processor()->id, second) << "it stays chosen";
  settle();
  EXPECT_EQ(find<ValueField>("Amount")->shownText(), "+18.0 dB");
  // On and off, and the loop without it.
  QTest::keyClick(strip(), Qt::Key_Space);
  EXPECT_FALSE(list()[0].isOn());
  QTest::keyClick(strip(), Qt::Key_Space);
  QTest::keyClick(strip(), Qt::Key_I);
  EXPECT_EQ(heardName(), "No drive");
  EXPECT_FALSE(document().before().applied(session()).kick().layers[0].chain.list[0].isOn());
  QTest::keyClick(strip(), Qt::Key_I);
  // Copied to the sum through the clipboard, duplicated, deleted.
  QTest::keyClick(strip(), Qt::Key_C, Qt::ControlModifier);
  EXPECT_TRUE(QApplication::clipboard()->text().contains("heft_preset"));
  page()->choice().lookAt(ChainPlace{Owner()});
  QTest::keyClick(strip(), Qt::Key_V, Qt::ControlModifier);
  ASSERT_EQ(session().sum.finish.list.size(), 1u);
  EXPECT_EQ(session().sum.finish.list[0].what, list()[0].what);
  QTest::keyClick(strip(), Qt::Key_D, Qt::ControlModifier);
  EXPECT_EQ(session().sum.finish.list.size(), 2u);
  QTest::keyClick(strip(), Qt::Key_Delete);
  QTest::keyClick(strip(), Qt::Key_Delete);
  EXPECT_TRUE(session().sum.finish.list.empty());
  while (!document().undoName().isEmpty()) document().undo();
  EXPECT_TRUE(list().empty());
}

TEST_F(ChainWindowTest, OneIsDraggedToAnotherHolder) {
  document().edit(addProcessor(layer(), freshProcessor(3)));
  document().edit(addProcessor(layer(), freshProcessor(6)));
  const Owner part{.part = session().kick().id};
  settle();
  using What = ChainStrip::What;
  const QPointF from = strip()->placeOf(What::Processor, {layer(), list()[0].id}),
                to = strip()->placeOf(What::Add, {part});
  ASSERT_GT(from.x(), 0.0);
  drag(strip(), from, to);
  ASSERT_EQ(list().size(), 1u);
  ASSERT_EQ(session().kick().finish.list.size(), 1u);
  EXPECT_TRUE(session().kick().finish.list[0].as<Drive>());
  EXPECT_EQ(page()->choice().chainPlace()->of, part);
  document().undo();
  EXPECT_EQ(list().size(), 2u) << "one step";
  // After the limiter, within its own.
  drag(strip(), strip()->placeOf(What::Processor, {layer(), list()[0].id}),
       strip()->placeOf(What::Add, {layer()}));
  EXPECT_TRUE(list()[1].as<Drive>());
}

// Up and Down audition presets level matched; Return keeps one, Esc leaves all as it was.
TEST_F(ChainWindowTest, PresetsAreFlippedThroughWhilePlaying) {
  look("Drive");
  const Processor before = list()[0];
  window.transport().toggle();
  window.showStage(Stage::Tune);
  QTest::keyClick(&window, Qt::Key_F4);
  EXPECT_EQ(QApplication::focusWidget(), strip()) << "from anywhere";
  QTest::keyClick(strip(), Qt::Key_Down);
  settle();
  ASSERT_TRUE(strip()->flipped());
  const std::string first = strip()->flipped()->name;
  EXPECT_TRUE(window.transport().isBefore()) << "it is what is heard";
  EXPECT_EQ(document().before().applied(session()).kick().layers[0].chain.list[0].what,
            std::get<Processor>(strip()->flipped()->what).what);
  EXPECT_EQ(list()[0], before) << "and nothing is changed yet";
  const auto shownAmount = [&] { return find<ValueField>("Amount")->shownText(); };
  const QString heardAmount = shownAmount();
  QTest::keyClick(strip(), Qt::Key_Down);
  settle();
  EXPECT_NE(strip()->flipped()->name, first);
  QTest::keyClick(strip(), Qt::Key_Escape);
  EXPECT_FALSE(window.transport().isBefore());
  EXPECT_EQ(list()[0], before);
  EXPECT_NE(shownAmount(), heardAmount) << "fields showed what was heard";
  // An edit during an audition keeps the preset, then applies.
  QTest::keyClick(strip(), Qt::Key_Down);
  ASSERT_TRUE(strip()->flipped());
  const double heardDb = std::get<Drive>(std::get<Processor>(strip()->flipped()->what).what).driveDb;
  QTest::keyClick(find<ValueField>("Amount"), Qt::Key_Up);
  EXPECT_FALSE(strip()->flipped());
  EXPECT_NEAR(list()[0].as<Drive>()->driveDb, heardDb + 0.5, 0.51);
  EXPECT_NE(list()[0].as<Drive>()->driveDb, heardDb);
  document().undo(), document().undo();
  EXPECT_EQ(list()[0], before);
  strip()->setFocus();
  QTest::keyClick(strip(), Qt::Key_Down);
  QTest::keyClick(strip(), Qt::Key_Return);
  EXPECT_FALSE(window.transport().isBefore());
  EXPECT_NE(list()[0].what, before.what);
  EXPECT_EQ(list()[0].id, before.id);
  window.transport().toggle();
}

// On a chain's name whole layers follow the lists, with their sounds; skips those that cannot be used there.
TEST_F(ChainWindowTest, WholeLayersAreFlippedThroughToo) {
  const Layer was = session().kick().layers[0];
  Layer other = was;
  other.semitones = 7.0, other.recorded()->strikeSemitones = 3.0;
  ASSERT_TRUE(savePreset(presetFolder(), {"higher", other}, document().assets()));
  Layer bass = was;
  bass.what.emplace<BassVoice>();
  ASSERT_TRUE(savePreset(presetFolder(), {"a bass", bass}, document().assets()));
  page()->choice().lookAt(ChainPlace{layer()});
  window.transport().toggle();
  strip()->setFocus();
  settle();
  for (int i = 0; i < 20 && !(strip()->flipped() && strip()->flipped()->name == "higher"); ++i) {
    QTest::keyClick(strip(), Qt::Key_Down);
    settle();
    ASSERT_TRUE(strip()->flipped());
    EXPECT_NE(strip()->flipped()->name, "a bass");
  }
  EXPECT_EQ(strip()->flipped()->name, "higher");
  EXPECT_TRUE(window.transport().isBefore());
  EXPECT_EQ(document().before().applied(session()).kick().layers[0].semitones, 7.0);
  EXPECT_EQ(session().kick().layers[0], was) << "only heard";
  QTest::keyClick(strip(), Qt::Key_Return);
  settle();
  EXPECT_EQ(session().kick().layers[0].semitones, 7.0);
  EXPECT_EQ(session().kick().layers[0].levelDb, was.levelDb) << "its level is its own";
  document().undo();
  EXPECT_EQ(session().kick().layers[0], was);
  window.transport().toggle();
}

TEST_F(ChainWindowTest, ABandIsDraggedOntoANote) {
  look("EQ");
  auto* picture = shown<EqPicture>();
  const auto eq = [&] { return *list()[0].as<Eq>(); };
  const QPointF near(picture->xOf(57.0), picture->height() * 0.4);
  QTest::mouseDClick(picture, Qt::LeftButton, {}, near.toPoint());
  ASSERT_TRUE(eq().bands[0].on);
  const auto end = picture->handleOf(1);
  ASSERT_TRUE(end);
  drag(picture, *end, QPointF(picture->xOf(55.0) + 2.0, end->y() + 30));
  EXPECT_NEAR(eq().bands[0].hz, 55.0, 1e-6) << "A1, caught";
  EXPECT_LT(eq().bands[0].gainDb, 24.0);
  const double gain = eq().bands[0].gainDb;
  document().undo();
  EXPECT_NE(eq().bands[0].gainDb, gain) << "a drag is one step";
  document().redo();
  picture->setFocus();
  QTest::keyClick(picture, Qt::Key_Right);
  EXPECT_NEAR(eq().bands[0].hz, 55.0 * std::exp2(1.0 / 12.0), 1e-6);
  QTest::keyClick(picture, Qt::Key_Up);
  EXPECT_NEAR(eq().bands[0].gainDb, gain + 0.5, 1e-6);
  QTest::keyClick(picture, Qt::Key_Up, Qt::ControlModifier);
  EXPECT_GT(eq().bands[0].q, 1.4);
  QTest::keyClick(picture, Qt::Key_Delete);
  EXPECT_FALSE(eq().bands[0].on);
  QTest::keyClick(picture, Qt::Key_Insert);
  EXPECT_TRUE(eq().bands[0].on);
}

TEST_F(ChainWindowTest, AThresholdIsDraggedAndALiftComesIn) {
  look("Compressor");
  auto* picture = shown<LevelPicture>();
  const auto c = [&] { return *list()[0].as<Compressor>(); };
  drag(picture, picture->handleOf(0), QPointF(picture->handleOf(0).x(), picture->yOf(-30)));
  EXPECT_NEAR(c().thresholdDb, -30.0, 0.3);
  settle();
  ASSERT_TRUE(
      QTest::qWaitFor([&] { return !picture->isMeasuring() && picture->look()->takenDb > 6.0; }, 20000));
  picture->setFocus();
  QTest::keyClick(picture, Qt::Key_Up);
  EXPECT_NEAR(c().thresholdDb, -29.0, 0.3);
  EXPECT_EQ(picture->lines().size(), 1u);
  typeInto("Upward ratio", "4");
  EXPECT_EQ(picture->lines().size(), 2u);
  drag(picture, picture->handleOf(1), QPointF(picture->handleOf(1).x(), picture->yOf(-40)));
  EXPECT_NEAR(c().liftBelowDb, -40.0, 0.3);
}

TEST_F(ChainWindowTest, DrivesShapesAndSpacesAreHeldInTheirPictures) {
  look("Drive");
  auto* drive = shown<DrivePicture>();
  const auto d = [&] { return *session().kick().layers[0].chain.first<Drive>(); };
  using Grip = DrivePicture::Grip;
  drag(drive, drive->gripAt(Grip::From), QPointF(drive->xOf(110.0) + 1, drive->gripAt(Grip::From).y()));
  ASSERT_TRUE(d().fromHz);
  EXPECT_NEAR(*d().fromHz, 110.0, 1e-6) << "A2, caught";
  drag(drive, drive->gripAt(Grip::Amount), drive->gripAt(Grip::Amount) - QPointF(0, 50));
  EXPECT_NEAR(d().driveDb, 11.0, 0.2);
  drive->setFocus();
  QTest::keyClick(drive, Qt::Key_PageDown);
  QTest::keyClick(drive, Qt::Key_Delete);
  EXPECT_FALSE(d().fromHz) << "open again";
  look("Strike and sustain");
  auto* shape = shown<ShapePicture>();
  const auto s = [&] { return *session().kick().layers[0].chain.first<StrikeSustain>(); };
  drag(shape, shape->markAt(2), QPointF(shape->markAt(2).x(), shape->yOf(-6)));
  EXPECT_NEAR(s().sustainDb, -6.0, 0.4);
  EXPECT_EQ(s().strikeDb, 0.0);
  shape->setFocus();
  QTest::keyClick(shape, Qt::Key_PageUp);
  QTest::keyClick(shape, Qt::Key_Right);
  EXPECT_NEAR(s().strikeMs, 21.0, 0.01);
  look("Envelope");
  drag(shape, shape->markAt(1), shape->markAt(1) + QPointF(60, 0));
  EXPECT_GT(session().kick().layers[0].chain.first<AmpEnvelope>()->holdMs, 25.0);
  look("Room");
  auto* space = shown<SpacePicture>();
  drag(space, space->endAt(), space->endAt() + QPointF(40, 0));
  EXPECT_GT(session().kick().layers[0].chain.first<Room>()->sizeMs, 70.0);
  EXPECT_FALSE(window.grab().isNull());
}

// The selection follows to another sound; a deleted one falls back.
TEST_F(ChainWindowTest, TheChoiceGoesAlongAndTenAreAll) {
  look("Drive");
  document().edit(
      addProcessor({.part = session().bass().id, .layer = session().bass().layers[0].id}, freshProcessor(3)));
  page()->choice().choose(bassOf(session()), session().bass().layers[0].id);
  ASSERT_TRUE(page()->choice().processor());
  EXPECT_EQ(page()->choice().chainPlace()->of.part, session().bass().id);
  page()->choice().choose(kickOf(session()), session().kick().layers[0].id);
  strip()->setFocus();
  for (int i = 0; i < 12; ++i) QTest::keyClick(strip(), Qt::Key_D, Qt::ControlModifier);
  EXPECT_EQ(list().size(), kMostProcessors);
  QApplication::clipboard()->setText("a shopping list");
  QTest::keyClick(strip(), Qt::Key_V, Qt::ControlModifier);
  EXPECT_EQ(list().size(), kMostProcessors);
  // Copied in another session, whose impulse response is not here.
  Body body;
  body.asset = {std::string(32, 'a'), "hall.wav"};
  QApplication::clipboard()->setText(QString::fromStdString(presetToJson({"hall", Processor{1, body}})));
  const Session before = session();
  QTest::keyClick(strip(), Qt::Key_V, Qt::ControlModifier);
  EXPECT_EQ(session(), before);
  EXPECT_TRUE(find<QLabel>("Notice words")->text().contains("hall.wav, which is not in this session"));
  window.resize(1100, 700);
  settle();
  const double x = strip()->placeOf(ChainStrip::What::Processor, *page()->choice().chainPlace()).x();
  EXPECT_GT(x, 0.0);
  EXPECT_LT(x, strip()->width()) << "what is chosen is in sight";
}

// From the context menu: switched off, saved under a name, used for another sound; a broken file in the
// folder is reported.
TEST_F(ChainWindowTest, PresetsAreSavedAndUsedFromTheMenu) {
  const QByteArray was = qgetenv("XDG_DATA_HOME");
  qputenv("XDG_DATA_HOME", QByteArray::fromStdString(folder / "own"));
  std::filesystem::create_directories(folder / "own/heft/presets");
  reference::writeBytes(folder / "own/heft/presets/broken.heft-preset", "{");
  QSignalSpy told(&document(), &Document::told);
  look("Drive");
  typeInto("Amount", "13");
  auto press = [&](const ChainPlace& at, const QString& words, const QString& below = {}) {
    QMenu menu;
    strip()->fillMenu(menu, at);
    QList<QAction*> all = menu.actions();
    for (QAction* action : menu.actions())
      if (!below.isEmpty() && action->menu() && action->text() == below) all = action->menu()->actions();
    for (QAction* action : all)
      if (action->text() == words) return action->trigger(), true;
    return false;
  };
  const ChainPlace drive = *page()->choice().chainPlace();
  QTimer::singleShot(100, receiver.get(), [] {
    auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
    ASSERT_TRUE(dialog);
    dialog->setTextValue("Thirteen");
    dialog->accept();
  });
  ASSERT_TRUE(press(drive, "Save it as a preset..."));
  const std::string file = folder / "own/heft/presets/Thirteen.heft-preset";
  ASSERT_TRUE(QTest::qWaitFor([&] { return std::filesystem::exists(file); }, 10000));
  typeInto("Amount", "2");
  ASSERT_TRUE(QTest::qWaitFor([&] { return press(drive, "Thirteen", "Presets of Drive"); }, 10000));
  EXPECT_EQ(list()[0].as<Drive>()->driveDb, 13.0);
  EXPECT_TRUE(std::any_of(told.begin(), told.end(), [](const QList<QVariant>& words) {
    return words[0].toString().contains("broken.heft-preset");
  }));
  ASSERT_TRUE(press(drive, "Bypass"));
  EXPECT_FALSE(list()[0].isOn());
  ASSERT_TRUE(press({layer()}, "Bypass all"));
  EXPECT_FALSE(session().kick().layers[0].chain.on);
  ASSERT_TRUE(press({Owner()}, "Sub for phone speakers", "Lists"));
  EXPECT_EQ(session().sum.finish.list.size(), 3u);
  qputenv("XDG_DATA_HOME", was);
  settle();
}

// Two presses: one adds it, changing nothing, and its first value has the focus.
TEST_F(ChainWindowTest, AProcessorAndItsFirstValueAreTwoPresses) {
  page()->setFocus();
  const StepKey before = document().stems()->kick().key();
  QTest::keyClick(page(), Qt::Key_D, Qt::AltModifier | Qt::ShiftModifier);
  settle();
  ASSERT_EQ(list().size(), 1u);
  EXPECT_TRUE(list()[0].as<Drive>() && !list()[0].isOn());
  EXPECT_EQ(document().stems()->kick().key(), before) << "nothing is heard of it yet";
  auto* field = qobject_cast<ValueField*>(QApplication::focusWidget());
  ASSERT_TRUE(field);
  EXPECT_EQ(field->objectName(), "Amount");
  QTest::keyClick(field, Qt::Key_Up);
  settle();
  EXPECT_TRUE(list()[0].isOn() && list()[0].keepsLoudness);
  EXPECT_GT(list()[0].as<Drive>()->driveDb, 0.0);
}

}  // namespace
}  // namespace heft::app

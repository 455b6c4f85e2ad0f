// Edits in any order with jobs beside them: saving, opening, auditions, bounces meet whatever else is
// running, and disk, memory and undo agree in the end.
#include <QDir>

#include "core/session/edits/presets.h"
#include "core/session/edits/sections.h"
#include "core/session/edits/states.h"
#include "core/session/folder.h"
#include "core/session/preset.h"
#include "tests/app/window_fixture.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/random_edits.h"

namespace heft::app {
namespace {

class DocumentFuzz : public WindowTest {
 protected:
  void SetUp() override {
    WindowTest::SetUp();
    for (const double hz : {49.0, 55.0, 61.0}) {
      reference::KickRecipe recipe;
      recipe.landingHz = hz;
      files << QString::fromStdString(
          reference::writeSound(folder, std::to_string(static_cast<int>(hz)) + " hz.wav",
                                reference::bufferOf(reference::makeKick(recipe), 48000)));
    }
    Session s;
    s.track.loopBeats = 2;
    s.kick().hits = {{0.0, 1.0}};
    Assets assets;
    s.kick().layers = {recordedLayer(assets.add(*loadSound(files[0].toStdString()), files[0].toStdString()))};
    ASSERT_TRUE(saveSession(folder / "start.heft", s, assets));
    ASSERT_TRUE(document().files().save(at("first.heft")));
    document().files().autosave().enable(at("autosave/run"));
  }
  QString at(const QString& name) { return QString::fromStdString(folder / name.toStdString()); }
  // One action of a user, the window or another program.
  void one(reference::RandomEdits& dice) {
    Document& doc = document();
    const QString some = files[static_cast<int>(dice.below(3))];
    const Place part{session().parts[dice.below(session().parts.size())].id};
    switch (dice.below(28)) {
      case 0:
        return doc.files().saveAside(at(QString("save %1.heft").arg(dice.below(3))));
      case 1:
        return doc.files().openAside(
            at(dice.below(2) ? "start.heft" : QString("save %1.heft").arg(dice.below(3))));
      case 2:
        return dice.below(4) ? void() : doc.newSession();
      case 3:
        return doc.sounds().load(part, some, {dice.below(2) ? LayerPlace::kNew : LayerPlace::kFirst});
      case 4:
        return doc.sounds().load(dice.below(2) ? kBacking : kReferences, some);
      case 5: {
        const AssetRef ref = doc.sounds().lend(*loadSound(some.toStdString()), some.toStdString());
        return doc.setBefore(placePartSound(session().kick(), ref, {}, 48000.0));
      }
      case 6: {
        // A preset of a sound that may only be auditioned now.
        Assets own;
        Preset preset{.name = "x",
                      .what = recordedLayer(own.add(*loadSound(some.toStdString()), some.toStdString()))};
        doc.sounds().keep(own, assetsOf(preset));
        return doc.edit(placePartSound(session().kick(), assetsOf(preset)[0], {SoundPlace::At::New}, 48000.0));
      }
      case 7:
        return doc.sounds().reload(some);
      case 8:
        return doc.sounds().loadTrigger(session().ducks[0].id, some);
      case 9:
        return doc.undo();
      case 10:
        return doc.redo();
      case 11:
        return doc.jobs().cancel();
      case 12:
        return doc.fixes().mendAll();
      case 13:
        return doc.fixes().setMeantSo("kick-key", dice.below(2));
      case 14:
        return doc.edit(keepState(dice.below(2) ? "Kept" : freshStateName(session())));
      case 15:
      case 16: {
        // Gone back to, or heard against now.
        if (session().states.empty()) return;
        const auto to = goToState(session(), dice.below(session().states.size()));
        ASSERT_TRUE(to) << to.error().sentence();
        return dice.below(2) ? doc.edit(*to) : doc.setBefore(*to);
      }
      case 17:
        if (session().sections.empty()) return doc.edit(addSection("Drop", 0.0, 4.0));
        return doc.edit(compareSection(session().sections[dice.below(session().sections.size())].id));
      default:
        break;
    }
    doc.edit(dice.next(session()));
  }
  // Every sound that the session uses is there, unless it was missing when it was opened.
  void agrees(const Session& s, unsigned seed) {
    const auto again = sessionFromJson(sessionToJson(s), "again.json");
    ASSERT_TRUE(again) << "seed " << seed << ": " << again.error().sentence();
    ASSERT_TRUE(*again == s) << "seed " << seed;
    for (const AssetRef& ref : assetsOf(s))
      EXPECT_TRUE(document().assets().find(ref)) << "seed " << seed << ": " << ref.name;
  }
  QStringList files;
};

TEST_F(DocumentFuzz, DiskMemoryAndUndoAgreeWhateverGoesOnBeside) {
  for (unsigned seed = 1; seed <= 6; ++seed) {
    reference::RandomEdits dice(seed, {});
    for (int i = 0; i < 60; ++i) {
      one(dice);
      if (dice.below(4) == 0) QTest::qWait(static_cast<int>(dice.below(12)));
    }
    ASSERT_TRUE(QTest::qWaitFor([&] { return !document().jobs().isBusy(); }, 30000)) << "seed " << seed;
    agrees(session(), seed);
    ASSERT_TRUE(document().files().save(at(QString("end %1.heft").arg(seed)))) << "seed " << seed;
    const auto there = openSession(document().files().folder().toStdString());
    ASSERT_TRUE(there);
    EXPECT_TRUE(there->warnings.empty()) << "seed " << seed << ": " << there->warnings[0];
    Session onDisk = there->session;
    onDisk.savedOn = session().savedOn;
    EXPECT_TRUE(onDisk == session()) << "seed " << seed;
    while (!document().undoName().isEmpty()) {
      document().undo();
      for (const AssetRef& ref : assetsOf(session())) ASSERT_TRUE(document().assets().find(ref)) << ref.name;
    }
    agrees(session(), seed);
  }
  settle();
}

}  // namespace
}  // namespace heft::app

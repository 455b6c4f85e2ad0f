// Every value of a sound as a field, on and off; versions side by side.

#include <set>

#include "app/loop/loop_strip.h"
#include "app/stages/sounds/bass_voice_picture.h"
#include "app/stages/sounds/sounds_page.h"
#include "app/theme/theme.h"
#include "core/measure/events/sound_facts.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/parts.h"
#include "core/session/folder.h"
#include "core/session/versions.h"
#include "tests/app/stages/sounds_fixture.h"

namespace heft::app {
namespace {

class SectionsTest : public SoundsTest {
 protected:
  // Steps every value of a shown section: each step is one undoable edit, invalid input changes nothing, and
  // the field shows the value. Returns their number.
  int stepAll(const FieldSection& section) {
    for (const FieldSpec& spec : section.fields) {
      const std::string name = section.name.toStdString() + ": " + spec.name.toStdString();
      auto* field = page()->findChild<ValueField*>(spec.name);
      EXPECT_TRUE(field) << name;
      if (!field) continue;
      EXPECT_FALSE(field->toolTip().isEmpty()) << name;
      EXPECT_EQ(field->shownText(), spec.text()) << name;
      const Session before = session();
      if (spec.step) {
        QTest::keyClick(field, Qt::Key_Up);
        if (session() == before) QTest::keyClick(field, Qt::Key_Down);
        // A recording's length is only stepped once it has one.
        if (spec.name != "Kick length") EXPECT_FALSE(session() == before) << name << " does not step";
        while (!(session() == before)) document().undo();
      }
      if (spec.commit) {
        EXPECT_TRUE(spec.commit("nonsense")) << name;
        EXPECT_TRUE(spec.commit("1e99")) << name;
        EXPECT_TRUE(session() == before) << name;
      }
      if (spec.choose && spec.choices && spec.name != "Body" && spec.name != "Plays on") chooseAll(spec, name);
    }
    return static_cast<int>(section.fields.size());
  }

 private:
  void chooseAll(const FieldSpec& spec, const std::string& name) {
    const Session before = session();
    const int count = static_cast<int>(spec.choices().size());
    EXPECT_GE(count, 2) << name;
    bool changed = false;
    for (int i = 0; i < count; ++i) {
      spec.choose(i);
      changed = changed || !(session() == before);
    }
    EXPECT_TRUE(changed) << name << " chooses nothing";
    while (!(session() == before)) document().undo();
  }
};

TEST_F(SectionsTest, EveryFieldOfEverySectionSteps) {
  openDemo();
  auto& choice = page()->choice();
  build(Place{1});
  build(Place{2});
  settle();
  struct Kind {
    Place role;
    size_t layer;
    int fields;
  };
  for (const Kind kind : {Kind{Place{1}, 0, 15}, {Place{1}, 1, 39}, {Place{2}, 0, 20}, {Place{2}, 1, 42}}) {
    const auto& layers = kind.role == Place{1} ? session().kick().layers : session().bass().layers;
    choice.choose(kind.role, layers[kind.layer].id);
    int seen = 0;
    for (const FieldSection& section : sectionsOf(choice)) {
      ASSERT_TRUE(page()->showSection(section.name)) << section.name.toStdString();
      seen += stepAll(section);
    }
    EXPECT_GE(seen, kind.fields);
  }
  settle();
}

// The same of every kind of processor, in a layer, a part and the sum; each heard without.
TEST_F(SectionsTest, EveryFieldOfEveryProcessorSteps) {
  openDemo();
  auto& choice = page()->choice();
  choice.choose(Place{1}, session().kick().layers[0].id);
  int seen = 0;
  for (size_t kind = 0; kind < kProcessorKinds; ++kind) {
    const Owner of = choice.chains()[kind % 3];
    const Session before = session();
    document().edit(addProcessor(of, freshProcessor(kind)));
    const ChainPlace at{of, chainOf(session(), of)->list[0].id};
    choice.lookAt(at);
    const FieldSection section = processorSection(choice, at, [] {});
    ASSERT_EQ(section.name, processorWord(kind));
    seen += stepAll(section);
    EXPECT_EQ(section.isIn(), true);
    document().edit(*page()->withoutSection());
    EXPECT_EQ(section.isIn(), false) << section.name.toStdString();
    while (!(session() == before)) document().undo();
    EXPECT_FALSE(choice.chainPlace()) << "one that is gone is not looked at";
  }
  EXPECT_GE(seen, 71);
  settle();
}

// A section's bypass removes everything that the section can add, and nothing else.
TEST_F(SectionsTest, EverySectionCanBeHeardWithout) {
  openDemo();
  auto& choice = page()->choice();
  build(Place{1});
  build(Place{2});
  int sections = 0;
  for (Place role : {Place{1}, Place{2}})
    for (size_t layer : {0u, 1u}) {
      choice.choose(role, (role == Place{1} ? session().kick().layers : session().bass().layers)[layer].id);
      for (const FieldSection& section : sectionsOf(choice)) {
        ASSERT_EQ(section.without().has_value(), static_cast<bool>(section.isIn)) << section.name.toStdString();
        if (!section.isIn) continue;
        ++sections;
        const Session before = session();
        for (const FieldSpec& f : section.fields)
          if (f.choices && f.choices().contains("off") && f.name != "Body")
            f.choose(static_cast<int>(f.choices().size()) - 1);
          else if (f.name == "Split")
            f.choose(1);
          else if (f.name == "Evenness")
            document().edit(trimNote(session().bass(), 0, 2.0));
          else if (f.without && f.commit)
            f.commit("0");
        EXPECT_EQ(section.isIn(), true) << section.name.toStdString();
        const Session in = session();
        document().edit(*section.without());
        EXPECT_EQ(section.isIn(), false) << section.name.toStdString();
        EXPECT_EQ(session().track, in.track);
        EXPECT_EQ(session().kick().hits, in.kick().hits);
        while (!(session() == before)) document().undo();
      }
    }
  EXPECT_GE(sections, 8);
  settle();
}

TEST_F(SectionsTest, AKeyHearsTheLoopWithoutWhatIsShownOrInFocus) {
  openDemo();
  page()->choice().choose(Place{1}, 1);
  look("EQ");
  typeInto("Low cut", "300");
  window.loopStrip()->setFocus();
  QTest::keyClick(window.loopStrip(), Qt::Key_I);
  EXPECT_TRUE(window.transport().isBefore());
  EXPECT_EQ(heardName(), "No EQ");
  settle();
  EXPECT_FALSE(document().before().applied(session()).kick().layers[0].chain.first<Eq>()->works());
  page()->showSection("Sound");
  settle();
  find("Kick card")->setFocus();
  QTest::keyClick(find("Kick card"), Qt::Key_I);
  EXPECT_TRUE(window.transport().isBefore()) << "over to what is in focus now";
  const Session silent = document().before().applied(session());
  EXPECT_TRUE(silent.kick().layers[0].mute);
  EXPECT_TRUE(silent.kick().layers[0].chain.first<Eq>()->works());
  QTest::keyClick(find("Kick card"), Qt::Key_I);
  EXPECT_FALSE(window.transport().isBefore());
  EXPECT_EQ(find<QPushButton>("Before")->text(), "Before");
  settle();
}

TEST_F(SectionsTest, VersionsAreLookedAtAndHeardBesideEachOther) {
  openDemo();
  QTest::keyClick(&window, Qt::Key_X);
  EXPECT_FALSE(window.transport().isBefore()) << "one version alone is told, not heard";
  choose("Kick version", 1);
  window.findChild<SoundsPage*>()->showSection("Length");
  typeInto("Kick length", "60 ms");
  const Session two = session();
  choose("Kick version", 5);  // beside the first
  ASSERT_EQ(session(), two) << "nothing was edited";
  auto* picture = find("Layers together");
  ASSERT_TRUE(picture->isVisible());
  const QImage coloured = [&] {
    QTest::qWait(300);
    return picture->grab().toImage();
  }();
  int golden = 0;
  for (int x = 0; x < coloured.width(); x += 2)
    for (int y = 60; y < coloured.height() - 40; y += 2)
      golden += coloured.pixelColor(x, y) == theme().reference;
  EXPECT_GT(golden, 20) << "the other version is drawn";
  QTest::keyClick(&window, Qt::Key_X);
  EXPECT_TRUE(window.transport().isBefore());
  EXPECT_EQ(heardName(), "First");
  EXPECT_FALSE(document().before().applied(session()).kick().layers[0].recorded()->length.has_value());
  QTest::keyClick(&window, Qt::Key_X);
  EXPECT_FALSE(window.transport().isBefore());
  click(find("Kick card"));
  EXPECT_FALSE(find("Layers together")->isVisible());
  settle();
}

TEST_F(SectionsTest, VersionsAreMadeSwitchedAndUndone) {
  openDemo();
  const Session before = session();
  choose("Kick version", 1);
  EXPECT_EQ(versionCount(session().kick()), 2u);
  typeInto("Level", "-20 dB");
  const auto frames = document().stems()->kick().at(0, 3000);
  choose("Kick version", 0);
  EXPECT_EQ(session().kick().layers, before.kick().layers);
  EXPECT_NE(document().stems()->kick().at(0, 3000), frames) << "the other version sounds";
  choose("Kick version", 1);
  EXPECT_EQ(session().kick().layers[0].levelDb, -20);
  for (int i = 0; i < 4; ++i) document().undo();
  settle();
  EXPECT_EQ(session(), before) << "each step undone";
}

}  // namespace
}  // namespace heft::app

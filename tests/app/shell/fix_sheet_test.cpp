// Fix all shows its list before it acts; each row can be unticked; it plays before and after, and is one
// step.

#include "app/shell/fix_sheet.h"

#include <QCheckBox>
#include <QContextMenuEvent>
#include <QMenu>
#include <QScrollArea>

#include "app/shell/hit_row.h"
#include "app/shell/ledger_panel.h"
#include "core/remedies/remedies.h"
#include "tests/app/window_fixture.h"

namespace heft::app {
namespace {

class FixSheetTest : public WindowTest {
 protected:
  QPushButton* applyButton() { return find<QPushButton>("Apply fixes"); }
  void openList() {
    QTest::keyClick(&window, Qt::Key_M, Qt::ControlModifier);
    waitForList();
  }
  void waitForList() {
    ASSERT_TRUE(QTest::qWaitFor([&] { return applyButton()->isEnabled(); }, 60000));
  }
  // From the line's menu.
  void chooseOther(LedgerLine* line, const QString& words) {
    QContextMenuEvent ask(QContextMenuEvent::Keyboard, QPoint(10, 10), line->mapToGlobal(QPoint(10, 10)));
    QApplication::sendEvent(line, &ask);
    auto* menu = line->findChild<QMenu*>("Ledger menu");
    ASSERT_TRUE(menu);
    QAction* chosen = nullptr;
    for (QAction* a : menu->actions())
      if (a->text().startsWith(words)) chosen = a;
    ASSERT_TRUE(chosen) << words.toStdString();
    chosen->trigger();
    menu->close();
    QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  }
  QStringList boxes() {
    QStringList out;
    for (const auto* box : find("Fix rows")->findChildren<QCheckBox*>()) out << box->objectName();
    return out;
  }
};

TEST_F(FixSheetTest, ListsHearsLeavesOutAndIsOneStep) {
  openDemo();
  settleRemedies();
  const Session before = session();
  openList();
  EXPECT_EQ(session(), before) << "nothing changes before Apply";
  EXPECT_TRUE(find("Fix list")->isVisible());
  EXPECT_GE(boxes().size(), 3);
  ASSERT_TRUE(boxes().contains("Take kick-key")) << boxes().join(", ").toStdString();
  press("Hear after");
  EXPECT_TRUE(window.transport().isBefore());
  const Session after = document().before().applied(session());
  EXPECT_NE(after, before);
  EXPECT_EQ(after.kick().layers[0].recorded()->targetMidi, 33.0);
  press("Hear before");
  EXPECT_FALSE(window.transport().isBefore());
  // With one unticked, the rest is tried again without it, and it keeps its place.
  const int place = static_cast<int>(boxes().indexOf("Take kick-key"));
  click(find<QCheckBox>("Take kick-key"));
  EXPECT_FALSE(applyButton()->isEnabled());
  waitForList();
  EXPECT_EQ(boxes().indexOf("Take kick-key"), place);
  EXPECT_FALSE(find<QCheckBox>("Take kick-key")->isChecked());
  QTest::keyClick(find("Fix list"), Qt::Key_Return);
  settle();
  EXPECT_FALSE(find("Fix list")->isVisible());
  EXPECT_FALSE(session().kick().layers[0].recorded()->targetMidi) << "left out";
  EXPECT_NE(session(), before);
  QTest::keyClick(&window, Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(session(), before) << "one step";
}

// An edit makes it start anew; another session, or Esc, closes it and applies nothing.
TEST_F(FixSheetTest, MeetsEditsAndOtherSessions) {
  openDemo();
  settleRemedies();
  openList();
  document().edit(Edit{"tuned by hand", [](Session& s) { s.kick().layers[0].recorded()->targetMidi = 33; }});
  EXPECT_FALSE(applyButton()->isEnabled());
  waitForList();
  EXPECT_FALSE(boxes().contains("Take kick-key"));
  QTest::keyClick(find("Fix list"), Qt::Key_Escape);
  EXPECT_FALSE(find("Fix list")->isVisible());
  EXPECT_EQ(session().kick().layers[0].recorded()->targetMidi, 33.0);
  openList();
  document().newSession();
  settle();
  EXPECT_FALSE(find("Fix list")->isVisible());
  EXPECT_TRUE(session().kick().layers.empty());
}

// The Ledger in three groups; keys and presses step through hits; In range is folded.
TEST_F(FixSheetTest, TheLedgerIsGroupedAndStepsThroughHits) {
  openDemo();
  settleRemedies();
  std::map<LedgerGroup, int> count;
  for (const auto* line : window.findChildren<LedgerLine*>()) {
    ++count[line->group()];
    EXPECT_EQ(line->isVisible(), line->group() != LedgerGroup::InRange) << line->objectName().toStdString();
    if (line->group() == LedgerGroup::Fix) EXPECT_TRUE(line->openRemedy()) << line->objectName().toStdString();
  }
  EXPECT_GE(count[LedgerGroup::Fix], 3);
  EXPECT_GE(count[LedgerGroup::InRange], 3);
  press("In range group");
  for (const auto* line : window.findChildren<LedgerLine*>()) EXPECT_TRUE(line->isVisible());
  auto* pair = find<LedgerLine>("Ledger pair-level");
  std::vector<int> bad;
  for (const HitLine& h : pair->finding().hits)
    if (h.verdict != Verdict::Holds) bad.push_back(h.hit);
  ASSERT_GE(bad.size(), 2u);
  pair->setFocus();
  QTest::keyClick(pair, Qt::Key_Right);
  EXPECT_EQ(window.currentStage(), Stage::Align);
  EXPECT_EQ(window.selection().hit(), bad[0]);
  QTest::keyClick(pair, Qt::Key_Right);
  EXPECT_EQ(window.selection().hit(), bad[1]);
  QTest::mouseClick(pair->hits(), Qt::LeftButton, {}, pair->hits()->cell(bad[0]).center().toPoint());
  EXPECT_EQ(window.selection().hit(), bad[0]);
}

// A line's menu has the fixes beside the one on its button: here the sum is soft-clipped instead of lowered.
TEST_F(FixSheetTest, ALineOffersItsOtherFixes) {
  openDemo();
  document().edit(Edit{"louder", [](Session& s) { s.kick().levelDb += 6.0; }});
  settleRemedies();
  ASSERT_EQ(find<LedgerLine>("Ledger peak")->finding().verdict, Verdict::Off);
  const Session before = session();
  chooseOther(find<LedgerLine>("Ledger peak"), "Soft-clip sum");
  ASSERT_TRUE(QTest::qWaitFor([&] { return session() != before; }, 20000));
  settleRemedies();
  ASSERT_EQ(session().sum.finish.list.size(), 1u);
  EXPECT_TRUE(session().sum.finish.list[0].as<SoftClip>());
  EXPECT_EQ(find<LedgerLine>("Ledger peak")->finding().verdict, Verdict::Holds);
  document().undo();
  EXPECT_EQ(session(), before);
}

// One of them that goes far asks like the one on the button; meanwhile edited, it does nothing.
TEST_F(FixSheetTest, AnotherFixThatGoesFarAsks) {
  openDemo();
  document().edit(Edit{"higher", [](Session& s) { s.kick().layers[0].semitones = 5.0; }});
  settleRemedies();
  auto* line = find<LedgerLine>("Ledger kick-tail");
  const auto& options = line->finding().options;
  const auto far = std::find_if(options.begin(), options.end(), [&](const Remedy& r) {
    const auto tried =
        weighed(session(), document().assets(), document().findings(), r, *document().cache(), {});
    const auto& button = line->finding().remedy;
    return tried && !tried->asks.empty() && (!button || button->name() != r.name());
  });
  ASSERT_NE(far, options.end());
  const Session before = session();
  const QString label = "T" + QString::fromStdString(far->name()).mid(1);
  chooseOther(line, label);
  ASSERT_TRUE(QTest::qWaitFor([&] { return line->findChild<QMenu*>("Fix question") != nullptr; }, 20000));
  EXPECT_EQ(session(), before) << "not before it is agreed to";
  line->findChild<QMenu*>("Fix question")->close();
  QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  chooseOther(line, label);
  document().edit(Edit{"quieter", [](Session& s) { s.bass().levelDb -= 1.0; }});
  const Session edited = session();
  settleRemedies();
  EXPECT_EQ(session(), edited);
  EXPECT_FALSE(line->findChild<QMenu*>("Fix question"));
}

// While fixes are tried no line moves or changes its height.
TEST_F(FixSheetTest, LinesKeepTheirPlaceAndHeightWhileFixesAreTried) {
  openDemo();
  // With references a line whose fix costs something else may get one, or lose it, by the edit itself.
  document().edit(Edit{"alone", [](Session& s) { s.references.clear(); }});
  settleRemedies();
  document().edit(Edit{"quieter", [](Session& s) { s.bass().levelDb -= 0.5; }});
  std::map<QString, QRect> places;
  int moved = 0;
  while (!document().remediesTried() || document().isBusy()) {
    QApplication::processEvents(QEventLoop::AllEvents, 5);
    if (!document().isStudied()) continue;
    for (const auto* line : window.findChildren<LedgerLine*>()) {
      if (!line->isVisible() || line->group() == LedgerGroup::InRange) continue;
      const auto [at, fresh] = places.try_emplace(line->objectName(), line->geometry());
      moved += !fresh && at->second.height() != line->height();
    }
  }
  EXPECT_FALSE(places.empty());
  EXPECT_EQ(moved, 0);
}

}  // namespace
}  // namespace heft::app

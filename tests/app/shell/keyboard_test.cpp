// The window without a mouse: fields, buttons and pictures reached and pressed by keys alone, what a screen
// reader gets, and a Ledger whose lines stay in place.

#include <QAccessible>
#include <QLineEdit>
#include <QRegularExpression>
#include <QScrollArea>
#include <QScrollBar>

#include "app/loop/loop_strip.h"
#include "app/shell/ledger_panel.h"
#include "tests/app/window_fixture.h"
#include "tests/reference/kick_maker.h"

namespace heft::app {
namespace {

class KeyboardTest : public WindowTest {
 protected:
  QWidget* focused() { return QApplication::focusWidget(); }
  void key(Qt::Key k, Qt::KeyboardModifiers modifiers = {}) {
    QWidget* to = focused() ? focused() : static_cast<QWidget*>(&window);
    QTest::keyClick(to, k, modifiers);
    ++keys;
  }
  void type(const QString& text) {
    QTest::keyClicks(focused(), text);
    keys += static_cast<int>(text.size());
  }
  // Tab or Shift+Tab until a widget of that name has the focus.
  bool tabTo(const QString& name, bool back = false) {
    for (int i = 0; i < 300; ++i) {
      if (focused() && focused()->objectName() == name) return true;
      key(Qt::Key_Tab, back ? Qt::ShiftModifier : Qt::NoModifier);
    }
    return false;
  }
  int keys = 0;
};

// Return applies and closes, Tab applies and moves on, Esc and leaving close without applying; undo shows in
// an open one.
TEST_F(KeyboardTest, AFieldIsOpenedTakenAndLeft) {
  openDemo();
  auto* tempo = find<ValueField>("Tempo");
  auto editor = [&]() -> QLineEdit* {
    for (QLineEdit* e : tempo->findChildren<QLineEdit*>())
      if (e->isVisible()) return e;
    return nullptr;
  };
  tempo->setFocus();
  key(Qt::Key_Return);
  ASSERT_TRUE(editor());
  editor()->selectAll();
  QTest::keyClicks(editor(), "97.5");
  QTest::keyClick(editor(), Qt::Key_Return);
  QApplication::processEvents();
  EXPECT_FALSE(editor()) << "Return takes and closes";
  EXPECT_EQ(session().track.tempoBpm, 97.5);
  EXPECT_EQ(focused(), tempo);
  key(Qt::Key_Return);
  editor()->selectAll();
  QTest::keyClicks(editor(), "101");
  QTest::keyClick(editor(), Qt::Key_Escape);
  QApplication::processEvents();
  EXPECT_FALSE(editor());
  EXPECT_EQ(session().track.tempoBpm, 97.5) << "Esc leaves it";
  key(Qt::Key_Return);
  editor()->selectAll();
  QTest::keyClicks(editor(), "99");
  QTest::keyClick(editor(), Qt::Key_Tab);
  QApplication::processEvents();
  EXPECT_FALSE(editor());
  EXPECT_EQ(session().track.tempoBpm, 99) << "Tab takes it";
  EXPECT_NE(focused(), tempo) << "and goes on";
  // Left untouched it closes too.
  tempo->setFocus();
  key(Qt::Key_Return);
  ASSERT_TRUE(editor());
  find("Ledger")->setFocus();
  window.loopStrip()->setFocus();
  QApplication::processEvents();
  EXPECT_FALSE(editor());
  // Invalid input keeps the value and shows the valid range.
  tempo->setFocus();
  key(Qt::Key_Return);
  editor()->selectAll();
  QTest::keyClicks(editor(), "andante");
  QTest::keyClick(editor(), Qt::Key_Return);
  EXPECT_EQ(session().track.tempoBpm, 99);
  QTest::keyClick(&window, Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(session().track.tempoBpm, 97.5);
  EXPECT_EQ(find<ValueField>("Tempo")->shownText(), "97.5 BPM");
}

// A stage's key moves the focus to its page.
TEST_F(KeyboardTest, AStagesKeyGoesToItsPage) {
  openDemo();
  find<ValueField>("Tempo")->setFocus();
  for (const auto& [stage, digit] :
       {std::pair{Stage::Tune, Qt::Key_2}, {Stage::Duck, Qt::Key_4}, {Stage::Export, Qt::Key_6}}) {
    QTest::keyClick(focused(), digit, Qt::ControlModifier);
    EXPECT_EQ(window.currentStage(), stage);
    EXPECT_TRUE(window.page(stage)->isAncestorOf(focused())) << static_cast<int>(stage);
  }
}

// A user lost a limiter this way: after a click Space plays, whatever was clicked.
TEST_F(KeyboardTest, AfterAClickSpacePlays) {
  openDemo();
  auto plays = [&] {
    key(Qt::Key_Space);
    const bool playing = QTest::qWaitFor([&] { return window.transport().isPlaying(); }, 3000);
    key(Qt::Key_Space);
    return playing && QTest::qWaitFor([&] { return !window.transport().isPlaying(); }, 3000);
  };
  for (const char* name : {"Kick card", "Bass card", "Processors"}) {
    click(find(name));
    EXPECT_TRUE(plays()) << name;
  }
  auto* intended = window.findChildren<QPushButton*>(QRegularExpression("^Intended ")).value(0);
  ASSERT_TRUE(intended);
  click(intended);
  settle();
  const auto was = session().meantSo;
  EXPECT_EQ(was.size(), 1u);
  EXPECT_TRUE(plays());
  EXPECT_EQ(session().meantSo, was) << "and nothing was pressed again";
}

// Also where Tab had reached a button of the stage before, whose focus Qt moves on.
TEST_F(KeyboardTest, AfterAStagesKeySpacePlays) {
  openDemo();
  const Session was = session();
  for (const auto& [from, digit] :
       {std::pair{Stage::Tune, Qt::Key_4}, {Stage::Duck, Qt::Key_5}, {Stage::Compare, Qt::Key_2}}) {
    window.showStage(from);
    const auto buttons = window.page(from)->findChildren<QPushButton*>();
    const auto seen =
        std::find_if(buttons.begin(), buttons.end(), [](auto* b) { return b->isVisible() && b->isEnabled(); });
    ASSERT_NE(seen, buttons.end());
    (*seen)->setFocus(Qt::TabFocusReason);
    key(digit, Qt::ControlModifier);
    key(Qt::Key_Space);
    EXPECT_TRUE(QTest::qWaitFor([&] { return window.transport().isPlaying(); }, 3000))
        << static_cast<int>(from);
    key(Qt::Key_Space);
    EXPECT_TRUE(QTest::qWaitFor([&] { return !window.transport().isPlaying(); }, 3000))
        << static_cast<int>(from);
    (*seen)->setFocus(Qt::TabFocusReason);
    window.showStage(from == Stage::Tune ? Stage::Duck : Stage::Tune);
    key(Qt::Key_Space);
    EXPECT_TRUE(QTest::qWaitFor([&] { return window.transport().isPlaying(); }, 3000)) << "chosen otherwise";
    key(Qt::Key_Space);
    EXPECT_TRUE(QTest::qWaitFor([&] { return !window.transport().isPlaying(); }, 3000));
  }
  EXPECT_EQ(session(), was);
}

// A focused button is pressed by Space and by Return; Space plays only where nothing uses it.
TEST_F(KeyboardTest, ButtonsArePressedBySpaceAndReturn) {
  openDemo();
  settleRemedies();
  QString id;
  for (const Finding& f : document().findings())
    if (f.verdict != Verdict::Holds) id = QString::fromStdString(f.id);
  ASSERT_FALSE(id.isEmpty());
  find("Ledger " + id)->setFocus();
  auto* intended = find<QPushButton>("Intended " + id);
  intended->setFocus();
  key(Qt::Key_Space);
  EXPECT_EQ(session().meantSo, (std::set<std::string>{id.toStdString()}));
  EXPECT_FALSE(window.transport().isPlaying());
  settle();
  find<QPushButton>("Intended " + id)->setFocus();
  key(Qt::Key_Return);
  EXPECT_TRUE(session().meantSo.empty());
  window.loopStrip()->setFocus();
  key(Qt::Key_Space);
  EXPECT_TRUE(window.transport().isPlaying());
  key(Qt::Key_Space);
  EXPECT_TRUE(QTest::qWaitFor([&] { return !window.transport().isPlaying(); }, 3000));
}

// Three files dropped and the track's facts typed: from there by keys alone to a Ledger without faults and
// files on disk, in under forty.
TEST_F(KeyboardTest, TheWholeJobInUnderFortyKeys) {
  reference::KickRecipe recipe;
  recipe.landingHz = 52.3, recipe.tailMs = 420, recipe.clickDb = -20;
  auto low = reference::sine(48, 0.7, 1.2, 48000, 2.0);
  for (size_t i = 0; i < low.size(); ++i)
    low[i] *= std::exp(-1.5 * static_cast<double>(i) / 48000) * std::min(1.0, static_cast<double>(i) / 150);
  auto rest = reference::sine(660, 0.1, 4.0, 48000);
  drop(find("Kick card"),
       reference::writeSound(folder, "k.wav", reference::bufferOf(reference::makeKick(recipe), 48000)));
  ASSERT_TRUE(QTest::qWaitFor([&] { return session().kickLayer() != nullptr; }, 10000));
  drop(find("Bass card"), reference::writeSound(folder, "b.wav", reference::bufferOf(low, 48000)));
  ASSERT_TRUE(QTest::qWaitFor([&] { return session().bassLayer() != nullptr; }, 10000));
  drop(find("Backing card"), reference::writeSound(folder, "r.wav", reference::bufferOf(rest, 48000)));
  ASSERT_TRUE(QTest::qWaitFor([&] { return !session().backing.asset.empty(); }, 10000));
  settle();
  typeInto("Key", "G minor");
  typeInto("Tempo", "118");
  window.showStage(Stage::Sounds);
  window.loopStrip()->setFocus();
  keys = 0;
  key(Qt::Key_8);  // bass off the beat
  settleRemedies();
  ASSERT_FALSE(session().bass().notes.empty());
  const int before = faultsIn(document().findings());
  ASSERT_GT(before, 0);
  key(Qt::Key_M, Qt::ControlModifier);
  ASSERT_TRUE(QTest::qWaitFor([&] { return find<QPushButton>("Apply fixes")->isEnabled(); }, 60000));
  key(Qt::Key_Return);
  settleRemedies();
  EXPECT_LT(faultsIn(document().findings()), before);
  for (const Finding& f : document().findings())
    EXPECT_TRUE(f.verdict != Verdict::Off || !f.remedy)
        << f.sentence << " costs " << f.remedy->price << " by " << f.remedy->name();
  const QString out = QString::fromStdString(folder / "out");
  static_cast<ExportPage*>(window.page(Stage::Export))->setFolder(out);  // remembered from the last time
  key(Qt::Key_E, Qt::ControlModifier);
  ASSERT_EQ(window.currentStage(), Stage::Export);
  ASSERT_TRUE(QTest::qWaitFor([&] { return QDir(out).entryList(QDir::Files).size() >= 3; }, 20000));
  EXPECT_LT(keys, 40);
  RecordProperty("keys", keys);
  // What is still open has a fix with a side effect, reached by Tab from the loop, or is judged by ear.
  window.loopStrip()->setFocus();
  for (const Finding& f : document().findings())
    if (f.remedy) EXPECT_TRUE(tabTo("Remedy " + QString::fromStdString(f.id), true)) << f.id;
}

// A card that was filled keeps the focus, though the window was inactive while its file was chosen.
TEST_F(KeyboardTest, AFilledCardKeepsTheFocus) {
  find("Kick card")->setFocus();
  QApplication::setActiveWindow(nullptr);
  reference::KickRecipe recipe;
  drop(find("Kick card"),
       reference::writeSound(folder, "k.wav", reference::bufferOf(reference::makeKick(recipe), 48000)));
  ASSERT_TRUE(QTest::qWaitFor([&] { return session().kickLayer() != nullptr; }, 10000));
  settle();
  ASSERT_TRUE(window.focusWidget());
  EXPECT_EQ(window.focusWidget()->objectName(), "Kick card");
  QApplication::setActiveWindow(&window);
}

// Tab reaches everything once, header first, the loop last.
TEST_F(KeyboardTest, TabGoesRoundInTheOrderOfTheWork) {
  openDemo();
  for (int stage = 0; stage < 6; ++stage) {
    window.showStage(static_cast<Stage>(stage));
    settle();
    find<ValueField>("Tempo")->setFocus();
    QWidget* first = focused();
    std::vector<QWidget*> order;
    do {
      order.push_back(focused());
      key(Qt::Key_Tab);
    } while (focused() && focused() != first && order.size() < 400);
    EXPECT_EQ(focused(), first) << "a ring";
    auto place = [&](const QString& name) {
      for (size_t i = 0; i < order.size(); ++i)
        if (order[i]->objectName() == name) return static_cast<int>(i);
      ADD_FAILURE() << name.toStdString() << " in stage " << stage;
      return -1;
    };
    EXPECT_LT(place("Fix all"), place("Loop strip")) << stage;
    EXPECT_LT(0, place("Fix all"));
    std::set<QWidget*> once(order.begin(), order.end());
    EXPECT_EQ(once.size(), order.size());
  }
}

// Read through the toolkit's own interface: values, cards, lines, hits and notes are what they are.
TEST_F(KeyboardTest, RolesAndChildrenAreTold) {
  openDemo();
  auto roleOf = [&](QWidget* widget) { return QAccessible::queryAccessibleInterface(widget)->role(); };
  EXPECT_EQ(roleOf(find("Tempo")), QAccessible::SpinBox);
  EXPECT_EQ(roleOf(find("Kick card")), QAccessible::ListItem);
  EXPECT_EQ(roleOf(find("Ledger kick-key")), QAccessible::ListItem);
  EXPECT_EQ(roleOf(find("Fix all")), QAccessible::PushButton);
  EXPECT_EQ(roleOf(window.loopStrip()), QAccessible::List);
  auto* tempo = QAccessible::queryAccessibleInterface(find("Tempo"));
  EXPECT_TRUE(tempo->text(QAccessible::Name).startsWith("Tempo"));
  EXPECT_TRUE(tempo->text(QAccessible::Value).contains("122"));
  auto* loop = QAccessible::queryAccessibleInterface(window.loopStrip());
  int hits = 0, notes = 0;
  for (int i = 0; i < loop->childCount(); ++i) {
    QAccessibleInterface* child = loop->child(i);
    ASSERT_TRUE(child);
    if (child->role() != QAccessible::ListItem) continue;
    const QString name = child->text(QAccessible::Name);
    hits += name.contains("hit") ? 1 : 0;
    notes += name.contains("note") ? 1 : 0;
    EXPECT_FALSE(child->rect().isEmpty()) << name.toStdString();
  }
  EXPECT_EQ(hits, static_cast<int>(session().kick().hits.size()));
  EXPECT_EQ(notes, static_cast<int>(session().bass().notes.size()));
  // Nothing focusable has a placeholder name.
  for (QWidget* w : window.findChildren<QWidget*>())
    if (w->isVisible() && w->focusPolicy() & Qt::TabFocus)
      EXPECT_NE(roleOf(w), QAccessible::Client)
          << w->objectName().toStdString() << " " << w->metaObject()->className();
}

// A remedy that is pressed neither scrolls the list nor moves other lines; the focus goes to the next open one.
TEST_F(KeyboardTest, TheLedgerKeepsItsPlaceUnderTheHand) {
  openDemo();
  window.resize(1100, 700);
  settleRemedies();
  auto* lines = find<QScrollArea>("Ledger lines");
  lines->verticalScrollBar()->setValue(60);
  std::vector<std::pair<QString, int>> places;
  QPushButton* remedy = nullptr;
  for (auto* line : window.findChildren<LedgerLine*>()) {
    if (!line->isVisible()) continue;
    places.emplace_back(line->objectName(), line->y());
    if (!remedy) remedy = line->openRemedy();
  }
  ASSERT_TRUE(remedy);
  const QString pressed = remedy->objectName();
  remedy->setFocus();
  const int scrolled = lines->verticalScrollBar()->value();
  key(Qt::Key_Space);
  settleRemedies();
  EXPECT_EQ(lines->verticalScrollBar()->value(), scrolled);
  ASSERT_TRUE(focused());
  EXPECT_TRUE(find("Ledger")->isAncestorOf(focused())) << focused()->objectName().toStdString();
  EXPECT_NE(focused()->objectName(), pressed);
  // In the same order: the fixed line is still among them.
  std::vector<std::pair<int, QString>> after;
  for (auto* line : window.findChildren<LedgerLine*>())
    if (line->isVisible()) after.emplace_back(line->y(), line->objectName());
  std::sort(after.begin(), after.end());
  std::sort(places.begin(), places.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
  std::vector<QString> was, is;
  for (const auto& [name, y] : places) was.push_back(name);
  for (const auto& [y, name] : after)
    if (std::find(was.begin(), was.end(), name) != was.end()) is.push_back(name);
  EXPECT_EQ(is, was);
  // Another session starts at the top.
  document().newSession();
  settle();
  EXPECT_EQ(lines->verticalScrollBar()->value(), 0);
}

}  // namespace
}  // namespace heft::app

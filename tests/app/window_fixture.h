#pragma once
/// The real window, and helpers that press, drag, drop and type in it.

#include <gtest/gtest.h>

#include <QApplication>
#include <QDragEnterEvent>
#include <QDropEvent>
#include <QMenu>
#include <QMimeData>
#include <QPushButton>
#include <QTest>
#include <QTimer>
#include <filesystem>

#include "app/shell/window.h"
#include "scenario/make_demo.h"
#include "tests/app/hands.h"
#include "tests/reference/signals.h"

namespace heft::app {

using reference::TemporaryFolder;

class WindowTest : public ::testing::Test {
 protected:
  void SetUp() override {
    window.show();
    ASSERT_TRUE(QTest::qWaitForWindowExposed(&window));
    settle();
  }
  void openDemo() {
    // It is made once a run; every test has a copy of its own.
    static const TemporaryFolder made;
    static const auto session = demo::write(made / "demo");
    ASSERT_TRUE(session);
    std::filesystem::copy(made / "demo", folder / "demo", std::filesystem::copy_options::recursive);
    const auto own = std::filesystem::path(*session).lexically_relative(made / "demo");
    ASSERT_TRUE(window.openFolder(QString::fromStdString(std::filesystem::path(folder / "demo") / own)));
    settle();
  }
  void settle() {
    ASSERT_TRUE(QTest::qWaitFor([&] { return !document().isBusy(); }, 60000));
    QApplication::processEvents();
  }
  /// Until every remedy of the present session has been tried.
  void settleRemedies() {
    ASSERT_TRUE(QTest::qWaitFor(
        [&] { return !document().jobs().isBusy() && !document().isBusy() && document().remediesTried(); },
        120000));
    QApplication::processEvents();
  }
  Document& document() { return window.document(); }
  const Session& session() { return document().session(); }
  template <class T = QWidget>
  T* find(const QString& name) {
    T* found = window.findChild<T*>(name);
    EXPECT_TRUE(found) << name.toStdString();
    return found;
  }
  const Finding* finding(const std::string& id) {
    for (const Finding& f : document().findings())
      if (f.id == id) return &f;
    return nullptr;
  }
  /// What the header shows as auditioned instead of the loop.
  QString heardName() { return find<QPushButton>("Heard instead")->accessibleName().section(": ", 1); }
  void click(QWidget* widget) { QTest::mouseClick(widget, Qt::LeftButton); }
  void press(const QString& buttonName) {
    auto* button = find<QPushButton>(buttonName);
    ASSERT_TRUE(button);
    click(button);
    settle();
  }
  /// By the list of fixes: all that are ticked.
  void fixAll() {
    press("Fix all");
    auto* apply = find<QPushButton>("Apply fixes");
    ASSERT_TRUE(QTest::qWaitFor([&] { return apply->isEnabled(); }, 60000));
    click(apply);
    settle();
  }
  void typeInto(const QString& field, const QString& text) {
    auto* value = find<ValueField>(field);
    ASSERT_TRUE(value);
    click(value);
    typeOver(value, text);
    settle();
  }
  void choose(const QString& field, int row) {
    auto* value = find<ValueField>(field);
    QTimer::singleShot(50, this->receiver.get(), [row] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      ASSERT_TRUE(menu);
      menu->setActiveAction(menu->actions().at(row));
      QTest::keyClick(menu, Qt::Key_Return);
    });
    click(value);
    QApplication::setActiveWindow(&window);  // the offscreen platform does not always give it back after a menu
    settle();
  }
  void drag(QWidget* widget, QPointF from, QPointF to, Qt::KeyboardModifiers modifiers = {}) {
    QTest::mousePress(widget, Qt::LeftButton, modifiers, from.toPoint());
    for (int i = 1; i <= 8; ++i) {
      const QPointF at = from + (to - from) * i / 8.0;
      QMouseEvent move(QEvent::MouseMove, at, widget->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, modifiers);
      QApplication::sendEvent(widget, &move);
    }
    QTest::mouseRelease(widget, Qt::LeftButton, modifiers, to.toPoint());
    settle();
  }
  void drop(QWidget* target, const std::string& path) {
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(QString::fromStdString(path))});
    QDragEnterEvent enter(QPoint(10, 10), Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(target, &enter);
    EXPECT_TRUE(enter.isAccepted());
    QDropEvent event(QPointF(10, 10), Qt::CopyAction, &data, Qt::LeftButton, {});
    QApplication::sendEvent(target, &event);
  }

  TemporaryFolder folder;
  std::unique_ptr<QObject> receiver = std::make_unique<QObject>();
  /// One for all tests, so that the demo is rendered and measured once a run.
  static std::shared_ptr<StepCache> sharedCache() {
    static const auto cache = std::make_shared<StepCache>();
    return cache;
  }
  Window window{QString::fromStdString(folder / "library.db"), sharedCache()};
};

}  // namespace heft::app

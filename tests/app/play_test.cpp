// Play with no device chosen, as on a machine without a sound card: the simulated one takes over and the header
// says so.

#include <gtest/gtest.h>

#include <QTest>

#include "app/shell/window.h"
#include "app/widgets/value_field.h"

namespace heft::app {
namespace {

TEST(Play, WithoutASoundCardTheSimulatedDeviceTakesOver) {
  Window window;
  window.show();
  ASSERT_TRUE(QTest::qWaitForWindowExposed(&window));
  Transport& transport = window.transport();
  transport.play();
  EXPECT_TRUE(transport.isPlaying());
  ASSERT_TRUE(QTest::qWaitFor([&] { return transport.positionQuarters() > 0.0; }, 20000));
  auto* device = window.findChild<ValueField*>("Output device");
  ASSERT_TRUE(device);
  if (transport.isSimulated()) {
    EXPECT_TRUE(device->shownText().startsWith("Simulated"));
  }
  transport.stop();
  EXPECT_TRUE(QTest::qWaitFor([&] { return !transport.isPlaying(); }, 5000));
  // Started and stopped at once: what is still being opened is stopped when it is there.
  transport.play();
  transport.stop();
  EXPECT_TRUE(QTest::qWaitFor([&] { return !transport.isPlaying(); }, 20000));
}

TEST(Play, TwoOutputsAreAKeyApart) {
  Window window;
  window.show();
  ASSERT_TRUE(QTest::qWaitForWindowExposed(&window));
  auto* device = window.findChild<ValueField*>("Output device");
  const QString first = device->shownText();
  window.transport().chooseDevice("simulated");
  const QString second = device->shownText();
  EXPECT_NE(first, second);
  QTest::keyClick(&window, Qt::Key_O);
  EXPECT_EQ(device->shownText(), first);
  QTest::keyClick(&window, Qt::Key_O);
  EXPECT_EQ(device->shownText(), second);
}

TEST(Play, AWindowClosedWhileADeviceOpensEndsCleanly) {
  for (int i = 0; i < 3; ++i) {
    Window window;
    window.transport().play();
  }
}

}  // namespace
}  // namespace heft::app

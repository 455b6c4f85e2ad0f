// Starts one application for all window tests.

#include <gtest/gtest.h>

#include <QApplication>
#include <QSettings>
#include <QStandardPaths>
#include <QTemporaryDir>

#include "app/theme/theme.h"
#include "app/widgets/accessible.h"

int main(int argc, char** argv) {
  ::testing::InitGoogleTest(&argc, argv);
  if (!qEnvironmentVariableIsSet("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  QApplication application(argc, argv);
  QStandardPaths::setTestModeEnabled(true);
  // Keeps the user's own settings and data out of the tests.
  const QTemporaryDir data;
  qputenv("XDG_DATA_HOME", data.path().toUtf8());
  QSettings::setPath(QSettings::NativeFormat, QSettings::UserScope, data.path());
  heft::app::installAccessibility();
  heft::app::applyTheme();
  return RUN_ALL_TESTS();
}

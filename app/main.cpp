// Heft's window. Usage: heft [SESSION] [--pictures DIR]

#include <QApplication>
#include <QCommandLineParser>
#include <QDir>
#include <QElapsedTimer>
#include <QIcon>
#include <QStandardPaths>
#include <cstdio>

#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "app/window.h"

namespace {

// Waits until the figures of the open session are there.
void waitForFigures(heft::app::Window& window) {
  QElapsedTimer time;
  time.start();
  while ((window.document().isBusy() || !window.document().remediesTried()) && time.elapsed() < 20000)
    QApplication::processEvents(QEventLoop::WaitForMoreEvents, 50);
  QApplication::processEvents();
}

int savePictures(heft::app::Window& window, const QString& folder) {
  QDir().mkpath(folder);
  waitForFigures(window);
  for (int i = 0; i < 6; ++i) {
    const auto stage = static_cast<heft::Stage>(i);
    window.showStage(stage);
    QApplication::processEvents();
    const QString path = folder + "/" + QString(heft::stageName(stage)).toLower() + ".png";
    if (!window.grab().save(path)) {
      std::fprintf(stderr, "heft: %s: cannot be written\n", qPrintable(path));
      return 4;
    }
  }
  return 0;
}

}  // namespace

int main(int argc, char** argv) {
  QApplication application(argc, argv);
  QApplication::setApplicationName("Heft");
  QApplication::setApplicationVersion(HEFT_VERSION);
  QApplication::setDesktopFileName("org.heft.Heft");
  QCommandLineParser parser;
  parser.setApplicationDescription(
      "Tunes, aligns and ducks kicks and basses, and checks the low end beside references.");
  parser.addHelpOption();
  parser.addVersionOption();
  parser.addPositionalArgument("session", "a session's folder to open", "[SESSION]");
  const QCommandLineOption pictures("pictures", "Saves a picture of each stage in a folder and ends.", "DIR");
  const QCommandLineOption size("size", "Size of the window, such as 1280x800.", "WxH");
  parser.addOption(pictures);
  parser.addOption(size);
  parser.process(application);
  QApplication::setOrganizationName("Heft");
  heft::app::installAccessibility();
  heft::app::applyTheme(QSettings().value("light").toString() == "dark" ? heft::app::Light::Dark
                                                                        : heft::app::Light::Paper);
  QApplication::setWindowIcon(QIcon(":/fonts/heft.svg"));
  heft::app::Window window;
  if (parser.isSet(size)) {
    const auto parts = parser.value(size).split('x');
    if (parts.size() == 2) window.resize(parts[0].toInt(), parts[1].toInt());
  }
  if (!parser.positionalArguments().isEmpty())
    window.document().openAside(parser.positionalArguments().first());
  window.show();
  if (parser.isSet(pictures)) return savePictures(window, parser.value(pictures));
  window.startAutosave(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/autosave");
  return QApplication::exec();
}

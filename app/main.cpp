// Heft's window. Usage: heft [SESSION] [--demo DIR] [--pictures DIR] [--stems DIR]

#include <malloc.h>

#include <QApplication>
#include <QBuffer>
#include <QCommandLineParser>
#include <QDir>
#include <QElapsedTimer>
#include <QIcon>
#include <QStandardPaths>
#include <cstdio>
#include <functional>

#include "app/shell/window.h"
#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "core/export/export_files.h"
#include "core/fault.h"
#include "core/sound/whole_file.h"
#include "scenario/make_demo.h"

namespace {

// Waits for the figures of the open session.
void waitForFigures(heft::app::Window& window) {
  QElapsedTimer time;
  time.start();
  while ((window.document().isBusy() || !window.document().remediesTried()) && time.elapsed() < 20000)
    QApplication::processEvents(QEventLoop::WaitForMoreEvents, 50);
  QApplication::processEvents();
}

int failed(const heft::Error& error) {
  std::fprintf(stderr, "heft: %s\n", error.sentence().c_str());
  return 4;
}

int saveStems(heft::app::Window& window, const QString& folder) {
  const auto& document = window.document();
  heft::StepCache cache;
  const auto stems = heft::render(document.session(), document.assets(), cache);
  if (!stems) return failed(stems.error());
  const auto files = heft::exportFiles(document.session(), document.assets(), *stems, cache);
  if (!files) return failed(files.error());
  const auto written = heft::writeExport(folder.toStdString(), *files);
  return written ? 0 : failed(written.error());
}

int savePictures(heft::app::Window& window, const QString& folder) {
  QDir().mkpath(folder);
  waitForFigures(window);
  for (int i = 0; i < 6; ++i) {
    const auto stage = static_cast<heft::Stage>(i);
    window.showStage(stage);
    // Results made aside by a stage, such as the list of files, cannot be waited for by name.
    QElapsedTimer shown;
    for (shown.start(); shown.elapsed() < 1500;) QApplication::processEvents(QEventLoop::AllEvents, 50);
    const QString path = folder + "/" + QString(heft::stageName(stage)).toLower() + ".png";
    QByteArray png;
    QBuffer bytes(&png);
    window.grab().save(&bytes, "PNG");
    // Not through the toolkit, which would write through a link of that name.
    if (auto written = heft::writeWhole(path.toStdString(), png.toStdString()); !written)
      return failed(written.error());
  }
  return 0;
}

// No user action ends the window: exceptions become a sentence, and the session stays.
class Application : public QApplication {
 public:
  using QApplication::QApplication;
  std::function<void(const QString&)> say = [](const QString&) {};
  bool notify(QObject* receiver, QEvent* event) override {
    try {
      return QApplication::notify(receiver, event);
    } catch (...) {
      const std::string sentence = heft::faultSentence();
      std::fprintf(stderr, "heft: %s\n", sentence.c_str());
      say(QString::fromStdString(sentence));
      return false;
    }
  }
};

}  // namespace

int main(int argc, char** argv) {
  // Blocks of sound are made on one thread and freed on another: with an arena a thread the heap grew by a
  // third more under random use, and renders take as long with two (docs/performance.md).
  mallopt(M_ARENA_MAX, 2);
  Application application(argc, argv);
  QApplication::setApplicationName("Heft");
  QApplication::setApplicationVersion(HEFT_VERSION);
  QApplication::setDesktopFileName("org.heft.Heft");
  QCommandLineParser parser;
  parser.setApplicationDescription(
      "Tunes, aligns and ducks kicks and basses, and checks the low end beside references.");
  parser.addHelpOption();
  parser.addVersionOption();
  parser.addPositionalArgument("session", "a session's folder to open", "[SESSION]");
  const QCommandLineOption demo("demo", "Writes the demo session into a folder first and opens it.", "DIR");
  const QCommandLineOption pictures("pictures", "Saves a picture of each stage in a folder and ends.", "DIR");
  const QCommandLineOption stems("stems", "With --pictures: writes what the session exports into a folder too.",
                                 "DIR");
  const QCommandLineOption size("size", "Size of the window, such as 1280x800.", "WxH");
  parser.addOption(demo);
  parser.addOption(pictures);
  parser.addOption(stems);
  parser.addOption(size);
  parser.process(application);
  QApplication::setOrganizationName("Heft");
  heft::app::installAccessibility();
  heft::app::applyTheme(QSettings().value("light").toString() == "dark" ? heft::app::Light::Dark
                                                                        : heft::app::Light::Paper);
  QApplication::setWindowIcon(QIcon(":/fonts/heft.svg"));
  heft::app::Window window;
  application.say = [&window](const QString& sentence) { window.document().fail(sentence); };
  if (parser.isSet(size)) {
    const auto parts = parser.value(size).split('x');
    if (parts.size() == 2) window.resize(parts[0].toInt(), parts[1].toInt());
  }
  QString session = parser.positionalArguments().value(0);
  if (parser.isSet(demo)) {
    const auto written = heft::demo::write(parser.value(demo).toStdString());
    if (!written) return failed(written.error());
    session = QString::fromStdString(*written);
  }
  if (!session.isEmpty()) window.document().files().openAside(session);
  window.show();
  if (parser.isSet(pictures)) {
    const int saved = savePictures(window, parser.value(pictures));
    return saved == 0 && parser.isSet(stems) ? saveStems(window, parser.value(stems)) : saved;
  }
  window.startAutosave(QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/autosave");
  return QApplication::exec();
}

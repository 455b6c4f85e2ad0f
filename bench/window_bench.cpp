// Time from start to the first paint, and of each stage's repaint at 100 and 200 %.

#include <QApplication>
#include <QElapsedTimer>
#include <QImage>
#include <QPainter>
#include <cstdio>
#include <filesystem>

#include "app/theme/theme.h"
#include "app/window.h"
#include "scenario/make_demo.h"

int main(int argc, char** argv) {
  if (!qEnvironmentVariableIsSet("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  const std::string folder = (std::filesystem::temp_directory_path() / "heft-window-bench").string();
  const auto session = heft::demo::write(folder);
  if (!session) return 1;
  QElapsedTimer time;
  time.start();
  QApplication application(argc, argv);
  heft::app::applyTheme();
  heft::app::Window window;
  window.openFolder(QString::fromStdString(*session));
  window.show();
  QApplication::processEvents();
  window.grab();
  std::printf("start to first paint %.0f ms\n", static_cast<double>(time.nsecsElapsed()) / 1e6);
  while (window.document().isBusy()) QApplication::processEvents(QEventLoop::WaitForMoreEvents);
  for (int i = 0; i < 5; ++i) {
    const auto stage = static_cast<heft::Stage>(i);
    window.showStage(stage);
    QApplication::processEvents();
    for (double scale : {1.0, 2.0}) {
      QWidget* page = window.page(stage);
      QImage image((QSizeF(page->size()) * scale).toSize(), QImage::Format_ARGB32_Premultiplied);
      image.setDevicePixelRatio(scale);
      double best = 1e9;
      for (int n = 0; n < 10; ++n) {
        QElapsedTimer one;
        one.start();
        page->render(&image);
        best = std::min(best, static_cast<double>(one.nsecsElapsed()) / 1e6);
      }
      std::printf("%-8s %3.0f %%  %.1f ms\n", heft::stageName(stage), 100 * scale, best);
    }
  }
  std::filesystem::remove_all(folder);
  return 0;
}

// Time from start to the first paint, of each stage's repaint at 100 and 200 %, and from an edit to its sound.

#include <QApplication>
#include <QElapsedTimer>
#include <QImage>
#include <QPainter>
#include <QThread>
#include <algorithm>
#include <atomic>
#include <chrono>
#include <cstdio>
#include <filesystem>
#include <thread>
#include <vector>

#include "app/library/library.h"
#include "app/shell/window.h"
#include "app/stages/compare/compare_page.h"
#include "app/stages/sounds/sounds_page.h"
#include "app/theme/theme.h"
#include "core/session/edits/chain.h"
#include "engine/player/player.h"
#include "scenario/make_demo.h"
#include "tests/reference/kick_maker.h"
#include "tests/reference/signals.h"

namespace {

using Clock = std::chrono::steady_clock;

// A device that runs in real time and notes when the silent loop becomes audible.
class Ear {
 public:
  explicit Ear(heft::Player& player) : thread_([this, &player] { run(player); }) {}
  ~Ear() {
    quit_ = true;
    thread_.join();
  }
  bool isSilent() const { return silent_; }

 private:
  void run(heft::Player& player) {
    std::vector<float> out(2 * kFrames);
    auto next = Clock::now();
    while (!quit_) {
      player.process(out.data(), kFrames);
      silent_ = std::all_of(out.begin(), out.end(), [](float x) { return std::abs(x) < 1e-6f; });
      std::this_thread::sleep_until(next += std::chrono::microseconds(1000000 * kFrames / 48000));
    }
  }
  static constexpr size_t kFrames = 256;
  std::atomic<bool> quit_{false}, silent_{true};
  std::thread thread_;
};

// From the edit to the first sound of it, with the window open and drawing; ms, sorted.
std::vector<double> editsUntilHeard(heft::app::Window& window) {
  heft::app::Document& document = window.document();
  document.edit(heft::Edit{"a note without a gap", [](heft::Session& s) {
                             s.bass().notes.clear();
                             for (double at = 0.0; at < s.track.loopQuarters(); at += 0.5)
                               s.bass().notes.push_back({at, 0.5, 33, 1.0});
                             s.kick().hits.clear();
                             s.backing.mute = true;
                           }});
  heft::Player player;
  player.setSnapshot(document.snapshot());
  QObject::connect(&document, &heft::app::Document::rendered, [&] { player.setSnapshot(document.snapshot()); });
  player.play();
  std::vector<double> out;
  {
    const Ear ear(player);
    auto until = [&](bool silent) {
      while (ear.isSilent() != silent) QApplication::processEvents();
    };
    for (int n = 0; n < 21; ++n) {
      document.edit(heft::Edit{"level", [](heft::Session& s) { s.bass().layers[0].mute = true; }});
      until(true);
      while (document.isBusy()) QApplication::processEvents(QEventLoop::WaitForMoreEvents);
      const auto start = Clock::now();
      document.edit(heft::Edit{"level", [n](heft::Session& s) {
                                 s.bass().layers[0].mute = false;
                                 s.bass().layers[0].levelDb = -0.1 * n;  // never found in the cache
                               }});
      until(false);
      out.push_back(std::chrono::duration<double, std::milli>(Clock::now() - start).count());
    }
    QObject::disconnect(&document, &heft::app::Document::rendered, nullptr, nullptr);
  }
  std::sort(out.begin(), out.end());
  return out;
}

// From choosing a file to hearing it in the loop, tuned, trimmed, moved and ducked; ms, sorted.
std::vector<double> filesUntilFitted(heft::app::Window& window, const std::string& folder) {
  window.document().edit(heft::Edit{"fit", [](heft::Session& s) {
                                      s.kick().layers[0].recorded()->targetMidi = 33,
                                      s.kick().layers[0].recorded()->length = heft::TimeValue::note(1, 16);
                                      s.duck().on = true;
                                      // Without hits it would play alone.
                                      s.kick().hits.clear();
                                      for (int beat = 0; beat < 8; ++beat)
                                        s.kick().hits.push_back({1.0 * beat, 1.0});
                                    }});
  window.transport().chooseDevice("simulated");
  std::vector<double> out;
  for (int i = 0; i < 12; ++i) {
    heft::reference::KickRecipe recipe;
    recipe.landingHz = 45.0 + i, recipe.tailMs = 200 + 20 * i;
    const std::string path = folder + "/kick " + std::to_string(i) + ".wav";
    if (!heft::saveSound(heft::reference::bufferOf(heft::reference::makeKick(recipe), 44100), path,
                         heft::SampleFormat::Wav24))
      return {0.0};
    while (window.document().isBusy()) QApplication::processEvents(QEventLoop::WaitForMoreEvents);
    bool asked = false, heard = false;
    const auto start = Clock::now();
    QObject guard;
    QObject::connect(&window.library(), &heft::app::Library::auditioned, &guard, [&] { asked = true; });
    QObject::connect(&window.document(), &heft::app::Document::rendered, &guard, [&] { heard = asked; });
    window.library().audition(path, heft::app::Place{1});
    while (!heard) QApplication::processEvents(QEventLoop::WaitForMoreEvents);
    out.push_back(std::chrono::duration<double, std::milli>(Clock::now() - start).count());
  }
  window.transport().stop();
  std::sort(out.begin(), out.end());
  return out;
}

// The least of ten, at 100 and 200 %.
void printRepaints(QWidget& page, const char* name) {
  for (double scale : {1.0, 2.0}) {
    QImage image((QSizeF(page.size()) * scale).toSize(), QImage::Format_ARGB32_Premultiplied);
    image.setDevicePixelRatio(scale);
    double best = 1e9;
    for (int n = 0; n < 10; ++n) {
      QElapsedTimer one;
      one.start();
      page.render(&image);
      best = std::min(best, static_cast<double>(one.nsecsElapsed()) / 1e6);
    }
    std::printf("%-18s %3.0f %%  %.1f ms\n", name, 100 * scale, best);
  }
}

// Sounds with each processor's picture, of the kick's first layer.
void eachProcessor(heft::app::Window& window) {
  window.showStage(heft::Stage::Sounds);
  auto& document = window.document();
  auto* page = window.findChild<heft::app::SoundsPage*>();
  const heft::Owner layer{.part = document.session().kick().id,
                          .layer = document.session().kick().layers[0].id};
  for (size_t kind = 0; kind < heft::kProcessorKinds; ++kind) {
    const int id = heft::chainOf(document.session(), layer)->freshId();
    document.edit(heft::addProcessor(layer, heft::freshProcessor(kind)));
    page->choice().lookAt(heft::app::ChainPlace{layer, id});
    // Its picture is rendered aside.
    for (int n = 0; n < 100; ++n) QApplication::processEvents(QEventLoop::AllEvents, 10), QThread::msleep(5);
    while (document.isBusy()) QApplication::processEvents(QEventLoop::WaitForMoreEvents);
    printRepaints(*page, heft::processorWord(kind));
    document.undo();
  }
}

// Each picture of Compare, measured aside before, and what a flip to a reference costs here; the next block
// plays it.
void eachCompareView(heft::app::Window& window) {
  using View = heft::app::ComparePage::View;
  window.showStage(heft::Stage::Compare);
  auto* page = window.findChild<heft::app::ComparePage*>();
  const std::pair<View, const char*> views[] = {
      {View::Median, "median"},    {View::Spectrum, "spectrum"}, {View::Note, "by note"},
      {View::Bar, "over the bar"}, {View::Width, "width"},       {View::Speakers, "speakers"},
      {View::Ceiling, "ceiling"},  {View::Facts, "facts"},       {View::Sections, "sections"}};
  for (const auto& [view, name] : views) {
    page->show(view);
    for (int n = 0; n < 150; ++n) QApplication::processEvents(QEventLoop::AllEvents, 10), QThread::msleep(5);
    printRepaints(*page, name);
  }
  double longest = 0.0;
  for (int n = 0; n < 20; ++n) {
    QElapsedTimer one;
    one.start();
    window.ear().hear(n % 2 ? std::optional<size_t>() : std::optional<size_t>(0));
    longest = std::max(longest, static_cast<double>(one.nsecsElapsed()) / 1e6);
  }
  std::printf("flip to a reference, longest of 20: %.1f ms\n", longest);
}

}  // namespace

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
    printRepaints(*window.page(stage), heft::stageName(stage));
  }
  eachCompareView(window);
  eachProcessor(window);
  const auto heard = editsUntilHeard(window);
  std::printf("edit until heard, 256 frames a turn: median %.0f ms, longest of %zu %.0f ms\n",
              heard[heard.size() / 2], heard.size(), heard.back());
  const auto fitted = filesUntilFitted(window, folder);
  std::printf("file chosen until its loop is handed over, fitted: median %.0f ms, longest of %zu %.0f ms\n",
              fitted[fitted.size() / 2], fitted.size(), fitted.back());
  std::filesystem::remove_all(folder);
  return 0;
}

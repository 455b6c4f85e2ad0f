#include "engine/worker/worker.h"

#include <malloc.h>

#include <chrono>

#include "core/fault.h"
#include "engine/player/song_feed.h"

namespace heft {
namespace {

// Without a request for so long, freed pages go back to the system: renders leave a third of the heap in pieces
// between blocks that stay (docs/performance.md). It takes some 20 ms of a gigabyte.
constexpr auto kIdle = std::chrono::seconds(2);

}  // namespace

Worker::Worker(std::function<void(Outcome)> report, std::shared_ptr<StepCache> cache)
    : report_(std::move(report)), cache_(std::move(cache)) {
  thread_ = std::jthread([this](std::stop_token stop) { run(stop); });
}

Worker::~Worker() {
  {
    const std::lock_guard lock(mutex_);
    waiting_.reset();
    current_.request_stop();
  }
  thread_.request_stop();
  wake_.notify_all();
}

void Worker::submit(Request request) {
  {
    const std::lock_guard lock(mutex_);
    waiting_ = std::move(request);
    current_.request_stop();
  }
  wake_.notify_one();
}

void Worker::run(const std::stop_token& stop) {
  bool worked = false;
  while (!stop.stop_requested()) {
    Request request;
    std::stop_token mine;
    {
      std::unique_lock lock(mutex_);
      const auto asked = [this] { return waiting_.has_value(); };
      if (worked && !wake_.wait_for(lock, stop, kIdle, asked) && !stop.stop_requested()) {
        lock.unlock();
        malloc_trim(0);
        lock.lock();
      }
      if (!wake_.wait(lock, stop, asked)) return;
      request = std::move(*waiting_);
      waiting_.reset();
      current_ = std::stop_source();
      mine = current_.get_token();
    }
    worked = true;
    try {
      work(request, mine);
    } catch (...) {
      // The next request is still served.
      Outcome out;
      out.number = request.number;
      out.fault = faultSentence();
      report_(std::move(out));
    }
  }
}

void Worker::work(const Request& request, const std::stop_token& stop) {
  Outcome out;
  out.number = request.number;
  // Renders may use the whole machine; figures run in the background.
  StepCache hurried = cache_->onAllThreads();
  auto after = render(request.session, request.assets, hurried, stop);
  const Session other = request.before.applied(request.session);
  auto before = after ? render(other, request.assets, hurried, stop) : after;
  if (!after || !before) {
    const Error& error = after ? before.error() : after.error();
    out.fault = error.sentence();
    if (error.kind != ErrorKind::Cancelled) report_(std::move(out));
    return;
  }
  out.stems = std::make_shared<const Stems>(std::move(*after));
  out.snapshot =
      makeSnapshot({*out.stems, *before, request.session.track.framesPerQuarter(), request.deviceRate,
                    request.silenced, request.listen, request.playheadQuarters, request.beforeIsHeard},
                   hurried);
  auto layers = [&](bool withFigures) {
    return std::make_shared<const std::vector<LayerSound>>(
        layerSounds(request.session, request.assets, *cache_, withFigures));
  };
  out.layers = layers(false);
  SongFeed::layOut(*out.snapshot, request.playheadQuarters, request.deviceRate, request.beforeIsHeard);
  const bool song = request.session.track.song;
  if (!song) out.peaks = std::make_shared<const LanePeaks>(lanePeaks(*out.stems, *cache_));
  report_(out);
  if (song) {
    out.waves = std::make_shared<const LaneWaves>(laneWaves(*out.stems, hurried, stop));
    if (stop.stop_requested()) return;
    out.peaks = std::make_shared<const LanePeaks>(out.waves->peaks());
  }
  auto levels = [&](const Session& s, const Stems& of) {
    return std::make_shared<const LoopLevels>(
        levelsOf({s, request.assets, of, request.silenced}, *cache_, stop));
  };
  out.levels = levels(request.session, *out.stems);
  // Nothing renders all of a song's Before.
  out.levelsBefore = song ? out.levels : levels(other, *before);
  if (stop.stop_requested()) return;
  report_(out);
  auto facts = study(request.session, request.assets, *out.stems, *cache_, stop, request.references);
  if (!facts || stop.stop_requested()) return;
  out.study = std::make_shared<const Study>(std::move(*facts));
  out.layers = layers(true);
  out.findings = ledger(request.session, *out.study);
  report_(out);
  auto tried = withTriedRemedies(request.session, request.assets, out.findings, *cache_, stop,
                                 request.references, [&](const std::vector<Finding>& sofar) {
                                   out.findings = sofar;
                                   report_(out);
                                 });
  if (!tried || stop.stop_requested()) return;
  out.findings = std::move(*tried);
  out.triedAll = true;
  report_(std::move(out));
}

}  // namespace heft

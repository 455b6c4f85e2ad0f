#include "engine/devices/key_events.h"

#include <algorithm>
#include <condition_variable>
#include <mutex>
#include <sstream>
#include <thread>

#include "core/sound/audio_file.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr uint64_t kMostFileBytes = 1'000'000;
constexpr size_t kMostEvents = 10'000;
constexpr double kLongest = 3600.0;

std::vector<std::string> wordsOf(const std::string& line) {
  std::istringstream in(line.substr(0, line.find('#')));
  std::vector<std::string> out;
  for (std::string word; in >> word;) out.push_back(word);
  return out;
}

std::optional<double> numberWithin(const std::string& word, double low, double high) {
  const auto value = parseNumber(word);
  return value && *value >= low && *value <= high ? std::optional<double>(*value) : std::nullopt;
}

std::optional<TimedKeyEvent> eventOf(const std::vector<std::string>& words) {
  if (words.size() < 2) return std::nullopt;
  const auto seconds = numberWithin(words[0], 0.0, kLongest);
  if (!seconds) return std::nullopt;
  TimedKeyEvent out;
  out.seconds = *seconds;
  if (words[1] == "gone" && words.size() == 2) {
    out.event.kind = KeyEvent::Kind::Gone;
    return out;
  }
  if (words.size() < 3) return std::nullopt;
  if (words[1] == "wheel" && words.size() == 3) {
    const auto value = numberWithin(words[2], -1.0, 1.0);
    if (!value) return std::nullopt;
    out.event = {KeyEvent::Kind::Wheel, 0, *value};
    return out;
  }
  const auto midi = numberWithin(words[2], 0.0, words[1] == "controller" ? 119.0 : 127.0);
  if (!midi || *midi != static_cast<int>(*midi)) return std::nullopt;
  if (words[1] == "release" && words.size() == 3) {
    out.event = {KeyEvent::Kind::Release, static_cast<int>(*midi), 0.0};
    return out;
  }
  if (words[1] == "controller") {
    const auto value = words.size() == 4 ? numberWithin(words[3], 0.0, 1.0) : std::nullopt;
    if (!value) return std::nullopt;
    out.event = {KeyEvent::Kind::Controller, static_cast<int>(*midi), *value};
    return out;
  }
  const auto velocity = words.size() == 4 ? numberWithin(words[3], 1.0 / 127.0, 1.0) : std::nullopt;
  if (words[1] != "press" || !velocity) return std::nullopt;
  out.event = {KeyEvent::Kind::Press, static_cast<int>(*midi), *velocity};
  return out;
}

class EventKeyboard final : public MidiInput {
 public:
  EventKeyboard(std::string name, std::vector<TimedKeyEvent> events, KeyListener listener)
      : name_(std::move(name)), events_(std::move(events)), listener_(std::move(listener)) {
    thread_ = std::jthread([this](const std::stop_token& stop) { run(stop); });
  }
  std::string name() const override { return name_; }
  void begin(double inSeconds) override {
    {
      const std::lock_guard lock(mutex_);
      start_ =
          Clock::now() + std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(inSeconds));
      ++turn_;
    }
    wake_.notify_all();
  }

 private:
  using Clock = std::chrono::steady_clock;

  void run(const std::stop_token& stop) {
    uint64_t played = 0;
    std::unique_lock lock(mutex_);
    while (wake_.wait(lock, stop, [&] { return turn_ != played; })) {
      played = turn_;
      for (size_t next = 0; next < events_.size(); ++next) {
        const auto at = start_ + std::chrono::duration_cast<Clock::duration>(
                                     std::chrono::duration<double>(events_[next].seconds));
        // Woken before its time: begun anew, or over.
        if (wake_.wait_until(lock, stop, at, [&] { return turn_ != played; }) || stop.stop_requested()) break;
        lock.unlock();
        listener_(events_[next].event);
        lock.lock();
      }
    }
  }

  std::string name_;
  std::vector<TimedKeyEvent> events_;
  KeyListener listener_;
  std::mutex mutex_;
  std::condition_variable_any wake_;
  Clock::time_point start_;
  uint64_t turn_ = 0;
  std::jthread thread_;  // last, so that it ends first
};

}  // namespace

Result<std::vector<TimedKeyEvent>> parseKeyEvents(const std::string& text, const std::string& fileName) {
  std::vector<TimedKeyEvent> out;
  std::istringstream in(text);
  int number = 0;
  for (std::string line; std::getline(in, line);) {
    ++number;
    const auto words = wordsOf(line);
    if (words.empty()) continue;
    const auto event = eventOf(words);
    if (!event)
      return unreadable(fileName, "line " + std::to_string(number) +
                                      " is no event; write it as \"0.5 press 33 0.8\", \"0.75 release 33\", "
                                      "\"0.6 wheel -0.5\" or \"0.7 controller 21 0.4\"");
    if (out.size() == kMostEvents)
      return unreadable(fileName, "holds more than 10,000 events; use a shorter file");
    out.push_back(*event);
  }
  if (out.empty()) return unreadable(fileName, "holds no events; choose another file");
  std::stable_sort(out.begin(), out.end(),
                   [](const TimedKeyEvent& a, const TimedKeyEvent& b) { return a.seconds < b.seconds; });
  return out;
}

Result<std::unique_ptr<MidiInput>> openKeyEvents(const std::string& path, KeyListener listener) {
  const auto text = readBytes(path, kMostFileBytes);
  if (!text) return Fail(text.error());
  auto events = parseKeyEvents(*text, path);
  if (!events) return Fail(events.error());
  return std::unique_ptr<MidiInput>(
      std::make_unique<EventKeyboard>(path, std::move(*events), std::move(listener)));
}

}  // namespace heft

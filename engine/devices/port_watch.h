#pragma once
/// Reports MIDI ports that disappear, by ALSA's own announcements; sleeps in between.

#include <functional>
#include <optional>
#include <string>
#include <thread>

struct _snd_seq;

namespace heft {

/// Where ALSA's sequencer has a port.
struct PortAddress {
  int client = 0, port = 0;
  bool operator==(const PortAddress&) const = default;
};

/// As RtMidi writes it at the end of a port's name: "Keys:Keys MIDI 1 24:0". Nothing without one.
std::optional<PortAddress> addressOf(const std::string& portName);

class PortWatch {
 public:
  /// Calls `then` once, on a thread of the watch's own. Without an ALSA sequencer it never does.
  PortWatch(const PortAddress& of, std::function<void()> then);
  ~PortWatch();
  PortWatch(const PortWatch&) = delete;
  PortWatch& operator=(const PortWatch&) = delete;

 private:
  void run();
  bool isOver() const;
  PortAddress of_;
  std::function<void()> then_;
  _snd_seq* sequencer_ = nullptr;
  int wake_ = -1;  ///< written to when it is over
  std::thread thread_;
};

}  // namespace heft

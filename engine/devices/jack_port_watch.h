#pragma once
/// Says that a MIDI port of a JACK server went, by the server's own notices: it sleeps in between.

#include <atomic>
#include <functional>
#include <string>

struct _jack_client;

namespace heft {

class JackPortWatch {
 public:
  /// `then` is called once, on a thread of the server's client library, when the port or the server
  /// disappears. Never without a server.
  JackPortWatch(std::string portName, std::function<void()> then);
  ~JackPortWatch();
  JackPortWatch(const JackPortWatch&) = delete;
  JackPortWatch& operator=(const JackPortWatch&) = delete;

 private:
  void say();
  std::string port_;
  std::function<void()> then_;
  std::atomic<bool> said_{false};
  _jack_client* client_ = nullptr;
};

}  // namespace heft

#include "engine/devices/port_watch.h"

#include <alsa/asoundlib.h>
#include <poll.h>
#include <sys/eventfd.h>
#include <unistd.h>

#include <cerrno>
#include <charconv>
#include <vector>

#include "core/sound/quiet_stderr.h"

namespace heft {

std::optional<PortAddress> addressOf(const std::string& name) {
  PortAddress out;
  const size_t at = name.rfind(' ');
  const char* first = name.data() + (at == std::string::npos ? 0 : at + 1);
  const char* const last = name.data() + name.size();
  const auto client = std::from_chars(first, last, out.client);
  if (client.ec != std::errc() || client.ptr == last || *client.ptr != ':') return std::nullopt;
  const auto port = std::from_chars(client.ptr + 1, last, out.port);
  if (port.ec != std::errc() || port.ptr != last || out.client < 0 || out.port < 0) return std::nullopt;
  return out;
}

PortWatch::PortWatch(const PortAddress& of, std::function<void()> then) : of_(of), then_(std::move(then)) {
  const QuietStderr hush;
  if (snd_seq_open(&sequencer_, "default", SND_SEQ_OPEN_INPUT, SND_SEQ_NONBLOCK) < 0) {
    sequencer_ = nullptr;
    return;
  }
  snd_seq_set_client_name(sequencer_, "Heft ports");
  const int port = snd_seq_create_simple_port(
      sequencer_, "ports", SND_SEQ_PORT_CAP_WRITE | SND_SEQ_PORT_CAP_NO_EXPORT, SND_SEQ_PORT_TYPE_APPLICATION);
  wake_ = eventfd(0, EFD_CLOEXEC);
  if (port < 0 || wake_ < 0 ||
      snd_seq_connect_from(sequencer_, port, SND_SEQ_CLIENT_SYSTEM, SND_SEQ_PORT_SYSTEM_ANNOUNCE) < 0)
    return;
  thread_ = std::thread([this] { run(); });
}

PortWatch::~PortWatch() {
  // A waiter on the descriptor cannot miss it: writing to it fails only where it is full.
  if (thread_.joinable()) eventfd_write(wake_, 1), thread_.join();
  if (wake_ >= 0) close(wake_);
  if (sequencer_) snd_seq_close(sequencer_);
}

// Reads an announcement; whether it says that the port disappeared.
bool PortWatch::isOver() const {
  snd_seq_event_t* event = nullptr;
  while (snd_seq_event_input(sequencer_, &event) >= 0 && event) {
    const bool client = event->type == SND_SEQ_EVENT_CLIENT_EXIT, port = event->type == SND_SEQ_EVENT_PORT_EXIT;
    if ((client || port) && event->data.addr.client == of_.client &&
        (client || event->data.addr.port == of_.port))
      return true;
  }
  return false;
}

void PortWatch::run() {
  const int count = snd_seq_poll_descriptors_count(sequencer_, POLLIN);
  std::vector<pollfd> waits(static_cast<size_t>(count) + 1);
  snd_seq_poll_descriptors(sequencer_, waits.data(), static_cast<unsigned>(count), POLLIN);
  waits.back() = {wake_, POLLIN, 0};
  while (true) {
    const int woken = poll(waits.data(), waits.size(), -1);
    if (woken < 0 && errno != EINTR) return;
    if (woken < 0) continue;
    if (waits.back().revents) return;
    if (isOver()) return then_();
  }
}

}  // namespace heft

#include "engine/devices/jack_port_watch.h"

#include <jack/jack.h>

#include "core/sound/quiet_stderr.h"

namespace heft {

JackPortWatch::JackPortWatch(std::string portName, std::function<void()> then)
    : port_(std::move(portName)), then_(std::move(then)) {
  const QuietStderr hush;
  client_ = jack_client_open("Heft ports", JackNoStartServer, nullptr);
  if (!client_) return;
  auto changed = [](jack_port_id_t id, int registered, void* self) {
    if (registered) return;
    auto& watch = *static_cast<JackPortWatch*>(self);
    // A port that went may be found by its name a while longer, or not at all any more.
    const jack_port_t* went = jack_port_by_id(watch.client_, id);
    const char* name = went ? jack_port_name(went) : nullptr;
    if ((name && watch.port_ == name) || !jack_port_by_name(watch.client_, watch.port_.c_str())) watch.say();
  };
  jack_set_port_registration_callback(client_, changed, this);
  jack_on_shutdown(
      client_, [](void* self) { static_cast<JackPortWatch*>(self)->say(); }, this);
  jack_activate(client_);
}

JackPortWatch::~JackPortWatch() {
  if (client_) jack_client_close(client_);
}

void JackPortWatch::say() {
  if (!said_.exchange(true)) then_();
}

}  // namespace heft

#include "app/document/jobs.h"

#include <algorithm>

namespace heft::app {

bool Jobs::canBeCancelled() const {
  return std::any_of(running_.begin(), running_.end(),
                     [](const Job& job) { return job.kind == Kind::CanBeCancelled; });
}

QString Jobs::words() const {
  if (running_.empty()) return {};
  const size_t more = running_.size() - 1;
  return running_.front().words + (more > 0 ? QString(", and %1 more").arg(more) : QString());
}

void Jobs::cancel() {
  for (Job& job : running_)
    if (job.kind == Kind::CanBeCancelled) job.stop.request_stop();
  std::erase_if(running_, [](const Job& job) { return job.kind == Kind::CanBeCancelled; });
  Q_EMIT changed();
}

}  // namespace heft::app

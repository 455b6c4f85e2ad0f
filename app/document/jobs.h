#pragma once
/// Work that runs aside under a name that the window can show, and that can be called off.

#include <QObject>
#include <QThreadPool>
#include <stop_token>
#include <type_traits>
#include <vector>

#include "app/document/aside.h"

namespace heft::app {

class Jobs : public QObject {
  Q_OBJECT
 public:
  /// Whether Cancel may end a job: what is being saved is saved.
  enum class Kind { CanBeCancelled, RunsToItsEnd };

  explicit Jobs(QObject* parent = nullptr) : QObject(parent) { pool_.setMaxThreadCount(kMostAtOnce); }
  /// Calls off what can be and waits for the rest.
  ~Jobs() override { cancel(); }

  /// Runs `work(stop)` on another thread; `done(result)` follows on this one unless the job was called off.
  template <class Work, class Done>
  void start(const QString& words, Kind kind, Work work, Done done) {
    const uint64_t number = ++started_;
    using Outcome = std::invoke_result_t<Work, std::stop_token>;
    std::stop_source stop;
    running_.push_back({number, words, kind, stop});
    auto called = [work, token = stop.get_token()] { return work(token); };
    runAside(pool_, this, called, [this, number, done, token = stop.get_token()](Outcome result) {
      std::erase_if(running_, [number](const Job& job) { return job.number == number; });
      if (!token.stop_requested()) done(std::move(result));
      Q_EMIT changed();
    });
    Q_EMIT changed();
  }
  bool isBusy() const { return !running_.empty(); }
  bool canBeCancelled() const;
  /// "Reading Brine.flac", or that and how many more.
  QString words() const;
  /// Calls off every job that can be. It is forgotten at once; its thread ends as soon as it can.
  void cancel();

 Q_SIGNALS:
  void changed();

 private:
  static constexpr int kMostAtOnce = 4;  // a kick need not wait for two long references
  struct Job {
    uint64_t number;
    QString words;
    Kind kind;
    std::stop_source stop;
  };
  std::vector<Job> running_;
  uint64_t started_ = 0;
  QThreadPool pool_;  // last, so that it is waited for first
};

}  // namespace heft::app

#pragma once
/// Named background jobs that the window can show and cancel.

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
  /// Whether Cancel may end a job: saves are never cancelled. InOrder: runs to its end, one after another, so
  /// that the later of two saves wins.
  enum class Kind { CanBeCancelled, RunsToItsEnd, InOrder };

  explicit Jobs(QObject* parent = nullptr) : QObject(parent) {
    pool_.setMaxThreadCount(kMostAtOnce), inOrder_.setMaxThreadCount(1);
  }
  /// Cancels what it can and waits for the rest.
  ~Jobs() override { cancel(); }

  /// Runs `work(stop)` on another thread; `done(result)` follows on this one unless the job was cancelled. If
  /// `work` throws, faulted() follows instead.
  template <class Work, class Done>
  void start(const QString& words, Kind kind, Work work, Done done) {
    const uint64_t number = ++started_;
    using Outcome = std::invoke_result_t<Work, std::stop_token>;
    std::stop_source stop;
    running_.push_back({number, words, kind, stop});
    auto called = [work, token = stop.get_token()] { return work(token); };
    auto ended = [this, number, token = stop.get_token()](auto then) {
      std::erase_if(running_, [number](const Job& job) { return job.number == number; });
      if (!token.stop_requested()) then();
      Q_EMIT changed();
    };
    runAside(
        kind == Kind::InOrder ? inOrder_ : pool_, this, called,
        [ended, done](Outcome result) { ended([&] { done(std::move(result)); }); },
        [this, ended, words](const QString& fault) { ended([&] { Q_EMIT faulted(words + ": " + fault); }); });
    Q_EMIT changed();
  }
  /// Ordered writes run there; waitForDone() waits for them.
  QThreadPool& inOrder() { return inOrder_; }
  bool isBusy() const { return !running_.empty(); }
  bool canBeCancelled() const;
  /// "Reading Brine.flac", or that and how many more.
  QString words() const;
  /// Cancels every cancellable job and forgets it at once; its thread ends as soon as it can.
  void cancel();

 Q_SIGNALS:
  void changed();
  void faulted(const QString& sentence);

 private:
  static constexpr int kMostAtOnce = 4;  // a kick does not wait for two long references
  struct Job {
    uint64_t number;
    QString words;
    Kind kind;
    std::stop_source stop;
  };
  std::vector<Job> running_;
  uint64_t started_ = 0;
  QThreadPool pool_, inOrder_;  // last, so that they are waited for first
};

}  // namespace heft::app

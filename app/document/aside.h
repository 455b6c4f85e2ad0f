#pragma once
/// Work on another thread with its result delivered to this one.

#include <QCoreApplication>
#include <QFuture>
#include <QPointer>
#include <QThreadPool>
#include <QtConcurrent>
#include <memory>
#include <optional>
#include <type_traits>
#include <utility>

#include "core/fault.h"

namespace heft::app {

/// Runs `work()` on a thread of `pool`; then calls `done(result)` once on the window's thread, from the event
/// loop, unless `owner` is gone by then; where `work` throws, `failed(sentence)` instead. The future ends
/// with the work, before the call. Called on the window's thread. Not QFuture::then: in Qt 6.4 a continuation
/// attached just as the future ends runs twice, the second time on a destroyed promise, and one whose context
/// is just being deleted is posted to its remains.
template <class Work, class Done, class Failed>
QFuture<void> runAside(QThreadPool& pool, QObject* owner, Work work, Done done, Failed failed) {
  using Outcome = std::invoke_result_t<Work&>;
  auto task = [work = std::move(work), done = std::move(done), failed = std::move(failed),
               self = QPointer<QObject>(owner)]() mutable {
    auto outcome = std::make_shared<std::optional<Outcome>>();
    QString fault;
    try {
      outcome->emplace(work());
    } catch (...) {
      fault = QString::fromStdString(faultSentence());
    }
    QMetaObject::invokeMethod(
        QCoreApplication::instance(),
        [self = std::move(self), done = std::move(done), failed = std::move(failed), outcome, fault]() mutable {
          if (self && *outcome) return done(std::move(**outcome));
          if (self) failed(fault);
        },
        Qt::QueuedConnection);
  };
  return QtConcurrent::run(&pool, std::move(task));
}

template <class Work, class Done, class Failed>
QFuture<void> runAside(QObject* owner, Work work, Done done, Failed failed) {
  return runAside(*QThreadPool::globalInstance(), owner, std::move(work), std::move(done), std::move(failed));
}

/// Work requested repeatedly, as during a drag: one at a time, and only the last request's result is
/// delivered.
class LatestAside {
 public:
  /// `makeWork()` creates the work when it begins; if that throws, `failed(sentence)` follows. `owner` holds
  /// this.
  template <class MakeWork, class Done, class Failed>
  void ask(QObject* owner, MakeWork makeWork, Done done, Failed failed) {
    again_ = running_;
    if (running_) return;
    running_ = true;
    auto ended = [this, owner, makeWork, done, failed](auto then) {
      running_ = false;
      if (again_) return ask(owner, makeWork, done, failed);
      then();
    };
    runAside(
        owner, makeWork(), [ended, done](auto outcome) { ended([&] { done(std::move(outcome)); }); },
        [ended, failed](const QString& fault) { ended([&] { failed(fault); }); });
  }
  bool isRunning() const { return running_; }

 private:
  bool running_ = false, again_ = false;
};

}  // namespace heft::app

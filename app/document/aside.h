#pragma once
/// Work on another thread whose result comes back to this one.

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

/// Runs `work()` on a thread of `pool`; `done(result)` follows once on the window's thread, from the event
/// loop, unless `owner` is gone by then; where `work` throws, `failed(sentence)` follows instead. The future
/// ends with the work, not with what follows it. Called on the window's thread. Not QFuture::then: in Qt 6.4
/// one that is told of a future just as that ends runs twice, the second time on a promise that is gone, and
/// one whose context is just being deleted is posted to what is left of it.
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

/// Work asked for again and again, as while something is dragged: one at a time, and only what was asked for
/// last is told.
class LatestAside {
 public:
  /// `makeWork()` gives the work when it begins; where that throws, `failed(sentence)`. `owner` holds this.
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

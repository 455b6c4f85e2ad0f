#pragma once
/// Work on another thread whose result comes back to this one.

#include <QCoreApplication>
#include <QFuture>
#include <QPointer>
#include <QThreadPool>
#include <QtConcurrent>
#include <memory>
#include <type_traits>
#include <utility>

namespace heft::app {

/// Runs `work()` on a thread of `pool`; `done(result)` follows once on the window's thread, from the event
/// loop, unless `owner` is gone by then. The future ends with the work, not with what follows it. Called on the
/// window's thread.
/// Not QFuture::then: in Qt 6.4 one that is told of a future just as that ends runs twice, the second time on a
/// promise that is gone, and one whose context is just being deleted is posted to what is left of it.
template <class Work, class Done>
QFuture<void> runAside(QThreadPool& pool, QObject* owner, Work work, Done done) {
  using Outcome = std::invoke_result_t<Work&>;
  auto task = [work = std::move(work), done = std::move(done), self = QPointer<QObject>(owner)]() mutable {
    auto outcome = std::make_shared<Outcome>(work());
    QMetaObject::invokeMethod(
        QCoreApplication::instance(),
        [self = std::move(self), done = std::move(done), outcome]() mutable {
          if (self) done(std::move(*outcome));
        },
        Qt::QueuedConnection);
  };
  return QtConcurrent::run(&pool, std::move(task));
}

template <class Work, class Done>
QFuture<void> runAside(QObject* owner, Work work, Done done) {
  return runAside(*QThreadPool::globalInstance(), owner, std::move(work), std::move(done));
}

/// Work asked for again and again, as while something is dragged: one at a time, and only what was asked for
/// last is told.
class LatestAside {
 public:
  /// `makeWork()` gives the work when it begins. `owner` holds this.
  template <class MakeWork, class Done>
  void ask(QObject* owner, MakeWork makeWork, Done done) {
    again_ = running_;
    if (running_) return;
    running_ = true;
    runAside(owner, makeWork(), [this, owner, makeWork, done](auto outcome) {
      running_ = false;
      if (again_) return ask(owner, makeWork, done);
      done(std::move(outcome));
    });
  }
  bool isRunning() const { return running_; }

 private:
  bool running_ = false, again_ = false;
};

}  // namespace heft::app

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

}  // namespace heft::app

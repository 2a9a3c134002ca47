// Work that waits for the disc: done on another thread, while the window goes on painting.
#pragma once
#include <QEventLoop>
#include <QFutureWatcher>
#include <QtConcurrentRun>
#include <exception>
#include <optional>

namespace loom::app {

/// The result of `work`, which runs on another thread. Until then the window paints, and what is typed and clicked
/// waits. `work` may not touch the interface.
template <class Work>
auto elsewhere(Work work) -> decltype(work()) {
  std::optional<decltype(work())> result;
  std::exception_ptr failed;
  QFuture<void> running = QtConcurrent::run([&] {
    try {
      result.emplace(work());
    } catch (...) {
      failed = std::current_exception();
    }
  });
  QEventLoop loop;
  QFutureWatcher<void> watcher;
  QObject::connect(&watcher, &QFutureWatcher<void>::finished, &loop, &QEventLoop::quit);
  watcher.setFuture(running);
  loop.exec(QEventLoop::ExcludeUserInputEvents);
  running.waitForFinished();  // the loop may have been left because the program ends
  if (failed) std::rethrow_exception(failed);
  return std::move(*result);
}

}  // namespace loom::app

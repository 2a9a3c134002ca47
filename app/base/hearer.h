// How work on another thread tells an object of the interface what it found, for as long as there is that object.
#pragma once
#include <QMetaObject>
#include <QObject>
#include <functional>
#include <memory>
#include <mutex>

namespace loom::app {

/// Copies are one hearer. The object's destructor calls leave(): it need not wait for whoever still works.
class Hearer {
 public:
  explicit Hearer(QObject* object) : state_(std::make_shared<State>()) { state_->object = object; }
  /// From any thread: `what` is done on the object's own, unless it has left by then.
  void tell(std::function<void()> what) const {
    const std::lock_guard lock(state_->mutex);
    if (state_->object) QMetaObject::invokeMethod(state_->object, std::move(what), Qt::QueuedConnection);
  }
  void leave() {
    const std::lock_guard lock(state_->mutex);
    state_->object = nullptr;
  }

 private:
  struct State {
    std::mutex mutex;
    QObject* object = nullptr;
  };
  std::shared_ptr<State> state_;
};

}  // namespace loom::app

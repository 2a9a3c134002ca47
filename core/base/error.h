// Errors are values: what went wrong, where, and how to mend it.
#pragma once
#include <cassert>
#include <string>
#include <utility>
#include <variant>

namespace loom {

/// A message for a person. `where`: file, node or parameter. `what`: the fact. `mend`: what to do about it.
struct Error {
  std::string where;
  std::string what;
  std::string mend;

  /// `where: what. mend` on one line.
  std::string text() const {
    std::string line = where.empty() ? what : where + ": " + what;
    if (!mend.empty()) line += ". " + mend;
    return line;
  }
};

/// The success of a call that gives nothing back.
struct Done {};

/// Either a `T` or an `Error`. Asking for the wrong one is our own mistake and asserts.
template <class T>
class [[nodiscard]] Result {
 public:
  Result(T value) : held_(std::move(value)) {}
  Result(Error error) : held_(std::move(error)) {}

  bool ok() const { return held_.index() == 0; }
  explicit operator bool() const { return ok(); }
  const T& value() const& {
    assert(ok());
    return std::get<0>(held_);
  }
  T& value() & {
    assert(ok());
    return std::get<0>(held_);
  }
  T&& value() && {
    assert(ok());
    return std::get<0>(std::move(held_));
  }
  const Error& error() const {
    assert(!ok());
    return std::get<1>(held_);
  }
  const T& operator*() const& { return value(); }
  const T* operator->() const { return &value(); }
  T* operator->() { return &value(); }

 private:
  std::variant<T, Error> held_;
};

}  // namespace loom

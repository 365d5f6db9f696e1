#pragma once
// What a call gives back when it can fail: a value, or one sentence that a user can act on.

#include <optional>
#include <string>
#include <utility>
#include <variant>

namespace molten {

struct Error {
  std::string message;     ///< a whole sentence: what happened, what it means, what to do
  bool cancelled = false;  ///< the work was called off by whoever asked for it; nothing to report
};

inline Error cancelledError() {
  return {"Cancelled.", true};
}

/// What std::bad_alloc is turned into where work of another thread, or the core, ends.
inline Error outOfMemoryError() {
  return {"There is not enough memory for this. Lower the memory budget, choose a smaller size, or close something else."};
}

template <class T>
class [[nodiscard]] Result {
 public:
  Result(T value) : held_(std::move(value)) {}
  Result(Error error) : held_(std::move(error)) {}

  explicit operator bool() const { return std::holds_alternative<T>(held_); }
  /// Requires a value.
  T& operator*() { return std::get<T>(held_); }
  const T& operator*() const { return std::get<T>(held_); }
  T* operator->() { return &std::get<T>(held_); }
  const T* operator->() const { return &std::get<T>(held_); }
  /// Requires an error.
  const Error& error() const { return std::get<Error>(held_); }

 private:
  std::variant<T, Error> held_;
};

template <>
class [[nodiscard]] Result<void> {
 public:
  Result() = default;
  Result(Error error) : error_(std::move(error)) {}

  explicit operator bool() const { return !error_; }
  const Error& error() const { return *error_; }

 private:
  std::optional<Error> error_;
};

using Status = Result<void>;

}  // namespace molten

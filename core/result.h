#pragma once
/// The one way in which core functions fail: a value that must be looked at.

#include <string>
#include <tl/expected.hpp>
#include <utility>

namespace heft {

/// What kind of thing went wrong; the command line turns it into its exit code.
enum class ErrorKind {
  BadUsage,    ///< a number, note or option that makes no sense
  Unreadable,  ///< outside data that is missing, broken or out of bounds
  Unwritable,  ///< an output that could not be written whole
  Cancelled,   ///< stopped on request; nothing to tell
};

/// A failure in words for a person: which file (may be empty) and one sentence with the remedy.
struct Error {
  ErrorKind kind = ErrorKind::Unreadable;
  std::string file;
  std::string reason;

  /// "FILE: reason", or the reason alone.
  std::string sentence() const { return file.empty() ? reason : file + ": " + reason; }
};

template <class T>
class [[nodiscard]] Result : public tl::expected<T, Error> {
 public:
  using tl::expected<T, Error>::expected;
};

using Fail = tl::unexpected<Error>;

inline Fail badUsage(std::string reason) {
  return Fail(Error{ErrorKind::BadUsage, {}, std::move(reason)});
}
inline Fail unreadable(std::string file, std::string reason) {
  return Fail(Error{ErrorKind::Unreadable, std::move(file), std::move(reason)});
}
inline Fail unwritable(std::string file, std::string reason) {
  return Fail(Error{ErrorKind::Unwritable, std::move(file), std::move(reason)});
}
inline Fail cancelled() {
  return Fail(Error{ErrorKind::Cancelled, {}, "cancelled"});
}

}  // namespace heft

#pragma once
/// Keeps what libraries print on stderr from the user while it exists. For the whole process: use briefly.
/// Several may exist at once, on any threads; the last one gives stderr back.

namespace heft {

class QuietStderr {
 public:
  QuietStderr();
  ~QuietStderr();
  QuietStderr(const QuietStderr&) = delete;
  QuietStderr& operator=(const QuietStderr&) = delete;
};

}  // namespace heft

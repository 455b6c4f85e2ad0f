#pragma once
/// Hides libraries' output on stderr from the user while it exists. Process-wide: use briefly. Several may
/// exist at once, on any threads; the last one restores stderr.

namespace heft {

class QuietStderr {
 public:
  QuietStderr();
  ~QuietStderr();
  QuietStderr(const QuietStderr&) = delete;
  QuietStderr& operator=(const QuietStderr&) = delete;
};

}  // namespace heft

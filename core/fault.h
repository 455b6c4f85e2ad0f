#pragma once
/// The sentence for an exception that reached a thread's outermost loop: nothing may end the window or leave
/// a job busy for ever.

#include <exception>
#include <new>
#include <string>

namespace heft {

/// One sentence for a person. Called within a catch block.
inline std::string faultSentence() {
  const std::string tail = "; your session is unchanged";
  try {
    throw;
  } catch (const std::bad_alloc&) {
    return "not enough memory" + tail + ". Use shorter sounds or close other programs";
  } catch (const std::exception& fault) {
    return "stopped by a fault in Heft (" + std::string(fault.what()) + ")" + tail;
  } catch (...) {
    return "stopped by a fault in Heft" + tail;
  }
}

}  // namespace heft

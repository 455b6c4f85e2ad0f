#pragma once
/// How often the present thread has taken memory from the heap or given it back. The counter replaces operator
/// new; -1 where it cannot (under the address sanitizer).

namespace heft {
long heapCalls();
}  // namespace heft

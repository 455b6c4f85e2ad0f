#pragma once
/// How often the present thread has taken memory from the heap or given it back. The counter replaces operator new.

namespace heft {
long heapCalls();
}  // namespace heft

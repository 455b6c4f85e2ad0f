#pragma once
/// What tests ask of the build that they run in. They are compiled once and linked into several.

#include <string>

namespace heft {

/// Whether sanitizers watch what is tested.
bool isWatched();
/// The command line of the same build.
std::string heftCli();
/// How often the present thread has taken memory from the heap or given it back; not counted where isWatched().
long heapCalls();

}  // namespace heft

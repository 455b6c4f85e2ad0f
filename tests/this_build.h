#pragma once
/// What tests ask of the build that they run in. They are compiled once and linked into several.

#include <string>

namespace heft {

/// Whether the tests run under sanitizers.
bool isWatched();
/// The command line of the same build.
std::string heftCli();
/// Number of heap allocations and releases by this thread; not counted where isWatched().
long heapCalls();

}  // namespace heft

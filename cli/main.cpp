// heft-cli: the same core without the window. Exit codes: 0 done, 2 bad usage, 3 input unreadable, 4 output not
// written.

#include <cstdio>
#include <exception>

#include "cli/commands.h"
#include "core/theory/text.h"

namespace {

int exitCode(heft::ErrorKind kind) {
  switch (kind) {
    case heft::ErrorKind::BadUsage:
      return 2;
    case heft::ErrorKind::Unreadable:
      return 3;
    case heft::ErrorKind::Unwritable:
      return 4;
    case heft::ErrorKind::Cancelled:
      return 1;
  }
  return 1;
}

// One line, whatever a file's name holds.
int fail(int code, const std::string& sentence) {
  std::fprintf(stderr, "heft-cli: %s\n", heft::printable(sentence).c_str());
  return code;
}

int run(int argc, char** argv) {
  using heft::cli::Json;
  const auto asked = heft::cli::parseArguments(argc, argv);
  if (!asked) return fail(2, asked.error().sentence());
  std::string text = asked->help;
  if (text.empty()) {
    const auto document = asked->command();
    if (!document) return fail(exitCode(document.error().kind), document.error().sentence());
    text = asked->common.json ? document->dump(2, ' ', false, Json::error_handler_t::replace) + "\n"
                              : heft::cli::tableOf(*document);
  }
  const bool put = std::fputs(text.c_str(), stdout) >= 0;
  if (std::fflush(stdout) != 0 || !put) return fail(4, "standard output cannot be written");
  return 0;
}

}  // namespace

int main(int argc, char** argv) {
  try {
    return run(argc, argv);
  } catch (const std::bad_alloc&) {
    return fail(3, "not enough memory for this file; cut it into shorter ones");
  } catch (const std::exception& error) {
    return fail(1, std::string("unexpected: ") + error.what());
  }
}

// heft-cli: the same core without the window. Exit codes: 0 done, 2 bad usage, 3 input unreadable, 4 output not
// written.

#include <cstdio>
#include <exception>

#include "cli/commands.h"

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
int fail(int code, std::string sentence) {
  for (char& c : sentence)
    if (static_cast<unsigned char>(c) < 32) c = ' ';
  std::fprintf(stderr, "heft-cli: %s\n", sentence.c_str());
  return code;
}

int run(int argc, char** argv) {
  CLI::App app("Heft without the window: measure, tune, align, duck, compare, check and render low ends.",
               "heft-cli");
  heft::cli::Common common;
  app.add_flag("--json", common.json, "print one JSON document");
  app.add_option("--middle-c", common.middleC, "how middle C is written: C3, C4 (default) or C5");
  app.require_subcommand(1);
  app.fallthrough();
  heft::cli::Runs runs;
  heft::cli::addSoundCommands(app, common, runs);
  heft::cli::addPairCommands(app, common, runs);
  heft::cli::addSessionCommands(app, common, runs);
  const auto known =
      app.get_subcommands([&](const CLI::App* command) { return argc > 1 && command->get_name() == argv[1]; });
  if (argc > 1 && argv[1][0] != '-' && known.empty())
    return fail(2, "\"" + std::string(argv[1]).substr(0, 64) + "\" is not a command; see heft-cli --help");
  try {
    app.parse(argc, argv);
  } catch (const CLI::CallForHelp&) {
    const auto chosen = app.get_subcommands();
    std::fputs((chosen.empty() ? app.help() : chosen.front()->help()).c_str(), stdout);
    return 0;
  } catch (const CLI::ParseError& error) {
    return fail(2, std::string(error.what()) + "; see heft-cli --help");
  }
  for (const auto& [command, work] : runs) {
    if (!command->parsed()) continue;
    const auto document = work();
    if (!document) return fail(exitCode(document.error().kind), document.error().sentence());
    using heft::cli::Json;
    const std::string text = common.json ? document->dump(2, ' ', false, Json::error_handler_t::replace) + "\n"
                                         : heft::cli::tableOf(*document);
    std::fputs(text.c_str(), stdout);
    if (std::fflush(stdout) != 0) return fail(4, "standard output cannot be written");
    return 0;
  }
  return fail(2, "no command; see heft-cli --help");
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

#pragma once
/// The command line as a user meets it: the real program, real files.

#include <gtest/gtest.h>
#include <sys/wait.h>

#include <cstdlib>
#include <nlohmann/json.hpp>

#include "tests/reference/kick_maker.h"
#include "tests/reference/signals.h"
#include "tests/this_build.h"

namespace heft::reference {

using Json = nlohmann::ordered_json;

struct Ran {
  int code = -1;
  std::string out, err;
  Json json() const { return Json::parse(out, nullptr, false); }
};

inline std::string quoted(const std::string& text) {
  std::string out = "'";
  for (char c : text) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
  return out + "'";
}

class Cli : public ::testing::Test {
 protected:
  Ran run(const std::vector<std::string>& arguments) {
    // What a user has on this machine stays out of it.
    std::string command =
        (std::getenv("XDG_DATA_HOME") ? "" : "XDG_DATA_HOME=" + quoted(folder / "data") + " ") +
        quoted(heftCli());
    for (const auto& a : arguments) command += " " + quoted(a);
    command += " >" + quoted(folder / "out.txt") + " 2>" + quoted(folder / "err.txt");
    const int status = std::system(command.c_str());
    Ran out{WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status), contentsOf(folder / "out.txt"),
            contentsOf(folder / "err.txt")};
    return out;
  }
  std::string kickFile(double hz = 53.2, const std::string& name = "kick.wav") {
    KickRecipe recipe;
    recipe.landingHz = hz;
    recipe.clickDb = -20;
    return writeSound(folder, name, bufferOf(makeKick(recipe), 48000));
  }
  std::string bassFile(double hz = 55, double phase = 0, double rate = 48000) {
    auto x = sine(hz, 0.6, 1.0, rate, phase);
    for (size_t i = 0; i < x.size(); ++i)
      x[i] *= std::exp(-2.0 * static_cast<double>(i) / rate) * std::min(1.0, static_cast<double>(i) / 100);
    return writeSound(folder, "bass.wav", bufferOf(x, rate));
  }
  size_t filesIn(const std::string& path) {
    size_t n = 0;
    for ([[maybe_unused]] const auto& e : std::filesystem::directory_iterator(path)) ++n;
    return n;
  }
  void expectFault(const Ran& r, int code, const std::string& named) {
    EXPECT_EQ(r.code, code) << r.err;
    EXPECT_TRUE(r.out.empty()) << r.out;
    EXPECT_EQ(std::count(r.err.begin(), r.err.end(), '\n'), 1) << r.err;
    EXPECT_EQ(r.err.rfind("heft-cli: ", 0), 0u) << r.err;
    EXPECT_NE(r.err.find(named), std::string::npos) << r.err;
  }
  TemporaryFolder folder;
};

}  // namespace heft::reference

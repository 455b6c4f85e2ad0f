// The small text helpers behind every field and message.

#include "core/theory/text.h"

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/result.h"
#include "core/tune/targets.h"

namespace heft {
namespace {

TEST(Text, NumbersArePrintedForPeople) {
  const struct {
    double value;
    int decimals;
    const char* shortest;
    const char* fixed;
  } kRows[] = {{1.5, 2, "1.5", "1.50"},       {2.0, 3, "2", "2.000"},          {-0.004, 2, "0", "0.00"},
               {-0.006, 2, "-0.01", "-0.01"}, {100.0, 0, "100", "100"},        {0.125, 3, "0.125", "0.125"},
               {-12.0, 1, "-12", "-12.0"},    {1e6, 1, "1000000", "1000000.0"}};
  for (const auto& row : kRows) {
    EXPECT_EQ(formatNumber(row.value, row.decimals), row.shortest);
    EXPECT_EQ(fixedNumber(row.value, row.decimals), row.fixed);
  }
}

TEST(Text, WhatIsPrintedIsReadBackToItsDecimals) {
  std::mt19937_64 random(3);
  for (int i = 0; i < 3000; ++i) {
    const double value = (static_cast<double>(random() % 2000001) - 1000000.0) / 997.0;
    for (int decimals : {0, 1, 3}) {
      const auto back = parseNumber(formatNumber(value, decimals));
      ASSERT_TRUE(back);
      EXPECT_NEAR(*back, value, 0.5001 * std::pow(10.0, -decimals));
    }
  }
}

TEST(Text, OnlyPlainNumbersAreNumbers) {
  for (const char* text : {"1", " 1.5 ", "-2", "+3", ".5", "1e3", "-0.25"})
    EXPECT_TRUE(parseNumber(text)) << text;
  for (const char* text :
       {"", " ", "-", "+", ".", "1,5", "1.5x", "0x10", "nan", "inf", "-inf", "1e999", "--1", "+-1", "1 2"})
    EXPECT_FALSE(parseNumber(text)) << text;
  std::string_view rest = "12.5 Hz";
  EXPECT_EQ(takeNumber(rest), 12.5);
  EXPECT_EQ(rest, " Hz");
  rest = "Hz";
  EXPECT_FALSE(takeNumber(rest));
  EXPECT_EQ(rest, "Hz") << "what is no number stays";
}

TEST(Text, SignsOfPrintAreSignsOfKeyboards) {
  EXPECT_EQ(plainSigns("F\u266F1 \u221212\u00A0ct"), "F#1 -12 ct");
  EXPECT_EQ(plainSigns("E\u266D"), "Eb");
  EXPECT_EQ(trimmed("\t a b \n"), "a b");
  EXPECT_EQ(lowered("MiXoLyDiAn \u00C4"), "mixolydian \u00C4");
}

TEST(Text, FaultsAreOneSentenceWithTheirFile) {
  EXPECT_EQ((Error{ErrorKind::Unreadable, "a.wav", "is empty"}.sentence()), "a.wav: is empty");
  EXPECT_EQ((Error{ErrorKind::BadUsage, "", "no such note"}.sentence()), "no such note");
  const Result<int> fault = unwritable("b.wav", "is a folder");
  ASSERT_FALSE(fault);
  EXPECT_EQ(fault.error().kind, ErrorKind::Unwritable);
}

// Proposals in every key: the bass's note first, nothing twice, all within the range of landings, shifts as
// they are said.
TEST(Targets, HoldInEveryKey) {
  for (int tonic = 0; tonic < 12; ++tonic)
    for (double landing : {26.3, 31.0, 38.49, 44.5})
      for (std::optional<int> bass :
           {std::optional<int>(), std::optional<int>(28), std::optional<int>(33), std::optional<int>(36)}) {
        const auto targets = tuneTargets(landing, bass, Key{tonic, Mode::Minor});
        ASSERT_FALSE(targets.empty());
        if (bass) EXPECT_EQ(targets[0].midi, *bass);
        for (size_t i = 0; i < targets.size(); ++i) {
          EXPECT_NEAR(targets[i].semitones, targets[i].midi - landing, 1e-12);
          EXPECT_TRUE(targets[i].midi >= 0 && targets[i].midi <= 127);
          for (size_t k = 0; k < i; ++k) EXPECT_NE(targets[i].midi, targets[k].midi);
          if (targets[i].why == "tonic, up") EXPECT_GE(targets[i].midi + 0.01, landing);
          if (targets[i].why == "tonic, down") EXPECT_LE(targets[i].midi - 0.01, landing);
        }
      }
}

}  // namespace
}  // namespace heft

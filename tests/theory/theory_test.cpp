// Notes, keys and times against published tables, and everything that the fields accept.

#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/theory/key.h"
#include "core/theory/note.h"
#include "core/theory/text.h"
#include "core/theory/time_value.h"

namespace heft {
namespace {

// MIDI 1.0 note numbers in equal temperament at A4 = 440 Hz (ISO 16:1975): the usual published table, two
// decimals.
TEST(Notes, FrequenciesAreThoseOfThePublishedTable) {
  const struct {
    int midi;
    const char* name;
    double hz;
  } kTable[] = {{21, "A0", 27.50},  {28, "E1", 41.20},  {30, "F#1", 46.25},  {31, "G1", 49.00},
                {33, "A1", 55.00},  {36, "C2", 65.41},  {40, "E2", 82.41},   {45, "A2", 110.00},
                {60, "C4", 261.63}, {69, "A4", 440.00}, {108, "C8", 4186.01}};
  for (const auto& row : kTable) {
    EXPECT_NEAR(hzFromMidi(row.midi), row.hz, 0.005) << row.name;
    EXPECT_EQ(noteName(row.midi), row.name);
    const auto parsed = parsePitch(row.name);
    ASSERT_TRUE(parsed);
    EXPECT_DOUBLE_EQ(*parsed, row.midi);
  }
}

TEST(Notes, OctaveNamingAndReferencePitchMoveNamesAndNotSounds) {
  NoteStyle c3{OctaveNaming::MiddleC3};
  EXPECT_EQ(noteName(60, c3), "C3");
  EXPECT_DOUBLE_EQ(*parsePitch("C3", c3), 60);
  NoteStyle tuned{OctaveNaming::MiddleC4, 432.0};
  EXPECT_NEAR(hzFromMidi(*parsePitch("A4", tuned), tuned.a4Hz), 432.0, 1e-9);
  EXPECT_NEAR(hzFromMidi(*parsePitch("46.2 Hz", tuned), tuned.a4Hz), 46.2, 1e-9);
}

TEST(Notes, EverySpellingIsRead) {
  const struct {
    const char* text;
    double midi;
  } kRows[] = {{"F#1", 30},
               {"f#1", 30},
               {"Gb1", 30},
               {"G\u266D1", 30},
               {"F\u266F1", 30},
               {"F#1 +12 ct", 30.12},
               {"F#1+12ct", 30.12},
               {"F#1 -12 cents", 29.88},
               {"F#1 \u221212 ct", 29.88},
               {"B#1", 36},
               {"Cb2", 35},
               {"A-1", 9},
               {"  Bb2 ", 46},
               {"440", 69},
               {"440 Hz", 69},
               {"440hz", 69}};
  for (const auto& row : kRows) {
    const auto parsed = parsePitch(row.text);
    ASSERT_TRUE(parsed) << row.text;
    EXPECT_NEAR(*parsed, row.midi, 1e-9) << row.text;
  }
}

TEST(Notes, NonsenseIsBadUsageThatNamesTheText) {
  for (const char* text : {"", "A", "H1", "A#", "F##1", "A1 12", "A1 + ct", "A1 +12 st", "nan", "inf", "-5 Hz",
                           "0", "0 Hz", "46.2 kHz", "1e9", "A99", "A1 +9999 ct", "0x20", "A1x"}) {
    const auto parsed = parsePitch(text);
    ASSERT_FALSE(parsed) << text;
    EXPECT_EQ(parsed.error().kind, ErrorKind::BadUsage) << text;
    EXPECT_NE(parsed.error().reason.find(text), std::string::npos) << text;
  }
}

TEST(Notes, WhatIsPrintedIsReadBack) {
  std::mt19937 random(7);
  for (int i = 0; i < 2000; ++i) {
    const double midi = std::round((5.0 + random() % 11000 / 100.0) * 100.0) / 100.0;
    NoteStyle style{static_cast<OctaveNaming>(3 + random() % 3), 440.0, random() % 2 == 0};
    const auto back = parsePitch(pitchText(midi, style), style);
    ASSERT_TRUE(back) << pitchText(midi, style);
    EXPECT_NEAR(*back, midi, 0.0051) << pitchText(midi, style);
  }
}

// In any octave, below MIDI 0 too; locrian's fifth is diminished.
TEST(Theory, TonicAndFifthInAnyOctave) {
  const Key minor{9, Mode::Minor}, locrian{11, Mode::Locrian};
  for (const int a : {-3, 9, 33, 117}) EXPECT_TRUE(minor.isTonic(a) && minor.isFifth(a + 7)) << a;
  EXPECT_FALSE(minor.isTonic(34) || minor.isFifth(33));
  EXPECT_TRUE(locrian.isFifth(41));
  EXPECT_FALSE(locrian.isFifth(42));
}

// Interval patterns of the modes, in semitones above the tonic: any textbook of theory (common practice).
TEST(Keys, ModesHaveTheirSteps) {
  EXPECT_EQ(parseKey("A minor")->scale(), (std::array<int, 7>{9, 11, 0, 2, 4, 5, 7}));
  EXPECT_EQ(parseKey("D dorian")->scale(), (std::array<int, 7>{2, 4, 5, 7, 9, 11, 0}));
  EXPECT_EQ(parseKey("E phrygian")->scale(), (std::array<int, 7>{4, 5, 7, 9, 11, 0, 2}));
  EXPECT_EQ(parseKey("F lydian")->scale(), (std::array<int, 7>{5, 7, 9, 11, 0, 2, 4}));
  EXPECT_EQ(parseKey("G mixolydian")->scale(), (std::array<int, 7>{7, 9, 11, 0, 2, 4, 5}));
  EXPECT_EQ(parseKey("B locrian")->fifth(), 5);
  EXPECT_EQ(parseKey("Eb major")->name(), "Eb major");
  EXPECT_EQ(parseKey("F#m")->name(), "F# minor");
  for (const char* text : {"", "H minor", "H#", "A blue", "minor", "A minor 7"})
    EXPECT_FALSE(parseKey(text)) << text;
}

TEST(Keys, EveryKeyIsReadBackFromItsName) {
  for (int tonic = 0; tonic < 12; ++tonic)
    for (Mode mode : kAllModes) {
      const Key key{tonic, mode};
      ASSERT_TRUE(parseKey(key.name())) << key.name();
      EXPECT_EQ(*parseKey(key.name()), key);
    }
}

// A sixteenth at 120 BPM lasts 125 ms (common practice); dotted is half as long again, three triplets fill two.
TEST(Times, NoteLengthsFollowTheTempo) {
  EXPECT_DOUBLE_EQ(parseTime("1/16")->toMs(120), 125.0);
  EXPECT_DOUBLE_EQ(parseTime("1/8.")->toMs(120), 375.0);
  EXPECT_NEAR(parseTime("1/8t")->toMs(120), 500.0 / 3.0, 1e-9);
  EXPECT_DOUBLE_EQ(parseTime("3/16")->toMs(60), 750.0);
  EXPECT_DOUBLE_EQ(parseTime("125 ms")->toMs(77), 125.0);
  EXPECT_DOUBLE_EQ(parseTime("0.125 s")->toMs(77), 125.0);
  EXPECT_DOUBLE_EQ(parseTime("125")->toMs(77), 125.0);
  for (const char* text : {"1/16", "1/8.", "1/8t", "3/32", "125 ms", "2.5 ms"})
    EXPECT_EQ(parseTime(text)->text(), text);
  for (const char* text : {"", "1/", "1/7", "1/0", "0/8", "-1/8", "1/8..", "1/8.t", "1.5/8", "-3 ms", "nan ms",
                           "3 hours", "1/8 ms", "9999 s"})
    EXPECT_FALSE(parseTime(text)) << text;
  for (const char* text : {"39", "241", "-122", "nan", "fast", ""}) EXPECT_FALSE(parseTempo(text)) << text;
  EXPECT_DOUBLE_EQ(*parseTempo("122.0 BPM"), 122.0);
}

// Frequencies have four significant figures or more, as fine as a fiftieth of a semitone at 40 Hz.
TEST(Notes, FrequenciesAreSaidFinely) {
  EXPECT_EQ(hzText(46.249), "46.25 Hz");
  EXPECT_EQ(hzText(110.0), "110 Hz");
  EXPECT_EQ(hzText(123.471), "123.5 Hz");
  EXPECT_EQ(hzText(4186.01), "4186 Hz");
  EXPECT_NEAR(centsBetween(55, 110), 1200, 1e-9);
  EXPECT_NEAR(centsBetween(55, 53.19), -57.9, 0.1);
  EXPECT_EQ(nearestOfClass(32.4, 9), 33);
  EXPECT_EQ(nearestOfClass(26.9, 9), 21);
  EXPECT_EQ(nearestOfClass(27.1, 9), 33);
}

// A file's time is read back bit for bit, however it is shown.
TEST(TimeValues, AreWrittenExactly) {
  for (const double ms : {0.0, 1.0 / 3.0, 245.90163934426229, 125.0, 9.999, 1e-7, 599999.99999999994})
    EXPECT_EQ(parseTime(TimeValue::milliseconds(ms).exactText())->fixedMs, ms) << ms;
  EXPECT_EQ(TimeValue::milliseconds(125).exactText(), "125 ms") << "as older files have it";
  EXPECT_EQ(TimeValue::milliseconds(36.5).exactText(), "36.5 ms");
  for (const TimeValue& note : {TimeValue::note(3, 16), TimeValue::note(1, 8, TimeValue::Feel::Triplet)})
    EXPECT_EQ(*parseTime(note.exactText()), note);
}

}  // namespace
}  // namespace heft

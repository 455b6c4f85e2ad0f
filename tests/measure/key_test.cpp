// Key and tempo: generated cadences in all 24 keys, progressions that make it hard, and what file names say.

#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <random>

#include "core/measure/events/key_finding.h"
#include "core/theory/file_name.h"
#include "core/theory/note.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

using Chord = std::vector<int>;

// Plucked tones of eight partials, each chord for `seconds`.
AudioBuffer played(const std::vector<Chord>& chords, double seconds, double rate = 44100) {
  const auto each = static_cast<size_t>(seconds * rate);
  std::vector<double> out(each * chords.size(), 0.0);
  for (size_t c = 0; c < chords.size(); ++c)
    for (int midi : chords[c])
      for (int k = 1; k <= 8; ++k) {
        const double hz = k * hzFromMidi(midi, 440.0);
        if (hz > 0.45 * rate) continue;
        for (size_t i = 0; i < each; ++i) {
          const double t = static_cast<double>(i) / rate;
          out[c * each + i] += 0.05 / k * std::min(1.0, t / 0.005) * std::exp(-1.5 * t) *
                               std::sin(2.0 * std::numbers::pi * hz * t);
        }
      }
  return bufferOf(out, rate);
}

Chord triad(int root, int third) {
  return {root - 12, root, root + third, root + 7};
}

// I IV V I, or i iv V i: the cadences of every handbook of harmony.
std::vector<Chord> cadence(int tonic, bool minor) {
  const int root = 48 + tonic, third = minor ? 3 : 4;
  return {triad(root, third), triad(root + 5, third), triad(root + 7, 4), triad(root, third)};
}

TEST(KeyFinding, CadencesInAllTwentyFourKeys) {
  int right = 0, all = 0;
  for (int tonic = 0; tonic < 12; tonic += isWatched() ? 5 : 1)
    for (bool minor : {false, true}) {
      const auto found = findKey(played(cadence(tonic, minor), 1.0));
      ASSERT_TRUE(found);
      ASSERT_EQ(found->ranked.size(), 24u);
      const Key expected{tonic, minor ? Mode::Minor : Mode::Major};
      ++all;
      right += found->ranked.front().key == expected;
      if (!(found->ranked.front().key == expected))
        ADD_FAILURE_AT(__FILE__, __LINE__)
            << expected.name() << " taken for " << found->ranked.front().key.name() << " " << found->confidence;
      EXPECT_GE(found->confidence, 0.0);
      EXPECT_LE(found->confidence, 1.0);
    }
  EXPECT_EQ(right, all);
  EXPECT_TRUE(isWatched() || all == 24);
}

// The loops that most tracks are made of (common practice: they begin on their tonic). Notes alone do not tell
// them from their relative key: the chords are the same.
TEST(KeyFinding, LoopsThatBeginOnTheirTonic) {
  int right = 0, all = 0;
  for (int tonic = 0; tonic < 12; tonic += isWatched() ? 6 : 2) {
    const int root = 48 + tonic;
    const Chord one = triad(root, 4), five = triad(root + 7, 4), six = triad(root + 9, 3),
                four = triad(root + 5, 4);
    const Chord i = triad(root, 3), flatSix = triad(root + 8, 4), flatThree = triad(root + 3, 4),
                flatSeven = triad(root - 2, 4);
    for (const auto& [chords, key] : std::vector<std::pair<std::vector<Chord>, Key>>{
             {{one, five, six, four}, {tonic, Mode::Major}},
             {{i, flatSix, flatThree, flatSeven}, {tonic, Mode::Minor}},
             {{i, i, flatSix, flatSeven}, {tonic, Mode::Minor}}}) {
      const auto found = findKey(played(chords, 1.0));
      ASSERT_TRUE(found);
      ++all;
      right += found->ranked.front().key == key;
    }
  }
  EXPECT_GE(right, 0.8 * all) << "of " << all;
}

// Of ii V, ii V alone four keys begin on one of its chords; the one whose tonic is missing comes right after
// them, and less is claimed.
TEST(KeyFinding, HardProgressionsAreRankedNearTheTopWithLessConfidence) {
  int near = 0, all = 0;
  double sure = 0.0, unsure = 0.0;
  for (int tonic = 0; tonic < 12; tonic += 2) {
    const int root = 48 + tonic;
    // ii V, ii V: never the tonic.
    const auto hard =
        findKey(played({triad(root + 2, 3), triad(root + 7, 4), triad(root + 2, 3), triad(root + 7, 4)}, 1.0));
    const auto plain = findKey(played(cadence(tonic, false), 1.0));
    ASSERT_TRUE(hard && plain);
    ++all;
    for (size_t i = 0; i < 6; ++i) near += hard->ranked[i].key == Key{tonic, Mode::Major};
    sure += plain->confidence, unsure += hard->confidence;
  }
  EXPECT_GE(near, 5) << "of " << all;
  EXPECT_LT(unsure, sure);
}

// One part `times` over, then the other.
AudioBuffer verseAndChorus(AudioBuffer verse, const AudioBuffer& chorus, int times) {
  const auto once = verse.channels[0];
  auto& out = verse.channels[0];
  for (int i = 1; i < times; ++i) out.insert(out.end(), once.begin(), once.end());
  for (int i = 0; i < times; ++i) out.insert(out.end(), chorus.channels[0].begin(), chorus.channels[0].end());
  return verse;
}

// A verse in one key and a chorus in another, up a semitone, a tone or a third, or its relative minor; and what
// stays in one key is not split: cadences, and a verse and a chorus of two chords each.
TEST(KeyFinding, ProgressionsThatModulateSayWhereAndTo) {
  int right = 0, all = 0;
  for (int tonic = 0; tonic < 12; tonic += isWatched() ? 12 : 5) {
    const auto home = played(cadence(tonic, false), 1.0);
    for (int to : {1, 2, 3, 9}) {
      const Key other{(tonic + to) % 12, to == 9 ? Mode::Minor : Mode::Major};
      const auto found = findKey(verseAndChorus(home, played(cadence(other.tonic, to == 9), 1.0), 4));
      ASSERT_TRUE(found && found->change) << tonic << " " << to;
      ++all;
      right += found->change->before.tonic == tonic && found->change->after == other;
      EXPECT_NEAR(found->change->seconds, 16.0, 3.0) << tonic << " " << to;
    }
    const int root = 48 + tonic;
    const auto verse = played({triad(root, 4), triad(root + 9, 3)}, 2.0),
               chorus = played({triad(root + 5, 4), triad(root + 7, 4)}, 2.0),
               minor = played(cadence(tonic, true), 2.0);
    for (const auto& plain : {verseAndChorus(minor, minor, 2), verseAndChorus(verse, chorus, 4)}) {
      const auto found = findKey(plain);
      ASSERT_TRUE(found);
      EXPECT_FALSE(found->change) << tonic << " " << found->change->before.name() << " "
                                  << found->change->after.name();
    }
  }
  EXPECT_GE(right, isWatched() ? 4 : 11) << "of " << all;
}

TEST(KeyFinding, SaysNothingOfSilenceAndOfAClick) {
  EXPECT_FALSE(findKey(AudioBuffer(44100, 1, 100000)));
  for (const double hz : {110.0, 440.0, 1000.0})
    EXPECT_FALSE(findKey(bufferOf(sine(hz, 0.3, 10, 48000), 48000))) << hz << " Hz alone has no key";
  EXPECT_FALSE(findKey(played({{60}}, 0.3)));
  EXPECT_FALSE(findTempo(AudioBuffer(44100, 1, 200000)));
}

// Two bars: a low hit on every beat, a bright one between; as long as that, or ringing on.
std::vector<double> loopAt(double bpm, double rate, double ringsSeconds) {
  const double beat = 60.0 / bpm;
  std::vector<double> loop(static_cast<size_t>(std::lround((8 * beat + ringsSeconds) * rate)), 0.0);
  const auto burst = noise(0.5, 4000, 3);
  for (int half = 0; half < 16; ++half) {
    const auto at = static_cast<size_t>(half * 0.5 * beat * rate);
    for (size_t i = 0; i < 4000 && at + i < loop.size(); ++i) {
      const double fade = std::exp(-static_cast<double>(i) / 800.0);
      loop[at + i] += half % 2 ? 0.15 * fade * burst[i]
                               : 0.8 * fade * std::sin(0.0072 * static_cast<double>(i)) + 0.2 * fade * burst[i];
    }
  }
  return loop;
}

TEST(TempoFinding, LoopsOfKnownTempo) {
  for (double bpm : {84.0, 100.0, 107.35, 122.0, 140.0, 174.0})
    for (double rings : {0.0, 0.37, 1.1}) {
      const double rate = rings > 1.0 ? 44100 : 48000;
      const auto found = findTempo(bufferOf(loopAt(bpm, rate, rings), rate));
      ASSERT_TRUE(found) << bpm;
      // A tempo and its half or double are the same pulse counted differently. Beyond its bars a loop's
      // length says nothing, and a fractional tempo is then only as exact as its onsets.
      const double octaves = std::round(std::log2(found->bpm / bpm));
      const bool whole = bpm == std::round(bpm);
      EXPECT_NEAR(found->bpm / std::exp2(octaves), bpm, whole || rings == 0.0 ? 0.02 : 0.5)
          << bpm << " " << rings;
      EXPECT_GT(found->confidence, 0.6) << bpm << " " << rings;
    }
  // Hits at random moments have no reliable tempo.
  std::mt19937 random(5);
  std::vector<double> loose(48000 * 6, 0.0);
  const auto burst = noise(0.5, 4000, 3);
  for (int hit = 0; hit < 14; ++hit) {
    const size_t at = random() % (loose.size() - 4000);
    for (size_t i = 0; i < 4000; ++i) loose[at + i] += std::exp(-static_cast<double>(i) / 800.0) * burst[i];
  }
  const auto found = findTempo(bufferOf(loose, 48000));
  EXPECT_TRUE(!found || found->confidence < 0.4) << found->bpm << " " << found->confidence;
}

TEST(FileNames, SayKeyAndTempo) {
  struct Row {
    const char* name;
    const char* key;
    double tempo;
  };
  for (const Row& row : std::vector<Row>{{"/x/Night_Gmin_128.wav", "G minor", 128},
                                         {"salt loop 140bpm F#m.wav", "F# minor", 140},
                                         {"Brine-Ebmaj-92 BPM.flac", "Eb major", 92},
                                         {"pad_A_120.wav", "A minor", 120},
                                         {"pan 122.5bpm D dorian.mp3", "D dorian", 122.5},
                                         {"BPM174_Bb minor stab.aif", "Bb minor", 174},
                                         {"synth-a-minor-118bpm.wav", "A minor", 118},
                                         {"rhodes fmin 84bpm.wav", "F minor", 84},
                                         {"bbmaj pad 101.wav", "Bb major", 101},
                                         {"Loop90bpm.wav", "", 90},
                                         {"bpm96b_take.wav", "", 96},
                                         {"am i dm em 120.wav", "", 120},
                                         {"be a major mess.wav", "A major", 0},
                                         {"Kick 03.wav", "", 0},
                                         {"A quiet bell.wav", "", 0},
                                         {"take 2024 final.wav", "", 0},
                                         {"Bass_C.wav", "", 0},
                                         {"128.5.wav", "", 128.5},
                                         {"", "", 0},
                                         {"###bpm_999999999999999999999.wav", "", 0}}) {
    const NameFacts facts = factsOfName(row.name);
    EXPECT_EQ(facts.key ? facts.key->name() : "", row.key) << row.name;
    EXPECT_EQ(facts.tempoBpm.value_or(0), row.tempo) << row.name;
  }
}

}  // namespace
}  // namespace heft

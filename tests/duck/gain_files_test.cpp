// Gains and triggers of duckings as files.

#include "core/duck/gain_files.h"

#include <gtest/gtest.h>
#include <smf.h>

#include "core/sound/midi_file.h"
#include "tests/reference/signals.h"
#include "tests/reference/triggers.h"

namespace heft {
namespace {

using namespace reference;

constexpr double kFileRate = 48000;

double decibels(double gain) {
  return 20.0 * std::log10(std::max(gain, 1e-9));
}

// Standard MIDI Files 1.0 (RP-001): header, tempo, delta times as variable-length quantities (0x40 one byte,
// 0x80 is 81 00, 0x2000 is C0 00: the document's own table), end of track.
TEST(MidiFile, BytesAreTheStandards) {
  MidiTrackWriter writer(120);
  auto seconds = [](int ticks) { return ticks / 1920.0; };
  writer.controller(seconds(0x40), 11, 127);
  writer.controller(seconds(0x40 + 0x80), 11, 64);
  writer.controller(seconds(0x40 + 0x80 + 0x2000), 11, 0);
  const std::string want(
      "MThd\0\0\0\6\0\0\0\1\3\xC0MTrk\0\0\0\x19\0\xFF\x51\3\7\xA1\x20\x40\xB0\x0B\x7F\x81\0\xB0\x0B\x40\xC0\0"
      "\xB0\x0B\0\0\xFF\x2F\0",
      47);
  EXPECT_EQ(writer.file(), want);
}

TEST(GainCurveFiles, CsvAndMidiSayTheSameMovement) {
  const auto triggers = triggersAt({480});
  const auto gain = drawnGain({6, 2, 10, 20}, triggers, kFileRate, 9600, false);
  const std::string csv = gainCsv(gain, kFileRate);
  EXPECT_EQ(csv.rfind("time_s,gain_db\n0.000000,0.0000\n", 0), 0u);
  EXPECT_NE(csv.find("0.015000,-6.0000\n"), std::string::npos);
  const std::string midi = gainMidi(gain, kFileRate, 120).bytes;
  // 6 dB down is 64 of 127; the last event is back at 127.
  EXPECT_NE(midi.find(std::string("\xB0\x0B\x40", 3)), std::string::npos);
  EXPECT_EQ(midi.substr(midi.size() - 7, 3), std::string("\xB0\x0B\x7F", 3));
}

// What another reader (libsmf) finds on the controller, as a gain over seconds.
double gainAt(const std::string& midi, double seconds, int controller, bool fine) {
  std::string bytes = midi;
  smf_t* smf = smf_load_from_memory(bytes.data(), static_cast<int>(bytes.size()));
  int high = 0, low = 0;
  while (smf_event_t* e = smf_get_next_event(smf)) {
    if (smf_event_is_metadata(e) || e->time_seconds > seconds + 1e-9) continue;
    if (e->midi_buffer[1] == controller) high = e->midi_buffer[2];
    if (e->midi_buffer[1] == controller + 32) low = e->midi_buffer[2];
  }
  smf_delete(smf);
  return fine ? (high * 128 + low) / 16383.0 : high / 127.0;
}

TEST(GainFiles, ControllersSayTheGainWithinTheStatedError) {
  const auto gain = drawnGain({24, 5, 30, 160}, triggersAt({4800}), kFileRate, 24000, false);
  for (const bool fine : {false, true}) {
    const GainMidi midi = gainMidi(gain, kFileRate, 117, {20, 3, fine});
    EXPECT_LT(midi.errorDb, fine ? 0.2 : 0.7);
    EXPECT_LT(midi.values, 700);
    for (size_t i = 0; i < gain.size(); i += 97) {
      // A tick is half a millisecond; the gain moves meanwhile.
      const auto from = gain.begin() + static_cast<ptrdiff_t>(i < 40 ? 0 : i - 40),
                 to = gain.begin() + static_cast<ptrdiff_t>(std::min(gain.size(), i + 41));
      const double said = decibels(gainAt(midi.bytes, i / kFileRate, 20, fine));
      ASSERT_GE(said, decibels(*std::min_element(from, to)) - midi.errorDb - 0.01) << i;
      ASSERT_LE(said, decibels(*std::max_element(from, to)) + midi.errorDb + 0.01) << i;
    }
  }
  EXPECT_EQ(static_cast<unsigned char>(gainMidi(gain, kFileRate, 120, {20, 3, false}).bytes[30]), 0xB2)
      << "channel 3";
}

TEST(GainFiles, TriggersAndSignalSayWhatTheyAre) {
  const std::vector<Trigger> triggers{{4800, 1.0}, {24000, 0.5}};
  EXPECT_EQ(triggersCsv(triggers, kFileRate), "time_s,velocity\n0.100000,1.0000\n0.500000,0.5000\n");
  std::string bytes = triggersMidi(triggers, kFileRate, 120);
  smf_t* smf = smf_load_from_memory(bytes.data(), static_cast<int>(bytes.size()));
  std::vector<std::pair<double, int>> on;
  while (smf_event_t* e = smf_get_next_event(smf))
    if (!smf_event_is_metadata(e) && (e->midi_buffer[0] & 0xF0) == 0x90 && e->midi_buffer[2] > 0)
      on.emplace_back(e->time_seconds, e->midi_buffer[2]);
  smf_delete(smf);
  ASSERT_EQ(on.size(), 2u);
  EXPECT_NEAR(on[1].first, 0.5, 0.001);
  EXPECT_EQ(on[1].second, 64);
  const std::vector<float> gain{1.0f, 0.5f, 0.0f};
  EXPECT_EQ(gainSignal(gain, kFileRate).channels[0], gain);
}

}  // namespace
}  // namespace heft

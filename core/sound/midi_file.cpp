#include "core/sound/midi_file.h"

#include <algorithm>
#include <cmath>

namespace heft {
namespace {

void bigEndian(std::string& out, uint32_t value, int bytes) {
  for (int shift = 8 * (bytes - 1); shift >= 0; shift -= 8) out += static_cast<char>((value >> shift) & 0xFF);
}

// Seven bits a byte, most significant first, the top bit set on all but the last.
void variableLength(std::string& out, uint32_t value) {
  char bytes[5];
  int count = 0;
  do {
    bytes[count++] = static_cast<char>(value & 0x7F);
    value >>= 7;
  } while (value);
  while (count--) out += static_cast<char>(bytes[count] | (count ? 0x80 : 0));
}

}  // namespace

MidiTrackWriter::MidiTrackWriter(double tempoBpm, int channel)
    : ticksPerSecond_(kTicksPerQuarter * tempoBpm / 60.0), channel_(channel) {
  events_ += std::string("\x00\xFF\x51\x03", 4);
  bigEndian(events_, static_cast<uint32_t>(std::lround(60e6 / tempoBpm)), 3);
}

void MidiTrackWriter::controller(double seconds, int number, int value) {
  const int64_t tick = std::max(lastTick_, static_cast<int64_t>(std::llround(seconds * ticksPerSecond_)));
  variableLength(events_, static_cast<uint32_t>(tick - lastTick_));
  lastTick_ = tick;
  events_ += static_cast<char>(0xB0 | ((channel_ - 1) & 0x0F));
  events_ += static_cast<char>(number & 0x7F);
  events_ += static_cast<char>(value & 0x7F);
}

std::string MidiTrackWriter::file() const {
  std::string out = "MThd";
  bigEndian(out, 6, 4);
  bigEndian(out, 0, 2);
  bigEndian(out, 1, 2);
  bigEndian(out, kTicksPerQuarter, 2);
  const std::string body = events_ + std::string("\x00\xFF\x2F\x00", 4);
  out += "MTrk";
  bigEndian(out, static_cast<uint32_t>(body.size()), 4);
  return out + body;
}

}  // namespace heft

#include "core/sound/midi_reader.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <map>
#include <tuple>

#include "core/sound/audio_file.h"

namespace heft {
namespace {

constexpr size_t kMostMidiBytes = 16'000'000, kMostEvents = 1'000'000;
constexpr int kTicks = 960;

// Reads forwards and never beyond its end.
class ByteReader {
 public:
  ByteReader(const std::string& all, size_t from, size_t to)
      : all_(all), at_(from), end_(std::min(to, all.size())) {}
  bool atEnd() const { return at_ >= end_; }
  size_t left() const { return end_ - at_; }
  size_t at() const { return at_; }
  int byte() { return atEnd() ? -1 : static_cast<unsigned char>(all_[at_++]); }
  int peek() const { return atEnd() ? -1 : static_cast<unsigned char>(all_[at_]); }
  uint32_t number(int count) {
    uint32_t out = 0;
    while (count-- > 0) out = (out << 8) | static_cast<uint32_t>(std::max(0, byte()));
    return out;
  }
  /// Up to four bytes of seven bits; nothing where it does not end in time.
  std::optional<uint32_t> variable() {
    uint32_t out = 0;
    for (int i = 0; i < 4; ++i) {
      const int b = byte();
      if (b < 0) return std::nullopt;
      out = (out << 7) | static_cast<uint32_t>(b & 0x7f);
      if (!(b & 0x80)) return out;
    }
    return std::nullopt;
  }
  std::string text(size_t count) {
    const size_t n = std::min(count, left());
    at_ += n;
    return all_.substr(at_ - n, n);
  }
  void skip(size_t count) { at_ += std::min(count, left()); }

 private:
  const std::string& all_;
  size_t at_, end_;
};

// The held notes of one channel of a track.
struct Channel {
  std::map<int, std::pair<double, int>> sounding;  // note: start, velocity
  int parameterHigh = 127, parameterLow = 127;
  MidiTrack out;
};

class TrackReader {
 public:
  TrackReader(ByteReader bytes, double ticksPerQuarter, MidiFile& file)
      : in_(bytes), ticks_(ticksPerQuarter), file_(file) {}

  /// False where the track breaks off or makes no sense; what came before is kept.
  bool read(size_t& events) {
    while (!in_.atEnd()) {
      const auto delta = in_.variable();
      if (!delta || ++events > kMostEvents) return finish(false);
      now_ += *delta / ticks_;
      const int next = in_.peek();
      if (next < 0) return finish(false);
      if (next & 0x80) status_ = in_.byte();
      if (status_ < 0x80) return finish(false);
      if (status_ == 0xff) {
        const int type = in_.byte();
        if (type == 0x2f) return finish(true);
        if (!meta(type)) return finish(false);
      } else if (status_ == 0xf0 || status_ == 0xf7) {
        const auto length = in_.variable();
        if (!length || *length > in_.left()) return finish(false);
        in_.skip(*length);
        status_ = 0;
      } else if (status_ > 0xf0 || !channelEvent()) {
        return finish(false);
      }
    }
    return finish(true);
  }
  std::map<int, Channel>& channels() { return channels_; }
  std::string name;

 private:
  bool meta(int type) {
    const auto length = in_.variable();
    status_ = 0;
    if (type < 0 || !length || *length > in_.left()) return false;
    if (type == 0x03) {
      name = in_.text(std::min<size_t>(*length, 200));
      in_.skip(*length - std::min<size_t>(*length, 200));
    } else if (type == 0x51 && *length == 3) {
      const uint32_t micros = in_.number(3);
      if (micros > 0 && !file_.tempoBpm) file_.tempoBpm = 60e6 / micros;
    } else {
      in_.skip(*length);
    }
    return true;
  }

  bool channelEvent() {
    const int kind = status_ & 0xf0, a = in_.byte(), b = kind == 0xc0 || kind == 0xd0 ? 0 : in_.byte();
    if (a < 0 || b < 0 || (a | b) > 0x7f) return false;
    Channel& c = channels_[status_ & 0x0f];
    if (kind == 0x90 && b > 0) {
      close(c, a);
      c.sounding[a] = {now_, b};
    } else if (kind == 0x80 || kind == 0x90) {
      close(c, a);
    } else if (kind == 0xe0) {
      const int value = (b << 7 | a) - 8192;
      c.out.bends.push_back({now_, std::clamp(value / (value < 0 ? 8192.0 : 8191.0), -1.0, 1.0)});
    } else if (kind == 0xb0) {
      controller(c, a, b);
    }
    return true;
  }

  // Registered parameter 0 is the wheel's range in semitones, and cents.
  void controller(Channel& c, int number, int value) {
    if (number == 101) c.parameterHigh = value;
    if (number == 100) c.parameterLow = value;
    if (c.parameterHigh != 0 || c.parameterLow != 0) return;
    if (number == 6) c.out.bendRange = value;
    if (number == 38 && c.out.bendRange) c.out.bendRange = std::floor(*c.out.bendRange) + value / 100.0;
  }

  void close(Channel& c, int note) {
    const auto at = c.sounding.find(note);
    if (at == c.sounding.end()) return;
    c.out.notes.push_back({at->second.first, now_ - at->second.first, 0, note, at->second.second});
    c.sounding.erase(at);
  }

  // A note without a release ends with its track.
  bool finish(bool whole) {
    for (auto& [number, c] : channels_) {
      while (!c.sounding.empty()) close(c, c.sounding.begin()->first);
      for (MidiNote& n : c.out.notes) n.channel = number;
      std::stable_sort(c.out.notes.begin(), c.out.notes.end(),
                       [](const MidiNote& x, const MidiNote& y) { return x.startQuarters < y.startQuarters; });
    }
    return whole;
  }

  ByteReader in_;
  double ticks_, now_ = 0.0;
  int status_ = 0;
  MidiFile& file_;
  std::map<int, Channel> channels_;
};

void put(std::string& out, uint32_t value, int count) {
  for (int i = count - 1; i >= 0; --i) out += static_cast<char>(value >> (8 * i) & 0xff);
}

void putVariable(std::string& out, uint32_t value) {
  for (int shift = 21; shift > 0; shift -= 7)
    if (value >> shift) out += static_cast<char>((value >> shift & 0x7f) | 0x80);
  out += static_cast<char>(value & 0x7f);
}

// An event with its time; among simultaneous ones the lower order comes first.
struct Event {
  int64_t tick;
  int order;
  std::string bytes;
};

std::string chunk(const char* name, const std::string& body) {
  std::string out = name;
  put(out, static_cast<uint32_t>(body.size()), 4);
  return out + body;
}

std::string trackChunk(const std::string& name, std::vector<Event> events, int64_t endTick) {
  std::stable_sort(events.begin(), events.end(), [](const Event& a, const Event& b) {
    return std::tie(a.tick, a.order) < std::tie(b.tick, b.order);
  });
  std::string body;
  if (!name.empty()) {
    body += std::string("\0\xff\x03", 3);
    putVariable(body, static_cast<uint32_t>(name.size()));
    body += name;
  }
  int64_t last = 0;
  for (const Event& e : events) {
    putVariable(body, static_cast<uint32_t>(std::clamp<int64_t>(e.tick - last, 0, 0x0fffffff)));
    body += e.bytes;
    last = e.tick;
  }
  putVariable(body, static_cast<uint32_t>(std::clamp<int64_t>(endTick - last, 0, 0x0fffffff)));
  body += std::string("\xff\x2f\0", 3);
  return chunk("MTrk", body);
}

int64_t tickOf(double quarters) {
  return std::llround(quarters * kTicks);
}

std::string message(int status, int a, int b) {
  return {static_cast<char>(status), static_cast<char>(a), static_cast<char>(b)};
}

std::vector<Event> eventsOf(const MidiTrack& track, int channel) {
  std::vector<Event> out;
  if (track.bendRange) {
    const int whole = static_cast<int>(*track.bendRange);
    const int rest = static_cast<int>(std::lround((*track.bendRange - whole) * 100.0));
    for (auto [number, value] : {std::pair{101, 0}, {100, 0}, {6, whole}, {38, rest}, {101, 127}, {100, 127}})
      out.push_back({0, -1, message(0xb0 | channel, number, value)});
  }
  for (const MidiBend& b : track.bends) {
    const int value = static_cast<int>(std::lround(b.value * (b.value < 0 ? 8192.0 : 8191.0))) + 8192;
    out.push_back({tickOf(b.quarters), 1, message(0xe0 | channel, value & 0x7f, value >> 7)});
  }
  for (const MidiNote& n : track.notes) {
    const int64_t start = tickOf(n.startQuarters),
                  end = std::max(start + 1, tickOf(n.startQuarters + n.lengthQuarters));
    out.push_back({start, 2, message(0x90 | channel, n.note, std::clamp(n.velocity, 1, 127))});
    out.push_back({end, 0, message(0x80 | channel, n.note, 64)});
  }
  return out;
}

}  // namespace

Result<MidiFile> parseMidi(const std::string& bytes, const std::string& fileName) {
  if (bytes.size() > kMostMidiBytes) return unreadable(fileName, "is larger than a MIDI file can be");
  ByteReader in(bytes, 0, bytes.size());
  if (in.text(4) != "MThd" || in.left() < 10)
    return unreadable(fileName, "is not a MIDI file; choose a .mid file");
  const uint32_t headerLength = in.number(4), format = in.number(2);
  in.number(2);  // its claimed number of tracks; the actual ones count
  const uint32_t division = in.number(2);
  if (headerLength < 6 || format > 2)
    return unreadable(fileName, "has a header that makes no sense; save it again");
  if (division == 0 || (division & 0x8000))
    return unreadable(fileName, "uses SMPTE timing; save it with ticks per quarter");
  in.skip(headerLength - 6);
  MidiFile out;
  size_t events = 0;
  bool whole = true;
  while (in.left() >= 8 && events < kMostEvents) {
    const std::string name = in.text(4);
    const uint32_t length = in.number(4);
    if (length > in.left()) whole = false;
    const size_t end = in.at() + std::min<size_t>(length, in.left());
    if (name == "MTrk") {
      TrackReader track(ByteReader(bytes, in.at(), end), division, out);
      whole = track.read(events) && whole;
      for (auto& [number, channel] : track.channels()) {
        if (channel.out.notes.empty() && channel.out.bends.empty()) continue;
        channel.out.name = track.name;
        if (track.channels().size() > 1)
          channel.out.name += (track.name.empty() ? "channel " : ", channel ") + std::to_string(number + 1);
        out.tracks.push_back(std::move(channel.out));
      }
    }
    in.skip(end - in.at());
  }
  if (!whole)
    out.warnings.push_back(fileName + ": breaks off or makes no sense in places; what could be read was");
  return out;
}

Result<MidiFile> readMidi(const std::string& path) {
  auto bytes = readBytes(path);
  if (!bytes) return Fail(bytes.error());
  return parseMidi(*bytes, path);
}

std::string midiBytes(const MidiFile& file) {
  std::string header;
  put(header, 1, 2);
  put(header, static_cast<uint32_t>(file.tracks.size() + 1), 2);
  put(header, kTicks, 2);
  std::string out = chunk("MThd", header);
  std::vector<Event> tempo;
  if (file.tempoBpm) {
    std::string bytes("\xff\x51\x03", 3);
    put(bytes, static_cast<uint32_t>(std::lround(60e6 / *file.tempoBpm)), 3);
    tempo.push_back({0, 0, bytes});
  }
  if (file.metre) {
    std::string bytes("\xff\x58\x04", 3);
    put(bytes, static_cast<uint32_t>(file.metre->beatsPerBar), 1);
    put(bytes, static_cast<uint32_t>(std::bit_width(static_cast<unsigned>(file.metre->beatUnit)) - 1), 1);
    bytes += "\x18\x08";  // 24 clocks a click, eight 32nds a quarter: the usual
    tempo.push_back({0, 0, bytes});
  }
  const int64_t end = tickOf(file.endQuarters);
  out += trackChunk("", tempo, end);
  for (size_t i = 0; i < file.tracks.size(); ++i)
    out += trackChunk(file.tracks[i].name, eventsOf(file.tracks[i], static_cast<int>(i % 16)), end);
  return out;
}

}  // namespace heft

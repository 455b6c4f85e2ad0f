#include "core/session/pattern.h"

#include <algorithm>
#include <cmath>

#include "core/theory/text.h"

namespace heft {
namespace {

double divisionOf(const Grid& grid) {
  return std::max(1.0 / 64.0, grid.division.quarters());
}

template <class Event>
void tidyEvents(std::vector<Event>& events, const Track& track) {
  for (Event& e : events)
    e.startQuarters =
        track.song ? std::max(0.0, e.startQuarters) : wrappedQuarters(e.startQuarters, track.loopQuarters());
  std::stable_sort(events.begin(), events.end(),
                   [](const Event& a, const Event& b) { return a.startQuarters < b.startQuarters; });
  events.erase(std::unique(events.begin(), events.end(),
                           [](const Event& a, const Event& b) {
                             return b.startQuarters - a.startQuarters < kSameMoment;
                           }),
               events.end());
}

template <class Event>
void quantiseEvents(std::vector<Event>& events, const Grid& grid, double strength, const Track& track) {
  changePlayed(events, track, [&](std::vector<Event>& played) {
    for (Event& e : played)
      e.startQuarters += strength * (nearestLine(grid, e.startQuarters) - e.startQuarters);
  });
}

// All patterns' events with `change` made to each.
template <class Change>
void changeAll(Session& s, Change change) {
  for (Part& part : s.parts) {
    auto each = [&](auto& events) {
      for (auto& e : events) change(e);
    };
    changePlayed(part.hits.own(), s.track, each);
    changePlayed(part.notes.own(), s.track, each);
  }
}

}  // namespace

double wrappedQuarters(double at, double loop) {
  at = std::fmod(at, loop);
  if (at < 0.0) at += loop;
  return at > loop - kSameMoment ? 0.0 : at;
}

int mainNote(const Part& part, const Track& track) {
  double longest = 0.0;
  int midi = lowTonic(track.key);
  for (const Note& n : part.notes) {
    double sounding = 0.0;
    for (const Note& other : part.notes)
      if (other.midi == n.midi) sounding += other.lengthQuarters;
    if (sounding > longest) longest = sounding, midi = n.midi;
  }
  return midi;
}

int mainBassNote(const Session& s) {
  return mainNote(s.bass(), s.track);
}

double swung(const Grid& grid, double straight) {
  const double d = divisionOf(grid), pair = std::floor(straight / (2.0 * d)), in = straight - pair * 2.0 * d;
  const double middle = d * (1.0 + grid.swing / 3.0);
  return pair * 2.0 * d + (in < d ? in / d * middle : middle + (in - d) / d * (2.0 * d - middle));
}

double straightened(const Grid& grid, double swungAt) {
  const double d = divisionOf(grid), pair = std::floor(swungAt / (2.0 * d)), in = swungAt - pair * 2.0 * d;
  const double middle = d * (1.0 + grid.swing / 3.0);
  return pair * 2.0 * d + (in < middle ? in / middle * d : d + (in - middle) / (2.0 * d - middle) * d);
}

double nearestLine(const Grid& grid, double quarters) {
  const double before = lineBefore(grid, quarters), after = lineAfter(grid, quarters);
  return quarters - before <= after - quarters ? before : after;
}

double lineBefore(const Grid& grid, double quarters) {
  const double d = divisionOf(grid);
  return swung(grid, std::floor(straightened(grid, quarters) / d + kSameMoment) * d);
}

double lineAfter(const Grid& grid, double quarters) {
  const double d = divisionOf(grid);
  return swung(grid, (std::floor(straightened(grid, quarters) / d + kSameMoment) + 1.0) * d);
}

Session withGrid(Session s, const Grid& grid) {
  auto moved = [&](double at) { return swung(grid, straightened(s.grid, at)); };
  for (Part& part : s.parts) {
    for (Hit& h : part.hits) h.startQuarters = moved(h.startQuarters);
    for (Note& n : part.notes) {
      const double end = moved(n.endQuarters());
      n.startQuarters = moved(n.startQuarters);
      n.lengthQuarters = std::max(0.01, end - n.startQuarters);
    }
  }
  s.grid = grid;
  return s;
}

void quantise(std::vector<Hit>& hits, const Grid& grid, double strength, const Track& track) {
  quantiseEvents(hits, grid, strength, track);
}

void quantise(std::vector<Note>& notes, const Grid& grid, double strength, const Track& track) {
  quantiseEvents(notes, grid, strength, track);
}

void tidy(std::vector<Hit>& hits, const Track& track) {
  tidyEvents(hits, track);
}

void tidy(std::vector<Note>& notes, const Track& track) {
  tidyEvents(notes, track);
}

double wheelValue(const Part& bass, double quarters) {
  const auto& wheel = bass.wheel;
  if (wheel.empty()) return 0.0;
  const auto after = std::upper_bound(wheel.begin(), wheel.end(), quarters,
                                      [](double at, const WheelPoint& p) { return at < p.quarters; });
  if (after == wheel.begin()) return after->value;
  const WheelPoint& before = *(after - 1);
  if (after == wheel.end()) return before.value;
  const double u = (quarters - before.quarters) / (after->quarters - before.quarters);
  return before.value + u * (after->value - before.value);
}

Session fourToTheBar(Session s) {
  s.kick().hits = hitsOnBeats(s.track);
  return s;
}

Result<double> parseOffset(const std::string& text, const Track& track) {
  std::string words = lowered(plainSigns(trimmed(text)));
  const bool negative = !words.empty() && words[0] == '-';
  if (negative) words.erase(0, 1);
  std::string_view rest = words;
  const double beat = 60.0 / track.tempoBpm * 4.0 / track.beatUnit;
  std::optional<double> seconds;
  if (const auto time = parseTime(words); time && !parseNumber(words)) {
    seconds = time->toMs(track.tempoBpm) / 1000.0;
  } else if (const auto number = takeNumber(rest)) {
    const std::string unit(trimmed(rest));
    if (unit.empty()) seconds = *number;
    if (unit == "beat" || unit == "beats") seconds = *number * beat;
    if (unit == "bar" || unit == "bars") seconds = *number * beat * track.beatsPerBar;
  }
  if (!seconds || *seconds > 600.0)
    return badUsage("write an offset such as 0.52 s, 250 ms, 2 beats, 1 bar or 1/4, at most ten minutes");
  return negative ? -*seconds : *seconds;
}

std::string positionName(const Track& track, double quarters) {
  constexpr double kRounding = 1e-6;
  const double beats = std::max(0.0, quarters) * track.beatUnit / 4.0 + kRounding;
  const int beat = static_cast<int>(beats), step = static_cast<int>((beats - beat) * 16.0 / track.beatUnit);
  return std::to_string(beat / track.beatsPerBar + 1) + "." + std::to_string(beat % track.beatsPerBar + 1) +
         "." + std::to_string(step + 1);
}

Result<double> parsePosition(const std::string& text, const Track& track) {
  std::vector<int> counts;
  std::string rest(trimmed(text));
  for (size_t at = 0; at <= rest.size() && counts.size() < 4;) {
    const size_t dot = std::min(rest.find('.', at), rest.size());
    const auto number = parseNumber(rest.substr(at, dot - at));
    counts.push_back(number && *number >= 1.0 && *number <= 1e5 ? static_cast<int>(*number) : 0);
    at = dot + 1;
  }
  counts.resize(std::max<size_t>(counts.size(), 3), 1);
  const double at =
      (counts[0] - 1) * track.barQuarters() + (counts[1] - 1) * 4.0 / track.beatUnit + (counts[2] - 1) * 0.25;
  const bool counted =
      counts.size() == 3 && std::all_of(counts.begin(), counts.end(), [](int c) { return c > 0; });
  if (!counted || at >= track.loopQuarters() - kSameMoment)
    return badUsage("write a bar up to " +
                    std::to_string(static_cast<int>(std::ceil(track.loopQuarters() / track.barQuarters()))) +
                    ", or bar.beat, such as 1.3");
  return at;
}

Track withMetre(Track t, int beatsPerBar, int beatUnit) {
  const double bars = static_cast<double>(t.loopBeats) / t.beatsPerBar;
  t.beatsPerBar = beatsPerBar, t.beatUnit = beatUnit;
  t.loopBeats = std::clamp(static_cast<int>(std::lround(bars * beatsPerBar)), 1, t.mostBeats());
  return t;
}

std::vector<Hit> hitsOnBeats(const Track& track) {
  std::vector<Hit> out;
  for (double at = 0.0; at < track.loopQuarters() - kSameMoment; at += track.feltBeatQuarters())
    out.push_back({at, 1.0});
  return out;
}

Session offbeatBass(Session s) {
  const double beat = s.track.feltBeatQuarters();
  const int midi = mainBassNote(s);
  s.bass().notes.clear();
  for (double at = beat / 2.0; at < s.track.loopQuarters() - kSameMoment; at += beat)
    s.bass().notes.push_back(Note{at, beat / 2.0, midi, 0.8});
  return s;
}

Session notesUnderFirstBeat(Session s) {
  const double beat = 4.0 / s.track.beatUnit, bar = beat * s.track.beatsPerBar;
  std::erase_if(s.bass().notes.own(),
                [&](const Note& n) { return std::fmod(n.startQuarters + kSameMoment, bar) >= beat; });
  return s;
}

Session nudged(Session s, double quarters) {
  changeAll(s, [&](auto& event) { event.startQuarters += quarters; });
  return s;
}

}  // namespace heft

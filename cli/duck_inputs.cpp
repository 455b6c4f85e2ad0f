// duck: its options.

#include "cli/duck_inputs.h"

#include <algorithm>
#include <cmath>
#include <sstream>

#include "core/sound/midi_reader.h"
#include "core/sound/whole_file.h"
#include "core/theory/note.h"
#include "core/theory/text.h"
#include "core/theory/time_value.h"

namespace heft::cli {
namespace {

constexpr uint64_t kMostTableBytes = 4'000'000;

// Numbers with their options' names; the first that is not understood is kept.
struct NumberReader {
  std::optional<Error> fault = {};
  double read(const char* option, const std::string& text, const Range& range, double whenMissing) {
    const auto value = numberOption(option, text, range, whenMissing);
    if (!value && !fault) fault = value.error();
    return value.value_or(whenMissing);
  }
  int whole(const char* option, const std::string& text, const Range& range, int whenMissing) {
    const double value = read(option, text, range, whenMissing);
    if (value != std::floor(value) && !fault)
      fault = badUsage(std::string(option) + ": is not a whole number").value();
    return static_cast<int>(value);
  }
};

Result<void> readPoints(DuckNumbers& n, const std::string& path) {
  const auto bytes = readBytes(path, kMostTableBytes);
  if (!bytes) return Fail(bytes.error());
  const auto rows = rowsOf(*bytes, path);
  if (!rows) return Fail(rows.error());
  if (rows->size() < 2 || rows->size() > kMostDipPoints)
    return unreadable(path, "holds " + std::to_string(rows->size()) + " points: 2 to " +
                                std::to_string(kMostDipPoints) + " rows of ms,gain_db[,bend] are asked for");
  double deepest = 0.0, last = 0.0;
  for (const auto& row : *rows) {
    if (row.size() < 2 || row[0] < last || row[1] > 0.0 || (row.size() > 2 && std::abs(row[2]) > 1.0))
      return unreadable(path, "its rows are ms (ascending), gain_db (0 or under) and a bend from -1 to 1");
    last = row[0], deepest = std::max(deepest, -row[1]);
  }
  if (rows->front()[0] != 0.0) return unreadable(path, "its first point must be at 0 ms");
  if (!(last >= 1.0)) return unreadable(path, "is shorter than a millisecond");
  n.dip.depthDb = std::min(deepest, kSilentDepthDb), n.dip.lengthMs = last;
  const double taken = 1.0 - gainAtDepth(n.dip.depthDb);
  for (const auto& row : *rows)
    n.dip.points.push_back({row[0] / last, taken > 0.0 ? (1.0 - gainAtDepth(-row[1])) / taken : 0.0,
                            row.size() > 2 ? row[2] : 0.0});
  return {};
}

Result<void> readBand(DuckNumbers& n, const std::string& text) {
  const std::string why = "--band: \"" + text.substr(0, 64) + "\" is not all, below:HZ or bell:NOTE[:OCTAVES]";
  if (text.empty() || text == "all") return {};
  const auto colon = text.find(':');
  const std::string kind = text.substr(0, colon),
                    rest = colon == std::string::npos ? "" : text.substr(colon + 1);
  if (kind == "below") {
    const auto hz = numberOption("--band", rest, rangeOf<DuckBand>("below_hz"));
    if (!hz) return Fail(hz.error());
    n.band.kind = DuckBandKind::Several, n.band.steps = {{*hz, 1.0}};
    return {};
  }
  if (kind != "bell" || rest.empty()) return badUsage(why);
  const auto width = rest.find(':');
  const auto octaves = numberOption("--band", width == std::string::npos ? "" : rest.substr(width + 1),
                                    rangeOf<DuckBand>("octaves"), DuckBand().octaves);
  if (!octaves) return Fail(octaves.error());
  n.band.kind = DuckBandKind::Bell, n.band.octaves = *octaves;
  const std::string note = rest.substr(0, width);
  n.bellAtLanding = note == "landing";
  if (n.bellAtLanding) return {};
  const auto midi = parsePitch(note);
  if (!midi) return badUsage(why + ": " + midi.error().reason);
  n.band.bellHz = hzFromMidi(*midi);
  if (!(n.band.bellHz >= 10.0 && n.band.bellHz <= 20000.0)) return badUsage(why);
  return {};
}

Result<void> readMidi(DuckNumbers& n, const DuckOptions& o, NumberReader& read) {
  if (!o.tempo.empty()) {
    const auto tempo = parseTempo(o.tempo);
    if (!tempo) return badUsage("--tempo: " + tempo.error().reason);
    n.tempoBpm = *tempo, n.tempoGiven = true;
  }
  const int bits = read.whole("--bits", o.bits, {7, 14}, 7);
  if (bits != 7 && bits != 14) return badUsage("--bits: write 7 or 14");
  n.midi.fine = bits == 14;
  n.midi.controller = read.whole(
      "--controller", o.controller,
      n.midi.fine ? Range{0, kHighestFineController} : rangeOf<ExportList>("gain_controller"), kGainController);
  n.midi.channel = read.whole("--channel", o.channel, rangeOf<ExportList>("gain_channel"), 1);
  const bool anyMidi = !o.midi.empty() || !o.triggersMidi.empty() ||
                       std::any_of(o.triggers.begin(), o.triggers.end(),
                                   [](const std::string& t) { return t.find(".mid") != std::string::npos; });
  if (!o.tempo.empty() && !anyMidi) return badUsage("--tempo is for MIDI files: add --midi");
  if (o.midi.empty() && !(o.controller.empty() && o.channel.empty() && o.bits.empty()))
    return badUsage("--controller, --channel and --bits belong to the MIDI file: add --midi");
  return {};
}

Result<void> readMovement(DuckNumbers& n, const DuckOptions& o, NumberReader& read) {
  const bool follow = n.method == "follow";
  const Follower f;
  const DuckCurve c;
  // A follower's times have ranges of their own.
  auto time = [&](const char* option, const std::string& text, const char* ofFollower, const char* ofCurve,
                  double usual) {
    return read.read(option, text, follow ? rangeOf<Follower>(ofFollower) : rangeOf<DuckCurve>(ofCurve), usual);
  };
  n.dip = {read.read("--depth-db", o.depth, rangeOf<DuckCurve>("depth_db"), kSilentDepthDb),
           time("--attack-ms", o.attack, "attack_ms", "attack", follow ? f.attackMs : c.attack.fixedMs),
           time("--hold-ms", o.hold, "hold_ms", "hold", follow ? f.holdMs : c.hold.fixedMs),
           time("--release-ms", o.release, "release_ms", "return", follow ? f.releaseMs : c.release.fixedMs)};
  n.dip.velocityToDepth = read.read("--velocity", o.velocity, {0, 100}, 0.0) / 100.0;
  n.thresholdGiven = !o.threshold.empty();
  n.follower = {
      .thresholdDb = read.read("--threshold-db", o.threshold, rangeOf<Follower>("threshold_db"), f.thresholdDb),
      .ratio = read.read("--ratio", o.ratio, rangeOf<Follower>("ratio"), f.ratio),
      .kneeDb = read.read("--knee-db", o.knee, rangeOf<Follower>("knee_db"), f.kneeDb),
      .attackMs = n.dip.attackMs,
      .holdMs = n.dip.holdMs,
      .releaseMs = n.dip.returnMs,
      .lookaheadMs = read.read("--lookahead-ms", o.lookahead, rangeOf<Follower>("lookahead_ms"), f.lookaheadMs),
      .level = o.level == "rms" ? LevelBy::Rms : LevelBy::Peak,
      .deepestDb = n.dip.depthDb};
  if (!o.level.empty() && o.level != "rms" && o.level != "peak") return badUsage("--level: write peak or rms");
  n.mirror.withinDb = read.read("--within-db", o.within, rangeOf<Mirror>("within_db"), n.mirror.withinDb);
  n.mirror.deepestDb = n.dip.depthDb;
  if (!o.points.empty()) {
    if (n.method != "drawn") return badUsage("--points draws a curve: use --method drawn");
    return readPoints(n, o.points);
  }
  const bool needed = n.method == "drawn" || (follow && !n.thresholdGiven);
  if (needed && o.depth.empty()) return badUsage("--depth-db is missing: how far down, in dB");
  return {};
}

}  // namespace

Result<std::vector<std::vector<double>>> rowsOf(const std::string& text, const std::string& path) {
  std::vector<std::vector<double>> out;
  std::istringstream lines(text);
  std::string line;
  for (int number = 1; std::getline(lines, line); ++number) {
    if (trimmed(line).empty()) continue;
    std::vector<double> row;
    std::istringstream cells(line);
    for (std::string cell; std::getline(cells, cell, ',');) {
      const auto value = parseNumber(std::string(trimmed(cell)));
      if (!value && number == 1) break;
      if (!value || !std::isfinite(*value))
        return unreadable(path, "line " + std::to_string(number) + " is not a number");
      row.push_back(*value);
    }
    if (!row.empty()) out.push_back(std::move(row));
  }
  return out;
}

Result<DuckNumbers> understood(const DuckOptions& o) {
  DuckNumbers out;
  out.method = o.method;
  if (o.method != "drawn" && o.method != "follow" && o.method != "mirror")
    return badUsage("--method: \"" + o.method.substr(0, 64) + "\" is not follow, drawn or mirror");
  NumberReader read;
  out.amount = read.read("--amount", o.amount, {0, 100}, 100.0) / 100.0;
  out.detector.highCutHz =
      read.read("--trigger-highcut", o.highCut, rangeOf<DuckSource>("high_cut_hz"), out.detector.highCutHz);
  if (!o.lowCut.empty())
    out.detector.lowCutHz = read.read("--trigger-lowcut", o.lowCut, rangeOf<DuckSource>("low_cut_hz"), 20);
  out.cutGiven = !o.highCut.empty() || !o.lowCut.empty();
  if (!o.crossover.empty()) {
    if (!o.band.empty()) return badUsage("name one of --crossover and --band");
    out.band.kind = DuckBandKind::Several;
    out.band.steps = {{read.read("--crossover", o.crossover, rangeOf<DuckBand>("below_hz"), 120.0), 1.0}};
  }
  if (auto band = readBand(out, o.band); !band) return Fail(band.error());
  if (auto midi = readMidi(out, o, read); !midi) return Fail(midi.error());
  const auto movement = readMovement(out, o, read);
  if (read.fault) return Fail(*read.fault);
  if (!movement) return Fail(movement.error());
  if (out.detector.lowCutHz && *out.detector.lowCutHz >= out.detector.highCutHz)
    return badUsage("--trigger-lowcut: must be below --trigger-highcut (" +
                    formatNumber(out.detector.highCutHz, 0) + " Hz)");
  return out;
}

Result<void> placeBell(DuckNumbers& n, const HeardTriggers& heard) {
  if (!n.bellAtLanding) return {};
  if (!heard.landingHz) return badUsage("--band: the trigger lands on no note; write the bell's note");
  n.band.bellHz = *heard.landingHz;
  return {};
}

}  // namespace heft::cli

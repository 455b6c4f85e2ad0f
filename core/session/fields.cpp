#include "core/session/fields.h"

#include <algorithm>

namespace heft {
namespace {

constexpr const char* kNoKeyWord = "none";

template <class E, size_t N>
Result<E> oneOf(const std::array<const char*, N>& names, const std::string& text) {
  const auto at = std::find(names.begin(), names.end(), text);
  if (at != names.end()) return static_cast<E>(at - names.begin());
  std::string all;
  for (size_t i = 0; i < N; ++i) all += (i == 0 ? "" : i + 1 == N ? " or " : ", ") + std::string(names[i]);
  return badUsage("is not " + all);
}

constexpr std::array kFormats = {"wav16", "wav24", "wav-float", "flac24"};
constexpr std::array kPlays = {"hits", "notes"};
constexpr std::array kFinishOver = {"hits", "lane"};
constexpr std::array kOctaves = {"C3", "C4", "C5"};
constexpr std::array kTriggerKinds = {"part", "audio", "midi", "drawn"};
constexpr std::array kCurveLastss = {"as_set", "as_source", "to_next"};
constexpr std::array kMovements = {"curve", "follower", "mirror", "static"};
constexpr std::array kLevelBys = {"peak", "rms"};
constexpr std::array kDuckBands = {"all", "below", "bell", "several"};
constexpr std::array kBellAts = {"source", "kick", "key"};
constexpr std::array kDuckTargets = {"part", "layer", "backing"};
constexpr std::array kGainsMeets = {"multiply", "deepest"};

}  // namespace

const char* sampleFormatName(SampleFormat format) {
  return kFormats[static_cast<size_t>(format)];
}
Result<SampleFormat> parseSampleFormat(const std::string& text) {
  return oneOf<SampleFormat>(kFormats, text);
}
const char* playsName(Plays plays) {
  return kPlays[static_cast<size_t>(plays)];
}
Result<Plays> parsePlays(const std::string& text) {
  return oneOf<Plays>(kPlays, text);
}
const char* finishOverName(FinishOver over) {
  return kFinishOver[static_cast<size_t>(over)];
}
Result<FinishOver> parseFinishOver(const std::string& text) {
  return oneOf<FinishOver>(kFinishOver, text);
}
const char* octaveNamingName(OctaveNaming naming) {
  return kOctaves[static_cast<size_t>(naming) - 3];
}
Result<OctaveNaming> parseOctaveNaming(const std::string& text) {
  const auto at = oneOf<int>(kOctaves, text);
  if (!at) return Fail(at.error());
  return static_cast<OctaveNaming>(*at + 3);
}
const char* triggerKindName(TriggerKind v) {
  return kTriggerKinds[static_cast<size_t>(v)];
}
Result<TriggerKind> parseTriggerKind(const std::string& text) {
  return oneOf<TriggerKind>(kTriggerKinds, text);
}
const char* curveLastsName(CurveLasts v) {
  return kCurveLastss[static_cast<size_t>(v)];
}
Result<CurveLasts> parseCurveLasts(const std::string& text) {
  return oneOf<CurveLasts>(kCurveLastss, text);
}
const char* movementName(Movement v) {
  return kMovements[static_cast<size_t>(v)];
}
Result<Movement> parseMovement(const std::string& text) {
  return oneOf<Movement>(kMovements, text);
}
const char* levelByName(LevelBy v) {
  return kLevelBys[static_cast<size_t>(v)];
}
Result<LevelBy> parseLevelBy(const std::string& text) {
  return oneOf<LevelBy>(kLevelBys, text);
}
const char* duckBandName(DuckBandKind v) {
  return kDuckBands[static_cast<size_t>(v)];
}
Result<DuckBandKind> parseDuckBand(const std::string& text) {
  return oneOf<DuckBandKind>(kDuckBands, text);
}
const char* bellAtName(BellAt v) {
  return kBellAts[static_cast<size_t>(v)];
}
Result<BellAt> parseBellAt(const std::string& text) {
  return oneOf<BellAt>(kBellAts, text);
}
const char* duckTargetName(DuckTargetKind v) {
  return kDuckTargets[static_cast<size_t>(v)];
}
Result<DuckTargetKind> parseDuckTarget(const std::string& text) {
  return oneOf<DuckTargetKind>(kDuckTargets, text);
}
const char* gainsMeetName(GainsMeet v) {
  return kGainsMeets[static_cast<size_t>(v)];
}
Result<GainsMeet> parseGainsMeet(const std::string& text) {
  return oneOf<GainsMeet>(kGainsMeets, text);
}

std::string keyOrNone(const std::optional<Key>& key) {
  return key ? key->name() : kNoKeyWord;
}
Result<std::optional<Key>> parseKeyOrNone(const std::string& text) {
  if (text == kNoKeyWord) return std::optional<Key>();
  const auto key = parseKey(text);
  if (!key) return Fail(key.error());
  return std::optional(*key);
}

}  // namespace heft

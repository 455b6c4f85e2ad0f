#include "engine/player/listening.h"

#include <cctype>
#include <numbers>

#include "core/compare/ceiling.h"
#include "core/measure/levels/heard_loudness.h"
#include "core/measure/levels/loudness.h"
#include "core/measure/levels/low_end.h"
#include "core/theory/text.h"

namespace heft {
namespace {

std::optional<Place> placeOf(ListenKind kind) {
  if (kind < ListenKind::Phone || kind > ListenKind::Headphones) return std::nullopt;
  return kAllPlaces[static_cast<size_t>(kind) - static_cast<size_t>(ListenKind::Phone)];
}

}  // namespace

std::string listenText(const ListenTo& to) {
  if (const auto place = placeOf(to.kind)) return placeWord(*place);
  switch (to.kind) {
    case ListenKind::LowsOnly:
      return "lows only " + formatNumber(to.lowsHz, 0) + " Hz";
    case ListenKind::Mono:
      return "mono";
    case ListenKind::Quiet:
      return "quiet, " + formatNumber(to.quietDb, 0) + " dB";
    case ListenKind::Limited:
      return "limited, " + formatNumber(to.lufs, 1) + " LUFS";
    case ListenKind::Lossy:
      return std::string(lossyName(to.lossy.codec)) + " " + formatNumber(to.lossy.kbps, 0) + " kbit/s";
    default:
      return "full";
  }
}

ListenChain::ListenChain(const ListenTo& to, double rate) {
  std::vector<Biquad::Coefficients> filters;
  if (const auto place = placeOf(to.kind)) {
    filters = placeFilters(*place, rate);
    mono_ = playsMono(*place);
  }
  mono_ = mono_ || to.kind == ListenKind::Mono;
  if (to.kind == ListenKind::Quiet) filters = quietFilters(to.usualDb, to.quietDb, rate);
  // Two Butterworth sections (fourth-order Linkwitz-Riley slope).
  if (to.kind == ListenKind::LowsOnly)
    filters.assign(2, Biquad::lowPass(rate, std::min(to.lowsHz, 0.45 * rate), std::numbers::sqrt2 / 2.0));
  for (const auto& f : filters) sections_.push_back({Biquad(f), Biquad(f)});
}

Result<ListenTo> parseListen(const std::string& text, const ListenTo& now) {
  ListenTo out = now;
  std::string words;
  for (const char c : text) words += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  const size_t digit = words.find_first_of("-0123456789");
  const size_t unit =
      digit == std::string::npos ? std::string::npos : words.find_first_not_of("-0123456789.", digit);
  const auto number =
      digit == std::string::npos ? std::nullopt : parseNumber(words.substr(digit, unit - digit));
  const auto has = [&](const char* word) { return words.find(word) != std::string::npos; };
  const double typed = number.value_or(0.0);
  const auto within = [&](double low, double high) { return number && typed >= low && typed <= high; };
  for (const LossyCodec codec : {LossyCodec::Mp3, LossyCodec::Vorbis, LossyCodec::Opus}) {
    std::string name = lossyName(codec);
    for (char& c : name) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
    if (!has(name.c_str())) continue;
    // The 3 of MP3 is no rate.
    const auto rate = parseNumber(std::string(trimmed(
        words.substr(words.find(name) + name.size(), words.find(" kb") - words.find(name) - name.size()))));
    if (rate && (*rate < kLeastKbps || *rate > kMostKbps))
      return badUsage("Write a rate from 32 to 320 kbit/s, such as mp3 128");
    out.kind = ListenKind::Lossy, out.lossy = {codec, rate.value_or(now.lossy.kbps)};
    return out;
  }
  if (has("hz") && within(20.0, 1000.0)) return out.kind = ListenKind::LowsOnly, out.lowsHz = typed, out;
  if (has("lufs") && within(-30.0, -3.0)) return out.kind = ListenKind::Limited, out.lufs = typed, out;
  if (has("db") && within(kLeastListeningDb, kMostListeningDb))
    return out.kind = ListenKind::Quiet, out.quietDb = typed, out;
  for (int i = 0; i < kListenKinds && !number; ++i) {
    out.kind = static_cast<ListenKind>(i);
    const std::string name = listenText(out);
    if (!words.empty() && name.rfind(words, 0) == 0) return out;
  }
  return badUsage(
      "Write a place such as phone, 90 Hz for lows only, 60 dB for quiet, -8 LUFS for a limiter, mp3 128");
}

AudioBuffer heardThrough(const AudioBuffer& sound, bool wraps, const ListenTo& to) {
  if (sound.frames() == 0 || !to.isPrepared()) return sound;
  if (to.kind == ListenKind::Limited) {
    const auto loudness = measureLoudness(wraps ? repeatedForTheGate(sound) : sound, false);
    if (!loudness || !loudness->integratedLufs) return sound;
    return raisedAndLimited(sound, wraps, {to.lufs, to.ceilingDb, to.releaseMs},
                            to.lufs - *loudness->integratedLufs);
  }
  auto run = throughCodec(wraps ? repeated(sound, 3) : sound, to.lossy);
  if (!run) return sound;
  return wraps ? framesOf(run->sound, sound.frames(), sound.frames()) : std::move(run->sound);
}

bool canListen(const ListenTo& to) {
  return to.kind != ListenKind::Lossy || canEncode(to.lossy.codec);
}

}  // namespace heft

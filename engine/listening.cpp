#include "engine/listening.h"

#include <numbers>

#include "core/theory/text.h"

namespace heft {
namespace {

std::optional<Place> placeOf(ListenKind kind) {
  if (kind < ListenKind::Phone || kind > ListenKind::Headphones) return std::nullopt;
  return kAllPlaces[static_cast<size_t>(kind) - static_cast<size_t>(ListenKind::Phone)];
}

const char* codecWord(Codec codec) {
  return codec == Codec::Mp3 ? "MP3" : codec == Codec::Vorbis ? "Vorbis" : "Opus";
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
      return std::string(codecWord(to.codec)) + " " + formatNumber(to.kbps, 0) + " kbit/s";
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

}  // namespace heft

// Starting points; levels are then set by ear. The values are our own, after common practice: top kicks
// between 100 Hz and 1 kHz, weight layers without click, quiet tops raised.

#include "core/session/preset.h"

namespace heft {
namespace {

template <class T>
Preset one(const char* name, T what) {
  what.on = true;
  return {name, Processor{1, what}};
}

Preset list(const char* name, std::vector<Processor::What> all) {
  Chain chain;
  for (auto& what : all) {
    std::visit([](auto& p) { p.on = true; }, what);
    chain.list.push_back({static_cast<int>(chain.list.size()) + 1, what});
  }
  return {name, chain};
}

Drive drive(DriveKind kind, double amountDb, double mix = 1.0) {
  Drive out;
  out.kind = kind, out.driveDb = amountDb, out.mix = mix;
  return out;
}

Drive heldTo(Drive of, double fromHz, std::optional<double> toHz, double toneDb = 0.0) {
  of.fromHz = fromHz, of.toHz = toHz, of.toneDb = toneDb;
  return of;
}

Eq cuts(double lowHz, double highHz) {
  Eq out;
  if (lowHz > 0.0) out.lowCut = {true, lowHz, 24};
  if (highHz > 0.0) out.highCut = {true, highHz, 12};
  return out;
}

Compressor levelling(double thresholdDb, double ratio, double attackMs, double releaseMs, double makeupDb) {
  Compressor out;
  out.thresholdDb = thresholdDb, out.ratio = ratio, out.attackMs = attackMs, out.releaseMs = releaseMs;
  out.makeupDb = makeupDb;
  return out;
}

Compressor lifting(double belowDb, double ratio, double mostDb, double mix) {
  Compressor out;
  out.thresholdDb = 0.0, out.ratio = 1.0;
  out.liftBelowDb = belowDb, out.liftRatio = ratio, out.mostLiftDb = mostDb, out.mix = mix;
  return out;
}

}  // namespace

std::vector<Preset> shippedPresets() {
  return {
      one("Partials for small speakers", heldTo(drive(DriveKind::Soft, 12, 0.6), 70, 1200)),
      one("Bite in the low mids, bottom clean", heldTo(drive(DriveKind::Firm, 14, 0.8), 180, 2500, -3)),
      one("Even partials, warm", drive(DriveKind::Warm, 8, 0.7)),
      one("Flat top, as loud as it goes", drive(DriveKind::Hard, 9)),
      one("Torn paper", heldTo(drive(DriveKind::Fold, 16, 0.5), 300, std::nullopt, 3)),
      one("Octave over a sub", heldTo(drive(DriveKind::Rise, 10, 0.4), 30, 400)),
      one("Knock without weight", cuts(100, 1000)),
      one("Weight without click", cuts(0, 2000)),
      one("Strike through, tail down", StrikeSustain{true, 4, -4, 18}),
      one("Strike back, tail forward", StrikeSustain{true, -6, 2, 12}),
      one("Hold the body, let the strike pass", levelling(-18, 4, 15, 80, 3)),
      one("Grip at once", levelling(-20, 6, 1, 50, 4)),
      one("Bring up a quiet top", lifting(-24, 3, 15, 0.6)),
      one("Short wooden room", Room{true, 0.18, 70, 4500}),
      one("Mono below the low mids", Width{true, 1.0, 150.0}),
      list("Long kick, driven to a bass", {cuts(28, 0), heldTo(drive(DriveKind::Firm, 16, 0.9), 60, 3000, -4),
                                           levelling(-14, 3, 8, 90, 2), SoftClip{true, 4, -1}}),
      list("Sub for phone speakers",
           {heldTo(drive(DriveKind::Soft, 14, 0.5), 80, 900), cuts(24, 4000), Width{true, 1.0, 200.0}}),
      list("Top that sits over a sub",
           {cuts(120, 0), StrikeSustain{true, 3, -6, 15}, lifting(-26, 2.5, 10, 0.5)}),
  };
}

}  // namespace heft

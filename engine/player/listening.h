#pragma once
/// What is done to everything that is heard, and to nothing that is written: Listen.

#include <vector>

#include "core/measure/levels/listening_places.h"
#include "core/sound/lossy.h"

namespace heft {

enum class ListenKind { Full, LowsOnly, Mono, Phone, Laptop, Radio, Car, Headphones, Quiet, Limited, Lossy };
inline constexpr int kListenKinds = 11;

struct ListenTo {
  ListenKind kind = ListenKind::Full;
  double lowsHz = 120.0;    ///< LowsOnly: 20 to 1000
  double quietDb = 60.0;    ///< Quiet: level of a full-scale sine there, dB SPL, 50 to 100
  double usualDb = 80.0;    ///< Quiet: where the mix was balanced
  double lufs = -9.0;       ///< Limited: loudness before the limiter, -30 to -3
  double ceilingDb = -1.0;  ///< Limited: -24 to 0
  double releaseMs = 60.0;  ///< Limited: 1 to 2000
  LossyAsk lossy;           ///< Lossy
  bool operator==(const ListenTo&) const = default;
  /// Limited and Lossy look ahead: they are part of the snapshot, not of the callback.
  bool isPrepared() const { return kind == ListenKind::Limited || kind == ListenKind::Lossy; }
};

/// "full", "lows only 120 Hz", "quiet, 60 dB", "limited to -9 LUFS", "MP3 128 kbit/s".
std::string listenText(const ListenTo& to);
/// A name, or a value with its unit: "90 Hz" (lows only), "60 dB" (quiet), "-8 LUFS" (limited), "opus 96"; what
/// is not said stays. Errors: BadUsage, saying what can be written.
Result<ListenTo> parseListen(const std::string& text, const ListenTo& now);

/// Limited or Lossy: a loop (`wraps`) in its steady state, or a section; other listenings leave it. What cannot
/// be encoded stays as it is. Cost: a limiter 25 ms a second, a codec 30 ms and more.
AudioBuffer heardThrough(const AudioBuffer& sound, bool wraps, const ListenTo& to);
/// Whether it can be offered here: a codec that this libsndfile lacks cannot.
bool canListen(const ListenTo& to);

/// Filters of one listening, with their state. Not for two threads at once.
class ListenChain {
 public:
  ListenChain() = default;
  ListenChain(const ListenTo& to, double sampleRate);
  bool isPlain() const { return sections_.empty() && !mono_; }
  void process(float& left, float& right) {
    if (mono_) left = right = 0.5f * (left + right);
    double l = left, r = right;
    for (auto& s : sections_) l = s.left.process(l), r = s.right.process(r);
    left = static_cast<float>(l), right = static_cast<float>(r);
  }

 private:
  struct Section {
    Biquad left, right;
  };
  std::vector<Section> sections_;
  bool mono_ = false;
};

}  // namespace heft

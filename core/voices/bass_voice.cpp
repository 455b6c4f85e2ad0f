#include "core/voices/bass_voice.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "core/shape/eq.h"
#include "core/sound/elementwise.h"
#include "core/sound/noise.h"
#include "core/sound/raised_cosine.h"
#include "core/theory/note.h"
#include "core/voices/bend.h"
#include "core/voices/wave.h"

namespace heft {
namespace {

constexpr double kSideDelaySeconds = 0.007;

double amplitudeOf(std::optional<double> db) {
  return db ? amplitudeFromDb(*db) : 0.0;
}

double bendAt(const std::vector<PitchPointAt>& points, double seconds) {
  if (points.empty()) return 0.0;
  const auto after =
      std::find_if(points.begin(), points.end(), [&](const auto& p) { return p.seconds > seconds; });
  if (after == points.begin()) return points.front().semitones;
  if (after == points.end()) return points.back().semitones;
  const auto before = after - 1;
  const double u = (seconds - before->seconds) / (after->seconds - before->seconds);
  return before->semitones + u * (after->semitones - before->semitones);
}

size_t noteAt(const Phrase& phrase, double seconds) {
  size_t i = phrase.notes.size() - 1;
  while (i > 0 && phrase.notes[i].start > seconds) --i;
  return i;
}

// Two cycles of the fundamental, 1024 frames each.
const BassCourse& twoTurns() {
  static const BassCourse turns = [] {
    BassCourse out;
    for (int i = 0; i < 2048; ++i) out.phase.push_back(i / 1024.0);
    out.sine.resize(2048), out.cosine.resize(2048), out.step.resize(2048);
    sinesAndCosines(out.phase, out.sine, out.cosine);
    return out;
  }();
  return turns;
}

// Partials and the octave below.
class LowWave {
 public:
  explicit LowWave(const BassVoice& v) : below_(amplitudeOf(v.octaveBelowDb)) {
    for (size_t k = 0; k < 8; ++k) {
      levels_[k] = amplitudeOf(v.partialDb[k]);
      if (levels_[k] != 0.0) highest_ = static_cast<int>(k) + 1;
    }
    double peak = 0.0;
    const BassCourse& turns = twoTurns();
    std::array<double, kAtOnce> part;
    for (size_t first = 0; first < turns.phase.size(); first += kAtOnce) {
      over(turns, first, part);
      for (const double x : part) peak = std::max(peak, std::abs(x));
    }
    scale_ = peak > 0.0 ? 1.0 / peak : 0.0;
  }
  /// `out` begins at the frame `first` of the course.
  void over(const BassCourse& course, size_t first, std::span<double> out) const {
    std::array<double, kAtOnce> before{}, now;
    const double *cosine = course.cosine.data() + first, *step = course.step.data() + first;
    std::copy_n(course.sine.begin() + static_cast<ptrdiff_t>(first), out.size(), now.begin());
    for (size_t i = 0; i < out.size(); ++i)
      out[i] = below_ == 0.0 ? 0.0 : below_ * std::sin(0.5 * kTurn * course.phase[first + i]);
    for (int k = 1; k <= highest_; ++k) {
      const double level = levels_[static_cast<size_t>(k - 1)];
      // Usually no partial comes near the top: skips the test.
      if (k * course.mostStep < kTopStep)
        for (size_t i = 0; i < out.size(); ++i) out[i] += level * now[i];
      else
        for (size_t i = 0; i < out.size(); ++i) out[i] += k * step[i] < kTopStep ? level * now[i] : 0.0;
      for (size_t i = 0; k < highest_ && i < out.size(); ++i) {
        const double next = 2.0 * cosine[i] * now[i] - before[i];
        before[i] = now[i], now[i] = next;
      }
    }
    for (double& x : out) x *= scale_;
  }

  static constexpr size_t kAtOnce = 256;
  static constexpr double kTopStep = 0.45;  ///< turns a frame over which a partial is left out

 private:
  std::array<double, 8> levels_{};
  int highest_ = 0;  ///< partial that sounds
  double below_, scale_ = 1.0;
};

// The gain glides to a tied note's with its pitch.
double gainAt(const Phrase& phrase, double glideSeconds, double seconds) {
  const size_t i = noteAt(phrase, seconds);
  const double now = phrase.notes[i].gain, since = seconds - phrase.notes[i].start;
  const double over = std::max(0.005, glideSeconds);
  return i == 0 || since >= over ? now
                                 : phrase.notes[i - 1].gain + (now - phrase.notes[i - 1].gain) * since / over;
}

// What all bands share: pitch as phase, and level.
BassCourse courseOf(const BassVoice& v, const Phrase& phrase, double a4Hz, double rate) {
  const double held = phrase.seconds(), end = held + v.releaseMs / 1000.0;
  const auto frames = static_cast<size_t>(std::ceil(end * rate)) + 1;
  BassCourse out;
  out.phase.resize(frames), out.step.resize(frames), out.level.resize(frames);
  double phase = (v.startPhaseDegrees + phrase.phaseDegrees) / 360.0;
  if (v.freePhase) phase += phrase.startInSong * hzFromMidi(phrase.notes.front().midi, a4Hz);
  phase -= 2.0 * std::floor(phase / 2.0);
  // Pitch and level are usually those of the frame before.
  double lastMidi = std::nan(""), step = 0.0, lastDb = std::nan(""), amplitude = 0.0;
  for (size_t i = 0; i < frames; ++i) {
    const double t = static_cast<double>(i) / rate;
    out.phase[i] = phase;
    const double midi = pitchAt(phrase, v.glideMs, t + 0.5 / rate), db = envelopeDb(v, t, held);
    if (midi != lastMidi) step = hzFromMidi(lastMidi = midi, a4Hz) / rate;
    if (db != lastDb) amplitude = amplitudeFromDb(lastDb = db);
    out.step[i] = step;
    out.level[i] = amplitude * gainAt(phrase, v.glideMs / 1000.0, t);
    const double attack = v.attackMs / 1000.0;
    if (t < attack) out.level[i] *= raisedCosine(t / attack);
    phase += out.step[i];
    if (phase >= 2.0) phase -= 2.0;
  }
  // Fades the last -60 dB to zero.
  for (size_t i = 0, n = std::min<size_t>(frames, 96); i < n; ++i)
    out.level[frames - 1 - i] *= static_cast<double>(i) / static_cast<double>(n);
  out.mostStep = *std::max_element(out.step.begin(), out.step.end());
  out.sine.resize(frames), out.cosine.resize(frames);
  sinesAndCosines(out.phase, out.sine, out.cosine);
  return out;
}

void cutBelow(std::vector<float>& x, double hz, double rate) {
  AudioBuffer sound(rate, 1, 0);
  sound.channels[0].swap(x);
  Eq eq;
  eq.lowCut = {true, hz, 24};
  applyEq(sound, eq);
  x.swap(sound.channels[0]);
}

// The breath of the mid band, in its own band.
std::vector<float> grainOf(const MidBand& m, size_t frames, double rate) {
  AudioBuffer out(rate, 1, frames);
  Noise noise(5);
  for (float& v : out.channels[0]) v = noise.next();
  Eq band;
  if (m.noiseFromHz) band.lowCut = {true, *m.noiseFromHz, 24};
  if (m.noiseToHz) band.highCut = {true, *m.noiseToHz, 24};
  applyEq(out, band);
  return std::move(out.channels[0]);
}

std::vector<float> midOf(const MidBand& m, const BassCourse& course, double rate) {
  AudioBuffer out(rate, 1, course.phase.size());
  const auto noise = grainOf(m, out.frames(), rate);
  const double grain = amplitudeOf(m.noiseDb);
  for (size_t i = 0; i < out.frames(); ++i)
    out.channels[0][i] = static_cast<float>(
        course.level[i] * (mixedWave(m.wave, 1.0, course.phase[i], course.step[i]) + grain * noise[i]));
  applyDrive(out, m.drive);
  cutBelow(out.channels[0], m.lowCutHz, rate);
  return out.channels[0];
}

std::vector<float> highOf(const HighBand& h, const BassCourse& course, double rate) {
  std::vector<float> out(course.phase.size());
  Noise noise(9);
  double tone = 0.0, low = 0.0, band = 0.0;
  for (size_t i = 0; i < out.size(); ++i) {
    const double fade = std::pow(10.0, -2.0 * (static_cast<double>(i) / rate * 1000.0) / h.decayMs);
    const double step = std::min(0.4, h.ratio * course.step[i]);
    double x;
    if (h.kind == HighBand::Kind::Fm) {
      x = std::sin(kTurn * tone + h.index * std::sin(kTurn * course.phase[i]));
    } else {
      const double g = std::tan(std::numbers::pi * step), in = noise.next();
      const double v1 = (band + g * (in - low)) / (1.0 + g * (g + 1.0)), v2 = low + g * v1;
      band = 2.0 * v1 - band, low = 2.0 * v2 - low;
      x = 2.0 * v1;
    }
    tone += step;
    tone -= std::floor(tone);
    out[i] = static_cast<float>(course.level[i] * fade * x);
  }
  cutBelow(out, h.lowCutHz, rate);
  return out;
}

// The sides of a sound that stays whole in mono: left = x + s, right = x - s with s the late top of x.
void widen(AudioBuffer& out, std::vector<float> tops, double fromHz, double width) {
  if (width == 0.0) return;
  cutBelow(tops, fromHz, out.sampleRate);
  const auto late = static_cast<size_t>(kSideDelaySeconds * out.sampleRate);
  out.channels.push_back(out.channels[0]);
  for (size_t i = late; i < tops.size(); ++i) {
    const auto side = static_cast<float>(0.7 * width) * tops[i - late];
    out.channels[0][i] += side, out.channels[1][i] -= side;
  }
}

}  // namespace

double diveAt(const Dive& d, double quarters) {
  if (d.semitones == 0.0 || quarters <= d.startQuarters) return 0.0;
  return -d.semitones *
         bentWay(std::min(1.0, (quarters - d.startQuarters) / std::max(0.01, d.lengthQuarters)), d.bend);
}

double pitchAt(const Phrase& phrase, double glideMs, double seconds) {
  const size_t i = noteAt(phrase, seconds);
  const PhraseNote& note = phrase.notes[i];
  const double since = seconds - note.start;
  auto own = [&](const PhraseNote& n, double t) { return n.midi + diveAt(n.dive, t / phrase.quarterSeconds); };
  double midi = own(note, since);
  if (i > 0 && since * 1000.0 < glideMs) {
    const PhraseNote& from = phrase.notes[i - 1];
    const double start = own(from, note.start - from.start);
    midi += (start - midi) * (1.0 - since * 1000.0 / glideMs);
  }
  return midi + bendAt(phrase.bend, seconds);
}

double envelopeDb(const BassVoice& v, double seconds, double heldSeconds) {
  const double decay =
      std::max(0.0, std::min(seconds, heldSeconds) - v.attackMs / 1000.0) / (v.decayMs / 1000.0);
  double db = v.sustainDb * std::min(1.0, decay);
  if (seconds > heldSeconds) db -= 60.0 * (seconds - heldSeconds) / (v.releaseMs / 1000.0);
  return db;
}

BassCourse bassCourse(const BassVoice& v, const Phrase& phrase, double a4Hz, double sampleRate) {
  if (phrase.notes.empty()) return {};
  BassCourse out = courseOf(v, phrase, a4Hz, sampleRate);
  if (!v.mid.levelDb && !v.high.levelDb) return out;
  out.tops.assign(out.phase.size(), 0.0f);
  auto addBand = [&](const std::vector<float>& band, std::optional<double> db) {
    const auto gain = static_cast<float>(amplitudeOf(db));
    for (size_t i = 0; i < band.size(); ++i) out.tops[i] += gain * band[i];
  };
  if (v.mid.levelDb) addBand(midOf(v.mid, out, sampleRate), v.mid.levelDb);
  if (v.high.levelDb) addBand(highOf(v.high, out, sampleRate), v.high.levelDb);
  return out;
}

AudioBuffer renderBassOver(const BassVoice& v, const BassCourse& course, double sampleRate) {
  AudioBuffer out(sampleRate, 1, 0);
  if (course.phase.empty()) return out;
  const LowWave low(v);
  const auto& tops = course.tops;
  auto& x = out.channels[0];
  x.resize(course.phase.size());
  std::array<double, LowWave::kAtOnce> wave;
  for (size_t first = 0; first < x.size(); first += wave.size()) {
    const auto part = std::span(wave).first(std::min(wave.size(), x.size() - first));
    low.over(course, first, part);
    for (size_t i = 0; i < part.size(); ++i)
      x[first + i] = static_cast<float>(course.level[first + i] * part[i]);
  }
  for (size_t i = 0; i < tops.size(); ++i) x[i] += tops[i];
  if (!tops.empty()) widen(out, tops, v.widthFromHz, v.width);
  for (auto& channel : out.channels)
    for (float& s : channel) s *= kVoiceLevel;
  return out;
}

AudioBuffer renderBass(const BassVoice& v, const Phrase& phrase, double a4Hz, double sampleRate) {
  return renderBassOver(v, bassCourse(v, phrase, a4Hz, sampleRate), sampleRate);
}

}  // namespace heft

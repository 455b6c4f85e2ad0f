#include "scenario/make_demo.h"

#include <cmath>
#include <filesystem>

#include "core/compare/ceiling.h"
#include "core/judge/ledger.h"
#include "core/measure/levels/loudness.h"
#include "core/session/folder.h"
#include "core/sound/filter.h"
#include "scenario/demo_sounds.h"

namespace heft::demo {
namespace {

constexpr double kTempo = 122.0;
// Inverts the bass against the kick, before and after tuning: the fault that Align fixes.
constexpr double kBassPhase = 2.1;

Result<AssetRef> addSound(Assets& assets, const AudioBuffer& sound, const std::string& name,
                          SampleFormat format) {
  auto bytes = encodeSound(sound, format);
  if (!bytes) return Fail(bytes.error());
  auto loaded = decodeSound(std::move(*bytes), name);
  if (!loaded) return Fail(loaded.error());
  return assets.add(std::move(*loaded), name);
}

Session pattern() {
  Session s;
  s.track.name = "Saltworks";
  s.track.key = {9, Mode::Minor};
  s.track.tempoBpm = kTempo;
  s.track.loopBeats = 8;
  s.track.sampleRate = kRate;
  for (double at : {0.0, 1.5, 2.0, 3.5, 4.0, 5.5, 6.0, 7.25})
    s.kick().hits.push_back({at, at == 1.5 || at == 7.25 ? 0.85 : 1.0});
  // The third hit meets the longest and loudest note; after the sixth the line comes in early, over the kick's
  // tail.
  s.bass().notes = {{0.0, 1.25, 33, 0.8}, {1.5, 0.45, 33, 0.75}, {2.0, 1.45, 33, 1.0}, {3.5, 0.45, 36, 0.75},
                    {4.0, 1.25, 33, 0.8}, {5.75, 0.25, 33, 0.7}, {6.0, 1.0, 28, 0.85}, {7.25, 0.7, 31, 0.75}};
  return s;
}

// Every remedy of the Ledger in turn, as a user would press them, without the lines that need references.
Result<Session> mended(Session s, const Assets& assets) {
  StepCache cache;
  for (int round = 0; round < 12; ++round) {
    auto stems = render(s, assets, cache);
    if (!stems) return Fail(stems.error());
    auto facts = study(s, assets, *stems, cache);
    if (!facts) return Fail(facts.error());
    bool changed = false;
    for (const Finding& f : ledger(s, *facts))
      if (f.remedy && f.verdict != Verdict::Holds) {
        s = f.remedy->applied(s);
        changed = true;
        break;
      }
    if (!changed) break;
  }
  return s;
}

// A made-up track, after the mended session.
struct Track {
  const char* name;
  double tempo;
  int up;  // semitones above A minor
  double kickDb, bassDb, backingDb, bellHz, bellDb;
};
constexpr Track kTracks[] = {{"Brine.flac", 120.0, 0, -2.5, 1.0, 0.3, 48.0, 0.8},
                             {"Night Pump.flac", 124.0, 2, -0.5, 0.6, -0.4, 95.0, 1.2},
                             {"Salt Heap.flac", 118.0, 0, 0.0, 0.0, 0.2, 180.0, -1.5}};
constexpr int kIntroBars = 4, kSectionBars = 8;
constexpr double kReferenceDipDb = 9.0;
constexpr double kMasterLufs = -12.0;  // as finished tracks are

void append(AudioBuffer& out, const AudioBuffer& more, double gain) {
  for (size_t c = 0; c < 2; ++c)
    for (const float x : more.channels[std::min(c, more.channelCount() - 1)])
      out.channels[c].push_back(static_cast<float>(gain * static_cast<double>(x)));
}

// The backing alone, then the bass over four chords, then the backing again; coloured a little, and limited.
Result<AudioBuffer> referenceTrack(Session s, Assets assets, const Track& track) {
  const AudioBuffer rest = backing(track.tempo, 8, track.up);
  auto ref = addSound(assets, rest, "rest.flac", SampleFormat::Flac24);
  if (!ref) return Fail(ref.error());
  s.track.tempoBpm = track.tempo;
  s.backing.asset = *ref, s.backing.levelDb += track.backingDb;
  s.kick().layers.front().levelDb += track.kickDb;
  s.bass().layers.front().levelDb += track.bassDb;
  if (Recorded* kick = s.kick().layers.front().recorded(); kick && kick->targetMidi)
    *kick->targetMidi += track.up;
  // Its bass makes room for a sixteenth.
  Duck& duck = s.duck();
  duck.on = true, duck.band.kind = DuckBandKind::All, duck.movement = Movement::Curve, duck.amount = 1.0;
  duck.curve = {.depthDb = kReferenceDipDb,
                .attack = TimeValue::milliseconds(2.0),
                .hold = TimeValue::milliseconds(50.0),
                .release = TimeValue::milliseconds(75.0)};
  AudioBuffer out(kRate, 2, 0);
  const double alone = amplitudeFromDb(s.backing.levelDb);
  for (int bar = 0; bar < kIntroBars; bar += 2) append(out, rest, alone);
  StepCache cache;
  std::vector<AudioBuffer> chords;
  double peak = 0.0;
  for (const int chord : {0, 3, 0, 0}) {
    Session here = s;
    for (Note& n : here.bass().notes) n.midi += track.up + chord;
    auto stems = render(here, assets, cache);
    if (!stems) return Fail(stems.error());
    chords.push_back(stems->sum.toBuffer(kRate));
    peak = std::max(peak, peakOf(chords.back()));
  }
  for (const AudioBuffer& chord : chords) append(out, chord, 1.0);
  append(out, rest, alone);
  const double gain = 0.8 / peak, bell = amplitudeFromDb(track.bellDb) - 1.0;
  for (auto& channel : out.channels) {
    Biquad low(Biquad::lowPass(kRate, track.bellHz * 1.4, 0.6)),
        high(Biquad::highPass(kRate, track.bellHz / 1.4, 0.6));
    for (float& v : channel) {
      const double x = v;
      v = static_cast<float>(0.85 * gain * (x + bell * high.process(low.process(x))));
    }
  }
  const auto loudness = measureLoudness(out, false);
  if (!loudness || !loudness->integratedLufs) return out;
  return raisedAndLimited(out, false, CeilingAsk{}, kMasterLufs - *loudness->integratedLufs);
}

Result<void> addReferences(Demo& demo) {
  auto goal = mended(demo.session, demo.assets);
  if (!goal) return Fail(goal.error());
  for (const Track& t : kTracks) {
    auto track = referenceTrack(*goal, demo.assets, t);
    if (!track) return Fail(track.error());
    auto ref = addSound(demo.assets, *track, t.name, SampleFormat::Flac24);
    if (!ref) return Fail(ref.error());
    const double bar = 240.0 / t.tempo, from = kIntroBars * bar;
    Reference reference{.asset = *ref};
    reference.sections = {{"drop", from, from + kSectionBars * bar}};
    reference.tempoBpm = t.tempo, reference.firstBeatSeconds = 0.0;
    reference.key = Key{(9 + t.up + 12) % 12, Mode::Minor};
    demo.session.references.push_back(reference);
  }
  return {};
}

}  // namespace

Result<Demo> make() {
  Demo demo;
  demo.session = pattern();
  // 58 cents under A1.
  auto kickRef = addSound(demo.assets, kick(55.0 * std::exp2(-58.0 / 1200.0), 290.0), "Pan lid kick.wav",
                          SampleFormat::Wav24);
  auto bassRef =
      addSound(demo.assets, lowHit(55.0, 1.6, kBassPhase), "Brine tank 808.wav", SampleFormat::Wav24);
  auto backingRef = addSound(demo.assets, backing(kTempo, 8), "Saltworks backing.flac", SampleFormat::Flac24);
  for (const auto* ref : {&kickRef, &bassRef, &backingRef})
    if (!*ref) return Fail(ref->error());
  demo.session.kick().layers = {recordedLayer(*kickRef)};
  demo.session.bass().layers = {recordedLayer(*bassRef)};
  demo.session.kick().layers.front().levelDb = -6.0, demo.session.bass().layers.front().levelDb = -7.5;
  demo.session.backing.asset = *backingRef;
  if (auto added = addReferences(demo); !added) return Fail(added.error());
  // What the references do not have: too much of the bass.
  demo.session.bass().layers.front().levelDb += 2.5;
  return demo;
}

Result<std::string> write(const std::string& folder) {
  auto demo = make();
  if (!demo) return Fail(demo.error());
  namespace fs = std::filesystem;
  auto made = MadeFolder::at((fs::path(folder) / "sounds").string());
  if (!made) return Fail(made.error());
  for (const AssetRef& ref : assetsOf(demo->session)) {
    const auto path = (fs::path(folder) / "sounds" / ref.name).string();
    if (auto wrote = writeWhole(path, *demo->assets.find(ref)->bytes); !wrote) return Fail(wrote.error());
  }
  const std::string session = (fs::path(folder) / "Saltworks.heft").string();
  if (auto saved = saveSession(session, demo->session, demo->assets); !saved) return Fail(saved.error());
  made->keep();
  return session;
}

}  // namespace heft::demo

// duck: its triggers, from audio, MIDI files and tables of times.

#include <algorithm>
#include <cmath>
#include <sstream>

#include "cli/duck_inputs.h"
#include "core/duck/hits_only.h"
#include "core/measure/events/sound_facts.h"
#include "core/session/session.h"
#include "core/shape/eq.h"
#include "core/sound/midi_reader.h"
#include "core/sound/resample.h"
#include "core/sound/whole_file.h"
#include "core/theory/text.h"

namespace heft::cli {
namespace {

struct Hearing {
  const DuckNumbers& n;
  const AudioBuffer& bass;
  HeardTriggers out;
  bool anyAudio = false, anyLevel = false;

  double rate() const { return bass.sampleRate; }
  // Triggers beyond the bass do nothing and give a warning.
  int add(double seconds, double velocity, double lengthSeconds = 0.0) {
    const double frame = seconds * rate();
    if (frame < 0.0 || frame >= static_cast<double>(bass.frames())) return 0;
    out.triggers.push_back({frame, velocity});
    const auto end = std::min(out.sound.size(), static_cast<size_t>(frame + lengthSeconds * rate()));
    for (size_t i = static_cast<size_t>(frame); i < end; ++i)
      out.sound[i] = std::max(out.sound[i], static_cast<float>(velocity));
    return 1;
  }
  void tellBeyond(const std::string& path, size_t all, size_t within) {
    if (within < all)
      out.warnings.push_back(path + ": " + std::to_string(all - within) + " of " + std::to_string(all) +
                             " hits are beyond the end of the bass and trigger nothing");
  }
};

void tellSearch(Hearing& h, const std::string& path, const HitSearch& search, size_t fires) {
  if (fires == 0)
    h.out.warnings.push_back(path + ": no hit was found below " + formatNumber(h.n.detector.highCutHz, 0) +
                             " Hz");
  if (search.isBusy)
    h.out.warnings.push_back(
        path +
        ": has more lows than drum hits, so some triggers may be bass notes; use a drum stem, or "
        "set --trigger-lowcut and --trigger-highcut to a band that only the kick fills");
}

// What a follower hears of a sound: its band, at the bass's rate, only hits that trigger.
Result<void> hearLevel(Hearing& h, const std::string& path, const AudioBuffer& sound, const HitSearch& search) {
  AudioBuffer heard = sound;
  // Sound beyond the bass is ignored.
  const auto most = static_cast<size_t>(std::ceil((h.bass.seconds() + 1.0) * sound.sampleRate));
  for (auto& channel : heard.channels) channel.resize(std::min(channel.size(), most));
  if (h.n.cutGiven) {
    Eq band;
    band.highCut = {true, h.n.detector.highCutHz, 24};
    if (h.n.detector.lowCutHz) band.lowCut = {true, *h.n.detector.lowCutHz, 24};
    applyEq(heard, band);
  }
  const auto converted = resampled(heard, h.rate(), ConvertFor::Level);
  if (!converted) return unreadable(path, converted.error().reason);
  std::vector<float> loudest(std::min(converted->frames(), h.out.sound.size()), 0.0f);
  for (size_t i = 0; i < loudest.size(); ++i)
    for (const auto& channel : converted->channels)
      if (std::abs(channel[i]) > std::abs(loudest[i])) loudest[i] = channel[i];
  std::vector<HeardOnset> onsets;
  for (const FoundHit& hit : search.all)
    if (hit.verdict != HitVerdict::TooSoon) onsets.push_back({hit.seconds * h.rate(), hit.fires()});
  HitGate gate;
  std::vector<float> gain(loudest.size());
  gateHits(peaksBehind(loudest, 0, h.rate()), onsets, h.rate(), gate, gain);
  for (size_t i = 0; i < loudest.size(); ++i) h.out.sound[i] += gain[i] * loudest[i];
  h.anyAudio = true;
  return {};
}

Result<void> hearAudio(Hearing& h, const std::string& path) {
  const auto loaded = loadSound(path);
  if (!loaded) return Fail(loaded.error());
  const AudioBuffer& sound = *loaded->sound;
  const auto search = searchHits(sound, h.n.detector);
  size_t fires = 0, within = 0;
  for (const FoundHit& hit : search.all) {
    if (!hit.fires()) continue;
    ++fires, within += static_cast<size_t>(h.add(hit.seconds, std::min(1.0, amplitudeFromDb(hit.strengthDb))));
    h.out.doubtful += hit.verdict == HitVerdict::Doubtful ? 1 : 0;
  }
  tellSearch(h, path, search, fires);
  h.tellBeyond(path, fires, within);
  const double bassSeconds = h.bass.seconds();
  if (sound.seconds() < bassSeconds - 0.5)
    h.out.warnings.push_back(path + ": ends after " + formatNumber(sound.seconds(), 2) + " s of " +
                             formatNumber(bassSeconds, 2) + " s: no triggers after it");
  if (h.n.bellAtLanding && !h.out.landingHz) h.out.landingHz = measureSound(sound).landing.noteHz();
  return h.n.method == "drawn" ? Result<void>() : hearLevel(h, path, sound, search);
}

Result<void> hearMidi(Hearing& h, const std::string& path, const std::string& bytes,
                      const std::vector<int>& pitches) {
  const auto file = parseMidi(bytes, path);
  if (!file) return Fail(file.error());
  const double tempo = h.n.tempoGiven ? h.n.tempoBpm : file->tempoBpm.value_or(h.n.tempoBpm);
  size_t all = 0, within = 0;
  for (const MidiTrack& track : file->tracks)
    for (const MidiNote& note : track.notes) {
      if (!pitches.empty() && std::find(pitches.begin(), pitches.end(), note.note) == pitches.end()) continue;
      if (++all > kMostHits) return unreadable(path, "holds more than " + std::to_string(kMostHits) + " notes");
      within += static_cast<size_t>(
          h.add(note.startQuarters * 60.0 / tempo, note.velocity / 127.0, note.lengthQuarters * 60.0 / tempo));
    }
  if (all == 0)
    h.out.warnings.push_back(path +
                             (pitches.empty() ? ": holds no notes" : ": holds none of the notes asked for"));
  h.tellBeyond(path, all, within);
  h.anyLevel = true;
  return {};
}

Result<void> hearTable(Hearing& h, const std::string& path, const std::string& bytes) {
  const auto rows = rowsOf(bytes, path);
  if (!rows) return Fail(rows.error());
  if (rows->empty()) return unreadable(path, "is not audio, MIDI or CSV");
  if (rows->size() > kMostHits)
    return unreadable(path, "holds more than " + std::to_string(kMostHits) + " times");
  constexpr double kHeardFor = 0.1;  // seconds
  size_t within = 0;
  for (const auto& row : *rows) {
    const double velocity = row.size() > 1 ? row[1] : 1.0;
    if (row[0] < 0.0 || !(velocity >= 0.0 && velocity <= 1.0))
      return unreadable(path, "its rows are seconds from 0 on and a velocity from 0 to 1");
    within += static_cast<size_t>(h.add(row[0], velocity, kHeardFor));
  }
  h.tellBeyond(path, rows->size(), within);
  h.anyLevel = true;
  return {};
}

bool looksLikeTable(const std::string& bytes) {
  const std::string start = bytes.substr(0, 4096);
  return !start.empty() && std::all_of(start.begin(), start.end(), [](unsigned char c) {
    return c == '\n' || c == '\r' || c == '\t' || (c >= 32 && c < 127);
  });
}

// "x.mid:C1,D1": the file and the notes that fire.
Result<void> hearOne(Hearing& h, const std::string& given) {
  std::string path = given;
  std::vector<int> pitches;
  auto bytes = readBytes(path);
  const auto colon = given.rfind(':');
  if (!bytes && colon != std::string::npos) {
    path = given.substr(0, colon);
    auto file = readBytes(path);
    if (!file) return Fail(bytes.error());
    std::istringstream names(given.substr(colon + 1));
    for (std::string note; std::getline(names, note, ',');) {
      const auto midi = parsePitch(note);
      if (!midi || *midi != std::round(*midi) || *midi < 0 || *midi > 127)
        return badUsage("--trigger: \"" + note.substr(0, 64) + "\" is not a note such as C1");
      pitches.push_back(static_cast<int>(*midi));
    }
    bytes = std::move(file);
    if (bytes->rfind("MThd", 0) != 0) return badUsage("--trigger: notes can be chosen only from a MIDI file");
  }
  if (!bytes) return Fail(bytes.error());
  if (bytes->rfind("MThd", 0) == 0) return hearMidi(h, path, *bytes, pitches);
  return looksLikeTable(*bytes) ? hearTable(h, path, *bytes) : hearAudio(h, path);
}

}  // namespace

Result<HeardTriggers> hearTriggers(const DuckOptions& o, const DuckNumbers& n, const AudioBuffer& bass) {
  Hearing h{n, bass, {}};
  h.out.sound.assign(bass.frames(), 0.0f);
  for (const std::string& given : o.triggers)
    if (auto done = hearOne(h, given); !done) return Fail(done.error());
  auto& triggers = h.out.triggers;
  std::stable_sort(triggers.begin(), triggers.end(),
                   [](const Trigger& a, const Trigger& b) { return a.frame < b.frame; });
  constexpr double kSameSeconds = 0.005;  // of two files
  triggers.erase(std::unique(triggers.begin(), triggers.end(),
                             [&](const Trigger& a, const Trigger& b) {
                               return o.triggers.size() > 1 &&
                                      b.frame - a.frame < kSameSeconds * bass.sampleRate;
                             }),
                 triggers.end());
  h.out.isEnvelope = h.anyLevel && !h.anyAudio;
  return std::move(h.out);
}

}  // namespace heft::cli

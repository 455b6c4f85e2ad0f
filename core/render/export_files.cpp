#include "core/render/export_files.h"

#include <cmath>

#include "core/session/midi_pattern.h"
#include "core/theory/text.h"

namespace heft {
namespace {

const char* depthText(SampleFormat f) {
  return f == SampleFormat::Wav16 ? "16 bit" : f == SampleFormat::WavFloat ? "32 bit float" : "24 bit";
}

std::string safeName(const std::string& name) {
  std::string out;
  for (char c : name) out += c == '/' || c == '\\' || static_cast<unsigned char>(c) < 32 ? '_' : c;
  while (!out.empty() && out.front() == '.') out.erase(0, 1);
  return out.empty() ? "Untitled" : cutUtf8(std::move(out), 120);
}

std::string soundDetails(const AudioBuffer& sound, SampleFormat format) {
  return formatNumber(sound.sampleRate / 1000.0, 1) + " kHz, " + depthText(format) + ", " +
         (sound.channelCount() == 1 ? "mono" : "stereo") + ", " + formatNumber(sound.seconds(), 2) + " s";
}

class Collector {
 public:
  Collector(const Session& s) : session_(s), prefix_(safeName(s.track.name) + " - ") {}

  Result<void> addSound(const std::string& name, const std::string& what, const AudioBuffer& sound,
                        std::optional<RootNote> root = {}) {
    const SampleFormat format = session_.exports.format;
    auto bytes = encodeSound(sound, format, root);
    if (!bytes) return unwritable(name, bytes.error().reason);
    files.push_back(
        {prefix_ + name + "." + extensionOf(format), what, std::move(*bytes), soundDetails(sound, format)});
    return {};
  }
  void addText(const std::string& name, const std::string& what, std::string bytes,
               const std::string& details) {
    files.push_back({prefix_ + name, what, std::move(bytes), details});
  }
  std::vector<ExportFile> files;

 private:
  const Session& session_;
  std::string prefix_;
};

Result<void> addKick(Collector& to, const Session& s, const SoundSteps& steps) {
  const auto ready = steps.kick(s.kick(), s.track);
  if (!ready) return {};
  const auto facts = steps.kickFacts(s.kick(), s.track);
  if (!facts->landing.noteHz()) return to.addSound("kick", "Kick, one-shot", ready->sound);
  const double midi = midiFromHz(*facts->landing.noteHz(), s.track.notes.a4Hz);
  const std::string note = noteName(static_cast<int>(std::lround(midi)), s.track.notes);
  return to.addSound("kick " + note, "Kick, one-shot, lands on " + pitchText(midi, s.track.notes), ready->sound,
                     RootNote{midi});
}

Result<void> addBass(Collector& to, const Session& s, const SoundSteps& steps) {
  const Layer* layer = s.bassLayer();
  if (!layer) return {};
  const auto played = noteUnderMostHits(s);
  const auto root =
      layer->isBuilt() ? std::optional<double>(played.value_or(lowTonic(s.track.key))) : steps.bassRoot(*layer, s.track);
  const double note = std::round(root.value_or(33.0));
  Keyed sound = steps.bassNote(s.bass(), s.track, note);
  if (!sound.sound) return {};
  AudioBuffer out = *sound.sound;
  if (s.bass().align.invert)
    for (auto& channel : out.channels)
      for (float& x : channel) x = -x;
  if (!root) return to.addSound("bass", "Bass, one-shot", out);
  const std::string name = noteName(static_cast<int>(note), s.track.notes);
  return to.addSound("bass " + name, "Bass, one-shot, root " + name, out, RootNote{note});
}

Result<void> addStems(Collector& to, const Session& s, const Stems& stems) {
  struct Row {
    const char* name;
    const char* what;
    const Stem& stem;
    bool wanted;
  };
  const Row rows[] = {
      {"kick stem", "Kick over the loop", stems.kick(), true},
      {"bass stem", "Bass over the loop, moved and ducked", stems.bass(), true},
      {"backing stem", "Backing over the loop", stems.backing, !s.backing.asset.empty() && !s.backing.mute},
      {"sum", "The sum over the loop", stems.sum, true}};
  for (const Row& row : rows)
    if (row.wanted)
      if (auto added = to.addSound(row.name, row.what, row.stem.toBuffer(stems.sampleRate)); !added)
        return added;
  return {};
}

}  // namespace

Result<std::vector<ExportFile>> exportFiles(const Session& s, const Assets& assets, const Stems& stems,
                                            StepCache& cache) {
  Collector to(s);
  const SoundSteps steps(assets, cache, s.track.sampleRate);
  if (s.exports.kickOneShot)
    if (auto done = addKick(to, s, steps); !done) return Fail(done.error());
  if (s.exports.bassOneShot)
    if (auto done = addBass(to, s, steps); !done) return Fail(done.error());
  if (s.exports.stems)
    if (auto done = addStems(to, s, stems); !done) return Fail(done.error());
  if (s.exports.gainCurve && s.duck().on) {
    const auto gain = stems.gain().wrapped(0, 0, stems.frames);
    to.addText("gain.csv", "Ducking gain over the loop", gainCsv(gain, stems.sampleRate),
               "seconds and dB, a row each millisecond");
    to.addText("gain.mid", "Ducking gain as controller 11", gainMidi(gain, stems.sampleRate, s.track.tempoBpm),
               "Standard MIDI File, 960 ticks a quarter");
  }
  if (s.exports.patterns && !(s.kick().hits.empty() && s.bass().notes.empty()))
    to.addText("patterns.mid", "Kick hits and bass line, with its dives and wheel", midiBytes(midiOf(s)),
               "Standard MIDI File, 960 ticks a quarter");
  return std::move(to.files);
}

std::vector<std::string> existingFiles(const std::string& folder, const std::vector<ExportFile>& files) {
  std::vector<std::string> out;
  std::error_code code;
  for (const ExportFile& f : files)
    if (std::filesystem::exists(std::filesystem::path(folder) / f.name, code)) out.push_back(f.name);
  return out;
}

void nameBeside(const std::string& folder, std::vector<ExportFile>& files) {
  namespace fs = std::filesystem;
  std::error_code code;
  for (ExportFile& f : files) {
    const fs::path name(f.name);
    for (int n = 2; fs::exists(fs::path(folder) / f.name, code); ++n)
      f.name = name.stem().string() + " " + std::to_string(n) + name.extension().string();
  }
}

Result<void> writeExport(const std::string& folder, const std::vector<ExportFile>& files) {
  namespace fs = std::filesystem;
  std::error_code code;
  fs::create_directories(folder, code);
  if (code || !fs::is_directory(folder))
    return unwritable(folder, "the folder cannot be made" + (code ? ": " + code.message() : std::string()));
  sweepUnfinished(folder);
  std::vector<fs::path> fresh;
  for (const ExportFile& file : files) {
    const fs::path path = fs::path(folder) / file.name;
    const bool existed = fs::exists(path, code);
    if (auto wrote = writeWhole(path.string(), file.bytes); !wrote) {
      for (const fs::path& p : fresh) fs::remove(p, code);
      return wrote;
    }
    if (!existed) fresh.push_back(path);
  }
  return {};
}

std::string exportLog(const std::vector<ExportFile>& files, const std::string& folder) {
  std::string out = "Written to " + folder + "\n";
  for (const ExportFile& f : files)
    out += f.name + "  (" + f.what + "; " + f.details + ", " + sizeText(static_cast<double>(f.bytes.size())) +
           ")\n";
  return out;
}

std::string sizeText(double bytes) {
  return bytes < 1e6 ? formatNumber(std::ceil(bytes / 1000.0), 0) + " kB"
                     : formatNumber(bytes / 1e6, 1) + " MB";
}

}  // namespace heft

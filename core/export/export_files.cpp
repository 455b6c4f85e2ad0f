#include "core/export/export_files.h"

#include <algorithm>
#include <cmath>

#include "core/export/automation_exports.h"
#include "core/export/gain_exports.h"
#include "core/export/one_shots.h"
#include "core/session/edits/edit.h"
#include "core/session/midi_pattern.h"
#include "core/session/moments.h"
#include "core/theory/text.h"

namespace heft {
namespace {

const char* depthText(SampleFormat f) {
  return f == SampleFormat::Wav16 ? "16 bit" : f == SampleFormat::WavFloat ? "32 bit float" : "24 bit";
}

std::string soundDetails(const SoundStream& sound, SampleFormat format) {
  return formatNumber(sound.sampleRate / 1000.0, 1) + " kHz, " + depthText(format) + ", " +
         (sound.channels == 1 ? "mono" : "stereo") + ", " +
         formatNumber(static_cast<double>(sound.frames) / sound.sampleRate, 2) + " s";
}

class Collector {
 public:
  Collector(const Session& s) : session_(s), prefix_(fileNameOf(s.track.name, kTrackBytes) + " - ") {}

  void addSound(const std::string& name, const std::string& what, SoundStream sound,
                std::optional<RootNote> root = {}) {
    const SampleFormat format = session_.exports.format;
    std::string details = soundDetails(sound, format);
    files.push_back({unique(name, std::string(".") + extensionOf(format)),
                     what,
                     {},
                     std::move(details),
                     std::move(sound),
                     format,
                     root});
  }
  void addText(const std::string& name, const std::string& what, std::string bytes,
               const std::string& details) {
    const std::filesystem::path path(name);
    files.push_back({unique(path.stem().string(), path.extension().string()), what, std::move(bytes), details});
  }
  std::vector<ExportFile> files;

 private:
  // Together with " - ", a number and an ending within the 255 bytes that file systems give a name.
  static constexpr size_t kTrackBytes = 90, kNameBytes = 130;
  // Two parts may have the same name.
  std::string unique(const std::string& name, const std::string& extension) const {
    auto taken = [this](const std::string& n) {
      return std::any_of(files.begin(), files.end(), [&](const ExportFile& f) { return f.name == n; });
    };
    const std::string whole = prefix_ + fileNameOf(name, kNameBytes);
    std::string out = whole + extension;
    for (int n = 2; taken(out); ++n) out = whole + " " + std::to_string(n) + extension;
    return out;
  }
  const Session& session_;
  std::string prefix_;
};

// The lane's settings beside its processors.
std::string movesOf(const Session& s, const Part& part) {
  std::string out;
  if (part.align.delayMs != 0.0 || part.align.invert || part.align.rotation.works()) out += ", aligned";
  const bool ducked =
      std::any_of(s.ducks.begin(), s.ducks.end(), [&](const Duck& d) { return s.actsOn(d, part.id); });
  return out + (ducked ? ", ducked" : "");
}

/// Frames of the lanes that are written.
struct Frames {
  size_t first = 0, count = 0;
};

// Where the last lane of a song falls silent, at its last bar's end or after it.
size_t endOfSong(const Session& s, const Stems& stems) {
  constexpr float kSilence = 1e-5f;
  std::vector<const Signal*> all{&stems.backing, &stems.sum};
  for (const Lane& lane : stems.lanes) all.push_back(&lane.heard);
  const size_t least = s.track.loopFrames();
  for (size_t b = stems.sum.blockCount(); b-- > least / kBlockFrames;)
    for (size_t i = stems.sum.blockSize(b); i-- > 0;)
      for (const Signal* x : all)
        for (const auto& channel : x->hold(b)->channels)
          if (std::abs(channel[i]) > kSilence) return std::max(least, b * kBlockFrames + i + 1);
  return least;
}

Frames framesOf(const Session& s, const Stems& stems, const std::optional<ExportStretch>& stretch) {
  if (!stretch) return {0, s.track.song ? endOfSong(s, stems) : stems.frames};
  auto frameAt = [&](double quarters) {
    return std::min(stems.frames,
                    static_cast<size_t>(std::llround(std::max(0.0, quarters) * s.track.framesPerQuarter())));
  };
  const size_t first = frameAt(stretch->fromQuarters);
  return {first, std::max(first, frameAt(stretch->toQuarters)) - first};
}

// Lanes exclude the sum's processors, the sum includes them; where they are on, both names say so.
void addStems(Collector& to, const Session& s, const Stems& stems, const Frames& frames) {
  const bool finished = s.sum.finish.works();
  const std::string over = s.track.song ? " over the song" : " over the loop";
  auto add = [&](const std::string& name, const std::string& what, const Signal& stem) {
    auto read = [stem, from = frames.first, rate = stems.sampleRate](size_t first, size_t count) {
      AudioBuffer sound;
      sound.sampleRate = rate;
      for (size_t c = 0; c < stem.channels(); ++c)
        sound.channels.push_back(stem.read(c, static_cast<int64_t>(from + first), count));
      return sound;
    };
    to.addSound(name, what, {stems.sampleRate, stem.channels(), frames.count, std::move(read)});
  };
  const std::string without = finished ? ", without the sum processors" : "";
  for (size_t i = 0; i < s.parts.size(); ++i) {
    const Part& part = s.parts[i];
    const std::string what = part.title() + over + movesOf(s, part) + without;
    add(partWord(part) + " stem", what, stems.lanes[i].heard);
  }
  if (!s.backing.asset.empty() && !s.backing.mute)
    add("backing stem", "Backing" + over + without, stems.backing);
  add("sum", "The sum" + over + (finished ? ", with its finish" : ""), stems.sum);
}

}  // namespace

Result<std::vector<ExportFile>> exportFiles(const Session& s, const Assets& assets, const Stems& stems,
                                            StepCache& cache, const std::optional<ExportStretch>& stretch) {
  Collector to(s);
  const auto shots = eachOneShot(s, assets, cache, [&](const OneShot& shot) -> Result<void> {
    const auto sound = std::make_shared<const AudioBuffer>(shot.sound);
    SoundStream stream = streamOf(*sound);
    stream.read = [sound](size_t first, size_t count) { return framesOf(*sound, first, count); };
    to.addSound(shot.name, shot.what, std::move(stream), shot.root);
    return {};
  });
  if (!shots) return Fail(shots.error());
  if (s.exports.stems) addStems(to, s, stems, framesOf(s, stems, stretch));
  for (ExportFile& f : gainFiles(s, stems)) to.addText(f.name, f.what, std::move(f.bytes), f.details);
  for (ExportFile& f : automationFiles(s)) to.addText(f.name, f.what, std::move(f.bytes), f.details);
  const bool plays = std::any_of(s.parts.begin(), s.parts.end(), [](const Part& p) { return p.hasEvents(); });
  if (s.exports.patterns && plays)
    to.addText("patterns.mid",
               s.parts.size() > 2 ? "Hits and lines of all parts, with dives and wheels"
                                  : "Kick hits and bass line, with its dives and wheel",
               midiBytes(midiOf(asPlayed(s))), "Standard MIDI File, 960 ticks a quarter");
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
  for (ExportFile& f : files) {
    const fs::path name(f.name);
    f.name = fs::path(freePath(folder, name.stem().string(), name.extension().string())).filename().string();
  }
}

Result<void> writeExport(const std::string& folder, const std::vector<ExportFile>& files) {
  namespace fs = std::filesystem;
  auto made = MadeFolder::at(folder);
  if (!made) return Fail(made.error());
  sweepUnfinished(folder);
  std::vector<FileBytes> all;
  for (const ExportFile& file : files) {
    all.push_back({(fs::path(folder) / file.name).string(), &file.bytes});
    if (file.sound)
      all.back().write = [&file](int fd) { return encodeSoundTo(fd, *file.sound, file.format, file.root); };
  }
  auto wrote = writeAllWhole(all);
  if (wrote) made->keep();
  return wrote;
}

std::string exportLog(const std::vector<ExportFile>& files, const std::string& folder) {
  std::string out = "Written to " + folder + "\n";
  for (const ExportFile& f : files)
    out += f.name + "  (" + f.what + "; " + f.details + ", " + sizeText(sizeIn(folder, f)) + ")\n";
  return out;
}

double sizeIn(const std::string& folder, const ExportFile& file) {
  std::error_code code;
  const auto bytes = std::filesystem::file_size(std::filesystem::path(folder) / file.name, code);
  return code ? file.size() : static_cast<double>(bytes);
}

std::string sizeText(double bytes) {
  return bytes < 1e6 ? formatNumber(std::ceil(bytes / 1000.0), 0) + " kB"
                     : formatNumber(bytes / 1e6, 1) + " MB";
}

}  // namespace heft

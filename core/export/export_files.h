#pragma once
/// The files that a session's export list asks for.

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

#include "core/render/lanes/render.h"

namespace heft {

struct ExportFile {
  std::string name;                       ///< "Saltworks - kick A1.wav"
  std::string what;                       ///< "Kick, one-shot, root A1"
  std::string bytes;                      ///< of a text or MIDI file
  std::string details;                    ///< "48 kHz, 24 bit, mono, 0.31 s"
  std::optional<SoundStream> sound = {};  ///< of a sound, which is made and encoded as it is written
  SampleFormat format = SampleFormat::Wav24;
  std::optional<RootNote> root = {};

  /// In bytes; of a sound by arithmetic, without a header, which FLAC stays under.
  double size() const { return sound ? sampleBytes(*sound, format) : static_cast<double>(bytes.size()); }
};

/// A stretch of the track, in quarters: stems and sum of it alone.
struct ExportStretch {
  double fromQuarters = 0.0, toQuarters = 0.0;
};

/// Every file of the list, named and sized but not encoded yet: one-shots with their root note, stems of
/// exactly one loop, or of a song up to where its last tail ends (-100 dB), the gain curve as CSV and MIDI
/// controller data. The same samples that play. Cost: the one-shots, gain curves and, of a song, its tail.
/// Errors: Unwritable.
Result<std::vector<ExportFile>> exportFiles(const Session& session, const Assets& assets, const Stems& stems,
                                            StepCache& cache, const std::optional<ExportStretch>& stretch = {});

/// Writes them into a folder, sounds by blocks, and creates it if it is missing. Either all appear whole,
/// or none does and earlier files stay. Errors: Unwritable, naming the file.
Result<void> writeExport(const std::string& folder, const std::vector<ExportFile>& files);

/// The names that already exist in the folder.
std::vector<std::string> existingFiles(const std::string& folder, const std::vector<ExportFile>& files);
/// Numbers those, so that nothing is overwritten.
void nameBeside(const std::string& folder, std::vector<ExportFile>& files);

/// "name  details", a line each, for the log; sizes of what is in the folder.
std::string exportLog(const std::vector<ExportFile>& files, const std::string& folder);

/// Of the file in the folder; by its plan where it is not there.
double sizeIn(const std::string& folder, const ExportFile& file);

/// "50 kB", rounded up, or "1.3 MB"; a kB is 1000 bytes.
std::string sizeText(double bytes);

}  // namespace heft

#pragma once
/// The library's record of a file.

#include <cstdint>
#include <optional>
#include <string>

#include "core/measure/sound_facts.h"
#include "core/result.h"

namespace heft {

/// A file's stamp on disk; a rescan compares these.
struct FileStamp {
  std::string path;  ///< whole
  int64_t bytes = 0;
  int64_t writtenNs = 0;  ///< since 1970
  bool operator==(const FileStamp&) const = default;
};

/// A file that is known by another path.
struct MovedFile {
  std::string from, to;
  bool operator==(const MovedFile&) const = default;
};

/// The way in which figures are measured; raised where a change of it changes them, so that files are measured
/// anew.
inline constexpr int kMeasuring = 3;

struct LibraryRow {
  FileStamp file;
  std::string fault;  ///< why it could not be read; the rest means nothing then
  double seconds = 0.0;
  std::optional<double> noteHz;  ///< where it lands, else where it sounds most, as Tune and `measure` have it
  bool lands = true;             ///< false: its pitch never settles on that note
  double confidence = 0.0;       ///< of the note, 0 to 1
  double startHz = 0.0;     ///< where the fall starts
  double tailMs = 0.0;
  double peakDbfs = -200.0, rmsDbfs = -200.0;
  double brightnessHz = 0.0;  ///< centroid of the power spectrum
  double weight = 0.0;        ///< part of its energy below 120 Hz, 0 to 1
  int measuring = kMeasuring;  ///< in which way its figures were measured
  bool favourite = false;
  bool present = true;  ///< false: missing from the disk; it returns with its favourite mark
  bool operator==(const LibraryRow&) const = default;

  /// The file could not be opened: it may have been away with its folder, and is tried again by the next scan.
  bool wasAway() const;
  /// The path's last part.
  std::string name() const;
};

/// Reads and measures a file; throws nothing. A fault is stored in the row.
LibraryRow measureFile(const FileStamp& file);

}  // namespace heft

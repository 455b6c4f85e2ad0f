#pragma once
/// The library's record of a file.

#include <cstdint>
#include <optional>
#include <string>

#include "core/measure/events/sound_facts.h"
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

/// Version of the measurement; raised when a change alters its figures, so that files are measured again.
inline constexpr int kMeasuring = 3;

struct LibraryRow {
  FileStamp file;
  std::string fault;  ///< why it could not be read; the other fields then mean nothing
  double seconds = 0.0;
  std::optional<double> noteHz;  ///< where it lands, else where it is loudest, as in Tune and `measure`
  bool lands = true;             ///< false: its pitch never settles on that note
  double confidence = 0.0;       ///< of the note, 0 to 1
  double startHz = 0.0;          ///< where the fall starts
  double tailMs = 0.0;
  double peakDbfs = -200.0, rmsDbfs = -200.0;
  double brightnessHz = 0.0;   ///< centroid of the power spectrum
  double weight = 0.0;         ///< part of its energy below 120 Hz, 0 to 1
  int measuring = kMeasuring;  ///< version of its measurement
  bool favourite = false;
  bool present = true;  ///< false: missing from the disk; it returns with its favourite mark
  bool operator==(const LibraryRow&) const = default;

  /// The file could not be opened: it may be missing with its folder, so the next scan tries again.
  bool wasAway() const;
  /// The path's last part.
  std::string name() const;
};

/// Reads and measures a file; throws nothing. A fault is stored in the row.
LibraryRow measureFile(const FileStamp& file);

}  // namespace heft

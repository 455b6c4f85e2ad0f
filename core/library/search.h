#pragma once
/// Finds library sounds that fit the track.

#include <vector>

#include "core/library/row.h"
#include "core/theory/key.h"
#include "core/theory/note.h"

namespace heft {

enum class SoundKind { Kick, Bass, Snare, Clap, Hat, Tom, Percussion };
/// "kicks", "basses", "snares"...: what people call them.
const char* soundKindWord(SoundKind kind);
/// The kind a part of that name probably needs: from its last word that names one; empty where none does.
std::optional<SoundKind> kindNamedBy(const std::string& name);

/// Whether a file suits a part. The last word of its path within the library that names a sound decides
/// ("kick", "bd"; "bass", "808", "sub"; "snare", "rim"; "clap", "snap"; "hat", "ride", "cymbal"; "tom";
/// "perc", "conga", "shaker"). Without one no file suits a snare, clap, hat, tom or percussion, and for kick
/// and bass the measurements decide: a kick has half of its energy below 120 Hz and decays within 900 ms or
/// falls by more than half an octave; a bass rests below 130 Hz and lasts longer. A long sound that falls may
/// be both.
bool suits(const LibraryRow& row, SoundKind kind, const std::vector<std::string>& folders = {});

struct LibraryQuery {
  std::string words;                 ///< all of them in the path, ignoring case
  std::vector<std::string> folders;  ///< the library's folders: their own location is not searched
  std::optional<SoundKind> kind;     ///< only files that suit it
  std::optional<double> semitones;   ///< lands within this many of the tonic or the fifth
  double leastTailMs = 0.0, mostTailMs = 1e9;
  double leastWeight = 0.0;               ///< part of the energy below 120 Hz
  bool favourites = false, gone = false;  ///< only favourites, missing files too
  bool faults = false;                    ///< only files that could not be read
};

enum class LibraryOrder { Fit, Name, Landing, Tail, Weight, Brightness };

/// How well a file's landing fits: semitones to the nearest tonic or fifth, signed; nothing without a note.
std::optional<double> semitonesToKey(const LibraryRow& row, const Key& key, double a4Hz = 440.0);

/// Indices of matching rows, in order. Fit: nearest to the key first, the surer first among equals; rows
/// without a landing last.
std::vector<size_t> searched(const std::vector<LibraryRow>& rows, const LibraryQuery& query, const Key& key,
                             LibraryOrder order, double a4Hz = 440.0);

}  // namespace heft

#include "core/library/search.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <sstream>
#include <string_view>

#include "core/theory/text.h"
#include "core/tune/targets.h"

namespace heft {
namespace {

std::vector<std::string> wordsOf(const std::string& text) {
  std::istringstream in(lowered(text));
  std::vector<std::string> out;
  for (std::string word; in >> word;) out.push_back(word);
  return out;
}

// The path below a library folder: the folder's own location says nothing about the sound.
std::string_view pathInLibrary(std::string_view path, const std::vector<std::string>& folders) {
  size_t start = 0;
  for (std::string_view folder : folders) {
    if (!path.starts_with(folder) || path.size() <= folder.size() || path[folder.size()] != '/') continue;
    const size_t parent = folder.rfind('/');
    start = std::max(start, parent == std::string_view::npos ? 0 : parent + 1);
  }
  return path.substr(start);
}

// The kind that the last sound word names, or that it is another drum.
struct Named {
  std::optional<SoundKind> kind;
};
std::optional<Named> namedBy(std::string_view path) {
  struct Word {
    std::string_view word;
    std::optional<SoundKind> kind;
  };
  static constexpr Word kWords[] = {{"kick", SoundKind::Kick},         {"bd", SoundKind::Kick},
                                    {"bass", SoundKind::Bass},         {"basses", SoundKind::Bass},
                                    {"808", SoundKind::Bass},          {"sub", SoundKind::Bass},
                                    {"snare", SoundKind::Snare},       {"rim", SoundKind::Snare},
                                    {"rimshot", SoundKind::Snare},     {"clap", SoundKind::Clap},
                                    {"snap", SoundKind::Clap},         {"hat", SoundKind::Hat},
                                    {"hihat", SoundKind::Hat},         {"cymbal", SoundKind::Hat},
                                    {"crash", SoundKind::Hat},         {"ride", SoundKind::Hat},
                                    {"tom", SoundKind::Tom},           {"conga", SoundKind::Percussion},
                                    {"bongo", SoundKind::Percussion},  {"shaker", SoundKind::Percussion},
                                    {"perc", SoundKind::Percussion},   {"percussion", SoundKind::Percussion},
                                    {"cowbell", SoundKind::Percussion}};
  std::optional<Named> out;
  std::string word;
  auto endWord = [&] {
    for (const Word& w : kWords)
      if (word == w.word ||
          (word.size() == w.word.size() + 1 && word.back() == 's' && word.starts_with(w.word)))
        out = Named{w.kind};
    word.clear();
  };
  // Letters and digits are words of their own: "kick01", "sub07".
  for (const char c : lowered(path)) {
    const bool letter = c >= 'a' && c <= 'z', digit = isDigit(c);
    if (!word.empty() && (letter ? isDigit(word.back()) : !digit || !isDigit(word.back()))) endWord();
    if (letter || digit) word += c;
  }
  endWord();
  return out;
}

}  // namespace

const char* soundKindWord(SoundKind kind) {
  constexpr const char* kSoundKinds[] = {"kicks", "basses", "snares", "claps", "hats", "toms", "percussion"};
  return kSoundKinds[static_cast<size_t>(kind)];
}

std::optional<SoundKind> kindNamedBy(const std::string& name) {
  const auto named = namedBy(name);
  return named ? named->kind : std::nullopt;
}

bool suits(const LibraryRow& row, SoundKind kind, const std::vector<std::string>& folders) {
  constexpr double kKickTailMs = 900.0, kKickWeight = 0.5, kFalls = 1.41, kBassBelowHz = 130.0;
  if (const auto named = namedBy(pathInLibrary(row.file.path, folders))) return named->kind == kind;
  if (kind != SoundKind::Kick && kind != SoundKind::Bass) return false;
  const bool lasts = row.tailMs > kKickTailMs;
  if (kind == SoundKind::Bass) return lasts && row.noteHz && *row.noteHz < kBassBelowHz;
  return row.weight >= kKickWeight && (!lasts || (row.noteHz && row.startHz > kFalls * *row.noteHz));
}

std::optional<double> semitonesToKey(const LibraryRow& row, const Key& key, double a4Hz) {
  if (!row.noteHz) return std::nullopt;
  const double midi = midiFromHz(*row.noteHz, a4Hz);
  const auto targets = tuneTargets(midi, std::nullopt, key);
  const auto firm = std::find_if(targets.begin(), targets.end(), [](const TuneTarget& t) {
    return t.kind == TargetKind::Tonic || t.kind == TargetKind::Fifth;
  });
  return firm->semitones;
}

std::vector<size_t> searched(const std::vector<LibraryRow>& rows, const LibraryQuery& q, const Key& key,
                             LibraryOrder order, double a4Hz) {
  const auto words = wordsOf(q.words);
  struct Found {
    size_t index;
    double rank;
    std::string name;
  };
  std::vector<Found> found;
  for (size_t i = 0; i < rows.size(); ++i) {
    const LibraryRow& r = rows[i];
    if (q.faults != !r.fault.empty() || (!r.present && !q.gone) || (q.favourites && !r.favourite)) continue;
    if (q.kind && !q.faults && !suits(r, *q.kind, q.folders)) continue;
    if (r.fault.empty() && (r.tailMs < q.leastTailMs || r.tailMs > q.mostTailMs || r.weight < q.leastWeight))
      continue;
    const std::string path = lowered(std::string(pathInLibrary(r.file.path, q.folders)));
    if (!std::all_of(words.begin(), words.end(),
                     [&](const std::string& w) { return path.find(w) != std::string::npos; }))
      continue;
    // Last: a list of targets costs more than all before it.
    const bool asked = q.semitones || order == LibraryOrder::Fit;
    const auto fit = asked ? semitonesToKey(r, key, a4Hz) : std::nullopt;
    if (q.semitones && (!fit || std::abs(*fit) > *q.semitones)) continue;
    double rank = 0.0;
    switch (order) {
      case LibraryOrder::Fit:
        rank = fit ? std::abs(*fit) + 0.5 * (1.0 - r.confidence) : 1e6;
        break;
      case LibraryOrder::Name:
        break;
      case LibraryOrder::Landing:
        rank = r.noteHz.value_or(1e6);
        break;
      case LibraryOrder::Tail:
        rank = r.tailMs;
        break;
      case LibraryOrder::Weight:
        rank = -r.weight;
        break;
      case LibraryOrder::Brightness:
        rank = r.brightnessHz;
    }
    found.push_back({i, rank, lowered(r.name())});
  }
  std::stable_sort(found.begin(), found.end(), [](const Found& a, const Found& b) {
    return a.rank != b.rank ? a.rank < b.rank : a.name < b.name;
  });
  std::vector<size_t> out;
  for (const Found& f : found) out.push_back(f.index);
  return out;
}

}  // namespace heft

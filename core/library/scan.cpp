#include "core/library/scan.h"

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <map>
#include <set>
#include <tuple>

#include "core/theory/text.h"

namespace heft {
namespace {

namespace fs = std::filesystem;
constexpr size_t kMostFiles = 200'000;
constexpr const char* kEndings[] = {".wav", ".aif", ".aiff", ".flac", ".ogg", ".opus", ".mp3"};

bool looksLikeAudio(const fs::path& path) {
  const std::string ending = lowered(path.extension().string());
  return std::find(std::begin(kEndings), std::end(kEndings), ending) != std::end(kEndings);
}

std::optional<FileStamp> stampOf(const fs::directory_entry& entry) {
  std::error_code code;
  const auto bytes = entry.file_size(code);
  if (code) return std::nullopt;
  const auto written = entry.last_write_time(code);
  if (code) return std::nullopt;
  const auto when = std::chrono::file_clock::to_sys(written).time_since_epoch();
  return FileStamp{entry.path().string(), static_cast<int64_t>(bytes),
                   std::chrono::duration_cast<std::chrono::nanoseconds>(when).count()};
}

bool liesIn(const std::string& path, const std::string& folder) {
  return path.size() > folder.size() && path.compare(0, folder.size(), folder) == 0 &&
         path[folder.size()] == '/';
}

// Pairs missing files with new ones where `keyOf` matches exactly one of each, and removes the pairs.
template <class KeyOf>
void pairMoved(std::vector<FileStamp>& gone, std::vector<FileStamp>& came, std::vector<MovedFile>& moved,
               KeyOf keyOf) {
  struct Alike {
    int gone = 0, came = 0;
    const FileStamp *from = nullptr, *to = nullptr;
  };
  std::map<decltype(keyOf(gone.front())), Alike> alike;
  for (const FileStamp& f : gone) ++alike[keyOf(f)].gone, alike[keyOf(f)].from = &f;
  for (const FileStamp& f : came) ++alike[keyOf(f)].came, alike[keyOf(f)].to = &f;
  std::set<std::string> paired;
  for (const auto& [key, a] : alike)
    if (a.gone == 1 && a.came == 1) {
      moved.push_back({a.from->path, a.to->path});
      paired.insert(a.from->path), paired.insert(a.to->path);
    }
  for (auto* files : {&gone, &came})
    std::erase_if(*files, [&](const FileStamp& f) { return paired.contains(f.path); });
}

std::vector<MovedFile> movedAmong(std::vector<FileStamp> gone, std::vector<FileStamp> came) {
  std::vector<MovedFile> out;
  pairMoved(gone, came, out, [](const FileStamp& f) {
    return std::tuple(f.bytes, f.writtenNs, fs::path(f.path).filename().string());
  });
  pairMoved(gone, came, out, [](const FileStamp& f) { return std::tuple(f.bytes, f.writtenNs); });
  return out;
}

}  // namespace

Result<ScanPlan> planScan(const std::vector<std::string>& folders, const std::vector<LibraryRow>& known,
                          const std::stop_token& stop) {
  ScanPlan out;
  std::map<std::string, FileStamp> there;
  // An unreadable folder says nothing about its files: they are neither present nor missing.
  std::vector<std::string> looked;
  for (const std::string& folder : folders) {
    std::error_code code;
    fs::recursive_directory_iterator at(folder, fs::directory_options::skip_permission_denied, code), end;
    if (code) {
      out.faults.push_back(folder + ": cannot be read (" + code.message() +
                           "); choose it again where it is now");
      continue;
    }
    looked.push_back(folder);
    while (at != end && there.size() < kMostFiles) {
      if (stop.stop_requested()) return cancelled();
      std::error_code ignored;
      if (at->is_regular_file(ignored) && looksLikeAudio(at->path()))
        if (auto stamp = stampOf(*at)) there.emplace(stamp->path, *stamp);
      at.increment(code);
      if (code) break;
    }
  }
  out.found = there.size();
  std::map<std::string, const LibraryRow*> byPath;
  for (const LibraryRow& row : known) byPath.emplace(row.file.path, &row);
  std::vector<FileStamp> came, left;
  for (const auto& [path, stamp] : there) {
    const auto row = byPath.find(path);
    if (row == byPath.end())
      came.push_back(stamp);
    else if (row->second->file != stamp || row->second->measuring != kMeasuring || row->second->wasAway())
      out.toMeasure.push_back(stamp);
    else if (!row->second->present)
      out.back.push_back(path);
  }
  for (const LibraryRow& row : known) {
    if (there.contains(row.file.path)) continue;
    const bool wasHere =
        std::any_of(looked.begin(), looked.end(), [&](const auto& f) { return liesIn(row.file.path, f); });
    if (row.present && wasHere) out.gone.push_back(row.file.path);
    if (!row.present || wasHere) left.push_back(row.file);
  }
  out.moved = movedAmong(left, came);
  std::set<std::string> moved;
  for (const MovedFile& m : out.moved) moved.insert(m.from), moved.insert(m.to);
  std::erase_if(out.gone, [&](const std::string& path) { return moved.contains(path); });
  for (FileStamp& stamp : came)
    if (!moved.contains(stamp.path)) out.toMeasure.push_back(std::move(stamp));
  return out;
}

}  // namespace heft

#include "core/library/scan.h"

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <map>

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

}  // namespace

Result<ScanPlan> planScan(const std::vector<std::string>& folders, const std::vector<LibraryRow>& known,
                          const std::stop_token& stop) {
  ScanPlan out;
  std::map<std::string, FileStamp> there;
  // A folder that cannot be read says nothing of its files: they are neither there nor gone.
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
  for (const auto& [path, stamp] : there) {
    const auto row = byPath.find(path);
    if (row == byPath.end() || row->second->file != stamp)
      out.toMeasure.push_back(stamp);
    else if (!row->second->present)
      out.back.push_back(path);
  }
  for (const LibraryRow& row : known)
    if (row.present && !there.contains(row.file.path) &&
        std::any_of(looked.begin(), looked.end(), [&](const auto& f) { return liesIn(row.file.path, f); }))
      out.gone.push_back(row.file.path);
  return out;
}

}  // namespace heft

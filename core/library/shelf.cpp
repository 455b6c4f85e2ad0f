#include "core/library/shelf.h"

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "core/library/index.h"
#include "core/library/library_file.h"
#include "core/session/session.h"
#include "core/sound/whole_file.h"
#include "core/theory/file_name.h"

namespace heft {
namespace {

constexpr const char* kTracks = R"(
CREATE TABLE IF NOT EXISTS tracks (
  hash TEXT PRIMARY KEY, name TEXT NOT NULL, path TEXT NOT NULL, reference TEXT NOT NULL,
  tags TEXT NOT NULL DEFAULT '', seconds REAL NOT NULL, lufs REAL, profile BLOB NOT NULL, measuring INTEGER NOT NULL);
)";
constexpr const char* kTrackColumns = "reference, tags, seconds, lufs, path";

// A name decides between a tempo, its half and its double.
double tempoBesideName(double found, const std::optional<double>& said) {
  constexpr double kSame = 0.02;
  for (const double times : {1.0, 2.0, 0.5})
    if (said && std::abs(times * found - *said) < kSame * *said) return times * found;
  return found;
}

std::optional<ShelfRow> shelfRowOf(SQLite::Statement& s) {
  auto reference = referenceFromJson(s.getColumn(0).getString(), "shelf");
  if (!reference) return std::nullopt;
  ShelfRow out{std::move(*reference), s.getColumn(1).getString(), s.getColumn(2).getDouble(), {}};
  if (!s.getColumn(3).isNull()) out.integratedLufs = s.getColumn(3).getDouble();
  out.reference.asset.from = s.getColumn(4).getString();
  return out;
}

}  // namespace

struct Shelf::Data : LibraryFile {};

Shelf::Shelf(std::unique_ptr<Data> data) : data_(std::move(data)) {}
Shelf::Shelf(Shelf&&) noexcept = default;
Shelf& Shelf::operator=(Shelf&&) noexcept = default;
Shelf::~Shelf() = default;

Result<Shelf> Shelf::open(const std::string& path) {
  // Makes the file, or refuses one that is not the library's.
  if (auto index = LibraryIndex::open(path); !index) return Fail(index.error());
  try {
    auto data = std::make_unique<Data>(Data{
        {SQLite::Database(path, SQLite::OPEN_READWRITE, kWaitForLibraryMs), path, "the shelf of references"}});
    data->db.exec(kTracks);
    return Shelf(std::move(data));
  } catch (const SQLite::Exception& error) {
    return unreadable(path, std::string("cannot keep the shelf of references (") + error.what() + ")");
  }
}

Result<std::vector<ShelfRow>> Shelf::rows() {
  return data_->guarded([&] {
    std::vector<ShelfRow> out;
    SQLite::Statement s(data_->db, std::string("SELECT ") + kTrackColumns + " FROM tracks ORDER BY name, path");
    while (s.executeStep())
      if (auto row = shelfRowOf(s)) out.push_back(std::move(*row));
    return out;
  });
}

Result<std::optional<ShelfRow>> Shelf::row(const std::string& hash) {
  return data_->guarded([&]() -> std::optional<ShelfRow> {
    SQLite::Statement s(data_->db, std::string("SELECT ") + kTrackColumns + " FROM tracks WHERE hash = ?");
    s.bind(1, hash);
    return s.executeStep() ? shelfRowOf(s) : std::nullopt;
  });
}

Result<std::optional<TrackProfile>> Shelf::profile(const std::string& hash) {
  return data_->guarded([&]() -> std::optional<TrackProfile> {
    SQLite::Statement s(data_->db, "SELECT profile FROM tracks WHERE hash = ? AND measuring = ?");
    s.bind(1, hash);
    s.bind(2, kTrackMeasuring);
    if (!s.executeStep()) return std::nullopt;
    const auto blob = s.getColumn(0);
    return unpackedTrack(
        std::string(static_cast<const char*>(blob.getBlob()), static_cast<size_t>(blob.getBytes())));
  });
}

Result<void> Shelf::put(const Reference& reference, const TrackProfile& profile) {
  return data_->guarded([&] {
    SQLite::Statement s(data_->db, R"(
INSERT INTO tracks (hash, name, path, reference, seconds, lufs, profile, measuring) VALUES (?, ?, ?, ?, ?, ?, ?, ?)
ON CONFLICT (hash) DO UPDATE SET seconds = excluded.seconds, lufs = excluded.lufs, profile = excluded.profile,
  measuring = excluded.measuring, path = coalesce(nullif(excluded.path, ''), path))");
    s.bind(1, reference.asset.hash);
    s.bind(2, reference.asset.name);
    s.bind(3, reference.asset.from);
    s.bind(4, referenceToJson(reference));
    s.bind(5, profile.seconds);
    if (profile.integratedLufs)
      s.bind(6, *profile.integratedLufs);
    else
      s.bind(6);
    const std::string bytes = packed(profile);
    s.bind(7, bytes.data(), static_cast<int>(bytes.size()));
    s.bind(8, kTrackMeasuring);
    s.exec();
  });
}

Result<void> Shelf::setReference(const Reference& reference) {
  return data_->guarded([&] {
    SQLite::Statement s(
        data_->db,
        "UPDATE tracks SET name = ?, path = coalesce(nullif(?, ''), path), reference = ? WHERE hash = ?");
    s.bind(1, reference.asset.name);
    s.bind(2, reference.asset.from);  // a session may not know it
    s.bind(3, referenceToJson(reference));
    s.bind(4, reference.asset.hash);
    s.exec();
  });
}

Result<void> Shelf::setTags(const std::string& hash, const std::string& tags) {
  return data_->guarded([&] {
    SQLite::Statement s(data_->db, "UPDATE tracks SET tags = ? WHERE hash = ?");
    s.bind(1, tags);
    s.bind(2, hash);
    s.exec();
  });
}

Result<void> Shelf::remove(const std::string& hash) {
  return data_->guarded([&] {
    SQLite::Statement s(data_->db, "DELETE FROM tracks WHERE hash = ?");
    s.bind(1, hash);
    s.exec();
  });
}

Section proposedSection(const TrackProfile& track) {
  const Stretch most = mostLowEnd(track);
  Section out{"", most.fromSeconds, most.toSeconds};
  const double middle = 0.5 * (most.fromSeconds + most.toSeconds);
  for (const Stretch& s : stretchesOf(track))
    if (middle >= s.fromSeconds && middle < s.toSeconds) out.name = s.name;
  return out;
}

std::optional<std::string> whereNow(const AssetRef& asset, const std::vector<std::string>& candidates) {
  constexpr size_t kMostCandidates = 2000;
  constexpr uint64_t kMostTrackBytes = 4'000'000'000;
  auto isIt = [&](const std::string& path) {
    std::error_code code;
    const auto size = std::filesystem::file_size(path, code);
    if (code || (asset.stamp.bytes > 0 && size != asset.stamp.bytes)) return false;
    if (std::filesystem::path(path).extension() != std::filesystem::path(asset.name).extension()) return false;
    const auto bytes = readBytes(path, kMostTrackBytes);
    return bytes && contentHash(bytes->data(), bytes->size()) == asset.hash;
  };
  std::error_code code;
  if (!asset.from.empty() && std::filesystem::exists(asset.from, code)) return asset.from;
  const auto end = candidates.begin() + static_cast<ptrdiff_t>(std::min(candidates.size(), kMostCandidates));
  const auto at = std::find_if(candidates.begin(), end, isIt);
  return at == end ? std::nullopt : std::optional(*at);
}

Result<TrackProfile> shelvedProfile(const Reference& reference, const AudioBuffer& sound,
                                    const std::string& shelfPath, const std::stop_token& stop) {
  auto shelf = shelfPath.empty() ? Result<Shelf>(unreadable("", "none")) : Shelf::open(shelfPath);
  if (shelf)
    if (auto known = shelf->profile(reference.asset.hash); known && *known) return **known;
  auto made = profileTrack(sound, stop);
  if (made && shelf) (void)shelf->put(reference, *made);
  return made;
}

Result<ArrivedTrack> arrivedTrack(const AssetRef& asset, const AudioBuffer& sound, const std::string& shelfPath,
                                  const std::stop_token& stop) {
  ArrivedTrack out{{.asset = asset}, {}};
  auto shelf = shelfPath.empty() ? Result<Shelf>(unreadable("", "none")) : Shelf::open(shelfPath);
  if (shelf)
    if (auto known = shelf->row(asset.hash); known && *known) out.reference = (*known)->reference;
  const bool isNew = out.reference.sections.empty();
  out.reference.asset = asset;
  auto profile = shelvedProfile(out.reference, sound, shelfPath, stop);
  if (!profile) return Fail(profile.error());
  out.profile = std::move(*profile);
  if (isNew) {
    const NameFacts said = factsOfName(asset.name);
    out.reference.sections = {proposedSection(out.profile)};
    out.reference.key = said.key ? said.key : out.profile.key;
    if (out.profile.grid) {
      out.reference.tempoBpm = tempoBesideName(out.profile.grid->bpm, said.tempoBpm);
      out.reference.firstBeatSeconds = std::max(0.0, out.profile.grid->firstBeatSeconds);
    }
  }
  if (shelf) (void)shelf->setReference(out.reference);
  return out;
}

}  // namespace heft

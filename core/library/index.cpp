#include "core/library/index.h"

#include <cmath>
#include <filesystem>

#include "core/library/library_file.h"

namespace heft {
namespace {

constexpr int kVersion = 3, kApplication = 0x48454654;  // "HEFT"

constexpr const char* kTables = R"(
CREATE TABLE IF NOT EXISTS folders (path TEXT PRIMARY KEY);
CREATE TABLE IF NOT EXISTS files (
  path TEXT PRIMARY KEY, bytes INTEGER NOT NULL, written_ns INTEGER NOT NULL, fault TEXT NOT NULL,
  seconds REAL NOT NULL, landing_hz REAL, confidence REAL NOT NULL, start_hz REAL NOT NULL, tail_ms REAL NOT NULL,
  peak_dbfs REAL NOT NULL, rms_dbfs REAL NOT NULL, brightness_hz REAL NOT NULL, weight REAL NOT NULL,
  favourite INTEGER NOT NULL DEFAULT 0, present INTEGER NOT NULL DEFAULT 1, measuring INTEGER NOT NULL DEFAULT 0,
  lands INTEGER NOT NULL DEFAULT 1);
)";
// Indexes of version 1 do not record how they were measured.
constexpr const char* kFromVersion1 = "ALTER TABLE files ADD COLUMN measuring INTEGER NOT NULL DEFAULT 0";
// Those of version 2 know landings only.
constexpr const char* kFromVersion2 = "ALTER TABLE files ADD COLUMN lands INTEGER NOT NULL DEFAULT 1";
constexpr const char* kColumns =
    "path, bytes, written_ns, fault, seconds, landing_hz, confidence, start_hz, tail_ms, peak_dbfs, rms_dbfs, "
    "brightness_hz, weight, favourite, present, measuring, lands";
// Keeps an existing mark.
constexpr const char* kPut = R"(
INSERT INTO files (path, bytes, written_ns, fault, seconds, landing_hz, confidence, start_hz, tail_ms, peak_dbfs,
  rms_dbfs, brightness_hz, weight, favourite, measuring, lands, present)
VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, 1)
ON CONFLICT (path) DO UPDATE SET bytes = excluded.bytes, written_ns = excluded.written_ns, fault = excluded.fault,
  seconds = excluded.seconds, landing_hz = excluded.landing_hz, confidence = excluded.confidence,
  start_hz = excluded.start_hz, tail_ms = excluded.tail_ms, peak_dbfs = excluded.peak_dbfs,
  rms_dbfs = excluded.rms_dbfs, brightness_hz = excluded.brightness_hz, weight = excluded.weight, measuring = excluded.measuring,
  lands = excluded.lands, present = 1;
)";

double finite(double x) {
  return std::isfinite(x) ? x : 0.0;
}

LibraryRow rowOf(SQLite::Statement& s) {
  LibraryRow r;
  r.file = {s.getColumn(0).getString(), s.getColumn(1).getInt64(), s.getColumn(2).getInt64()};
  r.fault = s.getColumn(3).getString();
  r.seconds = finite(s.getColumn(4).getDouble());
  if (!s.getColumn(5).isNull() && finite(s.getColumn(5).getDouble()) > 0.0)
    r.noteHz = s.getColumn(5).getDouble();
  double* const figures[] = {&r.confidence, &r.startHz,      &r.tailMs, &r.peakDbfs,
                             &r.rmsDbfs,    &r.brightnessHz, &r.weight};
  int column = 6;
  for (double* figure : figures) *figure = finite(s.getColumn(column++).getDouble());
  r.favourite = s.getColumn(13).getInt() != 0;
  r.present = s.getColumn(14).getInt() != 0;
  r.measuring = s.getColumn(15).getInt();
  r.lands = s.getColumn(16).getInt() != 0;
  return r;
}

std::string belowPattern(const std::string& folder) {
  std::string out;
  for (char c : folder) {
    if (c == '%' || c == '_' || c == '\\') out += '\\';
    out += c;
  }
  return out + "/%";
}

}  // namespace

struct LibraryIndex::Data : LibraryFile {};

LibraryIndex::LibraryIndex(std::unique_ptr<Data> data) : data_(std::move(data)) {}
LibraryIndex::LibraryIndex(LibraryIndex&&) noexcept = default;
LibraryIndex& LibraryIndex::operator=(LibraryIndex&&) noexcept = default;
LibraryIndex::~LibraryIndex() = default;

Result<LibraryIndex> LibraryIndex::open(const std::string& path) {
  std::error_code code;
  std::filesystem::create_directories(std::filesystem::path(path).parent_path(), code);
  try {
    auto data = std::make_unique<Data>(
        Data{{SQLite::Database(path, SQLite::OPEN_READWRITE | SQLite::OPEN_CREATE, kWaitForLibraryMs), path,
              "the library's index"}});
    const int application = data->db.execAndGet("PRAGMA application_id").getInt(),
              version = data->db.execAndGet("PRAGMA user_version").getInt();
    const int tables = data->db.execAndGet("SELECT count(*) FROM sqlite_master").getInt();
    if (tables > 0 && application != kApplication)
      return unreadable(path, "is a database, but not the library's index; move it away");
    if (version > kVersion)
      return unreadable(path, "was made by a later Heft; use that, or move the file away");
    // Readers do not wait for a scan that writes.
    data->db.exec("PRAGMA journal_mode = WAL");
    data->db.exec("PRAGMA synchronous = NORMAL");
    if (version == 1) data->db.exec(kFromVersion1);
    if (version == 1 || version == 2) data->db.exec(kFromVersion2);
    data->db.exec(kTables);
    data->db.exec("PRAGMA application_id = " + std::to_string(kApplication));
    data->db.exec("PRAGMA user_version = " + std::to_string(kVersion));
    return LibraryIndex(std::move(data));
  } catch (const SQLite::Exception& error) {
    return unreadable(path, std::string("cannot be used as the library's index (") + error.what() +
                                "); move it away and scan again");
  }
}

Result<std::vector<std::string>> LibraryIndex::folders() {
  return data_->guarded([&] {
    std::vector<std::string> out;
    SQLite::Statement s(data_->db, "SELECT path FROM folders ORDER BY path");
    while (s.executeStep()) out.push_back(s.getColumn(0).getString());
    return out;
  });
}

Result<void> LibraryIndex::addFolder(const std::string& folder) {
  return data_->guarded([&] {
    SQLite::Statement s(data_->db, "INSERT OR IGNORE INTO folders (path) VALUES (?)");
    s.bind(1, folder);
    s.exec();
  });
}

Result<void> LibraryIndex::removeFolder(const std::string& folder) {
  return data_->guarded([&] {
    SQLite::Transaction all(data_->db);
    SQLite::Statement s(data_->db, "DELETE FROM folders WHERE path = ?");
    s.bind(1, folder);
    s.exec();
    for (const char* text : {"DELETE FROM files WHERE path LIKE ? ESCAPE '\\' AND favourite = 0",
                             "UPDATE files SET present = 0 WHERE path LIKE ? ESCAPE '\\'"}) {
      SQLite::Statement files(data_->db, text);
      files.bind(1, belowPattern(folder));
      files.exec();
    }
    all.commit();
  });
}

Result<std::vector<LibraryRow>> LibraryIndex::rows() {
  return data_->guarded([&] {
    std::vector<LibraryRow> out;
    SQLite::Statement s(data_->db, std::string("SELECT ") + kColumns + " FROM files ORDER BY path");
    while (s.executeStep()) out.push_back(rowOf(s));
    return out;
  });
}

Result<void> LibraryIndex::put(const std::vector<LibraryRow>& rows) {
  return data_->guarded([&] {
    SQLite::Transaction all(data_->db);
    SQLite::Statement s(data_->db, kPut);
    for (const LibraryRow& r : rows) {
      s.bind(1, r.file.path);
      s.bind(2, r.file.bytes);
      s.bind(3, r.file.writtenNs);
      s.bind(4, r.fault);
      s.bind(5, finite(r.seconds));
      if (r.noteHz)
        s.bind(6, *r.noteHz);
      else
        s.bind(6);
      int column = 7;
      for (double figure : {r.confidence, r.startHz, r.tailMs, r.peakDbfs, r.rmsDbfs, r.brightnessHz, r.weight})
        s.bind(column++, finite(figure));
      s.bind(14, r.favourite ? 1 : 0);
      s.bind(15, r.measuring);
      s.bind(16, r.lands ? 1 : 0);
      s.exec();
      s.reset();
    }
    all.commit();
  });
}

Result<void> LibraryIndex::setPresent(const std::vector<std::string>& paths, bool present) {
  return data_->guarded([&] {
    SQLite::Transaction all(data_->db);
    SQLite::Statement s(data_->db, "UPDATE files SET present = ? WHERE path = ?");
    for (const std::string& path : paths) {
      s.bind(1, present ? 1 : 0);
      s.bind(2, path);
      s.exec();
      s.reset();
    }
    all.commit();
  });
}

Result<void> LibraryIndex::move(const std::vector<MovedFile>& files) {
  return data_->guarded([&] {
    SQLite::Transaction all(data_->db);
    // Another window may have measured the new path meanwhile: then that stays.
    SQLite::Statement s(data_->db, "UPDATE OR IGNORE files SET path = ?, present = 1 WHERE path = ?");
    for (const MovedFile& file : files) {
      s.bind(1, file.to);
      s.bind(2, file.from);
      s.exec();
      s.reset();
    }
    all.commit();
  });
}

Result<void> LibraryIndex::setFavourite(const std::string& path, bool favourite) {
  return data_->guarded([&] {
    SQLite::Statement s(data_->db, "UPDATE files SET favourite = ? WHERE path = ?");
    s.bind(1, favourite ? 1 : 0);
    s.bind(2, path);
    s.exec();
  });
}

}  // namespace heft

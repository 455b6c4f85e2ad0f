#pragma once
/// The shelf of references: tracks known to sound right, kept across sessions in the library's file.

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "core/compare/track_profile.h"
#include "core/session/reference.h"

namespace heft {

/// A track on the shelf. Its file may be gone: `reference.asset.from` is where it was last.
struct ShelfRow {
  Reference reference;  ///< its sections, key and tempo as they were set last, in any session
  std::string tags;     ///< words of the user's own
  double seconds = 0.0;
  std::optional<double> integratedLufs;
  bool operator==(const ShelfRow&) const = default;
};

class Shelf {
 public:
  /// Opens or creates the file (LibraryIndex::open). Errors: Unreadable, Unwritable.
  static Result<Shelf> open(const std::string& path);
  Shelf(Shelf&&) noexcept;
  Shelf& operator=(Shelf&&) noexcept;
  ~Shelf();

  /// By name, then by path. A row that cannot be read is left out.
  Result<std::vector<ShelfRow>> rows();
  /// A track's figures by its content; nothing where it was never measured, or by an older measurement.
  Result<std::optional<TrackProfile>> profile(const std::string& hash);
  Result<std::optional<ShelfRow>> row(const std::string& hash);
  /// Adds a track, or replaces its figures; tags and sections that are there stay.
  Result<void> put(const Reference& reference, const TrackProfile& profile);
  /// Sections, key, tempo, name and path of a track that is there.
  Result<void> setReference(const Reference& reference);
  Result<void> setTags(const std::string& hash, const std::string& tags);
  Result<void> remove(const std::string& hash);

 private:
  struct Data;
  explicit Shelf(std::unique_ptr<Data> data);
  std::unique_ptr<Data> data_;
};

/// Where a track of that content is now: its own path, else the first candidate with its extension, its size
/// where that is known, and its content. Looks at no more than 2000, reading those that fit. Nothing where none
/// is.
std::optional<std::string> whereNow(const AssetRef& asset, const std::vector<std::string>& candidates);

/// The eight bars with the most low end, named as the stretch in which they lie.
Section proposedSection(const TrackProfile& track);

/// What arrives with a track: from the shelf where it is known, else measured; the section with the most low
/// end is its first. Puts it on the shelf (`shelfPath`; empty: nowhere). A shelf that cannot be used is no
/// reason to fail. Errors: those of profileTrack().
struct ArrivedTrack {
  Reference reference;
  TrackProfile profile;
};
Result<ArrivedTrack> arrivedTrack(const AssetRef& asset, const AudioBuffer& sound, const std::string& shelfPath,
                                  const std::stop_token& stop = {});
/// A track's figures from the shelf, else measured and put there.
Result<TrackProfile> shelvedProfile(const Reference& reference, const AudioBuffer& sound,
                                    const std::string& shelfPath, const std::stop_token& stop = {});

}  // namespace heft

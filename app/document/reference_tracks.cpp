#include "app/document/reference_tracks.h"

#include <QFileInfo>
#include <algorithm>

#include "app/document/aside.h"
#include "app/document/document.h"
#include "core/session/edits/files.h"

namespace heft::app {

ReferenceTracks::ReferenceTracks(Document& document) : document_(document) {
  timer_.setSingleShot(true);
  connect(&timer_, &QTimer::timeout, this, &ReferenceTracks::shelve);
}

void ReferenceTracks::replaced() {
  measuring_.clear();
  profiles_.clear();
  shelved_ = document_.session().references;  // an older session does not change what was set since
}

void ReferenceTracks::wake() {
  constexpr int kDelayMs = 800;
  if (document_.session().references != shelved_) timer_.start(kDelayMs);
}

// Its track and its section are measured before it is added: its edit is heard at once.
void ReferenceTracks::load(const QString& path) {
  struct Read {
    LoadedSound loaded;
    ArrivedTrack track;
  };
  auto work = [path = path.toStdString(), cache = document_.cache(),
               shelf = shelf_.toStdString()](const std::stop_token& stop) -> Result<Read> {
    auto loaded = loadSound(path, stop, kMostReferenceSeconds);
    if (!loaded) return Fail(loaded.error());
    Assets alone;
    AssetRef ref = alone.add(*loaded, path);
    ref.from = path;
    auto track = arrivedTrack(ref, *loaded->sound, shelf, stop);
    if (!track) return Fail(track.error());
    Session with;
    with.references = {track->reference};
    for (const SectionRef& section : sectionsOf(with)) measureSection(section, alone, *cache);
    return Read{std::move(*loaded), std::move(*track)};
  };
  document_.jobs().start("Reading " + QFileInfo(path).fileName(), Jobs::Kind::CanBeCancelled, work,
                         [this, path](Result<Read> read) {
                           if (!read) return document_.fail(QString::fromStdString(read.error().sentence()));
                           const auto whole = read->loaded.wholeSeconds;
                           const auto arrived = std::make_shared<Read>(std::move(*read));
                           const auto add = [this, path, arrived] {
                             arrived->track.reference.asset =
                                 document_.sounds().takeIn(std::move(arrived->loaded), path);
                             profiles_[arrived->track.reference.asset.hash] =
                                 std::make_shared<const TrackProfile>(std::move(arrived->track.profile));
                             document_.edit(addReference(arrived->track.reference));
                           };
                           if (whole) return Q_EMIT longReferenceRead(path, *whole, add);
                           add();
                         });
}

std::shared_ptr<const TrackProfile> ReferenceTracks::profile(const Reference& reference) {
  const std::string& hash = reference.asset.hash;
  const auto at = profiles_.find(hash);
  if (at != profiles_.end()) return at->second;
  const Sound sound = document_.assets().sound(reference.asset);
  if (!sound) return nullptr;
  profiles_[hash] = nullptr;
  auto work = [reference, sound, shelf = shelf_.toStdString()](const std::stop_token& stop) {
    return shelvedProfile(reference, *sound, shelf, stop);
  };
  document_.jobs().start("Measuring " + QString::fromStdString(reference.asset.name),
                         Jobs::Kind::CanBeCancelled, work, [this, hash](Result<TrackProfile> profile) {
                           if (!profile)
                             return document_.fail(QString::fromStdString(profile.error().sentence()));
                           profiles_[hash] = std::make_shared<const TrackProfile>(std::move(*profile));
                           Q_EMIT profiled();
                         });
  return nullptr;
}

void ReferenceTracks::retry() {
  if (!document_.jobs().isBusy()) std::erase_if(profiles_, [](const auto& each) { return !each.second; });
}

// What a hand sets of a reference stays with it: its sections, key and tempo come along to the next session.
void ReferenceTracks::shelve() {
  if (shelf_.isEmpty() || document_.session().references == shelved_) return;
  std::vector<Reference> changed;
  for (const Reference& r : document_.session().references)
    if (std::find(shelved_.begin(), shelved_.end(), r) == shelved_.end()) changed.push_back(r);
  shelved_ = document_.session().references;
  auto work = [path = shelf_.toStdString(), changed]() -> Result<void> {
    auto shelf = Shelf::open(path);
    if (!shelf) return Fail(shelf.error());
    for (const Reference& r : changed)
      if (auto done = shelf->setReference(r); !done) return done;
    return {};
  };
  // A shelf that cannot be written is told when it is shown: the session has it all.
  runAside(
      document_.jobs().inOrder(), this, work, [](Result<void>) {}, document_.failing());
}

// A section takes a part of a second, a whole track seconds: playback must not wait for them.
void ReferenceTracks::measure() {
  // A removed section may return and is measured then, even after a cancel.
  std::erase_if(measuring_, [&](const StepKey& key) {
    return std::none_of(document_.study()->notMeasured.begin(), document_.study()->notMeasured.end(),
                        [&](const SectionRef& ref) { return ref.key() == key; });
  });
  for (const SectionRef& ref : document_.study()->notMeasured) {
    if (!measuring_.insert(ref.key()).second) continue;
    auto work = [ref, assets = document_.assets(), cache = document_.cache()](const std::stop_token&) {
      return measureSection(ref, assets, *cache) != nullptr;
    };
    document_.jobs().start("Measuring " + QString::fromStdString(ref.asset.name), Jobs::Kind::CanBeCancelled,
                           work, [this, key = ref.key()](bool) {
                             measuring_.erase(key);
                             document_.renew();
                           });
  }
}

}  // namespace heft::app

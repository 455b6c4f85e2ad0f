// A document's references: reading them, and measuring their tracks and sections.

#include <QFileInfo>
#include <algorithm>
#include <cmath>

#include "app/document/document.h"
#include "core/session/edits/files.h"

namespace heft::app {

// Its track and its section are measured before it is added: its edit is heard at once.
void Document::loadReference(const QString& path) {
  struct Read {
    LoadedSound loaded;
    ArrivedTrack track;
  };
  auto work = [path = path.toStdString(), cache = cache_,
               shelf = shelfPath_.toStdString()](const std::stop_token& stop) -> Result<Read> {
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
  jobs_.start("Reading " + QFileInfo(path).fileName(), Jobs::Kind::CanBeCancelled, work,
              [this, path](Result<Read> read) {
                if (!read) return fail(QString::fromStdString(read.error().sentence()));
                const auto whole = read->loaded.wholeSeconds;
                const auto arrived = std::make_shared<Read>(std::move(*read));
                const auto add = [this, path, arrived] {
                  arrived->track.reference.asset = takeIn(std::move(arrived->loaded), path);
                  profiles_[arrived->track.reference.asset.hash] =
                      std::make_shared<const TrackProfile>(std::move(arrived->track.profile));
                  edit(addReference(arrived->track.reference));
                };
                if (whole) return Q_EMIT longReferenceRead(path, *whole, add);
                add();
              });
}

std::shared_ptr<const TrackProfile> Document::trackProfile(const Reference& reference) {
  const std::string& hash = reference.asset.hash;
  const auto at = profiles_.find(hash);
  if (at != profiles_.end()) return at->second;
  const Sound sound = assets_.sound(reference.asset);
  if (!sound) return nullptr;
  profiles_[hash] = nullptr;
  auto work = [reference, sound, shelf = shelfPath_.toStdString()](const std::stop_token& stop) {
    return shelvedProfile(reference, *sound, shelf, stop);
  };
  jobs_.start("Measuring " + QString::fromStdString(reference.asset.name), Jobs::Kind::CanBeCancelled, work,
              [this, hash](Result<TrackProfile> profile) {
                if (!profile) return fail(QString::fromStdString(profile.error().sentence()));
                profiles_[hash] = std::make_shared<const TrackProfile>(std::move(*profile));
                Q_EMIT profiled();
              });
  return nullptr;
}

void Document::retryProfiles() {
  if (!jobs_.isBusy()) std::erase_if(profiles_, [](const auto& each) { return !each.second; });
}

// What a hand sets of a reference stays with it: its sections, key and tempo come along to the next session.
void Document::shelveReferences() {
  if (shelfPath_.isEmpty() || session().references == shelved_) return;
  std::vector<Reference> changed;
  for (const Reference& r : session().references)
    if (std::find(shelved_.begin(), shelved_.end(), r) == shelved_.end()) changed.push_back(r);
  shelved_ = session().references;
  auto work = [path = shelfPath_.toStdString(), changed]() -> Result<void> {
    auto shelf = Shelf::open(path);
    if (!shelf) return Fail(shelf.error());
    for (const Reference& r : changed)
      if (auto done = shelf->setReference(r); !done) return done;
    return {};
  };
  // A shelf that cannot be written is told when it is shown: the session has it all.
  runAside(
      jobs_.inOrder(), this, work, [](Result<void>) {}, failing());
}

// A section takes a part of a second, a whole track seconds: playback must not wait for them.
void Document::measureReferences() {
  // A removed section may return and is measured then, even after a cancel.
  std::erase_if(measuring_, [&](const StepKey& key) {
    return std::none_of(study_->notMeasured.begin(), study_->notMeasured.end(),
                        [&](const SectionRef& ref) { return ref.key() == key; });
  });
  for (const SectionRef& ref : study_->notMeasured) {
    if (!measuring_.insert(ref.key()).second) continue;
    auto work = [ref, assets = assets_, cache = cache_](const std::stop_token&) {
      return measureSection(ref, assets, *cache) != nullptr;
    };
    jobs_.start("Measuring " + QString::fromStdString(ref.asset.name), Jobs::Kind::CanBeCancelled, work,
                [this, key = ref.key()](bool) {
                  measuring_.erase(key);
                  submit();
                });
  }
}

}  // namespace heft::app

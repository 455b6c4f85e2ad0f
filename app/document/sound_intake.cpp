#include "app/document/sound_intake.h"

#include <QFileInfo>
#include <QTimer>
#include <algorithm>
#include <set>

#include "app/document/document.h"
#include "core/duck/detector.h"
#include "core/render/sounds/sounds.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/files.h"
#include "core/session/edits/track.h"
#include "core/session/folder.h"
#include "core/sound/midi_reader.h"
#include "core/sound/whole_file.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kLongestLayerSeconds = 300.0;

SoundPlace soundPlace(const LayerPlace& where) {
  if (where.layer == LayerPlace::kNew) return {SoundPlace::At::New};
  if (where.layer > 0) return {SoundPlace::At::Of, where.layer};
  return {};
}

Edit placing(Place place, const Session& now, const AssetRef& ref, double rate, const LayerPlace& where) {
  const Part* part = partAt(now, place);
  if (!part) return placeBacking(ref, rate);
  if (where.layer == LayerPlace::kFitted) return placeFitted(*part, ref, where.fit);
  return placePartSound(*part, ref, soundPlace(where), rate);
}

// Converts a long sound while reading it rather than in the edit that places it.
void prepare(const LoadedSound& loaded, const std::string& path, Place place, const Track& track,
             StepCache& cache) {
  Assets alone;
  const AssetRef ref = alone.add(loaded, path);
  if (place == kBacking)
    SoundSteps(alone, cache, track.sampleRate).backing({.asset = ref}, track.loopFrames(), cache);
  else
    SoundSteps(alone, cache, track.sampleRate).source(ref);
}

}  // namespace

SoundIntake::SoundIntake(Document& document) : document_(document) {
  // Programs save in several steps, or replace the file by a new one: checks a moment later.
  connect(&watcher_, &QFileSystemWatcher::fileChanged, this, [this](const QString& path) {
    QTimer::singleShot(400, this, [this, path] {
      if (!QFileInfo::exists(path)) return;
      watcher_.addPath(path);
      bool used = false;
      eachAsset(document_.session(),
                [&, from = path.toStdString()](const AssetRef& ref) { used |= ref.from == from; });
      if (used) Q_EMIT sourceChanged(path);
    });
  });
}

void SoundIntake::replaced(Assets assets) {
  assets_ = std::move(assets);
  lent_.clear();
  firstBeat_.reset();
  if (!watcher_.files().isEmpty()) watcher_.removePaths(watcher_.files());
}

// Sounds can be minutes long.
void SoundIntake::drop(const std::vector<std::string>& forgotten, const std::vector<const Session*>& needed) {
  std::set<std::string> used{lent_};
  for (const Session* s : needed) eachAsset(*s, [&](const AssetRef& ref) { used.insert(ref.hash); });
  for (const std::string& hash : forgotten)
    if (!used.contains(hash)) assets_.drop(hash);
}

void SoundIntake::loadAll(Place place, const QStringList& paths) {
  for (const QString& path : paths) load(place, path);
}

AssetRef SoundIntake::own(LoadedSound sound, const std::string& path) {
  if (sound.hash == lent_) lent_.clear();  // from now on it is the session's
  return assets_.add(std::move(sound), path);
}

AssetRef SoundIntake::takeIn(LoadedSound loaded, const QString& path) {
  for (const auto& warning : loaded.warnings) document_.tell(path + ": " + QString::fromStdString(warning));
  AssetRef ref = own(std::move(loaded), path.toStdString());
  const QString whole = QFileInfo(path).absoluteFilePath();
  if (whole.size() < 4000) ref.from = whole.toStdString(), ref.stamp = stampOf(ref.from);
  watcher_.addPath(whole);
  return ref;
}

void SoundIntake::keep(const Assets& assets, const std::vector<AssetRef>& refs) {
  for (const AssetRef& ref : refs)
    if (const LoadedSound* sound = assets.find(ref)) own(*sound, ref.name);
}

void SoundIntake::loadTrigger(int duck, const QString& path) {
  using Read = std::variant<LoadedSound, MidiFile>;
  const Duck* of = document_.session().duck(duck);
  auto work = [path = path.toStdString(), cache = document_.cache(),
               detector = of ? of->source.detector()
                             : DetectorOptions()](const std::stop_token& stop) -> Result<Read> {
    constexpr uint64_t kMostMidiBytes = 16'000'000;
    if (const auto bytes = readBytes(path, kMostMidiBytes); bytes && bytes->rfind("MThd", 0) == 0) {
      auto midi = parseMidi(*bytes, path);
      if (!midi) return Fail(midi.error());
      return Read(std::move(*midi));
    }
    auto sound = loadSound(path, stop);
    if (!sound) return Fail(sound.error());
    // Auditioning does not wait for the search.
    hitSearch(*sound, detector, *cache);
    return Read(std::move(*sound));
  };
  document_.jobs().start(
      "Reading " + QFileInfo(path).fileName(), Jobs::Kind::CanBeCancelled, work,
      [this, duck, path](Result<Read> read) {
        if (!read) return document_.fail(QString::fromStdString(read.error().sentence()));
        const Duck* meant = document_.session().duck(duck);
        if (!meant) return;
        if (auto* midi = std::get_if<MidiFile>(&*read)) {
          for (const auto& warning : midi->warnings) document_.tell(QString::fromStdString(warning));
          return document_.edit(setTriggerMidi(*meant, *midi, QFileInfo(path).fileName().toStdString()));
        }
        const AssetRef ref = takeIn(std::move(std::get<LoadedSound>(*read)), path);
        document_.edit(setTriggerAudio(*meant, ref));
      });
}

void SoundIntake::load(Place place, const QString& path, LayerPlace where) {
  if (place == kReferences) return document_.references().load(path);
  const auto beat = std::make_shared<std::optional<double>>();
  const auto material = std::make_shared<MaterialFacts>();
  auto work = [path = path.toStdString(), place, cache = document_.cache(), loop = document_.track(), material,
               first = isWithoutSounds(document_.session()),
               beat](const std::stop_token& stop) -> Result<LoadedSound> {
    auto loaded = loadSound(path, stop);
    if (loaded && place.isPart()) {
      if (loaded->sound->seconds() > kLongestLayerSeconds)
        return unreadable(path, "lasts " + formatNumber(loaded->sound->seconds() / 60.0, 0) +
                                    " min, and a layer plays up to " +
                                    formatNumber(kLongestLayerSeconds / 60.0, 0) +
                                    "; drop it on the backing, or on Compare as a reference");
      *material = recogniseMaterial(*loaded->sound);
    }
    if (loaded && place == kBacking) *beat = firstBeatSeconds(*loaded->sound);
    // The first sound sets the session's rate and needs no conversion.
    if (loaded && !stop.stop_requested() && !first) prepare(*loaded, path, place, loop, *cache);
    return loaded;
  };
  document_.jobs().start("Reading " + QFileInfo(path).fileName(), Jobs::Kind::CanBeCancelled, work,
                         [this, place, path, where, beat, material](Result<LoadedSound> loaded) {
                           if (!loaded) {
                             document_.fail(QString::fromStdString(loaded.error().sentence()));
                             return;
                           }
                           const double rate = loaded->sound->sampleRate;
                           const AssetRef ref = takeIn(std::move(*loaded), path);
                           document_.edit(placing(place, document_.session(), ref, rate, where));
                           if (const Part* part = partAt(document_.session(), place);
                               part && where.layer == LayerPlace::kNew && !part->layers.empty())
                             Q_EMIT layerPlaced(place, part->layers.back().id);
                           if (const Part* part = partAt(document_.session(), place);
                               part && !material->isOneShot())
                             for (const Layer& l : part->layers)
                               if (l.recorded() && l.recorded()->asset.hash == ref.hash) {
                                 Q_EMIT materialFound(place, l.id, *material);
                                 break;
                               }
                           constexpr double kOnIt = 0.02;
                           if (place == kBacking) firstBeat_ = *beat;
                           if (place == kBacking && *beat && **beat > kOnIt) Q_EMIT firstBeatFound(**beat);
                         });
}

void SoundIntake::loadBody(const Owner& of, int id, const QString& path) {
  auto work = [path = path.toStdString()](const std::stop_token& stop) { return loadSound(path, stop); };
  document_.jobs().start("Reading " + QFileInfo(path).fileName(), Jobs::Kind::CanBeCancelled, work,
                         [this, of, id, path](Result<LoadedSound> loaded) {
                           if (!loaded)
                             return document_.fail(QString::fromStdString(loaded.error().sentence()));
                           document_.edit(placeBody(of, id, takeIn(std::move(*loaded), path)));
                         });
}

AssetRef SoundIntake::lend(LoadedSound sound, const std::string& path) {
  const AssetRef known{sound.hash, {}};
  const bool ours = assets_.find(known) && sound.hash != lent_;
  if (!lent_.empty() && lent_ != sound.hash) assets_.drop(lent_);
  lent_ = ours ? std::string() : sound.hash;
  return assets_.add(std::move(sound), path);
}

// Source files of an opened session may have changed while it was closed. Checks their stamps without reading
// them, and only where this machine saved the session: another's paths mean nothing here.
void SoundIntake::watchSources() {
  auto work = [s = document_.session(), a = assets_](const std::stop_token&) { return sourcesOf(s, a); };
  document_.jobs().start("Looking where sounds came from", Jobs::Kind::CanBeCancelled, work,
                         [this](const Sources& found) {
                           for (const std::string& path : found.present)
                             watcher_.addPath(QString::fromStdString(path));
                           for (const std::string& path : found.changedSince)
                             Q_EMIT sourceChanged(QString::fromStdString(path));
                         });
}

void SoundIntake::reload(const QString& path) {
  auto work = [path = path.toStdString()](const std::stop_token& stop) { return loadSound(path, stop); };
  document_.jobs().start("Reading " + QFileInfo(path).fileName(), Jobs::Kind::CanBeCancelled, work,
                         [this, path](Result<LoadedSound> loaded) {
                           if (!loaded)
                             return document_.fail(QString::fromStdString(loaded.error().sentence()));
                           AssetRef fresh = own(std::move(*loaded), path.toStdString());
                           fresh.from = path.toStdString(), fresh.stamp = stampOf(fresh.from);
                           document_.edit(reloadSound(fresh, QFileInfo(path).fileName().toStdString()));
                         });
}

void SoundIntake::placeKit(std::vector<Drum> drums) {
  using Read = std::vector<Result<LoadedSound>>;
  auto work = [drums](const std::stop_token& stop) {
    Read out;
    for (const Drum& d : drums) out.push_back(loadSound(d.path, stop));
    return out;
  };
  document_.jobs().start("Reading the kit", Jobs::Kind::CanBeCancelled, work, [this, drums](Read read) {
    std::vector<KitPart> kit;
    for (size_t i = 0; i < read.size(); ++i) {
      const QString path = QString::fromStdString(drums[i].path);
      if (!read[i]) {
        document_.fail(QString::fromStdString(read[i].error().sentence()));
        continue;
      }
      const Drum& d = drums[i];
      kit.push_back({QFileInfo(path).completeBaseName().left(40).toStdString(),
                     takeIn(std::move(*read[i]), path), d.targetMidi, d.how.method, d.band, d.length});
    }
    if (!kit.empty()) document_.edit(heft::placeKit(kit));
  });
}

void SoundIntake::takeBounce(Bounce bounce) {
  auto loaded = decodeSound(std::move(bounce.bytes), bounce.fileName);
  if (!loaded) return document_.fail(QString::fromStdString(loaded.error().sentence()));
  const AssetRef ref = own(std::move(*loaded), bounce.fileName);
  document_.edit(bounce.edit(ref));
}

}  // namespace heft::app

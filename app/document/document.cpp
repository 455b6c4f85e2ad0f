#include "app/document/document.h"

#include <QDir>
#include <QFileInfo>
#include <QPointer>
#include <QSettings>
#include <algorithm>

#include "core/duck/detector.h"
#include "core/render/sounds/sounds.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/files.h"
#include "core/session/edits/track.h"
#include "core/session/pattern.h"
#include "core/sound/midi_reader.h"
#include "core/sound/whole_file.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr double kLongestLayerSeconds = 300.0;

constexpr int kAutosaveMs = 2000, kShelveMs = 800;

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

Document::Document(std::shared_ptr<StepCache> cache) : cache_(std::move(cache)) {
  // Programs save in several steps, or replace the file by a new one: checks a moment later.
  connect(&watcher_, &QFileSystemWatcher::fileChanged, this, [this](const QString& path) {
    QTimer::singleShot(400, this, [this, path] {
      if (!QFileInfo::exists(path)) return;
      watcher_.addPath(path);
      bool used = false;
      eachAsset(session(), [&, from = path.toStdString()](const AssetRef& ref) { used |= ref.from == from; });
      if (used) Q_EMIT sourceChanged(path);
    });
  });
  connect(&jobs_, &Jobs::faulted, this, &Document::failed);
  autosaveTimer_.setSingleShot(true);
  connect(&autosaveTimer_, &QTimer::timeout, this, &Document::autosave);
  shelfTimer_.setSingleShot(true);
  connect(&shelfTimer_, &QTimer::timeout, this, &Document::shelveReferences);
  worker_ = std::make_unique<Worker>(
      [this](Outcome outcome) {
        QMetaObject::invokeMethod(
            this, [this, o = std::make_shared<Outcome>(std::move(outcome))] { take(std::move(*o)); },
            Qt::QueuedConnection);
      },
      cache_);
}

Document::~Document() {
  worker_.reset();
}

void Document::edit(const Edit& edit) {
  Session next = edit.applied(session());
  if (next == session()) return;
  if (edit.turned) Q_EMIT turning(*edit.turned);
  history_.apply(edit.name, std::move(next), edit.mergeKey);
  dropForgottenSounds();
  edit.silent ? announce() : submit();
  if (edit.turned) Q_EMIT turned(*edit.turned);
}

// Sounds can be minutes long: drops those that no undo needs, unless they are being auditioned.
void Document::dropForgottenSounds() {
  std::set<std::string> used{lent_};
  const auto use = [&](const Session& s) { eachAsset(s, [&](const AssetRef& ref) { used.insert(ref.hash); }); };
  const auto forgotten = history_.takeForgottenSounds();
  if (forgotten.empty()) return;
  use(before_.applied(session()));
  if (heardEdit_) use(heardEdit_->applied(session()));
  for (const std::string& hash : forgotten)
    if (!used.contains(hash)) assets_.drop(hash);
}

void Document::setMeantSo(const std::string& id, bool meant) {
  edit(heft::setMeantSo(id, meant));
}

void Document::undo() {
  history_.undo();
  submit();
}

void Document::redo() {
  history_.redo();
  submit();
}

void Document::loadSoundFiles(Place place, const QStringList& paths) {
  for (const QString& path : paths) loadSoundFile(place, path);
}

AssetRef Document::own(LoadedSound sound, const std::string& path) {
  if (sound.hash == lent_) lent_.clear();  // from now on it is the session's
  return assets_.add(std::move(sound), path);
}

AssetRef Document::takeIn(LoadedSound loaded, const QString& path) {
  for (const auto& warning : loaded.warnings) Q_EMIT told(path + ": " + QString::fromStdString(warning));
  AssetRef ref = own(std::move(loaded), path.toStdString());
  const QString whole = QFileInfo(path).absoluteFilePath();
  if (whole.size() < 4000) ref.from = whole.toStdString(), ref.stamp = stampOf(ref.from);
  watcher_.addPath(whole);
  return ref;
}

void Document::keepSounds(const Assets& assets, const std::vector<AssetRef>& refs) {
  for (const AssetRef& ref : refs)
    if (const LoadedSound* sound = assets.find(ref)) own(*sound, ref.name);
}

void Document::loadTrigger(int duck, const QString& path) {
  using Read = std::variant<LoadedSound, MidiFile>;
  const Duck* of = session().duck(duck);
  auto work = [path = path.toStdString(), cache = cache_,
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
  jobs_.start("Reading " + QFileInfo(path).fileName(), Jobs::Kind::CanBeCancelled, work,
              [this, duck, path](Result<Read> read) {
                if (!read) return fail(QString::fromStdString(read.error().sentence()));
                const Duck* meant = session().duck(duck);
                if (!meant) return;
                if (auto* midi = std::get_if<MidiFile>(&*read)) {
                  for (const auto& warning : midi->warnings) tell(QString::fromStdString(warning));
                  return edit(setTriggerMidi(*meant, *midi, QFileInfo(path).fileName().toStdString()));
                }
                const AssetRef ref = takeIn(std::move(std::get<LoadedSound>(*read)), path);
                edit(setTriggerAudio(*meant, ref));
              });
}

void Document::loadSoundFile(Place place, const QString& path, LayerPlace where) {
  if (place == kReferences) return loadReference(path);
  const auto beat = std::make_shared<std::optional<double>>();
  const auto material = std::make_shared<MaterialFacts>();
  auto work = [path = path.toStdString(), place, cache = cache_, loop = track(), material,
               first = isWithoutSounds(session()), beat](const std::stop_token& stop) -> Result<LoadedSound> {
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
  jobs_.start("Reading " + QFileInfo(path).fileName(), Jobs::Kind::CanBeCancelled, work,
              [this, place, path, where, beat, material](Result<LoadedSound> loaded) {
                if (!loaded) {
                  Q_EMIT failed(QString::fromStdString(loaded.error().sentence()));
                  return;
                }
                const double rate = loaded->sound->sampleRate;
                const AssetRef ref = takeIn(std::move(*loaded), path);
                edit(placing(place, session(), ref, rate, where));
                if (const Part* part = partAt(session(), place);
                    part && where.layer == LayerPlace::kNew && !part->layers.empty())
                  Q_EMIT layerPlaced(place, part->layers.back().id);
                if (const Part* part = partAt(session(), place); part && !material->isOneShot())
                  for (const Layer& l : part->layers)
                    if (l.recorded() && l.recorded()->asset.hash == ref.hash) {
                      Q_EMIT materialFound(place, l.id, *material);
                      break;
                    }
                constexpr double kOnIt = 0.02;
                if (place == kBacking) backingFirstBeat_ = *beat;
                if (place == kBacking && *beat && **beat > kOnIt) Q_EMIT backingBeatFound(**beat);
              });
}

void Document::loadBodyFile(const Owner& of, int id, const QString& path) {
  auto work = [path = path.toStdString()](const std::stop_token& stop) { return loadSound(path, stop); };
  jobs_.start("Reading " + QFileInfo(path).fileName(), Jobs::Kind::CanBeCancelled, work,
              [this, of, id, path](Result<LoadedSound> loaded) {
                if (!loaded) return fail(QString::fromStdString(loaded.error().sentence()));
                edit(placeBody(of, id, takeIn(std::move(*loaded), path)));
              });
}

AssetRef Document::lend(LoadedSound sound, const std::string& path) {
  const AssetRef known{sound.hash, {}};
  const bool ours = assets_.find(known) && sound.hash != lent_;
  if (!lent_.empty() && lent_ != sound.hash) assets_.drop(lent_);
  lent_ = ours ? std::string() : sound.hash;
  return assets_.add(std::move(sound), path);
}

// Source files of an opened session may have changed while it was closed. Checks their stamps without reading
// them, and only where this machine saved the session: another's paths mean nothing here.
void Document::watchSources() {
  auto work = [s = session(), a = assets_](const std::stop_token&) { return sourcesOf(s, a); };
  jobs_.start("Looking where sounds came from", Jobs::Kind::CanBeCancelled, work, [this](const Sources& found) {
    for (const std::string& path : found.present) watcher_.addPath(QString::fromStdString(path));
    for (const std::string& path : found.changedSince) Q_EMIT sourceChanged(QString::fromStdString(path));
  });
}

void Document::reloadSource(const QString& path) {
  auto work = [path = path.toStdString()](const std::stop_token& stop) { return loadSound(path, stop); };
  jobs_.start("Reading " + QFileInfo(path).fileName(), Jobs::Kind::CanBeCancelled, work,
              [this, path](Result<LoadedSound> loaded) {
                if (!loaded) return fail(QString::fromStdString(loaded.error().sentence()));
                AssetRef fresh = own(std::move(*loaded), path.toStdString());
                fresh.from = path.toStdString(), fresh.stamp = stampOf(fresh.from);
                edit(reloadSound(fresh, QFileInfo(path).fileName().toStdString()));
              });
}

void Document::replace(Session session, Assets assets, const QString& folder) {
  ++generation_;
  jobs_.cancel();
  clearAutosave();
  saving_.reset();
  measuring_.clear();
  profiles_.clear();
  lent_.clear();
  backingFirstBeat_.reset();
  before_ = leaveOut();
  heardEdit_.reset();
  if (!watcher_.files().isEmpty()) watcher_.removePaths(watcher_.files());
  history_ = History(std::move(session));
  shelved_ = history_.now().references;  // an older session does not change what was set since
  assets_ = std::move(assets);
  folder_ = folder;
  fileHash_.clear();
  lockFolder();
  stems_.reset(), waves_.reset(), layers_.reset(), study_.reset(), snapshot_.reset(), findings_.clear();
  Q_EMIT replaced();
  submit();
}

void Document::newSession() {
  replace({}, {}, {});
}

void Document::takeBounce(Bounce bounce) {
  auto loaded = decodeSound(std::move(bounce.bytes), bounce.fileName);
  if (!loaded) return fail(QString::fromStdString(loaded.error().sentence()));
  const AssetRef ref = own(std::move(*loaded), bounce.fileName);
  edit(bounce.edit(ref));
}

void Document::setDeviceRate(double rate) {
  if (rate == deviceRate_) return;
  deviceRate_ = rate;
  submit();
}

void Document::setSilenced(const SilencedLanes& lanes) {
  if (lanes == silenced_) return;
  silenced_ = lanes;
  // With few lanes every combination is matched beforehand.
  if (session().sum.finish.works() || session().parts.size() > 3 || listen_.isPrepared()) submit();
}

void Document::setListen(const ListenTo& listen) {
  const bool renders = listen.isPrepared() || listen_.isPrepared();
  listen_ = listen;
  if (renders) submit();
}

void Document::hearAnew() {
  heard_.reset();
  if (heardEdit_) heard_ = heardEdit_->applied(session());
}

void Document::setHeard(std::optional<Edit> edit) {
  heardEdit_ = std::move(edit);
  hearAnew();
  Q_EMIT heardChanged();
}

void Document::setBefore(Edit before) {
  before_ = std::move(before);
  submit();
}

void Document::submit() {
  worker_->submit({++submitted_, session(), assets_, deviceRate_, References::TakeWhatIsKnown, before_,
                   silenced_, playhead_, beforeIsHeard_, listen_});
  announce();
}

void Document::announce() {
  if (!autosaveFolder_.isEmpty() && !history_.isSaved()) autosaveTimer_.start(kAutosaveMs);
  if (session().references != shelved_) shelfTimer_.start(kShelveMs);
  hearAnew();
  Q_EMIT changed();
}

const LayerSound* Document::layerSound(int part, int layer) const {
  if (!layers_) return nullptr;
  const auto at = std::find_if(layers_->begin(), layers_->end(),
                               [&](const LayerSound& l) { return l.part == part && l.layer == layer; });
  return at == layers_->end() ? nullptr : &*at;
}

void Document::take(Outcome outcome) {
  if (outcome.number != submitted_) {
    // Overtaken by a newer edit, but its sound is still closer to the present than what plays.
    if (outcome.number + 1 < submitted_ || outcome.study) return;
  }
  if (!outcome.fault.empty()) {
    // The former sound keeps playing.
    studied_ = outcome.number, remediesTried_ = true;
    Q_EMIT failed(QString::fromStdString("Not heard yet: " + outcome.fault));
    Q_EMIT studied();
    return;
  }
  const bool isHeard = stems_ == outcome.stems;
  const bool levelsAlone = isHeard && outcome.levels && !outcome.study;
  if (outcome.levels) levels_ = std::move(outcome.levels), levelsBefore_ = std::move(outcome.levelsBefore);
  if (outcome.waves && outcome.waves != waves_) {
    waves_ = outcome.waves, peaks_ = outcome.peaks;
    Q_EMIT waved();
  }
  if (levelsAlone) return;
  // A song is drawn as it was until its lanes have been looked at.
  if (!session().track.song) waves_.reset();
  stems_ = std::move(outcome.stems);
  snapshot_ = std::move(outcome.snapshot);
  if (outcome.peaks) peaks_ = std::move(outcome.peaks);
  // A tried remedy changes nothing that plays or is drawn.
  if (!isHeard || layersTaken_ != outcome.layers) {
    layersTaken_ = outcome.layers;
    auto layers = *outcome.layers;
    if (layers_) keepFigures(layers, *layers_);
    layers_ = std::make_shared<const std::vector<LayerSound>>(std::move(layers));
    Q_EMIT rendered();
  }
  if (!outcome.study) return;
  study_ = std::move(outcome.study);
  findings_ = std::move(outcome.findings);
  studied_ = outcome.number;
  remediesTried_ = outcome.triedAll;
  measureReferences();
  Q_EMIT studied();
}

}  // namespace heft::app

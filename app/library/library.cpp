#include "app/library/library.h"

#include <QFileInfo>
#include <QPointer>
#include <algorithm>

#include "app/document/aside.h"
#include "core/solve/sound_fit.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

struct Loaded {
  std::vector<LibraryRow> rows;
  QStringList folders;
  uint64_t turn = 0;
};

Result<Loaded> readIndex(LibraryIndex& index) {
  auto rows = index.rows();
  if (!rows) return Fail(rows.error());
  const auto folders = index.folders();
  if (!folders) return Fail(folders.error());
  Loaded out{std::move(*rows), {}, 0};
  for (const std::string& f : *folders) out.folders << QString::fromStdString(f);
  return out;
}

struct FittedFile {
  LoadedSound loaded;
  SoundFit fit;
};

// A file and the moves that fit it to the present session, worked out aside; auditioning finds its renders
// cached.
auto fitting(Document& document, const std::string& path, Place place, std::optional<int> layer) {
  return [path, part = place.id, layer, s = document.session(), assets = document.assets(),
          cache = document.cache()](const std::stop_token& stop) -> Result<FittedFile> {
    auto loaded = loadSound(path, stop);
    if (!loaded) return Fail(loaded.error());
    Assets withIt = assets;
    const AssetRef ref = withIt.add(*loaded, path);
    const auto fit = fitSound(s, withIt, part, ref, *cache, stop, layer);
    if (!fit) return Fail(fit.error());
    return FittedFile{std::move(*loaded), *fit};
  };
}

}  // namespace

Library::Library(Document& document, Transport& transport, const QString& indexPath, QObject* parent)
    : QObject(parent), document_(document), transport_(transport), indexPath_(indexPath.toStdString()) {
  connect(&document_, &Document::changed, this, [this] {
    // Another session or other moves: former rankings no longer apply.
    forgetFits();
  });
}

Library::~Library() {
  stopScan_.request_stop();
  scanTask_.waitForFinished();
}

// Works on the index aside, then shows its rows.
template <class Work>
void Library::withIndex(Work work) {
  document_.jobs().start(
      "Reading the library", Jobs::Kind::RunsToItsEnd,
      [path = indexPath_, turns = turns_, work](const std::stop_token&) -> Result<Loaded> {
        const std::lock_guard lock(turns->mutex);
        auto index = LibraryIndex::open(path);
        if (!index) return Fail(index.error());
        if (auto done = work(*index); !done) return Fail(done.error());
        auto loaded = readIndex(*index);
        if (loaded) loaded->turn = ++turns->done;
        return loaded;
      },
      [this](Result<Loaded> loaded) {
        if (!loaded) return document_.fail(QString::fromStdString(loaded.error().sentence()));
        // Rows read before another write are out of date.
        if (loaded->turn < shown_) return;
        shown_ = loaded->turn;
        rows_ = std::move(loaded->rows), folders_ = loaded->folders;
        Q_EMIT changed();
        const bool old = std::any_of(rows_.begin(), rows_.end(), [](const LibraryRow& r) {
          return r.present && r.measuring != kMeasuring;
        });
        if (old && !std::exchange(remeasures_, true)) scan();
      });
}

QString Library::words(size_t shown) const {
  if (scanning_ && progress_.all == 0) return "Looking through folders";
  if (scanning_) return QString("Measuring: %1 of %2").arg(progress_.done).arg(progress_.all);
  if (folders_.isEmpty()) return "Add a folder of sounds, and Heft measures all of them";
  const auto there = std::count_if(rows_.begin(), rows_.end(),
                                   [](const LibraryRow& r) { return r.present && r.fault.empty(); });
  const auto faults = std::count_if(rows_.begin(), rows_.end(),
                                    [](const LibraryRow& r) { return r.present && !r.fault.empty(); });
  const QString count = shown == static_cast<size_t>(there) ? QString("%1 files").arg(there)
                                                            : QString("%1 of %2 files").arg(shown).arg(there);
  return count + (faults ? QString(", %1 cannot be read").arg(faults) : QString());
}

void Library::load() {
  withIndex([](LibraryIndex&) -> Result<void> { return {}; });
}

void Library::addFolder(const QString& folder) {
  const std::string path = QFileInfo(folder).absoluteFilePath().toStdString();
  document_.jobs().start(
      "Adding a folder", Jobs::Kind::RunsToItsEnd,
      [path, indexPath = indexPath_](const std::stop_token&) -> Result<void> {
        auto index = LibraryIndex::open(indexPath);
        if (!index) return Fail(index.error());
        return index->addFolder(path);
      },
      [this](Result<void> done) {
        if (!done) return document_.fail(QString::fromStdString(done.error().sentence()));
        scan();
      });
}

void Library::removeFolder(const QString& folder) {
  withIndex([path = folder.toStdString()](LibraryIndex& index) { return index.removeFolder(path); });
}

// All but one of the processor's cores; its progress is shown here, not in the activity bar.
void Library::scan() {
  if (scanning_) return;
  scanning_ = true;
  progress_ = {};
  stopScan_ = std::stop_source();
  Q_EMIT changed();
  const unsigned threads = std::max(1u, std::thread::hardware_concurrency() - 1);
  // Not posted to the library itself, which may be about to go.
  auto tell = [self = QPointer<Library>(this)](ScanProgress p) {
    QMetaObject::invokeMethod(
        QCoreApplication::instance(),
        [self, p] {
          if (self) self->progress_ = p, Q_EMIT self->changed();
        },
        Qt::QueuedConnection);
  };
  auto scan = [path = indexPath_, threads, tell, stop = stopScan_.get_token()] {
    return scanLibrary(path, threads, tell, stop);
  };
  scanTask_ = runAside(
      this, scan,
      [this](Result<ScanSummary> done) {
        scanning_ = false;
        if (!done && done.error().kind != ErrorKind::Cancelled)
          document_.fail(QString::fromStdString(done.error().sentence()));
        if (done)
          for (const std::string& fault : done->faults) document_.fail(QString::fromStdString(fault));
        load();
      },
      [this](const QString& fault) {
        scanning_ = false;
        document_.fail("Library: " + fault);
        load();
      });
}

void Library::cancelScan() {
  stopScan_.request_stop();
}

void Library::setFavourite(const std::string& path, bool favourite) {
  for (LibraryRow& row : rows_)
    if (row.file.path == path) row.favourite = favourite;
  Q_EMIT changed();
  withIndex([path, favourite](LibraryIndex& index) { return index.setFavourite(path, favourite); });
}

void Library::serve(std::optional<int> layer) {
  if (std::exchange(layer_, layer) != layer) forgetFits();
}

void Library::setFitted(bool fitted) {
  fitted_ = fitted;
  if (!fitted) endAudition();
  Q_EMIT changed();
}

void Library::audition(const std::string& path, Place place) {
  wanted_ = path;
  fitsFor(place);
  // In a loop where the part never plays, nothing would be audible.
  const Session& s = document_.session();
  inLoop_ = fitted_ && (partAt(s, place) && partAt(s, place)->hasEvents());
  auto read = [path, fit = inLoop_ ? std::optional(fitting(document_, path, place, layer_)) : std::nullopt,
               deviceRate = transport_.deviceRate()]() mutable -> Result<ToHear> {
    if (fit) {
      auto file = (*fit)({});
      if (!file) return Fail(file.error());
      return ToHear{std::move(file->loaded), file->fit, {}};
    }
    auto loaded = loadSound(path);
    if (!loaded) return Fail(loaded.error());
    return ToHear{*loaded, {}, auditionOf(loaded->sound, deviceRate)};
  };
  runAside(
      this, std::move(read),
      [this, path, place, turn = ranking_](Result<ToHear> sound) {
        if (path != wanted_) return;
        if (!sound) return document_.fail(QString::fromStdString(sound.error().sentence()));
        if (sound->alone.sound) {
          transport_.audition(sound->alone);
          return Q_EMIT auditioned();
        }
        if (turn == ranking_) fits_[path] = sound->fit;
        hear(path, place, std::move(*sound));
      },
      document_.failing());
}

void Library::hear(const std::string& path, Place place, ToHear sound) {
  const AssetRef ref = document_.sounds().lend(std::move(sound.loaded), path);
  if (const Part* part = partAt(document_.session(), place)) {
    Edit fitted = heft::placeFitted(*part, ref, sound.fit);
    fitted.name = QFileInfo(QString::fromStdString(path)).completeBaseName().toStdString();
    document_.setBefore(fitted);
  }
  transport_.setBefore(true);
  if (!transport_.isPlaying()) transport_.play();
  Q_EMIT auditioned();
}

void Library::endAudition() {
  if (wanted_.empty()) return;
  wanted_.clear();
  if (inLoop_) transport_.setBefore(false);
}

void Library::place(const std::string& path, Place place) {
  endAudition();
  const Session& s = document_.session();
  const QString name = QFileInfo(QString::fromStdString(path)).fileName();
  if (const Part* part = partAt(s, place); !part || part->layers.empty()) {
    document_.tell(QString("%1 is the %2.").arg(name, placeWord(document_.session(), place)));
    return document_.sounds().load(place, QString::fromStdString(path));
  }
  fitsFor(place);
  if (const SoundFit* known = fitOf(path)) return placeFitted(path, place, *known);
  document_.jobs().start("Fitting " + name, Jobs::Kind::CanBeCancelled, fitting(document_, path, place, layer_),
                         [this, path, place](const Result<FittedFile>& file) {
                           if (file) return placeFitted(path, place, file->fit);
                           if (file.error().kind != ErrorKind::Cancelled)
                             document_.fail(QString::fromStdString(file.error().sentence()));
                         });
}

void Library::placeFitted(const std::string& path, Place place, const SoundFit& fit) {
  const NoteStyle& notes = document_.track().notes;
  QStringList words = {QString("%1 is the %2's %3")
                           .arg(QFileInfo(QString::fromStdString(path)).fileName(),
                                placeWord(document_.session(), place),
                                fit.layer ? "chosen layer" : "first layer")};
  words << QString::fromStdString(fitWords(fit, notes));
  document_.tell(words.join(", ") + ".");
  LayerPlace where{LayerPlace::kFitted};
  where.fit = fit;
  document_.sounds().load(place, QString::fromStdString(path), where);
}

// Results for another part do not apply to this one.
void Library::fitsFor(Place place) {
  if (std::exchange(fitsPlace_, place) != place) forgetFits();
}

void Library::forgetFits() {
  fits_.clear(), toRank_.clear(), ++ranking_;
}

void Library::rank(const std::vector<std::string>& paths, Place place) {
  forgetFits();
  toRank_ = paths;
  std::reverse(toRank_.begin(), toRank_.end());
  fitsPlace_ = place;
  rankNext();
}

// One at a time, so that playback never waits long.
void Library::rankNext() {
  if (toRank_.empty()) return Q_EMIT changed();
  const std::string path = toRank_.back();
  toRank_.pop_back();
  document_.jobs().start(QString("Ranking, %1 left").arg(toRank_.size() + 1), Jobs::Kind::CanBeCancelled,
                         fitting(document_, path, fitsPlace_, layer_),
                         [this, path, turn = ranking_](const Result<FittedFile>& file) {
                           if (turn != ranking_) return;
                           if (file) fits_[path] = file->fit;
                           Q_EMIT changed();
                           rankNext();
                         });
}

const SoundFit* Library::fitOf(const std::string& path) const {
  const auto found = fits_.find(path);
  return found == fits_.end() ? nullptr : &found->second;
}

}  // namespace heft::app

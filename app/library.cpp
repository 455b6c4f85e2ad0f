#include "app/library.h"

#include <QFileInfo>
#include <QPointer>
#include <QtConcurrent>
#include <algorithm>

#include "core/ledger/study.h"
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

}  // namespace

Library::Library(Document& document, Transport& transport, const QString& indexPath, QObject* parent)
    : QObject(parent), document_(document), transport_(transport), indexPath_(indexPath.toStdString()) {
  connect(&document_, &Document::changed, this, [this] {
    // Another session or other moves: what was said of the pair is not so any more.
    if (!losses_.empty()) losses_.clear(), toRank_.clear(), ++ranking_;
  });
}

Library::~Library() {
  stopScan_.request_stop();
  scanTask_.waitForFinished();
}

// Work on the index aside, then what it holds is shown.
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
        // What was read before something else was written is out of date.
        if (loaded->turn < shown_) return;
        shown_ = loaded->turn;
        rows_ = std::move(loaded->rows), folders_ = loaded->folders;
        Q_EMIT changed();
      });
}

QString Library::words() const {
  if (scanning_ && progress_.all == 0) return "Looking through folders";
  if (scanning_) return QString("Measuring: %1 of %2").arg(progress_.done).arg(progress_.all);
  if (folders_.isEmpty()) return "Add a folder of sounds, and Heft listens to all of them";
  const auto there = std::count_if(rows_.begin(), rows_.end(),
                                   [](const LibraryRow& r) { return r.present && r.fault.empty(); });
  const auto faults = std::count_if(rows_.begin(), rows_.end(),
                                    [](const LibraryRow& r) { return r.present && !r.fault.empty(); });
  return QString("%1 files%2").arg(there).arg(faults ? QString(", %1 cannot be read").arg(faults) : QString());
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
  auto tell = [self = QPointer<Library>(this)](ScanProgress p) {
    if (self)
      QMetaObject::invokeMethod(
          self.data(),
          [self, p] {
            if (self) self->progress_ = p, Q_EMIT self->changed();
          },
          Qt::QueuedConnection);
  };
  auto running = QtConcurrent::run([path = indexPath_, threads, tell, stop = stopScan_.get_token()] {
    return scanLibrary(path, threads, tell, stop);
  });
  scanTask_ = QFuture<void>(running);
  running.then(this, [this](Result<ScanSummary> done) {
    scanning_ = false;
    if (!done && done.error().kind != ErrorKind::Cancelled)
      document_.fail(QString::fromStdString(done.error().sentence()));
    if (done)
      for (const std::string& fault : done->faults) document_.fail(QString::fromStdString(fault));
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

void Library::setFitted(bool fitted) {
  fitted_ = fitted;
  if (!fitted) endAudition();
  Q_EMIT changed();
}

void Library::audition(const std::string& path, Role role) {
  wanted_ = path;
  // In a loop in which the part never plays nothing would be heard.
  const Session& s = document_.session();
  inLoop_ = fitted_ && (role == Role::Bass ? !s.bass.notes.empty() : !s.kick.hits.empty());
  auto read = [path, fitted = inLoop_, cache = document_.cache(), rate = document_.track().sampleRate,
               deviceRate = transport_.deviceRate()]() -> Result<ToHear> {
    auto loaded = loadSound(path);
    if (!loaded) return Fail(loaded.error());
    ToHear out{std::move(*loaded), {}};
    if (fitted) {
      // Measured here, so that the render finds it done.
      Assets alone;
      const AssetRef ref = alone.add(out.loaded, path);
      SoundSteps(alone, *cache, rate).facts(ref, {});
      return out;
    }
    out.alone = auditionOf(out.loaded.sound, deviceRate);
    return out;
  };
  QtConcurrent::run(read).then(this, [this, path, role](Result<ToHear> sound) {
    if (path != wanted_) return;
    if (!sound) return document_.fail(QString::fromStdString(sound.error().sentence()));
    hear(path, role, std::move(*sound));
  });
}

void Library::hear(const std::string& path, Role role, ToHear sound) {
  if (sound.alone.sound) {
    transport_.audition(sound.alone);
    return Q_EMIT auditioned();
  }
  const AssetRef ref = document_.lend(std::move(sound.loaded), path);
  document_.setBefore(
      {QFileInfo(QString::fromStdString(path)).completeBaseName().toStdString(),
       [ref, bass = role == Role::Bass](Session s) { return withSoundInstead(std::move(s), bass, ref); }});
  transport_.setBefore(true);
  if (!transport_.isPlaying()) transport_.play();
  Q_EMIT auditioned();
}

void Library::endAudition() {
  if (wanted_.empty()) return;
  wanted_.clear();
  if (inLoop_) transport_.setBefore(false);
}

void Library::place(const std::string& path, Role role) {
  endAudition();
  const Session& s = document_.session();
  const Layer* first = role == Role::Bass ? s.bassLayer() : s.kickLayer();
  const QString name = QFileInfo(QString::fromStdString(path)).fileName();
  const QString part = role == Role::Bass ? "bass" : "kick";
  const auto target = first && role == Role::Kick ? landingTarget(*first) : std::nullopt;
  document_.tell(
      !first   ? QString("%1 is the %2.").arg(name, part)
      : target ? QString("%1 is the %2's first layer, on %3 as the one before.")
                     .arg(name, part, QString::fromStdString(pitchText(*target, s.track.notes)))
               : QString("%1 is the %2's first layer, with the settings of the one before.").arg(name, part));
  document_.loadSoundFile(role, QString::fromStdString(path),
                          {first ? LayerPlace::kFitted : LayerPlace::kFirst});
}

void Library::rank(const std::vector<std::string>& paths, Role role) {
  toRank_ = paths;
  std::reverse(toRank_.begin(), toRank_.end());
  rankRole_ = role;
  losses_.clear();
  ++ranking_;
  rankNext();
}

// One at a time, so that what is played is never kept waiting for long.
void Library::rankNext() {
  if (toRank_.empty()) return Q_EMIT changed();
  const std::string path = toRank_.back();
  toRank_.pop_back();
  auto work = [path, bass = rankRole_ == Role::Bass, s = document_.session(), assets = document_.assets(),
               cache = document_.cache()](const std::stop_token& stop) -> std::optional<double> {
    auto loaded = loadSound(path, stop);
    if (!loaded || stop.stop_requested()) return std::nullopt;
    Assets withIt = assets;
    const AssetRef ref = withIt.add(std::move(*loaded), path);
    const Session fitted = withSoundInstead(s, bass, ref);
    const auto stems = render(fitted, withIt, *cache, stop);
    if (!stems) return std::nullopt;
    const auto facts = study(fitted, withIt, *stems, *cache, stop, References::TakeWhatIsKnown);
    return facts ? std::optional<double>(facts->alignedDb) : std::nullopt;
  };
  document_.jobs().start(QString("Ranking, %1 left").arg(toRank_.size() + 1), Jobs::Kind::CanBeCancelled, work,
                         [this, path, turn = ranking_](std::optional<double> loss) {
                           if (turn != ranking_) return;
                           if (loss) losses_[path] = *loss;
                           Q_EMIT changed();
                           rankNext();
                         });
}

std::optional<double> Library::lossOf(const std::string& path) const {
  const auto found = losses_.find(path);
  return found == losses_.end() ? std::nullopt : std::optional<double>(found->second);
}

}  // namespace heft::app

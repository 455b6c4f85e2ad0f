#include "app/document/autosave.h"

#include <QDir>
#include <utility>

#include "app/document/aside.h"
#include "app/document/document.h"
#include "core/session/folder.h"
#include "core/sound/whole_file.h"

namespace heft::app {

Autosave::Autosave(Document& document, const SessionFiles& files) : document_(document), files_(files) {
  timer_.setSingleShot(true);
  connect(&timer_, &QTimer::timeout, this, &Autosave::write);
}

void Autosave::wake() {
  constexpr int kDelayMs = 2000;
  if (!folder_.isEmpty() && !document_.isSaved()) timer_.start(kDelayMs);
}

void Autosave::enable(const QString& folder) {
  folder_ = folder;
  QDir().mkpath(folder);
  lock_.take(folder.toStdString());
}

void Autosave::drop() {
  timer_.stop();
  const QString folder = std::exchange(folder_, {});
  // An autosave in progress would recreate its removed folder and look like a crash.
  document_.jobs().inOrder().waitForDone();
  lock_.release();
  for (const QString& each : {folder, std::exchange(recovered_, {})})
    if (!each.isEmpty()) QDir(each).removeRecursively();
}

// A saved or discarded session need not be offered after a crash.
void Autosave::clear() {
  timer_.stop();
  auto work = [folder = folder_, recovered = std::exchange(recovered_, {})]() {
    if (!recovered.isEmpty()) QDir(recovered).removeRecursively();
    return !folder.isEmpty() && QFile::remove(folder + "/session.json");
  };
  runAside(
      document_.jobs().inOrder(), this, work, [](bool) {}, document_.failing());
}

void Autosave::write() {
  if (folder_.isEmpty()) return;
  // Sounds are shared, so the copies are cheap; the disk writes happen aside.
  auto work = [folder = folder_.toStdString(), s = document_.session(), a = document_.assets(),
               place = files_.folder().toStdString(),
               recovered = std::exchange(recovered_, {})]() -> Result<void> {
    if (auto saved = saveSession(folder, s, a); !saved) return saved;
    if (!recovered.isEmpty()) QDir(recovered).removeRecursively();
    return writeWhole(folder + "/saved-in", place);
  };
  runAside(
      document_.jobs().inOrder(), this, work,
      [this](Result<void> saved) {
        if (!saved) document_.fail("Autosave: " + QString::fromStdString(saved.error().sentence()));
      },
      [this](const QString& fault) { document_.fail("Autosave: " + fault); });
}

}  // namespace heft::app

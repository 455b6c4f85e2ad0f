#pragma once
/// What a crash leaves of unsaved work: a folder of this run, held by a lock and removed by a clean end.

#include <QObject>
#include <QTimer>

#include "core/session/folder_lock.h"

namespace heft::app {

class Document;
class SessionFiles;

class Autosave : public QObject {
  Q_OBJECT
 public:
  Autosave(Document& document, const SessionFiles& files);

  void enable(const QString& folder);
  /// Ends it for good and removes its folder; waits for a write in progress.
  void drop();
  /// Saved or discarded: nothing to offer after a crash.
  void clear();
  /// The session changed: writes it soon.
  void wake();
  /// An earlier run's folder, whose session is open: removed once this run keeps a copy of its own.
  void takeOver(const QString& folder) { recovered_ = folder; }

 private:
  void write();

  Document& document_;
  const SessionFiles& files_;
  QTimer timer_;
  QString folder_;
  QString recovered_;  ///< an earlier run's autosave, until there is one of this run
  FolderLock lock_;
};

}  // namespace heft::app

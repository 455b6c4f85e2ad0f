#pragma once
/// Where the open session is on disk: opening, saving, the lock on its folder, copies, what a crash left.

#include <QObject>
#include <QStringList>
#include <memory>
#include <optional>
#include <string>

#include "app/document/autosave.h"
#include "core/session/assets.h"
#include "core/session/folder.h"
#include "core/session/folder_lock.h"

namespace heft::app {

class Document;

class SessionFiles : public QObject {
  Q_OBJECT
 public:
  explicit SessionFiles(Document& document) : document_(document), autosave_(document, *this) {}

  const QString& folder() const { return folder_; }
  /// Another window has the session's folder open: changes are saved to a new folder.
  bool isReadOnly() const { return readOnly_; }
  Autosave& autosave() { return autosave_; }
  /// Existing folders of saved or opened sessions, the latest first.
  static QStringList recentFolders();

  bool open(const QString& folder);
  bool save(const QString& folder);
  /// The same aside: the window stays awake while long sounds are read or written.
  void openAside(const QString& folder);
  void saveAside(const QString& folder);
  /// Turns the open session into an unsaved one with the same content and a new name.
  void becomeCopy();
  /// After changedOnDisk(): replaces what another program saved.
  void replaceOnDisk();
  /// Opens an earlier run's autosave as an unsaved session that knows where it was saved, then removes the
  /// autosave folder.
  void recover(const QString& autosaveFolder);
  /// Another session is open, from that folder; empty: from none.
  void replaced(const QString& folder);

 Q_SIGNALS:
  void openElsewhere();  ///< another window has the opened folder open
  void changedOnDisk();  ///< nothing was saved: another program changed the session's folder

 private:
  struct Saving {
    QString folder;
    std::shared_ptr<std::optional<std::string>> fileHash;  ///< of the written file, once saving is over
  };
  void show(OpenedSession opened, const QString& folder);
  void saved(const Session& what, const QString& folder, const std::string& fileHash);
  bool isOwnFolder(const QString& folder) const;
  bool mayWriteTo(const QString& folder);
  std::optional<std::string> expectedHash(const QString& folder) const;
  void lockFolder();
  static void noteRecent(const QString& folder);
  void nameAfter(const QString& folder);

  Document& document_;
  Autosave autosave_;
  QString folder_;
  std::string fileHash_;  ///< of the folder's session.json as it was read or written last
  FolderLock lock_;
  bool readOnly_ = false;
  std::optional<Saving> saving_;  ///< the newest running save
  uint64_t openings_ = 0;
};

}  // namespace heft::app

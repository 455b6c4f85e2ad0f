#pragma once
/// The library: its rows, scanning aside, and auditioning a file in the loop.

#include <QObject>
#include <QStringList>
#include <map>
#include <memory>
#include <mutex>
#include <optional>

#include "app/document/document.h"
#include "app/play/transport.h"
#include "core/library/search.h"
#include "engine/scan/library_scan.h"

namespace heft::app {

class Library : public QObject {
  Q_OBJECT
 public:
  /// `indexPath`: the index's file; created if missing.
  Library(Document& document, Transport& transport, const QString& indexPath, QObject* parent = nullptr);

  const Session& session() const { return document_.session(); }
  const std::vector<LibraryRow>& rows() const { return rows_; }
  const QStringList& folders() const { return folders_; }
  bool isScanning() const { return scanning_; }
  /// "Measuring: 412 of 1200" during a scan; else how many there are, and how many are shown.
  QString words(size_t shown) const;

  /// Reads the index without scanning.
  void load();
  void addFolder(const QString& folder);
  void removeFolder(const QString& folder);
  void scan();
  void cancelScan();
  void setFavourite(const std::string& path, bool favourite);

  /// Whether a chosen file plays in the loop, fitted like the present sound, or alone.
  bool isFitted() const { return fitted_; }
  void setFitted(bool fitted);
  /// The layer for which files now audition and load; empty: the first.
  void serve(std::optional<int> layer);
  /// Auditions a file in place of that layer of a part: tuned, trimmed, aligned and ducked (SoundFit), level
  /// matched; or alone, unchanged, where the part has no hits yet.
  void audition(const std::string& path, Place place);
  /// Back to the session's own sound.
  void endAudition();
  /// Loads it for good, as one edit.
  void place(const std::string& path, Place place);

  /// Ranks these files by the pair's remaining loss once fitted, dB re perfect phase (0 is best), aside, in
  /// order; `fitOf` has the finished ones.
  void rank(const std::vector<std::string>& paths, Place place);
  const SoundFit* fitOf(const std::string& path) const;
  /// Drops all rankings and requests: after an edit everything is ranked anew.
  bool isUnranked() const { return fits_.empty() && toRank_.empty(); }

 Q_SIGNALS:
  void changed();     ///< rows, folders or a scan's progress
  void auditioned();  ///< the requested file is playing

 private:
  template <class Work>
  void withIndex(Work work);
  /// A file as read aside; for auditioning alone also as it will sound.
  struct ToHear {
    LoadedSound loaded;
    SoundFit fit;
    Audition alone;
  };
  void hear(const std::string& path, Place place, ToHear sound);
  void rankNext();
  void placeFitted(const std::string& path, Place place, const SoundFit& fit);
  void fitsFor(Place place);
  void forgetFits();

  // Serialises work on the index and numbers it in order.
  struct Turns {
    std::mutex mutex;
    uint64_t done = 0;
  };

  Document& document_;
  Transport& transport_;
  std::string indexPath_;
  std::shared_ptr<Turns> turns_ = std::make_shared<Turns>();
  uint64_t shown_ = 0;  // the turn whose rows are shown
  std::vector<LibraryRow> rows_;
  QStringList folders_;
  bool scanning_ = false, fitted_ = true;
  bool remeasures_ = false;  // figures of an older measurement were found, and a scan requested
  bool inLoop_ = false;      // how the auditioned file plays
  ScanProgress progress_;
  std::stop_source stopScan_;
  QFuture<void> scanTask_;
  std::string wanted_;  ///< requested last; results of others still being read are ignored
  std::vector<std::string> toRank_;
  Place fitsPlace_;  // of what fits_ holds
  std::optional<int> layer_;
  std::map<std::string, SoundFit> fits_;
  uint64_t ranking_ = 0;

 public:
  ~Library() override;
};

}  // namespace heft::app

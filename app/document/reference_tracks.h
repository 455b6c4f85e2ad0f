#pragma once
/// The session's references: reading them, measuring their tracks and sections, and the library's shelf, where
/// what a hand set of them is kept across sessions.

#include <QObject>
#include <QTimer>
#include <functional>
#include <map>
#include <memory>
#include <set>
#include <vector>

#include "core/library/shelf.h"
#include "core/render/cache/step_cache.h"
#include "core/session/session.h"

namespace heft::app {

class Document;

class ReferenceTracks : public QObject {
  Q_OBJECT
 public:
  explicit ReferenceTracks(Document& document);

  /// Its track and its section are measured before it is added: its edit is heard at once.
  void load(const QString& path);
  /// A reference's whole track as measured; nothing yet where it is being measured (profiled() follows).
  std::shared_ptr<const TrackProfile> profile(const Reference& reference);
  /// After a cancel: tracks that were not measured may be asked for again.
  void retry();
  /// Sections that the last figures lacked.
  void measure();
  /// The library's file; empty: references are kept nowhere.
  void setShelf(const QString& path) { shelf_ = path; }
  const QString& shelf() const { return shelf_; }
  void replaced();  ///< another session is open
  void wake();      ///< the session changed: its references go to the shelf soon

 Q_SIGNALS:
  void profiled();  ///< a reference's track was measured
  /// Of a reference only the first ten minutes were read; `use` takes them.
  void longReferenceRead(const QString& path, double seconds, const std::function<void()>& use);

 private:
  void shelve();

  Document& document_;
  std::set<StepKey> measuring_;  ///< sections being measured, or cancelled
  std::map<std::string, std::shared_ptr<const TrackProfile>> profiles_;  ///< by hash; null while measured
  QString shelf_;
  QTimer timer_;
  std::vector<Reference> shelved_;  ///< as the shelf has them
};

}  // namespace heft::app

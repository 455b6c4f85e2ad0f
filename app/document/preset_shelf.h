#pragma once
/// All presets: the user's own, read aside, and those that ship.

#include "app/document/document.h"
#include "core/session/preset.h"

namespace heft::app {

class PresetShelf : public QObject {
  Q_OBJECT
 public:
  explicit PresetShelf(Document& document, QObject* parent = nullptr);
  /// Presets of the same kind, the user's own first; new files appear a moment later.
  std::vector<PresetFile> like(const Preset& preset);
  /// Adds its sounds to the document's, then calls `then`; or reports a fault.
  void open(const PresetFile& file, const std::function<void(const Preset&)>& then);
  /// Saves into the user's folder.
  void save(const Preset& preset);

 Q_SIGNALS:
  void changed();

 private:
  void read();
  Document& document_;
  std::vector<PresetFile> all_ = allPresets({});
  std::vector<std::string> told_;  ///< faults reported before
  LatestAside aside_;
};

}  // namespace heft::app

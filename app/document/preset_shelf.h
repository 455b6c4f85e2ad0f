#pragma once
/// The presets that there are: the user's own, read aside, and those that ship.

#include "app/document/document.h"
#include "core/session/preset.h"

namespace heft::app {

class PresetShelf : public QObject {
  Q_OBJECT
 public:
  explicit PresetShelf(Document& document, QObject* parent = nullptr);
  /// Those of the same kind as that one, the user's own first; what was written meanwhile is there a moment
  /// later.
  std::vector<PresetFile> like(const Preset& preset);
  /// With its sounds among the document's; `then` follows once they are there, or a fault is told.
  void open(const PresetFile& file, const std::function<void(const Preset&)>& then);
  /// Into the user's folder.
  void save(const Preset& preset);

 Q_SIGNALS:
  void changed();

 private:
  void read();
  Document& document_;
  std::vector<PresetFile> all_ = allPresets({});
  std::vector<std::string> told_;  ///< faults that were told already
  LatestAside aside_;
};

}  // namespace heft::app

#include "app/document/preset_shelf.h"

#include <algorithm>

namespace heft::app {
namespace {

struct Read {
  std::vector<PresetFile> all;
  std::vector<std::string> faults;
};

}  // namespace

PresetShelf::PresetShelf(Document& document, QObject* parent) : QObject(parent), document_(document) {
  read();
}

void PresetShelf::read() {
  aside_.ask(
      this,
      [] {
        return [] {
          Read out;
          out.all = allPresets(presetFolder(), &out.faults);
          return out;
        };
      },
      [this](Read read) {
        all_ = std::move(read.all);
        for (const std::string& fault : read.faults)
          if (std::find(told_.begin(), told_.end(), fault) == told_.end())
            told_.push_back(fault), document_.tell(QString::fromStdString(fault));
        Q_EMIT changed();
      },
      document_.failing());
}

std::vector<PresetFile> PresetShelf::like(const Preset& preset) {
  if (!aside_.isRunning()) read();
  return presetsLike(all_, preset);
}

void PresetShelf::open(const PresetFile& file, const std::function<void(const Preset&)>& then) {
  if (file.path.empty() || assetsOf(file.preset).empty()) return then(file.preset);
  document_.jobs().start(
      "Reading " + QString::fromStdString(file.preset.name), Jobs::Kind::CanBeCancelled,
      [path = file.path](const std::stop_token&) { return openPreset(path); },
      [this, then](Result<OpenedPreset> opened) {
        if (!opened) return document_.fail(QString::fromStdString(opened.error().sentence()));
        document_.sounds().keep(opened->assets, assetsOf(opened->preset));
        then(opened->preset);
      });
}

void PresetShelf::save(const Preset& preset) {
  document_.jobs().start(
      "Saving " + QString::fromStdString(preset.name), Jobs::Kind::RunsToItsEnd,
      [preset, assets = document_.assets()](const std::stop_token&) {
        return savePreset(presetFolder(), preset, assets);
      },
      [this](Result<std::string> path) {
        if (!path) return document_.fail(QString::fromStdString(path.error().sentence()));
        document_.tell("Saved as " + QString::fromStdString(*path) + ".");
        read();
      });
}

}  // namespace heft::app

#pragma once
/// How sounds come into the open session: read aside, placed as one edit, watched where they came from.

#include <QFileSystemWatcher>
#include <QObject>
#include <QStringList>
#include <optional>
#include <string>
#include <vector>

#include "app/document/places.h"
#include "core/measure/events/material.h"
#include "core/render/lanes/bounce.h"
#include "core/session/assets.h"
#include "core/session/value_at.h"
#include "core/solve/sound_fit.h"
#include "core/tune/kit.h"

namespace heft::app {

class Document;

/// The layer of a part that a sound goes to.
struct LayerPlace {
  static constexpr int kFirst = -1, kNew = 0, kFitted = -2;
  int layer = kFirst;  ///< kFirst: instead of the first or as the first; kNew: beside the others; kFitted:
                       ///< instead of the first, whose note, length and shape it takes over; else a layer's id
  SoundFit fit = {};   ///< with kFitted: its moves
};

class SoundIntake : public QObject {
  Q_OBJECT
 public:
  explicit SoundIntake(Document& document);

  /// The open session's sounds, and one that is auditioned.
  const Assets& assets() const { return assets_; }

  /// Reads a sound aside and places it as one edit. Failures go to the document's failed().
  void load(Place place, const QString& path, LayerPlace where = {});
  /// Likewise for several references.
  void loadAll(Place place, const QStringList& paths);
  /// Uses it as the source of a body, the processor with that id among those of `of`.
  void loadBody(const Owner& of, int id, const QString& path);
  /// Reads a ducking's trigger: a sound, or a MIDI file, by its content.
  void loadTrigger(int duck, const QString& path);
  /// Reloads a file that changed on disk and replaces its sound everywhere, in all versions too, as one edit.
  void reload(const QString& path);
  /// Reads a kit's drums aside and puts each into a part of its own, as one edit.
  void placeKit(std::vector<Drum> drums);
  /// Adds a bounce's file and replaces what was bounced.
  void takeBounce(Bounce bounce);
  /// Seconds into the backing's file of its first beat, as found when it was loaded.
  std::optional<double> backingFirstBeat() const { return firstBeat_; }

  /// Adds a sound that the session does not use, to audition it; drops the previous one.
  AssetRef lend(LoadedSound sound, const std::string& path);
  /// Adds sounds that the session will use: a preset's.
  void keep(const Assets& assets, const std::vector<AssetRef>& refs);
  /// Adds a sound that was read from there, and watches the file.
  AssetRef takeIn(LoadedSound loaded, const QString& path);
  /// Source files of an opened session may have changed while it was closed.
  void watchSources();
  /// Drops sounds by hash that neither these sessions nor an audition need.
  void drop(const std::vector<std::string>& forgotten, const std::vector<const Session*>& needed);
  /// Another session is open, with these sounds.
  void replaced(Assets assets);

 Q_SIGNALS:
  void sourceChanged(const QString& path);           ///< a sound's source file changed on disk
  void layerPlaced(heft::app::Place place, int id);  ///< beside the others, by a file
  /// A layer's sound is not a one-shot.
  void materialFound(heft::app::Place place, int layer, const heft::MaterialFacts& facts);
  void firstBeatFound(double seconds);  ///< of a backing just loaded whose first beat is later

 private:
  AssetRef own(LoadedSound sound, const std::string& path);

  Document& document_;
  Assets assets_;
  QFileSystemWatcher watcher_;
  std::optional<double> firstBeat_;
  std::string lent_;  ///< hash of an auditioned sound
};

}  // namespace heft::app

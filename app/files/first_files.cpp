#include "app/files/first_files.h"

#include <QFileInfo>
#include <algorithm>
#include <optional>

#include "core/library/search.h"

namespace heft::app {
namespace {

// A stem or a mix by its name.
bool isRestOfTrack(const QString& name) {
  for (const char* word : {"backing", "mix", "instrumental", "beat", "track", "song", "stem", "music"})
    if (name.contains(word, Qt::CaseInsensitive)) return true;
  return false;
}

}  // namespace

PlacedFiles placesOf(const Session& s, const QStringList& paths) {
  std::optional<QString> kick, bass, backing;
  QStringList open, over;
  // Occupied places keep their sound: a further one goes on a card that the user chooses.
  const bool hasKick = s.kickLayer(), hasBass = s.bassLayer(), hasBacking = !s.backing.asset.empty();
  for (const QString& path : paths) {
    const QString name = QFileInfo(path).completeBaseName();
    const auto kind = kindNamedBy(name.toStdString());
    auto* slot = isRestOfTrack(name)       ? &backing
                 : kind == SoundKind::Kick ? &kick
                 : kind == SoundKind::Bass ? &bass
                                           : nullptr;
    const bool taken =
        (slot == &kick && hasKick) || (slot == &bass && hasBass) || (slot == &backing && hasBacking);
    if (taken)
      over << path;
    else if (slot && !*slot)
      *slot = path;
    else
      open << path;
  }
  // By size: sustained material is longer than one-shots.
  std::stable_sort(open.begin(), open.end(), [](const QString& a, const QString& b) {
    return QFileInfo(a).size() < QFileInfo(b).size();
  });
  if (!backing && !hasBacking && !open.isEmpty() && (open.size() > 2 || (kick && bass)))
    backing = open.takeLast();
  if (!kick && !hasKick && !open.isEmpty()) kick = open.takeFirst();
  if (!bass && !hasBass && !open.isEmpty()) bass = open.takeFirst();
  if (!backing && !hasBacking && !open.isEmpty()) backing = open.takeLast();
  PlacedFiles out;
  if (kick) out.placed.push_back({kickOf(s), *kick});
  if (bass) out.placed.push_back({bassOf(s), *bass});
  if (backing) out.placed.push_back({kBacking, *backing});
  out.over = over + open;
  return out;
}

}  // namespace heft::app

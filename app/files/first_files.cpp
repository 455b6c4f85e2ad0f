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
  QStringList open;
  for (const QString& path : paths) {
    const QString name = QFileInfo(path).completeBaseName();
    const auto kind = kindNamedBy(name.toStdString());
    auto* slot = isRestOfTrack(name)       ? &backing
                 : kind == SoundKind::Kick ? &kick
                 : kind == SoundKind::Bass ? &bass
                                           : nullptr;
    if (slot && !*slot)
      *slot = path;
    else
      open << path;
  }
  // By size: what plays on is longer than what is struck.
  std::stable_sort(open.begin(), open.end(), [](const QString& a, const QString& b) {
    return QFileInfo(a).size() < QFileInfo(b).size();
  });
  if (!backing && s.backing.asset.empty() && !open.isEmpty() && (open.size() > 2 || (kick && bass)))
    backing = open.takeLast();
  if (!kick && !s.kickLayer() && !open.isEmpty()) kick = open.takeFirst();
  if (!bass && !s.bassLayer() && !open.isEmpty()) bass = open.takeFirst();
  if (!backing && s.backing.asset.empty() && !open.isEmpty()) backing = open.takeLast();
  PlacedFiles out;
  if (kick) out.placed.push_back({kickOf(s), *kick});
  if (bass) out.placed.push_back({bassOf(s), *bass});
  if (backing) out.placed.push_back({kBacking, *backing});
  out.over = open;
  return out;
}

}  // namespace heft::app

#include "app/document/places.h"

#include <QDir>
#include <QFileInfo>

#include "app/theme/theme.h"

namespace heft::app {

QString placeName(const Session& s, Place place) {
  const Part* part = partAt(s, place);
  return part                ? QString::fromStdString(part->title())
         : place == kBacking ? "Backing"
         : place == kSum     ? "Sum"
                             : "Reference";
}

QString placeWord(const Session& s, Place place) {
  const Part* part = partAt(s, place);
  return part                ? QString::fromStdString(partWord(*part))
         : place == kBacking ? "backing"
         : place == kSum     ? "sum"
                             : "reference";
}

QColor colourOf(const Part& part) {
  const Theme& t = theme();
  return part.is() == PartRole::Kick ? t.kick : part.is() == PartRole::Bass ? t.bass : withAlpha(t.ink, 0.75);
}

QStringList referenceNames(const Session& s) {
  QStringList names, folders;
  for (const Reference& reference : s.references) {
    const AssetRef& r = reference.asset;
    const QFileInfo file(QString::fromStdString(r.from.empty() ? r.name : r.from));
    names << QFileInfo(QString::fromStdString(r.name)).completeBaseName();
    folders << (r.from.empty() ? QString() : file.dir().dirName());
  }
  QStringList out;
  for (qsizetype i = 0; i < names.size(); ++i) {
    QStringList beside;
    for (qsizetype k = 0; k < names.size(); ++k)
      if (names[k] == names[i]) beside << folders[k];
    const bool told = beside.count(folders[i]) == 1 && !folders[i].isEmpty();
    out << (beside.size() == 1 ? names[i]
                               : QString("%1 (%2)").arg(names[i], told ? folders[i] : QString::number(i + 1)));
  }
  return out;
}

QColor placeColour(const Session& s, Place place) {
  const Part* part = partAt(s, place);
  return part ? colourOf(*part) : theme().ink;
}

}  // namespace heft::app

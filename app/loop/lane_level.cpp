#include "app/loop/lane_level.h"

#include "core/session/edits/parts.h"
#include "core/session/edits/patterns.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

double levelOf(const Session& s, int lane) {
  const Part* part = s.part(lane);
  return lane == kBackingLane ? s.backing.levelDb : part ? part->levelDb : 0.0;
}

}  // namespace

FieldSpec laneLevelField(Document& doc, int lane) {
  const Part* part = doc.session().part(lane);
  const QString title = part ? QString::fromStdString(part->title()) : QString("Backing");
  auto set = [&doc, lane](double db, const std::string& merge) {
    const double to = std::round(db * 10.0) / 10.0;
    if (const Part* p = doc.session().part(lane))
      doc.edit(setPartLevel(*p, to, merge));
    else if (lane == kBackingLane)
      doc.edit(setBackingLevel(to, merge));
  };
  FieldSpec f;
  f.name = title + " lane level";
  f.tip = title +
          "'s level after all that is done to it, in the session and in what is exported: -60 to +24 dB. "
          "Delete: 0 dB";
  f.text = [&doc, lane] {
    const double db = levelOf(doc.session(), lane);
    return QString::fromStdString((db > 0.04 ? "+" : "") + fixedNumber(db, 1)) + " dB";
  };
  f.commit = [set](const QString& text) -> std::optional<QString> {
    const auto db = parseNumber(QString(text).remove("dB", Qt::CaseInsensitive).trimmed().toStdString());
    if (!db || *db < kLeastLevelDb || *db > kMostLevelDb) return QString("Write a level from -60 to +24 dB");
    set(*db, {});
    return std::nullopt;
  };
  f.step = [set, &doc, lane](int steps, bool fine) {
    set(levelOf(doc.session(), lane) + steps * (fine ? 0.1 : 0.5), "lane level");
  };
  f.endDrag = [&doc] { doc.endDrag(); };
  f.reset = [set] { set(0.0, {}); };
  return f;
}

}  // namespace heft::app

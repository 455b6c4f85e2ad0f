#include "app/fields/lane_level.h"

#include "app/fields/value_fields.h"
#include "core/session/edits/edit.h"
#include "core/theory/text.h"

namespace heft::app {

FieldSpec outputLevelField(Transport& transport) {
  const auto words = [&transport] {
    const double db = transport.monitor().outputDb();
    return db <= MonitorLevels::kLeastOutputDb ? QString("off")
                                               : QString::fromStdString(formatNumber(db, 1)) + " dB";
  };
  FieldSpec f;
  f.name = "Output level";
  f.tip =
      "Monitor level, 0 to -60 dB. Saved per device, not in the session or export. New devices start at -12 "
      "dB; Delete resets";
  f.text = [words] { return "Monitor " + words(); };
  f.commit = [&transport](const QString& text) -> std::optional<QString> {
    const QString typed = QString(text).remove("Monitor", Qt::CaseInsensitive).remove("dB").trimmed();
    const auto db =
        typed == "off" ? std::optional(MonitorLevels::kLeastOutputDb) : parseNumber(typed.toStdString());
    if (!db || *db > 0.0 || *db < MonitorLevels::kLeastOutputDb)
      return QString("Write a level from 0 to -60 dB, or off");
    transport.monitor().setOutputDb(*db);
    return std::nullopt;
  };
  f.step = [&transport](int steps, bool fine) {
    transport.monitor().setOutputDb(transport.monitor().outputDb() + steps * (fine ? 0.1 : 1.0));
  };
  f.reset = [&transport] { transport.monitor().setOutputDb(MonitorLevels::kSafeDb); };
  return f;
}

FieldSpec laneLevelField(Document& doc, int lane) {
  const Part* part = doc.session().part(lane);
  const bool backing = lane == kBackingLane;
  const QString title = part ? QString::fromStdString(part->title()) : QString("Backing");
  FieldSpec f = fieldOf(
      doc, [lane, backing] { return backing ? Owner() : Owner{.part = lane}; },
      FieldWords{backing ? "backing.level_db" : "level_db", title,
                 title + "'s lane level, in the session and in exports. Delete: 0 dB"}
          .called(title + " lane level")
          .undoAs("set " + (part ? partWord(*part) : "backing") + " level"));
  f.caption = {};
  return f;
}

}  // namespace heft::app

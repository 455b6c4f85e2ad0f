#include "app/loop/lane_level.h"

#include "app/fields/value_fields.h"
#include "core/session/edits/edit.h"

namespace heft::app {

FieldSpec laneLevelField(Document& doc, int lane) {
  const Part* part = doc.session().part(lane);
  const bool backing = lane == kBackingLane;
  const QString title = part ? QString::fromStdString(part->title()) : QString("Backing");
  FieldSpec f = fieldOf(
      doc, [lane, backing] { return backing ? Owner() : Owner{.part = lane}; },
      FieldWords{
          backing ? "backing.level_db" : "level_db", title,
          title + "'s level after all that is done to it, in the session and in what is exported. Delete: 0 dB"}
          .called(title + " lane level")
          .undoAs("set " + (part ? partWord(*part) : "backing") + " level"));
  f.caption = {};
  return f;
}

}  // namespace heft::app

#include "app/loop/grid_fields.h"

#include <cmath>

#include "app/document/document.h"
#include "app/fields/value_fields.h"
#include "app/widgets/value_field.h"
#include "core/session/edits/track.h"
#include "core/theory/text.h"

namespace heft::app {

void addGridFields(Document& doc, QWidget* strip) {
  auto* division = new ValueField(
      {.caption = {},
       .name = "Grid",
       .tip = "Grid: a note length such as 1/16, 1/8t or 1/32. Hits and notes snap to it",
       .text = [&doc] { return "grid " + QString::fromStdString(doc.session().grid.division.text()); },
       .commit = [&doc](const QString& text) -> std::optional<QString> {
         const auto time = parseTime(QString(text).remove("grid").trimmed().toStdString());
         if (!time || !time->isNote() || time->quarters() < 1.0 / 32.0 || time->quarters() > 4.0)
           return "Write a note length from 1/128 to 1/1, such as 1/16 or 1/8t";
         doc.edit(setGridDivision(*time));
         return std::nullopt;
       },
       .reset = [&doc] { doc.edit(setGridDivision(Grid().division)); }},
      strip);
  auto* swing = new ValueField(
      {.caption = {},
       .name = "Swing",
       .tip = "Delay of every second grid step. 100 % is triplets",
       .text = [&doc] { return QString("swing %1 %").arg(std::lround(100.0 * doc.session().grid.swing)); },
       .commit = [&doc](const QString& text) -> std::optional<QString> {
         const auto value = parseNumber(QString(text).remove("swing").remove("%").trimmed().toStdString());
         const double most = 100.0 * rangeOf(doc, {}, "grid.swing").high;
         if (!value || *value < 0 || *value > most) return QString("Write a swing from 0 to %1 %").arg(most);
         doc.edit(setSwing(*value / 100.0));
         return std::nullopt;
       },
       .step =
           [&doc](int steps, bool fine) {
             doc.edit(setSwing(doc.session().grid.swing + steps * (fine ? 0.01 : 0.05), "swing"));
           },
       .endDrag = [&doc] { doc.endDrag(); },
       .reset = [&doc] { doc.edit(setSwing(0.0)); }},
      strip);
  auto lay = [division, swing] {
    division->refresh(), swing->refresh();
    division->setGeometry(QRect(QPoint(16, 0), division->sizeHint()));
    swing->setGeometry(QRect(QPoint(82, 0), swing->sizeHint()));
  };
  QObject::connect(&doc, &Document::changed, strip, lay);
  lay();
}

}  // namespace heft::app

#include "app/fields/contour_fields.h"

#include "app/widgets/unit_words.h"
#include "core/session/edits/contour.h"
#include "core/session/edits/values.h"

namespace heft::app {
namespace {

// A value of the contour's last point, at any index.
FieldSpec lastField(LayerChoice& c, const OwnerNow& owner, const std::string& key, const FieldWords& words,
                    Edit (*set)(const Part&, const Value&, const std::string&)) {
  FieldWords at = words;
  at.key = "contour.points." + std::to_string(c.part().contour.points.size() - 1) + "." + key;
  return fieldOf(c.document(), owner, at, [&c, set](const Value& value, const std::string& merge) {
    return set(c.part(), value, merge);
  });
}

FieldSpec savedField(LayerChoice& c) {
  FieldSpec f;
  f.caption = f.name = "Saved";
  f.tip = "Energy below 120 Hz saved by the contour, and its peak change";
  f.text = [&c] {
    const Study* s = c.document().study();
    const ContourFacts* facts = s ? s->contourOf(c.part().id) : nullptr;
    return facts ? dbText(facts->savedDb, 1, false) + ", peak " + dbText(facts->peakDb) : QString("-");
  };
  return f;
}

}  // namespace

std::vector<FieldSpec> contourFields(LayerChoice& c) {
  const OwnerNow owner = [&c]() -> std::optional<Owner> { return Owner{.part = c.part().id}; };
  auto field = [&](const FieldWords& words) { return fieldOf(c.document(), owner, words); };
  std::vector<FieldSpec> out;
  out.push_back(
      field(FieldWords{"contour.on", "Contour", "Gain envelope per note: attack, peak, sustain, release"}
                .oneOf(eitherOf("off", "on"))
                .outAs("contour")));
  out.push_back(field(FieldWords{"contour.amount", "Amount", "Depth of the contour"}.called("Contour amount")));
  out.push_back(
      field(FieldWords{"contour.points.0.at", "Attack", "From silence to the peak; 0 begins at it"}.called(
          "Contour attack")));
  out.push_back(
      field(FieldWords{"contour.points.0.db", "Peak", "Gain at the peak, in dB"}.called("Contour peak")));
  out.push_back(lastField(
      c, owner, "at",
      FieldWords{"", "Decay to", "Time after note start when the sustain begins"}.called("Contour fall"),
      [](const Part& part, const Value& value, const std::string& merge) {
        const auto* time = std::get_if<TimeValue>(&value);
        return setContourFall(part, time ? *time : Contour().points.back().at, merge);
      }));
  out.push_back(lastField(
      c, owner, "db",
      FieldWords{"", "Sustain", "Gain that holds until the note ends, in dB"}.called("Contour sustain"),
      [](const Part& part, const Value& value, const std::string& merge) {
        const auto* db = std::get_if<double>(&value);
        return setContourSustain(part, db ? *db : Contour().points.back().db, merge);
      }));
  out.push_back(field(
      FieldWords{"contour.release", "Release", "Release time after the note. A recording keeps ringing for it"}
          .called("Contour release")));
  out.push_back(savedField(c));
  return out;
}

}  // namespace heft::app

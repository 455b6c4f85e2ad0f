#include "app/fields/duck_fields.h"

#include <array>

#include "app/desk/duck_words.h"
#include "app/fields/duck_field_groups.h"
#include "app/widgets/unit_words.h"
#include "core/session/edits/ducks.h"
#include "core/session/edits/values.h"

namespace heft::app {
namespace {

FieldSpec movementField(const DuckDesk& desk) {
  constexpr std::array kWords = {"off", "curve", "follower", "mirror", "static"};
  FieldSpec f;
  f.caption = f.name = "Ducking";
  f.tip =
      "Off, a drawn curve per trigger, a follower of the trigger level, a mirror that holds the summed lows at "
      "the louder one, or a static cut";
  f.text = [desk, kWords] {
    const Duck& d = desk.duck();
    return QString(d.on ? kWords[static_cast<size_t>(d.movement) + 1] : kWords[0]);
  };
  f.choices = [kWords] { return QStringList(kWords.begin(), kWords.end()); };
  f.choose = [desk](int i) {
    if (i == 0) return desk.document.edit(setDucking(desk.duck(), false));
    constexpr std::array kKeys = {"curve", "follower", "mirror", "static"};
    const Owner owner{.duck = desk.duck().id};
    desk.document.edit(
        putValues(std::string("duck by ") + (i == 1 ? "a curve" : kKeys[static_cast<size_t>(i) - 1]), owner,
                  {{"on", true}, {"movement", std::string(kKeys[static_cast<size_t>(i) - 1])}}));
  };
  f.without = [desk] {
    Edit out = setDucking(desk.duck(), false);
    out.name = "No ducking of " + duckWord(desk.document.session(), desk.duck());
    return out;
  };
  return f;
}

FieldSpec targetField(const DuckDesk& desk) {
  auto all = [desk] {
    std::vector<DuckTarget> out;
    for (const Part& part : desk.document.session().parts) {
      out.push_back({DuckTargetKind::Part, part.id, 1});
      if (part.layers.size() > 1)
        for (const Layer& l : part.layers) out.push_back({DuckTargetKind::Layer, part.id, l.id});
    }
    out.push_back({DuckTargetKind::Backing, 2, 1});
    return out;
  };
  FieldSpec f;
  f.caption = f.name = "Ducks";
  f.tip = "Part, layer or backing to duck; the trigger's own part to shape its tail";
  f.text = [desk] { return targetWords(desk.document.session(), desk.duck().target); };
  f.choices = [desk, all] {
    QStringList out;
    for (const DuckTarget& t : all()) out << targetWords(desk.document.session(), t);
    return out;
  };
  f.choose = [desk, all](int i) {
    const auto targets = all();
    if (i >= 0 && static_cast<size_t>(i) < targets.size())
      desk.document.edit(setDuckTarget(desk.duck(), targets[static_cast<size_t>(i)]));
  };
  return f;
}

FieldSpec measuredField(const DuckDesk& desk) {
  return {.caption = "Measured",
          .name = "Measured dip",
          .tip = "Deepest gain reduction and longest recovery to within 0.5 dB",
          .text = [desk] {
            const DuckFacts* f = duckFacts(desk.document, desk.duck());
            if (!f) return QString("nothing");
            if (desk.duck().movement == Movement::Static) return dbText(f->dip.depthDb) + " all along";
            return dbText(f->dip.depthDb) + ", back after " + msText(f->dip.returnMs);
          }};
}

}  // namespace

OwnerNow ownerOf(const DuckDesk& desk) {
  return [duck = desk.duck] { return Owner{.duck = duck().id}; };
}

FieldSpec plainField(const DuckDesk& desk, const FieldWords& words) {
  FieldSpec f = fieldOf(desk.document, ownerOf(desk), words);
  // A width has no sign.
  if (f.text) f.text = [own = f.text] { return own().startsWith('+') ? own().mid(1) : own(); };
  return f;
}

std::vector<WordFor> wordsFor(std::initializer_list<std::pair<const char*, const char*>> words) {
  std::vector<WordFor> out;
  for (const auto& [word, value] : words) out.push_back({word, std::string(value)});
  return out;
}

std::vector<FieldSpec> duckFields(const DuckDesk& desk) {
  Specs out;
  out.push_back(movementField(desk));
  addDuckSource(out, desk);
  out.push_back(targetField(desk));
  addDuckMovement(out, desk);
  addDuckBand(out, desk);
  out.push_back(
      plainField(desk, FieldWords{"amount", "Amount", "Scales the gain reduction"}.called("Ducking amount")));
  out.push_back(measuredField(desk));
  return out;
}

QString duckFieldsSignature(const Duck& d) {
  return QString("%1 %2 %3 %4 %5 %6 %7")
      .arg(d.id)
      .arg(static_cast<int>(d.source.kind))
      .arg(static_cast<int>(d.movement))
      .arg(static_cast<int>(d.band.kind))
      .arg(d.band.steps.size())
      .arg(d.band.at == BellAt::Key)
      .arg(d.curve.points.size() >= 2);
}

std::vector<FieldSpec> duckingBusFields(Document& document) {
  const OwnerNow whole = [] { return Owner{}; };
  return {fieldOf(document, whole,
                  FieldWords{"ducking.amount", "Global amount", "Scales all duckings"}.called(
                      "All duckings' amount")),
          fieldOf(document, whole,
                  FieldWords{"ducking.together", "Overlaps", "Overlapping gains multiply, or the deepest wins"}
                      .called("Duckings together")
                      .oneOf(wordsFor({{"multiply", "multiply"}, {"the deepest wins", "deepest"}})))};
}

}  // namespace heft::app

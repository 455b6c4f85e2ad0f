// Length of a sound: note values to set, and how long it is audible.

#include <algorithm>

#include "app/desk/duck_words.h"
#include "app/fields/layer_specials.h"
#include "app/widgets/unit_words.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/values.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr int kNoteValues[][2] = {{1, 32}, {3, 64}, {1, 16}, {3, 32}, {1, 8}, {3, 16}, {1, 4}};

}  // namespace

FieldSpec setLengthField(LayerChoice& c) {
  FieldSpec f;
  f.caption = f.name = "Set length";
  f.tip = "Trim every layer of the part to a note length, or to the shortest gap before a bass note";
  auto gap = [&c] {
    return c.part().is() == PartRole::Kick ? gapToNextNote(c.document().session()) : std::nullopt;
  };
  f.text = [&c] {
    const auto own = c.layer() ? c.layer()->ownLength() : std::nullopt;
    return own && own->isNote() ? QString::fromStdString(own->text()) : QString("to a note value");
  };
  f.choices = [&c, gap] {
    QStringList out;
    for (const auto& v : kNoteValues) {
      const auto length = TimeValue::note(v[0], v[1]);
      out << QString::fromStdString(length.text()) + ", " + msText(length.toMs(c.document().track().tempoBpm));
    }
    if (const auto g = gap())
      out << "the gap to the next bass note, " + msText(g->toMs(c.document().track().tempoBpm));
    return out << "as recorded";
  };
  f.choose = [&c, gap](int i) {
    const auto g = gap();
    const int values = static_cast<int>(std::size(kNoteValues));
    if (i < values)
      return c.document().edit(trimPart(c.part(), TimeValue::note(kNoteValues[i][0], kNoteValues[i][1])));
    if (i == values && g) return c.document().edit(trimPart(c.part(), *g));
    if (const auto owner = c.layerOwner())
      c.document().edit(putValue("remove trim", *owner, "recorded.length", Value()));
  };
  return f;
}

FieldSpec audibleField(LayerChoice& c) {
  FieldSpec f;
  f.caption = f.name = "Audible for";
  f.tip = "Time the tail stays above bass and backing below 150 Hz, at the hit where it lasts longest";
  f.text = [&c] {
    const Study* s = c.document().study();
    if (!s || c.part().is() != PartRole::Kick) return QString("-");
    auto longest = [&](std::optional<double> HitFacts::*of) {
      std::optional<double> out;
      for (const HitFacts& h : s->pair.hits)
        if (h.*of) out = std::max(out.value_or(0.0), *(h.*of));
      return out;
    };
    QStringList words;
    if (const auto ms = longest(&HitFacts::overBassMs)) words << msText(*ms) + " over the bass";
    if (const auto ms = longest(&HitFacts::overBackingMs)) words << msText(*ms) + " over the backing";
    return words.isEmpty() ? QString("all of its tail") : words.join(", ");
  };
  return f;
}

}  // namespace heft::app

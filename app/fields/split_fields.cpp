// Strike and body of a recording: fields of the cut between them.

#include "app/fields/layer_specials.h"
#include "core/session/edits/split.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

const SoundSide* splitOf(const LayerChoice& c) {
  const Recorded* r = c.layer() ? c.layer()->recorded() : nullptr;
  return r ? &r->split : nullptr;
}

const LayerSound::Figures* figuresOfChosen(const LayerChoice& c) {
  const LayerSound* made = c.layer() ? c.document().layerSound(c.part().id, c.layer()->id) : nullptr;
  return made && made->figures ? &*made->figures : nullptr;
}

}  // namespace

FieldSpec splitField(LayerChoice& c) {
  FieldSpec f;
  f.caption = f.name = "Split";
  f.tip =
      "Split the recording into strike and body layers with their own processors, level, polarity and tuning. "
      "Together they match the recording sample for sample";
  f.text = [&c] {
    const SoundSide* split = splitOf(c);
    return !split || split->side == Side::Whole ? QString("whole")
           : split->side == Side::Strike        ? QString("strike layer")
                                                : QString("body layer");
  };
  f.choices = [] { return QStringList{"whole", "strike and body"}; };
  f.choose = [&c](int i) {
    const Layer* l = c.layer();
    const SoundSide* split = splitOf(c);
    if (!split || (i == 1) == (split->side != Side::Whole)) return;
    if (i == 0) {
      const Layer* other = otherSideOf(c.part(), *l);
      const int body = split->side == Side::Body || !other ? l->id : other->id;
      c.document().edit(joinSides(c.part(), l->id));
      return c.choose(c.place(), body);
    }
    if (!canSplit(c.part(), l->id))
      return c.document().fail("A part has at most 8 layers: remove one, then split.");
    const auto* figures = figuresOfChosen(c);
    c.document().edit(splitLayer(c.part(), l->id,
                                 figures ? figures->strikeEndMs.value_or(SoundSide().atMs) : SoundSide().atMs));
  };
  f.without = [&c] {
    Edit whole = joinSides(c.part(), c.layer() ? c.layer()->id : 0);
    whole.name = "No split";
    return whole;
  };
  return f;
}

FieldSpec cutField(LayerChoice& c, const OwnerNow& owner) {
  return fieldOf(c.document(), owner,
                 {"recorded.split.at_ms", "Cut at",
                  "Where strike and body part, ms after the onset; also the line "
                  "in the picture"},
                 [&c](const Value& ms, const std::string& merge) {
                   const SoundSide* split = splitOf(c);
                   return setCut(c.part(), c.layer()->id, std::get<double>(ms), split->joinMs, merge);
                 });
}

FieldSpec joinField(LayerChoice& c, const OwnerNow& owner) {
  return fieldOf(c.document(), owner,
                 {"recorded.split.join_ms", "Crossfade", "Crossfade length around the split point"},
                 [&c](const Value& ms, const std::string& merge) {
                   const SoundSide* split = splitOf(c);
                   return setCut(c.part(), c.layer()->id, split->atMs, std::get<double>(ms), merge);
                 });
}

FieldSpec jointField(LayerChoice& c) {
  FieldSpec f;
  f.caption = f.name = "Join";
  f.tip = "Level dip below 150 Hz and click above 2 kHz at the split point";
  f.text = [&c] {
    const auto* figures = figuresOfChosen(c);
    if (!figures || !figures->joint) return QString("-");
    constexpr double kHeardDb = 1.0;
    const JointFacts& joint = *figures->joint;
    const QString notch =
        QString::fromStdString(fixedNumber(joint.notchDb == 0.0 ? 0.0 : -joint.notchDb, 1)) + " dB";
    const QString click = joint.clickDb < kHeardDb
                              ? QString("no click")
                              : "clicks, +" + QString::fromStdString(fixedNumber(joint.clickDb, 1)) + " dB";
    return (joint.notchDb > -kHeardDb ? "level holds within " : "notch of ") + notch + ", " + click;
  };
  return f;
}

}  // namespace heft::app

// How a ducking moves.

#include <algorithm>
#include <cmath>

#include "app/desk/duck_words.h"
#include "app/fields/duck_field_groups.h"
#include "app/widgets/unit_words.h"
#include "core/session/edits/ducks.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

FieldSpec depthField(const DuckDesk& desk) {
  FieldSpec f;
  f.caption = f.name = "Depth";
  f.tip = "Depth of the ducking, 0 to 120 dB; 120 dB is silence";
  f.text = [desk] { return depthText(desk.duck().curve.depthDb); };
  f.commit = [desk](const QString& text) -> std::optional<QString> {
    QString words = text.trimmed().toLower();
    const double most = rangeOf(desk.document, {.duck = desk.duck().id}, "curve.depth_db").high;
    const auto value =
        words == "silence" ? std::optional(most) : parseNumber(words.remove("db").trimmed().toStdString());
    if (!value || std::abs(*value) > most)
      return QString("Write a depth in dB, such as -8.5 dB, down to -%1 dB").arg(most);
    desk.document.edit(setDepth(desk.duck(), std::abs(*value)));
    return std::nullopt;
  };
  f.step = [desk](int steps, bool fine) {
    const Duck& duck = desk.duck();
    desk.document.edit(setDepth(duck, duck.curve.depthDb - steps * (fine ? 0.1 : 0.5), "depth"));
  };
  f.endDrag = [desk] { desk.document.endDrag(); };
  f.reset = [desk] { desk.document.edit(setDepth(desk.duck(), DuckCurve().depthDb)); };
  return f;
}

// The effective dip, while its length follows the source.
std::optional<DrawnDip> actingDip(const DuckDesk& desk) {
  const Duck& duck = desk.duck();
  const ResolvedDuck* r = resolvedDuck(desk.document, duck);
  return duck.curve.lasts == CurveLasts::AsSource && r ? std::optional(r->dip) : std::nullopt;
}

FieldSpec timeField(const DuckDesk& desk, const FieldWords& words, DipTime which) {
  FieldSpec f =
      fieldOf(desk.document, ownerOf(desk), words, [desk, which](const Value& time, const std::string& merge) {
        return setDipTime(desk.duck(), which, std::get<TimeValue>(time), actingDip(desk), merge);
      });
  if (which == DipTime::Attack) return f;
  // The effective value is shown, and steps start from it.
  auto acts = [desk, which]() -> std::optional<double> {
    const auto acting = actingDip(desk);
    return !acting ? std::nullopt : std::optional(which == DipTime::Hold ? acting->holdMs : acting->returnMs);
  };
  f.text = [desk, own = f.text, acts] { return desk.duck().on && acts() ? msText(*acts()) : own(); };
  f.step = [desk, own = f.step, acts, which, key = words.key, name = f.name.toStdString()](int steps,
                                                                                           bool fine) {
    if (!acts()) return own(steps, fine);
    const Range range = rangeOf(desk.document, {.duck = desk.duck().id}, key);
    const double to = std::clamp(stepped(*acts(), range.unit, steps, fine), range.low, range.high);
    desk.document.edit(setDipTime(desk.duck(), which, TimeValue::milliseconds(to), actingDip(desk), name));
  };
  return f;
}

FieldSpec startField(const DuckDesk& desk) {
  FieldSpec f;
  f.caption = f.name = "Start from";
  f.tip = "Load a starting curve to edit";
  f.text = [] { return QString("choose"); };
  f.choices = [] { return QStringList{"strike only", "a sixteenth", "to the next beat", "audible pumping"}; };
  f.choose = [desk](int i) { desk.document.edit(startCurve(desk.duck(), static_cast<DuckNeed>(i))); };
  return f;
}

FieldSpec pointsField(const DuckDesk& desk) {
  FieldSpec f;
  f.caption = "Edit by", f.name = "Curve drawn by";
  f.tip = "Four dimensions, or points. Double-click the hatched edge: add. Delete: remove";
  f.text = [desk] {
    const auto count = desk.duck().curve.points.size();
    return count >= 2 ? QString("%1 points").arg(count) : QString("four dimensions");
  };
  f.choices = [] { return QStringList{"four dimensions", "points"}; };
  f.choose = [desk](int i) {
    const Duck& duck = desk.duck();
    if (i == 0) return desk.document.edit(clearDipPoints(duck));
    const ResolvedDuck* r = resolvedDuck(desk.document, duck);
    if (!duck.curve.points.empty() || !r) return;
    desk.document.edit(drawDip(duck, r->dip));
  };
  return f;
}

void addCurve(Specs& out, const DuckDesk& desk) {
  out.push_back(depthField(desk));
  const bool points = desk.duck().curve.points.size() >= 2;
  if (points) {
    out.push_back(plainField(
        desk,
        FieldWords{"curve.length", "Length", "From the trigger to the last point"}.called("Curve length")));
  } else {
    out.push_back(timeField(
        desk, FieldWords{"curve.attack", "Attack", "Time until the depth is reached"}.called("Ducking attack"),
        DipTime::Attack));
    out.push_back(
        timeField(desk, FieldWords{"curve.hold", "Hold", "Hold time"}.called("Ducking hold"), DipTime::Hold));
    out.push_back(timeField(desk,
                            FieldWords{"curve.return", "Release", "Release time"}.called("Ducking release"),
                            DipTime::Return));
  }
  out.push_back(plainField(
      desk, FieldWords{"curve.lasts", "Length", "Fixed, stretched to the trigger tail, or to the next hit"}
                .called("Ducking length")
                .oneOf(wordsFor(
                    {{"fixed", "as_set"}, {"trigger tail", "as_source"}, {"to the next hit", "to_next"}}))));
  out.push_back(plainField(
      desk, FieldWords{"curve.velocity_to_depth", "By velocity", "Shallower ducking for soft hits"}.called(
                "Velocity to depth")));
  out.push_back(pointsField(desk));
  out.push_back(startField(desk));
}

// Depths are written downwards.
void addDeepest(Specs& out, const DuckDesk& desk, const std::string& key, const QString& name) {
  FieldSpec f = plainField(
      desk, FieldWords{key, "Max depth", "Limit of the gain reduction. 120 dB is silence"}.called(name));
  f.text = [desk, key] {
    const auto v = valueAt(desk.document.session(), {.duck = desk.duck().id}, key);
    return v ? depthText(std::get<double>(v->now)) : QString("-");
  };
  f.commit = [desk, key, own = f.commit](const QString& text) {
    QString words = text.trimmed().toLower();
    return own(words == "silence" ? QString("120 dB") : words.remove('-'));
  };
  out.push_back(std::move(f));
}

void addFollower(Specs& out, const DuckDesk& desk) {
  auto add = [&](const char* key, const char* caption, const char* tip) {
    out.push_back(plainField(desk, FieldWords{std::string("follower.") + key, caption, tip}.called(
                                       QString("Follower ") + QString(caption).toLower())));
  };
  add("threshold_db", "Threshold", "Trigger level above which it ducks, dBFS");
  add("ratio", "Ratio", "So many dB over the threshold leave one");
  add("knee_db", "Knee", "How softly it begins, centred on the threshold");
  add("attack_ms", "Attack", "Attack time to 63 %");
  add("hold_ms", "Hold", "How long the way back waits");
  add("release_ms", "Release", "Release time to 63 %");
  add("lookahead_ms", "Lookahead", "Lookahead of the gain");
  out.push_back(plainField(desk, FieldWords{"follower.level", "Level", "The peak, or the mean of about 10 ms"}
                                     .called("Follower level")
                                     .oneOf(wordsFor({{"peak", "peak"}, {"RMS", "rms"}}))));
  addDeepest(out, desk, "follower.deepest_db", "Follower deepest");
}

void addMirror(Specs& out, const DuckDesk& desk) {
  out.push_back(plainField(
      desk,
      FieldWords{"mirror.within_db", "Sum within", "Allowed level of both lows above the louder one"}.called(
          "Mirror within")));
  out.push_back(
      plainField(desk, FieldWords{"mirror.below_hz", "Compare below", "Upper edge of the compared lows"}.called(
                           "Mirror below")));
  addDeepest(out, desk, "mirror.deepest_db", "Mirror deepest");
}

}  // namespace

void addDuckMovement(Specs& out, const DuckDesk& desk) {
  switch (desk.duck().movement) {
    case Movement::Curve:
      return addCurve(out, desk);
    case Movement::Follower:
      return addFollower(out, desk);
    case Movement::Mirror:
      return addMirror(out, desk);
    case Movement::Static:
      return out.push_back(depthField(desk));
  }
}

}  // namespace heft::app

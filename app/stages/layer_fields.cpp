#include "app/stages/layer_fields.h"

#include <QRegularExpression>
#include <algorithm>
#include <cmath>

#include "app/loop/lane_level.h"
#include "app/stages/layer_slip.h"
#include "app/stages/stage_page.h"
#include "core/render/sounds.h"
#include "core/session/edits/parts.h"
#include "core/session/pattern.h"
#include "core/theory/text.h"
#include "core/voices/bass_voice.h"

namespace heft::app {
namespace {

// How a number is written, read and stepped.
struct Unit {
  QString suffix;
  int decimals;
  double step, fine;
  double scale = 1.0;  ///< shown = value * scale
  bool geometric = false;
};
const Unit kDb{" dB", 1, 0.5, 0.1};
const Unit kMs{" ms", 1, 1.0, 0.1};
const Unit kPercent{" %", 0, 5.0, 1.0, 100.0};
const Unit kHz{" Hz", 1, 1.0 / 12.0, 0.01, 1.0, true};
const Unit kNumber{"", 1, 0.1, 0.02};
const Unit kDegrees{"\u00b0", 0, 15.0, 1.0};
const Unit kSemitones{" st", 2, 1.0, 0.01};

// What a field of that unit takes, for its tip and for whoever types something else.
QString takesText(double low, double high, const Unit& unit) {
  const QString range = QString("%1 to %2%3").arg(low * unit.scale).arg(high * unit.scale).arg(unit.suffix);
  if (unit.geometric) return "a note such as A1 or a frequency, " + range;
  if (unit.suffix == kMs.suffix) return "a time or a note length such as 1/16, " + range;
  if (unit.suffix == kSemitones.suffix) return "semitones or cents such as 58 ct, " + range;
  return range.trimmed();
}

// Times also as note lengths or seconds, shifts also in cents.
std::optional<double> typedNumber(const QString& words, const Unit& unit, const Track& track) {
  QString bare = words;
  if (unit.suffix == kMs.suffix) {
    const bool negative = bare.startsWith('-');
    if (const auto time = parseTime(bare.remove(QRegularExpression("^[+-]")).toStdString()))
      return (negative ? -1.0 : 1.0) * time->toMs(track.tempoBpm);
    return std::nullopt;
  }
  if (unit.suffix == kSemitones.suffix && bare.endsWith("ct", Qt::CaseInsensitive)) {
    bare.chop(2);
    const auto cents = parseNumber(bare.trimmed().toStdString());
    return cents ? std::optional<double>(*cents / 100.0) : std::nullopt;
  }
  const QString suffix = unit.suffix.trimmed();
  if (!suffix.isEmpty() && bare.endsWith(suffix, Qt::CaseInsensitive)) bare.chop(suffix.size());
  return parseNumber(bare.trimmed().toStdString());
}

// "No EQ", "No soft clip".
QString nameWithout(const QString& what) {
  QString name = what;
  name.remove(" slope");
  if (name.size() > 1 && name[1].isLower()) name[0] = name[0].toLower();
  return "No " + name;
}

// Fields of values that live in a layer or a finish. `Holder` is one of them.
template <class Holder>
class Maker {
 public:
  using Get = std::function<const Holder*()>;
  using Edit = std::function<void(const QString&, const std::function<void(Holder&)>&, const QString&)>;
  /// Where the holder is in any session; asked on this thread, used on the render's.
  using Place = std::function<std::function<Holder*(Session&)>()>;
  Maker(LayerChoice& choice, Get get, Edit edit, Place place)
      : choice_(choice), get_(std::move(get)), edit_(std::move(edit)), place_(std::move(place)) {}

  /// `at` gives the value's place in the holder. `putIn`: the switch of what it belongs to, which a value that
  /// is set turns on and Delete turns off.
  FieldSpec number(const QString& caption, const QString& tip, std::function<double&(Holder&)> at, double low,
                   double high, const Unit& unit, double byDefault,
                   std::function<bool*(Holder&)> putIn = {}) const {
    FieldSpec f;
    f.caption = caption;
    f.name = caption;
    const QString takes = takesText(low, high, unit);
    f.tip = tip + ". Takes " + takes;
    if (low == kOffDb || putIn)
      f.without = withoutIt(caption, [at, low, putIn](Holder& h) {
        if (putIn)
          *putIn(h) = false;
        else
          at(h) = low;
      });
    auto value = [get = get_, at] { return get() ? at(const_cast<Holder&>(*get())) : 0.0; };
    auto set = [edit = edit_, at, low, high, putIn, name = "set " + f.name.toLower()](
                   double to, const QString& merge, bool in = true) {
      edit(
          name,
          [&](Holder& h) {
            at(h) = std::clamp(to, low, high);
            if (putIn) *putIn(h) = in;
          },
          merge);
    };
    const bool pitched = unit.geometric;
    LayerChoice* choice = &choice_;
    f.text = [=] {
      const double shown = value() * unit.scale;
      if (low == kOffDb && value() <= kOffDb && unit.suffix == kDb.suffix) return QString("out");
      if (pitched) return QString::fromStdString(hzText(shown));
      return (unit.suffix == kDb.suffix && shown > 0 ? "+" : "") +
             QString::fromStdString(unit.suffix == kDb.suffix ? fixedNumber(shown, 1)
                                                              : formatNumber(shown, unit.decimals)) +
             unit.suffix;
    };
    f.commit = [=](const QString& text) -> std::optional<QString> {
      const QString words = text.trimmed();
      if (low == kOffDb && words.compare("out", Qt::CaseInsensitive) == 0) return set(low, {}), std::nullopt;
      std::optional<double> typed;
      if (pitched) {
        const auto midi = parsePitch(words.toStdString(), choice->document().track().notes);
        if (midi) typed = hzFromMidi(*midi, choice->document().track().notes.a4Hz);
      } else {
        typed = typedNumber(words, unit, choice->document().track());
      }
      if (!typed || *typed < low * unit.scale - 1e-9 || *typed > high * unit.scale + 1e-9)
        return "Write " + takes;
      set(*typed / unit.scale, {});
      return std::nullopt;
    };
    f.step = [=, name = f.name](int steps, bool fine) {
      const double by = (fine ? unit.fine : unit.step) * steps;
      set(pitched ? value() * std::exp2(by) : value() + by / unit.scale, name);
    };
    f.endDrag = [choice] { choice->document().endDrag(); };
    f.reset = [=] { set(byDefault, {}, false); };
    return f;
  }

  FieldSpec choiceOf(const QString& caption, const QString& tip, const QStringList& names,
                     std::function<int(const Holder&)> now, std::function<void(Holder&, int)> set) const {
    FieldSpec f;
    f.caption = caption;
    f.name = caption;
    f.tip = tip;
    if (const auto out = static_cast<int>(names.indexOf("out")); out >= 0)
      f.without = withoutIt(caption, [set, out](Holder& h) { set(h, out); });
    f.text = [get = get_, names, now] {
      const int i = get() ? now(*get()) : 0;
      return i >= 0 && i < names.size() ? names[i] : QString("-");
    };
    f.choices = [names] { return names; };
    f.choose = [edit = edit_, set, name = "set " + f.name.toLower()](int i) {
      edit(name, [&](Holder& h) { set(h, i); }, {});
    };
    return f;
  }

  FieldSpec flag(const QString& caption, const QString& tip, const QString& off, const QString& on,
                 std::function<bool&(Holder&)> at) const {
    return choiceOf(
        caption, tip, {off, on}, [at](const Holder& h) { return at(const_cast<Holder&>(h)) ? 1 : 0; },
        [at](Holder& h, int i) { at(h) = i == 1; });
  }

  std::function<std::optional<bool>()> isIn(std::function<bool(const Holder&)> on) const {
    return [get = get_, on]() -> std::optional<bool> { return get() && on(*get()); };
  }
  /// What Before is with `takeOut` done to the holder.
  std::function<Before()> withoutIt(const QString& caption, std::function<void(Holder&)> takeOut) const {
    return [place = place_, takeOut, name = nameWithout(caption)] {
      return Before{name.toStdString(), [find = place(), takeOut](Session s) {
                      if (Holder* h = find(s)) takeOut(*h);
                      return s;
                    }};
    };
  }
  LayerChoice& choice() const { return choice_; }
  const Get& get() const { return get_; }
  const Edit& edit() const { return edit_; }

 private:
  LayerChoice& choice_;
  Get get_;
  Edit edit_;
  Place place_;
};

using LayerMaker = Maker<Layer>;
using FinishMaker = Maker<Finish>;

template <class Enums, class NameOf>
QStringList namesOf(const Enums& all, NameOf nameOf) {
  QStringList out;
  for (auto kind : all) out << nameOf(kind);
  return out;
}

template <class Holder>
FieldSection driveSection(const Maker<Holder>& m, const QString& name, std::function<Drive&(Holder&)> at) {
  auto in = [at](Holder& h) -> bool& { return at(h).on; };
  FieldSection s{name, m.isIn([at](const Holder& h) { return at(const_cast<Holder&>(h)).on; }), {}};
  s.fields.push_back(m.flag("Drive", "Takes the drive in or out", "out", "in", in));
  s.fields.push_back(m.choiceOf(
      "Character", "How the wave is bent; rate holds samples", namesOf(kAllDrives, driveWord),
      [at](const Holder& h) { return static_cast<int>(at(const_cast<Holder&>(h)).kind); },
      [at](Holder& h, int i) { at(h).kind = static_cast<DriveKind>(i), at(h).on = true; }));
  s.fields.push_back(m.number(
      "Input", "Gain into the drive in dB, apart from how far it bends",
      [at](Holder& h) -> double& { return at(h).inputDb; }, -24, 24, kDb, 0.0));
  s.fields.push_back(m.number(
      "Amount", "How far the wave is driven into the curve, in dB",
      [at](Holder& h) -> double& { return at(h).driveDb; }, 0, 30, kDb, 6.0));
  s.fields.push_back(m.number(
      "Mix", "Driven beside clean", [at](Holder& h) -> double& { return at(h).mix; }, 0, 1, kPercent, 1.0));
  return s;
}

template <class Holder>
FieldSection eqSection(const Maker<Holder>& m, std::function<Eq&(Holder&)> at) {
  FieldSection s{"EQ", m.isIn([at](const Holder& h) { return at(const_cast<Holder&>(h)).works(); }), {}};
  s.fields.push_back(m.flag("EQ", "Takes cuts and bands in or out", "out", "in",
                            [at](Holder& h) -> bool& { return at(h).on; }));
  for (bool low : {true, false}) {
    auto cut = [at, low](Holder& h) -> Cut& { return low ? at(h).lowCut : at(h).highCut; };
    const QString side = low ? "Low cut" : "High cut";
    FieldSpec f = m.number(
        side, "Where the cut is 3 dB down: a note or Hz. Delete takes it out.",
        [cut](Holder& h) -> double& { return cut(h).hz; }, 10, 20000, kHz, low ? 30.0 : 8000.0,
        [cut](Holder& h) { return &cut(h).on; });
    auto slope = m.choiceOf(
        side + " slope", "Steepness of the cut", {"out", "12 dB/oct", "24 dB/oct", "36 dB/oct", "48 dB/oct"},
        [cut](const Holder& h) {
          const Cut& c = cut(const_cast<Holder&>(h));
          return c.on ? c.slopeDbPerOctave / 12 : 0;
        },
        [cut](Holder& h, int i) {
          cut(h).on = i > 0;
          if (i > 0) cut(h).slopeDbPerOctave = 12 * i;
        });
    s.fields.push_back(std::move(f));
    s.fields.push_back(std::move(slope));
  }
  for (size_t b = 0; b < 4; ++b) {
    auto band = [at, b](Holder& h) -> EqBand& { return at(h).bands[b]; };
    const QString n = QString::number(b + 1);
    s.fields.push_back(m.choiceOf(
        "Band " + n, "Kind of the band", {"out", "bell", "low shelf", "high shelf", "notch"},
        [band](const Holder& h) {
          const EqBand& e = band(const_cast<Holder&>(h));
          return e.on ? static_cast<int>(e.kind) + 1 : 0;
        },
        [band](Holder& h, int i) {
          band(h).on = i > 0;
          if (i > 0) band(h).kind = static_cast<EqBand::Kind>(i - 1);
        }));
    s.fields.push_back(m.number(
        "at " + n, "Its frequency: a note or Hz", [band](Holder& h) -> double& { return band(h).hz; }, 10,
        20000, kHz, 100.0));
    s.fields.push_back(m.number(
        "gain " + n, "Its gain in dB", [band](Holder& h) -> double& { return band(h).gainDb; }, -30, 30, kDb,
        0.0, [band](Holder& h) { return &band(h).on; }));
    s.fields.push_back(m.number(
        "Q " + n, "Its quality: higher is narrower", [band](Holder& h) -> double& { return band(h).q; }, 0.1,
        30, kNumber, 1.0));
    for (size_t back = 1; back <= 4; ++back) s.fields[s.fields.size() - back].group = static_cast<int>(b) + 1;
  }
  return s;
}

FieldSpec lengthField(LayerChoice& c) {
  Document& doc = c.document();
  return {
      .caption = "Kick length",
      .name = "Kick length",
      .tip =
          "Where the tail has died away to -40 dB: 1/16, or 20 ms to 5 s (10 s for a recording). Delete leaves "
          "a recording as it is.",
      .text =
          [&c, &doc] {
            const Layer* l = c.layer();
            const auto own = l ? l->ownLength() : std::nullopt;
            return own ? timeText(*own, doc.track().tempoBpm) : QString("as recorded");
          },
      .commit = [&c, &doc](const QString& text) -> std::optional<QString> {
        const auto time = parseTime(text.section(',', 0, 0).toStdString());
        if (!time) return QString::fromStdString(time.error().reason);
        const double most = c.layer() && c.layer()->kickVoice() ? kLongestKickMs : 10000.0;
        if (time->toMs(doc.track().tempoBpm) < kShortestKickMs || time->toMs(doc.track().tempoBpm) > most)
          return QString("Write a length from 20 ms to %1 s, or a note such as 1/16").arg(most / 1000.0);
        c.edit("set kick length to " + QString::fromStdString(time->text()),
               [&](Layer& l) { setLength(l, *time, doc.track().tempoBpm); });
        return std::nullopt;
      },
      .step =
          [&c, &doc](int steps, bool fine) {
            const Layer* l = c.layer();
            if (!l || !l->ownLength()) return;
            const double now = l->ownLength()->toMs(doc.track().tempoBpm);
            const double to = std::clamp(std::round(now) + steps * (fine ? 1.0 : 5.0), kShortestKickMs, kLongestKickMs);
            c.edit(
                "set kick length", [&](Layer& x) { setLength(x, TimeValue::milliseconds(to), doc.track().tempoBpm); }, "length");
          },
      .endDrag = [&doc] { doc.endDrag(); },
      .reset =
          [&c] {
            c.edit("take back the trim", [](Layer& l) {
              if (Recorded* r = l.recorded()) r->length.reset();
            });
          }};
}

// How long the kick's tail is to be.
FieldSpec tailTargetField(LayerChoice& c) {
  Document& doc = c.document();
  return {.caption = "Tail target",
          .name = "Tail target",
          .tip =
              "How long the tail is to be: 1/16, or 20 ms to 10 s. Delete: the kick's length, else the gap to "
              "the next bass note.",
          .text =
              [&doc] {
                const TailTarget t = tailTargetOf(doc.session());
                return timeText(t.length, doc.track().tempoBpm) +
                       (t.from == TailTarget::From::Set      ? ""
                        : t.from == TailTarget::From::Length ? " (its length)"
                        : t.from == TailTarget::From::Gap    ? " (the gap)"
                                                             : " (usual)");
              },
          .commit = [&doc](const QString& text) -> std::optional<QString> {
            const auto time = parseTime(text.section(',', 0, 0).section('(', 0, 0).trimmed().toStdString());
            if (!time) return QString::fromStdString(time.error().reason);
            const double ms = time->toMs(doc.track().tempoBpm);
            if (ms < 20 || ms > 10000) return "Write a length from 20 ms to 10 s, or a note such as 1/16";
            doc.edit("set tail target", [&](Session& s) { s.kick().tailTarget = *time; });
            return std::nullopt;
          },
          .reset =
              [&doc] {
                doc.edit("leave the tail target to the pattern",
                         [](Session& s) { s.kick().tailTarget.reset(); });
              }};
}

// All of a built kick longer or shorter, its fall too.
FieldSpec wholeLengthField(LayerChoice& c) {
  FieldSpec f = lengthField(c);
  Document& doc = c.document();
  f.caption = f.name = "Whole length";
  f.tip = "The same length, but all of the sound scales with it, the fall too: a note length such as 1/16, or 20 ms to 5 s";
  f.commit = [&c, &doc](const QString& text) -> std::optional<QString> {
    const auto time = parseTime(text.section(',', 0, 0).toStdString());
    const double ms = time ? time->toMs(doc.track().tempoBpm) : 0.0;
    if (ms < kShortestKickMs || ms > kLongestKickMs) return "Write a length from 20 ms to 5 s, or a note such as 1/16";
    c.edit("scale the kick to " + QString::fromStdString(time->text()),
           [&](Layer& l) { setLength(l, *time, doc.track().tempoBpm, Lengthen::Whole); });
    return std::nullopt;
  };
  f.step = [&c, &doc](int steps, bool fine) {
    const Layer* l = c.layer();
    if (!l || !l->kickVoice()) return;
    const double to = l->kickVoice()->length.toMs(doc.track().tempoBpm) + steps * (fine ? 1.0 : 5.0);
    c.edit(
        "scale the kick",
        [&](Layer& x) { setLength(x, TimeValue::milliseconds(std::round(to)), doc.track().tempoBpm, Lengthen::Whole); },
        "whole length");
  };
  f.reset = {};
  return f;
}

FieldSpec tailField(LayerChoice& c) {
  return {.caption = "Tail",
          .name = "Tail",
          .tip = "Measured time from the part's onset until it is last above 40 dB below its peak",
          .text = [&c] {
            const Study* s = c.document().study();
            const Session& session = c.document().session();
            const auto facts = !s || c.isBacking()                ? nullptr
                               : c.part().id == session.kick().id ? s->kick
                               : c.part().id == session.bass().id ? s->bass
                                                                  : s->factsOf(c.part().id);
            return facts && facts->onsetSeconds ? QString::fromStdString(formatNumber(facts->tailMs, 0)) + " ms"
                                                : QString("none");
          }};
}

// Where and how the layer stands in its part.
FieldSection soundSection(const LayerMaker& m) {
  LayerChoice& c = m.choice();
  FieldSection s{"Sound", {}, {}};
  auto& f = s.fields;
  f.push_back(m.number(
      "Level", "Level of the chosen sound in dB", [](Layer& l) -> double& { return l.levelDb; }, kLeastLevelDb,
      kMostLevelDb, kDb, 0.0));
  f.push_back(m.flag("Sound polarity", "Turns the sound's polarity over", "normal", "inverted",
                     [](Layer& l) -> bool& { return l.invert; }));
  f.push_back(m.number(
      "Offset", "Later (or earlier) than the part's other layers, in ms",
      [](Layer& l) -> double& { return l.offsetMs; }, -200, 200, kMs, 0.0));
  if (!c.layer()->isBuilt() || c.playsNotes())
    f.push_back(m.number(
        "Shift by speed", "Semitones by speed, on top of any target",
        [](Layer& l) -> double& { return l.semitones; }, -48, 48, kSemitones, 0.0));
  if (!c.layer()->isBuilt()) {
    if (c.playsHits()) {
      f.push_back(lengthField(c));
      // The kick's by its name, any other part's by what it is.
      if (c.part().is() != PartRole::Kick) f.back().caption = f.back().name = "Length";
    } else {
      f.push_back(m.flag("Pitched", "By speed its length changes with the note; kept it does not", "by speed",
                         "length kept", [](Layer& l) -> bool& { return l.recorded()->keepLength; }));
    }
    f.push_back(m.number(
        "Start", "Cut off its front, in ms", [](Layer& l) -> double& { return l.shape.startMs; }, 0, 60000, kMs,
        0.0));
    f.push_back(m.number(
        "Fade in", "In ms", [](Layer& l) -> double& { return l.shape.fadeInMs; }, 0, 5000, kMs, 0.0));
    f.push_back(m.number(
        "Fade out", "In ms, at its end", [](Layer& l) -> double& { return l.shape.fadeOutMs; }, 0, 5000, kMs,
        0.0));
  }
  if (c.playsNotes() && !c.layer()->isBuilt())
    f.push_back(m.flag("Pitch", "Whether it is played at the notes, or at its own pitch under all of them",
                       "fixed", "follows notes", [](Layer& l) -> bool& { return l.recorded()->followNotes; }));
  if (c.playsNotes() && !c.layer()->isBuilt())
    f.push_back(m.number(
        "Glides", "Into a tied note, in ms", [](Layer& l) -> double& { return l.recorded()->glideMs; }, 0, 2000,
        kMs, 60.0));
  f.push_back(m.number(
      "Width", "Sides of a stereo sound; 0 is mono", [](Layer& l) -> double& { return l.shape.width; }, 0, 2,
      kPercent, 1.0));
  f.push_back(tailField(c));
  if (!c.isBacking() && c.part().is() == PartRole::Kick) f.push_back(tailTargetField(c));
  return s;
}

FieldSection hitsSection(const LayerMaker& m) {
  LayerChoice& c = m.choice();
  Document& doc = c.document();
  FieldSection s{"Hits", {}, {}};
  auto resting = [&c](const Session& session, int id) {
    int out = 0, all = 0;
    auto count = [&](const auto& events) {
      for (const auto& e : events)
        ++all, out += std::find(e.without.begin(), e.without.end(), id) != e.without.end();
    };
    const Part* part = session.part(c.part().id);
    if (part) part->playsNotes() ? count(part->notes) : count(part->hits);
    return std::pair{all - out, all};
  };
  s.fields.push_back(
      {.caption = "Plays on",
       .name = "Plays on",
       .tip =
           "On which hits or notes of the pattern this layer plays. In the loop below, Ctrl and a click take "
           "the chosen layer in or out at one of them.",
       .text =
           [&c, &doc, resting] {
             const Layer* l = c.layer();
             if (!l) return QString("-");
             const auto [plays, all] = resting(doc.session(), l->id);
             return plays == all ? QString("every one") : QString("%1 of %2").arg(plays).arg(all);
           },
       .choices =
           [] {
             return QStringList{"every one", "the first of each bar", "all but the first of each bar"};
           },
       .choose =
           [&c, &doc](int i) {
             const Layer* l = c.layer();
             if (!l) return;
             const int id = l->id;
             doc.edit("choose where layer plays", [&](Session& session) {
               const double bar = session.track.beatsPerBar * 4.0 / session.track.beatUnit;
               auto set = [&](auto& events) {
                 double last = -1.0;
                 for (auto& e : events) {
                   const double here = std::floor(e.startQuarters / bar + 1e-9);
                   const bool first = here != last;
                   last = here;
                   std::erase(e.without, id);
                   if ((i == 1 && !first) || (i == 2 && first)) e.without.push_back(id);
                 }
               };
               if (Part* part = session.part(c.part().id))
                 part->playsNotes() ? set(part->notes) : set(part->hits);
             });
           }});
  auto amount = [](Layer& l) -> double& {
    return l.kickVoice()   ? l.kickVoice()->velocityToLevel
           : l.bassVoice() ? l.bassVoice()->velocityToLevel
                           : l.recorded()->velocityToLevel;
  };
  s.fields.push_back(m.number("Velocity to level", "How much of a hit's velocity its level takes", amount, 0, 1,
                              kPercent, 1.0));
  if (c.layer()->kickVoice())
    s.fields.push_back(m.number(
        "Velocity to length", "How much shorter soft hits are",
        [](Layer& l) -> double& { return l.kickVoice()->velocityToLength; }, 0, 1, kPercent, 0.0));
  return s;
}

FieldSection strikeSustainSection(const LayerMaker& m) {
  FieldSection s{
      "Shape", m.isIn([](const Layer& l) { return l.shape.strikeSustain.on || l.shape.envelope.on; }), {}};
  auto& f = s.fields;
  f.push_back(m.flag("Strike and sustain", "Gains for the strike and for what follows it", "out", "in",
                     [](Layer& l) -> bool& { return l.shape.strikeSustain.on; }));
  f.push_back(m.number(
      "Strike gain", "Of its first moments, in dB",
      [](Layer& l) -> double& { return l.shape.strikeSustain.strikeDb; }, -40, 24, kDb, 0.0));
  f.push_back(m.number(
      "Sustain gain", "Of what follows, in dB",
      [](Layer& l) -> double& { return l.shape.strikeSustain.sustainDb; }, -40, 24, kDb, 0.0));
  f.push_back(m.number(
      "Strike lasts", "How long the strike is taken to be, in ms",
      [](Layer& l) -> double& { return l.shape.strikeSustain.strikeMs; }, 1, 200, kMs, 20.0));
  f.push_back(m.flag("Envelope", "A level curve over the sound", "out", "in",
                     [](Layer& l) -> bool& { return l.shape.envelope.on; }));
  f.push_back(m.number(
      "Attack", "Of the level curve: ms or a note", [](Layer& l) -> double& { return l.shape.envelope.attackMs; }, 0, 2000, kMs, 0.0));
  f.push_back(m.number(
      "Hold", "At full level, in ms", [](Layer& l) -> double& { return l.shape.envelope.holdMs; }, 0, 5000, kMs,
      20.0));
  f.push_back(m.number(
      "Decay", "From there to -40 dB, in ms", [](Layer& l) -> double& { return l.shape.envelope.decayMs; }, 1,
      10000, kMs, 150.0));
  return s;
}

FieldSection spaceSection(const LayerMaker& m, const std::function<void()>& loadBody) {
  LayerChoice& c = m.choice();
  FieldSection s{"Space", m.isIn([](const Layer& l) { return l.shape.bodyOn || l.shape.room.on; }), {}};
  auto& f = s.fields;
  f.push_back({.caption = "Body",
               .name = "Body",
               .tip = "A sound whose response gives body by convolution",
               .text =
                   [&c] {
                     const Layer* l = c.layer();
                     return l && l->shape.bodyOn && !l->bodyAsset.empty()
                                ? QString::fromStdString(l->bodyAsset.name)
                                : QString("out");
                   },
               .choices =
                   [] {
                     return QStringList{"out", "from a file..."};
                   },
               .choose =
                   [&c, loadBody](int i) {
                     if (i == 1) return loadBody();
                     c.edit("take body out", [](Layer& l) { l.shape.bodyOn = false; });
                   },
               .without = m.withoutIt("Body", [](Layer& l) { l.shape.bodyOn = false; })});
  f.push_back(m.number(
      "Body wet", "Beside the dry sound", [](Layer& l) -> double& { return l.shape.body.wet; }, 0, 1, kPercent,
      0.25));
  f.push_back(m.number(
      "Body decay", "Of the response, to -60 dB, in ms",
      [](Layer& l) -> double& { return l.shape.body.decayMs; }, 5, 2000, kMs, 120.0));
  f.push_back(m.number(
      "Body damping", "The response is cut above it: a note or Hz",
      [](Layer& l) -> double& { return l.shape.body.dampingHz; }, 50, 20000, kHz, 2000.0));
  f.push_back(m.flag("Room", "A short room above 200 Hz, for tops", "out", "in",
                     [](Layer& l) -> bool& { return l.shape.room.on; }));
  f.push_back(m.number(
      "Room wet", "Beside the dry sound", [](Layer& l) -> double& { return l.shape.room.wet; }, 0, 1, kPercent,
      0.15));
  f.push_back(m.number(
      "Room size", "Until it has died away, in ms", [](Layer& l) -> double& { return l.shape.room.sizeMs; }, 10,
      400, kMs, 60.0));
  f.push_back(m.number(
      "Room damping", "The room is cut above it: a note or Hz",
      [](Layer& l) -> double& { return l.shape.room.dampingHz; }, 500, 20000, kHz, 6000.0));
  return s;
}

FieldSpec pitchField(const LayerMaker& m, const QString& caption, const QString& tip,
                     std::function<double&(Layer&)> at, double low, double high, const QString& editName) {
  LayerChoice& c = m.choice();
  Document& doc = c.document();
  auto set = [edit = m.edit(), at, low, high, editName](double midi, const QString& merge) {
    edit(
        editName, [&](Layer& l) { at(l) = std::clamp(midi, low, high); }, merge);
  };
  auto value = [get = m.get(), at] { return get() ? at(const_cast<Layer&>(*get())) : 33.0; };
  return {.caption = caption,
          .name = caption,
          .tip = tip,
          .text = [=, &doc] { return QString::fromStdString(pitchText(value(), doc.track().notes)); },
          .commit = [=, &doc](const QString& text) -> std::optional<QString> {
            const auto midi = parsePitch(text.toStdString(), doc.track().notes);
            if (!midi) return QString::fromStdString(midi.error().reason);
            if (*midi < low || *midi > high)
              return QString("Write a note from %1 to %2")
                  .arg(QString::fromStdString(noteName(static_cast<int>(low), doc.track().notes)),
                       QString::fromStdString(noteName(static_cast<int>(high), doc.track().notes)));
            set(*midi, {});
            return std::nullopt;
          },
          .step = [=](int steps, bool fine) { set(value() + steps * (fine ? 0.01 : 1.0), caption); },
          .endDrag = [&doc] { doc.endDrag(); }};
}

FieldSection kickVoiceSection(const LayerMaker& m) {
  LayerChoice& c = m.choice();
  Document& doc = c.document();
  FieldSection s{"Voice", {}, {}};
  auto& f = s.fields;
  f.push_back(pitchField(
      m, "Landing", "The note on which the kick lands: a note or Hz",
      [](Layer& l) -> double& { return l.kickVoice()->landingMidi; }, 12, 80, "move landing"));
  f.push_back(lengthField(c));
  f.push_back(wholeLengthField(c));
  FieldSpec start = m.number(
      "Start of fall",
      "How far above its landing the fall starts: 12 and 24 semitones are "
      "usual, scale notes sound at home",
      [](Layer& l) -> double& { return l.kickVoice()->fall.front().semitones; }, -24, 60, kSemitones, 24.0);
  f.push_back(start);
  f.push_back({.caption = "Start on",
               .name = "Start on",
               .tip = "Notes of the key on which the fall could start",
               .text =
                   [&c, &doc] {
                     const Layer* l = c.layer();
                     if (!l || !l->kickVoice()) return QString("-");
                     return QString::fromStdString(
                         pitchText(l->kickVoice()->landingMidi + l->kickVoice()->fall.front().semitones,
                                   doc.track().notes));
                   },
               .choices =
                   [&c, &doc] {
                     QStringList out{"12 st above the landing", "24 st above the landing"};
                     if (!c.layer() || !c.layer()->kickVoice()) return out;
                     for (int midi : startNotes(*c.layer()->kickVoice(), doc.track().key))
                       out << QString::fromStdString(noteName(midi, doc.track().notes));
                     return out;
                   },
               .choose =
                   [&c, &doc](int i) {
                     c.edit("start fall on a note", [&](Layer& l) {
                       if (!l.kickVoice()) return;
                       KickVoice& v = *l.kickVoice();
                       const auto notes = startNotes(v, doc.track().key);
                       v.fall.front().semitones =
                           i < 2 ? 12.0 * (i + 1) : notes[static_cast<size_t>(i - 2)] - v.landingMidi;
                     });
                   }});
  f.push_back(m.choiceOf(
      "Wave", "What is mixed into the sine", namesOf(kAllWaves, waveName),
      [](const Layer& l) { return static_cast<int>(l.kickVoice()->wave); },
      [](Layer& l, int i) { l.kickVoice()->wave = static_cast<WaveKind>(i); }));
  f.push_back(m.number(
      "Richness", "How much of that wave; 0 is a sine",
      [](Layer& l) -> double& { return l.kickVoice()->waveAmount; }, 0, 1, kPercent, 0.0));
  f.push_back(m.number(
      "Attack", "In ms; 0 clicks where the phase does not start at 0",
      [](Layer& l) -> double& { return l.kickVoice()->attackMs; }, 0, 50, kMs, 0.5));
  f.push_back(m.number(
      "Hold", "At full level, as a part of the length", [](Layer& l) -> double& { return l.kickVoice()->hold; },
      0, 0.9, kPercent, 0.08));
  f.push_back(m.number(
      "Decay bend", "0 falls evenly in dB; below it falls at once and rings, above it falls late",
      [](Layer& l) -> double& { return l.kickVoice()->decayBend; }, -1, 1, kPercent, 0.0));
  f.push_back(m.number(
      "Start phase", "Where in its turn every hit starts, in degrees",
      [](Layer& l) -> double& { return l.kickVoice()->startPhaseDegrees; }, 0, 360, kDegrees, 0.0));
  return s;
}

FieldSection strikeSection(const LayerMaker& m) {
  FieldSection s{
      "Strike", m.isIn([](const Layer& l) { return l.kickVoice() && l.kickVoice()->strike.on; }), {}};
  auto& f = s.fields;
  auto strike = [](Layer& l) -> Strike& { return l.kickVoice()->strike; };
  QStringList kinds{"out"};
  kinds += namesOf(kAllStrikes, strikeName);
  f.push_back(m.choiceOf(
      "Strike", "A generated strike at the head of the kick", kinds,
      [strike](const Layer& l) {
        const Strike& x = strike(const_cast<Layer&>(l));
        return x.on ? static_cast<int>(x.kind) + 1 : 0;
      },
      [strike](Layer& l, int i) {
        strike(l).on = i > 0;
        if (i > 0) strike(l).kind = static_cast<StrikeKind>(i - 1);
      }));
  f.push_back(pitchField(
      m, "Strike note", "Its main tone, or the middle of its noise",
      [strike](Layer& l) -> double& { return strike(l).pitchMidi; }, 36, 127, "tune strike"));
  f.push_back(m.number(
      "Strike level", "Its peak re the body's, in dB",
      [strike](Layer& l) -> double& { return strike(l).levelDb; }, -60, 12, kDb, -9.0));
  f.push_back(m.number(
      "Strike lasts for", "To -40 dB, in ms", [strike](Layer& l) -> double& { return strike(l).lengthMs; }, 0.5,
      100, kMs, 6.0));
  f.push_back(m.flag("Route", "Past the drive the strike stays as it is; through it it is bent with the body",
                     "past the drive", "through the drive",
                     [strike](Layer& l) -> bool& { return strike(l).throughDrive; }));
  auto noise = [](Layer& l) -> NoiseBurst& { return l.kickVoice()->noise; };
  f.push_back(m.flag("Noise", "A breath of noise with its own envelope", "out", "in",
                     [noise](Layer& l) -> bool& { return noise(l).on; }));
  f.push_back(m.number(
      "Noise level", "Its peak re the body's, in dB", [noise](Layer& l) -> double& { return noise(l).levelDb; },
      -79.9, 0, kDb, -24.0));
  f.push_back(m.number(
      "Noise rise", "In ms", [noise](Layer& l) -> double& { return noise(l).attackMs; }, 0, 100, kMs, 0.5));
  f.push_back(m.number(
      "Noise length", "To -40 dB, in ms", [noise](Layer& l) -> double& { return noise(l).lengthMs; }, 1, 1000,
      kMs, 40.0));
  f.push_back(m.number(
      "Noise from", "Low cut: a note or Hz", [noise](Layer& l) -> double& { return noise(l).lowCutHz; }, 20,
      18000, kHz, 400.0));
  f.push_back(m.number(
      "Noise to", "High cut: a note or Hz", [noise](Layer& l) -> double& { return noise(l).highCutHz; }, 50,
      20000, kHz, 9000.0));
  return s;
}

FieldSection bassVoiceSection(const LayerMaker& m) {
  FieldSection s{"Voice", {}, {}};
  auto& f = s.fields;
  auto voice = [](Layer& l) -> BassVoice& { return *l.bassVoice(); };
  f.push_back(m.number(
      "2nd partial", "Level of the octave above, in dB",
      [voice](Layer& l) -> double& { return voice(l).partialDb[1]; }, kOffDb, 12, kDb, -24.0));
  f.push_back(m.number(
      "3rd partial", "Level of the twelfth above, in dB",
      [voice](Layer& l) -> double& { return voice(l).partialDb[2]; }, kOffDb, 12, kDb, -32.0));
  f.push_back(m.number(
      "Octave below", "Level in dB", [voice](Layer& l) -> double& { return voice(l).octaveBelowDb; }, kOffDb,
      12, kDb, kOffDb));
  f.push_back(m.number(
      "Bass attack", "In ms", [voice](Layer& l) -> double& { return voice(l).attackMs; }, 0, 500, kMs, 3.0));
  f.push_back(m.number(
      "Bass decay", "From the peak to the sustain, in ms",
      [voice](Layer& l) -> double& { return voice(l).decayMs; }, 1, 5000, kMs, 180.0));
  f.push_back(m.number(
      "Sustain", "Below the peak, in dB: the ear hears the peak",
      [voice](Layer& l) -> double& { return voice(l).sustainDb; }, -60, 0, kDb, -6.0));
  f.push_back(m.number(
      "Release", "To -60 dB, in ms", [voice](Layer& l) -> double& { return voice(l).releaseMs; }, 1, 5000, kMs,
      40.0));
  f.push_back(m.number(
      "Glide", "Into a tied note, in ms", [voice](Layer& l) -> double& { return voice(l).glideMs; }, 0, 2000,
      kMs, 60.0));
  f.push_back(m.flag("Start",
                     "Fixed, every note starts at the same phase; free, each where the wave happens to be",
                     "fixed", "free running", [voice](Layer& l) -> bool& { return voice(l).freePhase; }));
  f.push_back(m.number(
      "Phase", "Where in its turn every note starts, in degrees",
      [voice](Layer& l) -> double& { return voice(l).startPhaseDegrees; }, 0, 360, kDegrees, 0.0));
  return s;
}

FieldSection bandsSection(const LayerMaker& m) {
  FieldSection s{"Mid and high",
                 m.isIn([](const Layer& l) {
                   return l.bassVoice() &&
                          (l.bassVoice()->mid.levelDb > kOffDb || l.bassVoice()->high.levelDb > kOffDb);
                 }),
                 {}};
  auto& f = s.fields;
  auto mid = [](Layer& l) -> MidBand& { return l.bassVoice()->mid; };
  auto high = [](Layer& l) -> HighBand& { return l.bassVoice()->high; };
  f.push_back(m.number(
      "Mid level", "In dB; out leaves the band out", [mid](Layer& l) -> double& { return mid(l).levelDb; },
      kOffDb, 12, kDb, kOffDb));
  f.push_back(m.choiceOf(
      "Mid wave", "What is driven", namesOf(kAllWaves, waveName),
      [mid](const Layer& l) { return static_cast<int>(mid(const_cast<Layer&>(l)).wave); },
      [mid](Layer& l, int i) { mid(l).wave = static_cast<WaveKind>(i); }));
  f.push_back(m.number(
      "Mid noise", "Into the drive, in dB", [mid](Layer& l) -> double& { return mid(l).noiseDb; }, kOffDb, 0,
      kDb, -36.0));
  f.push_back(m.choiceOf(
      "Mid drive", "Its character", namesOf(kAllDrives, driveWord),
      [mid](const Layer& l) { return static_cast<int>(mid(const_cast<Layer&>(l)).drive.kind); },
      [mid](Layer& l, int i) { mid(l).drive.kind = static_cast<DriveKind>(i); }));
  f.push_back(m.number(
      "Mid amount", "Of the drive, in dB", [mid](Layer& l) -> double& { return mid(l).drive.driveDb; }, 0, 30,
      kDb, 12.0));
  f.push_back(m.number(
      "Mid low cut", "After the drive: a note or Hz", [mid](Layer& l) -> double& { return mid(l).lowCutHz; },
      20, 5000, kHz, 120.0));
  f.push_back(m.number(
      "High level", "In dB; out leaves the band out", [high](Layer& l) -> double& { return high(l).levelDb; },
      kOffDb, 12, kDb, kOffDb));
  f.push_back(m.choiceOf(
      "High kind", "A tone that another bends, or noise", {"fm", "noise"},
      [high](const Layer& l) { return static_cast<int>(high(const_cast<Layer&>(l)).kind); },
      [high](Layer& l, int i) { high(l).kind = static_cast<HighBand::Kind>(i); }));
  f.push_back(m.number(
      "High ratio", "Of its tone to the note", [high](Layer& l) -> double& { return high(l).ratio; }, 1, 40,
      kNumber, 7.0));
  f.push_back(m.number(
      "High index", "How far it is bent", [high](Layer& l) -> double& { return high(l).index; }, 0, 20, kNumber,
      1.5));
  f.push_back(m.number(
      "High low cut", "A note or Hz", [high](Layer& l) -> double& { return high(l).lowCutHz; }, 100, 12000, kHz,
      800.0));
  f.push_back(m.number(
      "High decay", "To -40 dB, in ms", [high](Layer& l) -> double& { return high(l).decayMs; }, 5, 5000, kMs,
      200.0));
  f.push_back(m.number(
      "Bass width", "Of mid and high; the low band is mono",
      [](Layer& l) -> double& { return l.bassVoice()->width; }, 0, 1, kPercent, 0.0));
  f.push_back(m.number(
      "Wide from", "Mono below it: a note or Hz",
      [](Layer& l) -> double& { return l.bassVoice()->widthFromHz; }, 100, 5000, kHz, 250.0));
  return s;
}

// How a part's finish goes over it.
FieldSpec finishOverField(LayerChoice& c) {
  FieldSpec f;
  f.caption = "Works on";
  f.name = "Finish works on";
  f.tip =
      "Each hit by itself, so that a one-shot is what is heard; or the lane as it runs, so that what plays at "
      "once is held together";
  f.text = [&c] { return QString(c.part().finishOver == FinishOver::Lane ? "the lane" : "each hit"); };
  f.choices = [] { return QStringList{"each hit", "the lane"}; };
  f.choose = [&c](int i) {
    c.document().edit(setFinishOver(c.part(), i ? FinishOver::Lane : FinishOver::Hits));
  };
  return f;
}

FieldSection finishSection(const FinishMaker& m, LayerChoice& c) {
  FieldSection s{c.isSum() ? "Sum finish" : "Finish", m.isIn([](const Finish& x) { return x.works(); }), {}};
  auto& f = s.fields;
  f.push_back(m.flag("Finish", "Takes the part's whole finish in or out", "out", "in",
                     [](Finish& x) -> bool& { return x.on; }));
  f.push_back(m.flag("Compressor", "Levels the sum of the layers", "out", "in",
                     [](Finish& x) -> bool& { return x.compressor.on; }));
  f.push_back(m.number(
      "Threshold", "In dB", [](Finish& x) -> double& { return x.compressor.thresholdDb; }, -60, 0, kDb, -18.0));
  f.push_back(m.number(
      "Ratio", "To one", [](Finish& x) -> double& { return x.compressor.ratio; }, 1, 100, kNumber, 3.0));
  f.push_back(m.number(
      "Knee", "In dB", [](Finish& x) -> double& { return x.compressor.kneeDb; }, 0, 40, kDb, 6.0));
  f.push_back(m.number(
      "Comp attack", "To 1 - 1/e, in ms", [](Finish& x) -> double& { return x.compressor.attackMs; }, 0, 500,
      kMs, 5.0));
  f.push_back(m.number(
      "Comp release", "To 1 - 1/e, in ms", [](Finish& x) -> double& { return x.compressor.releaseMs; }, 1, 5000,
      kMs, 60.0));
  f.push_back(m.number(
      "Make-up gain", "After the compressor, in dB", [](Finish& x) -> double& { return x.compressor.makeupDb; },
      -kMostMakeupDb, kMostMakeupDb, kDb, 0.0));
  f.push_back(m.flag("Soft clip", "Bends what nears the ceiling", "out", "in",
                     [](Finish& x) -> bool& { return x.softClip.on; }));
  f.push_back(m.number(
      "Clip knee", "How far under the ceiling it begins, in dB",
      [](Finish& x) -> double& { return x.softClip.kneeDb; }, 0.1, 24, kDb, 3.0));
  f.push_back(m.number(
      "Clip ceiling", "In dB", [](Finish& x) -> double& { return x.softClip.ceilingDb; }, -24, 0, kDb, -0.5));
  f.push_back(m.flag("Limiter", "No sample passes its ceiling", "out", "in",
                     [](Finish& x) -> bool& { return x.limiter.on; }));
  f.push_back(m.number(
      "Ceiling", "In dB", [](Finish& x) -> double& { return x.limiter.ceilingDb; }, -24, 0, kDb, -0.5));
  if (!c.isSum()) f.push_back(finishOverField(c));
  f.push_back(m.flag(c.isSum()        ? "Sum width"
                     : c.playsNotes() ? "Part width"
                                      : "Kick width",
                     "Makes the whole part mono", "normal", "mono", [](Finish& x) -> bool& { return x.mono; }));
  f.back().without = m.withoutIt("mono fold", [](Finish& x) { x.mono = false; });
  return s;
}

// Of a part's finish, or of the sum's.
std::vector<FieldSection> finishSections(LayerChoice& c) {
  const FinishMaker finish(
      c, [&c] { return &c.finish(); },
      [&c](const QString& name, const std::function<void(Finish&)>& change, const QString& merge) {
        c.editFinish(name, change, merge);
      },
      [&c] {
        return [sum = c.isSum(), id = c.part().id](Session& s) -> Finish* {
          return sum ? &s.sum.finish : s.part(id) ? &s.part(id)->finish : nullptr;
        };
      });
  const QString of = c.isSum() ? "Sum" : "Part";
  std::vector<FieldSection> out;
  FieldSection eq = eqSection<Finish>(finish, [](Finish& f) -> Eq& { return f.eq; });
  eq.name = of + " EQ";
  out.push_back(std::move(eq));
  out.push_back(driveSection<Finish>(finish, of + " drive", [](Finish& f) -> Drive& { return f.drive; }));
  out.push_back(finishSection(finish, c));
  return out;
}

std::vector<FieldSection> backingSections(LayerChoice& c) {
  Document& doc = c.document();
  FieldSection s{"Sound", {}, {}};
  // The same as at the lane's head.
  FieldSpec level = laneLevelField(doc, kBackingLane);
  level.caption = level.name = "Level";
  s.fields.push_back(std::move(level));
  s.fields.push_back({.caption = "Mute",
                      .name = "Backing mute",
                      .tip = "Takes the backing out of the sum, in this session and its export",
                      .text = [&doc] { return QString(doc.session().backing.mute ? "muted" : "heard"); },
                      .choices =
                          [] {
                            return QStringList{"heard", "muted"};
                          },
                      .choose =
                          [&doc](int i) {
                            doc.edit(i ? "mute backing" : "unmute backing",
                                     [i](Session& x) { x.backing.mute = i == 1; });
                          }});
  s.fields.push_back({.caption = "Offset",
                      .name = "Backing offset",
                      .tip = "The moment of the file on the loop's start: 0.52 s, 250 ms, 2 beats, 1 bar; "
                             "negative starts it later. Delete: its first.",
                      .text =
                          [&doc] {
                            return QString::fromStdString(formatNumber(doc.session().backing.offsetSeconds, 3)) + " s";
                          },
                      .commit = [&doc](const QString& text) -> std::optional<QString> {
                        const auto seconds = parseOffset(text.toStdString(), doc.track());
                        if (!seconds) return QString::fromStdString(seconds.error().reason);
                        doc.edit("set backing offset", [&](Session& x) { x.backing.offsetSeconds = *seconds; });
                        return std::nullopt;
                      },
                      .step =
                          [&doc](int steps, bool fine) {
                            doc.edit(
                                "set backing offset",
                                [&](Session& x) {
                                  x.backing.offsetSeconds = std::clamp(
                                      x.backing.offsetSeconds + steps * (fine ? 0.001 : 0.01), -600.0, 600.0);
                                },
                                "backing offset");
                          },
                      .endDrag = [&doc] { doc.endDrag(); },
                      .reset =
                          [&doc] {
                            doc.edit("reset backing offset", [](Session& x) { x.backing.offsetSeconds = 0.0; });
                          }});
  s.fields.push_back(
      {.caption = "Low cut",
       .name = "Backing low cut",
       .tip = "Takes its lows out below a note or 20 to 1000 Hz, 24 dB an octave, to hear whether that helps. "
              "Delete "
              "takes the cut out.",
       .text =
           [&doc] {
             const auto hz = doc.session().backing.lowCutHz;
             return hz ? QString::fromStdString(hzText(*hz)) : QString("out");
           },
       .commit = [&doc](const QString& text) -> std::optional<QString> {
         const bool out = text.trimmed().compare("out", Qt::CaseInsensitive) == 0;
         const auto midi = parsePitch(text.toStdString(), doc.track().notes);
         const double hz = out ? 0.0 : midi ? hzFromMidi(*midi, doc.track().notes.a4Hz) : -1.0;
         if (hz != 0.0 && (hz < 20 || hz > 1000))
           return "Write a note or a frequency from 20 to 1000 Hz, or out";
         doc.edit("set backing low cut",
                  [&](Session& x) { x.backing.lowCutHz = out ? std::nullopt : std::optional(hz); });
         return std::nullopt;
       },
       .step =
           [&doc](int steps, bool fine) {
             doc.edit(
                 "set backing low cut",
                 [&](Session& x) {
                   const double now = x.backing.lowCutHz.value_or(80.0);
                   x.backing.lowCutHz = std::clamp(now * std::exp2(steps * (fine ? 0.01 : 1.0 / 12.0)), 20.0, 1000.0);
                 },
                 "backing low cut");
           },
       .endDrag = [&doc] { doc.endDrag(); },
       .reset =
           [&doc] {
             doc.edit("take the backing's low cut out", [](Session& x) { x.backing.lowCutHz.reset(); });
           },
       .without =
           [] {
             return Before{"No low cut", [](Session x) {
                             x.backing.lowCutHz.reset();
                             return x;
                           }};
           }});
  return {s};
}

}  // namespace

std::optional<Before> FieldSection::without() const {
  if (!isIn) return std::nullopt;
  std::vector<std::function<Session(Session)>> all;
  for (const FieldSpec& f : fields)
    if (f.without) all.push_back(f.without().of);
  return Before{nameWithout(name).toStdString(), [all](Session s) {
                  for (const auto& one : all) s = one(std::move(s));
                  return s;
                }};
}

std::vector<FieldSection> sectionsOf(LayerChoice& c, const std::function<void()>& loadBody) {
  if (c.isBacking()) return backingSections(c);
  if (c.isSum()) return finishSections(c);
  const Layer* layer = c.layer();
  if (!layer) return {};
  // A field may outlive the kind of layer that it was made for, in the middle of a drag: then it does nothing.
  auto fits = [kind = layer->what.index()](const Layer& l) { return l.what.index() == kind; };
  const LayerMaker m(
      c,
      [&c, fits]() -> const Layer* {
        const Layer* l = c.layer();
        return l && fits(*l) ? l : nullptr;
      },
      [&c, fits](const QString& name, const std::function<void(Layer&)>& change, const QString& merge) {
        c.edit(
            name,
            [&](Layer& l) {
              if (fits(l)) change(l);
            },
            merge);
      },
      [&c, fits] {
        return [part = c.part().id, id = c.layer() ? c.layer()->id : 0, fits](Session& s) -> Layer* {
          Layer* l = s.part(part) ? s.part(part)->layer(id) : nullptr;
          return l && fits(*l) ? l : nullptr;
        };
      });
  std::vector<FieldSection> out;
  if (layer->kickVoice()) {
    out.push_back(kickVoiceSection(m));
    out.push_back(strikeSection(m));
    FieldSection drive =
        driveSection<Layer>(m, "Drive", [](Layer& l) -> Drive& { return l.kickVoice()->drive; });
    out.push_back(std::move(drive));
  }
  if (layer->bassVoice()) {
    out.push_back(bassVoiceSection(m));
    out.push_back(bandsSection(m));
  }
  out.push_back(soundSection(m));
  out.push_back(hitsSection(m));
  out.push_back(eqSection<Layer>(m, [](Layer& l) -> Eq& { return l.shape.eq; }));
  out.push_back(strikeSustainSection(m));
  if (!layer->kickVoice())
    out.push_back(driveSection<Layer>(m, "Drive", [](Layer& l) -> Drive& { return l.shape.drive; }));
  out.push_back(spaceSection(m, loadBody));
  for (FieldSection& section : finishSections(c)) out.push_back(std::move(section));
  return out;
}

}  // namespace heft::app

#include "app/fields/layer_specials.h"

#include <algorithm>
#include <cmath>

#include "app/widgets/unit_words.h"
#include "core/session/edits/sounds.h"
#include "core/session/edits/values.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

// The range that a layer's length is set in.
Range lengthRange(const LayerChoice& c) {
  const auto owner = c.layerOwner();
  for (const char* key : {"built_kick.length", "recorded.length"})
    if (const auto v = owner ? valueAt(c.document().session(), *owner, key) : std::nullopt) return v->range;
  return {};
}

// A length within the range, or a sentence.
Result<TimeValue> typedLength(const QString& text, const Range& range, const Track& track) {
  const auto time = parseTime(text.section(',', 0, 0).section('(', 0, 0).trimmed().toStdString());
  if (!time) return Fail(time.error());
  const double ms = time->toMs(track.tempoBpm);
  if (ms < range.low || ms > range.high)
    return badUsage("Write a length from " + formatNumber(range.low, 0) + " ms to " +
                    formatNumber(range.high / 1000.0, 0) + " s, or a note such as 1/16");
  return time;
}

// `words`: what undo says before the length.
FieldSpec anyLengthField(LayerChoice& c, Lengthen how, const std::string& words, const std::string& merge) {
  Document& doc = c.document();
  auto set = [&c, &doc, how](const std::string& name, const TimeValue& length, const std::string& key) {
    if (const auto owner = c.layerOwner())
      doc.edit(setLayerLength(name, *owner->part, *owner->layer, length, how, key));
  };
  FieldSpec f;
  f.text = [&c, &doc] {
    const auto own = c.layer() ? c.layer()->ownLength() : std::nullopt;
    return own ? timeText(*own, doc.track().tempoBpm) : QString("as recorded");
  };
  f.commit =
      typedAs([&c, &doc](const QString& typed) { return typedLength(typed, lengthRange(c), doc.track()); },
              [set, words](const TimeValue& length) { set(words + " to " + length.text(), length, {}); });
  f.step = [&c, &doc, set, words, merge](int steps, bool fine) {
    const auto own = c.layer() ? c.layer()->ownLength() : std::nullopt;
    if (!own) return;
    const Range range = lengthRange(c);
    const double to = std::round(own->toMs(doc.track().tempoBpm)) + steps * (fine ? 1.0 : 5.0);
    set(words, TimeValue::milliseconds(std::clamp(to, range.low, range.high)), merge);
  };
  f.endDrag = [&doc] { doc.endDrag(); };
  return f;
}

}  // namespace

FieldSpec lengthField(LayerChoice& c) {
  FieldSpec f = anyLengthField(c, Lengthen::Tail, "set kick length", "length");
  f.caption = f.name = "Kick length";
  f.tip =
      "Trim the tail to -40 dB at this length: 1/16, or 20 ms to 5 s (recordings 10 s). Delete removes the "
      "trim";
  f.reset = [&c] {
    if (const auto owner = c.layerOwner())
      c.document().edit(putValue("remove trim", *owner, "recorded.length", Value()));
  };
  return f;
}

FieldSpec wholeLengthField(LayerChoice& c) {
  FieldSpec f = anyLengthField(c, Lengthen::Whole, "scale the kick", "whole length");
  f.caption = f.name = "Whole length";
  f.tip = "Scale the whole sound to this length, pitch fall included: 1/16, or 20 ms to 5 s";
  return f;
}

FieldSpec tailTargetField(Document& doc) {
  auto owner = [&doc] { return Owner{.part = doc.session().kick().id}; };
  FieldSpec f;
  f.caption = f.name = "Tail target";
  f.tip =
      "Target tail length: 1/16, or 20 ms to 10 s. Delete: use the kick length or the gap to the next bass "
      "note";
  f.text = [&doc] {
    const TailTarget t = tailTargetOf(doc.session());
    return timeText(t.length, doc.track().tempoBpm) + (t.from == TailTarget::From::Set      ? ""
                                                       : t.from == TailTarget::From::Length ? " (its length)"
                                                       : t.from == TailTarget::From::Gap    ? " (the gap)"
                                                                                            : " (usual)");
  };
  f.commit = typedAs(
      [&doc, owner](const QString& words) {
        return typedLength(words, rangeOf(doc, owner(), "tail_target"), doc.track());
      },
      [&doc, owner](const TimeValue& length) {
        doc.edit(putValue("set tail target", owner(), "tail_target", length));
      });
  f.reset = [&doc, owner] {
    doc.edit(putValue("leave the tail target to the pattern", owner(), "tail_target", Value()));
  };
  return f;
}

FieldSpec tailField(LayerChoice& c) {
  FieldSpec f;
  f.caption = f.name = "Tail";
  f.tip = "Measured time from the part's onset until it is last above 40 dB below its peak";
  f.text = [&c] {
    const Study* s = c.document().study();
    const auto facts = s && !c.isBacking() ? s->soundOf(c.part().id) : nullptr;
    return facts && facts->onsetSeconds ? QString::fromStdString(formatNumber(facts->tailMs, 0)) + " ms"
                                        : QString("none");
  };
  return f;
}

FieldSpec playsOnField(LayerChoice& c) {
  FieldSpec f;
  f.caption = f.name = "Plays on";
  f.tip = "Hits or notes that play this layer. Ctrl+click one in the loop to switch it";
  f.text = [&c] {
    const Layer* l = c.layer();
    if (!l) return QString("-");
    const size_t rests = eventsWithout(c.part(), l->id), all = c.part().hits.size() + c.part().notes.size();
    return rests == 0 ? QString("every one") : QString("%1 of %2").arg(all - rests).arg(all);
  };
  f.choices = [] { return QStringList{"every one", "the first of each bar", "all but the first of each bar"}; };
  f.choose = [&c](int i) {
    if (const auto owner = c.layerOwner())
      c.document().edit(setPlaysOn(*owner->part, *owner->layer, static_cast<PlaysOn>(i)));
  };
  return f;
}

FieldSpec bodyField(LayerChoice& c, const std::function<void()>& loadBody) {
  FieldSpec f;
  f.caption = f.name = "Body";
  f.tip = "Impulse response for the body convolution";
  f.text = [&c] {
    const Body* body = c.processor() ? c.processor()->as<Body>() : nullptr;
    return body && !body->asset.empty() ? QString::fromStdString(body->asset.name) : QString("no sound yet");
  };
  f.choices = [] { return QStringList{"from a file..."}; };
  f.choose = [loadBody](int) { loadBody(); };
  return f;
}

FieldSpec startOnField(LayerChoice& c) {
  Document& doc = c.document();
  auto voice = [&c]() -> const KickVoice* { return c.layer() ? c.layer()->kickVoice() : nullptr; };
  FieldSpec f;
  f.caption = f.name = "Start on";
  f.tip = "Notes of the key on which the fall could start";
  f.text = [&doc, voice] {
    const KickVoice* v = voice();
    return v ? QString::fromStdString(pitchText(v->landingMidi + v->fall.front().semitones, doc.track().notes))
             : QString("-");
  };
  f.choices = [&doc, voice] {
    QStringList out{"12 st above the landing", "24 st above the landing"};
    if (const KickVoice* v = voice())
      for (int midi : startNotes(*v, doc.track().key))
        out << QString::fromStdString(noteName(midi, doc.track().notes));
    return out;
  };
  f.choose = [&c, &doc, voice](int i) {
    const KickVoice* v = voice();
    const auto owner = c.layerOwner();
    if (!v || !owner) return;
    const auto notes = startNotes(*v, doc.track().key);
    const double start = i < 2 ? 12.0 * (i + 1) : notes[static_cast<size_t>(i - 2)] - v->landingMidi;
    doc.edit(putValue("start fall on a note", *owner, "built_kick.fall.0.semitones", start));
  };
  return f;
}

}  // namespace heft::app

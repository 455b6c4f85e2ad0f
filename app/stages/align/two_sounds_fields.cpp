#include "app/stages/align/two_sounds_fields.h"

#include <cmath>

#include "app/stages/align/align_picture.h"
#include "core/session/edits/pair.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

FieldSpec soundField(Document& doc, TwoSoundsPicture& picture, bool second,
                     const std::function<void()>& chosen) {
  FieldSpec f;
  f.caption = second ? "Moves" : "Stays";
  f.name = second ? "Moved sound" : "Still sound";
  f.tip = second ? "The sound that is moved: a part, or a layer of one"
                 : "The sound that the other is held against";
  f.text = [&doc, &picture, second] {
    return QString::fromStdString(soundTitle(doc.session(), second ? picture.second() : picture.first()));
  };
  f.choices = [&doc] {
    QStringList out;
    for (const SoundRef& ref : soundsOf(doc.session()))
      out << QString::fromStdString(soundTitle(doc.session(), ref));
    return out;
  };
  f.choose = [&doc, &picture, second, chosen](int i) {
    const auto all = soundsOf(doc.session());
    if (i < 0 || i >= static_cast<int>(all.size())) return;
    picture.choose(second, all[static_cast<size_t>(i)]);
    chosen();
  };
  return f;
}

FieldSpec strikesField(TwoSoundsPicture& picture) {
  FieldSpec f;
  f.caption = f.name = "Strikes";
  f.tip = "Time between the two strikes, each at half its peak. Align them to a fraction of a sample";
  f.text = [&picture] {
    const TwoSounds* found = picture.found();
    if (!found || !found->strikesApartMs) return QString("-");
    const double ms = *found->strikesApartMs;
    return std::abs(ms) < 0.0005
               ? QString("together")
               : QString::fromStdString(fixedNumber(std::abs(ms), 3)) + (ms > 0 ? " ms late" : " ms early");
  };
  f.choices = [] { return QStringList{"bring together"}; };
  f.choose = [&picture](int) { picture.lineUpStrikes(); };
  return f;
}

FieldSpec bestField(TwoSoundsPicture& picture) {
  FieldSpec f;
  f.caption = "Best";
  f.name = "Best for two";
  f.tip = "Best delay and polarity over all events, and the phase loss left";
  f.text = [&picture] {
    const TwoSounds* found = picture.found();
    if (!found) return QString("-");
    if (!found->best.overlap) return QString("they never overlap");
    const bool moves = found->best.delayMs != 0.0 || found->best.invert;
    return moveWords(found->best) + (moves ? ": " + dbText(found->best.afterDb) : QString());
  };
  f.choices = [] { return QStringList{"Apply"}; };
  f.choose = [&picture](int) { picture.useBest(); };
  return f;
}

}  // namespace

FieldSpec alignBandField(Document& doc, const OwnerNow& judged, const QString& name) {
  const auto part = [&doc, judged]() -> const Part* {
    const auto owner = judged();
    return owner && owner->part ? doc.session().part(*owner->part) : nullptr;
  };
  FieldSpec f;
  f.caption = "Band";
  f.name = name;
  f.tip = "Band to compare, 10 to 1000 Hz, such as 20 to 150 Hz or E0 to D3. Delete resets it";
  f.text = [part] {
    const AlignQuestion q = part() ? part()->align.question : AlignQuestion{};
    return QString("%1 to %2 Hz")
        .arg(QString::fromStdString(formatNumber(q.lowHz, 1)),
             QString::fromStdString(formatNumber(q.highHz, 1)));
  };
  f.commit = [&doc, part](const QString& text) -> std::optional<QString> {
    const auto band = parseHzRange(text.toStdString(), doc.track().notes);
    if (!band) return QString::fromStdString(band.error().reason);
    if (!part()) return std::nullopt;
    const Owner owner{.part = part()->id};
    const double low = rangeOf(doc, owner, "align.low_hz").low,
                 high = rangeOf(doc, owner, "align.high_hz").high;
    if (band->lowHz < low || band->highHz > high)
      return QString("Write a band between %1 and %2 Hz").arg(low).arg(high);
    doc.edit(setAlignBand(*part(), band->lowHz, band->highHz));
    return std::nullopt;
  };
  f.reset = [&doc, part] {
    const AlignQuestion usual;
    if (part()) doc.edit(setAlignBand(*part(), usual.lowHz, usual.highHz));
  };
  return f;
}

std::vector<FieldSpec> twoSoundsFields(Document& doc, TwoSoundsPicture& picture,
                                       const std::function<void()>& chosen) {
  const SoundRef moved = picture.second();
  const OwnerNow owner = [moved]() -> std::optional<Owner> {
    return Owner{.part = moved.part, .layer = moved.layer};
  };
  std::vector<FieldSpec> out = {soundField(doc, picture, false, chosen),
                                soundField(doc, picture, true, chosen)};
  FieldSpec delay =
      fieldOf(doc, owner,
              FieldWords{moved.layer ? "offset_ms" : "align.delay_ms", moved.layer ? "Offset" : "Delay",
                         "How much later it starts; negative is earlier"}
                  .called("Moved sound's delay"));
  delay.text = [&doc, owner, moved] {
    const auto v = valueAt(doc.session(), *owner(), moved.layer ? "offset_ms" : "align.delay_ms");
    return v ? signedMs(std::get<double>(v->now)) : QString("-");
  };
  out.push_back(std::move(delay));
  out.push_back(
      fieldOf(doc, owner,
              FieldWords{moved.layer ? "invert" : "align.invert", "Polarity", "Turns its polarity over"}
                  .called("Moved sound's polarity")
                  .oneOf(eitherOf("normal", "inverted"))));
  out.push_back(alignBandField(doc, owner, "Two sounds band"));
  out.push_back(strikesField(picture));
  out.push_back({.caption = "Now",
                 .name = "Two sounds' level",
                 .tip = "Phase loss of the sum over all events",
                 .text = [&picture] {
                   const TwoSounds* found = picture.found();
                   return found && found->best.overlap ? dbText(found->nowDb) : QString("none");
                 }});
  out.push_back(bestField(picture));
  return out;
}

}  // namespace heft::app

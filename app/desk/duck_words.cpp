#include "app/desk/duck_words.h"

#include "app/theme/theme.h"
#include "app/widgets/unit_words.h"
#include "core/theory/text.h"

namespace heft::app {

QString msText(double value) {
  return QString::fromStdString(formatNumber(value, value < 10 ? 1 : 0)) + " ms";
}

QString depthText(double depthDb) {
  return depthDb >= kSilentDepthDb ? QString("silence")
         : depthDb <= 0            ? QString("0 dB")
                                   : "-" + dbText(depthDb, 1, false);
}

const ResolvedDuck* resolvedDuck(const Document& document, const Duck& duck) {
  if (!document.stems()) return nullptr;
  for (const ResolvedDuck& d : document.stems()->ducks)
    if (d.id == duck.id) return &d;
  return nullptr;
}

const DuckFacts* duckFacts(const Document& document, const Duck& duck) {
  if (!document.study()) return nullptr;
  for (const DuckFacts& f : document.study()->ducks)
    if (f.id == duck.id) return &f;
  return nullptr;
}

QString triggerWords(const Session& s, const DuckSource& source) {
  switch (source.kind) {
    case TriggerKind::Part: {
      const Part* part = s.part(source.part);
      return part ? QString::fromStdString(part->title()) + (part->playsNotes() ? "'s notes" : "'s hits")
                  : QString("a part that is gone");
    }
    case TriggerKind::Audio:
      return source.asset.name.empty() ? QString("a sound") : QString::fromStdString(source.asset.name);
    case TriggerKind::Midi:
      return source.midiName.empty() ? QString("a MIDI file") : QString::fromStdString(source.midiName);
    case TriggerKind::Drawn:
      break;
  }
  return "drawn hits";
}

QString listenWords(const DuckSource& s) {
  auto hz = [](double v) { return QString::fromStdString(hzText(v)); };
  if (s.lowCutHz && s.highCutHz) return hz(*s.lowCutHz) + " to " + hz(*s.highCutHz);
  if (s.lowCutHz) return "above " + hz(*s.lowCutHz);
  if (s.highCutHz) return "below " + hz(*s.highCutHz);
  return s.kind == TriggerKind::Audio ? "below " + hz(s.detector().highCutHz) : QString("full band");
}

QString targetWords(const Session& s, const DuckTarget& target) {
  if (target.kind == DuckTargetKind::Backing) return "Backing";
  const Part* part = s.part(target.part);
  if (!part) return "a part that is gone";
  const QString title = QString::fromStdString(part->title());
  const Layer* layer = target.kind == DuckTargetKind::Layer ? part->layer(target.layer) : nullptr;
  return layer ? title + QString(", layer %1").arg(layer - part->layers.data() + 1) : title;
}

QColor triggerColour(const Session& s, const DuckSource& source) {
  const Part* part = source.kind == TriggerKind::Part ? s.part(source.part) : nullptr;
  return part ? colourOf(*part) : theme().kick;
}

QColor targetColour(const Session& s, const DuckTarget& target) {
  const Part* part = target.kind == DuckTargetKind::Backing ? nullptr : s.part(target.part);
  return part ? colourOf(*part) : theme().muted;
}

QString verdictWords(const LaneHit& hit) {
  const QString under = dbText(hit.strengthDb, 1);
  switch (hit.verdict) {
    case HitVerdict::Hit:
      return hit.byHand && hit.fileSeconds ? "triggers: set by hand" : "triggers";
    case HitVerdict::Doubtful:
      return "triggers, doubtful: different band from most (" + under + ")";
    case HitVerdict::UnderThreshold:
      return "nearly: under the threshold (" + under + ")";
    case HitVerdict::TooSoon:
      return "nearly: too soon after the one before (" + under + ")";
    case HitVerdict::OtherDrum:
      return hit.byHand ? QString("ignored: removed by hand")
                        : "near miss: soft, and another drum (" + under + ")";
  }
  return {};
}

}  // namespace heft::app

#include "app/stages/processor_picture.h"

#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
#include "core/measure/spectrum.h"
#include "core/session/edits/values.h"

namespace heft::app {

ProcessorPicture::ProcessorPicture(LayerChoice& choice, Selection& selection, const QString& name)
    : Picture(choice.document(), selection, name), choice_(choice) {
  connect(&choice_, &LayerChoice::changed, this, &ProcessorPicture::measure);
  connect(&choice_.document(), &Document::heardChanged, this, &ProcessorPicture::measure);
  connect(&choice_.document(), &Document::heardChanged, this, qOverload<>(&ProcessorPicture::update));
  connect(&choice_.document(), &Document::rendered, this, &ProcessorPicture::measure);
}

void ProcessorPicture::measure() {
  if (!isVisible() || !processor()) return;
  using Found = std::pair<std::optional<ChainPlace>, std::optional<ProcessorLook>>;
  aside_.ask(
      this,
      [this] {
        return [s = document().heardSession(), at = choice_.chainPlace(), assets = document().assets(),
                cache = document().cache()]() -> Found {
          if (!at || !at->id) return {};
          return {at, lookAt(s, at->of, *at->id, assets, *cache)};
        };
      },
      [this](Found found) {
        lookedAt_ = found.first, look_ = std::move(found.second);
        update();
      },
      document().failing());
}

QString ProcessorPicture::withKept(const QString& words) const {
  if (!look() || !look()->keptDb || !processor()->keepsLoudness) return words;
  return words + "; loudness kept: " + dbText(*look()->keptDb);
}

QColor ProcessorPicture::ink() const {
  const auto& at = choice_.chainPlace();
  const Part* part = at && at->of.part ? document().session().part(*at->of.part) : nullptr;
  return part ? colourOf(*part) : theme().ink;
}

void ProcessorPicture::drawNothing(QPainter& p) const {
  drawEmpty(p, isMeasuring() ? "Measuring..." : "What this does to the sound is drawn here once there is one.");
}

void ProcessorPicture::put(const std::string& name, std::vector<ValuePut> values, bool dragged) {
  const auto& at = choice_.chainPlace();
  if (!at || !at->id) return;
  document().takeHeard();
  document().edit(putValues(name, at->owner(), std::move(values),
                            dragged ? name + " " + std::to_string(*at->id) : std::string()));
}

void ProcessorPicture::drawKeyNotes(QPainter& p, const Axis& hz, const QRectF& area) const {
  const Theme& t = theme();
  const Key& key = track().key;
  constexpr double kTopHz = 500.0, kRoom = 26.0;
  double wordsEnd = -1e9;
  for (int midi = 12; midi < 96; ++midi) {
    const double at = hzFromMidi(midi, track().notes.a4Hz);
    if (!key.contains(midi) || at < hz.from || at > kTopHz) continue;
    const bool tonic = ((midi - key.tonic) % 12 + 12) % 12 == 0;
    const double x = std::round(hz.pixel(at)) + 0.5;
    p.setPen(QPen(tonic ? withAlpha(t.muted, 0.75) : t.rule, 1.0));
    p.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()));
    if (!tonic || x - kRoom / 2 < wordsEnd) continue;
    p.setFont(axisFont(true));
    drawLabel(p, QPointF(x, area.top() - 2), Qt::AlignHCenter | Qt::AlignBottom, noteText(midi), t.muted,
              QColor(0, 0, 0, 0));
    wordsEnd = x + kRoom / 2;
  }
}

double ProcessorPicture::caughtHz(const Axis& hz, double x, bool free) const {
  constexpr double kCatches = 5.0;
  const double at = std::clamp(hz.value(x), std::min(hz.from, hz.to), std::max(hz.from, hz.to));
  const double a4 = track().notes.a4Hz;
  const double note = hzFromMidi(nearestInKey(midiFromHz(at, a4), track().key), a4);
  if (!free && std::abs(hz.pixel(note) - x) <= kCatches) return note;
  return std::round(10.0 * at) / 10.0;
}

QPolygonF ProcessorPicture::lineOf(const std::vector<double>& db, const Axis& hz, const Axis& level) {
  QPolygonF out;
  for (size_t i = 0; i < db.size(); ++i)
    out << QPointF(hz.pixel(spectrumHz(i)), level.pixel(std::clamp(db[i], level.from, level.to)));
  return out;
}

}  // namespace heft::app

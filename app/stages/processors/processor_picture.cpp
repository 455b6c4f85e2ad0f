#include "app/stages/processors/processor_picture.h"

#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"
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

}  // namespace heft::app

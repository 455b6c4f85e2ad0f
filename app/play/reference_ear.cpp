#include "app/play/reference_ear.h"

#include <algorithm>

#include "app/document/places.h"
#include "core/study/reference_sections.h"

namespace heft::app {

ReferenceEar::ReferenceEar(Document& document, Transport& transport, QObject* parent)
    : QObject(parent), document_(document), transport_(transport) {
  connect(&document, &Document::rendered, this, &ReferenceEar::prepare);
  connect(&document, &Document::changed, this, [this] {
    const size_t count = document_.session().references.size();
    if (heard_ && *heard_ >= count) {
      document_.tell("The reference was removed: you hear the loop.");
      hear(std::nullopt);
    }
    if (isHidden() && order_.count() != count + 1) setHidden(false);
    prepare();
  });
  connect(&document, &Document::replaced, this, &ReferenceEar::forget);
  connect(&transport, &Transport::heardChanged, this, &ReferenceEar::prepare);
}

void ReferenceEar::forget() {
  ready_.clear(), order_.forgetTally();
  last_ = 0;
  setHidden(false);
  hear(std::nullopt);
}

HeardHow ReferenceEar::how() const {
  return {transport_.listen(), by_};
}

StepKey ReferenceEar::keyOf(size_t index) const {
  const Reference& r = document_.session().references[index];
  KeyMaker maker("heard section 1");
  maker.add(r.asset.hash).add(transport_.deviceRate()).add(r.tempoBpm.value_or(0.0));
  if (const Section* section = r.section()) maker.add(section->fromSeconds).add(section->toSeconds);
  if (transport_.listen().isPrepared()) maker.add(listenText(transport_.listen()));
  return maker.key();
}

// What is new, aside: sections for the player, and how loud everything is as it is heard.
void ReferenceEar::prepare() {
  // Edits elsewhere do not pay for what nobody hears.
  if (!shown_ && !heard_ && transport_.listen().kind == ListenKind::Full) return transport_.setMatch(0.0, 0.0);
  struct Found {
    std::map<StepKey, Ready> ready;
    std::optional<double> now, before;
  };
  auto makeWork = [this] {
    struct Item {
      StepKey key;
      Reference reference;
      Sound track;
      Ready ready;
    };
    std::vector<Item> items;
    const auto& all = document_.session().references;
    for (size_t i = 0; i < all.size(); ++i) {
      const auto known = ready_.find(keyOf(i));
      items.push_back({keyOf(i), all[i], document_.assets().sound(all[i].asset),
                       known == ready_.end() ? Ready() : known->second});
    }
    return [items = std::move(items), how = how(), rate = transport_.deviceRate(), loop = document_.snapshot(),
            silenced = transport_.silenced()]() mutable {
      Found out;
      for (Item& item : items) {
        if (!item.ready.sound && item.track) {
          const Section* section = item.reference.section();
          item.ready.sound = preparedReference(*item.track, section ? section->fromSeconds : 0.0,
                                               section ? section->toSeconds : item.track->seconds(),
                                               item.reference.tempoBpm, rate);
          if (item.ready.sound && how.listen.isPrepared())
            item.ready.sound = referenceThrough(*item.ready.sound, how.listen);
        }
        // A missing file is told once it is asked for.
        if (!item.track) item.ready.measured = true;
        if (item.ready.sound && (!item.ready.measured || !(item.ready.how == how))) {
          item.ready.lufs = heardLufs(*item.ready.sound, how, rate);
          item.ready.how = how, item.ready.measured = true;
        }
        out.ready[item.key] = item.ready;
      }
      if (loop && loop->frames > 0) {
        out.now = heardLufs(*loop, silenced, false, how, rate);
        out.before = heardLufs(*loop, silenced, true, how, rate);
      }
      return out;
    };
  };
  preparing_.ask(
      this, makeWork,
      [this](Found found) {
        ready_ = std::move(found.ready), now_ = found.now, before_ = found.before;
        apply();
        Q_EMIT changed();
      },
      document_.failing());
}

std::optional<double> ReferenceEar::matchOf(size_t index) const {
  if (index >= document_.session().references.size()) return std::nullopt;
  const auto known = ready_.find(keyOf(index));
  if (known == ready_.end() || !known->second.lufs) return std::nullopt;
  return heardGains(how(), now_, before_, known->second.lufs).referenceDb;
}

// Gains first, so that a sound never starts at another's level.
void ReferenceEar::apply() {
  const double before = heardGains(how(), now_, before_, std::nullopt).beforeDb;
  transport_.setMatch(before, heard_ ? matchOf(*heard_).value_or(0.0) : 0.0);
  std::shared_ptr<const ReferenceSound> sound;
  if (heard_) {
    const auto known = ready_.find(keyOf(*heard_));
    if (known == ready_.end() || !known->second.measured) return;  // follows once it is prepared
    sound = known->second.sound;
    if (!sound) {
      document_.tell(QString::fromStdString(document_.session().references[*heard_].asset.name) +
                     " cannot be played: you hear the loop.");
      heard_.reset();
    }
  }
  transport_.setReference(sound);
}

void ReferenceEar::hear(std::optional<size_t> reference) {
  if (reference && *reference >= document_.session().references.size()) return;
  heard_ = reference;
  if (reference) last_ = *reference;
  apply();
  if (heard_ && !matchOf(*heard_)) prepare();
  Q_EMIT changed();
}

void ReferenceEar::setShown(bool shown) {
  shown_ = shown;
  if (shown) prepare();
}

void ReferenceEar::flip() {
  if (document_.session().references.empty())
    return document_.tell("There is no reference yet: drop a finished track on Compare.");
  if (heard_) return hear(std::nullopt);
  hear(std::min(last_, document_.session().references.size() - 1));
}

void ReferenceEar::setMatchBy(MatchBy by) {
  if (by == by_) return;
  by_ = by;
  prepare();
  Q_EMIT changed();
}

void ReferenceEar::setHidden(bool hidden) {
  const size_t count = document_.session().references.size();
  if (hidden && count == 0) return;
  hidden ? order_.hide(count + 1) : order_.show(count + 1);
  if (hidden) hear(std::nullopt);
  Q_EMIT changed();
}

std::optional<size_t> ReferenceEar::behind(int number) const {
  const auto n = static_cast<size_t>(number);
  const size_t which = isHidden() && n < order_.count() ? order_.behind(n) : n;
  return which == 0 ? std::nullopt : std::optional(which - 1);
}

int ReferenceEar::numberHeard() const {
  const size_t which = heard_ ? *heard_ + 1 : 0;
  return static_cast<int>(isHidden() ? order_.numberOf(which) : which);
}

void ReferenceEar::hearNumber(int number) {
  if (number < 0 || number > static_cast<int>(document_.session().references.size())) return;
  hear(behind(number));
}

void ReferenceEar::prefer() {
  if (!isHidden()) return;
  order_.prefer(heard_ ? static_cast<int>(*heard_) + 1 : 0);
  setHidden(true);
}

QString ReferenceEar::tallyText() const {
  QStringList out;
  const QStringList names = referenceNames(document_.session());
  for (const auto& [which, times] : order_.tally())
    out << QString("%1 %2").arg(which == 0 ? QString("loop") : names.value(which - 1)).arg(times);
  return out.isEmpty() ? QString() : "preferred blind: " + out.join(", ");
}

QString ReferenceEar::heardName() const {
  if (isHidden()) return QString("%1 hidden").arg(numberHeard());
  if (!heard_) return "Now";
  return QString("%1 %2")
      .arg(*heard_ + 1)
      .arg(referenceNames(document_.session()).value(static_cast<int>(*heard_)));
}

}  // namespace heft::app

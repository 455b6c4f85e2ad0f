#include "app/files/key_files.h"

#include <QFileInfo>
#include <algorithm>
#include <cmath>

#include "core/session/edits/track.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr size_t kOffered = 3;

struct Heard {
  std::optional<KeyFacts> key;
  std::optional<TempoFacts> tempo;
};

Heard heardIn(const AudioBuffer& sound, double a4Hz) {
  return {findKey(sound, a4Hz), findTempo(sound)};
}

QString sure(double confidence) {
  return confidence > 0.6 ? "sure" : confidence > 0.35 ? "fairly sure" : "unsure";
}

QString bpm(double tempo) {
  return QString::fromStdString(formatNumber(tempo, 1)) + " BPM";
}

KeyOffer offerOf(const QString& name, const Heard& heard) {
  const NameFacts said = factsOfName(name.toStdString());
  KeyOffer out;
  QStringList words;
  if (heard.key) {
    const auto& ranked = heard.key->ranked;
    for (size_t i = 0; i < kOffered; ++i) out.keys.push_back(ranked[i].key);
    words << QString("sounds like %1 (%2)")
                 .arg(QString::fromStdString(ranked[0].key.name()), sure(heard.key->confidence));
  } else {
    words << "no clear key";
  }
  if (heard.tempo) {
    out.tempoBpm = std::round(heard.tempo->bpm * 100.0) / 100.0;
    words << "at " + bpm(*out.tempoBpm);
  }
  QStringList spelled;
  if (said.key) {
    std::erase(out.keys, *said.key);
    out.keys.insert(out.keys.begin(), *said.key);
    out.keys.resize(std::min(out.keys.size(), kOffered));
    spelled << QString::fromStdString(said.key->name());
  }
  if (said.tempoBpm) out.tempoBpm = said.tempoBpm, spelled << bpm(*said.tempoBpm);
  out.sentence = name + " " + words.join(", ") + ".";
  if (heard.key && heard.key->change) {
    const KeyChange& change = *heard.key->change;
    out.sentence +=
        QString(" It begins in %1 and goes over to %2 at about %3 s.")
            .arg(QString::fromStdString(change.before.name()), QString::fromStdString(change.after.name()))
            .arg(std::lround(change.seconds));
  }
  if (!spelled.isEmpty()) out.sentence += " Its name says " + spelled.join(", ") + ".";
  return out;
}

}  // namespace

void findKeyAndTempo(Document& document, const QString& path, const std::function<void(KeyOffer)>& then) {
  auto work = [path = path.toStdString(),
               a4 = document.track().notes.a4Hz](const std::stop_token& stop) -> Result<Heard> {
    const auto loaded = loadSound(path, stop);
    if (!loaded) return Fail(loaded.error());
    return heardIn(*loaded->sound, a4);
  };
  const QString name = QFileInfo(path).fileName();
  document.jobs().start("Measuring " + name, Jobs::Kind::CanBeCancelled, work,
                        [&document, name, then](Result<Heard> heard) {
                          if (!heard) return document.fail(QString::fromStdString(heard.error().sentence()));
                          then(offerOf(name, *heard));
                        });
}

void findKeyAndTempo(Document& document, const AssetRef& ref, const std::function<void(KeyOffer)>& then) {
  const Sound sound = document.assets().sound(ref);
  if (!sound) return;
  const QString name = QString::fromStdString(ref.name);
  document.jobs().start(
      "Measuring " + name, Jobs::Kind::CanBeCancelled,
      [sound, a4 = document.track().notes.a4Hz](const std::stop_token&) { return heardIn(*sound, a4); },
      [name, then](const Heard& heard) { then(offerOf(name, heard)); });
}

void takeKeyAndTempo(Document& document, const std::optional<Key>& key, std::optional<double> tempoBpm) {
  document.edit(setKeyAndTempo(key, tempoBpm));
}

}  // namespace heft::app

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

Heard heardIn(const AudioBuffer& sound, double a4Hz, const std::stop_token& stop) {
  return {findKey(sound, a4Hz, stop), stop.stop_requested() ? std::nullopt : findTempo(sound)};
}

QString sure(double confidence) {
  return confidence > 0.6 ? "sure" : confidence > 0.35 ? "fairly sure" : "unsure";
}

QString changeWords(const KeyChange& change) {
  return QString(" It begins in %1 and goes over to %2 at about %3 s.")
      .arg(QString::fromStdString(change.before.name()), QString::fromStdString(change.after.name()))
      .arg(std::lround(change.seconds));
}

void addKeys(KeyOffer& out, const QString& name, const Heard& heard, const NameFacts& said) {
  out.keySentence = name + " has no clear key.";
  if (heard.key) {
    const auto& ranked = heard.key->ranked;
    for (size_t i = 0; i < kOffered; ++i) out.keys.push_back(ranked[i].key);
    out.keySentence = QString("%1 sounds like %2 (%3).")
                          .arg(name, QString::fromStdString(ranked[0].key.name()), sure(heard.key->confidence));
    if (heard.key->change) out.keySentence += changeWords(*heard.key->change);
  }
  if (!said.key) return;
  std::erase(out.keys, *said.key);
  out.keys.insert(out.keys.begin(), *said.key);
  out.keys.resize(std::min(out.keys.size(), kOffered));
  out.keySentence += QString(" Its name says %1.").arg(QString::fromStdString(said.key->name()));
}

// Both where the name and the sound differ.
void addTempi(KeyOffer& out, const QString& name, const Heard& heard, const NameFacts& said) {
  constexpr double kSame = 0.05;
  if (said.tempoBpm) out.tempiBpm.push_back(*said.tempoBpm);
  if (heard.tempo) {
    const double measured = std::round(heard.tempo->bpm * 100.0) / 100.0;
    if (!said.tempoBpm || std::abs(measured - *said.tempoBpm) > kSame) out.tempiBpm.push_back(measured);
    out.tempoSentence =
        QString("%1 sounds like %2 (%3).").arg(name, tempoWords(measured), sure(heard.tempo->confidence));
  } else if (said.tempoBpm) {
    out.tempoSentence = name + " has no steady beat.";
  }
  if (said.tempoBpm) out.tempoSentence += QString(" Its name says %1.").arg(tempoWords(*said.tempoBpm));
}

KeyOffer offerOf(const QString& name, const Heard& heard) {
  const NameFacts said = factsOfName(name.toStdString());
  KeyOffer out;
  addKeys(out, name, heard, said);
  addTempi(out, name, heard, said);
  return out;
}

}  // namespace

QString tempoWords(double bpm) {
  return QString::fromStdString(formatNumber(bpm, 1)) + " BPM";
}

void findKeyAndTempo(Document& document, const QString& path, const std::function<void(KeyOffer)>& then) {
  auto work = [path = path.toStdString(),
               a4 = document.track().notes.a4Hz](const std::stop_token& stop) -> Result<Heard> {
    const auto loaded = loadSound(path, stop);
    if (!loaded) return Fail(loaded.error());
    return heardIn(*loaded->sound, a4, stop);
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
      [sound, a4 = document.track().notes.a4Hz](const std::stop_token& stop) {
        return heardIn(*sound, a4, stop);
      },
      [name, then](const Heard& heard) { then(offerOf(name, heard)); });
}

void takeKeyAndTempo(Document& document, const std::optional<Key>& key, std::optional<double> tempoBpm) {
  document.edit(setKeyAndTempo(key, tempoBpm));
}

}  // namespace heft::app

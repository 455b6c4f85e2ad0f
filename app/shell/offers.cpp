#include "app/shell/offers.h"

#include <QDir>
#include <QFileInfo>
#include <algorithm>
#include <utility>

#include "app/shell/notices.h"
#include "core/session/edits/material.h"
#include "core/session/edits/patterns.h"
#include "core/session/edits/track.h"
#include "core/session/folder_lock.h"
#include "core/sound/whole_file.h"

namespace heft::app {

Offers::Offers(Document& document, NoticeBar& notices) : document_(document), notices_(notices) {
  connect(&document.sounds(), &SoundIntake::sourceChanged, this, &Offers::reload);
  connect(&document.sounds(), &SoundIntake::firstBeatFound, this, &Offers::firstBeat);
  connect(&document.sounds(), &SoundIntake::materialFound, this, &Offers::material);
  connect(&document.references(), &ReferenceTracks::longReferenceRead, this, &Offers::longReference);
  connect(&document.files(), &SessionFiles::openElsewhere, this, &Offers::copy);
  connect(&document.files(), &SessionFiles::changedOnDisk, this, &Offers::keep);
  connect(&document, &Document::replaced, this, [this] {
    writtenAgain_.clear();
    notices_.forget();
  });
}

void Offers::reload(const QString& path) {
  if (!writtenAgain_.contains(path)) writtenAgain_ << path;
  const auto more = writtenAgain_.size() - 1;
  notices_.offer("sources",
                 QFileInfo(writtenAgain_.front()).fileName() +
                     (more > 0 ? QString(" and %1 more changed on disk.").arg(more) : " changed on disk."),
                 {{"Reload",
                   [this] {
                     for (const QString& each : std::exchange(writtenAgain_, {}))
                       document_.sounds().reload(each);
                   }}},
                 {"Keep current", [this] { writtenAgain_.clear(); }});
}

void Offers::copy() {
  notices_.offer("open elsewhere",
                 QFileInfo(document_.files().folder()).completeBaseName() +
                     " is open in another Heft window. Here it is read only.",
                 {{"Open a copy", [this] { document_.files().becomeCopy(); }}}, {"Keep read only", {}});
}

void Offers::keep() {
  const QString folder = document_.files().folder();
  auto saveCopy = [this, folder] {
    const QFileInfo was(folder);
    document_.files().saveAside(QString::fromStdString(
        freePath(was.absolutePath().toStdString(), (was.completeBaseName() + " copy").toStdString(), ".heft")));
  };
  notices_.offer(
      "changed on disk",
      QFileInfo(folder).completeBaseName() + " was changed on disk by another program. Nothing was saved yet.",
      {{"Save mine as a copy", saveCopy},
       {"Reload from disk", [this, folder] { document_.files().openAside(folder); }},
       {"Replace on disk", [this] { document_.files().replaceOnDisk(); }}},
      {"Cancel", {}});
}

void Offers::firstBeat(double seconds) {
  notices_.offer("backing beat",
                 QString("The backing's first beat is at %1 s.").arg(QString::number(seconds, 'f', 3)),
                 {{"Start the loop there", [this, seconds] { document_.edit(moveBacking(seconds)); }}},
                 {"Keep current", {}});
}

void Offers::longReference(const QString& path, double seconds, const std::function<void()>& use) {
  notices_.offer(
      "long reference " + path,
      QFileInfo(path).fileName() +
          QString(" is %1 min long; Heft compares up to 10 min of a track.").arg(std::lround(seconds / 60.0)),
      {{"Use the first 10 min", use}}, {"Leave it out", {}});
}

// A loop, a stem or a track is not a one-shot: one line says so, with a button for each of its uses.
void Offers::material(Place place, int layer, const MaterialFacts& facts) {
  const Part* part = partAt(document_.session(), place);
  const Layer* l = part ? part->layer(layer) : nullptr;
  if (!l || !l->recorded()) return;
  const QString name = QString::fromStdString(l->title());
  const QString what = facts.kind == Material::Track ? "a track or stem" : "a loop";
  const auto now = [this, place, layer](auto edit) {
    return [this, place, layer, edit] {
      const Part* p = partAt(document_.session(), place);
      if (p && p->layer(layer)) document_.edit(edit(*p));
    };
  };
  std::vector<NoticeBar::Answer> answers = {
      {"Play through", now([layer](const Part& p) { return playThrough(p, layer); })},
      {"Backing", now([layer](const Part& p) { return useAsBacking(p, layer); })},
      {"Trigger", now([this, layer](const Part& p) { return useAsTrigger(document_.session(), p, layer); })}};
  if (!facts.onsets.empty()) {
    constexpr double kMostMs = 1500.0, kBeforeNextMs = 10.0;
    const double start = 1000.0 * facts.onsets.front();
    const double length =
        facts.onsets.size() > 1 ? std::min(kMostMs, 1000.0 * facts.onsets[1] - start - kBeforeNextMs) : kMostMs;
    answers.push_back({"First hit", now([layer, start, length](const Part& p) {
                         return takeOneHit(p, layer, start, length);
                       })});
  }
  answers.push_back({"Set tempo", [this, asset = l->recorded()->asset] {
                       findKeyAndTempo(document_, asset, [this](const KeyOffer& found) { key(found); });
                     }});
  notices_.offer("material",
                 name + " is " + what + ": " + QString::number(facts.seconds, 'f', 1) + " s, " +
                     QString::number(facts.onsets.size()) + " onsets. Use it as:",
                 std::move(answers), {"One-shot", {}});
}

void Offers::key(const KeyOffer& found) {
  if (found.keys.empty()) document_.tell(found.keySentence);
  std::vector<NoticeBar::Answer> keys, tempi;
  for (const Key& key : found.keys)
    keys.push_back({QString::fromStdString(key.name()), [this, key] { takeKeyAndTempo(document_, key, {}); }});
  for (const double bpm : found.tempiBpm)
    tempi.push_back({tempoWords(bpm), [this, bpm] { takeKeyAndTempo(document_, {}, bpm); }});
  if (!keys.empty()) notices_.offer("key", found.keySentence, std::move(keys), {"Keep current", {}});
  if (!tempi.empty()) notices_.offer("tempo", found.tempoSentence, std::move(tempi), {"Keep current", {}});
}

// Newest first; one from an unfinished first save holds nothing.
QFileInfoList Offers::leftBehind(const QString& root) {
  QFileInfoList out;
  for (const QFileInfo& left : QDir(root).entryInfoList({"run-*"}, QDir::Dirs)) {
    FolderLock lock;
    if (lock.take(left.filePath().toStdString()) == FolderLock::State::Elsewhere) continue;  // it runs
    const QFileInfo session(left.filePath() + "/session.json");
    if (session.exists())
      out << session;
    else
      lock.release(), QDir(left.filePath()).removeRecursively();
  }
  std::sort(out.begin(), out.end(),
            [](const QFileInfo& a, const QFileInfo& b) { return a.lastModified() > b.lastModified(); });
  return out;
}

void Offers::offerLeftBehind(const QString& root, const std::function<bool()>& mayDiscard) {
  constexpr qsizetype kMostOffered = 3;
  for (const QFileInfo& left : leftBehind(root).mid(0, kMostOffered)) {
    const QString folder = left.absolutePath(), when = left.lastModified().toString("d MMMM, HH:mm");
    QFile place(folder + "/saved-in");
    const QString saved = place.open(QIODevice::ReadOnly) ? QString::fromUtf8(place.readAll()) : QString();
    const QString what =
        saved.isEmpty() ? "a session that was never saved" : QFileInfo(saved).completeBaseName();
    notices_.offer("restore " + folder,
                   QString("Heft did not close properly. Restore %1 as of %2?").arg(what, when),
                   {{"Restore",
                     [this, folder, mayDiscard] {
                       if (mayDiscard()) document_.files().recover(folder);
                     }}},
                   {"Discard", [folder] { QDir(folder).removeRecursively(); }});
  }
}

}  // namespace heft::app

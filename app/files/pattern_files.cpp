#include "app/files/pattern_files.h"

#include <QFileInfo>
#include <QInputDialog>
#include <algorithm>

#include "core/duck/detector.h"
#include "core/session/edits/patterns.h"
#include "core/session/midi_pattern.h"
#include "core/session/pattern.h"
#include "core/sound/audio_file.h"

namespace heft::app {
namespace {

// The index of the track to take, or nothing where the choice was called off.
std::optional<size_t> chosenTrack(const MidiFile& file, QWidget* over) {
  if (file.tracks.size() == 1 || !over) return 0;
  QStringList names;
  for (size_t i = 0; i < file.tracks.size(); ++i)
    names << QString("%1. %2, %3 notes")
                 .arg(i + 1)
                 .arg(QString::fromStdString(file.tracks[i].name.empty() ? "without a name"
                                                                         : file.tracks[i].name))
                 .arg(file.tracks[i].notes.size());
  bool taken = false;
  const QString name =
      QInputDialog::getItem(over, "Choose a track", "The file has several", names, 0, false, &taken);
  if (!taken) return std::nullopt;
  return static_cast<size_t>(std::max<qsizetype>(0, names.indexOf(name)));
}

}  // namespace

void readPattern(Document& document, Place place, const QString& path, QWidget* over) {
  const auto file = readMidi(path.toStdString());
  if (!file) return document.fail(QString::fromStdString(file.error().sentence()));
  if (std::all_of(file->tracks.begin(), file->tracks.end(), [](const MidiTrack& t) { return t.notes.empty(); }))
    return document.fail(path + ": holds no notes; choose another file");
  for (const auto& warning : file->warnings) document.tell(QString::fromStdString(warning));
  const auto index = chosenTrack(*file, over);
  if (!index) return;
  const MidiTrack& track = file->tracks[*index];
  const double loop = document.track().loopQuarters();
  if (const Part* part = partAt(document.session(), place)) document.edit(readPatternInto(*part, track, loop));
}

void findPattern(Document& document, const QString& path) {
  auto work = [path = path.toStdString()](const std::stop_token& stop) -> Result<std::vector<double>> {
    auto loaded = loadSound(path, stop);
    if (!loaded) return Fail(loaded.error());
    return findHits(*loaded->sound);
  };
  document.jobs().start("Measuring " + QFileInfo(path).fileName(), Jobs::Kind::CanBeCancelled, work,
                        [&document, path](Result<std::vector<double>> times) {
                          if (!times) return document.fail(QString::fromStdString(times.error().sentence()));
                          if (times->empty())
                            return document.fail(path + ": no kick hits were found in it; choose another loop");
                          document.edit(takeFoundHits(document.session().kick(), *times));
                        });
}

void writePatterns(Document& document, const QString& path) {
  const auto wrote = writeWhole(path.toStdString(), midiBytes(midiOf(document.session())));
  wrote ? document.tell("Patterns written to " + path)
        : document.fail(QString::fromStdString(wrote.error().sentence()));
}

}  // namespace heft::app

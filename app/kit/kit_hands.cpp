// Input on the kit sheet: typed cells, auditioning, writing, dropping.

#include <QDragEnterEvent>
#include <QKeyEvent>
#include <QLabel>
#include <QMimeData>
#include <QPointer>
#include <QTableWidget>
#include <algorithm>

#include "app/files/file_choice.h"
#include "app/kit/kit_picture.h"
#include "app/kit/kit_sheet.h"
#include "core/session/fields.h"
#include "core/shape/trim.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

// As MIDI has notes.

struct Written {
  int count = 0;
  std::map<size_t, std::string> doubts;  // by row: why its target is in doubt
};

}  // namespace

// A typed band or target; invalid input keeps the former one.
void KitSheet::edited(int row, int column) {
  if (showing_ || row >= static_cast<int>(drums_.size())) return;
  doubts_.erase(static_cast<size_t>(row));
  const QString words = table_->item(row, column)->text();
  if (column == kTarget) {
    const auto midi = parsePitch(words.toStdString(), document_.track().notes);
    if (words.trimmed().isEmpty()) return leaveOut(row), say({});
    if (midi && rangeOf<Recorded>("target_midi").holds(*midi)) return setTarget(row, *midi);
    say("Write a target as a note, such as E3, or as Hz");
  }
  if (column == kLength) setLength(row, words);
  if (column == kBand) {
    const QStringList ends = QString(words).remove("Hz").split("to");
    const auto low = parseNumber(ends.value(0).trimmed().toStdString()),
               high = parseNumber(ends.value(1).trimmed().toStdString());
    if (low && high && *low >= 10 && *high <= 1000 && *high >= 1.2 * *low) {
      setBand(row, {*low, *high});
    } else {
      say("Write a band as two frequencies from 10 to 1000 Hz, such as 100 to 400");
    }
  }
  showRow(row);
}

void KitSheet::setTarget(int row, double midi) {
  midi = rangeOf<Recorded>("target_midi").held(midi);
  drums_[static_cast<size_t>(row)].targetMidi = midi;
  typed_.insert(static_cast<size_t>(row));
  doubts_.erase(static_cast<size_t>(row));
  showRow(row);
  say({});
}

// Empty, or not shorter than the sound: as recorded.
void KitSheet::setLength(int row, const QString& words) {
  Drum& d = drums_[static_cast<size_t>(row)];
  const QString typed = words.section(',', 0, 0).trimmed();
  if (typed.isEmpty()) return void(d.length.reset());
  const auto time = parseTime(typed.toStdString());
  const double ms = time ? time->toMs(document_.track().tempoBpm) : 0.0;
  if (!time || ms < kShortestTailMs || ms > kLongestTailMs)
    return say("Write a length as a note, such as 1/16, or from 20 ms to 10 s; nothing leaves it as recorded");
  setDrumLength(d, *time, document_.track().tempoBpm);
}

void KitSheet::addToLoop() {
  // Drums without a note go in untuned; those excluded by hand do not.
  std::vector<Drum> ready;
  for (size_t row = 0; row < drums_.size(); ++row)
    if (drums_[row].sound && (drums_[row].targetMidi || !typed_.contains(row))) ready.push_back(drums_[row]);
  if (ready.empty()) return;
  const size_t room = kMostParts - std::min(kMostParts, document_.session().parts.size());
  document_.sounds().placeKit(ready);
  say(room >= ready.size() ? QString("%1 drums go into the loop; Undo takes them back").arg(ready.size())
                           : QString("%1 of %2 drums go into the loop: it holds %3 parts")
                                 .arg(room)
                                 .arg(ready.size())
                                 .arg(kMostParts));
}

void KitSheet::hear(int row, bool tuned) {
  if (row < 0 || row >= static_cast<int>(drums_.size()) || !drums_[static_cast<size_t>(row)].sound) return;
  auto work = [drum = drums_[static_cast<size_t>(row)], tuned, a4 = document_.track().notes.a4Hz,
               tempo = document_.track().tempoBpm,
               rate = transport_.deviceRate()](const std::stop_token&) -> Result<Audition> {
    Sound sound = drum.sound;
    if (tuned) {
      auto landed = tunedDrum(drum, a4, tempo);
      if (!landed) return Fail(landed.error());
      sound = std::make_shared<const AudioBuffer>(std::move(landed->result.sound));
    }
    return auditionOf(std::move(sound), rate);
  };
  document_.jobs().start(
      "Tuning a drum", Jobs::Kind::RunsToItsEnd, work,
      [this, row, tuned, turn = ++hearing_, self = QPointer<KitSheet>(this)](Result<Audition> sound) {
        if (!self || turn != hearing_) return;
        if (!sound) return say(QString::fromStdString(sound.error().sentence()));
        transport_.audition(*sound);
        Q_EMIT heard(row, tuned);
      });
}

bool KitSheet::eventFilter(QObject* object, QEvent* event) {
  const bool ours = (object == table_ || object == picture_) && event->type() == QEvent::KeyPress;
  const bool isTyped = object == table_ && table_->currentColumn() == kTarget;
  return (ours && takesKey(static_cast<QKeyEvent*>(event), isTyped)) || QDialog::eventFilter(object, event);
}

bool KitSheet::takesKey(QKeyEvent* event, bool isTyped) {
  if (event->modifiers() & ~Qt::KeypadModifier) return false;
  // In a target's cell B and F are notes.
  if (isTyped && (event->key() == Qt::Key_B || event->key() == Qt::Key_F)) return false;
  switch (event->key()) {
    case Qt::Key_Delete:
      for (int row : chosenRows()) leaveOut(row);
      say({});
      return true;
    case Qt::Key_Space:
    case Qt::Key_B:
      hear(table_->currentRow(), event->key() == Qt::Key_Space);
      return true;
    case Qt::Key_F:
      spectrumButton_->toggle();
      return true;
    default:
      return false;
  }
}

void KitSheet::writeTo(const QString& folder) {
  ++pending_;
  say("Writing");
  auto work = [drums = drums_, folder = folder.toStdString(), notes = document_.track().notes,
               tempo = document_.track().tempoBpm,
               flats = document_.track().key.prefersFlats()](const std::stop_token&) -> Result<Written> {
    NoteStyle style = notes;
    style.flats = flats;
    Written out;
    for (size_t row = 0; row < drums.size(); ++row) {
      if (!drums[row].targetMidi) continue;
      auto wrote = writeDrum(drums[row], folder, style, tempo);
      if (!wrote) return Fail(wrote.error());
      ++out.count;
      if (auto doubt = doubtOf(*wrote); !doubt.empty()) out.doubts[row] = std::move(doubt);
    }
    return out;
  };
  document_.jobs().start("Writing the kit", Jobs::Kind::RunsToItsEnd, work,
                         [this, self = QPointer<KitSheet>(this), folder](Result<Written> written) {
                           if (!self) return;
                           --pending_;
                           if (!written) return say(QString::fromStdString(written.error().sentence()));
                           doubts_ = written->doubts;
                           for (int row = 0; row < table_->rowCount(); ++row) showRow(row);
                           QString words = QString("%1 drums written to %2").arg(written->count).arg(folder);
                           if (!doubts_.empty()) words += QString("; listen to %1 of them").arg(doubts_.size());
                           say(words);
                         });
}

void KitSheet::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void KitSheet::dropEvent(QDropEvent* event) {
  addFiles(localFiles(event->mimeData()));
}

}  // namespace heft::app

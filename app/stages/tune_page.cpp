#include "app/stages/tune_page.h"

#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/fields/sound_words.h"
#include "app/fields/tune_fields.h"
#include "app/stages/pitch_field.h"
#include "app/theme/theme.h"
#include "app/widgets/flow_layout.h"
#include "app/widgets/plain_label.h"
#include "core/ledger/part_tuning.h"
#include "core/session/edits/sounds.h"
#include "core/theory/text.h"
#include "core/tune/targets.h"

namespace heft::app {
namespace {

constexpr int kPartRowHeight = 52, kLeastPictureHeight = 160;

}  // namespace

TunePage::TunePage(Document& document, Selection& selection) : StagePage(Stage::Tune, document, selection) {
  auto* picture = new PitchField(document, selection);
  picture->setMinimumHeight(kLeastPictureHeight);
  setPicture(picture);
  auto* row = new QWidget;
  targets_ = new FlowLayout(row, 8, 6);
  targets_->setContentsMargins(0, 4, 0, 8);
  column()->insertWidget(2, row);
  // One row of them at once, whatever their number: the picture is what the room is for.
  partArea_ = new QScrollArea;
  partArea_->setFrameShape(QFrame::NoFrame);
  partArea_->setWidgetResizable(true);
  partArea_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  partArea_->setFixedHeight(kPartRowHeight);
  partRow_ = new QWidget;
  partArea_->setWidget(partRow_);
  parts_ = new FlowLayout(partRow_, 24, 6);
  parts_->setContentsMargins(0, 4, 0, 4);
  column()->insertWidget(3, partArea_);
  tuneParts_ = new QPushButton(partRow_);
  tuneParts_->setObjectName("Tune parts");
  tuneParts_->setToolTip("Tune every off-key part to a note of the key, where that helps");
  connect(tuneParts_, &QPushButton::clicked, this, [this] {
    Document& doc = this->document();
    doc.mend("tune parts to " + doc.track().key.name(), openPartKeyLines(doc.session(), doc.findings()));
  });
  addField(landingTargetField(document));
  addField(shiftField(document));
  for (const FieldWords& words : tuningWords())
    addField(fieldOf(
        document, [&document] { return kickLayer(document); }, below("recorded.", words)));
  addField(landingByHandField(document));
  addField(searchBandField(document));
  addField(bassRootField(document));
  // As wide as its longest words: a line that broke while the landing is dragged would move the picture under
  // the pointer.
  addField(strainField(document))
      ->setMinimumWidth(
          QFontMetrics(bodyFont(true))
              .horizontalAdvance("noticeable, 100 ms of strike untouched, 1000 to about 1000 ms long"));
  refresh();
}

QString TunePage::subtitle() const {
  const Study* s = document().study();
  if (!s || (!s->kick && !s->bass)) return "tune kick, bass and drums to the key";
  QStringList out;
  NoteStyle style = track().notes;
  if (s->kick && s->kick->landing.noteHz()) {
    const Landing& landing = s->kick->landing;
    const double midi = midiFromHz(*landing.noteHz(), style.a4Hz);
    const int target = nearestOfClass(midi, track().key.tonic);
    const QString where = QString::fromStdString(std::abs(midi - target) < 3 ? distanceText(midi, target, style)
                                                                             : "on " + pitchText(midi, style));
    out << (landing.slides()
                ? QString("kick slides %1 cents, heard ").arg(std::lround(landing.slideCents)) + where
                : "kick lands " + where) +
               ", " + QString::fromStdString(confidenceWords(s->kick->landing));
  }
  if (s->bass && s->bass->landing.noteHz())
    out << "bass on " +
               QString::fromStdString(pitchText(midiFromHz(*s->bass->landing.noteHz(), style.a4Hz), style)) +
               ", " + QString::fromStdString(confidenceWords(s->bass->landing));
  return out.join("; ");
}

void TunePage::refresh() {
  StagePage::refresh();
  rebuildTargets();
  rebuildParts();
}

void TunePage::rebuildParts() {
  const Session& session = document().session();
  std::vector<int> ids;
  QString signature;
  for (const Part& part : session.parts) {
    if (session.isOfPair(part.id) || part.playsNotes() || part.layers.empty()) continue;
    ids.push_back(part.id);
    signature += QString::number(part.id) + " " + QString::fromStdString(part.title()) + ",";
  }
  partArea_->setVisible(!ids.empty());
  tuneParts_->setText("Tune to " + QString::fromStdString(track().key.name()));
  tuneParts_->setEnabled(document().isStudied() && !openPartKeyLines(session, document().findings()).empty());
  if (signature != shownParts_) {
    shownParts_ = signature;
    while (QLayoutItem* item = parts_->takeAt(0)) delete item;
    for (ValueField* field : partFields_) dismiss(field);
    partFields_.clear();
    parts_->addWidget(tuneParts_);
    for (const int id : ids) {
      partFields_.push_back(new ValueField(partPitchField(document(), id), partRow_));
      parts_->addWidget(partFields_.back());
      partFields_.back()->show();
    }
  }
  for (ValueField* field : partFields_) field->refresh();
}

void TunePage::rebuildTargets() {
  const Study* s = document().study();
  std::vector<TuneTarget> list;
  double landing = 0.0;
  const Layer* first = document().session().kickLayer();
  // Where it would sound without a target: its own shift counts.
  const double own = first ? first->semitones : 0.0;
  if (s && s->kickSource && s->kickSource->landing.noteHz()) {
    landing = midiFromHz(*s->kickSource->landing.noteHz(), track().notes.a4Hz) + own;
    list = tuneTargets(landing, noteUnderMostHits(document().session()), track().key);
  }
  QString signature = QString::number(landing, 'f', 3) + QString::fromStdString(track().key.name()) +
                      QString::number(static_cast<int>(track().notes.octaves));
  for (const TuneTarget& t : list) signature += QString::number(t.midi) + ",";
  if (signature == shownTargets_) return;
  shownTargets_ = signature;
  while (QLayoutItem* item = targets_->takeAt(0)) {
    delete item->widget();
    delete item;
  }
  for (const TuneTarget& t : list) {
    const QString note = QString::fromStdString(noteName(t.midi, track().notes));
    auto* button = new QPushButton(
        QString("%1  %2%3 st")
            .arg(note, t.semitones > 0 ? "+" : "", QString::fromStdString(formatNumber(t.semitones, 2))));
    button->setObjectName("Target " + note);
    button->setAccessibleName("Target " + note + ", " + QString::fromStdString(t.why));
    button->setToolTip(QString::fromStdString(t.why + "; the kick lies " +
                                              distanceText(landing, t.midi, track().notes) + "; strain " +
                                              strainText(strainOf(t.semitones + own))));
    const int midi = t.midi;
    connect(button, &QPushButton::clicked, this, [this, midi, note] {
      if (const auto owner = kickLayer(document()))
        document().edit(
            setLayerLanding("tune kick to " + note.toStdString(), *owner->part, *owner->layer, midi));
    });
    targets_->addWidget(button);
    auto* why = plainLabel(QString::fromStdString(t.why) +
                           (strainOf(t.semitones + own) == Strain::Heavy ? ", strains" : ""));
    why->setFont(axisFont());
    why->setStyleSheet("color: " + theme().muted.name());
    targets_->addWidget(why);
    const int group = static_cast<int>(&t - list.data()) + 1;
    for (QWidget* w : {static_cast<QWidget*>(button), static_cast<QWidget*>(why)})
      w->setProperty(FlowLayout::kGroup, group);
  }
}

}  // namespace heft::app

#include "app/stages/tune/tune_page.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/fields/sound_words.h"
#include "app/fields/tune_fields.h"
#include "app/play/transport.h"
#include "app/stages/spectrum_pane.h"
#include "app/stages/tune/key_sheet.h"
#include "app/stages/tune/pitch_field.h"
#include "app/stages/tune/target_marks.h"
#include "app/theme/theme.h"
#include "app/widgets/flow_layout.h"
#include "app/widgets/plain_label.h"
#include "core/judge/part_tuning.h"
#include "core/session/edits/sounds.h"
#include "core/theory/text.h"
#include "core/tune/targets.h"

namespace heft::app {
namespace {

constexpr int kPartRowHeight = 52, kLeastPictureHeight = 160, kLeastPictureWidth = 330;
// Most width of the spectrum; page widths at which it fits beside the pitch field, without targets and with
// them.
constexpr int kMostSpectrumWidth = 480, kBothFit = 620, kWideEnough = 850;

}  // namespace

TunePage::TunePage(Document& document, Selection& selection)
    : StagePage(Stage::Tune, document, selection), choice_(document) {
  auto* picture = new PitchField(document, selection);
  field_ = picture;
  picture->setMinimumHeight(kLeastPictureHeight);
  targets_ = new TargetMarks(document, selection, *picture);
  auto* both = new QWidget;
  auto* beside = new QHBoxLayout(both);
  beside->setContentsMargins(0, 0, 0, 0);
  beside->setSpacing(0);
  picture->setMinimumWidth(kLeastPictureWidth);
  beside->addWidget(picture, 3);
  beside->addWidget(targets_);
  beside->addWidget(spectrum_ = new SpectrumPane(choice_, selection, "Kick spectrum"), 2);
  spectrum_->setMinimumWidth(1);  // arrange() sees to its width; the page must not be held wider
  spectrum_->setMaximumWidth(kMostSpectrumWidth);
  spectrum_->hide();
  auto* keys = new QPushButton("Keys");
  keys->setObjectName("Open keys");
  keys->setToolTip("Which notes of each key are heavy, and how loud this bass is there");
  connect(keys, &QPushButton::clicked, this, [this] { (new KeySheet(this->document(), window()))->open(); });
  addToHead(keys);
  addToHead(spectrumButton_ = spectrumSwitch());
  connect(spectrumButton_, &QPushButton::toggled, this, &TunePage::arrange);
  setPicture(both);
  // One row at a time, however many: the picture gets the room.
  partArea_ = new QScrollArea;
  partArea_->setFrameShape(QFrame::NoFrame);
  partArea_->setWidgetResizable(true);
  partArea_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  partArea_->setFixedHeight(kPartRowHeight);
  partRow_ = new QWidget;
  partArea_->setWidget(partRow_);
  parts_ = new FlowLayout(partRow_, 24, 6);
  parts_->setContentsMargins(0, 4, 0, 4);
  column()->insertWidget(2, partArea_);
  tuneParts_ = new QPushButton(partRow_);
  tuneParts_->setObjectName("Tune parts");
  tuneParts_->setToolTip("Tune every off-key part to a note of the key, where that helps");
  connect(tuneParts_, &QPushButton::clicked, this, [this] {
    Document& doc = this->document();
    doc.fixes().mend("tune parts to " + doc.track().key.name(),
                     openPartKeyLines(doc.session(), doc.findings()));
  });
  addField(landingTargetField(document));
  addField(shiftField(document));
  for (const FieldWords& words : tuningWords())
    addField(fieldOf(
        document, [&document] { return kickLayer(document); }, below("recorded.", words)));
  addField(landingByHandField(document));
  addField(searchBandField(document));
  addField(bassRootField(document));
  refresh();
}

QString TunePage::subtitle() const {
  const Study* s = document().study();
  if (!s || (!s->pair.kick.sound && !s->pair.bass.sound)) return "tune kick, bass and drums to the key";
  QStringList out;
  NoteStyle style = track().notes;
  if (s->pair.kick.sound && s->pair.kick.sound->landing.noteHz()) {
    const Landing& landing = s->pair.kick.sound->landing;
    const double midi = midiFromHz(*landing.noteHz(), style.a4Hz);
    const int target = nearestOfClass(midi, track().key.tonic);
    const QString where = QString::fromStdString(std::abs(midi - target) < 3 ? distanceText(midi, target, style)
                                                                             : "on " + pitchText(midi, style));
    out << (landing.slides()
                ? QString("kick slides %1 cents, heard ").arg(std::lround(landing.slideCents)) + where
                : "kick lands " + where) +
               ", " + QString::fromStdString(confidenceWords(s->pair.kick.sound->landing));
  }
  if (s->pair.bass.sound && s->pair.bass.sound->landing.noteHz())
    out << "bass on " +
               QString::fromStdString(
                   pitchText(midiFromHz(*s->pair.bass.sound->landing.noteHz(), style.a4Hz), style)) +
               ", " + QString::fromStdString(confidenceWords(s->pair.bass.sound->landing));
  return out.join("; ");
}

void TunePage::follow(Transport& transport) {
  followPlayhead(transport, [this](std::optional<double> at) { field_->setPlayhead(at); });
}

void TunePage::refresh() {
  StagePage::refresh();
  const Layer* first = document().session().kickLayer();
  if (first && choice_.id() != first->id) choice_.choose(kickOf(document().session()), first->id);
  rebuildParts();
}

// On a narrow page the spectrum replaces the targets, whose number keys still work.
void TunePage::arrange() {
  const bool shown = spectrumButton_->isChecked();
  targets_->setVisible(!shown || width() >= kWideEnough);
  showEither(shown, width() >= kBothFit, *spectrum_, *field_);
}

void TunePage::resizeEvent(QResizeEvent* event) {
  StagePage::resizeEvent(event);
  arrange();
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

void TunePage::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_F && event->modifiers() == Qt::NoModifier) return spectrumButton_->toggle();
  const bool plain = !(event->modifiers() & ~(Qt::ShiftModifier | Qt::KeypadModifier));
  if (!plain || !targets_->takeKey(event->key())) StagePage::keyPressEvent(event);
}

}  // namespace heft::app

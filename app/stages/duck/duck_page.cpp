#include "app/stages/duck/duck_page.h"

#include <QPushButton>
#include <QVBoxLayout>

#include "app/fields/duck_fields.h"
#include "app/files/file_choice.h"
#include "app/stages/duck/dip_picture.h"
#include "app/stages/duck/duck_cards.h"
#include "app/stages/duck/listen_strip.h"
#include "app/stages/duck/trigger_lane.h"
#include "app/stages/duck/ways_picture.h"
#include "core/session/edits/ducks.h"
#include "core/theory/text.h"

namespace heft::app {

DuckPage::DuckPage(Document& document, Selection& selection) : StagePage(Stage::Duck, document, selection) {
  auto* all = new QWidget;
  auto* layout = new QVBoxLayout(all);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(4);
  cards_ = new DuckCards(document, selection);
  listens_ = new ListenStrip(document, selection);
  lane_ = new TriggerLane(document, selection);
  dip_ = new DipPicture(document, selection);
  ways_ = new WaysPicture(document, selection);
  ways_->hide();
  pictures_ = new QWidget;
  auto* column = new QVBoxLayout(pictures_);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(4);
  column->addWidget(listens_);
  column->addWidget(lane_, 1);
  column->addWidget(dip_, 6);
  waysButton_ = new QPushButton("Ways to make room");
  waysButton_->setObjectName("Ways to make room button");
  waysButton_->setAccessibleName("Ways to make room");
  waysButton_->setToolTip(
      "Compare octave shifts, a shorter kick, alignment, bells and ducking, all solved to the same goal");
  waysButton_->setCheckable(true);
  connect(waysButton_, &QPushButton::toggled, this, &DuckPage::showWays);
  connect(ways_, &WaysPicture::left, this, [this] { waysButton_->setChecked(false); });
  addButton_ = new QPushButton("Add ducking");
  addButton_->setObjectName("Add ducking");
  addButton_->setAccessibleName("Add ducking");
  addButton_->setToolTip("Another ducking: another trigger, movement or target");
  connect(addButton_, &QPushButton::clicked, this, [this] {
    const Session& s = this->document().session();
    const int id = freshDuckId(s);
    this->document().edit(addDuck(id, unducked(s)));
    this->selection().setDuck(id);
  });
  addToHead(waysButton_), addToHead(addButton_);
  layout->addWidget(cards_);
  layout->addWidget(pictures_, 1);
  layout->addWidget(ways_, 1);
  setPicture(all);
  refresh();
}

void DuckPage::showWays(bool shown) {
  pictures_->setVisible(!shown);
  ways_->setVisible(shown);
  // A single ducking's settings do not apply here.
  findChild<QWidget*>("fields")->setVisible(!shown);
  refresh();
  if (!shown) return dip_->setFocus();
  ways_->solve();
  ways_->setFocus();
}

void DuckPage::askForTrigger(bool midi) {
  const QString path =
      midi ? askForFile(this, "Choose a MIDI file", Asked::Midi) : askForSound(this, "Choose a trigger sound");
  if (!path.isEmpty()) document().sounds().loadTrigger(chosenDuck(document(), selection()).id, path);
}

// The fields depend on the ducking's settings; the focus stays on the field of the same name.
void DuckPage::rebuildFields() {
  const QString signature = duckFieldsSignature(chosenDuck(document(), selection())) +
                            (document().session().ducks.size() > 1 ? " of several" : "");
  if (signature == signature_) return;
  signature_ = signature;
  const QWidget* held = window()->focusWidget();
  const QString name = held && isAncestorOf(held) ? held->objectName() : QString();
  clearFields();
  for (QPushButton* button : buttons_) dismiss(button);
  buttons_.clear();
  const DuckDesk desk{document(), [this]() -> const Duck& { return chosenDuck(document(), selection()); },
                      [this] { askForTrigger(false); }, [this] { askForTrigger(true); }};
  std::vector<ValueField*> made;
  for (FieldSpec& spec : duckFields(desk)) made.push_back(addField(std::move(spec)));
  addButtons();
  if (document().session().ducks.size() > 1)
    for (FieldSpec& spec : duckingBusFields(document())) made.push_back(addField(std::move(spec)));
  for (ValueField* field : made) {
    field->show();
    if (!name.isEmpty() && field->objectName() == name) field->setFocus();
  }
}

void DuckPage::setThresholdForSix() {
  const Duck& duck = chosenDuck(document(), selection());
  const ResolvedDuck* resolved = resolvedDuck(document(), duck);
  if (!resolved) return;
  auto work = [heard = *resolved, follower = duck.follower, rate = track().sampleRate](const std::stop_token&) {
    return thresholdFor(heard, follower, rate, kUsualTakenDb);
  };
  document().jobs().start("Measuring the trigger", Jobs::Kind::CanBeCancelled, work,
                          [this, meant = duck](std::optional<double> threshold) {
                            const Duck* now = document().session().duck(meant.id);
                            if (!threshold)
                              return document().tell("The trigger is silent: there is no level to take.");
                            if (now && *now == meant) document().edit(setThreshold(*now, *threshold));
                          });
}

void DuckPage::addButtons() {
  auto add = [this](const QString& words, const QString& tip, auto press) {
    auto* button = new QPushButton(words);
    button->setObjectName(words), button->setAccessibleName(words), button->setToolTip(tip);
    connect(button, &QPushButton::clicked, this, press);
    addToFields(button);
    button->show();
    buttons_.push_back(button);
  };
  const Movement movement = chosenDuck(document(), selection()).movement;
  auto facts = [this] { return duckFacts(document(), chosenDuck(document(), selection())); };
  if (movement == Movement::Follower)
    add("Set threshold", "Set the threshold for 6 dB at the loudest hit", [this] { setThresholdForSix(); });
  if (movement == Movement::Follower || movement == Movement::Mirror)
    add("Convert to curve", "Draw its average gain as an editable curve", [this, facts] {
      if (const DuckFacts* f = facts(); f && f->drawn)
        document().edit(drawDip(chosenDuck(document(), selection()), *f->drawn));
      else
        document().tell("This ducking does nothing at its hits, so there is no curve to draw");
    });
}

void DuckPage::refresh() {
  if (cards_) cards_->refresh();
  if (addButton_) addButton_->setEnabled(document().session().ducks.size() < kMostDucks);
  if (listens_) listens_->setVisible(chosenDuck(document(), selection()).source.kind == TriggerKind::Audio);
  rebuildFields();
  StagePage::refresh();
}

void DuckPage::mark(const Finding& finding) {
  // "duck-3-fires": of the third.
  const QStringList words = QString::fromStdString(finding.id).split('-');
  if (words.size() > 2 && words[0] == "duck") selection().setDuck(words[1].toInt());
  StagePage::mark(finding);
}

Edit DuckPage::withoutChosen() const {
  Edit out = setDucking(chosenDuck(document(), selection()), false);
  out.name = "No ducking of " + duckWord(document().session(), chosenDuck(document(), selection()));
  return out;
}

void DuckPage::follow(Transport& transport) {
  followPlayhead(transport,
                 [this](std::optional<double> at) { lane_->setPlayhead(at), dip_->setPlayhead(at); });
}

QString DuckPage::subtitle() const {
  const Duck& d = chosenDuck(document(), selection());
  if (ways_ && !ways_->isHidden()) return "ways to make room, all solved to the same goal";
  if (!d.on) return "lower the bass at each kick";
  const QString target = targetWords(document().session(), d.target);
  const QString how = d.movement == Movement::Static
                          ? "is attenuated throughout"
                          : "is ducked by " + triggerWords(document().session(), d.source);
  const QString where = d.band.kind == DuckBandKind::All ? QString()
                        : d.band.kind == DuckBandKind::Below
                            ? ", below " + QString::fromStdString(hzText(d.band.belowHz))
                        : d.band.kind == DuckBandKind::Bell ? QString(", in a bell")
                                                            : QString(", in several bands");
  return target + " " + how + where;
}

}  // namespace heft::app

#include "app/stages/align/align_page.h"

#include <QKeyEvent>
#include <QPushButton>
#include <QVBoxLayout>
#include <algorithm>

#include "app/fields/value_fields.h"
#include "app/stages/align/align_picture.h"
#include "app/stages/align/align_ways_picture.h"
#include "app/stages/align/best_ways.h"
#include "app/stages/align/hand_over_picture.h"
#include "app/stages/align/peak_turn_picture.h"
#include "app/stages/align/two_sounds_fields.h"
#include "app/stages/align/two_sounds_picture.h"
#include "core/session/edits/gaps.h"
#include "core/session/edits/pair.h"
#include "core/session/edits/values.h"
#include "core/theory/text.h"

namespace heft::app {

AlignPage::AlignPage(Document& document, Selection& selection) : StagePage(Stage::Align, document, selection) {
  buildPictures();
  show(View::Pair);
  refresh();
}

QPushButton* AlignPage::makeViewButton(const QString& name, View view, const QString& tip) {
  auto* button = new QPushButton(name);
  button->setObjectName(name + " button");
  button->setAccessibleName(name);
  button->setToolTip(tip);
  button->setCheckable(true);
  connect(button, &QPushButton::clicked, this, [this, view](bool on) { show(on ? view : View::Pair); });
  return button;
}

void AlignPage::buildPictures() {
  auto* all = new QWidget;
  auto* layout = new QVBoxLayout(all);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(4);
  crests_ = new AlignPicture(document(), selection());
  ways_ = new AlignWaysPicture(document(), selection());
  handOver_ = new HandOverPicture(document(), selection());
  waysButton_ =
      makeViewButton("All ways", View::Ways,
                     "Compare alignments by polarity, delay, start phase and all-pass, solved over all hits");
  handOverButton_ = makeViewButton("Hand-over", View::HandOver,
                                   "Crossfade the kick tail into the next bass note, or make a gap");
  two_ = new TwoSoundsPicture(document(), selection());
  twoButton_ = makeViewButton("Two sounds", View::Two,
                              "Align any two parts or layers: strikes, lows, correlation over frequency");
  peak_ = new PeakTurnPicture(document(), selection());
  peakButton_ = makeViewButton(
      "Lower peak", View::Peak,
      "Find an all-pass that lowers the peak of kick or sum. Levels stay; louder at the same ceiling");
  connect(peak_, &HeardWays::left, this, [this] { show(View::Pair); });
  connect(two_, &TwoSoundsPicture::measured, this, &StagePage::refresh);
  connect(ways_, &AlignWaysPicture::left, this, [this] { show(View::Pair); });
  for (QPushButton* button :
       {makeClearButton(), makeBestButton(), waysButton_, handOverButton_, twoButton_, peakButton_})
    addToHead(button);
  for (QWidget* picture : std::initializer_list<QWidget*>{crests_, ways_, handOver_, two_, peak_})
    layout->addWidget(picture, 1);
  best_ = new BestWays(document(), selection());
  layout->addWidget(best_);
  setPicture(all);
}

void AlignPage::show(View view) {
  const bool again = view == view_;
  view_ = view;
  const std::initializer_list<std::tuple<View, QWidget*, QPushButton*>> views = {
      {View::Pair, crests_, nullptr},
      {View::Ways, ways_, waysButton_},
      {View::HandOver, handOver_, handOverButton_},
      {View::Two, two_, twoButton_},
      {View::Peak, peak_, peakButton_}};
  for (const auto& [of, picture, button] : views) {
    picture->setVisible(view == of);
    if (button) button->setChecked(view == of);
  }
  best_->setVisible(view == View::Pair);
  if (view != View::Pair) best_->drop();
  clearFields();
  if (view == View::Pair) addMoveFields(), addTurnFields(), addField(freeTurnField()), addLevelFields();
  if (view == View::HandOver) addHandOverFields();
  if (view == View::Two)
    for (FieldSpec& f : twoSoundsFields(document(), *two_, [this] { show(View::Two); })) addField(std::move(f));
  findChild<QWidget*>("fields")->setVisible(view != View::Ways && view != View::Peak);
  if (view == View::Ways) ways_->solve();
  if (view == View::Peak) peak_->solve();
  if (again) return;
  for (const auto& [of, picture, button] : views)
    if (view == of) picture->setFocus();
  refresh();
}

// An all-pass that is off has no Q to show.
void AlignPage::refresh() {
  const auto& stages = document().session().bass().align.rotation.stages;
  if (const std::array<bool, 2> now{stages[0].on, stages[1].on}; now != turns_) {
    turns_ = now;
    if (view_ == View::Pair) show(View::Pair);
  }
  StagePage::refresh();
}

void AlignPage::keyPressEvent(QKeyEvent* event) {
  const bool plain = !(event->modifiers() & ~(Qt::ShiftModifier | Qt::KeypadModifier));
  if (view_ != View::Pair || !plain || !best_->takeKey(event->key())) StagePage::keyPressEvent(event);
}

void AlignPage::mark(const Finding& finding) {
  show(finding.id == "hand-over" ? View::HandOver : View::Pair);
  StagePage::mark(finding);
}

std::optional<Edit> AlignPage::without() const {
  const Session& s = document().session();
  if (view_ == View::HandOver && s.handOver.on) return putValue("No hand-over", {}, "hand_over.on", false);
  if (view_ == View::HandOver || freeTurnOf(s).empty()) return std::nullopt;
  Edit out = switchFreeTurn(false);
  out.name = "No all-pass";
  return out;
}

namespace {

// A time that applies once: it moves notes and is not kept.
FieldSpec gapField(Document& doc, const QString& caption, const QString& tip, Edit (*edit)(double),
                   int GapNotes::*count, const QString& words) {
  constexpr double kLookedAtMs = 20.0, kMostGapMs = 500.0;
  FieldSpec f;
  f.caption = f.name = caption;
  f.tip = tip + " Write 0 to 500 ms; Undo takes it back.";
  f.text = [&doc, count, words] { return words.arg(notesAboutHits(doc.session(), kLookedAtMs).*count); };
  f.commit = typedAs(
      [](const QString& text) -> Result<double> {
        const auto ms = parseNumber(QString(text).remove("ms").trimmed().toStdString());
        if (!ms || *ms < 0.0 || *ms > kMostGapMs) return badUsage("Write a gap from 0 to 500 ms");
        return *ms;
      },
      [&doc, edit](double ms) { doc.edit(edit(ms)); });
  return f;
}

}  // namespace

void AlignPage::addHandOverFields() {
  Document& doc = document();
  const OwnerNow session = [] { return Owner(); };
  FieldSpec over = fieldOf(doc, session,
                           FieldWords{"hand_over.ms", "Hand-over",
                                      "Crossfade from kick to bass at each note start. Delete turns it off"}
                               .called("Hand-over time")
                               .switchedBy("hand_over.on")
                               .outAs("hand-over"));
  over.text = [&doc, own = over.text] { return doc.session().handOver.on ? own() : QString("off"); };
  addField(std::move(over));
  FieldSpec law = fieldOf(
      doc, session,
      FieldWords{
          "hand_over.alike", "Correlation",
          "Correlation the crossfade assumes. 0 is constant power, 1 constant amplitude, -1 cancelling waves"}
          .called("Hand-over law"));
  law.text = [&doc] { return QString::fromStdString(fixedNumber(doc.session().handOver.alike, 2)); };
  addField(std::move(law));
  addField({.caption = "Measured",
            .name = "Alike here",
            .tip = "Measured correlation below 150 Hz at the selected hand-over",
            .text = [this] {
              const Study* s = document().study();
              const auto i = static_cast<size_t>(std::max(0, selection().hit()));
              return s && i < s->pair.hits.size() && s->pair.hits[i].handOver
                         ? QString::fromStdString(fixedNumber(s->pair.hits[i].handOver->alike, 2))
                         : QString("-");
            }});
  addField({.caption = "Gap",
            .name = "Gap after this hit",
            .tip = "From the chosen hit to the next bass note",
            .text = [this] {
              const Study* s = document().study();
              const auto i = static_cast<size_t>(std::max(0, selection().hit()));
              return s && i < s->pair.hits.size() && s->pair.hits[i].nextNoteGapMs
                         ? QString::fromStdString(formatNumber(*s->pair.hits[i].nextNoteGapMs, 0)) + " ms"
                         : QString("none");
            }});
  addField(gapField(doc, "Delay notes", "Notes that start within this time after a kick are moved to its end.",
                    delayToGap, &GapNotes::within, "%1 within 20 ms"));
  addField(
      gapField(doc, "Tie notes",
               "Notes that start within this time after a kick are tied to the note before, without a strike.",
               tieOverGap, &GapNotes::within, "%1 within 20 ms"));
  addField(gapField(doc, "End notes", "Notes ringing into a kick end this long before it", endBeforeHits,
                    &GapNotes::ringInto, "%1 into a kick"));
}

// The first two stages, which the ways use.
void AlignPage::addTurnFields() {
  Document& doc = document();
  const OwnerNow bass = [&doc] { return Owner{.part = doc.session().bass().id}; };
  for (const QString& n : {QString("1"), QString("2")}) {
    const std::string stage = "align.rotation.stage_" + n.toStdString() + ".";
    auto add = [&](const FieldWords& words, const QString& none) {
      FieldSpec f = fieldOf(doc, bass, below(stage, words.switchedBy("on")));
      f.text = [&doc, bass, stage, none, own = f.text] {
        return isOn(doc.session(), bass(), stage + "on").value_or(false) ? own() : none;
      };
      addField(std::move(f));
    };
    add(FieldWords{"hz", "All-pass " + n,
                   "Centre frequency of an all-pass on the bass (180° there; levels stay). Delete turns it off"}
            .outAs("turn " + n),
        "none");
    if (turns_[n == "2"])
      add(FieldWords{"q", "Q", "All-pass Q. Higher is narrower and rings longer"}.called("Turn width " + n),
          "-");
  }
}

// What Lower peak found, to switch on and off.
FieldSpec AlignPage::freeTurnField() {
  Document& doc = document();
  FieldSpec f;
  f.caption = "Peak all-pass";
  f.name = "Peak all-pass";
  f.tip = "Peak-lowering all-pass on kick and bass, found by Lower peak. I: bypass";
  f.text = [&doc] {
    const auto stages = freeTurnOf(doc.session());
    return stages.empty() ? hasFreeTurn(doc.session()) ? QString("off") : QString("none") : placesWords(stages);
  };
  f.choices = [] { return QStringList{"off", "on", "remove"}; };
  f.choose = [&doc](int i) {
    if (i == 2)
      doc.edit(setFreeTurn(doc.session(), {}));
    else if (hasFreeTurn(doc.session()))
      doc.edit(switchFreeTurn(i == 1));
    else if (i == 1)
      doc.tell("Press Lower peak to find one.");
  };
  f.without = [this] { return without().value_or(switchFreeTurn(false)); };
  return f;
}

void AlignPage::addMoveFields() {
  Document& doc = document();
  const OwnerNow bass = [&doc] { return Owner{.part = doc.session().bass().id}; };
  FieldSpec delay = fieldOf(
      doc, bass,
      FieldWords{"align.delay_ms", "Bass delay", "Delay the bass. Negative is earlier; Delete resets it"},
      [&doc](const Value& ms, const std::string& merge) {
        return setDelay(doc.session().bass(), std::get<double>(ms), merge);
      });
  // A tenth of a millisecond is a lot here.
  delay.text = [&doc] { return signedMs(doc.session().bass().align.delayMs); };
  delay.step = [&doc](int steps, bool fine) {
    const Part& part = doc.session().bass();
    doc.edit(setDelay(part, part.align.delayMs + steps * (fine ? 0.02 : 0.1), "delay"));
  };
  addField(std::move(delay));
  addField(fieldOf(doc, bass,
                   FieldWords{"align.invert", "Polarity", "The bass's polarity: normal or inverted"}
                       .called("Bass polarity")
                       .oneOf(eitherOf("normal", "inverted")),
                   [&doc](const Value& invert, const std::string&) {
                     return setPolarity(doc.session().bass(), std::get<bool>(invert));
                   }));
  addField(alignBandField(doc, bass, "Align band"));
}

void AlignPage::addLevelFields() {
  addField({.caption = "This hit",
            .name = "This hit's level",
            .tip = "Level of the sum against perfect phase at the chosen hit, in dB",
            .text = [this] {
              const Study* s = document().study();
              const auto i = static_cast<size_t>(std::max(0, selection().hit()));
              return s && i < s->pair.hits.size() && s->pair.hits[i].meets() ? dbText(s->pair.hits[i].levelDb)
                                                                         : QString("none");
            }});
  addField({.caption = "All hits",
            .name = "All hits' level",
            .tip = "Level of the sum against perfect phase over all hits, in dB",
            .text = [this] {
              const Study* s = document().study();
              return s && s->pair.all.overlap ? dbText(s->pair.alignedDb) : QString("none");
            }});
  addField({.caption = "Unaligned",
            .name = "Unaligned level",
            .tip = "Phase loss without delay or polarity change",
            .text = [this] {
              const Study* s = document().study();
              return s && s->pair.all.overlap ? dbText(s->pair.best.beforeDb) : QString("none");
            }});
  addField({.caption = "Best possible",
            .name = "Best level",
            .tip = "Lowest phase loss by delay and polarity",
            .text = [this] {
              const Study* s = document().study();
              return s && s->pair.all.overlap ? dbText(s->pair.best.afterDb) : QString("none");
            }});
}

QPushButton* AlignPage::makeBestButton() {
  auto* best = new QPushButton("Align bass");
  best->setObjectName("Use the best alignment");
  best->setAccessibleName("Use the best alignment");
  best->setToolTip("Sets delay and polarity to what suits all hits best");
  connect(best, &QPushButton::clicked, this, [this] {
    const Study* s = document().study();
    if (s && s->pair.best.overlap) document().edit(alignBy(document().session().bass(), s->pair.best));
  });
  auto canAlign = [this, best] {
    const Study* s = document().study();
    best->setEnabled(s && s->pair.best.overlap);
    waysButton_->setEnabled(s && s->pair.all.overlap);
  };
  for (auto signal : {&Document::studied, &Document::replaced}) connect(&document(), signal, this, canAlign);
  canAlign();
  return best;
}

// Where notes have starts or phases of their own.
QPushButton* AlignPage::makeClearButton() {
  auto* clear = new QPushButton("Clear per note");
  clear->setObjectName("Clear note offsets"), clear->setAccessibleName("Clear note offsets");
  clear->setToolTip("Remove start and phase offsets of single bass notes");
  connect(clear, &QPushButton::clicked, this,
          [this] { document().edit(clearNoteMoves(document().session().bass())); });
  auto show = [this, clear] {
    const auto& notes = document().session().bass().notes;
    clear->setVisible(
        std::any_of(notes.begin(), notes.end(), [](const Note& n) { return n.move != NoteMove(); }));
  };
  for (auto signal : {&Document::changed, &Document::replaced}) connect(&document(), signal, clear, show);
  show();
  return clear;
}

QString AlignPage::subtitle() const {
  const Study* s = document().study();
  if (view_ == View::HandOver) return "from the kick's tail to the next bass note, and the room between them";
  if (view_ == View::Peak) return "same levels, lower peak";
  if (view_ == View::Two) return "two parts or layers, one held still and one moved";
  if (!s || !s->pair.all.overlap) return "get kick and bass in phase";
  return QString("over %1 hits %2 against perfect phase").arg(s->pair.hits.size()).arg(dbText(s->pair.alignedDb));
}

}  // namespace heft::app

#include "app/stages/compare/compare_page.h"

#include <QDragEnterEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMimeData>
#include <QPushButton>
#include <QScrollArea>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/files/file_choice.h"
#include "app/stages/compare/compare_fields.h"
#include "app/stages/compare/facts_picture.h"
#include "app/stages/compare/floor_picture.h"
#include "app/stages/compare/note_picture.h"
#include "app/stages/compare/reference_table.h"
#include "app/stages/compare/sections_picture.h"
#include "app/stages/compare/shelf_sheet.h"
#include "app/theme/theme.h"
#include "app/widgets/tab_row.h"
#include "core/judge/ledger.h"
#include "core/session/edits/references.h"
#include "core/session/edits/sections.h"
#include "core/session/edits/track.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

const QStringList kViews = {"Median",   "Spectrum", "By note", "Over the bar", "Width",
                            "Speakers", "Ceiling",  "Facts",   "Sections"};

}  // namespace

ComparePage::ComparePage(Document& document, Selection& selection, ReferenceEar& ear)
    : StagePage(Stage::Compare, document, selection), ear_(ear), figures_(document) {
  tabs_ = new TabRow("Compare pictures", kViews);
  stack_ = new QStackedWidget;
  stack_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Expanding);
  table_ = new ReferenceTable(document, ear, figures_);
  buildPictures();
  auto* body = new QWidget;
  auto* column = new QVBoxLayout(body);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(4);
  column->addWidget(tabs_);
  column->addWidget(stack_, 1);
  column->addWidget(table_);
  setPicture(body);
  connect(tabs_, &TabRow::chosenChanged, this, [this](int tab) { show(static_cast<View>(tab)); });
  connect(table_, &ReferenceTable::removeAsked, this, &ComparePage::removeReference);
  connect(table_, &ReferenceTable::chosenChanged, this, &ComparePage::refresh);
  connect(&ear, &ReferenceEar::changed, this, [this] { tabs_->setAside(aside()); });
  connect(&figures_, &CompareFigures::changed, this, &ComparePage::refresh);
  buildButtons();
  buildFields();
  setAcceptDrops(true);
  refresh();
}

void ComparePage::buildButtons() {
  section_ = new QPushButton;
  section_->setObjectName("Compared section");
  section_->setToolTip("Which section of the song is compared with the references");
  connect(section_, &QPushButton::clicked, this, &ComparePage::offerSections);
  addToHead(section_);
  duplicate_ = new QPushButton("Duplicate section");
  duplicate_->setObjectName("Duplicate section");
  duplicate_->setToolTip("Adds a section like the chosen one after it (Ctrl+D)");
  connect(duplicate_, &QPushButton::clicked, sections_, &SectionsPicture::duplicate);
  duplicate_->hide();
  addToHead(duplicate_);
  auto* shelf = new QPushButton("Shelf");
  shelf->setObjectName("Open the shelf");
  shelf->setToolTip("All references of any session, with key, tempo and tags");
  connect(shelf, &QPushButton::clicked, this, [this] { (new ShelfSheet(document(), window()))->open(); });
  addToHead(shelf);
  auto* add = new QPushButton("Add references");
  add->setObjectName("Add references");
  add->setToolTip("Choose finished tracks to compare with, or drop them on this page");
  connect(add, &QPushButton::clicked, this, &ComparePage::addReferences);
  addToHead(add);
}

void ComparePage::offerSections() {
  auto* menu = new QMenu(section_);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  const Session& s = document().session();
  const TrackSection* now = s.comparedSection();
  const auto offer = [&](const QString& words, std::optional<int> id) {
    QAction* action = menu->addAction(words, this, [this, id] { document().edit(compareSection(id)); });
    action->setCheckable(true), action->setChecked(now ? id == now->id : !id);
  };
  offer(track().song ? "Whole song" : "Whole loop", std::nullopt);
  for (const TrackSection& t : s.sections)
    offer(QString::fromStdString(t.name).replace('&', "&&"), std::optional(t.id));
  menu->popup(section_->mapToGlobal(QPoint(0, section_->height())));
}

void ComparePage::refresh() {
  const Session& s = document().session();
  const TrackSection* now = s.comparedSection();
  section_->setVisible(!s.sections.empty());
  constexpr int kMostNamePixels = 120;
  const QString name = now ? QString::fromStdString(now->name) : track().song ? "whole song" : "whole loop";
  section_->setText("Compare " +
                    fontMetrics().elidedText(name, Qt::ElideRight, kMostNamePixels).replace('&', "&&") + "...");
  StagePage::refresh();
}

void ComparePage::buildPictures() {
  Document& d = document();
  Selection& s = selection();
  floor_ = new FloorPicture(d, s, figures_, ear_);
  connect(floor_, &FloorPicture::bandChosen, this, &ComparePage::refresh);
  bar_ = new BarPicture(d, s, figures_, ear_);
  width_ = new WidthPicture(d, s, figures_, ear_);
  speakers_ = new SpeakersPicture(d, s, figures_, ear_);
  ceiling_ = new CeilingPicture(d, s, figures_, ear_);
  connect(ceiling_, &CeilingPicture::measured, this, &ComparePage::refresh);
  sections_ = new SectionsPicture(d, s, *table_, ear_);
  facts_ = new FactsPicture(d, s, figures_, ear_);
  connect(facts_, &FactsPicture::chosenChanged, this, &ComparePage::buildFields);
  auto* facts = new QScrollArea;
  facts->setWidget(facts_), facts->setWidgetResizable(true), facts->setFrameShape(QFrame::NoFrame);
  facts->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff), facts->setFocusPolicy(Qt::NoFocus);
  for (QWidget* picture : std::initializer_list<QWidget*>{floor_, new NotePicture(d, s, figures_, ear_), bar_,
                                                          width_, speakers_, ceiling_, facts, sections_})
    stack_->addWidget(picture);
}

// The median and the spectrum are one picture.
void ComparePage::show(View view) {
  tabs_->choose(static_cast<int>(view));
  floor_->setPlain(view == View::Spectrum);
  duplicate_->setVisible(view == View::Sections);
  stack_->setCurrentIndex(std::max(0, static_cast<int>(view) - 1));
  buildFields();
  refresh();
}

ComparePage::View ComparePage::view() const {
  return static_cast<View>(tabs_->chosen());
}

void ComparePage::addSectionFields() {
  addField(
      {.caption = "First bar at",
       .name = "First bar",
       .tip = "Where a bar of the reference starts, in seconds of its file, 0 to 600",
       .text =
           [this] {
             const auto& all = document().session().references;
             if (table_->chosen() >= all.size()) return QString("none");
             const auto at = all[table_->chosen()].firstBeatSeconds;
             return at ? QString::fromStdString(fixedNumber(*at, 3)) + " s" : QString("none");
           },
       .commit = typedAs([](const QString& words) { return numberIn(QString(words).remove("s")); },
                         [this](double s) { document().edit(setReferenceFirstBeat(table_->chosen(), s)); }),
       .step =
           [this](int steps, bool fine) {
             const auto& all = document().session().references;
             if (table_->chosen() >= all.size()) return;
             const Reference& r = all[table_->chosen()];
             const double beat = 60.0 / r.tempoBpm.value_or(120.0);
             document().edit(setReferenceFirstBeat(
                 table_->chosen(), r.firstBeatSeconds.value_or(0.0) + steps * (fine ? 0.001 : beat),
                 "first bar"));
           },
       .endDrag = [this] { document().endDrag(); }});
}

void ComparePage::buildFields() {
  clearFields();
  const auto shown = [this] { refresh(); };
  const auto add = [this](std::vector<FieldSpec> fields) {
    for (FieldSpec& field : fields) addField(std::move(field));
  };
  if (view() == View::Bar)
    add(foldFields(*bar_, document(), shown));
  else if (view() == View::Width)
    add(widthFields(*width_, figures_, document(), shown));
  else if (view() == View::Speakers)
    add(speakerFields(*speakers_, shown));
  else if (view() == View::Ceiling)
    add(ceilingFields(*ceiling_, shown));
  else if (view() == View::Facts)
    add(factsFields(*facts_, document()));
  else if (view() == View::Sections)
    addSectionFields();
  else
    add(bandFields(*floor_, document(), view() == View::Median || view() == View::Spectrum, shown));
  addField(
      {.caption = "Match",
       .name = "Match by",
       .tip =
           "What is matched while you flip (R): the whole loudness, or what is above 200 Hz, so that the lows' "
           "own difference is heard",
       .text = [this] { return QString(ear_.matchBy() == MatchBy::Loudness ? "loudness" : "above 200 Hz"); },
       .choices =
           [] {
             return QStringList{"loudness", "above 200 Hz"};
           },
       .choose =
           [this](int i) { ear_.setMatchBy(i == 1 ? MatchBy::Above200 : MatchBy::Loudness), refresh(); }});
}

void ComparePage::addReferences() {
  document().sounds().loadAll(kReferences, askForSounds(this, "Add references"));
}

void ComparePage::removeReference(size_t reference) {
  document().edit(heft::removeReference(reference));
}

// Finished tracks are dropped anywhere on the page.
void ComparePage::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void ComparePage::dropEvent(QDropEvent* event) {
  const QStringList files = localFiles(event->mimeData());
  if (files.isEmpty()) return;
  document().sounds().loadAll(kReferences, files);
  event->acceptProposedAction();
}

void ComparePage::showEvent(QShowEvent* event) {
  StagePage::showEvent(event);
  figures_.setShown(true);
  ear_.setShown(true);
}

// The picture is the page: in a low window fewer rows are shown at once.
void ComparePage::resizeEvent(QResizeEvent* event) {
  constexpr int kLow = 500;
  StagePage::resizeEvent(event);
  table_->setMostShown(height() < kLow ? 2 : 4);
}

void ComparePage::hideEvent(QHideEvent* event) {
  StagePage::hideEvent(event);
  figures_.setShown(false);
  ear_.setShown(false);
}

bool ComparePage::takeKey(QKeyEvent* event) {
  const int key = event->key();
  if (event->modifiers() & ~Qt::KeypadModifier) return false;
  if (key >= Qt::Key_0 && key <= Qt::Key_9) {
    const int number = key - Qt::Key_0;
    ear_.hearNumber(number);
    if (number > 0 && !ear_.isHidden()) table_->choose(static_cast<size_t>(number - 1));
    return true;
  }
  if (key == Qt::Key_N) {
    ear_.setHidden(!ear_.isHidden());
    return true;
  }
  if (key == Qt::Key_M && !document().session().references.empty()) {
    const size_t at = table_->chosen();
    document().edit(leaveOutReference(at, !document().session().references[at].leftOut));
    return true;
  }
  if ((key == Qt::Key_Return || key == Qt::Key_Enter) && ear_.isHidden()) {
    ear_.prefer();
    return true;
  }
  if (key == Qt::Key_Escape && (ear_.heard() || ear_.isHidden())) {
    ear_.setHidden(false), ear_.hear(std::nullopt);
    return true;
  }
  return false;
}

void ComparePage::mark(const Finding& finding) {
  std::optional<Band> band;
  for (const BandAim& aim : comparedBands(document().session().targets))
    if (finding.id == bandLineId(aim.band())) band = aim.band();
  floor_->markBand(band);
  if (band) show(View::Median);
  if (finding.id == "low-mono") show(View::Width);
}

QString ComparePage::aside() const {
  if (ear_.isHidden()) {
    const QString tally = ear_.tallyText();
    return "names hidden: press a number, Return prefers it" + (tally.isEmpty() ? QString() : "; " + tally);
  }
  if (!ear_.tallyText().isEmpty()) return ear_.tallyText();
  switch (view()) {
    case View::Median:
    case View::Spectrum:
      return "20 to 500 Hz, loudness matched";
    case View::Note:
      return "every track's tonic at yours";
    case View::Bar:
      return "mean of all bars, re its own mean";
    case View::Width:
      return "sixth octaves";
    case View::Speakers:
      return "from the partials that are left";
    case View::Ceiling:
      if (!ceiling_->facts()) return {};
      return QString(ceiling_->facts()->gainDb < 0.0 ? "sum lowered by %1, low end %2"
                                                     : "sum raised by %1, low end %2")
          .arg(dbText(std::abs(ceiling_->facts()->gainDb), 1, false), dbText(ceiling_->facts()->lostDb));
    case View::Facts:
      return "from each section's mix";
    default:
      return "drag a section or its edges";
  }
}

QString ComparePage::subtitle() const {
  tabs_->setAside(aside());
  const Study* s = document().study();
  if (!s || s->empty) return "check the low end beside tracks known to sound right";
  const auto n = document().session().references.size();
  const TrackSection* section = document().session().comparedSection();
  return QString(s->hasBacking ? "the sum with backing" : "kick and bass alone") +
         (section ? " in " + QString::fromStdString(section->name) : QString()) +
         (n ? QString(", %1 reference%2, loudness matched").arg(n).arg(n == 1 ? "" : "s") : QString());
}

}  // namespace heft::app

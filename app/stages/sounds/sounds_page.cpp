#include "app/stages/sounds/sounds_page.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPushButton>
#include <QShortcut>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/desk/part_menu.h"
#include "app/files/file_choice.h"
#include "app/stages/processors/drive_picture.h"
#include "app/stages/processors/eq_picture.h"
#include "app/stages/processors/level_picture.h"
#include "app/stages/processors/shape_picture.h"
#include "app/stages/processors/space_picture.h"
#include "app/stages/sounds/bass_voice_picture.h"
#include "app/stages/sounds/chain_strip.h"
#include "app/stages/sounds/contour_picture.h"
#include "app/stages/sounds/first_steps.h"
#include "app/stages/sounds/layer_slip.h"
#include "app/stages/sounds/line_picture.h"
#include "app/stages/sounds/overlay_picture.h"
#include "app/stages/sounds/slip_row.h"
#include "app/stages/spectrum_pane.h"
#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/files.h"

namespace heft::app {
namespace {

constexpr int kLeastSoundWidth = 400;

}  // namespace

SectionBar::SectionBar(QWidget* parent) : QWidget(parent) {
  setObjectName("Sections");
  setProperty(kAccessibleRole, QAccessible::PageTabList);
  setAccessibleName("Sections");
  setToolTip("Settings shown below; a bold line means the section is on");
  setFocusPolicy(Qt::StrongFocus);
  setFixedHeight(24);
}

void SectionBar::show(const std::vector<FieldSection>& sections, const QString& now) {
  words_.clear();
  for (const FieldSection& s : sections) words_.push_back({s.name, s.isIn ? s.isIn() : std::nullopt});
  now_ = now;
  double wanted = 0.0;
  for (const Word& w : words_)
    wanted += QFontMetricsF(bodyFont(true)).horizontalAdvance(w.name) + (w.in ? 12 : 0) + 20;
  setFixedWidth(std::max(40, static_cast<int>(std::ceil(wanted)) - 16));
  setAccessibleDescription(now);
  update();
}

std::vector<QRectF> SectionBar::boxes() const {
  const QFontMetricsF body(bodyFont(true));
  double wanted = 0.0;
  for (const Word& w : words_) wanted += body.horizontalAdvance(w.name) + (w.in ? 12 : 0);
  const double gap = words_.size() > 1
                         ? std::clamp((width() - wanted) / static_cast<double>(words_.size() - 1), 6.0, 20.0)
                         : 0.0;
  std::vector<QRectF> out;
  double x = 0.0;
  for (const Word& w : words_) {
    const double wide = body.horizontalAdvance(w.name) + (w.in ? 12 : 0);
    out.emplace_back(x, 0, wide, height());
    x += wide + gap;
  }
  return out;
}

QPointF SectionBar::wordAt(const QString& name) const {
  const auto all = boxes();
  for (size_t i = 0; i < words_.size(); ++i)
    if (words_[i].name == name) return all[i].center();
  return {-1, -1};
}

void SectionBar::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  const auto all = boxes();
  for (size_t i = 0; i < words_.size(); ++i) {
    const bool now = words_[i].name == now_;
    p.setFont(bodyFont(now));
    double x = all[i].left();
    if (words_[i].in) {
      if (*words_[i].in) drawIn(p, QPointF(x, 11.5));
      x += 12;
    }
    p.setPen(now ? t.ink : t.muted);
    p.drawText(QRectF(x, 0, all[i].width() + 4, 22), Qt::AlignLeft | Qt::AlignVCenter, words_[i].name);
    if (now)
      p.fillRect(QRectF(all[i].left(), 21, all[i].width(), hasFocus() ? 3 : 2), hasFocus() ? t.bass : t.ink);
  }
}

void SectionBar::mousePressEvent(QMouseEvent* event) {
  const auto all = boxes();
  for (size_t i = 0; i < all.size(); ++i)
    if (all[i].adjusted(-4, 0, 4, 0).contains(event->position())) {
      Q_EMIT chosen(words_[i].name);
      return;
    }
}

void SectionBar::keyPressEvent(QKeyEvent* event) {
  const int way = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
  const auto at = std::find_if(words_.begin(), words_.end(), [&](const Word& w) { return w.name == now_; });
  if (way == 0 || at == words_.end()) return QWidget::keyPressEvent(event);
  const auto next = at - words_.begin() + way;
  if (next >= 0 && next < static_cast<ptrdiff_t>(words_.size()))
    Q_EMIT chosen(words_[static_cast<size_t>(next)].name);
}

void SoundsPage::addHeadButtons() {
  auto* together = new QPushButton("Overlay layers");
  together->setObjectName("Show layers together");
  together->setAccessibleName("Show layers together");
  together->setToolTip("Strikes and spectra of all layers of this part over each other");
  together->setCheckable(true);
  auto* more = new QPushButton("Add part");
  more->setObjectName("Add part");
  more->setAccessibleName("Add part");
  more->setToolTip("A part beside kick and bass: a snare, a clap, a tom, a mid bass, with a lane of its own");
  spectrumButton_ = spectrumSwitch();
  addToHead(spectrumButton_), addToHead(together), addToHead(more);
  connect(together, &QPushButton::toggled, this, &SoundsPage::showTogether);
  connect(spectrumButton_, &QPushButton::toggled, this, &SoundsPage::showSpectrum);
  connect(more, &QPushButton::clicked, this, [this] { addPartTo(choice_); });
}

SoundsPage::SoundsPage(Document& document, Selection& selection)
    : StagePage(Stage::Sounds, document, selection), choice_(document), shelf_(document) {
  auto* all = new QWidget;
  auto* layout = new QVBoxLayout(all);
  layout->setContentsMargins(0, 2, 0, 0);
  layout->setSpacing(3);
  addHeadButtons();
  layout->addWidget(new SlipRow(kickOf(document.session()), choice_, selection));
  auto* below = new QHBoxLayout;
  below->setSpacing(8);
  below->addWidget(new SlipRow(bassOf(document.session()), choice_, selection), 1);
  auto* backing = new Slip(kBacking, LayerPlace::kNew, choice_, selection, "Backing card");
  backing->setFixedWidth(170);
  below->addWidget(backing);
  layout->addLayout(below);
  others_ = new OtherParts(choice_, selection);
  layout->addWidget(others_);
  bar_ = new SectionBar;
  chain_ = new ChainStrip(choice_, shelf_);
  auto* words = new QHBoxLayout;
  words->setSpacing(24);
  words->addWidget(bar_), words->addWidget(chain_, 1);
  layout->addLayout(words);
  pictures_ = new QStackedWidget;
  for (QWidget* picture :
       std::initializer_list<QWidget*>{wave_ = new WavePicture(choice_, selection),
       ribbon_ = new KickRibbon(choice_, selection), bass_ = new BassVoicePicture(choice_, selection),
       overlay_ = new OverlayPicture(choice_, selection), backing_ = new BackingPicture(document, selection),
       line_ = new LinePicture(document, selection), contour_ = new ContourPicture(choice_, selection),
       eq_ = new EqPicture(choice_, selection), drive_ = new DrivePicture(choice_, selection),
       level_ = new LevelPicture(choice_, selection), shape_ = new ShapePicture(choice_, selection),
       space_ = new SpacePicture(choice_, selection)})
    picture->setMinimumSize(kLeastSoundWidth, 84), pictures_->addWidget(picture);
  pictures_->addWidget(first_ = new FirstSteps);
  spectrum_ = new SpectrumPane(choice_, selection);
  spectrum_->setMinimumWidth(1);  // arrangeSpectrum() sees to its width; the page must not be held wider
  auto* beside = new QHBoxLayout;
  beside->setSpacing(8);
  beside->addWidget(pictures_, 3), beside->addWidget(spectrum_, 2);
  layout->addLayout(beside, 1);
  setPicture(all);
  connect(chain_, &ChainStrip::added, this, [this] { focusFirstValue(); });
  const auto letters = ChainStrip::letters();
  for (size_t kind = 0; kind < letters.size(); ++kind)
    connect(new QShortcut(QKeySequence(QString("Alt+Shift+%1").arg(letters[kind])), this, nullptr, nullptr,
                          Qt::WidgetWithChildrenShortcut),
            &QShortcut::activated, chain_, [this, kind] { chain_->addKind(kind); });
  connect(bar_, &SectionBar::chosen, this, &SoundsPage::showSection);
  connect(ribbon_, &KickRibbon::strikeChosen, this, [this] { showSection("Strike"); });
  connect(&choice_, &LayerChoice::changed, this, &SoundsPage::refresh);
  connect(&document.sounds(), &SoundIntake::layerPlaced, this,
          [this](Place place, int id) { choice_.choose(place, id); });
  connect(&document, &Document::replaced, this, [this] {
    const Layer* first = this->document().session().kickLayer();
    choice_.choose(kickOf(this->document().session()), first ? first->id : 1);
  });
  rebuild();
  refresh();
}

// Fields are rebuilt for another kind of sound.
void SoundsPage::rebuild() {
  const Layer* l = choice_.layer();
  const int kind = l ? static_cast<int>(l->what.index()) + 1 : 0;
  // Shows the effective value.
  const Recorded* r = l ? l->recorded() : nullptr;
  const int acts =
      r ? (isSide(*l) ? 1 : 0) + (r->length ? 2 : 0) + (r->fade.shape == FadeShape::Drawn ? 4 : 0) : 0;
  const size_t points = choice_.place().isPart() ? choice_.part().contour.points.size() : 0;
  // A deleted processor yields to the sound.
  const auto at = choice_.chainPlace();
  if (at && at->id && !choice_.processor()) choice_.lookAt(std::nullopt);
  const Processor* processor = choice_.processor();
  const QString chain = choice_.chainPlace() ? QString("%1 %2 %3 %4")
                                                   .arg(at->of.part.value_or(0))
                                                   .arg(at->of.layer.value_or(0))
                                                   .arg(at->id.value_or(0))
                                                   .arg(processor ? processor->what.index() : kProcessorKinds)
                                             : QString();
  auto shown = [&] {
    return QString("%1 %2 %3 %4 %5 %6")
        .arg(choice_.place().id)
        .arg(kind)
        .arg(acts)
        .arg(points)
        .arg(section_, chain);
  };
  if (shown() == built_) return;
  sections_ = sectionsOf(choice_);
  processor_.reset();
  if (choice_.chainPlace())
    processor_ = processorSection(choice_, *choice_.chainPlace(), [this] { loadBody(); });
  const auto has = [&](const QString& name) {
    return std::any_of(sections_.begin(), sections_.end(),
                       [&](const FieldSection& s) { return s.name == name; });
  };
  if (!has(section_)) section_ = sections_.empty() ? QString() : sections_.front().name;
  built_ = shown();
  clearFields();
  if (processor_)
    for (const FieldSpec& spec : processor_->fields) addField(spec);
  for (const FieldSection& s : sections_)
    if (!processor_ && s.name == section_)
      for (const FieldSpec& spec : s.fields) addField(spec);
}

QWidget* SoundsPage::pictureOf(const Processor& processor) const {
  if (processor.as<Eq>()) return eq_;
  if (processor.as<Drive>()) return drive_;
  if (processor.as<AmpEnvelope>() || processor.as<StrikeSustain>()) return shape_;
  if (processor.as<Body>() || processor.as<Room>()) return space_;
  return level_;
}

void SoundsPage::showPart(Place place) {
  const Part* part = partAt(document().session(), place);
  choice_.choose(place, part && !part->layers.empty() ? part->layers.front().id : 0);
}

bool SoundsPage::showSection(const QString& name) {
  if (std::none_of(sections_.begin(), sections_.end(), [&](const FieldSection& s) { return s.name == name; }))
    return false;
  section_ = name;
  choice_.lookAt(std::nullopt);
  refresh();
  return true;
}

bool SoundsPage::showProcessor(const QString& word) {
  for (const Owner& of : choice_.chains())
    if (const Chain* chain = chainOf(document().session(), of))
      for (const Processor& p : chain->list)
        if (word == processorWord(p.what.index())) {
          choice_.lookAt(ChainPlace{of, p.id});
          return true;
        }
  return false;
}

void SoundsPage::follow(Transport& transport) {
  followPlayhead(transport, [this](std::optional<double> at) { level_->setPlayhead(at); });
}

std::optional<Edit> SoundsPage::withoutSection() const {
  if (const auto& at = choice_.chainPlace(); at && processor_) {
    Edit out = at->id ? switchProcessor(at->of, *at->id, false) : switchChain(at->of, false);
    out.name = nameWithout(processor_->name);
    return out;
  }
  for (const FieldSection& s : sections_)
    if (s.name == section_) return s.without();
  return std::nullopt;
}

void SoundsPage::showTogether(bool together) {
  together_ = together;
  refresh();
}

void SoundsPage::showSpectrum(bool shown) {
  withSpectrum_ = shown;
  spectrumButton_->setChecked(shown);
  refresh();
}

void SoundsPage::refresh() {
  rebuild();
  const Layer* l = choice_.layer();
  const Processor* processor = choice_.processor();
  pictures_->setCurrentWidget(isWithoutSounds(document().session()) ? static_cast<QWidget*>(first_)
                              : (together_ || choice_.isBeside()) && choice_.place().isPart()
                                  ? static_cast<QWidget*>(overlay_)
                              : processor                                  ? pictureOf(*processor)
                              : section_ == kLineSection && !processor_    ? static_cast<QWidget*>(line_)
                              : section_ == kContourSection && !processor_ ? static_cast<QWidget*>(contour_)
                              : choice_.isBacking()                        ? backing_
                              : l && l->kickVoice()                        ? ribbon_
                              : l && l->bassVoice()                        ? static_cast<QWidget*>(bass_)
                                                                           : wave_);
  arrangeSpectrum();
  bar_->show(sections_, processor_ ? QString() : section_);
  StagePage::refresh();
}

// Beside the sound's picture; instead of it where the page is too narrow for both.
void SoundsPage::arrangeSpectrum() {
  constexpr int kMargins = 40;
  // A processor's own picture, the overlay and the line have no wave for it to be beside.
  const QWidget* now = pictures_->currentWidget();
  const bool isSound = now == wave_ || now == ribbon_ || now == bass_;
  const bool shown = withSpectrum_ && isSound && choice_.layer();
  const bool both = width() >= kLeastSoundWidth + kLeastSpectrumWidth + kMargins;
  showEither(shown, both, *spectrum_, *pictures_);
}

// Another processor from anywhere on the page.
void SoundsPage::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Insert || event->key() == Qt::Key_Plus)
    chain_->addByMenu();
  else if (event->key() == Qt::Key_F && event->modifiers() == Qt::NoModifier)
    showSpectrum(!withSpectrum_);
  else
    StagePage::keyPressEvent(event);
}

// Rows of further parts use the height that the picture can spare.
void SoundsPage::resizeEvent(QResizeEvent* event) {
  StagePage::resizeEvent(event);
  arrangeSpectrum();
  constexpr double kPicture = 0.56, kTheRest = 218.0, kRowStep = Slip::kSlipHeight + 3;
  const double spared = (1.0 - kPicture) * height() - kTheRest;
  others_->setMostRows(std::clamp(static_cast<int>(spared / kRowStep), 1, 8));
}

void SoundsPage::loadBody() {
  const auto at = choice_.chainPlace();
  if (!at || !at->id) return;
  const QString path = askForSound(this, "Choose what the body is made from");
  if (!path.isEmpty()) document().sounds().loadBody(at->of, *at->id, path);
}

void SoundsPage::mark(const Finding& finding) {
  StagePage::mark(finding);
  const bool bass = finding.id.rfind("bass", 0) == 0;
  const Layer* l = bass ? document().session().bassLayer() : document().session().kickLayer();
  choice_.choose(bass ? bassOf(document().session()) : kickOf(document().session()), l ? l->id : 1);
}

QString SoundsPage::subtitle() const {
  const Session& s = document().session();
  if (!s.kickLayer() && !s.bassLayer()) return "drop a kick, a bass and the rest of the track, or build them";
  auto count = [](size_t n, const QString& one) {
    return QString("%1 %2%3").arg(n).arg(one, n == 1 ? "" : "s");
  };
  QStringList parts;
  // Events past the loop's end stay in the pattern and do not play.
  auto inLoop = [loop = s.track.loopQuarters()](const auto& events) {
    return static_cast<size_t>(std::count_if(events.begin(), events.end(),
                                             [loop](const auto& e) { return e.startQuarters < loop - 1e-9; }));
  };
  if (s.kickLayer())
    parts << count(s.kick().layers.size(), "kick layer") + " on " + count(inLoop(s.kick().hits), "hit");
  if (s.bassLayer())
    parts << count(s.bass().layers.size(), "bass layer") + " on " + count(inLoop(s.bass().notes), "note");
  if (const size_t more = s.parts.size() - 2; more > 0) parts << count(more, "more part");
  if (!s.backing.asset.empty()) parts << "with backing";
  return parts.join(", ");
}

}  // namespace heft::app

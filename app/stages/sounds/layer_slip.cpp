#include "app/stages/sounds/layer_slip.h"

#include <QApplication>
#include <QDragEnterEvent>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QKeyEvent>
#include <QLabel>
#include <QMenu>
#include <QMimeData>
#include <QMouseEvent>
#include <algorithm>

#include "app/files/file_choice.h"
#include "app/pictures/axis.h"
#include "app/pictures/wave.h"
#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "core/session/edits/parts.h"
#include "core/session/edits/values.h"
#include "core/session/pattern.h"
#include "core/session/versions.h"

namespace heft::app {
namespace {

const QColor kNone(0, 0, 0, 0);
constexpr const char* kTip =
    "Click: open. Right-click: more. M mutes, S solos it here and in exports; M and S on a lane change only "
    "what you hear";
constexpr int kNarrow = 164;  // below it a card has no room for its level and switches
constexpr int kWithLevel = 310;
constexpr int kSlender = 120;  // below it the name alone
constexpr double kLeastName = 64.0, kThumbAt = 8.0, kThumbWide = 46.0;

// A small box with a word, filled when on.
void drawSwitch(QPainter& p, const QRectF& box, const QString& word, bool on) {
  const Theme& t = theme();
  p.setBrush(on ? QBrush(t.ink) : QBrush(Qt::NoBrush));
  p.setPen(QPen(on ? t.ink : t.rule, 1.0));
  p.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
  p.setBrush(Qt::NoBrush);
  p.setPen(on ? t.panel : t.muted);
  p.drawText(box, Qt::AlignCenter, word);
}

}  // namespace

Slip::Slip(Place place, int layer, LayerChoice& choice, Selection& selection, const QString& name)
    : Picture(choice.document(), selection, name), choice_(choice), place_(place), layer_(layer) {
  setAcceptDrops(true);
  setProperty(kAccessibleRole, waits() ? QAccessible::Button : QAccessible::ListItem);
  setMinimumSize(waits() ? 60 : 44, kSlipHeight);
  setMaximumSize(waits() ? 130 : 380, kSlipHeight);
  setCursor(Qt::PointingHandCursor);
  setToolTip(waits() ? "Drop a sound here as another layer; click or Enter to choose a file or to build one"
                     : kTip);
  // Space selects it; on the selected one it plays.
  const auto choosing = [this] { setProperty(kTakesSpace, waits() || !isChosen()), update(); };
  choosing();
  connect(&choice_, &LayerChoice::changed, this, choosing);
  connect(&choice.document(), &Document::rendered, this, &Slip::takeThumbnail);
  connect(&choice.document(), &Document::studied, this, &Slip::takeNote);
  takeThumbnail();
  takeNote();
}

const Layer* Slip::layerNow() const {
  return part() ? part()->layer(layer_) : nullptr;
}

bool Slip::isChosen() const {
  if (choice_.place() != place_ || waits()) return false;
  return place_ == kBacking || (choice_.layer() && choice_.layer()->id == layer_);
}

// Its louder channel at full height; for a long sound the minimum and maximum of each stretch alternate,
// since a slip is painted more often than it is computed.
std::vector<float> Slip::outlineOf(const AudioBuffer& sound) {
  constexpr size_t kStretches = 4096;
  const auto& samples = louderChannel(sound);
  const auto scale = static_cast<float>(1.0 / std::max(1e-6, static_cast<double>(peakOf(sound))));
  std::vector<float> out;
  const size_t stretch = samples.size() > 2 * kStretches ? samples.size() / kStretches + 1 : 1;
  for (size_t i = 0; i < samples.size(); i += stretch) {
    const auto from = samples.begin() + static_cast<ptrdiff_t>(i);
    const auto [least, most] =
        std::minmax_element(from, from + static_cast<ptrdiff_t>(std::min(stretch, samples.size() - i)));
    out.push_back(scale * *least);
    if (stretch > 1) out.push_back(scale * *most);
  }
  return out;
}

// The layer as rendered: a recording whole, one side of a split as cut.
void Slip::takeThumbnail() {
  const Layer* l = layerNow();
  if (l) setToolTip(tipText(QString::fromStdString(l->title()) + "\n" + kTip));
  const LayerSound* made = l ? document().layerSound(place_.id, layer_) : nullptr;
  const bool recording = l ? !l->isBuilt() && !isSide(*l) : place_ == kBacking;
  const auto sound = recording ? document().assets().sound(l ? l->asset() : document().session().backing.asset)
                     : made    ? made->sound
                               : nullptr;
  if (sound != thumbnailOf_) thumbnail_ = sound ? outlineOf(*sound) : std::vector<float>();
  thumbnailOf_ = sound;
  update();
}

// A drum shows its landing, a bass its root.
void Slip::takeNote() {
  const Layer* l = layerNow();
  const LayerSound* made = l ? document().layerSound(place_.id, layer_) : nullptr;
  const bool moved = l && playsHits() && landingTarget(*l);
  if (l && l->recorded() && l->recorded()->split.side == Side::Strike)
    note_ = "strike";
  else if (moved)
    note_ = noteText(*landingTarget(*l));
  else if (!l || !l->recorded() || !made || !made->sound || !made->figures)
    note_.clear();
  else if (made->figures->recordedHz)
    note_ = noteText(midiFromHz(*made->figures->recordedHz, track().notes.a4Hz) +
                     (playsHits() ? l->semitones : 0.0));
  else
    note_ = "no note";
  update();
}

bool Slip::isNarrow() const {
  return width() < kNarrow;
}

QRectF Slip::muteBox() const {
  const Layer* l = layerNow();
  if (isNarrow() && l && !l->mute) return {};
  return QRectF(width() - 37.0, (height() - 15.0) / 2, 33, 15);
}

QRectF Slip::soloBox() const {
  const Layer* l = layerNow();
  if (!isNarrow()) return QRectF(width() - 72.0, (height() - 15.0) / 2, 33, 15);
  return l && l->solo && !l->mute ? QRectF(width() - 37.0, (height() - 15.0) / 2, 33, 15) : QRectF();
}

void Slip::drawThumbnail(QPainter& p, double width, bool quiet) const {
  if (thumbnail_.empty()) return;
  drawWave(p, kThumbAt, kThumbAt + width, height() / 2.0, height() - 8.0, 0,
           static_cast<double>(thumbnail_.size()) / width, WaveReader(thumbnail_, 1.0f),
           quiet ? theme().rule : placeColour(document().session(), place_));
}

void Slip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  const Session& s = document().session();
  const Layer* l = layerNow();
  const QRectF box = QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5);
  const bool empty = place_ == kBacking ? s.backing.asset.empty() : !l;
  p.setFont(axisFont());
  if (empty) {
    p.setPen(
        QPen(over_ || hasFocus() ? placeColour(document().session(), place_) : t.muted, 1.0, Qt::DashLine));
    p.drawRect(box);
    p.setPen(t.muted);
    p.drawText(box, Qt::AlignCenter,
               place_ == kBacking ? QString("drop the backing") : QString("drop or build a layer"));
    return;
  }
  const bool chosen = isChosen();
  p.fillRect(box, chosen ? t.page : t.panel);
  p.setPen(QPen(chosen || hasFocus() || over_ ? t.ink : t.rule, 1.0));
  p.drawRect(box);
  p.fillRect(QRectF(0, 0, 4, height()), placeColour(document().session(), place_));
  const bool missing = !(l && l->isBuilt()) && !document().assets().sound(l ? l->asset() : s.backing.asset);
  const bool muted = l ? l->mute : s.backing.mute;
  const double thumb = width() < kSlender ? 0.0 : kThumbWide;
  if (thumb > 0.0 && !missing) drawThumbnail(p, thumb, muted);
  drawWords(p, kThumbAt + (thumb > 0.0 ? thumb + 8 : 0), missing);
  if (missing) return;
  p.setFont(axisFont());
  if (!muteBox().isNull()) drawSwitch(p, muteBox(), "mute", muted);
  if (l && !soloBox().isNull()) drawSwitch(p, soloBox(), "solo", l->solo);
}

// From the right: switches, level, note; the name has the rest.
void Slip::drawWords(QPainter& p, double left, bool missing) const {
  const Theme& t = theme();
  const Session& s = document().session();
  const Layer* l = layerNow();
  const double middle = height() / 2.0;
  double right = width() - (isNarrow() ? (muteBox().isNull() && soloBox().isNull() ? 6.0 : 42.0)
                            : l        ? 78.0
                                       : 43.0);
  p.setFont(axisFont());
  auto beside = [&](const QString& words, const QColor& ink) {
    // The name comes first.
    if (words.isEmpty() || right - left - p.fontMetrics().horizontalAdvance(words) < kLeastName) return;
    right =
        drawLabel(p, QPointF(right, middle), Qt::AlignRight | Qt::AlignVCenter, words, ink, kNone).left() - 8.0;
  };
  if (missing && !isNarrow()) beside("missing: drop it again", t.off);
  if (!missing && width() >= kWithLevel) beside(dbText(l ? l->levelDb : s.backing.levelDb), t.muted);
  if (!missing && width() >= kSlender) beside(note_, t.muted);
  const QString name = QString::fromStdString(l ? l->title() : s.backing.asset.name);
  p.setFont(bodyFont(isChosen()));
  p.setPen(missing ? t.off : t.ink);
  const QRectF room(left, 0, std::max(0.0, right - left), height());
  p.drawText(room, Qt::AlignLeft | Qt::AlignVCenter,
             p.fontMetrics().elidedText(
                 QFileInfo(name).completeBaseName().isEmpty() ? name : QFileInfo(name).completeBaseName(),
                 Qt::ElideRight, static_cast<int>(room.width())));
}

void Slip::take(const QString& path) {
  document().sounds().load(place_, path, LayerPlace{layerNow() ? layer_ : LayerPlace::kNew});
}

void Slip::browse() {
  const QString path = askForSound(this, "Choose a " + placeWord(document().session(), place_));
  if (!path.isEmpty()) take(path);
}

// What an empty slip can be filled with.
void Slip::offer(const QPoint& at) {
  if (place_ == kBacking) return browse();
  QMenu menu(this);
  menu.setObjectName("New layer menu");
  connect(menu.addAction(QString("Build a %1").arg(placeWord(document().session(), place_))),
          &QAction::triggered, this, [this] { build(); });
  connect(menu.addAction("Choose a file..."), &QAction::triggered, this, &Slip::browse);
  menu.exec(at);
}

void Slip::layerMenu(const QPoint& at) {
  QMenu menu(this);
  menu.setObjectName("Layer menu");
  auto add = [&](const QString& words, auto then) {
    connect(menu.addAction(words), &QAction::triggered, this, then);
  };
  add("Choose another file...", [this] { browse(); });
  add("Rename...", [this] { rename(); });
  add("Duplicate", [this] { duplicate(); });
  add("Move to the left", [this] { move(-1); });
  add("Move to the right", [this] { move(1); });
  menu.addSeparator();
  add("Remove", [this] { remove(); });
  menu.exec(at);
}

void Slip::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  if (waits() || (place_ == kBacking && document().session().backing.asset.empty()))
    return offer(event->globalPosition().toPoint());
  const Layer* l = layerNow();
  choice_.choose(place_, layer_);
  if (l && muteBox().contains(event->position()))
    toggle("mute", l->mute ? "unmute layer" : "mute layer");
  else if (!l && place_ == kBacking && muteBox().contains(event->position()))
    document().edit(toggleValue("mute backing", {}, "backing.mute"));
  else if (l && soloBox().contains(event->position()))
    toggle("solo", l->solo ? "play all layers" : "play layer alone");
}

void Slip::toggle(const std::string& key, const std::string& name) {
  if (const auto owner = choice_.layerOwner()) document().edit(toggleValue(name, *owner, key));
}

std::optional<Edit> Slip::without() const {
  const Layer* l = layerNow();
  if (!l && (place_ != kBacking || document().session().backing.asset.empty())) return std::nullopt;
  const std::string name = "No " + (l ? l->title() : std::string("backing"));
  return l ? putValue(name, Owner{.part = place_.id, .layer = l->id}, "mute", true)
           : putValue(name, {}, "backing.mute", true);
}

const Part* Slip::part() const {
  return partAt(document().session(), place_);
}

bool Slip::playsHits() const {
  return part() && !part()->playsNotes();
}

void Slip::build() {
  if (!part()) return;
  const int id = freshLayerId(*part());
  document().edit(heft::addBuiltLayer(*part()));
  choice_.choose(place_, id);
}

void Slip::duplicate() {
  if (waits() || !layerNow()) return;
  const int id = freshLayerId(*part());
  document().edit(duplicateLayer(*part(), layer_, id));
  if (part()->layer(id)) choice_.choose(place_, id);
}

void Slip::move(int way) {
  if (layerNow()) document().edit(moveLayer(*part(), layer_, way));
}

void Slip::rename() {
  const Layer* l = layerNow();
  if (!l) return;
  bool ok = false;
  const QString name = QInputDialog::getText(this, "Name this layer", "Name", QLineEdit::Normal,
                                             QString::fromStdString(l->title()), &ok);
  if (ok && part()) document().edit(renameLayer(*part(), layer_, name.toStdString()));
}

void Slip::remove() {
  if (waits() || !layerNow()) return;
  choice_.choose(place_, layer_);
  document().edit(removeLayer(*part(), layer_));
}

void Slip::contextMenuEvent(QContextMenuEvent* event) {
  if (waits() || place_ == kBacking) return;
  choice_.choose(place_, layer_);
  layerMenu(event->globalPos());
}

void Slip::keyPressEvent(QKeyEvent* event) {
  const bool enter = event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter ||
                     (waits() && event->key() == Qt::Key_Space);
  const bool sideways = event->key() == Qt::Key_Left || event->key() == Qt::Key_Right;
  if (!waits() && event->key() == Qt::Key_Space) return choice_.choose(place_, layer_);
  // Arrows go from card to card.
  if (sideways && !(event->modifiers() & Qt::AltModifier)) {
    focusNextPrevChild(event->key() == Qt::Key_Right);
    if (auto* next = qobject_cast<Slip*>(QApplication::focusWidget()); next && !next->waits())
      choice_.choose(next->place_, next->layer_);
    return;
  }
  if (!enter && (waits() || place_ == kBacking)) return QWidget::keyPressEvent(event);
  const bool control = event->modifiers() & Qt::ControlModifier;
  if (!waits()) choice_.choose(place_, layer_);
  if (enter)
    waits() ? offer(mapToGlobal(rect().bottomLeft())) : browse();
  else if (event->key() == Qt::Key_M)
    toggle("mute", "mute layer");
  else if (event->key() == Qt::Key_S && !control)
    toggle("solo", "play layer alone");
  else if (event->key() == Qt::Key_D && control)
    duplicate();
  else if (event->key() == Qt::Key_Delete)
    remove();
  else if (sideways && (event->modifiers() & Qt::AltModifier) && (event->modifiers() & Qt::ShiftModifier))
    move(event->key() == Qt::Key_Left ? -1 : 1);
  else
    QWidget::keyPressEvent(event);
}

void Slip::dragEnterEvent(QDragEnterEvent* event) {
  if (!event->mimeData()->hasUrls()) return;
  event->acceptProposedAction();
  over_ = true;
  update();
}

void Slip::dragLeaveEvent(QDragLeaveEvent*) {
  over_ = false, update();
}

void Slip::dropEvent(QDropEvent* event) {
  over_ = false;
  for (const QString& file : localFiles(event->mimeData())) {
    take(file);
    event->acceptProposedAction();
    if (!waits()) break;  // several files on the empty slip are several layers
  }
  choice_.choose(place_, layer_);
}

}  // namespace heft::app

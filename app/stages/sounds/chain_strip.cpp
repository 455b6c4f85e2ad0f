#include "app/stages/sounds/chain_strip.h"

#include <QApplication>
#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/stages/sounds/layer_sections.h"
#include "app/theme/theme.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/presets.h"

namespace heft::app {
namespace {

constexpr double kItemGap = 18.0, kNarrowGap = 8.0, kBetweenHolders = 30.0, kTitleWide = 130.0, kPad = 7.0,
                 kWords = 4.0;  // px within a box, and from the signal line to words
// The signal line: through a processor that is on, beneath one that is off.
constexpr double kThrough = 11.5, kBeneath = 21.5;

}  // namespace

ChainStrip::ChainStrip(LayerChoice& choice, PresetShelf& shelf, QWidget* parent)
    : QWidget(parent), choice_(choice), shelf_(shelf) {
  setObjectName("Processors");
  setProperty(kAccessibleRole, QAccessible::ToolBar);
  setAccessibleName("Processors");
  setProperty(kTakesSpace, true);
  setToolTip("Processors. Click one to see it; drag to reorder; + adds one");
  setWhatsThis(
      "The processors in order: the layer's, the part's, the sum's. In a box: on. Line beneath: off. Click or "
      "Left, Right: "
      "select. Drag or Alt+Left, Alt+Right: reorder. Space: on or off. Delete: remove. Insert, +: add. Ctrl+C, "
      "X, V, D: copy, cut, paste, duplicate. Up, Down: audition presets, level matched; Return: apply, Esc: "
      "leave. Right-click: menu.");
  setFocusPolicy(Qt::StrongFocus);
  setFixedHeight(24);
  setMouseTracking(true);
  connect(&choice_.document(), &Document::changed, this, qOverload<>(&QWidget::update));
  connect(&choice_.document(), &Document::heardWanted, this, &ChainStrip::takeFlipped);
  connect(&choice_, &LayerChoice::changed, this, [this] {
    leaveFlipped();
    update();
  });
}

void ChainStrip::addItems(const Owner& of, bool open, Room room, std::vector<Item>& out) const {
  const Chain* chain = chainOf(session(), of);
  if (!chain) return;
  const bool much = room == Room::Much;
  const double gap = much ? kItemGap : kNarrowGap;
  const QFontMetricsF body(bodyFont(true)), small(axisFont());
  double x = out.empty() ? 0.0 : out.back().box.right() + (much ? kBetweenHolders : kItemGap);
  auto add = [&](What what, std::optional<int> id, const QString& word, double wide, bool in) {
    out.push_back({what, {of, id}, word, in, QRectF(x, 0, wide, height())});
    x += wide + gap;
  };
  QString title =
      small.elidedText(chainTitle(session(), of), Qt::ElideMiddle, much ? kTitleWide : kTitleWide / 2);
  if (!open && !chain->list.empty()) title += QString(", %1").arg(chain->list.size());
  add(What::Title, {}, title, small.horizontalAdvance(title), chain->on);
  if (!open) return;
  for (const Processor& p : chain->list) {
    const size_t kind = p.what.index();
    const QString word = much ? processorWord(kind) : processorShortWord(kind);
    add(What::Processor, p.id, word, 2.0 * kPad + body.horizontalAdvance(word), p.isOn() && chain->on);
  }
  add(What::Add, {}, "+", 12, false);
}

std::vector<ChainStrip::Item> ChainStrip::items() const {
  const auto holders = choice_.chains();
  const ChainPlace now = chosen();
  std::vector<Item> out;
  auto fits = [&](bool all, Room room) {
    out.clear();
    // Without room for all, shows the selection and counts the others.
    for (const Owner& of : holders) addItems(of, all || of == now.of, room, out);
    return out.empty() || out.back().box.right() <= width();
  };
  if (fits(true, Room::Much) || fits(false, Room::Much) || fits(false, Room::Little)) return out;
  // At worst it scrolls with the selection.
  const auto at = std::find_if(out.begin(), out.end(), [&](const Item& item) { return item.place == now; });
  const double most = out.back().box.right() - width();
  const double by = at == out.end() ? 0.0 : std::clamp(at->box.center().x() - width() / 2.0, 0.0, most);
  for (Item& item : out) item.box.translate(-by, 0);
  return out;
}

ChainPlace ChainStrip::chosen() const {
  const auto holders = choice_.chains();
  const auto& place = choice_.chainPlace();
  if (place && std::find(holders.begin(), holders.end(), place->of) != holders.end()) return *place;
  return {holders.front()};
}

QPointF ChainStrip::placeOf(What what, const ChainPlace& place) const {
  for (const Item& item : items())
    if (item.what == what && item.place == place) return item.box.center();
  return {-1, -1};
}

std::vector<AccessibleItem> ChainStrip::accessibleItems() const {
  std::vector<AccessibleItem> out;
  for (const Item& item : items())
    out.push_back({item.what == What::Add         ? QString("add a processor")
                   : item.what == What::Processor ? item.word + (item.in ? ", on" : ", off")
                                                  : item.word,
                   item.box.toRect()});
  return out;
}

void ChainStrip::drawItem(QPainter& p, const Item& item, bool now) const {
  const Theme& t = theme();
  const QRectF box(std::round(item.box.left()) + 0.5, 2.5, std::round(item.box.width()) - 1.0, 18.0);
  p.setFont(item.what == What::Title ? axisFont(now) : bodyFont(now));
  if (item.what != What::Processor) {
    p.setPen(now ? t.ink : t.muted);
    p.drawText(QRectF(item.box.left(), 0, item.box.width() + 4, 22), Qt::AlignLeft | Qt::AlignVCenter,
               item.word);
    if (now)
      p.fillRect(QRectF(item.box.left(), 21, item.box.width(), hasFocus() ? 3 : 2),
                 hasFocus() ? t.bass : t.ink);
    return;
  }
  // What is looked at is inverted; the focus is a second line around it.
  p.setPen(now || item.in ? QPen(t.ink, 1.0) : QPen(Qt::NoPen));
  p.setBrush(!now ? QBrush() : QBrush(item.in ? t.ink : t.muted));
  p.drawRect(box);
  p.setBrush(Qt::NoBrush);
  if (now && hasFocus()) {
    p.setPen(QPen(t.bass, 2.0));
    p.drawRect(box.adjusted(-1.0, -1.0, 1.0, 1.0));
  }
  p.setPen(now ? t.page : item.in ? t.ink : t.muted);
  p.drawText(box, Qt::AlignCenter, item.word);
}

// The signal's way along the strip: into each box that is on, beneath those that are off.
void ChainStrip::drawSignal(QPainter& p, const std::vector<Item>& all) const {
  p.setPen(rulePen(theme().muted));
  const auto isBox = [](const Item& item) { return item.what == What::Processor; };
  for (size_t i = 0; i < all.size(); ++i) {
    const QRectF& box = all[i].box;
    if (isBox(all[i]) && !all[i].in) {
      const QPointF way[] = {
          {box.left(), kThrough}, {box.left(), kBeneath}, {box.right(), kBeneath}, {box.right(), kThrough}};
      p.drawPolyline(way, 4);
    }
    if (i == 0) continue;
    const double from = all[i - 1].box.right() + (isBox(all[i - 1]) ? 0.0 : kWords);
    p.drawLine(QPointF(from, kThrough), QPointF(box.left() - (isBox(all[i]) ? 0.0 : kWords + 1.0), kThrough));
  }
}

void ChainStrip::paintEvent(QPaintEvent*) {
  QPainter p(this);
  const Theme& t = theme();
  const auto all = items();
  drawSignal(p, all);
  const auto& place = choice_.chainPlace();
  for (const Item& item : all) drawItem(p, item, place && item.what != What::Add && item.place == *place);
  if (const auto gap = dragX_ ? gapAt(*dragX_) : std::nullopt) {
    p.setPen(QPen(t.ink, 2.0));
    p.drawLine(QPointF(gap->x, 1), QPointF(gap->x, height() - 2.0));
  }
  if (flipped_) {
    p.setFont(axisFont());
    // A list and the layer it is for have the same name.
    const bool isWhole = !flippedAt_.id && !std::holds_alternative<Chain>(flipped_->what);
    const QString words =
        QString("playing %1%2 (Return keeps it)")
            .arg(isWhole ? QString("whole %1 ").arg(QString::fromStdString(presetKindWord(*flipped_))) : "",
                 QString::fromStdString(flipped_->name));
    drawLabel(p, QPointF(width() - 1.0, 11), Qt::AlignRight | Qt::AlignVCenter, words, t.ink, t.page);
  }
}

std::optional<ChainStrip::Item> ChainStrip::itemAt(const QPointF& at) const {
  for (const Item& item : items())
    if (item.box.adjusted(-5, 0, 5, 0).contains(at)) return item;
  return std::nullopt;
}

// Drop positions: before each processor and after the last of each open chain.
std::vector<ChainStrip::Gap> ChainStrip::gaps() const {
  std::vector<Gap> out;
  const auto all = items();
  size_t place = 0;
  for (size_t i = 1; i < all.size(); ++i) {
    if (all[i].what == What::Title) place = 0;
    if (all[i].what == What::Title) continue;
    out.push_back({all[i].place.of, place++, all[i].box.left() - kItemGap / 2});
  }
  return out;
}

std::optional<ChainStrip::Gap> ChainStrip::gapAt(double x) const {
  const auto all = gaps();
  const auto at = std::min_element(all.begin(), all.end(), [x](const Gap& a, const Gap& b) {
    return std::abs(a.x - x) < std::abs(b.x - x);
  });
  return at == all.end() ? std::nullopt : std::optional(*at);
}

void ChainStrip::lookAt(const ChainPlace& place) {
  choice_.lookAt(place);
}

void ChainStrip::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  const auto item = itemAt(event->position());
  if (!item) return;
  if (item->what == What::Add) {
    QMenu menu(this);
    fillAddMenu(menu, {item->place.of});
    menu.exec(event->globalPosition().toPoint());
    return;
  }
  lookAt(item->place);
  if (item->what == What::Processor) pressed_ = item->place, pressedAt_ = event->position();
}

void ChainStrip::mouseMoveEvent(QMouseEvent* event) {
  setCursor(itemAt(event->position()) ? Qt::PointingHandCursor : Qt::ArrowCursor);
  if (!pressed_) return;
  if (!dragX_ && std::abs(event->position().x() - pressedAt_.x()) < QApplication::startDragDistance()) return;
  dragX_ = event->position().x();
  update();
}

void ChainStrip::mouseReleaseEvent(QMouseEvent*) {
  const auto pressed = std::exchange(pressed_, std::nullopt);
  const auto x = std::exchange(dragX_, std::nullopt);
  update();
  const auto gap = x ? gapAt(*x) : std::nullopt;
  if (!pressed || !gap) return;
  const Chain *from = chainOf(session(), pressed->of), *to = chainOf(session(), gap->of);
  if (!from || !to) return;
  if (gap->of != pressed->of && to->isFull()) return document().tell("A chain holds ten processors.");
  size_t place = gap->place;
  const auto own = std::find_if(from->list.begin(), from->list.end(),
                                [&](const Processor& p) { return p.id == pressed->id; });
  if (gap->of == pressed->of && own != from->list.end() &&
      static_cast<size_t>(own - from->list.begin()) < place)
    --place;
  document().edit(moveProcessorTo(pressed->of, *pressed->id, gap->of, place));
  if (to = chainOf(session(), gap->of); to && place < to->list.size()) lookAt({gap->of, to->list[place].id});
}

void ChainStrip::contextMenuEvent(QContextMenuEvent* event) {
  const auto item = itemAt(event->pos());
  ChainPlace at = chosen();
  if (item && event->reason() == QContextMenuEvent::Mouse) at = item->place;
  lookAt(at);
  QMenu menu(this);
  fillMenu(menu, at);
  menu.exec(event->globalPos());
}

void ChainStrip::addByMenu() {
  const ChainPlace at = chosen();
  QMenu menu(this);
  menu.setObjectName("Add processor menu");
  fillAddMenu(menu, at);
  const What what = choice_.processor() ? What::Processor : What::Title;
  menu.exec(mapToGlobal(QPoint(static_cast<int>(placeOf(what, at).x()), height())));
}

void ChainStrip::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  const bool alt = event->modifiers() & Qt::AltModifier;
  const ChainPlace at = chosen();
  const Processor* now = choice_.processor();
  if (key == Qt::Key_Left || key == Qt::Key_Right) {
    const int way = key == Qt::Key_Left ? -1 : 1;
    if (alt && now) return document().edit(moveProcessor(at.of, now->id, way));
    std::vector<ChainPlace> places;
    for (const Item& item : items())
      if (item.what != What::Add) places.push_back(item.place);
    const auto found = std::find(places.begin(), places.end(), at);
    const auto to = choice_.chainPlace() ? found - places.begin() + way : 0;
    if (to >= 0 && to < std::ssize(places)) lookAt(places[static_cast<size_t>(to)]);
    return;
  }
  if (key == Qt::Key_Up || key == Qt::Key_Down) return flip(key == Qt::Key_Up ? -1 : 1);
  if ((key == Qt::Key_Return || key == Qt::Key_Enter) && flipped_) return takeFlipped();
  if (key == Qt::Key_Escape && flipped_) return leaveFlipped();
  if (key == Qt::Key_Space) {
    const Chain* chain = chainOf(session(), at.of);
    if (!chain) return;
    return document().edit(now ? switchProcessor(at.of, now->id, !now->isOn())
                               : switchChain(at.of, !chain->on));
  }
  if (key == Qt::Key_Delete || key == Qt::Key_Backspace) return remove();
  if (key == Qt::Key_Insert || key == Qt::Key_Plus) return addByMenu();
  QWidget::keyPressEvent(event);
}

}  // namespace heft::app

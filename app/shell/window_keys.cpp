// Window-wide keys, wherever the focus is.

#include <QAbstractButton>
#include <QAbstractItemView>
#include <QApplication>
#include <QComboBox>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QLineEdit>
#include <QPlainTextEdit>
#include <QScrollArea>
#include <QToolTip>
#include <algorithm>
#include <set>

#include "app/library/library_panel.h"
#include "app/loop/loop_strip.h"
#include "app/pictures/heard_ways.h"
#include "app/pictures/numbered_offers.h"
#include "app/shell/fix_sheet.h"
#include "app/shell/header_bar.h"
#include "app/shell/ledger_panel.h"
#include "app/shell/notices.h"
#include "app/shell/stage_list.h"
#include "app/shell/window.h"
#include "app/stages/compare/compare_page.h"
#include "app/stages/compare/sections_picture.h"
#include "app/stages/duck/duck_page.h"
#include "app/stages/sounds/chain_strip.h"
#include "app/stages/sounds/layer_slip.h"
#include "app/stages/sounds/sounds_page.h"
#include "app/theme/theme.h"
#include "app/widgets/accessible.h"
#include "core/session/edits/values.h"

namespace heft::app {

namespace {

// Position of a widget in its container, unscrolled: tabbing through a list scrolls it, and must not change
// the order.
QPoint placeIn(const QWidget* part, const QWidget* w) {
  if (w == part) return QPoint(-1, -1);
  QPoint at;
  for (; w && w != part; w = w->parentWidget()) {
    const QWidget* around = w->parentWidget() ? w->parentWidget()->parentWidget() : nullptr;
    const auto* scroll = qobject_cast<const QScrollArea*>(around);
    if (!scroll || scroll->widget() != w) at += w->pos();
  }
  return at;
}

// Focusable widgets of an area in reading order: side by side counts as one row.
std::vector<QWidget*> inReadingOrder(QWidget* part) {
  std::vector<QWidget*> out;
  if (!part->isVisible()) return out;
  if (part->focusPolicy() & Qt::TabFocus) out.push_back(part);
  for (QWidget* w : part->findChildren<QWidget*>())
    if (w->isVisible() && w->isEnabled() && (w->focusPolicy() & Qt::TabFocus) && !w->focusProxy())
      out.push_back(w);
  auto place = [part](const QWidget* w) { return placeIn(part, w); };
  std::stable_sort(out.begin(), out.end(), [&](QWidget* a, QWidget* b) { return place(a).y() < place(b).y(); });
  for (auto first = out.begin(); first != out.end();) {
    const int bottom = place(*first).y() + std::min(24, (*first)->height());
    const auto last =
        std::find_if(first + 1, out.end(), [&](const QWidget* w) { return place(w).y() >= bottom; });
    std::stable_sort(first, last, [&](QWidget* a, QWidget* b) { return place(a).x() < place(b).x(); });
    first = last;
  }
  return out;
}

}  // namespace

// Tab follows reading order: header, stages, page, Ledger, loop.
bool Window::focusNextPrevChild(bool next) {
  std::vector<QWidget*> order;
  // The list of fixes keeps the focus until it is closed.
  if (fixes_->isVisible() && (fixes_->hasFocus() || fixes_->isAncestorOf(QApplication::focusWidget())))
    order = inReadingOrder(fixes_);
  else
    for (QWidget* part : std::initializer_list<QWidget*>{header_, stages_, libraryPanel_,
                                                         stack_->currentWidget(), ledger_, strip_, notices_})
      for (QWidget* w : inReadingOrder(part)) order.push_back(w);
  if (order.empty()) return false;
  const auto at = std::find(order.begin(), order.end(), QApplication::focusWidget());
  const auto count = static_cast<ptrdiff_t>(order.size());
  const ptrdiff_t now = at == order.end() ? (next ? -1 : 0) : at - order.begin();
  order[static_cast<size_t>((now + (next ? 1 : -1) + count) % count)]->setFocus(next ? Qt::TabFocusReason
                                                                                     : Qt::BacktabFocusReason);
  return true;
}

void Window::focusFirstIn(QWidget* place) {
  if (const auto order = inReadingOrder(place); !order.empty())
    order.front()->setFocus(Qt::ShortcutFocusReason);
}

// An area's key also moves the focus there.
void Window::goToStage(Stage stage) {
  showStage(stage);
  QWidget* to = page(stage);
  if (to->isAncestorOf(QApplication::focusWidget())) return;
  focusFirstIn(to);
}

// While text or a card has the focus, the Edit menu acts on it.
bool Window::editText(LoopStrip::EditKind kind) {
  using Kind = LoopStrip::EditKind;
  if (auto* card = qobject_cast<Slip*>(QApplication::focusWidget())) {
    if (kind == Kind::Duplicate) card->duplicate();
    if (kind == Kind::Delete) card->remove();
    return kind == Kind::Duplicate || kind == Kind::Delete;
  }
  if (auto* chain = qobject_cast<ChainStrip*>(QApplication::focusWidget())) {
    if (kind == Kind::Cut) chain->cut();
    if (kind == Kind::Copy) chain->copy();
    if (kind == Kind::Paste) chain->paste();
    if (kind == Kind::Duplicate) chain->duplicate();
    if (kind == Kind::Delete) chain->remove();
    return true;
  }
  if (auto* sections = qobject_cast<SectionsPicture*>(QApplication::focusWidget())) {
    if (kind == Kind::Duplicate) sections->duplicate();
    if (kind == Kind::Delete) sections->remove();
    return true;
  }
  auto* line = qobject_cast<QLineEdit*>(QApplication::focusWidget());
  if (!line) return false;
  if (kind == Kind::Cut) line->cut();
  if (kind == Kind::Copy) line->copy();
  if (kind == Kind::Paste) line->paste();
  if (kind == Kind::Delete) line->del();
  if (kind == Kind::SelectAll) line->selectAll();
  return true;
}

DuckPage* Window::duckPage() const {
  return static_cast<DuckPage*>(pages_[3]);
}

// A way plays like Before: rendered aside, level matched.
void Window::connectWays() {
  duckPage()->follow(transport_), static_cast<SoundsPage*>(pages_[0])->follow(transport_);
  static_cast<TunePage*>(pages_[1])->follow(transport_);
  const auto hear = [this](const std::optional<Edit>& edit) { before_.hear(edit); };
  for (StagePage* page : pages_) {
    for (auto* ways : page->findChildren<HeardWays*>()) connect(ways, &HeardWays::heard, this, hear);
    for (auto* chain : page->findChildren<ChainStrip*>()) connect(chain, &ChainStrip::heard, this, hear);
    for (auto* offers : page->findChildren<NumberedOffers*>())
      connect(offers, &NumberedOffers::heard, this, hear);
  }
  connect(fixes_, &FixSheet::heard, this, hear);
}

// Space always plays, also after a click or a stage key: Space presses only widgets that were reached by Tab,
// Return those reached by any key.
bool Window::pressFocused(QWidget* focus, int key) {
  if (key == Qt::Key_Space && !reachedByTab_) {
    transport_.toggle();
    return true;
  }
  if (!reachedByKeys_) return qobject_cast<QAbstractButton*>(focus);
  if (auto* button = qobject_cast<QAbstractButton*>(focus)) {
    button->click();
    return true;
  }
  const auto* field = qobject_cast<ValueField*>(focus);
  const bool box = qobject_cast<QComboBox*>(focus) || qobject_cast<QAbstractItemView*>(focus) ||
                   (field && field->spec().choose && key == Qt::Key_Space) ||
                   (key == Qt::Key_Space && focus && focus->property(kTakesSpace).toBool());
  if (box || key != Qt::Key_Space) return false;
  transport_.toggle();
  return true;
}

std::optional<int> Window::chosenLane() const {
  const QWidget* focus = QApplication::focusWidget();
  if (strip_ == focus || strip_->isAncestorOf(focus)) return strip_->hand().id;
  const LayerChoice& choice = static_cast<SoundsPage*>(pages_[0])->choice();
  if (choice.isBacking()) return kBackingLane;
  if (choice.isSum()) return std::nullopt;
  return choice.part().layers.size() > 1 ? std::nullopt : std::optional(choice.part().id);
}

void Window::silenceOthers() {
  if (const auto lane = chosenLane()) return transport_.setSolo(*lane, !transport_.lanes().isSolo(*lane));
  flipLayer("play layer alone", "solo");
}

void Window::silenceChosen() {
  if (const auto lane = chosenLane()) return transport_.setMuted(*lane, !transport_.lanes().isMuted(*lane));
  flipLayer("mute layer", "mute");
}

void Window::flipLayer(const std::string& name, const std::string& key) {
  const LayerChoice& choice = static_cast<SoundsPage*>(pages_[0])->choice();
  const auto of = choice.isSum() ? std::nullopt : choice.layerOwner();
  if (!of) return document_.tell("Choose a card or a lane: the sum has no solo and no mute.");
  document_.edit(toggleValue(name, *of, key));
}

// How the focus got there. Menus and other windows that return it change nothing.
void Window::noteHand(QEvent* event) {
  if (event->type() == QEvent::MouseButtonPress) reachedByKeys_ = reachedByTab_ = false;
  if (event->type() != QEvent::FocusIn) return;
  const auto reason = static_cast<QFocusEvent*>(event)->reason();
  const bool byTab =
      reason == Qt::TabFocusReason || reason == Qt::BacktabFocusReason || reason == Qt::OtherFocusReason;
  if (reason == Qt::MouseFocusReason) reachedByKeys_ = false;
  if (byTab || reason == Qt::MouseFocusReason || reason == Qt::ShortcutFocusReason) reachedByTab_ = byTab;
  if (reason == Qt::TabFocusReason || reason == Qt::BacktabFocusReason || reason == Qt::ShortcutFocusReason ||
      reason == Qt::OtherFocusReason)
    reachedByKeys_ = true;
}

// Tips contain outside names, and Qt guesses at markup. Intended markup begins with <qt> (tipText).
static bool showPlainTip(QObject* object, QEvent* event) {
  auto* widget = qobject_cast<QWidget*>(object);
  if (!widget || !Qt::mightBeRichText(widget->toolTip()) || widget->toolTip().startsWith("<qt>")) return false;
  QToolTip::showText(static_cast<QHelpEvent*>(event)->globalPos(), tipText(widget->toolTip()), widget);
  return true;
}

// The next hit, or the next that a line of the Ledger finds out of range; the strip and the playhead go there.
void Window::stepHit(int way, bool outOfRange) {
  const Stems* stems = document_.stems();
  if (!stems || stems->hitFrames().empty()) return document_.tell("There are no hits yet.");
  std::set<int> wanted;
  for (const Finding& f : document_.findings())
    for (const HitLine& hit : f.hits)
      if (outOfRange && !f.meantSo && hit.verdict != Verdict::Holds) wanted.insert(hit.hit);
  if (outOfRange && wanted.empty()) return document_.tell("Every hit is in range.");
  const int all = static_cast<int>(stems->hitFrames().size());
  int to = selection_.hit();
  for (int i = 0; i < all; ++i) {
    to = (to + way + all) % all;
    if (!outOfRange || wanted.contains(to)) break;
  }
  selection_.setHit(to);
  const double at = stems->hitFrames()[static_cast<size_t>(to)] / document_.track().framesPerQuarter();
  if (!transport_.isPlaying()) transport_.locate(at);
  strip_->view().showAt(at);
}

// In a song the stages show the hit that sounds where the playhead was put. A loop has few: there a hit that
// was chosen stays.
void Window::chooseHitAtPlayhead() {
  const Stems* stems = document_.stems();
  const Track& track = document_.track();
  if (!track.song || !stems || stems->hitFrames().empty()) return;
  constexpr double kEarly = 0.125;  // a hit that is played early belongs to its place
  const auto& hits = stems->hitFrames();
  const auto after =
      std::upper_bound(hits.begin(), hits.end(), (transport_.start() + kEarly) * track.framesPerQuarter());
  selection_.setHit(static_cast<int>(std::max<ptrdiff_t>(0, after - hits.begin() - 1)));
}

// Letters work from anywhere but a text field.
void Window::turnSolo(int lane) {
  transport_.setSolo(lane, !transport_.lanes().isSolo(lane));
}

bool Window::eventFilter(QObject* object, QEvent* event) {
  noteHand(event);
  if (event->type() == QEvent::ToolTip && showPlainTip(object, event)) return true;
  if (event->type() != QEvent::KeyPress || !isActiveWindow()) return QMainWindow::eventFilter(object, event);
  auto* key = static_cast<QKeyEvent*>(event);
  QWidget* focus = QApplication::focusWidget();
  const bool typing = qobject_cast<QLineEdit*>(focus) || qobject_cast<QPlainTextEdit*>(focus) ||
                      QApplication::activePopupWidget() || QApplication::activeModalWidget();
  if (typing || (object != focus && object != this) ||
      (key->modifiers() & ~(Qt::ShiftModifier | Qt::KeypadModifier)))
    return QMainWindow::eventFilter(object, event);
  switch (key->key()) {
    case Qt::Key_Space:
    case Qt::Key_Return:
    case Qt::Key_Enter:
      if (pressFocused(focus, key->key())) return true;
      break;
    case Qt::Key_B:
      if (key->modifiers() & Qt::ShiftModifier)
        before_.toggle(BeforeSwitch::Heard::All, leaveOut(MovesOf::All, "Before all"));
      else
        before_.toggle(BeforeSwitch::Heard::Stage, beforeStage());
      return true;
    case Qt::Key_I:
      key->modifiers() & Qt::ShiftModifier ? hearWithoutKind() : hearWithout();
      return true;
    case Qt::Key_X:
      hearVersion();
      return true;
    case Qt::Key_L:
      key->modifiers() & Qt::ShiftModifier ? silenceChosen() : silenceOthers();
      return true;
    case Qt::Key_K:
      turnSolo(document_.session().kick().id);
      return true;
    case Qt::Key_O:
      transport_.swapDevices();
      return true;
    case Qt::Key_Period:
    case Qt::Key_Comma:
      stepHit(key->key() == Qt::Key_Period ? 1 : -1, key->modifiers() & Qt::ShiftModifier);
      return true;
    case Qt::Key_Greater:
    case Qt::Key_Less:
      stepHit(key->key() == Qt::Key_Greater ? 1 : -1, true);
      return true;
    case Qt::Key_R:
      ear_.flip();
      return true;
    case Qt::Key_J:
      turnSolo(document_.session().bass().id);
      return true;
    default:
      break;
  }
  if (currentStage() == Stage::Compare && static_cast<ComparePage*>(page(Stage::Compare))->takeKey(key))
    return true;
  return QMainWindow::eventFilter(object, event);
}

}  // namespace heft::app

#include "app/stages/sounds/slip_row.h"

#include <QContextMenuEvent>
#include <QHBoxLayout>
#include <QInputDialog>
#include <QLabel>
#include <algorithm>

#include "app/desk/part_menu.h"
#include "app/stages/sounds/layer_slip.h"
#include "app/theme/theme.h"
#include "app/widgets/plain_label.h"
#include "core/session/edits/parts.h"

namespace heft::app {
namespace {

const Versions& versionsOf(const Session& s, Place place) {
  static const Versions none;
  const Part* part = partAt(s, place);
  return part ? part->versions : none;
}

const std::vector<Layer>& layersOf(const Session& s, Place place) {
  static const std::vector<Layer> none;
  const Part* part = partAt(s, place);
  return part ? part->layers : none;
}

}  // namespace

SlipRow::SlipRow(Place place, LayerChoice& choice, Selection& selection)
    : place_(place), choice_(choice), selection_(selection) {
  auto* layout = new QHBoxLayout(this);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(8);
  name_ = plainLabel(placeName(choice.document().session(), place));
  name_->setFixedWidth(52);
  layout->addWidget(name_, 0, Qt::AlignVCenter);
  version_ = new ValueField({.name = placeName(choice.document().session(), place) + " version",
                             .tip = "Version in use. Click: switch, add, rename, remove. X: compare",
                             .text =
                                 [this] {
                                   const Session& s = choice_.document().session();
                                   const Versions& v = versionsOf(s, place_);
                                   const QString name = QString::fromStdString(
                                       v.all.empty() ? "First" : v.all[static_cast<size_t>(v.now)].name);
                                   return v.all.size() < 2
                                              ? QString("1 version")
                                              : (name.size() > 10 ? name.left(9) + "\u2026" : name);
                                 },
                             .choices =
                                 [this] {
                                   const Versions& v = versionsOf(choice_.document().session(), place_);
                                   QStringList out;
                                   for (const PartVersion& one : v.all) out << QString::fromStdString(one.name);
                                   if (out.isEmpty()) out << "First";
                                   out << "New version, like this"
                                       << "Name this version..."
                                       << "Remove this version";
                                   for (size_t i = 0; i < v.all.size(); ++i)
                                     if (i != static_cast<size_t>(v.now))
                                       out << "Show beside " + QString::fromStdString(v.all[i].name);
                                   return out;
                                 },
                             .choose = [this](int i) { chooseVersion(i); }});
  version_->setFixedWidth(78);
  layout->addWidget(version_, 0, Qt::AlignVCenter);
  auto* holder = new QWidget;
  slips_ = new QHBoxLayout(holder);
  slips_->setContentsMargins(0, 0, 0, 0);
  slips_->setSpacing(8);
  layout->addWidget(holder, 1);
  auto refresh = [this] { version_->refresh(), rebuild(), showName(); };
  connect(&choice.document(), &Document::changed, this, refresh);
  connect(&choice.document(), &Document::replaced, this, refresh);
  connect(&choice, &LayerChoice::changed, this, &SlipRow::showName);
  rebuild();
  showName();
}

void SlipRow::contextMenuEvent(QContextMenuEvent* event) {
  if (choice_.place() != place_) choice_.choose(place_, 0);
  QMenu menu(this);
  menu.setObjectName("Part menu");
  fillPartMenu(menu, choice_, this);
  menu.exec(event->globalPos());
}

// A press beside the cards selects the part.
void SlipRow::mousePressEvent(QMouseEvent*) {
  const auto& layers = layersOf(choice_.document().session(), place_);
  choice_.choose(place_, layers.empty() ? 0 : layers.front().id);
}

// The ink is part of the name's style.
void SlipRow::changeEvent(QEvent* event) {
  QWidget::changeEvent(event);
  if (event->type() == QEvent::PaletteChange && light_ != light()) showName();
}

void SlipRow::showName() {
  light_ = light();
  const QString name = placeName(choice_.document().session(), place_);
  name_->setText(QFontMetrics(bodyFont(true)).elidedText(name, Qt::ElideRight, name_->width()));
  name_->setToolTip(name);
  name_->setFont(bodyFont(choice_.place() == place_));
  name_->setStyleSheet("color: " + placeColour(choice_.document().session(), place_).name());
}

// The list's entries: the versions, actions on the present one, and the others again to compare with.
void SlipRow::chooseVersion(int i) {
  const Versions& v = versionsOf(choice_.document().session(), place_);
  const auto count = static_cast<int>(std::max<size_t>(1, v.all.size())), now = v.now;
  const Part* part = partAt(choice_.document().session(), place_);
  if (!part) return;
  Document& doc = choice_.document();
  if (i < count)
    doc.edit(playVersion(*part, static_cast<size_t>(i)));
  else if (i == count)
    doc.edit(makeVersion(*part, "Version " + std::to_string(count + 1)));
  else if (i == count + 1)
    versionsMenu();
  else if (i == count + 2)
    doc.edit(dropVersion(*part, static_cast<size_t>(now)));
  else if (const int other = i - count - 3; other >= 0)
    choice_.compareWith(place_, static_cast<size_t>(other < now ? other : other + 1));
}

void SlipRow::versionsMenu() {
  const Versions& v = versionsOf(choice_.document().session(), place_);
  const auto now = static_cast<size_t>(v.now);
  const QString old = v.all.empty() ? "First" : QString::fromStdString(v.all[now].name);
  bool ok = false;
  const QString name = QInputDialog::getText(this, "Name this version", "Name", QLineEdit::Normal, old, &ok);
  const Part* part = partAt(choice_.document().session(), place_);
  if (ok && part && !name.trimmed().isEmpty())
    choice_.document().edit(nameVersion(*part, now, name.trimmed().toStdString()));
}

void SlipRow::rebuild() {
  std::vector<int> ids;
  const auto& layers = layersOf(choice_.document().session(), place_);
  for (const Layer& l : layers) ids.push_back(l.id);
  if (layers.size() < kMostLayers) ids.push_back(LayerPlace::kNew);
  if (ids == shown_) return;
  // The focus stays on its layer; if that was removed or created, on its replacement. Asked of the window:
  // the application has no focus while a dialog has just closed.
  auto* held = qobject_cast<Slip*>(window()->focusWidget());
  std::optional<size_t> hand;
  if (held && isAncestorOf(held)) {
    const auto place = static_cast<size_t>(std::max(0, slips_->indexOf(held)));
    const auto same = place < shown_.size() && shown_[place] != LayerPlace::kNew
                          ? std::find(ids.begin(), ids.end(), shown_[place])
                          : ids.end();
    hand = std::min(same != ids.end() ? static_cast<size_t>(same - ids.begin()) : place, ids.size() - 1);
  }
  shown_ = ids;
  while (QLayoutItem* item = slips_->takeAt(0)) {
    // A slip may be in the middle of its own click.
    if (item->widget())
      item->widget()->hide(), item->widget()->setObjectName({}), item->widget()->deleteLater();
    delete item;
  }
  const QString part = placeName(choice_.document().session(), place_);
  for (size_t i = 0; i < ids.size(); ++i) {
    const bool waits = ids[i] == LayerPlace::kNew;
    const QString name = waits && !layers.empty() ? "Add " + part.toLower() + " layer"
                         : i == 0                 ? part + " card"
                                                  : part + " card " + QString::number(i + 1);
    auto* slip = new Slip(place_, ids[i], choice_, selection_, name);
    slips_->addWidget(slip, waits ? 2 : 3);
    slip->show();
    if (hand == i) slip->setFocus();
  }
  slips_->addStretch(1);
}

}  // namespace heft::app

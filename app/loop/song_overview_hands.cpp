// Mouse, wheel and keys on the song overview.

#include <QContextMenuEvent>
#include <QInputDialog>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "app/desk/duck_words.h"
#include "app/loop/song_overview.h"
#include "app/widgets/free_hand.h"
#include "core/session/edits/automation.h"
#include "core/session/edits/sections.h"
#include "core/session/versions.h"

namespace heft::app {
namespace {

constexpr double kOverviewReach = 5.0;  // px

}  // namespace

const TrackSection* SongOverview::sectionAt(const QPointF& at) const {
  return at.x() < kHead || at.y() > kSections ? nullptr : session().sectionAt(timeAxis().value(at.x()));
}

// The region's ends over its height, a section's borders in their row.
SongOverview::Grip SongOverview::gripOn(const QPointF& at) const {
  const Axis x = timeAxis();
  auto near = [&](double quarters) { return std::abs(x.pixel(quarters) - at.x()) <= kOverviewReach; };
  if (at.y() <= kSections) {
    for (const TrackSection& s : session().sections) {
      if (near(s.toQuarters) && at.x() <= x.pixel(s.toQuarters)) return Grip::SectionTo;
      if (near(s.fromQuarters) && at.x() >= x.pixel(s.fromQuarters)) return Grip::SectionFrom;
    }
    return Grip::None;
  }
  if (const auto& r = transport_.region()) {
    if (near(r->second)) return Grip::RegionTo;
    if (near(r->first)) return Grip::RegionFrom;
  }
  return Grip::None;
}

void SongOverview::setRegion(double a, double b) {
  transport_.setRegion(
      std::pair(std::max(0.0, std::min(a, b)), std::min(track().loopQuarters(), std::max(a, b))));
}

void SongOverview::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || event->position().x() < kHead) return;
  pressX_ = event->position().x(), dragged_ = false;
  grip_ = gripOn(event->position());
  if (grip_ == Grip::SectionFrom || grip_ == Grip::SectionTo) {
    const double at = timeAxis().value(pressX_);
    for (const TrackSection& s : session().sections)
      if (std::abs(at - (grip_ == Grip::SectionFrom ? s.fromQuarters : s.toQuarters)) <=
          timeAxis().value(kHead + kOverviewReach))
        section_ = s.id;
  }
  if (grip_ == Grip::None && event->position().y() > kSections) grip_ = Grip::Region;
}

void SongOverview::mouseMoveEvent(QMouseEvent* event) {
  const Axis x = timeAxis();
  if (!(event->buttons() & Qt::LeftButton)) {
    const Grip over = gripOn(event->position());
    setCursor(over != Grip::None                   ? Qt::SizeHorCursor
              : event->position().y() <= kSections ? Qt::PointingHandCursor
                                                   : Qt::ArrowCursor);
    return;
  }
  dragged_ = dragged_ || std::abs(event->position().x() - pressX_) > 4.0;
  if (!dragged_ || grip_ == Grip::None) return;
  const bool free = isFree(event->modifiers());
  const double at = std::clamp(x.value(event->position().x()), 0.0, track().loopQuarters());
  const double to = free ? at : toBar(at);
  const auto& region = transport_.region();
  if (grip_ == Grip::Region) {
    const double from = x.value(pressX_);
    setRegion(free ? from : toBar(from - (at > from ? 0.5 : -0.5) * track().barQuarters() * 0.98), to);
  } else if (region && grip_ == Grip::RegionFrom) {
    if (to < region->second) setRegion(to, region->second);
  } else if (region && grip_ == Grip::RegionTo) {
    if (to > region->first) setRegion(region->first, to);
  } else if (const TrackSection* s = session().section(section_)) {
    document_.edit(moveSection(s->id, grip_ == Grip::SectionFrom ? to : s->fromQuarters,
                               grip_ == Grip::SectionTo ? to : s->toQuarters, "section"));
  }
}

void SongOverview::mouseReleaseEvent(QMouseEvent* event) {
  document_.endDrag();
  const Grip was = std::exchange(grip_, Grip::None);
  update();
  if (event->button() != Qt::LeftButton || dragged_ || event->position().x() < kHead) return;
  if (const TrackSection* s = sectionAt(event->position())) {
    setRegion(s->fromQuarters, s->toQuarters);
    transport_.locate(s->fromQuarters);
    return strip_.view().showAt(s->fromQuarters);
  }
  if (was != Grip::Region) return;
  const double to = toBar(timeAxis().value(event->position().x()) - 0.5 * track().barQuarters());
  transport_.locate(to);
  strip_.view().showAt(to);
}

void SongOverview::mouseDoubleClickEvent(QMouseEvent* event) {
  if (const TrackSection* s = sectionAt(event->position())) rename(*s);
}

void SongOverview::wheelEvent(QWheelEvent* event) {
  const double turned = event->angleDelta().y() / 120.0;
  if (event->modifiers() & Qt::ControlModifier)
    strip_.view().zoom(std::pow(0.8, turned), timeAxis().value(event->position().x()));
  else
    strip_.view().scrollBy(-0.25 * turned);
  event->accept();
}

void SongOverview::rename(const TrackSection& section) {
  bool taken = false;
  const QString name = QInputDialog::getText(this, "Rename section", "Name", QLineEdit::Normal,
                                             QString::fromStdString(section.name), &taken);
  if (taken && !name.trimmed().isEmpty())
    document_.edit(renameSection(section.id, name.trimmed().toStdString()));
}

void SongOverview::addSectionHere() {
  const auto& region = transport_.region();
  const double bar = track().barQuarters(), at = std::floor(transport_.positionQuarters() / bar + 1e-6) * bar;
  const double from = region ? region->first : at,
               to = region ? region->second : std::min(track().loopQuarters(), at + kShortBars * bar);
  document_.edit(addSection(freshSectionName(session()), from, to));
}

void SongOverview::repeatSection() {
  const TrackSection* s = session().sectionAt(transport_.positionQuarters());
  if (!s) return document_.tell("There is no section here: drag a region and press Ctrl+K to make one.");
  const auto whole = std::pair(s->fromQuarters, s->toQuarters);
  transport_.setRegion(transport_.region() == whole ? std::nullopt : std::optional(whole));
}

void SongOverview::goToSection(int way) {
  constexpr double kHere = 1e-6;
  const double now = transport_.positionQuarters();
  std::vector<double> places{0.0};
  for (const TrackSection& s : session().sections)
    for (const double at : {s.fromQuarters, s.toQuarters})
      if (at < track().loopQuarters() - kHere) places.push_back(at);
  std::sort(places.begin(), places.end());
  std::optional<double> to;
  for (const double at : places) {
    if (way > 0 && at > now + kHere && !to) to = at;
    if (way < 0 && at < now - kHere) to = at;
  }
  if (!to) return;
  transport_.locate(*to);
  strip_.view().showAt(*to);
}

void SongOverview::goToBar(int way) {
  const double bar = track().barQuarters(), now = transport_.positionQuarters() / bar;
  const double to = bar * (way > 0 ? std::floor(now + 1e-6) + 1.0 : std::ceil(now - 1e-6) - 1.0);
  if (to < 0.0 || to >= track().loopQuarters() - 1e-6) return;
  transport_.locate(to);
  strip_.view().showAt(to);
}

void SongOverview::fillMenu(QMenu& menu, const TrackSection* section) {
  auto add = [&](const QString& words, auto then) {
    connect(menu.addAction(words), &QAction::triggered, this, then);
  };
  add("Section from here\tCtrl+K", [this] { addSectionHere(); });
  if (transport_.region()) add("No region\tEsc", [this] { transport_.setRegion({}); });
  if (!section) return;
  menu.addSeparator();
  const TrackSection s = *section;
  add("Repeat section\tReturn", [this, s] { setRegion(s.fromQuarters, s.toQuarters); });
  add("Rename section...\tF2", [this, s] { rename(s); });
  QMenu* into = menu.addMenu("Copy its patterns into");
  for (const TrackSection& other : session().sections)
    if (other.id != s.id)
      connect(into->addAction(QString::fromStdString(other.name).replace("&", "&&")), &QAction::triggered, this,
              [this, s, id = other.id] { document_.edit(fillSection(s.id, id)); });
  into->setEnabled(!into->isEmpty());
  fillChoices(menu, s);
  add("Remove section\tDelete", [this, s] { document_.edit(removeSection(s.id)); });
}

// What the section chooses: mute and version of each part, amount of each ducking.
void SongOverview::fillChoices(QMenu& menu, const TrackSection& s) {
  auto add = [this](QMenu* to, const QString& words, bool checked, const Edit& edit) {
    QAction* action = to->addAction(QString(words).replace("&", "&&"));
    action->setCheckable(true), action->setChecked(checked);
    connect(action, &QAction::triggered, this, [this, edit] { document_.edit(edit); });
  };
  menu.addSeparator();
  for (const Part& part : session().parts) {
    const SectionPart chosen = s.ofPart(part.id);
    QMenu* of = menu.addMenu(QString::fromStdString(part.title()).replace("&", "&&"));
    add(of, "Mute here", chosen.mute, muteInSection(s.id, part.id, !chosen.mute));
    if (versionCount(part) < 2) continue;
    of->addSeparator();
    add(of, "Present version", chosen.version.empty(), versionInSection(s.id, part.id, ""));
    for (const PartVersion& version : part.versions.all)
      add(of, QString::fromStdString(version.name), chosen.version == version.name,
          versionInSection(s.id, part.id, version.name));
  }
  for (const Duck& duck : session().ducks) {
    if (!duck.on) continue;
    QMenu* of = menu.addMenu(
        QString("Ducking of %1")
            .arg(duck.name.empty() ? targetWords(session(), duck.target) : QString::fromStdString(duck.name))
            .replace("&", "&&"));
    for (const int percent : {100, 75, 50, 25, 0})
      add(of, QString("%1 %").arg(percent), std::lround(100.0 * s.amountOf(duck.id)) == percent,
          duckAmountInSection(s.id, duck.id, 0.01 * percent));
  }
  menu.addSeparator();
}

void SongOverview::contextMenuEvent(QContextMenuEvent* event) {
  QMenu menu(this);
  menu.setObjectName("Section menu");
  const bool byMouse = event->reason() == QContextMenuEvent::Mouse;
  fillMenu(menu, byMouse && event->pos().x() >= kHead ? session().sectionAt(timeAxis().value(event->pos().x()))
                                                      : session().sectionAt(transport_.positionQuarters()));
  menu.exec(event->globalPos());
}

void SongOverview::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  const bool control = event->modifiers() & Qt::ControlModifier;
  const TrackSection* here = session().sectionAt(transport_.positionQuarters());
  if (key == Qt::Key_Left || key == Qt::Key_Right) {
    const int way = key == Qt::Key_Right ? 1 : -1;
    control ? goToSection(way) : goToBar(way);
  } else if (key == Qt::Key_Home) {
    transport_.locate(0.0), strip_.view().showAt(0.0);
  } else if (key == Qt::Key_Return || key == Qt::Key_Enter) {
    repeatSection();
  } else if (key == Qt::Key_Escape && transport_.region()) {
    transport_.setRegion({});
  } else if (key == Qt::Key_F2 && here) {
    rename(*here);
  } else if ((key == Qt::Key_Delete || key == Qt::Key_Backspace) && here) {
    document_.edit(removeSection(here->id));
  } else if (key == Qt::Key_Plus || key == Qt::Key_Equal || key == Qt::Key_Minus) {
    strip_.view().zoom(key == Qt::Key_Minus ? 2.0 : 0.5, transport_.positionQuarters());
  } else {
    return QWidget::keyPressEvent(event);
  }
  event->accept();
}

}  // namespace heft::app

// Automation over the lanes of the loop strip.

#include <QInputDialog>
#include <QLineEdit>
#include <QMenu>
#include <QTimer>

#include "app/loop/loop_strip.h"
#include "app/play/teacher.h"
#include "app/theme/theme.h"
#include "core/session/edits/automation.h"

namespace heft::app {
namespace {

LoopRow rowOf(const Session& s, const Automation& a) {
  const auto lane = laneOfOwner(s, a.owner, a.key);
  if (!lane) return {LoopRow::Of::Sum};
  return *lane == kBackingLane ? LoopRow{LoopRow::Of::Backing} : LoopRow{LoopRow::Of::Part, *lane};
}

}  // namespace

void LoopStrip::drawAutomationOf(const AutomationOf& of) {
  wheel_.take({}), marked_.set({});
  pen_.take(of);
  if (!pen_.isDrawing()) return;
  if (of.owner.part) handPart_ = *of.owner.part, bringInSight(handPart_);
  setFocus();
  update();
}

void LoopStrip::layPen() {
  pen_.lay();
  unsetCursor();
  update();
}

void LoopStrip::typePoint(const QString& typed) {
  const auto now = pen_.typedPoint();
  if (!now) return;
  QInputDialog dialog(this);
  dialog.setObjectName("Type a point");
  dialog.setWindowTitle(QString::fromStdString(pen_.of().name));
  dialog.setLabelText(pen_.takes());
  dialog.setTextValue(typed.isEmpty() ? *now : typed);
  // What was typed already is not selected: the next key goes on.
  if (auto* line = dialog.findChild<QLineEdit*>(); line && !typed.isEmpty())
    QTimer::singleShot(0, line, [line] { line->end(false); });
  if (dialog.exec() != QDialog::Accepted || !pen_.isDrawing()) return;
  if (!pen_.typePoint(dialog.textValue()))
    document_.fail(QString("\"%1\" is no value here: type %2.").arg(dialog.textValue(), pen_.takes()));
  update();
}

std::pair<double, double> LoopStrip::stretchAt(double quarters) const {
  if (const auto& region = transport_.region();
      region && quarters >= region->first && quarters < region->second)
    return *region;
  if (const TrackSection* s = session().sectionAt(quarters)) return {s->fromQuarters, s->toQuarters};
  const double bar = document_.track().barQuarters(), from = std::floor(quarters / bar) * bar;
  return {from, std::min(document_.track().loopQuarters(), from + bar)};
}

std::optional<QRectF> LoopStrip::penBox() const {
  const Automation* a = pen_.isDrawing() ? automationOf(session(), pen_.of().owner, pen_.of().key) : nullptr;
  if (!a) return std::nullopt;
  const QRectF box = rows().box(rowOf(session(), *a));
  return box.isEmpty() ? std::nullopt : std::optional(box);
}

void LoopStrip::drawAutomation(QPainter& p, const LaneRows& rows) const {
  for (const Automation& a : session().automation) {
    if (pen_.isDrawing() && a.isOf(pen_.of().owner, pen_.of().key)) continue;
    const QRectF box = rows.box(rowOf(session(), a));
    if (!box.isEmpty()) AutomationPen::drawOther(p, box, timeAxis(), session(), a);
  }
  if (const auto box = penBox()) pen_.draw(p, *box, timeAxis());
}

// What is automated on the lane under the pointer, and its level.
void LoopStrip::addAutomationActions(QMenu& menu, const LoopRow& row) {
  QMenu* all = menu.addMenu("Automation");
  all->setObjectName("Automation menu");
  auto draw = [this, all](const QString& words, const AutomationOf& of) {
    connect(all->addAction(QString(words).replace("&", "&&")), &QAction::triggered, this,
            [this, of] { drawAutomationOf(of); });
  };
  if (row.of == LoopRow::Of::Part) {
    const AutomationOf level{{.part = row.part}, "level_db", "Level"};
    if (!automationOf(session(), level.owner, level.key)) draw("Level", level);
  }
  if (row.of == LoopRow::Of::Backing && !automationOf(session(), {}, "backing.level_db"))
    draw("Level", {{}, "backing.level_db", "Backing level"});
  for (const Automation& a : session().automation) {
    if (rowOf(session(), a) != row) continue;
    const AutomationOf of{a.owner, a.key, a.name};
    const QString words = automationWords(session(), of);
    QMenu* one = all->addMenu(QString(words).replace("&", "&&"));
    connect(one->addAction("Draw"), &QAction::triggered, this, [this, of] { drawAutomationOf(of); });
    QAction* on = one->addAction("On");
    on->setCheckable(true), on->setChecked(a.on);
    connect(on, &QAction::triggered, this, [this, of](bool to) { document_.edit(switchAutomation(of, to)); });
    connect(one->addAction("Remove"), &QAction::triggered, this,
            [this, of] { document_.edit(removeAutomation(of)); });
  }
  if (all->isEmpty()) {
    all->addAction("Right-click a value and choose Automate")->setEnabled(false);
  }
}

QString automationWords(const Session& s, const AutomationOf& of) {
  return taughtWords(s, Taught{{}, of.owner, of.key, {}, of.name});
}

}  // namespace heft::app

#include "app/stages/other_parts.h"

#include <QContextMenuEvent>
#include <QHBoxLayout>
#include <algorithm>

#include "app/shell/part_menu.h"

namespace heft::app {

OtherParts::OtherParts(LayerChoice& choice, Selection& selection) : choice_(choice), selection_(selection) {
  layout_ = new QHBoxLayout(this);
  layout_->setContentsMargins(0, 0, 0, 0);
  layout_->setSpacing(8);
  which_ = new ValueField(
      {.caption = "Part",
       .name = "Other part",
       .tip = "Which part beside kick and bass is shown here. Right-click: rename, order, duplicate, bounce, "
              "remove.",
       .text =
           [this] {
             const auto all = others();
             if (!shown_) return QString();
             const auto at = std::find(all.begin(), all.end(), *shown_) - all.begin() + 1;
             const QString name = placeName(choice_.document().session(), Place{*shown_});
             return all.size() < 2 ? name : QString("%1, %2 of %3").arg(name).arg(at).arg(all.size());
           },
       .choices =
           [this] {
             QStringList out;
             for (const int id : others()) out << placeName(choice_.document().session(), Place{id});
             return out;
           },
       .choose =
           [this](int i) {
             const auto all = others();
             if (i < 0 || i >= static_cast<int>(all.size())) return;
             const Part& part = *choice_.document().session().part(all[static_cast<size_t>(i)]);
             choice_.choose(Place{part.id}, part.layers.empty() ? 0 : part.layers.front().id);
           }});
  which_->setFixedWidth(178);
  layout_->addStretch(0);
  layout_->addWidget(which_, 0, Qt::AlignTop);
  connect(&choice.document(), &Document::changed, this, &OtherParts::refresh);
  connect(&choice.document(), &Document::replaced, this, &OtherParts::refresh);
  connect(&choice, &LayerChoice::changed, this, &OtherParts::refresh);
  refresh();
}

std::vector<int> OtherParts::others() const {
  const Session& s = choice_.document().session();
  std::vector<int> out;
  for (const Part& part : s.parts)
    if (!s.isOfPair(part.id)) out.push_back(part.id);
  return out;
}

// The row is made anew for another part, and for a part that goes by another name.
void OtherParts::refresh() {
  const auto all = others();
  setVisible(!all.empty());
  auto isOne = [&](std::optional<int> id) { return id && std::find(all.begin(), all.end(), *id) != all.end(); };
  std::optional<int> wanted = choice_.place().id;
  if (!isOne(wanted)) wanted = isOne(shown_) ? shown_ : all.empty() ? std::nullopt : std::optional(all.front());
  const QString name = wanted ? placeName(choice_.document().session(), Place{*wanted}) : QString();
  if (wanted != shown_ || name != shownName_) {
    if (row_) row_->hide(), row_->deleteLater();
    row_ = nullptr;
    shown_ = wanted, shownName_ = name;
    if (wanted) {
      row_ = new SlipRow(Place{*wanted}, choice_, selection_);
      layout_->insertWidget(0, row_, 1);
    }
  }
  which_->refresh();
}

void OtherParts::contextMenuEvent(QContextMenuEvent* event) {
  if (!shown_) return;
  if (choice_.place().id != *shown_) choice_.choose(Place{*shown_}, 0);
  QMenu menu(this);
  menu.setObjectName("Part menu");
  fillPartMenu(menu, choice_, this);
  menu.exec(event->globalPos());
}

}  // namespace heft::app

#include "app/stages/tune/key_sheet.h"

#include <QHeaderView>
#include <QLabel>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <cmath>

#include "app/theme/theme.h"
#include "core/measure/levels/small_speaker.h"
#include "core/session/edits/track.h"
#include "core/theory/note.h"
#include "core/theory/text.h"

namespace heft::app {

KeySheet::KeySheet(Document& document, QWidget* parent) : QDialog(parent), document_(document) {
  setWindowTitle("Compare keys");
  setObjectName("Compare keys");
  setAttribute(Qt::WA_DeleteOnClose);
  auto* words = new QLabel(
      "Tonic and fifth in the octave that is heavy (39 to 73 Hz), and how loud this bass is there: its "
      "partials "
      "by ISO 226, in phon.");
  words->setWordWrap(true);
  table_ = new QTreeWidget;
  table_->setObjectName("Keys");
  table_->setRootIsDecorated(false);
  table_->setUniformRowHeights(true);
  table_->setHeaderLabels({"Key", "Tonic", "Loudness", "On a laptop", "Fifth", "Loudness", "Bass shifted by"});
  table_->setFont(bodyFont());
  auto* use = new QPushButton("Use key");
  use->setObjectName("Use key");
  use->setDefault(true);
  auto* column = new QVBoxLayout(this);
  column->addWidget(words);
  column->addWidget(table_, 1);
  column->addWidget(use, 0, Qt::AlignRight);
  connect(use, &QPushButton::clicked, this, &KeySheet::useChosen);
  connect(table_, &QTreeWidget::itemActivated, this, &KeySheet::useChosen);
  resize(720, 430);
  auto makeWork = [this] {
    return [session = document_.session(), assets = document_.assets(), cache = document_.cache()] {
      return keyAdvice(session, assets, *cache).value_or(std::vector<KeyAdvice>());
    };
  };
  measuring_.ask(
      this, makeWork, [this](std::vector<KeyAdvice> keys) { fill(keys); }, document_.failing());
}

void KeySheet::fill(const std::vector<KeyAdvice>& keys) {
  keys_ = keys;
  const NoteStyle& style = document_.track().notes;
  const auto note = [&](int midi) {
    return QString::fromStdString(noteName(midi, style) + "  " + fixedNumber(hzFromMidi(midi, style.a4Hz), 1) +
                                  " Hz");
  };
  const auto phon = [](double value) { return QString("%1 phon").arg(std::lround(value)); };
  for (const KeyAdvice& k : keys) {
    auto* row = new QTreeWidgetItem({QString::fromStdString(k.key.name()), note(k.tonicMidi), phon(k.tonicPhon),
                                     phon(k.tonicLaptopPhon), note(k.fifthMidi), phon(k.fifthPhon),
                                     k.shiftSemitones
                                         ? QString::fromStdString(fixedNumber(*k.shiftSemitones, 1)) + " st"
                                         : QString("built")});
    if (k.tonicLaptopPhon < kHeardPhon) row->setForeground(3, theme().off);
    table_->addTopLevelItem(row);
  }
  constexpr int kBetween = 14;
  for (int c = 0; c < table_->columnCount(); ++c) {
    table_->resizeColumnToContents(c);
    table_->setColumnWidth(c, table_->columnWidth(c) + kBetween);
  }
  if (table_->topLevelItemCount() > 0) table_->setCurrentItem(table_->topLevelItem(0));
  table_->setFocus();
}

void KeySheet::useChosen() {
  const int at = table_->indexOfTopLevelItem(table_->currentItem());
  if (at < 0 || static_cast<size_t>(at) >= keys_.size()) return;
  const Key key = keys_[static_cast<size_t>(at)].key;
  if (key != document_.track().key) document_.edit(setKey(key));
  accept();
}

}  // namespace heft::app

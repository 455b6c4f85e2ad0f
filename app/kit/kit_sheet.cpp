#include "app/kit/kit_sheet.h"

#include <QComboBox>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QHeaderView>
#include <QLabel>
#include <QPointer>
#include <QPushButton>
#include <QScrollArea>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "app/files/file_choice.h"
#include "app/kit/kit_picture.h"
#include "app/kit/kit_spectrum.h"
#include "app/theme/theme.h"
#include "app/widgets/plain_label.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr TuneMethod kMethods[] = {TuneMethod::Varispeed, TuneMethod::HoldLength, TuneMethod::Bend,
                                   TuneMethod::Split};

QString text(const std::string& s) {
  return QString::fromStdString(s);
}

}  // namespace

KitSheet::KitSheet(Document& document, Transport& transport, QWidget* parent)
    : QDialog(parent), document_(document), transport_(transport) {
  setObjectName("Kit sheet");
  setWindowTitle("Tune a kit");
  setAcceptDrops(true);
  resize(1160, 660);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(20, 16, 20, 16);
  column->setSpacing(12);
  title_ = plainLabel();
  title_->setObjectName("Kit words");
  title_->setWordWrap(true);
  column->addWidget(title_);
  buildTable();
  buildPicture();
  column->addWidget(pictures_, 3);
  column->addWidget(table_, 2);
  column->addLayout(buildButtons());
  connect(table_, &QTableWidget::currentCellChanged, this, [this](int row) {
    picture_->choose(row);
    say({});
  });
  connect(table_, &QTableWidget::cellChanged, this, &KitSheet::edited);
  connect(&document_, &Document::changed, this, &KitSheet::followKey);
  followKey();
  say({});
}

void KitSheet::buildTable() {
  table_ = new QTableWidget(0, kColumns);
  table_->setObjectName("Kit table");
  table_->setAccessibleName("Kit table");
  table_->setHorizontalHeaderLabels(
      {"Drum", "Lands on", "Band, Hz", "Target", "Shift, st", "Method", "Length", "What it costs"});
  table_->horizontalHeader()->setDefaultAlignment(Qt::AlignLeft | Qt::AlignVCenter);
  table_->horizontalHeader()->setSectionResizeMode(kStrain, QHeaderView::Stretch);
  table_->horizontalHeader()->setHighlightSections(false);
  table_->verticalHeader()->hide();
  table_->setShowGrid(false);
  table_->installEventFilter(this);
  table_->setSelectionBehavior(QAbstractItemView::SelectRows);
  const int widths[] = {184, 92, 112, 84, 72, 118, 104};
  for (int i = 0; i < kStrain; ++i) table_->setColumnWidth(i, widths[i]);
}

void KitSheet::buildPicture() {
  picture_ = new KitPicture(document_, drums_);
  picture_->installEventFilter(this);
  auto* area = new QScrollArea;
  area->setFrameShape(QFrame::NoFrame);
  area->setWidgetResizable(true);
  area->setWidget(picture_);
  spectrum_ = new KitSpectrum(document_);
  spectrum_->setFixedWidth(340);
  spectrum_->hide();
  pictures_ = new QWidget;
  auto* beside = new QHBoxLayout(pictures_);
  beside->setContentsMargins(0, 0, 0, 0);
  beside->setSpacing(8);
  beside->addWidget(area, 1);
  beside->addWidget(spectrum_);
  connect(picture_, &KitPicture::chosen, this, [this](int row) {
    if (table_->currentRow() != row) table_->setCurrentCell(row, kName);
    spectrum_->show(drums_[static_cast<size_t>(row)]);
  });
  connect(picture_, &KitPicture::targetSet, this, &KitSheet::setTarget);
  connect(picture_, &KitPicture::lengthSet, this, [this](int row, const TimeValue& length) {
    setDrumLength(drums_[static_cast<size_t>(row)], length, document_.track().tempoBpm);
    doubts_.erase(static_cast<size_t>(row));
    showRow(row);
  });
}

void KitSheet::showSpectrum(bool shown) {
  spectrumButton_->setChecked(shown);
  spectrum_->setVisible(shown);
}

QHBoxLayout* KitSheet::buildButtons() {
  auto* row = new QHBoxLayout;
  row->setSpacing(8);
  state_ = plainLabel();
  state_->setObjectName("Kit state");
  state_->setWordWrap(true);
  row->addWidget(state_, 1);
  before_ = new QPushButton("Hear before");
  before_->setObjectName("Kit before");
  before_->setToolTip("Plays the chosen drum as it was (B)");
  after_ = new QPushButton("Hear tuned");
  after_->setObjectName("Kit tuned");
  after_->setToolTip("Plays the chosen drum on its target, as loud as before (Space)");
  auto* add = new QPushButton("Add files...");
  add->setObjectName("Kit add");
  loop_ = new QPushButton("Add to the loop");
  loop_->setObjectName("Kit loop");
  loop_->setToolTip(
      "Adds every drum that is not excluded to the loop, each in a part of its own: snares and claps on every "
      "second beat, hats between, toms at the end. One step to undo");
  write_ = new QPushButton("Write to a folder...");
  write_->setObjectName("Kit write");
  auto* close = new QPushButton("Close");
  spectrumButton_ = new QPushButton("Spectrum");
  spectrumButton_->setObjectName("Kit show spectrum");
  spectrumButton_->setToolTip("Spectrum of the chosen drum, as recorded and tuned (F)");
  spectrumButton_->setCheckable(true);
  connect(spectrumButton_, &QPushButton::toggled, this, &KitSheet::showSpectrum);
  for (QPushButton* b : {spectrumButton_, before_, after_, add, loop_, write_, close})
    row->addWidget(b), b->setAutoDefault(false);
  connect(add, &QPushButton::clicked, this, [this] { addFiles(askForSounds(this, "Choose the drums")); });
  connect(write_, &QPushButton::clicked, this, [this] {
    const QString folder = askForFolder(this, "Where the tuned drums go", Asked::KitFolder);
    if (!folder.isEmpty()) writeTo(folder);
  });
  connect(loop_, &QPushButton::clicked, this, &KitSheet::addToLoop);
  connect(before_, &QPushButton::clicked, this, [this] { hear(table_->currentRow(), false); });
  connect(after_, &QPushButton::clicked, this, [this] { hear(table_->currentRow(), true); });
  connect(close, &QPushButton::clicked, this, &QDialog::accept);
  return row;
}

// The sheet may stay open beside the session: targets not set by hand follow the key.
void KitSheet::followKey() {
  const Key key = document_.track().key;
  const double a4 = document_.track().notes.a4Hz;
  if (title_->text().isEmpty() || key_ != key || a4Hz_ != a4)
    title_->setText(
        "Each drum goes to the tonic or fifth if within two semitones, else to the nearest note of " +
        text(key.name()) + ". Drag a target or a length, or type in the table.");
  if (key_ == key && a4Hz_ == a4) return;
  key_ = key, a4Hz_ = a4;
  doubts_.clear();
  for (size_t i = 0; i < drums_.size(); ++i) {
    Drum& d = drums_[i];
    if (const auto landing = d.landingMidi(a4); landing && !typed_.contains(i))
      d.targetMidi = kitTarget(*landing, key);
    showRow(static_cast<int>(i));
  }
}

std::vector<int> KitSheet::chosenRows() const {
  std::vector<int> out;
  for (const QModelIndex& index : table_->selectionModel()->selectedRows()) out.push_back(index.row());
  if (out.empty() && table_->currentRow() >= 0) out.push_back(table_->currentRow());
  return out;
}

void KitSheet::leaveOut(int row) {
  Drum& d = drums_[static_cast<size_t>(row)];
  d.targetMidi.reset();
  typed_.insert(static_cast<size_t>(row));
  showRow(row);
}

void KitSheet::say(const QString& words) {
  const auto ready =
      std::count_if(drums_.begin(), drums_.end(), [](const Drum& d) { return d.targetMidi.has_value(); });
  write_->setEnabled(ready > 0 && pending_ == 0);
  loop_->setEnabled(pending_ == 0 && std::any_of(drums_.begin(), drums_.end(),
                                                 [](const Drum& d) { return d.sound != nullptr; }));
  const auto row = static_cast<size_t>(std::max(0, table_->currentRow()));
  const bool chosen = table_->currentRow() >= 0 && row < drums_.size();
  before_->setEnabled(chosen && drums_[row].sound);
  after_->setEnabled(chosen && drums_[row].targetMidi.has_value());
  state_->setText(!words.isEmpty() ? words
                  : pending_ > 0   ? QString("Measuring, %1 left").arg(pending_)
                  : drums_.empty() ? QString("Drop snares, claps and toms here, or add them.")
                                   : QString("%1 of %2 can be tuned").arg(ready).arg(drums_.size()));
}

void KitSheet::addFiles(const QStringList& paths) {
  for (const QString& path : paths) {
    ++pending_;
    // Rows are in the order of the chosen files, whichever is read first.
    const size_t row = drums_.size();
    drums_.push_back({.path = path.toStdString(), .fault = "is being read"});
    table_->setRowCount(static_cast<int>(drums_.size()));
    showRow(static_cast<int>(row));
    auto work = [file = path.toStdString(), key = document_.track().key,
                 a4 = document_.track().notes.a4Hz](const std::stop_token& stop) {
      return readDrum(file, key, {TuneMethod::Varispeed, 0.0, 10.0}, {}, a4, stop);
    };
    document_.jobs().start("Measuring " + QFileInfo(path).fileName(), Jobs::Kind::RunsToItsEnd, work,
                           [this, row, self = QPointer<KitSheet>(this)](Drum drum) {
                             if (!self) return;
                             --pending_;
                             drum.how.method = drums_[row].how.method;
                             drums_[row] = std::move(drum);
                             showRow(static_cast<int>(row));
                             say({});
                           });
  }
  say({});
}

// A long file takes a while to measure.
void KitSheet::setBand(int row, const LandingOptions& band) {
  Drum& d = drums_[static_cast<size_t>(row)];
  d.band = band;
  typed_.erase(static_cast<size_t>(row));
  ++pending_;
  auto work = [drum = d, key = document_.track().key,
               a4 = document_.track().notes.a4Hz](const std::stop_token&) {
    Drum again = drum;
    measureDrum(again, key, a4);
    return again;
  };
  document_.jobs().start("Measuring again", Jobs::Kind::RunsToItsEnd, work,
                         [this, row, self = QPointer<KitSheet>(this)](Drum drum) {
                           if (!self) return;
                           --pending_;
                           // May have been set by hand meanwhile.
                           Drum& now = drums_[static_cast<size_t>(row)];
                           drum.how = now.how, drum.length = now.length;
                           if (typed_.contains(static_cast<size_t>(row))) drum.targetMidi = now.targetMidi;
                           now = std::move(drum);
                           showRow(row);
                           say({});
                         });
  say({});
}

// Measured, where nothing is set.
QString KitSheet::lengthWords(const Drum& d) const {
  if (!d.sound) return {};
  if (!d.length) return QString("%1 ms").arg(d.facts.tailMs, 0, 'f', 0);
  if (!d.length->isNote()) return text(d.length->text());
  return QString("%1, %2 ms")
      .arg(text(d.length->text()))
      .arg(d.length->toMs(document_.track().tempoBpm), 0, 'f', 0);
}

void KitSheet::showRow(int row) {
  const Drum& d = drums_[static_cast<size_t>(row)];
  const NoteStyle& notes = document_.track().notes;
  showing_ = true;
  auto put = [&](int column, const QString& words, bool editable) {
    auto* item = new QTableWidgetItem(words);
    item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable |
                   (editable ? Qt::ItemIsEditable : Qt::NoItemFlags));
    if (column == kStrain && (!d.fault.empty() || doubts_.contains(static_cast<size_t>(row))))
      item->setForeground(theme().off);
    item->setToolTip(tipText(words));
    table_->setItem(row, column, item);
  };
  const auto landing = d.landingMidi(notes.a4Hz);
  put(kName, QFileInfo(text(d.path)).fileName(), false);
  put(kLands, landing ? text(pitchText(*landing, notes)) : QString("no note"), false);
  put(kBand, QString("%1 to %2").arg(d.band.lowHz, 0, 'f', 0).arg(d.band.highHz, 0, 'f', 0),
      d.sound != nullptr);
  put(kTarget, d.targetMidi ? text(pitchText(*d.targetMidi, notes)) : QString(), landing.has_value());
  const double shift = d.semitones(notes.a4Hz);
  put(kShift,
      d.targetMidi
          ? QString("%1%2").arg(shift >= 0.005 ? "+" : "").arg(std::abs(shift) < 0.005 ? 0.0 : shift, 0, 'f', 2)
          : QString(),
      false);
  put(kLength, lengthWords(d), d.sound != nullptr);
  Retune how = d.how;
  how.semitones = shift;
  const auto doubt = doubts_.find(static_cast<size_t>(row));
  put(kStrain,
      !d.fault.empty()         ? text(d.fault)
      : !d.targetMidi          ? QString("excluded; type a target to include it")
      : doubt != doubts_.end() ? text(doubt->second)
                               : text(strainInWords(how, d.facts.tailMs / 1000.0)),
      false);
  picture_->rebuild();
  if (row == picture_->chosenRow()) spectrum_->show(d);
  // A fault's sentence may take two lines.
  table_->resizeRowToContents(row);
  table_->setRowHeight(row, std::max(30, table_->rowHeight(row) + 8));
  if (!table_->cellWidget(row, kMethod)) {
    auto* method = new QComboBox;
    method->setAccessibleName("Method of " + QFileInfo(text(d.path)).fileName());
    for (TuneMethod m : kMethods) method->addItem(nameOf(m));
    connect(method, &QComboBox::currentIndexChanged, this, [this, row](int i) {
      drums_[static_cast<size_t>(row)].how.method = kMethods[static_cast<size_t>(i)];
      doubts_.erase(static_cast<size_t>(row));
      showRow(row);
      // One choice applies to all selected rows.
      const auto rows = chosenRows();
      if (std::find(rows.begin(), rows.end(), row) == rows.end()) return;
      for (int other : rows)
        if (auto* same = qobject_cast<QComboBox*>(table_->cellWidget(other, kMethod))) same->setCurrentIndex(i);
    });
    table_->setCellWidget(row, kMethod, method);
  }
  showing_ = false;
}

}  // namespace heft::app

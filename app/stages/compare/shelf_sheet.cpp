#include "app/stages/compare/shelf_sheet.h"

#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTreeWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <filesystem>

#include "app/document/aside.h"
#include "app/theme/theme.h"
#include "core/library/index.h"
#include "core/theory/text.h"

namespace heft::app {
namespace {

constexpr int kTagsColumn = 6;

QString folderOf(const ShelfRow& row) {
  return QFileInfo(QString::fromStdString(row.reference.asset.from)).path();
}

// Where its file is now: its own path, else a file of the library or of its last folder with the same content.
std::optional<std::string> foundNow(const AssetRef& asset, const std::string& shelfPath) {
  std::vector<std::string> candidates;
  std::error_code gone;
  const auto folder = std::filesystem::path(asset.from).parent_path();
  for (const auto& where : {folder, folder.parent_path()})
    for (const auto& entry : std::filesystem::directory_iterator(where, gone))
      if (entry.is_regular_file(gone)) candidates.push_back(entry.path().string());
  if (auto index = LibraryIndex::open(shelfPath))
    if (const auto rows = index->rows())
      for (const LibraryRow& row : *rows) candidates.push_back(row.file.path);
  return whereNow(asset, candidates);
}

}  // namespace

ShelfSheet::ShelfSheet(Document& document, QWidget* parent) : QDialog(parent), document_(document) {
  setWindowTitle("Reference shelf");
  setObjectName("Reference shelf");
  setAttribute(Qt::WA_DeleteOnClose);
  search_ = new QLineEdit;
  search_->setObjectName("Search the shelf");
  search_->setPlaceholderText("Search names, folders, keys, tags");
  table_ = new QTreeWidget;
  table_->setObjectName("Shelf");
  table_->setRootIsDecorated(false);
  table_->setUniformRowHeights(true);
  table_->setFont(bodyFont());
  table_->setHeaderLabels({"Track", "Folder", "Key", "Tempo", "LUFS", "Sections", "Tags"});
  table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
  words_ = new QLabel("Every track that was measured, with the sections and tags of your own. F2 edits tags.");
  words_->setWordWrap(true);
  add_ = new QPushButton("Add to session"), add_->setObjectName("Add to session"), add_->setDefault(true);
  remove_ = new QPushButton("Remove from shelf"), remove_->setObjectName("Remove from shelf");
  remove_->setAutoDefault(false);
  auto* buttons = new QHBoxLayout;
  buttons->addStretch(1), buttons->addWidget(remove_), buttons->addWidget(add_);
  auto* column = new QVBoxLayout(this);
  column->addWidget(search_), column->addWidget(table_, 1), column->addWidget(words_),
      column->addLayout(buttons);
  connect(search_, &QLineEdit::textChanged, this, &ShelfSheet::filter);
  connect(add_, &QPushButton::clicked, this, &ShelfSheet::addChosen);
  connect(remove_, &QPushButton::clicked, this, &ShelfSheet::removeChosen);
  connect(table_, &QTreeWidget::itemDoubleClicked, this, [this](QTreeWidgetItem* item, int column_) {
    if (column_ == kTagsColumn) table_->editItem(item, kTagsColumn);
  });
  auto* edit = new QAction(this);
  edit->setShortcut(Qt::Key_F2);
  connect(edit, &QAction::triggered, this, [this] {
    if (table_->currentItem()) table_->editItem(table_->currentItem(), kTagsColumn);
  });
  addAction(edit);
  connect(table_, &QTreeWidget::itemChanged, this, &ShelfSheet::tagEdited);
  resize(860, 460);
  read();
}

void ShelfSheet::read() {
  auto work = [path = document_.references().shelf().toStdString()]() -> Result<std::vector<ShelfRow>> {
    auto shelf = Shelf::open(path);
    if (!shelf) return Fail(shelf.error());
    return shelf->rows();
  };
  runAside(
      this, work,
      [this](Result<std::vector<ShelfRow>> rows) {
        if (!rows) return words_->setText(QString::fromStdString(rows.error().sentence()));
        rows_ = std::move(*rows);
        fill();
      },
      document_.failing());
}

void ShelfSheet::fill() {
  filling_ = true;
  table_->clear();
  for (const ShelfRow& row : rows_) {
    const Reference& r = row.reference;
    QStringList sections;
    for (const Section& s : r.sections) sections << QString::fromStdString(s.name.empty() ? "whole" : s.name);
    auto* item = new QTreeWidgetItem(
        {QString::fromStdString(r.asset.name), folderOf(row),
         r.key ? QString::fromStdString(r.key->name()) : "",
         r.tempoBpm ? QString::fromStdString(fixedNumber(*r.tempoBpm, 1)) : "",
         row.integratedLufs ? QString::fromStdString(fixedNumber(*row.integratedLufs, 1)) : "",
         sections.join(", "), QString::fromStdString(row.tags)});
    item->setFlags(item->flags() | Qt::ItemIsEditable);
    item->setToolTip(1, folderOf(row));
    table_->addTopLevelItem(item);
  }
  constexpr int kBetween = 14;
  for (int c = 0; c < kTagsColumn; ++c) {
    table_->resizeColumnToContents(c);
    table_->setColumnWidth(c, table_->columnWidth(c) + kBetween);
  }
  table_->setColumnWidth(1, std::min(table_->columnWidth(1), 220));
  if (rows_.empty()) words_->setText("No track was measured yet: drop finished tracks on Compare.");
  if (!rows_.empty()) table_->setCurrentItem(table_->topLevelItem(0));
  add_->setEnabled(!rows_.empty()), remove_->setEnabled(!rows_.empty());
  filling_ = false;
  filter(search_->text());
}

// Every word has to be somewhere in the row.
void ShelfSheet::filter(const QString& words) {
  const QStringList all = words.split(' ', Qt::SkipEmptyParts);
  for (int i = 0; i < table_->topLevelItemCount(); ++i) {
    QTreeWidgetItem* item = table_->topLevelItem(i);
    QString text;
    for (int c = 0; c < table_->columnCount(); ++c) text += item->text(c) + " ";
    item->setHidden(std::any_of(all.begin(), all.end(),
                                [&](const QString& w) { return !text.contains(w, Qt::CaseInsensitive); }));
  }
}

const ShelfRow* ShelfSheet::chosen() const {
  const int at = table_->indexOfTopLevelItem(table_->currentItem());
  return at >= 0 && static_cast<size_t>(at) < rows_.size() ? &rows_[static_cast<size_t>(at)] : nullptr;
}

void ShelfSheet::addChosen() {
  const ShelfRow* row = chosen();
  if (!row) return;
  const AssetRef asset = row->reference.asset;
  auto work = [asset, path = document_.references().shelf().toStdString()] { return foundNow(asset, path); };
  runAside(
      this, work,
      [this, asset](std::optional<std::string> found) {
        const QString name = QString::fromStdString(asset.name);
        if (!found)
          return words_->setText(name +
                                 " is no longer where it was, and no file of the library is the same: "
                                 "drop it on Compare to find it again.");
        document_.sounds().loadAll(kReferences, {QString::fromStdString(*found)});
        words_->setText(name + " is being added.");
      },
      document_.failing());
}

void ShelfSheet::removeChosen() {
  const ShelfRow* row = chosen();
  if (!row) return;
  onShelf([hash = row->reference.asset.hash](Shelf& shelf) { return shelf.remove(hash); });
}

void ShelfSheet::tagEdited(QTreeWidgetItem* item, int column) {
  const auto at = static_cast<size_t>(table_->indexOfTopLevelItem(item));
  if (filling_ || at >= rows_.size()) return;
  const std::string tags = item->text(kTagsColumn).left(200).toStdString();
  // Tags alone are edited here.
  if (column != kTagsColumn || tags == rows_[at].tags) return fill();
  rows_[at].tags = tags;
  onShelf([hash = rows_[at].reference.asset.hash, tags](Shelf& shelf) { return shelf.setTags(hash, tags); });
}

void ShelfSheet::onShelf(std::function<Result<void>(Shelf&)> work) {
  auto whole = [path = document_.references().shelf().toStdString(), work = std::move(work)]() -> Result<void> {
    auto shelf = Shelf::open(path);
    if (!shelf) return Fail(shelf.error());
    return work(*shelf);
  };
  runAside(
      document_.jobs().inOrder(), this, whole,
      [this](Result<void> done) {
        if (!done) words_->setText(QString::fromStdString(done.error().sentence()));
        read();
      },
      document_.failing());
}

}  // namespace heft::app

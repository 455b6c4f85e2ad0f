#pragma once
/// Tuning a whole kit: a row a drum with what was measured, where it goes and what that costs; all written to a
/// folder at once. Of the session it takes the key, and changes nothing.

#include <QDialog>
#include <deque>

#include "app/document.h"
#include "core/tune/kit.h"

class QLabel;
class QPushButton;
class QTableWidget;

namespace heft::app {

class KitSheet : public QDialog {
  Q_OBJECT
 public:
  explicit KitSheet(Document& document, QWidget* parent = nullptr);
  /// Reads files aside, one row each.
  void addFiles(const QStringList& paths);
  /// Tunes all that can be and writes them, aside.
  void writeTo(const QString& folder);
  bool isBusy() const { return pending_ > 0; }
  const std::deque<Drum>& drums() const { return drums_; }

 protected:
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  enum Column { kName, kLands, kBand, kTarget, kShift, kMethod, kStrain, kColumns };
  void showRow(int row);
  void edited(int row, int column);
  void setBand(int row, const LandingOptions& band);
  void say(const QString& words);
  Document& document_;
  QTableWidget* table_;
  QLabel* state_;
  QPushButton* write_;
  std::deque<Drum> drums_;
  int pending_ = 0;
  bool showing_ = false;
};

}  // namespace heft::app

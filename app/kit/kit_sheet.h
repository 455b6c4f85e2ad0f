#pragma once
/// Tunes a whole kit: a row per drum with its measurements, target and cost; writes all to a folder at once.
/// Uses the session's key, and changes nothing in it.

#include <QDialog>
#include <deque>
#include <map>
#include <set>
#include <vector>

#include "app/document/document.h"
#include "app/play/transport.h"
#include "core/tune/kit.h"

class QHBoxLayout;
class QLabel;
class QPushButton;
class QTableWidget;

namespace heft::app {

class KitPicture;
class KitSpectrum;

class KitSheet : public QDialog {
  Q_OBJECT
 public:
  KitSheet(Document& document, Transport& transport, QWidget* parent = nullptr);
  /// Reads files aside, one row each.
  void addFiles(const QStringList& paths);
  /// Tunes all that can be and writes them, aside.
  void writeTo(const QString& folder);
  /// Adds every drum that was not excluded to the loop, in a part of its own, tuned and as long as here.
  void addToLoop();
  /// Plays a row's drum as it was or on its target, equally loud.
  void hear(int row, bool tuned);
  bool isBusy() const { return pending_ > 0; }
  const std::deque<Drum>& drums() const { return drums_; }

 Q_SIGNALS:
  void heard(int row, bool tuned);

 protected:
  bool eventFilter(QObject* object, QEvent* event) override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  enum Column { kName, kLands, kBand, kTarget, kShift, kMethod, kLength, kStrain, kColumns };
  void showRow(int row);
  QString lengthWords(const Drum& drum) const;
  void buildTable();
  QHBoxLayout* buildButtons();
  void edited(int row, int column);
  void setLength(int row, const QString& words);
  void buildPicture();
  void setTarget(int row, double midi);
  void showSpectrum(bool shown);
  bool takesKey(QKeyEvent* event, bool isTyped);
  void setBand(int row, const LandingOptions& band);
  void say(const QString& words);
  void followKey();
  void leaveOut(int row);
  std::vector<int> chosenRows() const;
  Document& document_;
  Transport& transport_;
  QTableWidget* table_;
  KitPicture* picture_;
  KitSpectrum* spectrum_;
  QWidget* pictures_;
  QLabel *state_, *title_;
  QPushButton *write_, *before_, *after_, *loop_, *spectrumButton_;
  std::deque<Drum> drums_;
  std::set<size_t> typed_;                // rows whose target was typed or cleared
  std::map<size_t, std::string> doubts_;  // by row, of the written files
  Key key_;                               // key of the targets
  double a4Hz_ = 0.0;
  int pending_ = 0;
  int hearing_ = 0;  // the last request; late results of earlier ones are not played
  bool showing_ = false;
};

}  // namespace heft::app

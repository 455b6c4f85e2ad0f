#pragma once
/// Heft's window: header, stage list, stages, Ledger, loop strip, and the notes that sit between them.

#include <QMainWindow>
#include <QTimer>
#include <array>

#include "app/document.h"
#include "app/loop/loop_strip.h"
#include "app/play_in.h"
#include "app/stages/stage_page.h"
#include "app/transport.h"

class QLabel;
class QPushButton;
class QSplitter;
class QStackedWidget;

namespace heft::app {

class ExportPage;
class HeaderBar;
class LedgerPanel;
class Library;
class LibraryPanel;
class NoticeBar;
class StageList;

class Window : public QMainWindow {
  Q_OBJECT
 public:
  /// `libraryIndex`: the library's file; the user's own by default.
  explicit Window(const QString& libraryIndex = {});
  ~Window() override;

  Document& document() { return document_; }
  Transport& transport() { return transport_; }
  Selection& selection() { return selection_; }
  PlayIn& playIn() { return playIn_; }
  StagePage* page(Stage stage) { return pages_[static_cast<size_t>(stage)]; }
  LoopStrip* loopStrip() { return strip_; }
  Library& library() { return *library_; }
  LibraryPanel* libraryPanel() { return libraryPanel_; }
  /// Opens or folds the library drawer; where the window is narrow the Ledger gives way to it.
  void showLibrary(bool shown);
  Stage currentStage() const;
  void showStage(Stage stage);
  bool openFolder(const QString& folder);
  /// Looks for what an earlier run left after a crash and offers it; keeps this run's autosave from now on.
  void startAutosave(const QString& root);

 protected:
  void closeEvent(QCloseEvent*) override;
  bool eventFilter(QObject* object, QEvent* event) override;
  bool focusNextPrevChild(bool next) override;

 private:
  void buildMenus();
  void restorePlace();
  void keepPlace() const;
  bool pressFocused(QWidget* focus, int key);
  bool editText(LoopStrip::EditKind kind);
  QString placeOfSessions() const;
  enum class Heard { Stage, All, Other };
  void toggleBefore(Heard kind, const std::optional<Before>& before);
  void hearWithout();
  void hearVersion();
  Before beforeStage() const;
  void refreshTitle();
  bool save(bool as, bool wait = false);
  bool mayDiscard();
  void openDialog();

  Document document_;
  Transport transport_{document_};
  Selection selection_;
  PlayIn playIn_{document_, transport_};
  HeaderBar* header_;
  StageList* stages_;
  QSplitter *sides_, *floors_;
  QStackedWidget* stack_;
  std::array<StagePage*, 6> pages_{};
  LedgerPanel* ledger_;
  Library* library_;
  LibraryPanel* libraryPanel_;
  bool ledgerGaveWay_ = false;
  LoopStrip* strip_;
  NoticeBar* notices_;
  QAction *undo_, *redo_;
  Heard heard_ = Heard::Stage;
  QStringList writtenAgain_;
  QString autosaveLeft_;
};

/// One sentence at a time over the page, with what can be done about it.
class NoticeBar : public QWidget {
  Q_OBJECT
 public:
  explicit NoticeBar(QWidget* parent = nullptr);
  /// Goes again by itself after some seconds.
  void say(const QString& sentence, bool fault);
  /// Nothing of what was said or asked holds any more.
  void forget();
  struct Answer {
    QString words;
    std::function<void()> doIt;
  };
  /// A question with up to three answers, the first the likeliest, and one that declines; another question
  /// waits until this is answered, unless it is about the same: then it takes its place.
  void offer(const QString& about, const QString& sentence, std::vector<Answer> answers, Answer decline);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  struct Offer {
    QString about, sentence;
    std::vector<Answer> answers;
    Answer decline;
  };
  void showOffer();
  void answer(std::optional<size_t> chosen);
  QLabel* words_;
  std::vector<QPushButton*> answers_;
  QPushButton* no_;
  std::vector<Offer> offers_;  ///< the first is shown
  bool fault_ = false;
  QTimer gone_;
  bool news_ = false;  // what is shown waits for no answer
};

/// What is said over the page instead of moving it: notices, and what runs aside.
class OverPage : public QWidget {
  Q_OBJECT
 public:
  OverPage(QWidget* page, std::vector<QWidget*> notes);

 protected:
  bool eventFilter(QObject* object, QEvent* event) override;

 private:
  void place();
  QWidget* page_;
};

}  // namespace heft::app

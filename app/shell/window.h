#pragma once
/// Heft's window: header, stage list, stages, Ledger, loop strip, and messages. Its many functions are its
/// menus' and keys': each joins two areas that know nothing of each other.

#include <QFileInfo>
#include <QMainWindow>
#include <QTimer>
#include <array>

#include "app/document/document.h"
#include "app/loop/loop_strip.h"
#include "app/play/automation_recorder.h"
#include "app/play/play_in.h"
#include "app/play/reference_ear.h"
#include "app/play/teacher.h"
#include "app/play/transport.h"
#include "app/shell/before_switch.h"
#include "app/shell/kept_states.h"
#include "app/shell/offers.h"
#include "app/stages/stage_page.h"

class QLabel;
class QPushButton;
class QSplitter;
class QVBoxLayout;
class QStackedWidget;

namespace heft::app {

class ExportPage;
class FirstSteps;
class FixSheet;
class HeaderBar;
class LedgerPanel;
class Library;
class LibraryPanel;
class SongOverview;
class NoticeBar;
class StageList;
struct KeyOffer;

class Window : public QMainWindow {
  Q_OBJECT
 public:
  /// `libraryIndex`: the library's file; the user's own by default. Windows may share renders.
  explicit Window(const QString& libraryIndex = {},
                  std::shared_ptr<StepCache> cache = std::make_shared<StepCache>());
  ~Window() override;

  Document& document() { return document_; }
  Transport& transport() { return transport_; }
  ReferenceEar& ear() { return ear_; }
  Selection& selection() { return selection_; }
  PlayIn& playIn() { return playIn_; }
  Teacher& teacher() { return *teacher_; }
  StagePage* page(Stage stage) { return pages_[static_cast<size_t>(stage)]; }
  LoopStrip* loopStrip() { return strip_; }
  Library& library() { return *library_; }
  LibraryPanel* libraryPanel() { return libraryPanel_; }
  /// Opens or folds the library drawer; in a narrow window it replaces the Ledger.
  void showLibrary(bool shown);
  Stage currentStage() const;
  void showStage(Stage stage);
  /// Likewise, focusing its page.
  void goToStage(Stage stage);
  bool openFolder(const QString& folder);
  /// Offers what an earlier run left after a crash; starts this run's autosave.
  void startAutosave(const QString& root);

 protected:
  void closeEvent(QCloseEvent*) override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;
  bool eventFilter(QObject* object, QEvent* event) override;
  bool focusNextPrevChild(bool next) override;

 private:
  QAction* add(QMenu* menu, const QString& text, const QKeySequence& key, std::function<void()> then);
  void buildLibrary(const QString& index);
  void buildHeader(QVBoxLayout* column);
  void layOut();
  void buildPages();
  void listen();
  void buildMenus();
  void buildFileMenu();
  void addPatternsMenu(QMenu* file);
  void addKeyMenu(QMenu* file);
  void buildEditMenu();
  void buildPlayMenu();
  void addPlacesMenu(QMenu* play);
  void stepHit(int way, bool outOfRange);
  void chooseHitAtPlayhead();
  void addKeyboardsMenu(QMenu* play);
  void buildViewMenu();
  void restorePlace();
  void keepPlace() const;
  bool pressFocused(QWidget* focus, int key);
  void noteHand(QEvent* event);
  static void focusFirstIn(QWidget* place);
  bool editText(LoopStrip::EditKind kind);
  QString placeOfSessions() const;
  void addClickMenu(QMenu* menu);
  void addPreviewMenu(QMenu* menu);
  void connectWays();
  void openFixes();
  class DuckPage* duckPage() const;
  void hearWithout();
  std::optional<Edit> withoutAutomation(const ValueField* field) const;
  void hearWithoutKind();
  /// Solo or mute for the selection: the lane in the loop strip, else the card; with several layers the
  /// layer.
  void silenceOthers();
  void turnSolo(int lane);
  void silenceChosen();
  void flipLayer(const std::string& name, const std::string& key);
  /// Lane of the selection; nothing where a layer of several is selected.
  std::optional<int> chosenLane() const;
  void hearVersion();
  Edit beforeStage() const;
  void refreshTitle();
  bool save(bool as, bool wait = false);
  bool mayDiscard();
  void openDialog();
  void openDemo();
  void addSounds();
  void placeFiles(const QStringList& paths);
  void connectFirstSteps(FirstSteps& first);

  Document document_;
  Transport transport_{document_};
  ReferenceEar ear_{document_, transport_};
  BeforeSwitch before_{document_, transport_, ear_};
  KeptStates states_{document_, before_};
  Selection selection_;
  PlayIn playIn_{document_, transport_};
  Teacher* teacher_ = new Teacher(document_, playIn_, this);
  AutomationRecorder* recorder_ = new AutomationRecorder(document_, transport_, this);
  HeaderBar* header_;
  StageList* stages_;
  QSplitter *sides_, *floors_;
  QStackedWidget* stack_;
  std::array<StagePage*, 6> pages_{};
  LedgerPanel* ledger_;
  FixSheet* fixes_;
  Library* library_;
  LibraryPanel* libraryPanel_;
  bool ledgerGaveWay_ = false;
  bool reachedByKeys_ = true;  ///< the focused widget, unless focused by a click
  bool reachedByTab_ = false;  ///< and by Tab
  LoopStrip* strip_;
  SongOverview* overview_;
  NoticeBar* notices_;
  Offers* offers_;
  QAction *undo_, *redo_;
};

}  // namespace heft::app

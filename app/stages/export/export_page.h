#pragma once
/// Export: the files to write, their folder, sizes and formats; one button; a log of written files.

#include <optional>

#include "app/stages/stage_page.h"

class QCheckBox;
class QLabel;
class QListWidget;
class QPlainTextEdit;
class QPushButton;

namespace heft::app {

class ExportPage : public StagePage {
  Q_OBJECT
 public:
  ExportPage(Document& document, Selection& selection);
  void refresh() override;
  void setFolder(const QString& folder);
  /// Writes the list; asks before it replaces files. Runs aside; the log reports it.
  void write();

 protected:
  void showEvent(QShowEvent* event) override;
  QString subtitle() const override;

 private:
  struct Written {
    std::string log;
    QStringList names;
    int existing = 0;  ///< existing files that would be replaced; without names it asks about them
  };
  enum class Existing { Ask, WriteOver, KeepBoth };
  void buildQuestion();
  void forget();
  void writeNow(Existing existing);
  void askForPlan();
  void log(const QString& words);
  void tell(const Result<Written>& written, const QString& folder);
  void buildList();
  void addFields();
  void addChoice(const QString& name, const QString& tip, const std::string& key);
  void chooseFolder();
  struct Choice {
    QCheckBox* box;
    std::string key;  ///< of the session
  };
  std::vector<Choice> choices_;
  QWidget* list_;
  QLabel *preview_, *writtenTitle_, *questionWords_;
  QWidget* question_;
  std::optional<Session> planned_;  ///< the session of the list that is shown or in the making
  QListWidget* written_;
  QPlainTextEdit* log_;
  QPushButton* button_;
  QString folder_;
};

}  // namespace heft::app

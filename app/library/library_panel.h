#pragma once
/// The library drawer: folders, search by name and by fit, and a list whose selected file plays in the loop.

#include <QWidget>

#include "app/library/library.h"
#include "app/widgets/value_field.h"

class QHBoxLayout;
class QLabel;
class QLineEdit;
class QPushButton;

namespace heft::app {

class LibraryList;

class LibraryPanel : public QWidget {
  Q_OBJECT
 public:
  LibraryPanel(Document& document, Library& library, QWidget* parent = nullptr);
  Place place() const { return place_; }
  LibraryList* list() { return list_; }
  /// Focuses the search words; from there Down goes to the list, Escape clears the words, and closes the
  /// drawer when they are empty.
  void focusSearch();

  /// Sets the layer of that part for which files audition and load; nothing: its first.
  void serve(Place place, std::optional<int> layer);

 Q_SIGNALS:
  void leaving();  ///< Escape

 protected:
  bool eventFilter(QObject* object, QEvent* event) override;
  bool event(QEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent*) override;
  void hideEvent(QHideEvent*) override;

 private:
  enum class Rank { Fit, Loss, Name, Landing, Tail, Weight, Brightness };
  void addChoice(const QString& name, const QString& caption, const QString& tip, const QStringList& words,
                 const std::function<int()>& now, const std::function<void(int)>& set);
  void addKindFields();
  void addLimitFields();
  QHBoxLayout* buildBottom();
  void listen();
  void refresh();
  void search();
  void foldersMenu();
  void setOrder(Rank rank);
  void describeChosen();
  Document& document_;
  Library& library_;
  LibraryQuery query_{.kind = SoundKind::Kick};
  Rank rank_ = Rank::Fit;
  QString servedWords() const;
  Place place_;
  std::optional<int> layer_;
  int tail_ = 0;
  QLineEdit* words_;
  LibraryList* list_;
  QLabel *state_, *details_;
  QPushButton *scan_, *folders_;
  std::vector<ValueField*> fields_;
  bool asked_ = false;
  // Inputs of the last search.
  Key key_;
  double tempoBpm_ = 0.0, a4Hz_ = 0.0;
};

}  // namespace heft::app

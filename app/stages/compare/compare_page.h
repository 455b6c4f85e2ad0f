#pragma once
/// Compare: the sum beside references: pictures, one at a time, over the table of references.

#include <array>

#include "app/play/reference_ear.h"
#include "app/stages/compare/figures.h"
#include "app/stages/stage_page.h"

class QPushButton;
class QStackedWidget;

namespace heft::app {

class BarPicture;
class CeilingPicture;
class FactsPicture;
class FloorPicture;
class ReferenceTable;
class SectionsPicture;
class SpeakersPicture;
class TabRow;
class WidthPicture;

class ComparePage : public StagePage {
  Q_OBJECT
 public:
  ComparePage(Document& document, Selection& selection, ReferenceEar& ear);
  void mark(const Finding& finding) override;
  /// Names of the pictures, in the order of the tabs.
  enum class View { Median, Spectrum, Note, Bar, Width, Speakers, Ceiling, Facts, Sections };
  void show(View view);
  View view() const;
  /// Numbers, N, M, Return and Esc, wherever the focus is while this page is shown. False for other keys.
  bool takeKey(QKeyEvent* event);

  void refresh() override;

 protected:
  QString subtitle() const override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;
  void showEvent(QShowEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void hideEvent(QHideEvent*) override;

 private:
  void buildPictures();
  void buildButtons();
  void offerSections();
  void buildFields();
  void addSectionFields();
  void addReferences();
  void removeReference(size_t reference);
  QString aside() const;
  ReferenceEar& ear_;
  CompareFigures figures_;
  TabRow* tabs_;
  QStackedWidget* stack_;
  FloorPicture* floor_;
  BarPicture* bar_;
  WidthPicture* width_;
  SpeakersPicture* speakers_;
  CeilingPicture* ceiling_;
  FactsPicture* facts_;
  SectionsPicture* sections_;
  ReferenceTable* table_;
  QPushButton* duplicate_;
  QPushButton* section_;  ///< which section of the song is compared
};

}  // namespace heft::app

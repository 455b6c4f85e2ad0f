#pragma once
/// Sounds: a row of slips for kick and bass, the backing's slip, and the selected sound large: a recording's
/// wave, a built kick's ribbon, a built bass's partials; or the part's layers overlaid. Above it, its
/// sections and processors; below, the fields of the selection.

#include "app/desk/layer_choice.h"
#include "app/document/preset_shelf.h"
#include "app/stages/sounds/backing_picture.h"
#include "app/stages/sounds/kick_ribbon.h"
#include "app/stages/sounds/layer_sections.h"
#include "app/stages/sounds/layer_slip.h"
#include "app/stages/sounds/other_parts.h"
#include "app/stages/sounds/wave_picture.h"
#include "app/stages/stage_page.h"

class QStackedWidget;

namespace heft::app {

class BassVoicePicture;
class ChainStrip;
class ContourPicture;
class DrivePicture;
class EqPicture;
class FirstSteps;
class LevelPicture;
class LinePicture;
class OverlayPicture;
class SectionBar;
class ShapePicture;
class SpacePicture;
class SpectrumPane;

class SoundsPage : public StagePage {
  Q_OBJECT
 public:
  SoundsPage(Document& document, Selection& selection);
  void mark(const Finding& finding) override;
  void refresh() override;
  LayerChoice& choice() { return choice_; }
  /// Shown while there is no sound.
  FirstSteps& firstSteps() { return *first_; }
  const LayerChoice& choice() const { return choice_; }
  const QString& section() const { return section_; }
  /// Shows a section of fields by its name; false without one.
  bool showSection(const QString& name);
  /// Shows the selected sound's first processor of that kind; false without one.
  bool showProcessor(const QString& word);
  void showTogether(bool together);
  /// The spectrum of the chosen sound beside its wave, with its cuts.
  void showSpectrum(bool shown);
  bool isSpectrumShown() const { return withSpectrum_; }
  /// A part's first layer, or the backing.
  void showPart(Place place);
  /// Shows levels at the playhead during playback.
  void follow(Transport& transport);
  /// The loop without the shown section; nothing where that cannot be off.
  std::optional<Edit> withoutSection() const;

 protected:
  QString subtitle() const override;
  void resizeEvent(QResizeEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  void addHeadButtons();
  void rebuild();
  QWidget* pictureOf(const Processor& processor) const;
  void loadBody();
  LayerChoice choice_;
  QStackedWidget* pictures_;
  SpectrumPane* spectrum_;
  FirstSteps* first_;
  QPushButton* spectrumButton_;
  bool withSpectrum_ = false;
  void arrangeSpectrum();
  WavePicture* wave_;
  KickRibbon* ribbon_;
  BassVoicePicture* bass_;
  OverlayPicture* overlay_;
  BackingPicture* backing_;
  LinePicture* line_;
  ContourPicture* contour_;
  EqPicture* eq_;
  DrivePicture* drive_;
  LevelPicture* level_;
  ShapePicture* shape_;
  SpacePicture* space_;
  OtherParts* others_;
  SectionBar* bar_;
  PresetShelf shelf_;
  ChainStrip* chain_;
  std::vector<FieldSection> sections_;
  std::optional<FieldSection> processor_;  ///< shown instead of a section
  QString section_;
  QString built_;  ///< signature of the present sections
  bool together_ = false;
};

/// Names of sections as flat words, the shown one underlined; a bold stroke before sections that are on.
class SectionBar : public QWidget {
  Q_OBJECT
 public:
  explicit SectionBar(QWidget* parent = nullptr);
  void show(const std::vector<FieldSection>& sections, const QString& now);
  /// Position of a word; tests click it.
  QPointF wordAt(const QString& name) const;
  QSize sizeHint() const override { return {200, 24}; }

 Q_SIGNALS:
  void chosen(const QString& name);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  struct Word {
    QString name;
    std::optional<bool> in;
  };
  std::vector<QRectF> boxes() const;
  std::vector<Word> words_;
  QString now_;
};

}  // namespace heft::app

#pragma once
/// What all pictures share.

#include <QWidget>

#include "app/desk/selection.h"
#include "app/document/document.h"
#include "app/widgets/unit_words.h"

namespace heft::app {

/// A picture: repaints when the document or the selection changes, and shows a sentence where there is
/// nothing to draw.
class Picture : public QWidget {
  Q_OBJECT
 public:
  Picture(Document& document, Selection& selection, const QString& name, QWidget* parent = nullptr);

 protected:
  Document& document() const { return document_; }
  const Track& track() const { return document_.track(); }
  Selection& selection() const { return selection_; }
  /// `tip` appears under the pointer and is short, because it covers the picture; `whole` lists everything
  /// that can be done here (Shift+F1, and screen readers).
  void explain(const QString& tip, const QString& whole);
  /// The sentence in the middle of an empty picture.
  void drawEmpty(QPainter& painter, const QString& sentence) const;
  /// The chosen hit's figures, or nothing.
  const HitFacts* hit() const;
  /// What it is called: "hit 3" of a loop; of a song its place, "17.1.1 in Drop".
  QString hitWords() const;
  QString wordsOfHit(int hit) const;
  QString noteText(double midi) const { return QString::fromStdString(pitchText(midi, track().notes)); }

 private:
  Document& document_;
  Selection& selection_;
};

}  // namespace heft::app

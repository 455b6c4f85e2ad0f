#pragma once
/// Speakers: which bass notes, and whether the kick, are heard elsewhere.

#include "app/stages/compare/compare_picture.h"
#include "core/looks/speaker_rows.h"

namespace heft::app {

class SpeakersPicture : public ComparePicture {
  Q_OBJECT
 public:
  SpeakersPicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear);
  double quietDb() const { return quietDb_; }
  void setQuietDb(double db);
  const std::vector<SpeakerRow>& rows() const { return rows_; }

 protected:
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent*) override;

 private:
  void measure();
  void drawCell(QPainter& p, const QRectF& box, double phon) const;
  std::vector<SpeakerRow> rows_;
  double quietDb_ = 60.0;
  LatestAside measuring_;
};

}  // namespace heft::app

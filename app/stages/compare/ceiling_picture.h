#pragma once
/// Ceiling: the sum as loud as the references under a limiter, what its lows lose, and who makes the worst
/// peaks.

#include <atomic>

#include "app/stages/compare/compare_picture.h"
#include "core/compare/ceiling.h"
#include "core/compare/coded.h"
#include "core/solve/peak_makers.h"

namespace heft::app {

class CeilingPicture : public ComparePicture {
  Q_OBJECT
 public:
  CeilingPicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear);
  /// Its loudness: typed, else the references' median, else -9 LUFS.
  double lufs() const;
  bool isTyped() const { return typedLufs_.has_value(); }
  void setLufs(std::optional<double> lufs);
  const CeilingAsk& ask() const { return ask_; }
  void setCeilingDb(double db);
  void setReleaseMs(double ms);
  const std::optional<CeilingFacts>& facts() const { return facts_; }
  const std::vector<MadePeak>& peaks() const { return peaks_; }
  /// The limited sum as a lossy file.
  const LossyAsk& codec() const { return codec_; }
  void setCodec(const LossyAsk& codec);
  /// "MP3 128: lows -0.5 dB, peak -0.3 dBTP", or why there is nothing.
  QString codedText() const;
  /// Where the move of a peak is, from 0; tests press there.
  QRectF button(size_t row) const;
  size_t peakCount() const { return peaks_.size(); }

 Q_SIGNALS:
  void measured();

 protected:
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  struct Measured {
    std::optional<CeilingFacts> facts;
    std::vector<MadePeak> peaks;
    std::optional<Result<CodedFacts>> coded;
  };
  void measure();
  QRectF peaksPlot() const;
  QRectF lossPlot() const;
  double tableTop() const;
  Axis time() const;
  void drawPeaks(QPainter& p) const;
  void drawLosses(QPainter& p) const;
  std::vector<const CeilingHit*> told(const std::function<double(const CeilingHit&)>& size, const Axis& x,
                                      const QPainter& p) const;
  void drawTable(QPainter& p) const;
  void drawRow(QPainter& p, size_t row) const;
  void apply(size_t row);
  QString place(double seconds) const;

  std::optional<double> typedLufs_;
  CeilingAsk ask_;
  std::optional<CeilingFacts> facts_;
  std::vector<MadePeak> peaks_;
  LossyAsk codec_;
  std::optional<Result<CodedFacts>> coded_;
  std::optional<Session> of_;  ///< what they were measured of
  size_t chosen_ = 0;
  LatestAside measuring_;
};

}  // namespace heft::app

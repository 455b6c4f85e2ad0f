#pragma once
/// Slips: a row for each part, a slip for each of its layers, and an empty one that waits for a sound.

#include "app/desk/layer_choice.h"
#include "app/pictures/picture.h"

namespace heft::app {

/// One sound on a slip: thumbnail, name, landing note, level, mute and solo. A dashed slip waits for a file.
class Slip : public Picture {
  Q_OBJECT
 public:
  /// `layer`: an id; LayerPlace::kNew for the empty slip.
  Slip(Place place, int layer, LayerChoice& choice, Selection& selection, const QString& name);
  Place place() const { return place_; }
  int layer() const { return layer_; }
  /// Requests of the Edit menu while focused.
  void duplicate();
  void build();
  void move(int way);
  void rename();
  /// The loop without this layer, or the backing; nothing on an empty card.
  std::optional<Edit> without() const;
  void remove();
  QSize sizeHint() const override { return {waits() ? 126 : 300, kSlipHeight}; }
  static constexpr int kSlipHeight = 24;
  /// As at the lanes' heads. With many layers a slip has room for its name and its wave only, and then shows
  /// just an active switch. M and S still work.
  QRectF soloBox() const;
  QRectF muteBox() const;

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dragLeaveEvent(QDragLeaveEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  bool waits() const { return layer_ == LayerPlace::kNew && place_ != kBacking; }
  bool isChosen() const;
  bool isNarrow() const;
  const Part* part() const;
  bool playsHits() const;
  const Layer* layerNow() const;
  /// A switch of the chosen layer.
  void toggle(const std::string& key, const std::string& name);
  void take(const QString& path);
  void browse();
  void offer(const QPoint& at);
  void layerMenu(const QPoint& at);
  static std::vector<float> outlineOf(const AudioBuffer& sound);
  void drawThumbnail(QPainter& p, double width, bool quiet) const;
  void drawWords(QPainter& p, double left, bool missing) const;
  void takeThumbnail();
  void takeNote();
  LayerChoice& choice_;
  Place place_;
  int layer_;
  std::shared_ptr<const AudioBuffer> thumbnailOf_;
  std::vector<float> thumbnail_;  ///< an outline of it
  QString note_;                  ///< where it lands
  bool over_ = false;
};

}  // namespace heft::app

#pragma once
/// What the chosen sound passes through, in its order: the layer's processors, its part's, the sum's, as words
/// on a line. One is chosen, moved, put in and out, copied, and filled from presets here, by mouse and by keys.

#include <QMenu>
#include <QWidget>
#include <vector>

#include "app/document/preset_shelf.h"
#include "app/stages/layer_choice.h"
#include "app/widgets/accessible.h"

namespace heft::app {

class ChainStrip : public QWidget, public AccessibleHolder {
  Q_OBJECT
 public:
  ChainStrip(LayerChoice& choice, PresetShelf& shelf, QWidget* parent = nullptr);
  enum class What { Title, Processor, Add };
  /// Where it stands; tests click and drag there.
  QPointF placeOf(What what, const ChainPlace& place) const;
  /// The kinds that can be added behind what is chosen, and what can be done with it.
  void fillMenu(QMenu& menu, const ChainPlace& at);
  void fillAddMenu(QMenu& menu, const ChainPlace& at);
  /// The menu of kinds, under what is chosen.
  void addByMenu();
  /// A letter a kind, in their order: the first of its name that no other has.
  static std::vector<QChar> letters();
  /// That kind behind what is chosen; its first value is what comes next.
  void addKind(size_t kind);
  void copy();
  void cut();
  /// What the clipboard holds, behind what is chosen; else a sentence.
  void paste();
  void duplicate();
  void remove();
  /// The next preset of the kind that is chosen, of a holder its lists and then whole layers or parts, heard in
  /// the loop as loud as what is there.
  void flip(int way);
  void takeFlipped();
  void leaveFlipped();
  /// The preset that is heard; nothing while none is.
  const Preset* flipped() const { return flipped_ ? &*flipped_ : nullptr; }
  QSize sizeHint() const override { return {200, 24}; }
  std::vector<AccessibleItem> accessibleItems() const override;

 Q_SIGNALS:
  /// A processor is new: its first value is what comes next.
  void added();
  /// The loop with another preset; nothing: as it is.
  void heard(const std::optional<heft::Edit>& edit);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void focusInEvent(QFocusEvent*) override { update(); }
  void focusOutEvent(QFocusEvent*) override { update(); }

 private:
  struct Item {
    What what;
    ChainPlace place;
    QString word;
    bool in = false;
    QRectF box;
  };
  struct Gap {
    Owner of;
    size_t place = 0;
    double x = 0.0;
  };
  Document& document() const { return choice_.document(); }
  const Session& session() const { return document().session(); }
  enum class Room { Much, Little };
  std::vector<Item> items() const;
  void addItems(const Owner& of, bool open, Room room, std::vector<Item>& out) const;
  std::vector<Gap> gaps() const;
  std::optional<Gap> gapAt(double x) const;
  std::optional<Item> itemAt(const QPointF& at) const;
  /// Where edits go: what is chosen, or the first holder.
  ChainPlace chosen() const;
  void lookAt(const ChainPlace& place);
  void put(const Processor& processor, const ChainPlace& behind);
  void use(const PresetFile& file, const ChainPlace& at);
  void addPresets(QMenu& menu, const Preset& like, const ChainPlace& at);
  void save(Preset preset);
  /// The layer or part whose name that place is, all of it; nothing for a processor and the sum.
  std::optional<Preset> wholeOf(const ChainPlace& at) const;
  void drawItem(QPainter& p, const Item& item, bool now) const;

  LayerChoice& choice_;
  PresetShelf& shelf_;
  std::optional<ChainPlace> pressed_;
  QPointF pressedAt_;
  std::optional<double> dragX_;
  std::optional<Preset> flipped_;
  ChainPlace flippedAt_;
  int flippedNumber_ = -1;
};

}  // namespace heft::app

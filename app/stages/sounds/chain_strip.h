#pragma once
/// The chosen sound's processors in order: the layer's, its part's, the sum's, as words on a line. Selects,
/// moves, bypasses and copies them, and loads presets, by mouse and by keys.

#include <QMenu>
#include <QWidget>
#include <vector>

#include "app/desk/layer_choice.h"
#include "app/document/preset_shelf.h"
#include "app/widgets/accessible.h"

namespace heft::app {

class ChainStrip : public QWidget, public AccessibleHolder {
  Q_OBJECT
 public:
  ChainStrip(LayerChoice& choice, PresetShelf& shelf, QWidget* parent = nullptr);
  enum class What { Title, Processor, Add };
  /// Its position; tests click and drag there.
  QPointF placeOf(What what, const ChainPlace& place) const;
  /// The kinds that can be added behind the selection, and actions on it.
  void fillMenu(QMenu& menu, const ChainPlace& at);
  void fillAddMenu(QMenu& menu, const ChainPlace& at);
  /// The menu of kinds, under the selection.
  void addByMenu();
  /// A letter for each kind, in order: the first of its name that no other has.
  static std::vector<QChar> letters();
  /// Adds that kind behind the selection and focuses its first value.
  void addKind(size_t kind);
  void copy();
  void cut();
  /// Pastes the clipboard behind the selection; else shows a sentence.
  void paste();
  void duplicate();
  void remove();
  /// Auditions the next preset of the selected kind, or of a holder's lists and then whole layers or parts,
  /// level matched.
  void flip(int way);
  void takeFlipped();
  void leaveFlipped();
  /// The auditioned preset; nothing without one.
  const Preset* flipped() const { return flipped_ ? &*flipped_ : nullptr; }
  QSize sizeHint() const override { return {200, 24}; }
  std::vector<AccessibleItem> accessibleItems() const override;

 Q_SIGNALS:
  /// A processor was added: its first value is next.
  void added();
  /// The loop with another preset; empty: unchanged.
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
  /// Target of edits: the selection, or the first holder.
  ChainPlace chosen() const;
  void lookAt(const ChainPlace& place);
  void put(const Processor& processor, const ChainPlace& behind);
  void use(const PresetFile& file, const ChainPlace& at);
  void addPresets(QMenu& menu, const Preset& like, const ChainPlace& at);
  void save(Preset preset);
  /// The layer or part whose name that place is, all of it; nothing for a processor and the sum.
  std::optional<Preset> wholeOf(const ChainPlace& at) const;
  void drawItem(QPainter& p, const Item& item, bool now) const;
  void drawSignal(QPainter& p, const std::vector<Item>& all) const;

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

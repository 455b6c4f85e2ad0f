#pragma once
/// Sounds in the real window.

#include "app/stages/sounds/sounds_page.h"
#include "core/session/edits/chain.h"
#include "core/session/edits/parts.h"
#include "tests/app/window_fixture.h"

namespace heft::app {

class SoundsTest : public WindowTest {
 protected:
  void build(Place place) {
    const int id = freshLayerId(*session().part(place.id));
    document().edit(addBuiltLayer(*session().part(place.id)));
    page()->choice().choose(place, id);
  }
  // Chooses a row of the menu that a press opens.
  void pressAndChoose(QWidget* widget, int row, QPoint at = {20, 20}) {
    QTimer::singleShot(50, receiver.get(), [row] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      ASSERT_TRUE(menu);
      menu->setActiveAction(menu->actions().at(row));
      QTest::keyClick(menu, Qt::Key_Return);
    });
    QTest::mouseClick(widget, Qt::LeftButton, {}, at);
    settle();
  }
  // Selects the layer's processor of that kind, adding it if there is none.
  void look(const QString& word) {
    const Owner layer = *page()->choice().layerOwner();
    const Chain& chain = *chainOf(session(), layer);
    size_t kind = 0;
    while (word != processorWord(kind)) ++kind;
    for (const Processor& p : chain.list)
      if (p.what.index() == kind) return page()->choice().lookAt(ChainPlace{layer, p.id});
    const int id = chain.freshId();
    document().edit(addProcessor(layer, freshProcessor(kind)));
    page()->choice().lookAt(ChainPlace{layer, id});
  }
  SoundsPage* page() { return window.findChild<SoundsPage*>(); }
  const KickVoice& voice(size_t layer = 0) { return *session().kick().layers[layer].kickVoice(); }
  double measuredLanding() { return midiFromHz(document().study()->pair.kick.sound->landing.hz.value_or(1.0)); }
};

/// The demo with its kick's drive in sight.
class DriveTest : public SoundsTest {
 protected:
  void SetUp() override {
    SoundsTest::SetUp();
    openDemo();
    page()->choice().choose(kickOf(session()), session().kick().layers[0].id);
    look("Drive");
    settle();
  }
};

}  // namespace heft::app

// Not a test but the maker of docs/screenshots: drives the real window on the demo and saves what it shows.
// HEFT_PICTURES=DIR heft-app-tests --gtest_filter='Pictures*', under Xvfb (scripts/pictures.sh).

#include <QPixmap>
#include <cstdlib>

#include "app/library/library_panel.h"
#include "app/loop/loop_strip.h"
#include "tests/app/window_fixture.h"

namespace heft::app {
namespace {

class Pictures : public WindowTest {
 protected:
  void SetUp() override {
    const char* to = std::getenv("HEFT_PICTURES");
    if (!to) GTEST_SKIP() << "makes pictures only where HEFT_PICTURES says";
    folder_ = to;
    const QString size = qEnvironmentVariable("HEFT_PICTURE_SIZE", "1280x800");
    window.resize(size.section('x', 0, 0).toInt(), size.section('x', 1).toInt());
    WindowTest::SetUp();
    openDemo();
    settleRemedies();
  }
  void save(const QString& name) {
    settle();
    QTest::qWait(250);
    ASSERT_TRUE(window.grab().save(folder_ + "/" + name + ".png"));
  }
  QString folder_;
};

TEST_F(Pictures, Stages) {
  const std::pair<Stage, const char*> stages[] = {{Stage::Sounds, "sounds"}, {Stage::Tune, "tune"},
                                                  {Stage::Align, "align"},   {Stage::Duck, "duck"},
                                                  {Stage::Compare, "compare"}, {Stage::Export, "export"}};
  for (const auto& [stage, name] : stages) {
    window.showStage(stage);
    save(name);
  }
}

TEST_F(Pictures, FixList) {
  press("Fix all");
  ASSERT_TRUE(QTest::qWaitFor([&] { return find<QPushButton>("Apply fixes")->isEnabled(); }, 60000));
  save("fix-all");
}

}  // namespace
}  // namespace heft::app

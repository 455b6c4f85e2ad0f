#pragma once
/// Duck: how the bass makes way for the kick.

#include "app/stages/stage_page.h"

namespace heft::app {

class DuckPage : public StagePage {
  Q_OBJECT
 public:
  DuckPage(Document& document, Selection& selection);

 protected:
  QString subtitle() const override;
};

}  // namespace heft::app

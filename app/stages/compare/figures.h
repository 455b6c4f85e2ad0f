#pragma once
/// What Compare's pictures draw, measured aside whenever the page is shown.

#include <QObject>
#include <memory>

#include "app/document/aside.h"
#include "app/document/document.h"
#include "core/looks/compare_detail.h"

namespace heft::app {

class CompareFigures : public QObject {
  Q_OBJECT
 public:
  explicit CompareFigures(Document& document, QObject* parent = nullptr);
  /// Of the session as it was measured last; nothing before the first time.
  const CompareDetail* detail() const { return detail_.get(); }
  /// Measures only while something shows it.
  void setShown(bool shown);

 Q_SIGNALS:
  void changed();

 private:
  void measure();
  Document& document_;
  std::shared_ptr<const CompareDetail> detail_;
  LatestAside measuring_;
  bool shown_ = false, stale_ = true;
};

}  // namespace heft::app

#include "app/stages/compare/figures.h"

namespace heft::app {

CompareFigures::CompareFigures(Document& document, QObject* parent) : QObject(parent), document_(document) {
  connect(&document, &Document::studied, this, [this] {
    stale_ = true;
    measure();
  });
  connect(&document, &Document::replaced, this, [this] {
    detail_.reset(), stale_ = true;
    Q_EMIT changed();
  });
}

void CompareFigures::setShown(bool shown) {
  shown_ = shown;
  measure();
}

void CompareFigures::measure() {
  if (!shown_ || !stale_ || !document_.study() || !document_.stems()) return;
  stale_ = false;
  // References are added and edited as fast as a hand moves: only the last state counts.
  auto makeWork = [this] {
    return [session = document_.session(), study = *document_.study(), stems = *document_.stems(),
            cache = document_.cache()] { return compareDetail(session, study, stems, *cache); };
  };
  measuring_.ask(
      this, makeWork,
      [this](Result<CompareDetail> made) {
        if (!made) return;
        detail_ = std::make_shared<const CompareDetail>(std::move(*made));
        Q_EMIT changed();
      },
      document_.failing());
}

}  // namespace heft::app

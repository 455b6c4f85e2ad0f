#pragma once
/// Facts: what each track's kick and bass do, yours beside the references'.

#include "app/compare/compare_picture.h"

namespace heft::app {

class FactsPicture : public ComparePicture {
  Q_OBJECT
 public:
  FactsPicture(Document& document, Selection& selection, CompareFigures& figures, ReferenceEar& ear);

 protected:
  void paintEvent(QPaintEvent*) override;

 private:
  struct Fact {
    QString name, unit;
    int digits = 0;
    std::function<std::optional<Told>(const SectionFacts&)> of;
    bool isNote = false;
  };
  static std::vector<Fact> facts();
  QString text(const Fact& fact, const std::optional<Told>& told) const;
};

}  // namespace heft::app

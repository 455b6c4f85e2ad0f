#pragma once
/// The fields under Compare's pictures. Each calls `shown` once its value has changed.

#include <functional>
#include <vector>

#include "app/stages/compare/bar_picture.h"
#include "app/stages/compare/ceiling_picture.h"
#include "app/stages/compare/facts_picture.h"
#include "app/stages/compare/floor_picture.h"
#include "app/stages/compare/speakers_picture.h"
#include "app/stages/compare/width_picture.h"
#include "app/widgets/value_field.h"

namespace heft::app {

/// A number as typed. Errors: BadUsage.
Result<double> numberIn(const QString& words);

/// The chosen band's, where it is shown, and the kick to the bass.
std::vector<FieldSpec> bandFields(FloorPicture& picture, Document& document, bool withBands,
                                  const std::function<void()>& shown);
std::vector<FieldSpec> foldFields(BarPicture& picture, const Document& document,
                                  const std::function<void()>& shown);
std::vector<FieldSpec> widthFields(WidthPicture& picture, const CompareFigures& figures,
                                   const Document& document, const std::function<void()>& shown);
std::vector<FieldSpec> speakerFields(SpeakersPicture& picture, const std::function<void()>& shown);
/// The chosen row's target.
std::vector<FieldSpec> factsFields(FactsPicture& picture, Document& document);
std::vector<FieldSpec> ceilingFields(CeilingPicture& picture, const std::function<void()>& shown);

}  // namespace heft::app

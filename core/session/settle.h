#pragma once
/// Rules across the values of an object that was read: what can be put right without loss is, the rest is a
/// fault. Ranges check single values (fields.h).

#include <optional>
#include <string>

#include "core/session/session.h"
#include "core/session/table.h"

namespace heft {

/// Most objects have nothing to put right and no such fault.
template <class T>
void settle(T&) {}
template <class T>
std::optional<FieldFault> faultOf(const T&) {
  return std::nullopt;
}

void settle(Cut& cut);                ///< its slope to a whole order
void settle(KickVoice& voice);        ///< a fall has a point
void settle(TailFade& fade);          ///< points in order
void settle(Contour& contour);        ///< it has a peak and a sustain
void settle(Chain& chain);            ///< processors' ids once each
void settle(DuckSource& source);      ///< hits and marks in order of time
void settle(DuckCurve& curve);        ///< a single point does not count
void settle(ExportList& list);        ///< a 14-bit controller is below 32
void settle(Automation& automation);  ///< points in order of time
void settle(TrackSection& section);   ///< each part and ducking once
void settle(Track& track);            ///< sharps or flats as its key has them
void settle(Part& part);              ///< events in order of time, layers' ids once each
void settle(Reference& reference);    ///< sections long enough
void settle(Targets& targets);        ///< bands with a width, each once
void settle(Session& session);  ///< sections in order, each ending where the next begins; at least a kick, a
                                ///< bass and a ducking; unique ids of parts and duckings; automation and
                                ///< choices of those alone, each value once

std::optional<FieldFault> faultOf(const AssetRef& ref);
std::optional<FieldFault> faultOf(const Reference& reference);
std::optional<FieldFault> faultOf(const Recorded& recorded);
std::optional<FieldFault> faultOf(const KickVoice& voice);
std::optional<FieldFault> faultOf(const AlignMove& move);
std::optional<FieldFault> faultOf(const DuckSource& source);
std::optional<FieldFault> faultOf(const DuckCurve& curve);
std::optional<FieldFault> faultOf(const DuckBand& band);
std::optional<FieldFault> faultOf(const Versions& versions);
std::optional<FieldFault> faultOf(const Part& part);
std::optional<FieldFault> faultOf(const Track& track);
std::optional<FieldFault> faultOf(const Grid& grid);
std::optional<FieldFault> faultOf(const TrackSection& section);
std::optional<FieldFault> faultOf(const Session& session);

}  // namespace heft

#pragma once
/// Every type of the document that has a table of its values (table.h). A value that is in none of them is not
/// part of the document. The rows are in sound_table.cpp, part_table.cpp, duck_table.cpp and session_table.cpp.

#include "core/session/session.h"
#include "core/session/table.h"

namespace heft {

template <>
const Table& tableOf<Cut>();
template <>
const Table& tableOf<EqBand>();
template <>
const Table& tableOf<Eq>();
template <>
const Table& tableOf<Drive>();
template <>
const Table& tableOf<Strike>();
template <>
const Table& tableOf<NoiseBurst>();
template <>
const Table& tableOf<FallPoint>();
template <>
const Table& tableOf<KickVoice>();
template <>
const Table& tableOf<ContourPoint>();
template <>
const Table& tableOf<Contour>();
template <>
const Table& tableOf<MidBand>();
template <>
const Table& tableOf<HighBand>();
template <>
const Table& tableOf<BassVoice>();
template <>
const Table& tableOf<Dive>();
template <>
const Table& tableOf<SoundSide>();
template <>
const Table& tableOf<FadePoint>();
template <>
const Table& tableOf<TailFade>();
template <>
const Table& tableOf<AmpEnvelope>();
template <>
const Table& tableOf<StrikeSustain>();
template <>
const Table& tableOf<Room>();
template <>
const Table& tableOf<LayerShape>();
template <>
const Table& tableOf<Compressor>();
template <>
const Table& tableOf<SoftClip>();
template <>
const Table& tableOf<Limiter>();
template <>
const Table& tableOf<Width>();
template <>
const Table& tableOf<Gain>();
template <>
const Table& tableOf<AssetRef>();
template <>
const Table& tableOf<Body>();
template <>
const Table& tableOf<Processor>();
template <>
const Table& tableOf<Chain>();
template <>
const Table& tableOf<Recorded>();
template <>
const Table& tableOf<Layer>();
template <>
const Table& tableOf<PartVersion>();
template <>
const Table& tableOf<Versions>();
template <>
const Table& tableOf<Hit>();
template <>
const Table& tableOf<NoteMove>();
template <>
const Table& tableOf<NoteTrim>();
template <>
const Table& tableOf<Note>();
template <>
const Table& tableOf<WheelPoint>();
template <>
const Table& tableOf<AllPass>();
template <>
const Table& tableOf<Rotation>();
template <>
const Table& tableOf<AlignMove>();
template <>
const Table& tableOf<Part>();
template <>
const Table& tableOf<TriggerHit>();
template <>
const Table& tableOf<HitMark>();
template <>
const Table& tableOf<DuckSource>();
template <>
const Table& tableOf<DipPoint>();
template <>
const Table& tableOf<DuckCurve>();
template <>
const Table& tableOf<Follower>();
template <>
const Table& tableOf<Mirror>();
template <>
const Table& tableOf<BandStep>();
template <>
const Table& tableOf<DuckBand>();
template <>
const Table& tableOf<DuckTarget>();
template <>
const Table& tableOf<Duck>();
template <>
const Table& tableOf<DuckingBus>();
template <>
const Table& tableOf<HandOver>();
template <>
const Table& tableOf<Section>();
template <>
const Table& tableOf<Reference>();
template <>
const Table& tableOf<BandAim>();
template <>
const Table& tableOf<Targets>();
template <>
const Table& tableOf<Taught>();
template <>
const Table& tableOf<Listening>();
template <>
const Table& tableOf<AutomationPoint>();
template <>
const Table& tableOf<Automation>();
template <>
const Table& tableOf<KeptState>();
template <>
const Table& tableOf<SectionPart>();
template <>
const Table& tableOf<SectionDuck>();
template <>
const Table& tableOf<TrackSection>();
template <>
const Table& tableOf<Track>();
template <>
const Table& tableOf<Grid>();
template <>
const Table& tableOf<Backing>();
template <>
const Table& tableOf<SumBus>();
template <>
const Table& tableOf<ExportList>();
template <>
const Table& tableOf<Session>();

}  // namespace heft

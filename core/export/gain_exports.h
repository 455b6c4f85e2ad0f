#pragma once
/// The movements of a session's duckings as files.

#include "core/export/export_files.h"

namespace heft {

/// For every ducking that acts: its gain over the loop as CSV and as a MIDI controller, as a signal, its
/// triggers as CSV and MIDI, as the export list asks. Names are without the track's. A static one has no
/// triggers.
std::vector<ExportFile> gainFiles(const Session& session, const Stems& stems);

}  // namespace heft

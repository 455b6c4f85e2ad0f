#pragma once
/// Importing and exporting patterns.

#include "app/document/document.h"

class QWidget;

namespace heft::app {

/// Reads a part's pattern from a MIDI file as one edit. With several tracks it asks in a dialog over `over`;
/// without one it takes the first with notes. The document reports faults.
void readPattern(Document& document, Place place, const QString& path, QWidget* over);

/// Finds the kick's hits in an audio loop of the session's tempo, aside, and lays them on the grid's lines.
void findPattern(Document& document, const QString& path);

/// Writes both patterns as a MIDI file, whole or not at all.
void writePatterns(Document& document, const QString& path);

}  // namespace heft::app

#pragma once
/// Key and tempo found in a loop, a track or a file's name, and offered for the session.

#include <functional>
#include <optional>

#include "app/document/document.h"
#include "core/measure/events/key_finding.h"
#include "core/theory/file_name.h"

namespace heft::app {

/// The result, for two offers: a key may be right where the tempo is not.
struct KeyOffer {
  QString keySentence, tempoSentence;  ///< the latter is empty without a tempo
  std::vector<Key> keys;               ///< likeliest first, at most three
  std::vector<double> tempiBpm;        ///< likeliest first: the name's, what was measured
};
QString tempoWords(double bpm);  ///< "122 BPM"

/// Analyses a file aside; `then` gets the result. A key or tempo in the name takes precedence over the
/// analysis, and the sentence says where they differ.
void findKeyAndTempo(Document& document, const QString& path, const std::function<void(KeyOffer)>& then);
/// Likewise for a sound of the session.
void findKeyAndTempo(Document& document, const AssetRef& sound, const std::function<void(KeyOffer)>& then);

/// As one edit.
void takeKeyAndTempo(Document& document, const std::optional<Key>& key, std::optional<double> tempoBpm);

}  // namespace heft::app

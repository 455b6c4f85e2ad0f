#include "core/export/gain_exports.h"

#include <algorithm>

#include "core/duck/gain_files.h"
#include "core/session/edits/ducks.h"
#include "core/theory/text.h"

namespace heft {
namespace {

constexpr const char* kMidiDetails = "Standard MIDI File, 960 ticks a quarter";

void addGain(std::vector<ExportFile>& to, const std::string& name, const std::string& word,
             const ResolvedDuck& duck, const Session& s, const Stems& stems) {
  const ExportList& list = s.exports;
  const auto gain = duck.gain.read(0, 0, stems.frames);
  if (list.gainCurve) {
    to.push_back({name + ".csv", "Ducking gain over the loop, " + word, gainCsv(gain, stems.sampleRate),
                  "seconds and dB, a row each millisecond"});
    auto midi = gainMidi(gain, stems.sampleRate, s.track.tempoBpm,
                         {list.gainController, list.gainChannel, list.gainFine});
    to.push_back({name + ".mid",
                  "The same as controller " + std::to_string(list.gainController) + " on channel " +
                      std::to_string(list.gainChannel) + (list.gainFine ? ", 14 bits" : ", 7 bits"),
                  std::move(midi.bytes),
                  std::string(kMidiDetails) + ", " + std::to_string(midi.values) + " values, within " +
                      formatNumber(midi.errorDb, 2) + " dB down to -40 dB"});
  }
  if (list.gainSignal)
    if (auto bytes = encodeSound(gainSignal(gain, stems.sampleRate), SampleFormat::WavFloat))
      to.push_back({name + " signal.wav", "The same as a control signal, " + word, std::move(*bytes),
                    "32 bit float, mono, 1 is open and 0 is silence"});
  if (!list.triggers || duck.triggers.empty() || duck.movement == Movement::Static) return;
  to.push_back({name + " triggers.csv", "Triggers, " + word, triggersCsv(duck.triggers, stems.sampleRate),
                "seconds and velocities"});
  to.push_back({name + " triggers.mid", "The same as notes on C1 (36)",
                triggersMidi(duck.triggers, stems.sampleRate, s.track.tempoBpm), kMidiDetails});
}

}  // namespace

std::vector<ExportFile> gainFiles(const Session& s, const Stems& stems) {
  std::vector<ExportFile> out;
  const auto acting =
      std::count_if(stems.ducks.begin(), stems.ducks.end(), [](const ResolvedDuck& d) { return d.acts; });
  int number = 0;
  for (size_t i = 0; i < s.ducks.size(); ++i) {
    if (!stems.ducks[i].acts) continue;
    const std::string word = duckWord(s, s.ducks[i]);
    const std::string name =
        acting == 1 ? "gain" : "gain " + std::to_string(++number) + " " + fileNameOf(word, 80);
    addGain(out, name, word, stems.ducks[i], s, stems);
  }
  return out;
}

}  // namespace heft

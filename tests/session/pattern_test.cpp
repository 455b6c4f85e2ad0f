// Patterns: grid, swing, moves, versions, and MIDI at byte level.

#include <smf.h>

#include <random>

#include "core/session/edits/parts.h"
#include "core/session/midi_pattern.h"
#include "core/session/pattern_range.h"
#include "core/session/take.h"
#include "core/session/thinned.h"
#include "core/session/versions.h"
#include "tests/reference/signals.h"

namespace heft {
namespace {

using namespace reference;

TEST(Grids, SwingMovesEverySecondLineAndComesBack) {
  Grid g{TimeValue::note(1, 16), 1.0};
  EXPECT_NEAR(swung(g, 0.25), 1.0 / 3.0, 1e-12) << "swing 1 is a triplet feel: two thirds of the pair";
  EXPECT_NEAR(swung(g, 0.5), 0.5, 1e-12);
  std::mt19937 random(3);
  for (int i = 0; i < 300; ++i) {
    g.swing = 1.5 * random() / 4294967296.0;
    const double at = 16.0 * random() / 4294967296.0;
    EXPECT_NEAR(straightened(g, swung(g, at)), at, 1e-9);
    EXPECT_LE(lineBefore(g, at), at + 1e-9);
    EXPECT_GT(lineAfter(g, at), at - 1e-9);
    EXPECT_LE(std::abs(nearestLine(g, at) - at),
              std::min(at - lineBefore(g, at), lineAfter(g, at) - at) + 1e-9);
  }
  const Grid triplets{TimeValue::note(1, 8, TimeValue::Feel::Triplet), 0.0};
  EXPECT_NEAR(nearestLine(triplets, 0.7), 2.0 / 3.0, 1e-9);
  Session s;
  s.kick().hits = {{0, 1}, {0.25, 1}, {1.75, 1}};
  s.bass().notes = {{0.25, 0.25, 33, 1}};
  const Session swinging = withGrid(s, {TimeValue::note(1, 16), 0.6});
  EXPECT_NEAR(swinging.kick().hits[1].startQuarters, 0.3, 1e-9);
  EXPECT_NEAR(swinging.bass().notes[0].lengthQuarters, 0.2, 1e-9) << "its end stays on its line";
  const Session back = withGrid(swinging, {TimeValue::note(1, 16), 0.0});
  EXPECT_NEAR(back.kick().hits[2].startQuarters, 1.75, 1e-12);
}

TEST(Patterns, MovesOverWholePatterns) {
  Session s;
  s.track.loopBeats = 8;
  s = fourToTheBar(s);
  ASSERT_EQ(s.kick().hits.size(), 8u);
  s.bass().notes = {{0, 1, 31, 1}, {4, 2, 28, 1}};
  Session off = offbeatBass(s);
  ASSERT_EQ(off.bass().notes.size(), 8u);
  EXPECT_EQ(off.bass().notes[3].startQuarters, 3.5);
  EXPECT_EQ(off.bass().notes[3].midi, 28) << "the note that sounds longest";
  off.bass().notes.push_back(Note{7.9, 0.1, 30, 1});
  s.bass().notes = {{0.5, 0.25, 33, 1}, {1.0, 0.25, 33, 1}, {4.75, 0.25, 33, 1}};
  EXPECT_EQ(notesUnderFirstBeat(s).bass().notes.size(), 2u);
  const Session copy = copied(s, 0, 4, 4);
  ASSERT_EQ(copy.bass().notes.size(), 4u);
  EXPECT_EQ(copy.bass().notes[3].startQuarters, 5.0);
  const Session later = nudged(s, 0.25);
  EXPECT_EQ(later.kick().hits.front().startQuarters, 0.25);
  EXPECT_EQ(nudged(later, -0.25).kick().hits, s.kick().hits);
  std::vector<Hit> loose = {{0.03, 1}, {0.9, 1}, {7.95, 1}};
  quantise(loose, Grid{}, 1.0, Track());
  ASSERT_EQ(loose.size(), 2u) << "the last comes round to the first's place";
  EXPECT_EQ(loose[0].startQuarters, 0.0);
  EXPECT_EQ(loose[1].startQuarters, 1.0);
  std::vector<Hit> half = {{0.9, 1}};
  quantise(half, Grid{}, 0.5, Track());
  EXPECT_NEAR(half[0].startQuarters, 0.95, 1e-12);
}

TEST(PatternRanges, AreCopiedMovedAndClearedAndNothingElse) {
  Session s;
  s.track.loopBeats = 8;
  s.kick().hits = {{0, 1}, {1, 0.8}, {2, 1}, {3, 1}, {5.5, 0.5}};
  s.bass().notes = {{0.5, 0.5, 33, 1}, {1.5, 2.0, 36, 0.9, {}, true, {12, 0.5, 0.5, 0}}, {5, 1, 31, 1}};
  s.bass().wheel = {{1.0, 0.0}, {1.5, -1.0}, {2.0, 0.0}};
  const PatternRange bar{1, 2};
  const Session copy = pasted(s, clipOf(s, bar), 5);
  EXPECT_EQ(copy.kick().hits, (std::vector<Hit>{{0, 1}, {1, 0.8}, {2, 1}, {3, 1}, {5, 0.8}}))
      << "what starts there makes room";
  ASSERT_EQ(copy.bass().notes.size(), 3u);
  Note there = s.bass().notes[1];
  there.startQuarters = 5.5;
  EXPECT_EQ(copy.bass().notes[2], there) << "with its tie and dive";
  for (double q = 0.02; q < 8.0; q += 0.05) {
    // Independently of points: the curve there is the curve here, and elsewhere it is what it was.
    const double expected = q > 5 && q < 6 ? wheelValue(s.bass(), q - 4) : wheelValue(s.bass(), q);
    EXPECT_NEAR(wheelValue(copy.bass(), q), expected, 1e-4) << q;
  }
  const Session kickOnly = cleared(s, {0, 8, {1}});
  EXPECT_TRUE(kickOnly.kick().hits.empty());
  EXPECT_EQ(kickOnly.bass(), s.bass());
  const Session none = cleared(s, {0, 8});
  EXPECT_TRUE(none.bass().notes.empty() && none.bass().wheel.empty());
  PatternRange landed;
  const Session later = moved(s, bar, 3.5, &landed);
  EXPECT_EQ(landed, (PatternRange{4.5, 5.5}));
  EXPECT_EQ(later.kick().hits.size(), 5u) << "5.5 lies just behind it";
  EXPECT_NEAR(wheelValue(later.bass(), 5.0), -1.0, 1e-4);
  EXPECT_NEAR(wheelValue(later.bass(), 1.5), 0.0, 1e-4);
  EXPECT_EQ(moved(s, bar, 20.0, &landed).kick().hits.back().startQuarters, 7.0) << "as far as the loop goes";
  EXPECT_EQ(landed.to, 8.0);
  EXPECT_EQ(transposed(s, bar, -12).bass().notes[1].midi, 24);
  EXPECT_EQ(transposed(s, bar, -12).bass().notes[0].midi, 33);
  EXPECT_NEAR(louder(s, {1, 2, {1}}, -0.3).kick().hits[1].velocity, 0.5, 1e-12);
  EXPECT_EQ(louder(s, {1, 2, {1}}, -0.3).bass(), s.bass());
  EXPECT_EQ(pasted(s, clipOf(s, {0, 4}), 6).kick().hits.back().startQuarters, 7.0)
      << "beyond the loop's end it is left out";
}

TEST(PitchWheels, KeepTheirShapeInFewPoints) {
  std::vector<WheelPoint> dense;
  for (int i = 0; i <= 2000; ++i) dense.push_back({i / 500.0, -0.5 + 0.5 * std::cos(i / 2000.0 * 2.0 * M_PI)});
  const auto few = thinned(dense, 0.002);
  EXPECT_LT(few.size(), 60u);
  Part whole, part;
  whole.wheel = dense, part.wheel = few;
  for (double q = 0.0; q <= 4.0; q += 0.001)
    ASSERT_NEAR(wheelValue(part, q), wheelValue(whole, q), 0.0021) << q;
  EXPECT_EQ(thinned(std::vector<WheelPoint>{{0, 0}, {1, 0.5}, {2, 1}, {3, 1}}, 1e-6),
            (std::vector<WheelPoint>{{0, 0}, {2, 1}, {3, 1}}));
}

TEST(Takes, BecomeNotesAndACurve) {
  Take take({Grid{}, 1.0, 8.0});
  EXPECT_FALSE(take.press(33, 0.8, 0.03));
  const auto first = take.press(36, 1.0, 0.98);
  ASSERT_TRUE(first) << "one voice: the next key ends the one before";
  EXPECT_EQ(first->startQuarters, 0.0) << "to the grid on the way in";
  EXPECT_NEAR(first->lengthQuarters, 0.95, 1e-9);
  EXPECT_FALSE(take.release(33, 1.1)) << "let go of what sounds no more";
  const auto second = take.release(36, 1.5);
  ASSERT_TRUE(second);
  EXPECT_EQ(second->startQuarters, 1.0);
  take.press(40, 0.5, 7.9);
  const auto round = take.release(40, 0.4);
  ASSERT_TRUE(round);
  EXPECT_EQ(round->startQuarters, 0.0) << "nearest to the loop's end is its start";
  EXPECT_NEAR(round->lengthQuarters, 0.5, 1e-9) << "held over the loop's end";
  Take loose({Grid{}, 0.0, 8.0});
  loose.press(33, 0.8, 0.13);
  EXPECT_NEAR(loose.end(0.5)->startQuarters, 0.13, 1e-12);
  Take half({Grid{}, 0.5, 8.0});
  half.press(33, 0.8, 0.1);
  EXPECT_NEAR(half.end(0.5)->startQuarters, 0.05, 1e-12) << "half of the way to the grid";
  loose.bend(0.0, 0.6);
  EXPECT_TRUE(loose.wheel().empty()) << "a wheel at rest is no curve";
  loose.bend(-0.5, 1.0), loose.bend(-1.0, 1.5), loose.bend(0.0, 2.0);
  std::vector<WheelPoint> wheel = {{0.5, 0.2}, {1.2, 0.7}, {3.0, 0.1}};
  insertPlayed(wheel, loose.wheel());
  ASSERT_EQ(wheel.size(), 5u);
  EXPECT_EQ(wheel[2], (WheelPoint{1.5, -1.0}));
  std::vector<Note> line = {{0, 2, 33, 1}, {2, 1, 31, 1}, {2.5, 1, 30, 1}};
  insertPlayed(line, Note{1.5, 1.25, 40, 0.9}, 8.0);
  ASSERT_EQ(line.size(), 2u) << "what starts under it makes room";
  EXPECT_NEAR(line[0].lengthQuarters, 1.5, 1e-12) << "what sounds into it ends there";
}

TEST(PartVersions, SwitchAndComeBackWhole) {
  Part part;
  part.layers = {recordedLayer({std::string(32, 'a'), "a.wav"})};
  const Part before = part;
  addVersion(part, "Intro");
  EXPECT_EQ(versionName(part, 0), "First");
  EXPECT_EQ(part.layers, before.layers) << "it begins as a copy";
  part.layers[0].levelDb = -9;
  part.finish.put({0, Width{true, 0.0}});
  switchVersion(part, 0);
  EXPECT_EQ(part.layers, before.layers);
  EXPECT_TRUE(part.finish.list.empty());
  addVersion(part, "Drop");
  switchVersion(part, 1);
  EXPECT_EQ(part.layers[0].levelDb, -9);
  EXPECT_TRUE(part.finish.first<Width>()->on);
  renameVersion(part, 2, "Chorus");
  removeVersion(part, 1);
  ASSERT_EQ(versionCount(part), 2u);
  EXPECT_EQ(part.layers, before.layers) << "the neighbour takes the place of the one taken away";
  EXPECT_EQ(versionName(part, 1), "Chorus");
  EXPECT_EQ(freshLayerId(part), 2);
  Session s;
  s.kick() = part;
  const auto back = sessionFromJson(sessionToJson(s), "x");
  ASSERT_TRUE(back) << back.error().sentence();
  EXPECT_EQ(back->kick(), s.kick());
}

// Built by hand from RP-001: header, running status, a note-on of velocity 0 as its end, a bend, the bend's
// range.
std::string handMade() {
  const std::string track(
      "\x00\xff\x03\x04"
      "Bass"
      "\x00\xb3\x65\x00\x00\x64\x00\x00\x06\x0c"
      "\x00\x93\x21\x64"
      "\x60\xe3\x00\x00"
      "\x00\x93\x21\x00"
      "\x81\x40\x24\x7f"
      "\x30\x24\x00"
      "\x00\xff\x2f\x00",
      8 + 10 + 4 + 4 + 4 + 4 + 3 + 4);
  std::string out("MThd\0\0\0\6\0\0\0\1\0\x60MTrk\0\0\0", 21);
  return out + static_cast<char>(track.size()) + track;
}

TEST(MidiFiles, AreReadByteByByte) {
  const auto file = parseMidi(handMade(), "hand.mid");
  ASSERT_TRUE(file) << file.error().sentence();
  ASSERT_EQ(file->tracks.size(), 1u);
  const MidiTrack& t = file->tracks[0];
  EXPECT_EQ(t.name, "Bass");
  ASSERT_EQ(t.notes.size(), 2u);
  EXPECT_EQ(t.notes[0], (MidiNote{0.0, 1.0, 3, 33, 100})) << "96 ticks are a quarter";
  EXPECT_EQ(t.notes[1], (MidiNote{3.0, 0.5, 3, 36, 127})) << "0x81 0x40 are 192 ticks; running status";
  ASSERT_EQ(t.bends.size(), 1u);
  EXPECT_EQ(t.bends[0], (MidiBend{1.0, -1.0}));
  EXPECT_EQ(t.bendRange, 12.0);
  EXPECT_TRUE(file->warnings.empty());
}

TEST(MidiFiles, BrokenOnesAreUsedAsFarAsTheyGoOrRefused) {
  const std::string good = handMade();
  for (size_t cut = 0; cut < good.size(); ++cut) {
    const auto file = parseMidi(good.substr(0, cut), "cut.mid");
    if (cut < 14) {
      EXPECT_FALSE(file) << cut;
    } else if (file && cut > 24) {
      EXPECT_FALSE(file->warnings.empty()) << cut;
    }
  }
  std::string film = good;
  film[12] = '\xe7';
  EXPECT_NE(parseMidi(film, "film.mid").error().sentence().find("film.mid"), std::string::npos);
}

TEST(MidiFiles, OneTrackOfSeveralChannelsIsParted) {
  MidiFile song;
  song.tracks = {{"Drums", {{0, 0.25, 0, 36, 100}, {1, 0.25, 0, 38, 90}}, {}, {}},
                 {"Line", {{0.5, 1, 1, 40, 80}}, {{0.5, 0.5}}, 2.0}};
  auto read = parseMidi(midiBytes(song), "x");
  ASSERT_TRUE(read);
  ASSERT_EQ(read->tracks.size(), 2u);
  EXPECT_EQ(read->tracks[1].name, "Line");
  EXPECT_EQ(read->tracks[1].notes[0].channel, 1);
  EXPECT_NEAR(read->tracks[1].bends[0].value, 0.5, 1e-3);
  EXPECT_EQ(read->tracks[1].bendRange, 2.0);
  EXPECT_EQ(lineFrom(read->tracks[1], 8.0).wheelRange, 2.0);
  // Format 0: one track, a kick on channel 10 and a bass on channel 1.
  std::string body("\x00\x99\x24\x64\x00\x90\x21\x50\x60\x89\x24\x00\x00\x80\x21\x00\x00\xff\x2f\x00", 20);
  std::string file("MThd\0\0\0\6\0\0\0\1\0\x60MTrk\0\0\0", 21);
  read = parseMidi(file + static_cast<char>(body.size()) + body, "x");
  ASSERT_TRUE(read);
  ASSERT_EQ(read->tracks.size(), 2u);
  EXPECT_EQ(read->tracks[0].name, "channel 1");
  EXPECT_EQ(read->tracks[1].name, "channel 10");
  EXPECT_EQ(hitsFrom(read->tracks[1], 8.0), (std::vector<Hit>{{0.0, 100 / 127.0}}));
  // A note without a release ends with its track; what starts after the loop is dropped.
  body = std::string("\x00\x90\x21\x50\x60\x90\x24\x50\x00\xff\x2f\x00", 12);
  read = parseMidi(file + static_cast<char>(body.size()) + body, "x");
  ASSERT_TRUE(read);
  EXPECT_EQ(read->tracks[0].notes[0].lengthQuarters, 1.0);
  EXPECT_EQ(lineFrom(read->tracks[0], 0.5).notes.size(), 1u);
}

// What another reader (libsmf) finds in the bytes, as "seconds status data1 data2", tempo changes apart.
std::vector<std::string> asLibsmfReads(std::string bytes) {
  smf_t* smf = smf_load_from_memory(bytes.data(), static_cast<int>(bytes.size()));
  std::vector<std::string> out;
  if (!smf) return out;
  while (smf_event_t* e = smf_get_next_event(smf)) {
    if (smf_event_is_metadata(e) || e->midi_buffer_length < 3) continue;
    char line[64];
    std::snprintf(line, sizeof line, "%d: %.3f %02x %d %d", e->track_number, e->time_seconds, e->midi_buffer[0],
                  e->midi_buffer[1], e->midi_buffer[2]);
    out.push_back(line);
  }
  smf_delete(smf);
  return out;
}

TEST(MidiFiles, AnotherReaderFindsTheSame) {
  Session s;
  s.track.tempoBpm = 60;  // a quarter is a second
  s.kick().hits = {{0, 1.0}, {1.5, 64 / 127.0}};
  s.bass().notes = {{0.25, 0.5, 33, 100 / 127.0, {}, false, {}}, {2, 1, 28, 1.0}};
  s.bass().wheel = {{2.0, 0.0}, {2.5, 0.0}, {2.5, -1.0}};
  const auto read = asLibsmfReads(midiBytes(midiOf(s)));
  using ::testing::IsSupersetOf;
  EXPECT_THAT(
      read, IsSupersetOf({"2: 0.000 90 36 127", "2: 1.500 90 36 64", "3: 0.250 91 33 100", "3: 0.750 81 33 64",
                          "3: 2.000 91 28 127", "3: 3.000 81 28 64", "3: 0.000 b1 6 12"}));
  EXPECT_TRUE(std::any_of(read.begin(), read.end(), [](const std::string& line) {
    return line.starts_with("3: 2.5") && line.ends_with(" e1 0 0");
  })) << "the wheel at its lower end";
  // And its own writing is read here.
  smf_t* smf = smf_new();
  smf_track_t* track = smf_track_new();
  smf_add_track(smf, track);
  smf_track_add_event_pulses(track, smf_event_new_from_bytes(0x92, 40, 99), 60);
  smf_track_add_event_pulses(track, smf_event_new_from_bytes(0x82, 40, 0), 180);
  TemporaryFolder folder;
  ASSERT_EQ(smf_save(smf, (folder / "theirs.mid").c_str()), 0);
  const double ppqn = smf->ppqn;
  smf_delete(smf);
  const auto theirs = readMidi(folder / "theirs.mid");
  ASSERT_TRUE(theirs) << theirs.error().sentence();
  ASSERT_EQ(theirs->tracks.size(), 1u);
  EXPECT_EQ(theirs->tracks[0].notes, (std::vector<MidiNote>{{60 / ppqn, 120 / ppqn, 2, 40, 99}}));
}

TEST(MidiFiles, ASessionsPatternsComeBack) {
  Session s;
  s.track.tempoBpm = 122;
  s.kick().hits = {{0, 1.0}, {1.5, 64 / 127.0}};
  s.bass().notes = {{0, 1, 33, 100 / 127.0, {}, true, {}},
                    {1, 0.5, 36, 1.0},
                    {2, 1, 33, 1.0, {}, false, Dive{12, 0.5, 0.5, 0}}};
  s.bass().wheelRange = 12;
  const std::string bytes = midiBytes(midiOf(s));
  EXPECT_EQ(bytes.substr(0, 14), std::string("MThd\0\0\0\6\0\1\0\3\3\xc0", 14))
      << "format 1, three tracks, 960 ticks";
  const auto file = parseMidi(bytes, "x");
  ASSERT_TRUE(file);
  EXPECT_NEAR(*file->tempoBpm, 122, 0.001);
  ASSERT_EQ(file->tracks.size(), 2u);
  EXPECT_EQ(hitsFrom(file->tracks[0], 8.0), s.kick().hits);
  const BassLine line = lineFrom(file->tracks[1], 8.0);
  ASSERT_EQ(line.notes.size(), 3u);
  // A start of its own moves along, the end stays; for tied notes the first one's.
  Session moved = s;
  moved.bass().notes[0].move.offsetMs = 20.0, moved.bass().notes[2].move.offsetMs = -20.0;
  moved.bass().notes[1].move.offsetMs = 30.0;
  const auto there = parseMidi(midiBytes(midiOf(moved)), "x");
  ASSERT_TRUE(there);
  const auto& notes = there->tracks[1].notes;
  const double by = 0.020 * 122 / 60;
  EXPECT_NEAR(notes[0].startQuarters, by, 0.002);
  EXPECT_NEAR(notes[0].startQuarters + notes[0].lengthQuarters, 1.0 + 1.0 / 16, 0.002);
  EXPECT_NEAR(notes[1].startQuarters, 1.0, 1e-9);
  EXPECT_NEAR(notes[2].startQuarters, 2.0 - by, 0.002);
  EXPECT_NEAR(notes[2].startQuarters + notes[2].lengthQuarters, 3.0, 0.002);
  EXPECT_TRUE(line.notes[0].tie) << "an overlap is a tie";
  EXPECT_EQ(line.notes[1].midi, 36);
  EXPECT_EQ(line.wheelRange, 12.0);
  Part played;
  played.wheel = line.wheel;
  EXPECT_NEAR(wheelValue(played, 2.75), -0.5, 0.02) << "half of the dive";
  EXPECT_NEAR(wheelValue(played, 2.98), -0.96, 0.02);
  EXPECT_NEAR(wheelValue(played, 1.9), 0.0, 1e-9);
}

// Where a drum is usually heard first: common practice.
TEST(KitParts, AKitGoesIntoTheLoopAsParts) {
  Track track;
  track.loopBeats = 8;
  auto starts = [&](const std::string& name) {
    std::vector<double> out;
    for (const Hit& h : usualHits(name, track)) out.push_back(h.startQuarters);
    return out;
  };
  EXPECT_EQ(starts("Salt Snare 3"), (std::vector<double>{1, 3, 5, 7}));
  EXPECT_EQ(starts("hat"), (std::vector<double>{0.5, 1.5, 2.5, 3.5, 4.5, 5.5, 6.5, 7.5}));
  EXPECT_EQ(starts("floor tom"), (std::vector<double>{7}));
  EXPECT_EQ(starts("thing"), (std::vector<double>{0, 4}));
  std::vector<KitPart> many(kMostParts, KitPart{"tom", {}, 40.0, TuneMethod::Bend, {}, TimeValue::note(1, 16)});
  const Session s = placeKit(many).applied({});
  ASSERT_EQ(s.parts.size(), kMostParts) << "as many as there is room for";
  EXPECT_EQ(s.parts.back().layers[0].recorded()->targetMidi, 40.0);
  EXPECT_EQ(s.parts.back().layers[0].recorded()->length, TimeValue::note(1, 16));
}

}  // namespace
}  // namespace heft

// Every value of the document by its name: into the file and back, refused out of its range, and noticed by
// the render when it changes, so that nothing stale plays.

#include "core/session/fields.h"

#include <regex>

#include "core/render/field_keys.h"
#include "core/session/folder.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"
#include "tests/this_build.h"

namespace heft {
namespace {

// Visits every value with its path; those are changed whose numbers are wanted.
struct Changer {
  std::set<int> wanted;
  int values = 0;
  std::string prefix, changed;
  bool isMine(const char* name) {
    if (!wanted.contains(values++)) return false;
    changed += (changed.empty() ? "" : ", ") + prefix + name;
    return true;
  }
  void flag(const char* name, bool& v, Saved = {}) {
    if (isMine(name)) v = !v;
  }
  void number(const char* name, double& v, const Range& r) {
    if (!isMine(name)) return;
    const double to = r.low + 0.37 * (r.high - r.low);
    v = v == to ? r.low + 0.61 * (r.high - r.low) : to;
  }
  void number(const char* name, std::optional<double>& v, const Range& r) {
    double value = v.value_or(r.low);
    const int before = values;
    number(name, value, r);
    if (wanted.contains(before)) v = value;
  }
  void level(const char* name, std::optional<double>& v, const Range& r) { number(name, v, r); }
  void whole(const char* name, int& v, const Range& r) {
    if (isMine(name)) v = static_cast<int>(v == r.high ? r.low : r.high);
  }
  void count(const char* name, auto& v, Saved) {
    if (isMine(name)) v += 7;
  }
  void text(const char* name, std::string& v, size_t, Saved = {}) {
    if (isMine(name)) v = v == "other" ? "another" : "other";
  }
  void time(const char* name, TimeValue& v, const Range&) {
    if (isMine(name)) v = v == TimeValue::note(1, 8) ? TimeValue::note(1, 4) : TimeValue::note(1, 8);
  }
  void time(const char* name, std::optional<TimeValue>& v, const Range&) {
    if (isMine(name)) v = v == TimeValue::note(1, 32) ? TimeValue::note(1, 64) : TimeValue::note(1, 32);
  }
  template <class E, class NameOf, class Parse>
  void choice(const char* name, E& v, NameOf nameOf, Parse parse) {
    if (!isMine(name)) return;
    for (int other = 0; other < 8; ++other)
      if (static_cast<E>(other) != v && parse(nameOf(v)) && (other == 3 || !std::is_same_v<E, OctaveNaming>)) {
        v = static_cast<E>(other);
        return;
      }
  }
  template <class T, class NameOf, class Parse>
  void parsed(const char* name, T& v, NameOf, Parse parse) {
    if (isMine(name)) v = *parse("F# minor");
  }
  void wholes(const char* name, std::vector<int>& v, size_t, const Range&) {
    if (isMine(name)) v.push_back(1);
  }
  void texts(const char* name, std::set<std::string>& v, size_t) {
    if (isMine(name)) v.insert("other");
  }
  void kept(Unknown&) {}
  template <class T>
  void object(const char* name, T& v, Saved = {}) {
    const std::string before = prefix;
    prefix += std::string(name) + ".";
    eachOf(v, *this);
    prefix = before;
  }
  template <class T>
  void list(const char* name, std::vector<T>& v, size_t, Saved = {}) {
    const std::string before = prefix;
    for (size_t i = 0; i < v.size(); ++i) {
      prefix = before + name + "[" + std::to_string(i) + "].";
      eachOf(v[i], *this);
    }
    prefix = before;
  }
  template <class... All>
  void which(const std::array<const char*, sizeof...(All)>& names, std::variant<All...>& v) {
    std::visit([&](auto& one) { object(names[v.index()], one); }, v);
  }
};

template <class T>
StepKey keyOf(const T& v, double tempo = 97) {
  KeyMaker maker("test");
  addFields(maker, v, tempo);
  return maker.key();
}

// Duckings of every movement, band and target but those whose values nothing else would sound by.
void addDucks(Session& s) {
  auto add = [&](Movement movement, DuckBandKind band, const DuckTarget& target) -> Duck& {
    Duck d;
    d.id = static_cast<int>(s.ducks.size()) + 1, d.on = true, d.movement = movement;
    d.source.part = 1, d.target = target, d.band.kind = band, d.amount = 0.9;
    s.ducks.push_back(d);
    return s.ducks.back();
  };
  Duck& points = add(Movement::Curve, DuckBandKind::Several, {DuckTargetKind::Part, 2});
  points.curve.points = {{0, 0.1, 0.3}, {0.4, 0.9, 0.1}, {1, 0.2, 0}}, points.curve.velocityToDepth = 0.3;
  points.source.kind = TriggerKind::Audio, points.source.asset = s.kick().layers[1].recorded()->asset;
  points.source.lowCutHz = 25, points.source.highCutHz = 400, points.source.marks = {{0.3, true}};
  Duck& follower = add(Movement::Follower, DuckBandKind::Bell, {DuckTargetKind::Backing});
  follower.source.lowCutHz = 30, follower.source.highCutHz = 900, follower.band.at = BellAt::Key;
  follower.follower = {-40, 3, 6, 5, 10, 60, 3, LevelBy::Rms, 20};
  add(Movement::Mirror, DuckBandKind::Below, {DuckTargetKind::Layer, 2, 2}).mirror.deepestDb = 15;
  Duck& midi = add(Movement::Curve, DuckBandKind::All, {DuckTargetKind::Part, 3});
  midi.source.kind = TriggerKind::Midi, midi.source.notes = {{0.2, 0.2, 0.8, 36}, {0.7, 0.2, 0.6, 38}};
  midi.source.midiQuarters = 1, midi.curve.velocityToDepth = 0.5;
  Duck& drawn = add(Movement::Follower, DuckBandKind::All, {DuckTargetKind::Part, 2});
  drawn.source.kind = TriggerKind::Drawn, drawn.source.hits = {{0.1, 0.2, 0.9, 36}};
  drawn.follower.lookaheadMs = 2;
  s.ducking = {0.95, GainsMeet::Multiply};
}

// One of everything, short and at a low rate: recordings with a body, both voices, a third part, a finish over
// a lane and over the sum, duckings of every kind, a backing.
OpenedSession oneOfEverything() {
  const std::string kept = std::string(HEFT_TEST_DATA) + "/../kept/09.heft";
  OpenedSession out = *openSession(kept);
  Session& s = out.session;
  s.kick().layers[0].kickVoice()->fall = {{0, 31, 0.5}, {0.2, 12, 0.1}};
  s.kick().layers[0].kickVoice()->landingAt = 0.5;
  s.kick().layers[1].recorded()->targetMidi = 33;
  Layer voice;
  voice.id = 2, voice.what.emplace<BassVoice>().mid.levelDb = -12;
  s.bass().layers[0].solo = false;
  s.bass().layers.push_back(voice);
  s.bass().notes[1].tie = false, s.bass().notes[0].dive = {3, 0.1, 0.2, 0.1};
  s.bass().wheel = {{0.1, 0.2}, {0.8, -0.3}};
  Part clap;
  clap.id = 3, clap.role = "other", clap.name = "Clap", clap.hits = {{0.5, 0.9}, {1.5, 0.7}}, clap.levelDb = -4;
  clap.layers = {s.kick().layers[1]}, clap.finishOver = FinishOver::Lane;
  clap.finish.put({0, Compressor{true, -20, 4, 6, 5, 60, 3}});
  clap.versions = {{{"First", {}, {}}, {"Long", {voice}, {}}}, 0};
  s.parts.push_back(clap);
  addDucks(s);
  s.backing.mute = false;
  s.sum.finish.need<Drive>()->on = s.sum.finish.need<SoftClip>()->on = s.sum.finish.need<Limiter>()->on = true;
  s.sum.finish.put({0, Compressor{true, -40, 4, 6, 5, 60, 3}});
  s.sum.finish.need<Eq>()->bands[0] = {true, EqBand::Kind::Bell, 90, 6, 2};
  for (Part& part : s.parts)
    for (size_t i = 0; i < part.align.rotation.stages.size(); ++i)
      part.align.rotation.stages[i] = {true, 50.0 + 30.0 * static_cast<double>(i), 1.0};
  s.meantSo = {"kick-key"};
  return out;
}

// Paths of values that change no sound.
bool isSilent(const std::string& path) {
  static const char* const kSilent[] = {"name",          "from",         "from_bytes", "from_changed_ns",
                                        "saved_on",      "meant_so",     "export.",    "references",
                                        "versions.",     "role",         "grid.",      "align.low_hz",
                                        "align.high_hz", "max_delay_ms", "middle_c",   "track.key",
                                        "tail_target",   "beats_per_bar"};
  return std::any_of(std::begin(kSilent), std::end(kSilent), [&](const char* part) {
    return path.find(part) != std::string::npos && path.find("band_") == std::string::npos;
  });
}

// Of a third part, of further bands, hits and finishes of parts one is looked at: they go the same way. What
// runs over the sum goes another.
std::string kindOf(const std::string& path) {
  std::string out = std::regex_replace(path, std::regex("parts\\[2\\]\\.layers"), "parts[0].layers");
  if (std::regex_search(out, std::regex("shape\\.|finish\\.")))
    out = std::regex_replace(out, std::regex("parts\\[\\d\\]"), "p");
  return std::regex_replace(
      out, std::regex("layers\\[\\d\\]|band_\\d|hits\\[\\d\\]|notes\\[\\d\\]|partial_\\d"), "x");
}

bool soundsAlike(const Stems& a, const Stems& b) {
  if (a.frames != b.frames || a.lanes.size() != b.lanes.size() || a.sum.channels() != b.sum.channels())
    return false;
  auto same = [](const Stem& x, const Stem& y) {
    for (size_t c = 0; c < x.blockCount(); ++c)
      if (x.block(c).channels != y.block(c).channels) return false;
    return true;
  };
  for (size_t i = 0; i < a.lanes.size(); ++i)
    if (!same(a.lanes[i].heard, b.lanes[i].heard) || !same(a.lanes[i].gain, b.lanes[i].gain)) return false;
  for (size_t i = 0; i < a.ducks.size(); ++i)
    if (!same(a.ducks[i].gain, b.ducks[i].gain)) return false;
  return same(a.backing, b.backing) && same(a.sum, b.sum);
}

// Sanitizers look at a few of the values: they are slow.
int every() {
  return isWatched() ? 24 : 1;
}

TEST(Fields, EveryValueComesBackFromTheFile) {
  const OpenedSession plain = oneOfEverything();
  Session counted = plain.session;
  Changer all;
  eachOf(counted, all);
  EXPECT_GE(all.values, 700);
  std::set<std::string> seen;
  for (int i = 0; i < all.values; i += every()) {
    Session changed = plain.session;
    Changer one{{i}, 0, {}, {}};
    eachOf(changed, one);
    EXPECT_TRUE(seen.insert(one.changed).second) << one.changed << " stands twice";
    ASSERT_FALSE(changed == plain.session) << one.changed << " is not compared";
    const auto back = sessionFromJson(sessionToJson(changed), "x");
    if (!back) {
      // Rules across values are refused by name.
      const std::string last = one.changed.substr(one.changed.rfind('.') + 1);
      EXPECT_NE(back.error().sentence().find("session.json"), std::string::npos) << one.changed;
      EXPECT_TRUE(last == "at" || last == "hash" || last == "loop_beats" || last == "role" || last == "plays" ||
                  last == "band_low_hz" || last == "band_high_hz" || last == "low_hz" || last == "low_cut_hz" ||
                  last == "high_cut_hz" || last == "below_hz" || last == "now" || last == "beat_unit")
          << back.error().sentence();
      continue;
    }
    if (one.changed.ends_with(".id") || one.changed.ends_with("role") || one.changed.find("track.") == 0)
      continue;
    EXPECT_TRUE(*back == changed || one.changed.find("start") != std::string::npos ||
                one.changed.ends_with(".at"))
        << one.changed << " does not come back";
  }
}

// Values to change at once, by their numbers: of each ducking one, of each part one, of the rest one. None of a
// batch stands behind another, so that nothing stale hides behind what is made anew.
std::vector<std::set<int>> batchesOf(const OpenedSession& plain) {
  Session counted = plain.session;
  Changer all;
  eachOf(counted, all);
  std::set<std::string> looked;
  std::map<std::string, std::vector<int>> owners;
  for (int i = 0; i < all.values; i += every()) {
    Session changed = plain.session;
    Changer one{{i}, 0, {}, {}};
    eachOf(changed, one);
    if (isSilent(one.changed) || !looked.insert(kindOf(one.changed)).second ||
        !sessionFromJson(sessionToJson(changed), "x"))
      continue;
    if (one.changed == "track.sample_rate" || one.changed == "track.loop_beats") continue;
    owners[one.changed.substr(0, one.changed.find('.'))].push_back(i);
  }
  std::vector<std::set<int>> out;
  for (const std::string kind : {"ducks[", "parts["})
    for (size_t k = 0;; ++k) {
      std::set<int> batch;
      for (const auto& [owner, values] : owners)
        if (owner.starts_with(kind) && k < values.size()) batch.insert(values[k]);
      if (batch.empty()) break;
      out.push_back(batch);
    }
  for (const auto& [owner, values] : owners)
    if (owner.find('[') == std::string::npos)
      for (const int i : values) out.push_back({i});
  return out;
}

// A cache that has seen the session before the change gives the same as an empty one.
TEST(Fields, NothingStaleIsHeardAfterAnyChange) {
  OpenedSession plain = oneOfEverything();
  plain.session.track.sampleRate = 8000;  // what is stale is so at any rate
  StepCache warm;
  const auto before = render(plain.session, plain.assets, warm);
  ASSERT_TRUE(before);
  size_t alike = 0;
  const auto batches = batchesOf(plain);
  if (!isWatched()) EXPECT_GT(batches.size(), 150u);
  for (const std::set<int>& batch : batches) {
    Session changed = plain.session;
    Changer these{batch, 0, {}, {}};
    eachOf(changed, these);
    const auto again = render(changed, plain.assets, warm);
    StepCache none;
    const auto cold = render(changed, plain.assets, none);
    ASSERT_TRUE(again && cold) << these.changed;
    EXPECT_TRUE(soundsAlike(*again, *cold)) << "heard from a stale step: one of " << these.changed;
    alike += soundsAlike(*again, *before);
  }
  // Many values belong to what is off; those that are on are heard. Under sanitizers one of each kind is looked
  // at.
  EXPECT_LT(alike, isWatched() ? batches.size() : batches.size() / 2);
}

TEST(Fields, LengthsThatFollowTheTempoCountByIt) {
  KickVoice v;
  v.length = TimeValue::note(1, 16);
  EXPECT_NE(keyOf(v, 120), keyOf(v, 121));
  v.length = TimeValue::milliseconds(125);
  EXPECT_EQ(keyOf(v, 120), keyOf(v, 121));
}

TEST(Fields, OutOfRangeIsRefusedByName) {
  struct Row {
    const char *part, *json, *named;
  };
  const Row rows[] = {
      {"kick", R"({"built_kick": {"landing_midi": 5}})", "landing_midi"},
      {"kick", R"({"built_kick": {"fall": [{"at": 0.1}]}})", "fall"},
      {"kick", R"({"built_kick": {"fall": [{"at": 0}, {"at": 0.5}, {"at": 0.2}]}})", "fall"},
      {"kick", R"({"built_kick": {"strike": {"kind": "thunder"}}})", "strike.kind"},
      {"kick", R"({"built_kick": {"drive": {"drive_db": 300}}})", "drive.drive_db"},
      {"kick", R"({"built_kick": 7})", "built_kick"},
      {"kick", R"({"shape": {"eq": {"band_2": {"q": 0}}}})", "eq.band_2.q"},
      {"kick", R"({"shape": {"width": 1e300}})", "width.width"},
      {"kick", R"({"offset_ms": "late"})", "offset_ms"},
      {"kick", R"({"id": 0})", "id"},
      {"bass", R"({"built_bass": {"partial_3_db": 99}})", "partial_3_db"},
      {"bass", R"({"built_bass": {"high": {"ratio": -1}}})", "high.ratio"},
      {"bass", R"({"shape": {"body_on": true}, "body_asset": {"hash": "no"}})", "body.asset.hash"}};
  for (const Row& row : rows) {
    const std::string text =
        std::string(R"({"heft_session": 2, ")") + row.part + R"(": {"layers": [)" + row.json + "]}}";
    const auto s = sessionFromJson(text, "my.json");
    ASSERT_FALSE(s) << row.json;
    EXPECT_NE(s.error().sentence().find(row.named), std::string::npos) << s.error().sentence();
    EXPECT_NE(s.error().sentence().find("my.json"), std::string::npos);
  }
  for (const char* part :
       {R"("bass": {"notes": [{"start": 0, "dive": {"semitones": 25}}]})",
        R"("bass": {"wheel": [{"at": 0, "value": 2}]})", R"("bass": {"wheel_range": 0})",
        R"("kick": {"hits": [{"start": 0, "without": ["x"]}]})",
        R"("kick": {"versions": {"now": 3, "all": [{"name": "a"}]}})", R"("grid": {"division": "125 ms"})",
        R"("kick": {"finish": {"limiter": {"ceiling_db": 6}}})"})
    EXPECT_FALSE(sessionFromJson(std::string("{\"heft_session\": 2, ") + part + "}", "x")) << part;
}

TEST(Fields, TheFirstFormatIsStillRead) {
  // As the first version wrote it.
  const auto s =
      sessionFromJson(R"({"heft_session": 1, "track": {"name": "Old", "key": "A minor", "tempo_bpm": 122},
    "kick": {"layers": [{"asset": {"hash": "00000000000000000000000000000001", "name": "k.wav"}, "level_db": -6,
      "method": "split", "target_midi": 33, "length": "1/16"}], "hits": [{"start": 0, "velocity": 1}], "tail_target": "1/16"},
    "bass": {"layers": [{"asset": {"hash": "00000000000000000000000000000002", "name": "b.wav"}}],
      "notes": [{"start": 0, "length": 1, "midi": 33, "velocity": 0.8}], "mono": true},
    "export": {"kick": true, "format": "wav24"}})",
                      "old.json");
  ASSERT_TRUE(s) << s.error().sentence();
  EXPECT_EQ(s->kick().layers[0].levelDb, -6);
  EXPECT_EQ(s->kick().layers[0].shape, LayerShape());
  EXPECT_EQ(s->bass().finish.first<Width>()->width, 0.0) << "what was folded then is folded by the finish";
  EXPECT_EQ(s->grid, Grid());
  EXPECT_TRUE(s->kick().versions.all.empty());
  EXPECT_FALSE(s->bass().notes[0].tie);
}

}  // namespace
}  // namespace heft

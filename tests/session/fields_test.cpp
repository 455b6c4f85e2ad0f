// Every value of the document by its name: into the file and back, refused out of its range, and noticed by
// the render when it changes, so that nothing stale plays.

#include "core/session/fields.h"

#include <regex>

#include "core/render/sounds/field_keys.h"
#include "core/session/folder.h"
#include "tests/reference/rendered.h"
#include "tests/reference/signals.h"
#include "tests/this_build.h"

namespace heft {
namespace {

using Kind = Row::Kind;

// Visits every value with its path; those are changed whose numbers are wanted.
struct Changer {
  std::set<int> wanted;
  int values = 0;
  std::string prefix, changed;

  void change(const Table& table, void* object) {
    for (const Row& row : table.rows) {
      void* const at = row.at(object);
      if (row.kind == Kind::Object) {
        below(std::string(row.key) + ".", row.inner(), at);
      } else if (row.kind == Kind::List) {
        for (size_t i = 0; i < row.list->size(at); ++i)
          below(row.key + ("[" + std::to_string(i) + "]."), row.list->inner(), row.list->own(at, i));
      } else if (row.kind == Kind::Which) {
        const size_t now = row.which->index(at);
        below(std::string(row.keys[now]) + ".", row.which->inner[now](), row.which->get(at));
      } else if (row.kind != Kind::Kept && wanted.contains(values++)) {
        changed += (changed.empty() ? "" : ", ") + prefix + row.key;
        changePlain(row, object);
      }
    }
  }

 private:
  void below(const std::string& name, const Table& table, void* object) {
    const std::string before = std::exchange(prefix, prefix + name);
    change(table, object);
    prefix = before;
  }
  static double otherNumber(const Range& r, double now) {
    const double to = r.low + 0.37 * (r.high - r.low);
    return now == to ? r.low + 0.61 * (r.high - r.low) : to;
  }
  static TimeValue otherTime(const TimeValue& now, int of) {
    return now == TimeValue::note(1, of) ? TimeValue::note(1, of / 2) : TimeValue::note(1, of);
  }
  static void changePlain(const Row& row, void* o) {
    switch (row.kind) {
      case Kind::Flag:
        row.in<bool>(o) = !row.in<bool>(o);
        break;
      case Kind::Number:
        row.in<double>(o) = otherNumber(row.range, row.in<double>(o));
        break;
      case Kind::MaybeNumber:
      case Kind::Level: {
        auto& v = row.in<std::optional<double>>(o);
        v = otherNumber(row.range, v.value_or(row.range.low));
        break;
      }
      case Kind::Whole: {
        int& v = row.in<int>(o);
        v = static_cast<int>(v == row.range.high ? row.range.low : row.range.high);
        break;
      }
      case Kind::Count:
        row.count->set(row.at(o), row.count->get(row.of(o)) + 7);
        break;
      case Kind::Text:
        row.in<std::string>(o) = row.in<std::string>(o) == "other" ? "another" : "other";
        break;
      case Kind::Time:
        row.in<TimeValue>(o) = otherTime(row.in<TimeValue>(o), 8);
        break;
      case Kind::MaybeTime: {
        auto& v = row.in<std::optional<TimeValue>>(o);
        v = otherTime(v.value_or(TimeValue()), 32);
        break;
      }
      case Kind::Choice: {
        int& v = row.in<int>(o);
        v = v > row.words.first ? row.words.first : row.words.first + 1;
        break;
      }
      case Kind::Parsed:
        EXPECT_FALSE(row.parsed->read(row.at(o), "F# minor")) << row.key;
        break;
      case Kind::Wholes:
        row.in<std::vector<int>>(o).push_back(1);
        break;
      case Kind::Texts:
        row.in<std::set<std::string>>(o).insert("other");
        break;
      default:
        break;
    }
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
  auto same = [](const Signal& x, const Signal& y) {
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
  all.change(tableOf<Session>(), &counted);
  EXPECT_GE(all.values, 700);
  std::set<std::string> seen;
  for (int i = 0; i < all.values; i += every()) {
    Session changed = plain.session;
    Changer one{{i}};
    one.change(tableOf<Session>(), &changed);
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
  all.change(tableOf<Session>(), &counted);
  std::set<std::string> looked;
  std::map<std::string, std::vector<int>> owners;
  for (int i = 0; i < all.values; i += every()) {
    Session changed = plain.session;
    Changer one{{i}};
    one.change(tableOf<Session>(), &changed);
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
    Changer these{batch};
    these.change(tableOf<Session>(), &changed);
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

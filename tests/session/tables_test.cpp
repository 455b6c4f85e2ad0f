// The tables of the document's values: keys once each, words both ways, and every range that code asks for by a
// key is there.

#include <filesystem>
#include <fstream>
#include <map>
#include <regex>
#include <set>

#include "core/session/fields.h"

namespace heft {
namespace {

// All tables that hang below one, each once.
void gather(const Table& table, std::set<const Table*>& seen) {
  if (!seen.insert(&table).second) return;
  for (const Row& row : table.rows) {
    if (row.inner) gather(row.inner(), seen);
    if (row.list) gather(row.list->inner(), seen);
    if (row.which)
      for (const TableFn inner : row.which->inner) gather(inner(), seen);
  }
}

TEST(Tables, HaveEachKeyOnceAndWordsBothWays) {
  std::set<const Table*> all;
  gather(tableOf<Session>(), all);
  EXPECT_GT(all.size(), 50u);
  for (const Table* table : all) {
    std::set<std::string> keys;
    for (const Row& row : table->rows) {
      if (row.kind == Row::Kind::Kept) continue;
      if (row.keys.empty()) EXPECT_TRUE(keys.insert(row.key).second) << row.key;
      for (const char* key : row.keys) EXPECT_TRUE(keys.insert(key).second) << key;
      EXPECT_LE(row.range.low, row.range.high) << row.key;
      for (size_t i = 0; i < row.words.words.size(); ++i) {
        const int value = row.words.first + static_cast<int>(i);
        EXPECT_EQ(row.words.find(row.words.at(value)), value) << row.key;
      }
      if (!row.words.words.empty()) EXPECT_FALSE(row.words.find("no such word")) << row.key;
    }
  }
}

TEST(Tables, ARangeHoldsWhatItSays) {
  const Range r{-3.0, 5.0};
  EXPECT_EQ(r.held(9.0), 5.0);
  EXPECT_EQ(r.held(-9.0), -3.0);
  EXPECT_EQ(r.held(std::nan("")), -3.0);
  EXPECT_TRUE(r.holds(5.0));
  EXPECT_FALSE(r.holds(5.1));
  EXPECT_FALSE(r.holds(std::nan("")));
}

// Every rangeOf<T>("key") in the product, by the text of its sources.
TEST(Tables, EveryRangeThatIsAskedForIsThere) {
  const std::map<std::string, const Table*> tables = {{"AlignMove", &tableOf<AlignMove>()},
                                                      {"BandAim", &tableOf<BandAim>()},
                                                      {"ContourPoint", &tableOf<ContourPoint>()},
                                                      {"Cut", &tableOf<Cut>()},
                                                      {"DipPoint", &tableOf<DipPoint>()},
                                                      {"DuckBand", &tableOf<DuckBand>()},
                                                      {"DuckCurve", &tableOf<DuckCurve>()},
                                                      {"DuckSource", &tableOf<DuckSource>()},
                                                      {"EqBand", &tableOf<EqBand>()},
                                                      {"ExportList", &tableOf<ExportList>()},
                                                      {"FadePoint", &tableOf<FadePoint>()},
                                                      {"Follower", &tableOf<Follower>()},
                                                      {"HandOver", &tableOf<HandOver>()},
                                                      {"Mirror", &tableOf<Mirror>()},
                                                      {"Note", &tableOf<Note>()},
                                                      {"NoteTrim", &tableOf<NoteTrim>()},
                                                      {"Part", &tableOf<Part>()},
                                                      {"Recorded", &tableOf<Recorded>()},
                                                      {"SoundSide", &tableOf<SoundSide>()},
                                                      {"StrikeSustain", &tableOf<StrikeSustain>()},
                                                      {"WheelPoint", &tableOf<WheelPoint>()}};
  const std::regex asked(R"rx(rangeOf<(\w+)>\(\s*"([a-z0-9_.]+)"\))rx");
  const std::filesystem::path root = std::filesystem::path(HEFT_TEST_DATA) / "../..";
  size_t found = 0;
  for (const char* room : {"core", "app", "cli", "engine"})
    for (const auto& entry : std::filesystem::recursive_directory_iterator(root / room)) {
      if (entry.path().extension() != ".cpp") continue;
      std::ifstream in(entry.path());
      const std::string text((std::istreambuf_iterator<char>(in)), {});
      for (std::sregex_iterator m(text.begin(), text.end(), asked), end; m != end; ++m) {
        const auto table = tables.find((*m)[1]);
        ASSERT_NE(table, tables.end()) << (*m)[1] << " in " << entry.path() << ": add it to this test's list";
        EXPECT_TRUE(rowAt(*table->second, (*m)[2])) << (*m)[0] << " in " << entry.path();
        ++found;
      }
    }
  EXPECT_GT(found, 40u);
}

}  // namespace
}  // namespace heft

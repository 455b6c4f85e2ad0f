// Stands in for libFuzzer where the compiler has none: `TARGET [-runs=N] SEEDS...` runs every seed, then N
// reproducible mutations of them.

#include <algorithm>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <random>
#include <string>
#include <vector>

extern "C" int LLVMFuzzerTestOneInput(const unsigned char* data, size_t size);

namespace {

using Random = std::mt19937;

std::string readFile(const std::filesystem::path& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

void run(const std::string& bytes) {
  LLVMFuzzerTestOneInput(reinterpret_cast<const unsigned char*>(bytes.data()), bytes.size());
}

size_t within(Random& random, size_t size) {
  return size == 0 ? 0 : random() % size;
}

// Bytes set, flipped, taken out, doubled, or another seed's end put on.
void mutate(std::string& bytes, const std::vector<std::string>& seeds, Random& random) {
  const size_t at = within(random, bytes.size());
  const size_t count = std::min(bytes.size() - at, size_t{1} + random() % 16);
  switch (random() % 6) {
    case 0:
      if (!bytes.empty()) bytes[at] = static_cast<char>(random());
      break;
    case 1:
      if (!bytes.empty()) bytes[at] = static_cast<char>(bytes[at] ^ (1 << random() % 8));
      break;
    case 2:
      bytes.erase(at, count);
      break;
    case 3:
      bytes.insert(at, bytes.substr(at, count));
      break;
    case 4:
      bytes.insert(at, 1 + random() % 4, random() % 2 ? '\xff' : '\x00');
      break;
    default: {
      const std::string& other = seeds[random() % seeds.size()];
      bytes = bytes.substr(0, at) + other.substr(within(random, other.size()));
    }
  }
  if (bytes.size() > 100'000) bytes.resize(100'000);
}

}  // namespace

int main(int count, char** words) {
  namespace fs = std::filesystem;
  size_t runs = 100'000;
  std::vector<std::string> seeds;
  for (int i = 1; i < count; ++i) {
    const std::string word = words[i];
    if (word.rfind("-runs=", 0) == 0)
      runs = std::stoul(word.substr(6));
    else if (fs::is_directory(word))
      for (const auto& entry : fs::directory_iterator(word)) seeds.push_back(readFile(entry.path()));
    else
      seeds.push_back(readFile(word));
  }
  if (seeds.empty()) return std::fprintf(stderr, "%s [-runs=N] SEEDS...\n", words[0]), 2;
  std::sort(seeds.begin(), seeds.end());
  for (const std::string& seed : seeds) run(seed);
  Random random(20260901);
  for (size_t i = 0; i < runs; ++i) {
    std::string bytes = seeds[random() % seeds.size()];
    for (size_t n = 1 + random() % 8; n > 0; --n) mutate(bytes, seeds, random);
    run(bytes);
  }
  std::printf("%zu seeds and %zu mutations\n", seeds.size(), runs);
  return 0;
}

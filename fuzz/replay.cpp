/// A plain main for a fuzz target: the files of a corpus, then mutants of them for some seconds. The mutants are the
/// same in every run.
#include <algorithm>
#include <chrono>
#include <cstdint>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <random>
#include <string>
#include <vector>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size);

namespace {

using Clock = std::chrono::steady_clock;

double run(const std::string& bytes) {
  const auto start = Clock::now();
  LLVMFuzzerTestOneInput(reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size());
  return std::chrono::duration<double>(Clock::now() - start).count();
}

std::string mutated(const std::vector<std::string>& seeds, std::mt19937& random) {
  std::string bytes = seeds[random() % seeds.size()];
  for (unsigned change = 0; change < 1 + random() % 6; ++change) {
    if (bytes.empty()) return bytes;
    const std::size_t at = random() % bytes.size();
    switch (random() % 6) {
      case 0:
        bytes.resize(at);
        break;
      case 1:
        bytes[at] = static_cast<char>(random());
        break;
      case 2:
        bytes[at] = static_cast<char>(bytes[at] ^ (1 << random() % 8));
        break;
      case 3:
        bytes.insert(at, bytes.substr(random() % bytes.size(), random() % 16));
        break;
      case 4:
        bytes.erase(at, 1 + random() % 8);
        break;
      default: {
        const std::string& other = seeds[random() % seeds.size()];
        if (!other.empty()) bytes.replace(at, 8, other.substr(random() % other.size(), random() % 32));
      }
    }
  }
  return bytes;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc < 3) {
    std::fprintf(stderr, "use: %s CORPUS SECONDS\n", argv[0]);
    return 2;
  }
  std::vector<std::filesystem::path> files;
  for (const auto& entry : std::filesystem::directory_iterator(argv[1])) files.push_back(entry.path());
  std::sort(files.begin(), files.end());
  std::vector<std::string> seeds;
  for (const auto& file : files) {
    std::ifstream in(file, std::ios::binary);
    seeds.emplace_back(std::istreambuf_iterator<char>(in), std::istreambuf_iterator<char>());
    run(seeds.back());
  }
  if (seeds.empty()) return 2;
  std::mt19937 random(1);
  const auto end = Clock::now() + std::chrono::duration<double>(std::atof(argv[2]));
  long count = 0;
  double slowest = 0;
  for (; Clock::now() < end; ++count) slowest = std::max(slowest, run(mutated(seeds, random)));
  std::printf("%zu seeds, %ld mutants, the slowest took %.3f s\n", seeds.size(), count, slowest);
  return slowest < 5 ? 0 : 1;
}

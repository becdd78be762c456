/// Turns a TIFF of a gigapixel with the command line's program, and prints the time and the memory that took.
#include <fcntl.h>
#include <fmt/format.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <chrono>
#include <cstdint>
#include <filesystem>
#include <fstream>
#include <vector>

namespace {

namespace fs = std::filesystem;

/// A classic TIFF of side x side 16-bit samples in strips of 64 rows, most of them holes in the file; every eighth
/// strip holds noise.
void make_sparse(const fs::path& path, std::uint32_t side) {
  constexpr std::uint32_t strip_rows = 64, start = 4096;
  const std::uint32_t strips = side / strip_rows, strip_bytes = side * strip_rows * 2;
  std::vector<std::uint16_t> head;
  const auto word = [&](std::uint32_t value) { head.push_back(static_cast<std::uint16_t>(value)); };
  const auto number = [&](std::uint32_t value) {
    word(value & 0xffff);
    word(value >> 16);
  };
  constexpr std::uint32_t tags = 9, arrays = 8 + 2 + 12 * tags + 4;
  const std::uint32_t data = (arrays + 8 * strips + start - 1) / start * start;
  word(0x4949), word(42), number(8), word(tags);
  const auto tag = [&](std::uint32_t id, std::uint32_t kind, std::uint32_t count, std::uint32_t value) {
    word(id), word(kind), number(count), number(value);
  };
  tag(256, 4, 1, side), tag(257, 4, 1, side), tag(258, 3, 1, 16), tag(259, 3, 1, 1), tag(262, 3, 1, 1);
  tag(273, 4, strips, arrays), tag(277, 3, 1, 1), tag(278, 4, 1, strip_rows), tag(279, 4, strips, arrays + 4 * strips);
  number(0);
  for (std::uint32_t i = 0; i < strips; ++i) number(data + i * strip_bytes);
  for (std::uint32_t i = 0; i < strips; ++i) number(strip_bytes);
  std::ofstream out(path, std::ios::binary);
  out.write(reinterpret_cast<const char*>(head.data()), static_cast<std::streamsize>(2 * head.size()));
  std::uint32_t seed = 1;
  std::vector<std::uint16_t> noise(strip_bytes / 2);
  for (std::uint32_t i = 0; i < strips; i += 8) {
    for (auto& sample : noise) {
      seed = seed * 1664525U + 1013904223U;
      sample = static_cast<std::uint16_t>(20000 + (seed >> 20));
    }
    out.seekp(static_cast<std::streamoff>(data) + static_cast<std::streamoff>(i) * strip_bytes);
    out.write(reinterpret_cast<const char*>(noise.data()), strip_bytes);
  }
  out.close();
  fs::resize_file(path, data + static_cast<std::uintmax_t>(strips) * strip_bytes);
}

}  // namespace

int main(int argc, char** argv) {
  const fs::path folder = fs::temp_directory_path() / fmt::format("fexel-stream-{}", ::getpid());
  fs::create_directories(folder);
  constexpr std::uint32_t side = 32768;
  make_sparse(folder / "large.tif", side);
  const std::string kernel = argc > 1 ? argv[1] : "cubic", memory = argc > 2 ? argv[2] : "700";
  std::ofstream(folder / "turn.json") << fmt::format(
      R"({{"fexel":1,"resample":{{"kernel":"{}"}},"steps":[{{"step":"rotate","degrees":1.8}}]}})", kernel);
  const auto begin = std::chrono::steady_clock::now();
  const pid_t child = ::fork();
  if (child == 0) {
    ::execl(FEXEL_CLI, FEXEL_CLI, "apply", (folder / "turn.json").c_str(), (folder / "large.tif").c_str(), "--out",
            (folder / "out").c_str(), "--max-memory", memory.c_str(), nullptr);
    ::_exit(127);
  }
  int status = 0;
  ::waitpid(child, &status, 0);
  const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
  rusage used{};
  ::getrusage(RUSAGE_CHILDREN, &used);
  fmt::print(
      "{} x {} pixels of 16 bits, turned by 1.8 degrees ({}), allowed {} MB: {:.0f} s, at most {:.0f} MB, exit code "
      "{}\n",
      side, side, kernel, memory, seconds, static_cast<double>(used.ru_maxrss) / 1024, WEXITSTATUS(status));
  std::error_code code;
  fs::remove_all(folder, code);
}

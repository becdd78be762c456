/// Whatever bytes a film holds, its frames are read or refused with a sentence.
#include <sys/mman.h>
#include <unistd.h>

#include <cstdlib>
#include <string>

#include "base/error.h"
#include "files/film.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const int file = ::memfd_create("film", 0);
  static const std::string path = "/proc/self/fd/" + std::to_string(file);
  if (::ftruncate(file, 0) != 0 || ::pwrite(file, data, size, 0) != static_cast<ssize_t>(size)) std::abort();
  const fexel::Limits limits{1'000'000, 8'000'000};
  try {
    fexel::Film film(path, limits);
    const fexel::FileInfo& info = film.info();
    for (int i = 0; i < film.count() && i < 3; ++i) {
      try {
        const fexel::Image image = film.read((i * 7) % film.count(), {});
        if (image.width() != info.width || image.height() != info.height || image.bands() != info.bands) std::abort();
      } catch (const fexel::Error& error) {
        if (error.message().empty() || error.message().back() != '.') std::abort();
      }
    }
  } catch (const fexel::Error& error) {
    if (error.message().empty() || error.message().back() != '.') std::abort();
  }
  return 0;
}

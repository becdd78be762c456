/// Whatever bytes a file holds, its reader gives a picture within the limits, or a sentence.
#include <sys/mman.h>
#include <unistd.h>

#include <cstdlib>
#include <string>

#include "base/error.h"
#include "files/parts.h"
#include "files/picture.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const int file = ::memfd_create("input", 0);
  static const std::string path = "/proc/self/fd/" + std::to_string(file);
  if (::ftruncate(file, 0) != 0 || ::pwrite(file, data, size, 0) != static_cast<ssize_t>(size)) std::abort();
  const fexel::Limits limits{4'000'000, 16'000'000};
  try {
    const fexel::FileInfo info = fexel::read_info(path, limits);
    const fexel::Image image = fexel::read_picture(path, 1, limits);
    if (image.width() != info.width || image.height() != info.height || image.bands() != info.bands) std::abort();
    fexel::read_attached(path, info.bands);
    if (const auto parts = fexel::open_parts(path, 1, limits)) {
      const fexel::Region region{info.width / 3, info.height / 3, info.width - info.width / 3,
                                 info.height - info.height / 3};
      if (parts->read(region, {}).width() != region.width) std::abort();
    }
    int pages = 0;
    fexel::Limits salvaging = limits;
    salvaging.salvage = true;
    for (const fexel::PageInfo& page : fexel::read_pages(path, salvaging)) {
      if (++pages > 6) break;
      if (page.info) fexel::read_picture(path, pages, salvaging);
    }
  } catch (const fexel::Error& error) {
    if (error.message().empty() || error.message().back() != '.') std::abort();
  }
  return 0;
}

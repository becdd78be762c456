#pragma once
/// Where the pages of a file begin, found by going from one to the next without reading any, and kept for files that do
/// not change.
#include <cstdint>
#include <filesystem>
#include <functional>
#include <memory>
#include <string>
#include <vector>

namespace fexel::codec {

struct PageIndex {
  std::vector<std::uint64_t> offsets;
  std::string cut;  ///< a sentence, where the file says that there is more, but that is not there
  /// Of pages that share the first one's directory, whose samples follow each other: bytes from its own to theirs.
  std::vector<std::uint64_t> shifts;
  int beside = 0;  ///< directories of thumbnails, overviews and masks, which are no pages
};

/// The most pages that a file may have.
inline constexpr std::size_t max_pages = 4'000'000;

/// What `find` finds in the file, or what it found when the file was the same. Raises an input error when there is no
/// such file.
std::shared_ptr<const PageIndex> page_index(const std::filesystem::path& path,
                                            const std::function<PageIndex(int descriptor, std::uint64_t size)>& find);

/// The directories of a TIFF, or of a BigTIFF, in their chain. TIFF 6.0 (1992), section 2. Pictures of reduced
/// resolution are left out where there are others. A file of one directory whose description says "images=N" holds N
/// pictures one behind the other, as microscopes write long stacks.
PageIndex tiff_directories(int descriptor, std::uint64_t size);

}  // namespace fexel::codec

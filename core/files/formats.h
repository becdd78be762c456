#pragma once
/// The table of formats: what each is, and the functions that read it.
#include "files/codec.h"

namespace fexel::codec {

struct Door {
  Format format;
  std::string_view name, endings;
  std::string_view reads = {}, writes = {};  ///< for people; `writes` is empty for what is only read
  bool pages = false;                        ///< may hold several pictures
  bool turned = false;                       ///< has an orientation tag, and comes as it is stored
  std::string (*library)() = nullptr;
  FileInfo (*info)(const fs::path& path, const Limits& limits, int page) = nullptr;  ///< nothing without the library
  Image (*read)(const fs::path& path, int page, const Limits& limits, const Job& job) = nullptr;
  std::vector<PageInfo> (*page_infos)(const fs::path& path, const Limits& limits) = nullptr;  ///< of all at once
  Stored (*attached)(const fs::path& path) = nullptr;
};

const Door& door_of(Format format);
/// By content, never by name. Raises an input error for what is no picture, or one that this build cannot read.
const Door& door_of(const fs::path& path);

}  // namespace fexel::codec

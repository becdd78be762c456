#pragma once
/// What a picture of many frames was made of, kept beside it.
#include <filesystem>

#include "run/record.h"
#include "stacks/frame_stack.h"

namespace fexel {

/// NAME.TIF.made.json: what was done, of which files with which checksums, and the checksum of the result.
std::filesystem::path provenance_path(const std::filesystem::path& result);

struct MadeOf {
  Json operation;  ///< its name and numbers
  std::optional<Chain> chain;
  std::vector<std::string> notes;
};
/// Writes it beside a result that is whole but for its name. Raises an input error where a source was changed
/// meanwhile.
void write_provenance(const std::filesystem::path& path, int descriptor, const MadeOf& made,
                      const std::vector<WatchedFile>& sources, const Job& job);
/// Writes pages as a picture, and beside it what they were made of. Raises what write_pictures() raises, before
/// anything is written where the target may not be; and an input error where a source was changed meanwhile.
void write_made(const std::filesystem::path& path, const std::vector<Image>& pages, const WriteOptions& options,
                const MadeOf& made, const std::vector<WatchedFile>& sources, const Job& job);

}  // namespace fexel

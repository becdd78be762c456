#pragma once
/// The demonstration data: pictures rendered from formulas, chains that do each job well, and the truth about them.
#include <filesystem>
#include <vector>

#include "base/job.h"

namespace fexel {

/// Writes the demonstration data into `folder`, which is made when missing. Files that are there already are replaced.
/// Returns what was written. Raises an input error when the folder cannot be written to.
std::vector<std::filesystem::path> write_demo(const std::filesystem::path& folder, const Job& job);

/// Whether `folder` holds a whole set, as written by this version.
bool demo_is_there(const std::filesystem::path& folder);

}  // namespace fexel

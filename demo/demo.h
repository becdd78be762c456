#pragma once
/// The demonstration data: pictures rendered from formulas, chains that do each job well, and the truth about them.
#include <filesystem>
#include <string>
#include <vector>

#include "base/job.h"

namespace fexel {

/// Of the sets, as their truth says it: what an older version has written is rendered anew.
inline constexpr const char* demo_version = "7";

/// The chains of the demonstration's sets, each of which can be written alone.
std::vector<std::string> demo_chains();

/// Writes the demonstration data into `folder`, which is made when missing: all of it, or the set of one chain. Files
/// that are there already are replaced. Returns what was written. Raises an input error when the folder cannot be
/// written to, and a call error for a chain that is none of demo_chains().
std::vector<std::filesystem::path> write_demo(const std::filesystem::path& folder, const Job& job,
                                              const std::string& chain = {});

/// Whether `folder` holds all sets, or that of one chain, whole and as written by this version.
bool demo_is_there(const std::filesystem::path& folder, const std::string& chain = {});

}  // namespace fexel

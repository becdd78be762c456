#pragma once
/// Finding the files that a chain names.
#include <filesystem>

#include "base/job.h"
#include "chain/chain.h"

namespace fexel {

struct FoundSource {
  std::string path;
  bool moved = false;  ///< it was not where the chain says
};

/// Where a source of the chain in `chain_file` lies: where the chain says, or, where nothing is there and the chain
/// names a checksum, a file of the same name and checksum in the chain's folder, the folder above, or a folder in
/// either. Else the place that the chain says.
FoundSource find_source(const std::filesystem::path& chain_file, const SourceReference& source, const Job& job = {});

}  // namespace fexel

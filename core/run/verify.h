#pragma once
/// A record's results, made again and compared.
#include "run/write_frames.h"

namespace fexel {

/// How results differ from what their record's chain makes of its sources now.
struct Verified {
  bool same = false;         ///< sample by sample, and no file was changed since
  bool same_size = true;     ///< and count of pages, bands and depth
  double most = 0;           ///< the largest difference of a sample
  double share = 0;          ///< of the samples that differ
  std::string source_state;  ///< empty, or which source has changed since
  std::string result_state;  ///< empty, or which result has changed since it was written
};
/// Runs the record's chain again and compares. Raises an input error when the record, a source or a result cannot be
/// read, and a call error where it would take more memory than it may.
Verified verify_record(const std::filesystem::path& path, const WriteHow& how, const Job& job);

}  // namespace fexel

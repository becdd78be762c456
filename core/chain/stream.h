#pragma once
/// A chain over a picture that is larger than memory: read by regions, computed and written by rows.
#include "chain/evaluate.h"
#include "chain/run.h"

namespace fexel {

/// How much memory a run would take that holds source and result whole, in bytes, roughly.
double memory_for(const Chain& chain, const Layout& layout, const FileInfo& info, const Finish& finish);

/// Raises a call error that says why a run cannot go by parts: the formats are not TIFF, an edge repeats the picture, a
/// step needs more than rows.
void check_by_parts(const Chain& chain, const Layout& layout, const RunItem& item, const RunOptions& options);

/// What run_one() does, but for the record, within options.memory bytes. Results are those of the whole picture, bit
/// for bit where the kernel is not bspline3 (whose filter begins anew in each part, which f32 samples show in 1e-7).
RunResult run_by_parts(const Chain& chain, const Layout& layout, const FileInfo& info, const RunItem& item,
                       const RunOptions& options, const std::vector<std::filesystem::path>& sources, const Job& job);

}  // namespace fexel

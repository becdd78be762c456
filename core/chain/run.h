#pragma once
/// A chain over files: what will be written where, what is refused before anything starts, and what came out.
#include <filesystem>
#include <vector>

#include "base/error.h"
#include "chain/chain.h"
#include "files/picture.h"

namespace fexel {

struct RunOptions {
  std::filesystem::path folder;
  std::string name = "{stem}-{chain}";  ///< also {index} (from 1) and {ext}
  std::string chain_name;               ///< what {chain} stands for
  std::optional<Format> format;         ///< the source's without it
  std::optional<Depth> depth;           ///< the source's without it; clamps, never scales
  int quality = 92;                     ///< of JPEG
  bool replace = false;
  bool resume = false;  ///< files that exist are skipped
};

struct RunItem {
  std::filesystem::path input, output;
  Format format = Format::tiff;
  std::optional<Error> failure;  ///< why the input cannot be used
  bool skip = false;             ///< exists already, and the run is a resumed one
};

struct RunResult {
  int width = 0, height = 0;
  bool exact = false;
  double empty_share = 0;
  std::int64_t clamped = 0;
};

/// Folders become the pictures in them; everything in natural order within a folder (2 before 10).
std::vector<std::filesystem::path> expand_inputs(const std::vector<std::filesystem::path>& inputs);
/// 2 before 10: compares runs of digits by their value.
bool natural_less(const std::string& a, const std::string& b);

/// Names every output. Raises a call error, before anything is written, when names clash, exist, or are a source.
/// Inputs that cannot be read, or that the chain does not fit, carry their failure.
std::vector<RunItem> plan_run(const Chain& chain, const std::vector<std::filesystem::path>& inputs,
                              const RunOptions& options);

/// Reads, evaluates and writes one file, page by page.
RunResult run_one(const Chain& chain, const RunItem& item, const RunOptions& options,
                  const std::vector<std::filesystem::path>& sources, const Job& job);

}  // namespace fexel

#pragma once
/// A chain over files: what will be written where, what is refused before anything starts, and what came out.
#include <filesystem>
#include <vector>

#include "base/error.h"
#include "chain/chain.h"
#include "chain/layout.h"
#include "chain/record.h"
#include "files/picture.h"

namespace fexel {

/// Half of the machine's memory, in bytes.
std::int64_t memory_to_use();

struct RunOptions {
  std::filesystem::path folder;
  std::string name = "{stem}-{chain}";  ///< also {index} (from 1) and {ext}
  std::string chain_name;               ///< what {chain} stands for
  std::optional<Format> format;         ///< the source's without it
  Finish finish;
  bool keep_alpha = false;  ///< a source with an alpha band gets a result with one, where the format can hold it
  Limits limits = {};       ///< of what is read
  std::int64_t memory = memory_to_use();  ///< bytes; a picture that needs more is read and written by parts
  bool replace = false;
  bool resume = false;  ///< files that exist are skipped
};

struct RunItem {
  std::filesystem::path input, output;
  std::filesystem::path record;  ///< where the record goes; empty for none
  Format format = Format::tiff;
  Finish finish;
  int pages = 1;
  int first_frame = 0;  ///< of the sequence that all inputs are, where the chain has a step that needs it
  bool by_parts = false;
  std::optional<Error> failure;  ///< why the input cannot be used
  bool skip = false;             ///< exists already, and the run is a resumed one
};

/// Folders become the pictures in them; everything in natural order within a folder (2 before 10).
std::vector<std::filesystem::path> expand_inputs(const std::vector<std::filesystem::path>& inputs);
/// 2 before 10: compares runs of digits by their value.
bool natural_less(const std::string& a, const std::string& b);

/// Names every output. Raises a call error, before anything is written, when names clash, exist, or are a source.
/// Inputs that cannot be read, or that the chain does not fit, carry their failure.
std::vector<RunItem> plan_run(const Chain& chain, const std::vector<std::filesystem::path>& inputs,
                              const RunOptions& options);

/// The chain with its align step searched over all pages of all items, one sequence; as it is where it has none, or
/// where what was found once is of as many frames.
Chain with_sequence_searched(const Chain& chain, const std::vector<RunItem>& items, const RunOptions& options,
                             const Job& job);

/// What is made of an evaluated picture before it is written. `clamped` grows by the samples that were clamped.
Image finished(Image image, const Finish& finish, std::int64_t& clamped);
/// What a result goes on saying of what its source says: all, but for a profile that its samples no longer follow.
Attached carried_on(const std::filesystem::path& source, int bands, const Finish& finish);
/// How an item's result is written.
WriteOptions write_options(const RunItem& item, const RunOptions& options, const Layout& layout, int bands,
                           const std::vector<std::filesystem::path>& sources);
/// Writes finished pages and, where the mask is wanted as a picture, that beside them.
void write_finished(const std::filesystem::path& path, const std::vector<Image>& pages, WriteOptions how,
                    const Finish& finish, const Job& job);
/// Raises a call error when the format cannot hold what the run would write.
void check_finish(const Finish& finish, Format format, int bands, Depth source);
/// The picture that tells the empty pixels of a result: NAME.mask.png, or NAME.mask.tif for more than one page.
std::filesystem::path mask_path(const std::filesystem::path& result, int pages);

/// Reads, evaluates and writes one file, page by page, and its record beside it when the item names one.
RunResult run_one(const Chain& chain, const RunItem& item, const RunOptions& options,
                  const std::vector<std::filesystem::path>& sources, const Job& job);

}  // namespace fexel

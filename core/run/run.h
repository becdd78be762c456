#pragma once
/// A chain over files: what will be written where, what is refused before anything starts, and what came out.
#include <filesystem>
#include <map>
#include <vector>

#include "run/write_frames.h"

namespace fexel {

/// What one input has of its own.
struct OwnOfInput {
  std::optional<Chain> chain;       ///< in place of the run's
  std::filesystem::path subfolder;  ///< of the run's folder, that its result goes to
  bool operator==(const OwnOfInput&) const = default;
};

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
  bool resume = false;  ///< results that stand with their record are skipped, what a broken run left is made whole
  bool compress = true;
  /// An input whose result cannot get its name fails by itself; without it nothing is run.
  bool each_by_itself = false;
  int first_index = 1;  ///< what {index} is for the first input
  std::map<std::filesystem::path, OwnOfInput> own;
  ProtectedPaths keep;  ///< what the run reads beside its inputs: the chain, masks, a reference
};

struct RunItem {
  std::filesystem::path input;
  Target target;  ///< its path is empty where the input cannot be used
  std::vector<FrameFile> frames;
  int first_frame = 0;           ///< of the sequence that all inputs are, where the chain has a step that needs it
  std::optional<Error> failure;  ///< why the input cannot be used
  bool skip = false;             ///< it is there already, and the run is a resumed one
};

/// The chain that an input goes through.
const Chain& chain_for(const std::filesystem::path& input, const Chain& chain, const RunOptions& options);
/// Bytes that the largest page of an item takes where it is read, made and written whole, roughly; 0 for one that
/// cannot be used.
double memory_for(const RunItem& item, const Chain& chain, const RunOptions& options);

/// The pictures that a chain reads beside its sources.
std::vector<std::filesystem::path> read_by(const Chain& chain);

/// Names every output. Raises a call error, before anything is written, when names clash, exist, or are protected.
/// Inputs that cannot be read, or that the chain does not fit, carry their failure.
std::vector<RunItem> plan_run(const Chain& chain, const std::vector<std::filesystem::path>& inputs,
                              const RunOptions& options, const Job& job = {});

/// The chain with its align step searched over all pages of all items, one sequence; as it is where it has none, or
/// where what was found once is of as many frames.
Chain with_sequence_searched(const Chain& chain, const std::vector<RunItem>& items, const RunOptions& options,
                             const Job& job);

/// Reads, evaluates and writes one input, page by page, with its record. `at_hand` is the input's picture, if it is in
/// memory.
RunResult run_one(const Chain& chain, const RunItem& item, const RunOptions& options, const Job& job,
                  std::optional<AtHand> at_hand = {});

/// Whether a result stands as its record says, made by this chain in this way of this input.
bool stands(const RunItem& item, const Chain& chain, bool alpha_band, const Job& job);

}  // namespace fexel

#pragma once
/// What a result was made from and how, kept beside it, so that it can be made and compared again.
#include <filesystem>
#include <utility>

#include "chain/chain.h"
#include "files/picture.h"

namespace fexel {

/// How the empty pixels of a result are told: by the fill value alone, by one more band (0 there, full elsewhere), by
/// NaN in floating-point samples, or by a picture beside the result that is 0 there and 255 elsewhere.
enum class EmptyAs { fill, alpha, nan, mask };
std::string_view name_of(EmptyAs empty);
std::vector<std::string> empty_words();

/// What a run does to samples behind the chain.
struct Finish {
  std::optional<Depth> depth;                      ///< the source's without it; clamps
  std::optional<std::pair<double, double>> range;  ///< these samples become the depth's lowest and highest
  EmptyAs empty = EmptyAs::fill;
  int quality = 92;  ///< of JPEG, 1 to 100
  bool operator==(const Finish&) const = default;
};

struct RunResult {
  int width = 0, height = 0;
  bool exact = false;
  int resamplings = 0;  ///< how often pixels were resampled; not part of a record
  double empty_share = 0;
  std::int64_t clamped = 0;
};

struct Record {
  std::string version;  ///< of Fexel
  std::vector<SourceReference> sources;
  SourceReference result;  ///< paths start at the record's own folder
  Format format = Format::tiff;
  Finish finish;
  RunResult outcome;
  Chain chain;
};

/// The record's file for a result: NAME.record.json.
std::filesystem::path record_path(const std::filesystem::path& result);
std::string write_record(const Record& record);
/// Raises a call error that names the path in the text, as parse_chain() does.
Record parse_record(const std::string& text);

/// Writes the record of a result that is written, with the checksums of all its files.
void save_record(const std::filesystem::path& path, const std::vector<std::filesystem::path>& sources,
                 const std::filesystem::path& result, Format format, const Finish& finish, const RunResult& outcome,
                 Chain chain, bool replace, const Job& job);

/// How a result differs from what its record's chain makes of its sources now.
struct Verified {
  bool same = false;
  bool same_size = true;
  double most = 0;           ///< the largest difference of a sample
  double share = 0;          ///< of the samples that differ
  std::string source_state;  ///< empty, or which source has changed since
};
/// Runs the record's chain again and compares. Raises an input error when the record, a source or the result cannot be
/// read.
Verified verify_record(const std::filesystem::path& path, const Job& job);

}  // namespace fexel

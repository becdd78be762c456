#pragma once
/// What a result was made from and how, kept beside it, so that it can be made and compared again.
#include <filesystem>

#include "chain/chain.h"
#include "run/output.h"
#include "text/reader.h"

namespace fexel {

/// What became of one frame, or page, of a result.
struct FrameOutcome {
  std::filesystem::path file;
  int page = 1, band = 0;         ///< from 1; band 0 is all of them
  std::optional<Matrix3> matrix;  ///< source to result; nothing where no matrix gives it
  MatchStatus status = MatchStatus::ok;
  std::string reason;       ///< why it is weak or failed
  bool written = true;      ///< it has a page, or a file
  bool empty_page = false;  ///< which holds nothing, because the frame could not be used
};

struct RunResult {
  int width = 0, height = 0;
  bool exact = false;
  int resamplings = 0;  ///< how often pixels were resampled; not part of a record
  double empty_share = 0;
  std::int64_t clamped = 0;
  std::vector<FrameOutcome> frames = {};
  std::vector<std::filesystem::path> written = {};  ///< results and masks
  std::vector<std::string> notes = {};              ///< sentences about what the format could not hold; not in a record
  std::vector<std::string> dropped = {};  ///< what the source says and the result does not, such as "maker notes"
  int count(MatchStatus status) const {
    return static_cast<int>(std::ranges::count(frames, status, &FrameOutcome::status));
  }
};

struct Record {
  std::string version;  ///< of Fexel
  std::vector<SourceReference> sources;
  struct File {
    SourceReference file;
    bool mask = false;
  };
  std::vector<File> results;  ///< paths start at the record's own folder
  std::string name;           ///< of the result, or of numbered ones
  Format format = Format::tiff;
  Finish finish;
  bool compress = true;
  bool bands = false;        ///< frames are the bands of one picture
  bool leaves_out = false;   ///< frames that did not match have no page
  bool keeps_going = false;  ///< a frame that cannot be used is an empty page, and not the end
  bool alpha_band = false;   ///< the source's alpha was read as a band
  int first_number = 1;      ///< of numbered results
  RunResult outcome;
  Chain chain;
};

/// A name in a text; where its bytes are no text they stand beside what can be shown of it, in hexadecimal.
void put_name(Json& out, const std::string& key, const std::string& name);
std::string name_in(const JsonReader& in, const std::string& key);
/// The keys depth, empty, range and quality.
void put_finish(Json& out, const Finish& finish, bool quality);
Finish finish_in(const JsonReader& in);

/// The chain without what changes no pixel of a result: what records keep of it.
Chain for_record(Chain chain);
std::string write_record(const Record& record);
/// Raises a call error that names the path in the text, as parse_chain() does.
Record parse_record(const std::string& text);
/// Reads a record file; errors name the file before the path.
Record load_record(const std::filesystem::path& path);

/// The files of a folder that records in it name as results or masks, or that NAME.made.json stands beside, and the
/// copies with marks of these results.
std::vector<std::filesystem::path> results_in(const std::filesystem::path& folder);

}  // namespace fexel

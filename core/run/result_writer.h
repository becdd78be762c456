#pragma once
/// The one way by which results reach the disk: pages by rows or whole, in one file or in numbered files, with masks
/// beside them and a record, which all appear together.
#include <functional>
#include <memory>
#include <vector>

#include "run/output.h"

namespace fexel {

/// What stands in a file's name for a frame's number, from 1.
inline constexpr std::string_view frame_number = "{index}";
/// Whether a name is one for each frame.
bool is_numbered(const std::filesystem::path& path);
/// The files that frames are written to: `path` itself, or one for each frame from 1 to `count`.
std::vector<std::filesystem::path> sequence_names(const std::filesystem::path& path, int count, int first = 1);

/// The picture that tells the empty pixels of a result: NAME.TIF.mask.png, or .mask.tif for more than one page.
std::filesystem::path mask_path(const std::filesystem::path& result, int pages);
/// The record's file: NAME.TIF.record.json; of numbered files, with the first and the last number for the number.
std::filesystem::path record_path(const std::filesystem::path& result, int last = 1, int first = 1);

/// Where a result goes.
struct Target {
  std::filesystem::path path;  ///< a file, or numbered files
  Format format = Format::tiff;
  Finish finish;
  bool compress = true;
  bool replace = false;                        ///< existing results may be replaced
  std::shared_ptr<const ProtectedPaths> keep;  ///< what must not be
  std::filesystem::path record;                ///< empty for none
  std::string description;                     ///< TIFF: of the first page
  int first_number = 1;                        ///< of numbered files
};

/// Every file that a target with so many pages stands for: results, masks, the record.
std::vector<std::filesystem::path> files_of(const Target& target, int pages);
/// Raises a call error when one of them may not be written.
void check_target_files(const Target& target, int pages);
/// The file names that this makes are at most as long as the system takes; raises a call error otherwise.
void check_name_length(const std::filesystem::path& path);

/// A file that was written, and the checksum of its bytes.
struct WrittenFile {
  std::filesystem::path path;
  std::string sha256;
  bool mask = false;
};

class ResultWriter {
 public:
  /// The shapes are those of all pages; of numbered files each page is one. Raises what check_target_files() does.
  ResultWriter(const Target& target, std::vector<OutputShape> pages, Attached attached);
  ~ResultWriter();
  /// The next rows of the page that comes now, as they are evaluated: all of them, or, into a TIFF, a multiple of 64.
  void append(Image rows, const Job& job);
  void end_page();
  /// Instead of rows, where there is nothing to write: an empty page; of numbered files, none.
  void append_nothing(const Job& job);
  /// Samples that the depth could not hold.
  std::int64_t clamped() const { return clamped_; }
  /// All files get their names, the record first, so that no result stands without one. `record` makes its text from
  /// what was written. Raises an input error, and leaves nothing new, when one cannot get its name.
  std::vector<WrittenFile> commit(const std::function<std::string(const std::vector<WrittenFile>&)>& record,
                                  const Job& job);

 private:
  class Sink;
  std::unique_ptr<Sink> sink_for(const std::filesystem::path& path, Format format, std::vector<OutputShape> pages,
                                 bool mask) const;
  const OutputShape& shape() const { return pages_[page_]; }

  Target target_;
  std::vector<OutputShape> pages_;
  Attached attached_;
  std::vector<std::filesystem::path> names_;
  bool numbered_;
  std::size_t page_ = 0;
  std::int64_t clamped_ = 0;
  std::unique_ptr<Sink> result_, mask_;
  std::vector<std::unique_ptr<Sink>> done_;
};

}  // namespace fexel

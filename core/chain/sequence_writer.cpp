#include "chain/sequence_writer.h"

#include "base/error.h"
#include "files/parts.h"

namespace fexel {
namespace fs = std::filesystem;

std::vector<fs::path> sequence_names(const fs::path& out, int count) {
  const std::string name = out.filename().string();
  const auto at = name.find(frame_number);
  if (at == std::string::npos) return {out};
  std::vector<fs::path> names;
  for (int i = 1; i <= count; ++i) {
    std::string own = name;
    names.push_back(out.parent_path() / own.replace(at, frame_number.size(), std::to_string(i)));
  }
  return names;
}

void check_sequence(const fs::path& out, int count, const WriteOptions& options) {
  const auto names = sequence_names(out, count);
  const bool numbered = out.filename().string().find(frame_number) != std::string::npos;
  const auto format = format_of_name(out);
  if (numbered && !format)
    throw call_error("The files' ending tells no format.", out.string(),
                     "Give a name that ends in .tif, .png, .pgm or .jpg.");
  if (!numbered && format != Format::tiff)
    throw call_error("A sequence in one file is written as a TIFF.", out.string(),
                     "Give a name that ends in .tif, or one with {index} for a file each, such as frame-{index}.png.");
  WriteOptions how = options;
  how.format = *format;
  for (const fs::path& name : names) check_target(name, how);
}

SequenceWriter::SequenceWriter(const fs::path& out, const Shape& shape, int count, const WriteOptions& options)
    : names_(sequence_names(out, count)), options_(options) {
  if (names_.size() == 1 && names_.front() == out) {
    rows_ = std::make_unique<PictureRows>(out, shape.size, shape.bands, shape.depth, count, options);
    return;
  }
  options_.format = format_of_name(out).value_or(Format::tiff);
  check_fits(options_.format, shape.bands, shape.depth);
}
SequenceWriter::~SequenceWriter() = default;

void SequenceWriter::append(const Image& frame, const Job& job) {
  if (rows_) {
    rows_->append(frame, job);
    rows_->end_page();
    return;
  }
  std::vector<Image> page;
  page.push_back(frame.clone());
  write_pictures(names_[next_++], page, options_, job);
}

void SequenceWriter::commit() {
  if (rows_) rows_->commit();
}

}  // namespace fexel

#include "run/result_writer.h"

#include <fmt/format.h>
#include <limits.h>

#include "base/error.h"
#include "base/log.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

fs::path with_suffix(const fs::path& path, const std::string& suffix) {
  return path.parent_path() / (path.filename().string() + suffix);
}

fs::path numbered(const fs::path& path, const std::string& number) {
  std::string name = path.filename().string();
  const auto at = name.find(frame_number);
  if (at != std::string::npos) name.replace(at, frame_number.size(), number);
  return path.parent_path() / name;
}

}  // namespace

bool is_numbered(const fs::path& path) {
  return path.filename().string().find(frame_number) != std::string::npos;
}

std::vector<fs::path> sequence_names(const fs::path& path, int count, int first) {
  if (!is_numbered(path)) return {path};
  std::vector<fs::path> names;
  for (int i = first; i < first + count; ++i) names.push_back(numbered(path, std::to_string(i)));
  return names;
}

fs::path mask_path(const fs::path& result, int pages) {
  return with_suffix(result, pages > 1 ? ".mask.tif" : ".mask.png");
}

fs::path record_path(const fs::path& result, int last, int first) {
  return with_suffix(numbered(result, fmt::format("{}-to-{}", first, last)), ".record.json");
}

void check_name_length(const fs::path& path) {
  constexpr std::size_t longest = NAME_MAX;
  if (const std::size_t length = path.filename().string().size(); length > longest)
    throw call_error(fmt::format("The file name {} has {} bytes; the system takes {}.",
                                 path.filename().string().substr(0, 40) + "…", length, longest),
                     "--name", "Choose a shorter name (--name).");
}

std::vector<fs::path> files_of(const Target& target, int pages) {
  std::vector<fs::path> files = sequence_names(target.path, pages, target.first_number);
  const std::size_t results = files.size();
  const int pages_each = is_numbered(target.path) ? 1 : pages;
  for (std::size_t i = 0; target.finish.empty == EmptyAs::mask && i < results; ++i)
    files.push_back(mask_path(files[i], pages_each));
  if (!target.record.empty()) files.push_back(target.record);
  return files;
}

void check_target_files(const Target& target, int pages) {
  WriteOptions checks;
  checks.replace = target.replace;
  checks.keep = target.keep;
  for (const fs::path& file : files_of(target, pages)) {
    check_name_length(file);
    check_target(file, checks);
  }
}

/// One file that is being written.
class ResultWriter::Sink {
 public:
  Sink(fs::path path, std::vector<OutputShape> pages, WriteOptions how, bool mask)
      : mask_(mask), path_(std::move(path)), pages_(std::move(pages)), how_(std::move(how)) {
    if (how_.format == Format::tiff) rows_.emplace(path_, pages_, how_);
  }
  void append(Image rows, const Job& job) {
    if (rows_) return rows_->append(rows, job);
    std::vector<Image> page;
    page.push_back(std::move(rows));
    how_.pixel_size = pages_.front().pixel_size;
    whole_ = prepare_pictures(path_, page, how_, job);
  }
  void end_page() {
    if (rows_) rows_->end_page();
  }
  /// The file is complete: its checksum is taken and, where there are many, it is closed.
  void finish(bool park, const Job& job) {
    SafeFile& file = rows_ ? rows_->finish() : *whole_;
    file_ = &file;
    sum_ = checksum(file.descriptor(), path_.string(), {job.stop, {}});
    file.flush();
    if (park) file.park();
  }
  SafeFile& file() { return *file_; }
  WrittenFile written() const { return {path_, sum_, mask_}; }

 private:
  bool mask_;
  fs::path path_;
  std::vector<OutputShape> pages_;
  WriteOptions how_;
  std::optional<PictureRows> rows_;
  std::unique_ptr<SafeFile> whole_;
  SafeFile* file_ = nullptr;
  std::string sum_;
};

ResultWriter::ResultWriter(const Target& target, std::vector<OutputShape> pages, Attached attached)
    : target_(target), pages_(std::move(pages)), attached_(std::move(attached)), numbered_(is_numbered(target.path)) {
  const auto count = static_cast<int>(pages_.size());
  check_target_files(target_, count);
  names_ = sequence_names(target_.path, count, target_.first_number);
  if (numbered_) return;
  result_ = sink_for(target_.path, target_.format, pages_, false);
  if (target_.finish.empty != EmptyAs::mask) return;
  std::vector<OutputShape> masks;
  for (const OutputShape& page : pages_) masks.push_back({page.size, 1, Depth::u8, page.pixel_size});
  mask_ = sink_for(mask_path(target_.path, count), count > 1 ? Format::tiff : Format::png, std::move(masks), true);
}
ResultWriter::~ResultWriter() = default;

std::unique_ptr<ResultWriter::Sink> ResultWriter::sink_for(const fs::path& path, Format format,
                                                           std::vector<OutputShape> pages, bool mask) const {
  WriteOptions how;
  how.format = format;
  how.replace = target_.replace;
  how.keep = target_.keep;
  how.compress = target_.compress;
  if (!mask) {
    how.quality = target_.finish.quality;
    how.alpha = target_.finish.empty == EmptyAs::alpha;
    how.attached = attached_;
    how.description = target_.description;
  }
  return std::make_unique<Sink>(path, std::move(pages), how, mask);
}

void ResultWriter::append(Image rows, const Job& job) {
  if (numbered_ && !result_) {
    const fs::path& name = names_[page_];
    result_ = sink_for(name, target_.format, {shape()}, false);
    if (target_.finish.empty == EmptyAs::mask)
      mask_ = sink_for(mask_path(name, 1), Format::png, {{shape().size, 1, Depth::u8, shape().pixel_size}}, true);
  }
  if (mask_) mask_->append(mask_picture(rows), {job.stop, {}});
  result_->append(finished(std::move(rows), target_.finish, clamped_), job);
}

void ResultWriter::append_nothing(const Job& job) {
  if (numbered_) return;
  const OutputShape& page = shape();
  const int bands = page.bands - (target_.finish.empty == EmptyAs::alpha ? 1 : 0);
  for (int y = 0; y < page.size.height; y += 1024) {
    Image nothing(page.size.width, std::min(1024, page.size.height - y), bands, page.depth);
    nothing.make_mask(false);
    if (page.depth == Depth::f32) put_nan(nothing);
    append(std::move(nothing), job);
  }
}

void ResultWriter::end_page() {
  if (result_) result_->end_page();
  if (mask_) mask_->end_page();
  if (numbered_) {
    for (auto* sink : {&result_, &mask_})
      if (*sink) {
        (*sink)->finish(true, {});
        done_.push_back(std::move(*sink));
      }
  }
  ++page_;
}

std::vector<WrittenFile> ResultWriter::commit(const std::function<std::string(const std::vector<WrittenFile>&)>& record,
                                              const Job& job) {
  if (!numbered_)
    for (auto* sink : {&result_, &mask_})
      if (*sink) {
        (*sink)->finish(false, job);
        done_.push_back(std::move(*sink));
      }
  std::vector<WrittenFile> files;
  for (const auto& sink : done_) files.push_back(sink->written());
  // Another run may be about to place the same names: one set is placed before the other is looked at.
  const FolderLock lock(target_.path.parent_path(), job);
  std::unique_ptr<SafeFile> text;
  if (!target_.record.empty()) {
    // A record whose result is not there, of a run that was killed, is no loss.
    bool any = false;
    std::error_code code;
    for (const WrittenFile& file : files) any = any || fs::exists(file.path, code);
    const std::string words = record(files);
    text = std::make_unique<SafeFile>(target_.record, target_.replace || !any);
    text->write(words.data(), words.size());
    text->flush();
  }
  job.check();
  std::vector<SafeFile*> placed;
  try {
    const auto place = [&](SafeFile& file) {
      file.place();
      placed.push_back(&file);
    };
    if (text) place(*text);
    // Results last.
    for (const bool masks : {true, false})
      for (const auto& sink : done_)
        if (sink->written().mask == masks) place(sink->file());
    log_info(fmt::format("wrote {} file{}, {} the last", placed.size(), placed.size() == 1 ? "" : "s",
                         target_.path.string()));
  } catch (...) {
    while (!placed.empty()) {
      placed.back()->withdraw();
      placed.pop_back();
    }
    throw;
  }
  return files;
}

}  // namespace fexel

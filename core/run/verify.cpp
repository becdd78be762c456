#include "run/verify.h"

#include <fmt/format.h>

#include <cstdlib>
#include <limits>

#include "base/error.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

/// The largest difference and the number of samples that differ, NaN being the same as NaN.
void compare(const Image& a, const Image& b, double& most, std::int64_t& differing) {
  visit_depth(a.depth(), [&](auto sample) {
    using T = decltype(sample);
    for (int band = 0; band < a.bands(); ++band)
      for (int y = 0; y < a.height(); ++y)
        for (int x = 0; x < a.width(); ++x) {
          const double v = a.row<T>(band, y)[x], w = b.row<T>(band, y)[x];
          if (v == w || (v != v && w != w)) continue;
          ++differing;
          most = std::max(most, v == v && w == w ? std::abs(v - w) : std::numeric_limits<double>::infinity());
        }
  });
  if (!a.has_mask() && !b.has_mask()) return;
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x) differing += a.valid(x, y) != b.valid(x, y);
}

bool alike(const Image& a, const Image& b) {
  return a.width() == b.width() && a.height() == b.height() && a.bands() == b.bands() && a.depth() == b.depth();
}

/// A folder that is gone when it goes out of scope.
class WorkFolder {
 public:
  WorkFolder() {
    std::string name = (fs::temp_directory_path() / "fexel-verify-XXXXXX").string();
    if (!::mkdtemp(name.data()))
      throw input_error("No working folder could be made.", fs::temp_directory_path().string(),
                        "Check that the disk has room.");
    path_ = name;
  }
  ~WorkFolder() {
    std::error_code code;
    fs::remove_all(path_, code);
  }
  WorkFolder(const WorkFolder&) = delete;
  WorkFolder& operator=(const WorkFolder&) = delete;
  const fs::path& path() const { return path_; }

 private:
  fs::path path_;
};

}  // namespace

Verified verify_record(const fs::path& path, const WriteHow& how, const Job& job) {
  const Record record = load_record(path);
  const fs::path folder = fs::absolute(path).parent_path();
  Verified out;
  Chain chain = record.chain;
  std::vector<fs::path> files;
  chain.sources.clear();
  for (const SourceReference& source : record.sources) {
    const fs::path file = (folder / fs::path(source.path)).lexically_normal();
    if (checksum(file, {job.stop, {}}) != source.sha256)
      out.source_state = fmt::format("{} has changed since.", file.string());
    files.push_back(file);
    SourceReference named = source;
    named.path = file.string();
    chain.sources.push_back(named);
  }
  // Pictures that steps read are told by their names alone: beside the record, or beside a source.
  for (std::string* name : files_of_steps(chain)) {
    std::vector<fs::path> places{folder};
    for (const fs::path& file : files) places.push_back(file.parent_path());
    for (const fs::path& place : places)
      if (fs::exists(place / *name)) {
        *name = (place / *name).string();
        break;
      }
  }
  for (const Record::File& file : record.results)
    if (checksum(folder / file.file.path, {job.stop, {}}) != file.file.sha256)
      out.result_state = fmt::format("{} was changed since it was written.", file.file.path);
  job.check();

  const WorkFolder work;
  WriteHow again = how;
  again.limits.alpha_band = record.alpha_band;
  const std::vector<FrameFile> frames = list_frames(files, record.bands, again.limits);
  Target target;
  target.path = work.path() / record.name;
  target.format = record.format;
  target.finish = record.finish;
  target.compress = record.compress;
  target.first_number = record.first_number;
  again.keep_going = record.keeps_going;
  again.leave_out_unmatched = record.leaves_out;
  const RunResult made = write_frames(chain, frames, target, again, job.part(0.05, 0.8));

  std::int64_t differing = 0;
  double samples = 0;
  std::vector<std::string> named;
  for (const Record::File& file : record.results) named.push_back(file.file.path);
  std::vector<std::string> remade;
  for (const fs::path& file : made.written) remade.push_back(file.filename().string());
  std::ranges::sort(named);
  std::ranges::sort(remade);
  out.same_size = named == remade;
  for (std::size_t i = 0; out.same_size && i < named.size(); ++i) {
    const fs::path before = folder / named[i], after = work.path() / named[i];
    const int pages = read_info(after, how.limits).frames;
    out.same_size = read_info(before, how.limits).frames == pages;
    for (int page = 1; out.same_size && page <= pages; ++page) {
      job.check();
      const Image a = read_picture(before, page, how.limits, {job.stop, {}});
      const Image b = read_picture(after, page, how.limits, {job.stop, {}});
      out.same_size = alike(a, b);
      if (!out.same_size) break;
      compare(a, b, out.most, differing);
      samples += static_cast<double>(a.width()) * a.height() * a.bands();
    }
  }
  out.share = samples > 0 ? static_cast<double>(differing) / samples : 0;
  out.same = out.same_size && differing == 0 && out.result_state.empty() && out.source_state.empty();
  return out;
}

}  // namespace fexel

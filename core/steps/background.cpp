#include "steps/background.h"

#include <fmt/format.h>

#include <cmath>
#include <filesystem>
#include <limits>
#include <mutex>

#include "base/error.h"
#include "files/identity.h"
#include "files/picture.h"
#include "text/reader.h"

namespace fexel {
namespace {

namespace fs = std::filesystem;

/// The background that was last read: every frame of a sequence asks for the same one.
struct Kept {
  fs::path path;
  fs::file_time_type time;
  std::uintmax_t bytes = 0;
  std::string sha256;
  std::shared_ptr<const Image> image;
};

/// Samples as floats, NaN where the picture is empty.
Image as_float(const Image& from) {
  Image out(from.width(), from.height(), from.bands(), Depth::f32);
  for (int band = 0; band < from.bands(); ++band)
    for (int y = 0; y < from.height(); ++y)
      visit_depth(from.depth(), [&](auto kind) {
        const auto* row = from.row<decltype(kind)>(band, y);
        float* to = out.row<float>(band, y);
        for (int x = 0; x < from.width(); ++x)
          to[x] = from.valid(x, y) ? static_cast<float>(row[x]) : std::numeric_limits<float>::quiet_NaN();
      });
  return out;
}

std::pair<std::shared_ptr<const Image>, std::string> background_in(const std::string& file, const Job& job) {
  static std::mutex mutex;
  static Kept kept;
  std::error_code code;
  const fs::path path(file);
  const auto time = fs::last_write_time(path, code);
  const auto bytes = code ? 0 : fs::file_size(path, code);
  if (code)
    throw input_error("The background of the chain is not there.", file, "Bring it back, or choose another one.");
  const std::scoped_lock lock(mutex);
  if (kept.path != path || kept.time != time || kept.bytes != bytes || !kept.image) {
    kept = {};
    auto image = std::make_shared<const Image>(as_float(read_picture(path, 1, {}, {job.stop, {}})));
    kept = {path, time, bytes, checksum(path, {job.stop, {}}), std::move(image)};
  }
  return {kept.image, kept.sha256};
}

}  // namespace

StepGeometry geometry_of(const BackgroundStep&, const StepInput& input) {
  return computed_in_place(input);
}

void read_step(JsonReader& in, BackgroundStep& step) {
  if (in.has("file")) step.file = in.text("file");
  if (in.has("sha256")) step.sha256 = in.text("sha256");
  if (in.has("keep_level")) step.keep_level = in.truth("keep_level");
}

void write_step(Json& out, const BackgroundStep& step) {
  out["file"] = step.file;
  if (!step.sha256.empty()) out["sha256"] = step.sha256;
  if (!step.keep_level) out["keep_level"] = false;
}

Image pixels_of(const BackgroundStep& step, const Image& input, const Resampling&, const Job& job,
                std::int64_t& clamped) {
  Image out = input.clone();
  if (step.file.empty()) return out;
  const auto [background, sha256] = background_in(step.file, job);
  if (!step.sha256.empty() && step.sha256 != sha256)
    throw call_error("The background is not the picture any more that the chain was made with.", "/file",
                     "Bring that one back, or choose the background anew.");
  if (background->width() != input.width() || background->height() != input.height())
    throw call_error(fmt::format("The background has {} x {} pixels, and the picture has {} x {}.", background->width(),
                                 background->height(), input.width(), input.height()),
                     "/file", "Choose a background that was taken at this place of the chain.");
  if (background->bands() != 1 && background->bands() != input.bands())
    throw call_error(
        fmt::format("The background has {} bands, and the picture has {}.", background->bands(), input.bands()),
        "/file", "Choose one with one band, or with as many as the picture.");
  for (int band = 0; band < input.bands(); ++band) {
    const int from = background->bands() == 1 ? 0 : band;
    double level = 0, count = 0;
    for (int y = 0; step.keep_level && y < input.height(); ++y)
      for (int x = 0; x < input.width(); ++x)
        if (const float v = background->row<float>(from, y)[x]; std::isfinite(v)) {
          level += static_cast<double>(v);
          ++count;
        }
    const auto mean = static_cast<float>(count > 0 ? level / count : 0);
    for (int y = 0; y < input.height(); ++y) {
      if (y % 64 == 0) job.check();
      const float* off = background->row<float>(from, y);
      visit_depth(input.depth(), [&](auto kind) {
        using T = decltype(kind);
        T* row = out.row<T>(band, y);
        for (int x = 0; x < input.width(); ++x)
          // Where the background is empty nothing is known of it, and nothing is taken off.
          if (std::isfinite(off[x])) row[x] = to_sample<T>(static_cast<float>(row[x]) - (off[x] - mean), clamped);
      });
    }
  }
  return out;
}

}  // namespace fexel

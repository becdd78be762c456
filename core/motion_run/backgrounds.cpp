#include "motion_run/backgrounds.h"

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/statistics.h"
#include "filter/filter.h"

namespace fexel {
namespace {

constexpr float nothing = std::numeric_limits<float>::quiet_NaN();

/// One band of a frame, or the mean of all below 0; NaN where it is empty; nothing where it cannot be read.
std::optional<Image> plane_at(const MotionFrames& frames, std::size_t i, int band, const Job& job) {
  try {
    const Image frame = frames.read(i, job);
    if (band >= frame.bands()) return std::nullopt;
    Image plane = band < 0 ? plane_of(frame, 0, job) : plane_of(chosen_bands(frame, {band}), 0, job);
    if (Size{plane.width(), plane.height()} != frames.size()) return std::nullopt;
    if (plane.has_mask()) {
      for (int y = 0; y < plane.height(); ++y)
        for (int x = 0; x < plane.width(); ++x)
          if (!plane.valid(x, y)) plane.row<float>(0, y)[x] = nothing;
      plane.drop_mask();
    }
    return plane;
  } catch (const Error& error) {
    if (error.kind() == Error::Kind::cancelled) throw;
    return std::nullopt;
  }
}

[[noreturn]] void too_few() {
  throw input_error("A background needs two frames that can be read.", {},
                    "Add frames, or measure without a background.");
}

Image streamed(const MotionFrames& frames, const std::vector<std::size_t>& numbers, bool mean, int band,
               const Job& job) {
  const Size size = frames.size();
  Image out(size.width, size.height, 1, Depth::f32);
  const auto pixels = static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height);
  std::vector<double> sum(pixels, mean ? 0 : std::numeric_limits<double>::infinity());
  std::vector<int> count(pixels, 0);
  int read = 0;
  for (std::size_t k = 0; k < numbers.size(); ++k) {
    const double n = static_cast<double>(numbers.size());
    const auto plane =
        plane_at(frames, numbers[k], band, job.part(static_cast<double>(k) / n, static_cast<double>(k + 1) / n));
    if (!plane) continue;
    ++read;
    for (int y = 0; y < size.height; ++y) {
      const float* row = plane->row<float>(0, y);
      for (int x = 0; x < size.width; ++x) {
        if (!std::isfinite(row[x])) continue;
        const auto i = static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) + static_cast<std::size_t>(x);
        const auto v = static_cast<double>(row[x]);
        sum[i] = mean ? sum[i] + v : std::min(sum[i], v);
        ++count[i];
      }
    }
  }
  if (read < 2) too_few();
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const auto i = static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) + static_cast<std::size_t>(x);
      out.row<float>(0, y)[x] = count[i] == 0 ? nothing : static_cast<float>(mean ? sum[i] / count[i] : sum[i]);
    }
  return out;
}

Image medians(const MotionFrames& frames, const std::vector<std::size_t>& numbers, std::int64_t memory, int band,
              const Job& job) {
  const Size size = frames.size();
  Image out(size.width, size.height, 1, Depth::f32);
  const std::int64_t a_row = static_cast<std::int64_t>(size.width) * 4 * static_cast<std::int64_t>(numbers.size());
  const int rows =
      static_cast<int>(std::clamp<std::int64_t>(memory / 2 / std::max<std::int64_t>(1, a_row), 1, size.height));
  const int parts = (size.height + rows - 1) / rows;
  for (int part = 0; part < parts; ++part) {
    const int top = part * rows, bottom = std::min(size.height, top + rows);
    std::vector<std::vector<float>> taken;
    for (std::size_t k = 0; k < numbers.size(); ++k) {
      const double n = static_cast<double>(numbers.size()) * parts,
                   at = static_cast<double>(k) + part * static_cast<double>(numbers.size());
      const auto plane = plane_at(frames, numbers[k], band, job.part(at / n, (at + 1) / n));
      if (!plane) continue;
      std::vector<float>& to = taken.emplace_back();
      for (int y = top; y < bottom; ++y)
        to.insert(to.end(), plane->row<float>(0, y), plane->row<float>(0, y) + size.width);
    }
    if (taken.size() < 2) too_few();
    parallel_for(bottom - top, {job.stop, {}}, [&](int y) {
      std::vector<float> values;
      for (int x = 0; x < size.width; ++x) {
        const auto i = static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) + static_cast<std::size_t>(x);
        values.clear();
        for (const auto& frame : taken)
          if (std::isfinite(frame[i])) values.push_back(frame[i]);
        out.row<float>(0, top + y)[x] = values.empty() ? nothing : central_median(values);
      }
    });
    job.check();
  }
  return out;
}

}  // namespace

std::shared_ptr<const Image> background_of(const MotionFrames& frames, const std::vector<std::size_t>& numbers,
                                           MotionBackground kind, std::int64_t memory, const Job& job, int band) {
  if (kind == MotionBackground::none) return nullptr;
  if (kind == MotionBackground::median)
    return std::make_shared<const Image>(medians(frames, numbers, memory, band, job));
  return std::make_shared<const Image>(streamed(frames, numbers, kind == MotionBackground::mean, band, job));
}

std::pair<std::shared_ptr<const Image>, std::shared_ptr<const Image>> backgrounds_for(
    const MotionFrames& frames, const std::vector<std::size_t>& kept, const MotionSettings& settings,
    std::int64_t memory, const Job& job) {
  const MotionPrepare& prepare = settings.prepare;
  if (prepare.background == MotionBackground::none) return {};
  if (settings.against != MotionAgainst::pairs || !prepare.apart) {
    const auto all = background_of(frames, kept, prepare.background, memory, job);
    return {all, all};
  }
  std::vector<std::size_t> of[2];
  for (std::size_t k = 0; k < kept.size(); ++k) of[k % 2].push_back(kept[k]);
  return {background_of(frames, of[0], prepare.background, memory, job.part(0, 0.5)),
          background_of(frames, of[1], prepare.background, memory, job.part(0.5, 1))};
}

Image without_background(const Image& frame, const Image* background, const Job& job) {
  Image out = plane_of(frame, 0, job);
  if (!background) return out;
  for (int y = 0; y < out.height(); ++y)
    for (int x = 0; x < out.width(); ++x)
      if (const float off = background->row<float>(0, y)[x]; std::isfinite(off)) out.row<float>(0, y)[x] -= off;
  return out;
}

}  // namespace fexel

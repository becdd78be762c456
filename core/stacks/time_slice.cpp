#include "stacks/time_slice.h"

#include <fmt/format.h>

#include <cmath>

#include "base/error.h"
#include "resample/warp.h"

namespace fexel {
namespace {

/// The samples as floats, so that means have fractions.
Image as_floats(const Image& from) {
  if (from.depth() == Depth::f32) return from.clone();
  Image out(from.width(), from.height(), from.bands(), Depth::f32, Image::Start::unset);
  for (int band = 0; band < from.bands(); ++band)
    for (int y = 0; y < from.height(); ++y)
      visit_depth(from.depth(), [&](auto kind) {
        const auto* row = from.row<decltype(kind)>(band, y);
        for (int x = 0; x < from.width(); ++x) out.row<float>(band, y)[x] = static_cast<float>(row[x]);
      });
  if (!from.has_mask()) return out;
  out.make_mask(true);
  for (int y = 0; y < from.height(); ++y)
    for (int x = 0; x < from.width(); ++x) out.set_valid(x, y, from.valid(x, y));
  return out;
}

}  // namespace

TimeSlice slice_along_time(const FrameStack& frames, Point from, Point to, int across, Kernel kernel, const Job& job) {
  const double length = distance(from, to);
  if (!(length >= 1)) throw call_error("The line is shorter than a pixel.", "--line", "Give two places: x1,y1,x2,y2.");
  if (across < 1 || across > 10000)
    throw call_error("The slice is 1 to 10000 px wide.", "--width", "Give a whole number.");
  const int columns = static_cast<int>(std::floor(length + 1e-9));
  const double dx = (to.x - from.x) / length, dy = (to.y - from.y) / length;
  // Slice coordinates (along, across) to the frame's; the line is the middle of the strip.
  WarpPlan plan;
  plan.inverse_map << dx, -dy, from.x + dy * across / 2.0, dy, dx, from.y - dx * across / 2.0, 0, 0, 1;
  plan.result = {columns, across};
  Clip clip;
  clip.keep_inside(frames.size());
  plan.clip = clip.through(Map(Matrix3(plan.inverse_map.inverse())));
  Resampling how;
  how.kernel = kernel;
  how.antialias = false;
  TimeSlice out;
  out.picture = Image(columns, static_cast<int>(frames.count()), frames.bands(), Depth::f32);
  out.picture.make_mask(false);
  bool any = false;
  for (std::size_t k = 0; k < frames.count(); ++k) {
    job.check();
    try {
      const Pyramid source(std::make_shared<const Image>(as_floats(frames.read(k, {job.stop, {}}))));
      const Image strip = warp(source, plan, {0, 0, columns, across}, how, Quality::final, {job.stop, {}});
      for (int x = 0; x < columns; ++x) {
        int count = 0;
        for (int y = 0; y < across; ++y) count += strip.valid(x, y);
        if (count == 0) continue;
        any = true;
        out.picture.set_valid(x, static_cast<int>(k), true);
        for (int band = 0; band < frames.bands(); ++band) {
          double sum = 0;
          for (int y = 0; y < across; ++y)
            if (strip.valid(x, y)) sum += static_cast<double>(strip.row<float>(band, y)[x]);
          out.picture.row<float>(band, static_cast<int>(k))[x] = static_cast<float>(sum / count);
        }
      }
    } catch (const Error& error) {
      if (error.kind() != Error::Kind::input) throw;
      out.notes.push_back(fmt::format("Frame {} is empty: {}", frames.number(k), error.message()));
    }
    if (job.progress) job.progress(static_cast<double>(k + 1) / static_cast<double>(frames.count()));
  }
  if (!any) throw call_error("The line lies outside of the frames.", "--line", "Give places in the pixels of a frame.");
  return out;
}

}  // namespace fexel

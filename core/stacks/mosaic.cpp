#include "stacks/mosaic.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <list>

#include "base/error.h"
#include "base/statistics.h"
#include "geometry/quad.h"
#include "resample/warp.h"
#include "stacks/mosaic_place.h"

namespace fexel {
namespace {

constexpr int coarse_side = 256;      // of the halves that gains are worked out from
constexpr int least_overlap_px = 32;  // of an overlap that is matched again
constexpr double fitting_px = 0.1;    // what an overlap may be off and still fits
constexpr double largest_canvas_side = 300000;

double sample(const Image& image, int band, int x, int y) {
  return visit_depth(image.depth(),
                     [&](auto kind) { return static_cast<double>(image.row<decltype(kind)>(band, y)[x]); });
}

/// Frames that were read last.
class Recent {
 public:
  Recent(const FrameStack& frames, std::int64_t memory) : frames_(frames) {
    const double one = 1.4 * static_cast<double>(frames.size().width) * frames.size().height * frames.bands() *
                       static_cast<double>(bytes_of(frames.depth()));
    most_ = static_cast<std::size_t>(std::clamp(static_cast<double>(memory) / 2 / one, 2.0, 1e6));
  }
  std::shared_ptr<const Pyramid> at(int i, const Job& job) {
    const auto found = std::ranges::find(kept_, i, &Kept::first);
    if (found != kept_.end()) {
      kept_.splice(kept_.begin(), kept_, found);
      return kept_.front().second;
    }
    Image image = frames_.read(static_cast<std::size_t>(i), {job.stop, {}});
    kept_.emplace_front(i, std::make_shared<const Pyramid>(std::make_shared<const Image>(std::move(image))));
    if (kept_.size() > most_) kept_.pop_back();
    return kept_.front().second;
  }

 private:
  using Kept = std::pair<int, std::shared_ptr<const Pyramid>>;
  const FrameStack& frames_;
  std::size_t most_;
  std::list<Kept> kept_;
};

struct Box {
  double left = 1e300, top = 1e300, right = -1e300, bottom = -1e300;
  void take(Point p) {
    left = std::min(left, p.x);
    top = std::min(top, p.y);
    right = std::max(right, p.x);
    bottom = std::max(bottom, p.y);
  }
};

/// Where a frame of this size lies; nothing where a horizon goes through it.
std::optional<Box> box_of(const Matrix3& matrix, Size size) {
  Box out;
  const Map map(matrix);
  for (const Point corner : {Point{0, 0}, Point{double(size.width), 0}, Point{double(size.width), double(size.height)},
                             Point{0, double(size.height)}}) {
    const auto at = map.forward(corner);
    if (!at) return std::nullopt;
    out.take(*at);
  }
  return out;
}

/// A frame small enough to be kept, as one float plane, NaN where it is empty or has no more light to show.
struct Coarse {
  Image plane;
  double factor = 1;
};

Coarse coarse_of(const Pyramid& frame) {
  Image plane = plane_of(frame.base(), 0, {});
  const double top = frame.base().largest();
  const bool integers = frame.base().depth() != Depth::f32;
  for (int y = 0; y < plane.height(); ++y)
    for (int x = 0; x < plane.width(); ++x) {
      float& v = plane.row<float>(0, y)[x];
      if (!plane.valid(x, y) || (integers && static_cast<double>(v) >= top))
        v = std::numeric_limits<float>::quiet_NaN();
    }
  plane.drop_mask();
  Coarse out;
  const int step = std::max(1, std::max(plane.width(), plane.height()) / coarse_side);
  out.factor = step;
  out.plane = Image(plane.width() / step, plane.height() / step, 1, Depth::f32);
  for (int y = 0; y < out.plane.height(); ++y)
    for (int x = 0; x < out.plane.width(); ++x) {
      double sum = 0;
      for (int j = 0; j < step; ++j)
        for (int i = 0; i < step; ++i) sum += static_cast<double>(plane.row<float>(0, y * step + j)[x * step + i]);
      out.plane.row<float>(0, y)[x] = static_cast<float>(sum / (step * step));
    }
  return out;
}

/// Means of both where they overlap; nothing where that is too little. `to_second` carries the first's px to the
/// second's.
std::optional<GainRatio> ratio_of(int first, const Coarse& a, int second, const Coarse& b, const Matrix3& to_second) {
  double sum_a = 0, sum_b = 0, n = 0;
  const Map map(to_second);
  for (int y = 0; y < a.plane.height(); ++y)
    for (int x = 0; x < a.plane.width(); ++x) {
      const float va = a.plane.row<float>(0, y)[x];
      const auto at = map.forward({(x + 0.5) * a.factor, (y + 0.5) * a.factor});
      if (!at || !std::isfinite(va)) continue;
      // Linear between the middles of the coarse pixels.
      const double u = at->x / b.factor - 0.5, v = at->y / b.factor - 0.5;
      const int i = static_cast<int>(std::floor(u)), j = static_cast<int>(std::floor(v));
      if (i < 0 || j < 0 || i + 1 >= b.plane.width() || j + 1 >= b.plane.height()) continue;
      const double fx = u - i, fy = v - j;
      const float* row = b.plane.row<float>(0, j) + i;
      const float* below = b.plane.row<float>(0, j + 1) + i;
      const double vb = (1 - fy) * ((1 - fx) * static_cast<double>(row[0]) + fx * static_cast<double>(row[1])) +
                        fy * ((1 - fx) * static_cast<double>(below[0]) + fx * static_cast<double>(below[1]));
      if (!std::isfinite(vb)) continue;
      sum_a += static_cast<double>(va);
      sum_b += vb;
      ++n;
    }
  if (n < 16 || !(sum_a > 0) || !(sum_b > 0)) return std::nullopt;
  return GainRatio{first, second, sum_a / sum_b, n};
}

class Maker {
 public:
  Maker(const FrameStack& frames, const MosaicOptions& options, const Job& job)
      : frames_(frames), options_(options), job_(job), recent_(frames, options.memory) {}

  Mosaic make() {
    place();
    for (std::size_t i = 0; i < out_.frames.size(); ++i)
      if (!out_.frames[i].placed)
        out_.notes.push_back(fmt::format("Frame {} is left out: {}", frames_.number(i), out_.frames[i].reason));
    if (options_.even_gain) even(job_.part(0.7, 0.75));
    difference_of_seams();
    blend(job_.part(0.75, 1));
    return std::move(out_);
  }

 private:
  void place() {
    MosaicPlaces places(frames_, options_.match, options_.band, options_.memory);
    places.search(job_.part(0, 0.4));
    out_.reference = places.reference();
    lay(places);
    for (double share = 0.4;; share = (share + 0.7) / 2) {
      judge(job_.part(share, (share + 0.7) / 2));
      confirm();
      if (options_.keep_doubtful) return;
      std::vector<int> doubtful;
      for (std::size_t i = 0; i < out_.frames.size(); ++i)
        if (out_.frames[i].placed && out_.frames[i].status != MatchStatus::ok) doubtful.push_back(static_cast<int>(i));
      if (doubtful.empty()) return;
      // What pulled at the others does so no more; each round leaves some out, so there is a last one.
      places.drop(doubtful);
      lay(places);
    }
  }

  /// The canvas for the frames that have a place.
  void lay(const MosaicPlaces& places) {
    const auto& found = places.frames();
    out_.frames.assign(found.size(), {});
    Box all;
    int placed = 0;
    for (std::size_t i = 0; i < found.size(); ++i) {
      MosaicFrame& frame = out_.frames[i];
      frame.reason = found[i].reason;
      const auto box = found[i].matrix ? box_of(*found[i].matrix, frames_.size()) : std::nullopt;
      frame.placed = box.has_value();
      if (!box) {
        if (frame.reason.empty()) frame.reason = "No overlap that fits joins it to the others.";
        continue;
      }
      frame.uncertainty_px = found[i].uncertainty_px;
      frame.to_canvas = *found[i].matrix;
      ++placed;
      all.take({box->left, box->top});
      all.take({box->right, box->bottom});
    }
    if (placed < 2)
      throw input_error("No two of these frames were found to overlap.", {},
                        "Name frames that share a tenth of their area or more, or try another model.");
    // Whole pixels of the reference: it is copied.
    const double left = std::floor(all.left + 1e-6), top = std::floor(all.top + 1e-6);
    const double width = std::ceil(all.right - 1e-6) - left, height = std::ceil(all.bottom - 1e-6) - top;
    if (!(width >= 1 && height >= 1 && width <= largest_canvas_side && height <= largest_canvas_side))
      throw input_error(fmt::format("The mosaic would have {:.0f} x {:.0f} px.", width, height), {},
                        "Use a simpler model (translation or rigid), or fewer frames.");
    out_.origin = {left, top};
    size_ = {static_cast<int>(width), static_cast<int>(height)};
    for (MosaicFrame& frame : out_.frames)
      if (frame.placed) frame.to_canvas = translation(-left, -top) * frame.to_canvas;
  }

  Matrix3 between(int from, int to) const {
    return out_.frames[static_cast<std::size_t>(to)].to_canvas.inverse() *
           out_.frames[static_cast<std::size_t>(from)].to_canvas;
  }
  bool placed(int i) const { return out_.frames[static_cast<std::size_t>(i)].placed; }

  void even(const Job& job) {
    const int count = static_cast<int>(frames_.count());
    std::vector<Coarse> coarse(frames_.count());
    for (int i = 0; i < count; ++i) {
      job.check();
      if (placed(i)) coarse[static_cast<std::size_t>(i)] = coarse_of(*recent_.at(i, job));
      if (job.progress) job.progress(static_cast<double>(i + 1) / count);
    }
    std::vector<GainRatio> ratios;
    for (int i = 0; i < count; ++i)
      for (int k = i + 1; k < count; ++k)
        if (placed(i) && placed(k) && overlap(i, k))
          if (const auto ratio = ratio_of(i, coarse[static_cast<std::size_t>(i)], k,
                                          coarse[static_cast<std::size_t>(k)], between(i, k)))
            ratios.push_back(*ratio);
    const std::vector<double> gains = evened_gains(count, ratios);
    for (int i = 0; i < count; ++i) out_.frames[static_cast<std::size_t>(i)].gain = gains[static_cast<std::size_t>(i)];
  }

  /// The part of the canvas that a frame covers, within rows [top, bottom); empty where none.
  Region covered(int i, int top, int bottom) const {
    const auto box = box_of(out_.frames[static_cast<std::size_t>(i)].to_canvas, frames_.size());
    const int left = std::max(0, static_cast<int>(std::floor(box->left))),
              right = std::min(size_.width, static_cast<int>(std::ceil(box->right)));
    const int first = std::max(top, static_cast<int>(std::floor(box->top))),
              last = std::min(bottom, static_cast<int>(std::ceil(box->bottom)));
    return {left, first, std::max(0, right - left), std::max(0, last - first)};
  }

  /// The box of the canvas in which two frames lie over each other; nothing where that is too small to match.
  std::optional<Region> overlap(int i, int k) const {
    const Region a = covered(i, 0, size_.height), b = covered(k, 0, size_.height);
    const int left = std::max(a.x, b.x), top = std::max(a.y, b.y);
    const int right = std::min(a.x + a.width, b.x + b.width), bottom = std::min(a.y + a.height, b.y + b.height);
    if (right - left < least_overlap_px || bottom - top < least_overlap_px) return std::nullopt;
    return Region{left, top, right - left, bottom - top};
  }

  Image warped(int i, Region part, const Job& job) {
    const MosaicFrame& frame = out_.frames[static_cast<std::size_t>(i)];
    WarpPlan plan;
    plan.inverse_map = frame.to_canvas.inverse();
    plan.result = size_;
    Clip clip;
    clip.keep_inside(frames_.size());
    plan.clip = clip.through(Map(frame.to_canvas));
    return warp(*recent_.at(i, job), plan, part, options_.resampling, Quality::final, {job.stop, {}});
  }

  /// How much a place of the canvas counts for a frame.
  double weight(const Map& from_canvas, int x, int y) const {
    if (options_.blend != Blend::feathered) return 1;
    const auto at = from_canvas.forward({x + 0.5, y + 0.5});
    if (!at) return 0;
    const double inside =
        std::min(std::min(at->x, frames_.size().width - at->x), std::min(at->y, frames_.size().height - at->y));
    return std::max(inside, 1e-3);
  }

  void blend(const Job& job) {
    const int bands = frames_.bands();
    out_.picture = Image(size_.width, size_.height, bands, frames_.depth());
    out_.picture.make_mask(false);
    int deepest = 1;
    if (options_.blend == Blend::median)
      for (const MosaicFrame& frame : out_.frames) deepest += frame.placed;
    const double row =
        static_cast<double>(size_.width) * bands * (options_.blend == Blend::median ? 64 + 4.0 * deepest : 16);
    const int rows =
        static_cast<int>(std::clamp(static_cast<double>(options_.memory) / row, 1.0, double(size_.height)));
    for (int top = 0; top < size_.height; top += rows)
      blend_rows(top, std::min(size_.height, top + rows),
                 job.part(static_cast<double>(top) / size_.height,
                          static_cast<double>(std::min(size_.height, top + rows)) / size_.height));
    out_.clamped += clamp_to_largest(out_.picture);
  }

  void blend_rows(int top, int bottom, const Job& job) {
    const int bands = frames_.bands(), width = size_.width;
    const auto samples = static_cast<std::size_t>(width) * static_cast<std::size_t>(bottom - top);
    const bool median = options_.blend == Blend::median;
    std::vector<double> sums(median ? 0 : samples * static_cast<std::size_t>(bands)), weights(median ? 0 : samples);
    std::vector<std::vector<float>> values(median ? samples * static_cast<std::size_t>(bands) : 0);
    const int count = static_cast<int>(frames_.count());
    for (int i = 0; i < count; ++i) {
      job.check();
      if (job.progress) job.progress(static_cast<double>(i) / count);
      if (!placed(i)) continue;
      const Region part = covered(i, top, bottom);
      if (part.width < 1 || part.height < 1) continue;
      const Image frame = warped(i, part, job);
      if (frame.stated_largest() > 0) out_.picture.set_largest(frame.stated_largest());
      const double gain = out_.frames[static_cast<std::size_t>(i)].gain;
      const Map from_canvas(Matrix3(out_.frames[static_cast<std::size_t>(i)].to_canvas.inverse()));
      parallel_for(part.height, {job.stop, {}}, [&](int y) {
        for (int x = 0; x < part.width; ++x) {
          if (!frame.valid(x, y)) continue;
          const std::size_t at = static_cast<std::size_t>(part.y + y - top) * static_cast<std::size_t>(width) +
                                 static_cast<std::size_t>(part.x + x);
          if (!median && options_.blend == Blend::first && weights[at] > 0) continue;
          if (!median && options_.blend == Blend::last) weights[at] = 0;
          const double w = weight(from_canvas, part.x + x, part.y + y);
          for (int band = 0; band < bands; ++band) {
            const double value = gain * sample(frame, band, x, y);
            const std::size_t place = static_cast<std::size_t>(band) * samples + at;
            if (median)
              values[place].push_back(static_cast<float>(value));
            else if (weights[at] == 0)
              sums[place] = w * value;
            else
              sums[place] += w * value;
          }
          if (!median) weights[at] += w;
        }
      });
    }
    std::mutex mutex;
    parallel_for(bottom - top, {job.stop, {}}, [&](int y) {
      std::int64_t clamped = 0;
      for (int x = 0; x < width; ++x) {
        const std::size_t at =
            static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x);
        const bool there = median ? !values[at].empty() : weights[at] > 0;
        if (!there) continue;
        out_.picture.set_valid(x, top + y, true);
        for (int band = 0; band < bands; ++band) {
          const std::size_t place = static_cast<std::size_t>(band) * samples + at;
          const double value = median ? static_cast<double>(central_median(values[place])) : sums[place] / weights[at];
          visit_depth(out_.picture.depth(), [&](auto kind) {
            using T = decltype(kind);
            out_.picture.row<T>(band, top + y)[x] = to_sample<T>(static_cast<float>(value), clamped);
          });
        }
      }
      const std::scoped_lock lock(mutex);
      out_.clamped += clamped;
    });
  }

  /// Matches each overlap again, by itself: what is left over is what the seam shows.
  void judge(const Job& job) {
    const int count = static_cast<int>(frames_.count());
    out_.seams.clear();
    for (int i = 0; i < count; ++i) {
      for (int k = i + 1; k < count; ++k) {
        job.check();
        if (!placed(i) || !placed(k)) continue;
        if (const auto part = overlap(i, k))
          if (auto seam = judged(i, k, *part, job)) out_.seams.push_back(*seam);
      }
      if (job.progress) job.progress(static_cast<double>(i + 1) / count);
    }
    out_.largest_seam_px = 0;
    for (const MosaicSeam& seam : out_.seams)
      if (seam.status == MatchStatus::ok)
        out_.largest_seam_px = std::max(out_.largest_seam_px, std::hypot(seam.left_over.x, seam.left_over.y));
  }

  /// A frame is ok where overlaps that fit lead from it to the reference, and weak where none does.
  void confirm() {
    std::vector<bool> reached(out_.frames.size(), false);
    reached[static_cast<std::size_t>(out_.reference)] = true;
    const auto fits = [](const MosaicSeam& seam) {
      return seam.status == MatchStatus::ok && std::hypot(seam.left_over.x, seam.left_over.y) <=
                                                   std::max(fitting_px, 3 * std::sqrt(2.0) * seam.uncertainty_px);
    };
    for (bool more = true; more;) {
      more = false;
      for (const MosaicSeam& seam : out_.seams) {
        const auto a = static_cast<std::size_t>(seam.first), b = static_cast<std::size_t>(seam.second);
        if (reached[a] == reached[b] || !fits(seam)) continue;
        reached[a] = reached[b] = more = true;
      }
    }
    for (std::size_t i = 0; i < out_.frames.size(); ++i) {
      MosaicFrame& frame = out_.frames[i];
      if (!frame.placed) continue;
      frame.status = reached[i] ? MatchStatus::ok : MatchStatus::weak;
      frame.reason = reached[i] ? "" : "No overlap that fits joins it to the others.";
    }
  }

  std::optional<MosaicSeam> judged(int i, int k, Region part, const Job& job) {
    const Image first = warped(i, part, job), second = warped(k, part, job);
    MosaicSeam out;
    out.first = i;
    out.second = k;
    out.part = part;
    Image use(part.width, part.height, 1, Depth::u8);
    for (int y = 0; y < part.height; ++y)
      for (int x = 0; x < part.width; ++x) {
        if (!first.valid(x, y) || !second.valid(x, y)) continue;
        use.row<std::uint8_t>(0, y)[x] = 255;
        ++out.pixels;
      }
    if (out.pixels < least_overlap_px * least_overlap_px) return std::nullopt;
    try {
      const Job quiet{job.stop, {}};
      const PreparedFrame reference(first, options_.band, SimilarityMetric::brightness, &use, Role::reference, quiet);
      const PreparedFrame moved(second, options_.band, SimilarityMetric::brightness, nullptr, Role::moved, quiet);
      const Match match =
          match_frames(reference, moved, {Model::translation, false}, plans_, Matrix3::Identity(), quiet);
      out.status = match.status;
      if (match.status == MatchStatus::failed) return out;
      out.left_over = {match.matrix(0, 2), match.matrix(1, 2)};
      out.uncertainty_px = match.uncertainty_px;
    } catch (const Error& error) {
      if (error.kind() == Error::Kind::cancelled) throw;  // nothing to match there
    }
    return out;
  }

  /// By how much the samples of both differ where they overlap, once the gains are known.
  void difference_of_seams() {
    for (MosaicSeam& seam : out_.seams) {
      const Image first = warped(seam.first, seam.part, job_), second = warped(seam.second, seam.part, job_);
      const double a = out_.frames[static_cast<std::size_t>(seam.first)].gain,
                   b = out_.frames[static_cast<std::size_t>(seam.second)].gain;
      double squares = 0;
      for (int y = 0; y < seam.part.height; ++y)
        for (int x = 0; x < seam.part.width; ++x) {
          if (!first.valid(x, y) || !second.valid(x, y)) continue;
          for (int band = 0; band < frames_.bands(); ++band) {
            const double off = a * sample(first, band, x, y) - b * sample(second, band, x, y);
            squares += off * off;
          }
        }
      seam.rms = std::sqrt(squares / (seam.pixels * frames_.bands()));
    }
  }

  const FrameStack& frames_;
  const MosaicOptions& options_;
  const Job& job_;
  Recent recent_;
  FftPlans plans_;
  Size size_;
  Mosaic out_;
};

}  // namespace

const std::vector<std::string>& blend_words() {
  static const std::vector<std::string> words{"first", "last", "mean", "median", "feathered"};
  return words;
}

Mosaic make_mosaic(const FrameStack& frames, const MosaicOptions& options, const Job& job) {
  if (frames.count() < 2)
    throw input_error("A mosaic needs two frames.", {}, "Name more pictures, or a folder of them.");
  return Maker(frames, options, job).make();
}

}  // namespace fexel

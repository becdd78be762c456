#include "resample/warp.h"

#include <atomic>
#include <cstring>
#include <limits>

#include "resample/coordinates/clip_spans.h"
#include "resample/kernels/footprint.h"
#include "resample/kernels/prefilter.h"
#include "resample/paths/antialias.h"
#include "resample/paths/choose_path.h"
#include "resample/paths/copy.h"
#include "resample/paths/digital_lines.h"
#include "resample/paths/row_float.h"
#include "resample/paths/row_int16.h"
#include "resample/paths/sampler.h"
#include "resample/paths/separable.h"
#include "resample/paths/tile.h"

namespace fexel {
namespace {

/// Coordinates of pixels [x, x + count) of row y.
void fill_points(const Matrix3& m, int x, int y, int count, SourcePoints& run) {
  run.count = count;
  const double cy = y + 0.5;
  const double ax = m(0, 1) * cy + m(0, 2);
  const double ay = m(1, 1) * cy + m(1, 2);
  const double aw = m(2, 1) * cy + m(2, 2);
  const bool affine = m(2, 0) == 0;
  for (int i = 0; i < count; ++i) {
    const double cx = x + i + 0.5;
    const double inverse = affine ? 1 / aw : 1 / (m(2, 0) * cx + aw);
    run.x[static_cast<std::size_t>(i)] = (m(0, 0) * cx + ax) * inverse;
    run.y[static_cast<std::size_t>(i)] = (m(1, 0) * cx + ay) * inverse;
  }
}

/// Where the pixels of a tile stand, row by row.
class TileRows {
 public:
  TileRows(const TilePlan& plan, TileMapGrids& grids) : plan_(plan) {
    if (plan.curved) grid_ = grids.of(*plan.curved, plan.scale);
  }
  void begin(int y) {
    y_ = y;
    drawn_ = false;
    nowhere.clear();
  }
  /// The grid of the row; nothing where a matrix tells all.
  const MapGridRow* grid() {
    if (!grid_) return nullptr;
    if (!drawn_) grid_->row(y_, row_);
    drawn_ = true;
    return &row_;
  }

  /// Coordinates of pixels [x, x + count). A pixel without a place is put at the origin and noted.
  void fill(int x, int count, SourcePoints& run) {
    const MapGridRow* row = grid();
    if (!row) return fill_points(plan_.inverse_map, x, y_, count, run);
    run.count = count;
    grid_->fill(*row, y_, x, count, run.x.data(), run.y.data(), nowhere);
  }

  std::vector<int> nowhere;  ///< pixels of the row that were filled in and have no place

 private:
  const TilePlan& plan_;
  std::shared_ptr<MapGrid> grid_;
  MapGridRow row_;
  bool drawn_ = false;  // the row is that of y_
  int y_ = 0;
};

/// The widened kernel over one run, where it has a share. Footprints are exact at the ends of stretches of 16 pixels
/// and even in between; where they would be off by that, stretches are halved, down to single pixels.
class ShrinkingSpan {
 public:
  ShrinkingSpan(const TilePlan& plan, WidenedSampler& sampler, int x, int y, const SourcePoints& run, float* values,
                std::array<float, points_at_once>& mix)
      : plan_(plan), sampler_(sampler), x_(x), y_(y), run_(run), values_(values), mix_(mix) {
    constexpr int most = WidenedTaps::pixels;
    const int early = past(x + plan.whole_x, most);
    Footprint from = footprint_at(-early);
    for (int start = -early; start < run.count; start += most) {
      const Footprint to = footprint_at(start + most);
      stretch(start, most, from, to);
      from = to;
    }
  }

 private:
  Footprint footprint_at(int i) const {
    const auto j = plan_.slope({x_ + i + 0.5, y_ + 0.5});
    return footprint(j ? without(plan_.stride, *j) : Matrix2(Matrix2::Identity()));
  }
  static bool between(const Footprint& a, const Footprint& middle, const Footprint& b) {
    constexpr double max_off = 1.0 / 256, max_share = 1.0 / 256;
    const auto off = [](double p, double m, double q) { return std::abs(m - (p + q) / 2); };
    return (middle.reach - (a.reach + b.reach) / 2).cwiseAbs().maxCoeff() < max_off * middle.reach.norm() &&
           off(a.mix, middle.mix, b.mix) < max_share && off(a.wide_u, middle.wide_u, b.wide_u) < max_share &&
           off(a.wide_v, middle.wide_v, b.wide_v) < max_share;
  }

  void stretch(int start, int pixels, const Footprint& from, const Footprint& to) {
    const int begin = std::max(start, 0), end = std::min(start + pixels, run_.count);
    if (begin >= end) return;
    if (pixels > 1 && !plan_.affine()) {
      const Footprint middle = footprint_at(start + pixels / 2);
      if (!between(from, middle, to)) {
        stretch(start, pixels / 2, from, middle);
        return stretch(start + pixels / 2, pixels / 2, middle, to);
      }
    }
    bool any = false;
    for (int i = begin; i < end; ++i) {
      const double t = static_cast<double>(i - start) / pixels;
      mix_[static_cast<std::size_t>(i)] = static_cast<float>(from.mix + t * (to.mix - from.mix));
      any = any || mix_[static_cast<std::size_t>(i)] > 0;
    }
    if (any)
      sampler_.sample({from, to, pixels}, {begin - start, end - begin, run_.x.data() + begin, run_.y.data() + begin},
                      values_ + begin, points_at_once);
  }

  const TilePlan& plan_;
  WidenedSampler& sampler_;
  int x_, y_;
  const SourcePoints& run_;
  float* values_;
  std::array<float, points_at_once>& mix_;
};

/// Where the samples of pixel x of the result's row y go.
RowTarget target_in(Image& out, Region region, int x, int y) {
  const auto sample = static_cast<std::ptrdiff_t>(bytes_of(out.depth()));
  const std::ptrdiff_t plane = out.bands() > 1 ? out.bytes(1, 0) - out.bytes(0, 0) : 0;
  return {out.bytes(0, y - region.y) + (x - region.x) * sample, plane, out.depth()};
}

/// Interpolates pixels [x, x + count) of row y with the kernel's own width, into a target that begins with pixel x.
class PlainRows {
 public:
  PlainRows(const TilePlan& plan, TileMapGrids& grids, BorderMode edge)
      : places(plan, grids),
        plan_(plan),
        edge_(edge),
        samples_(samples_of(*plan.plain, plan.plain_kernel == Kernel::bspline3 ? prefilter_margin : 0,
                            edge == BorderMode::fill || edge == BorderMode::extend)) {}

  void write(int x, int y, int count, const RowTarget& target) {
    rest_.clear();
    if (plan_.path == Path::sampler)
      rest_.push_back({x, count});
    else
      from_samples_or_bytes(x, y, count, target);
    for (const PixelSpan& stretch : rest_)
      for (int from = stretch.x; from < stretch.x + stretch.count; from += points_at_once) {
        places.fill(from, std::min(points_at_once, stretch.x + stretch.count - from), run_);
        const RowTarget there{target.first + (from - x) * static_cast<std::ptrdiff_t>(bytes_of(target.depth)),
                              target.plane, target.depth};
        if (plan_.path == Path::sampler || !interpolate_points(samples_, plan_.plain_kernel, run_, there, clamped))
          write_run(there);
      }
  }

  TileRows places;
  std::int64_t clamped = 0;

 private:
  void from_samples_or_bytes(int x, int y, int count, const RowTarget& target) {
    if (target.depth != Depth::u8 || plan_.path == Path::row_float) return from_samples(x, y, count, target);
    steep_.clear();
    if (plan_.path == Path::int16) {
      from_int16(x, y, count, target);
    } else {
      if (!lines_) lines_.emplace(plan_, edge_);
      lines_->write(x, y, count, target, steep_, clamped);
    }
    for (const PixelSpan& stretch : steep_)
      from_samples(stretch.x, y, stretch.count, {target.first + (stretch.x - x), target.plane, target.depth});
  }
  void from_samples(int x, int y, int count, const RowTarget& target) {
    if (const MapGridRow* row = places.grid())
      interpolate_along(samples_, plan_.plain_kernel, *row, x, count, target, rest_, clamped);
    else
      interpolate_row(samples_, plan_.plain_kernel, plan_.inverse_map, x, y, count, target, rest_, clamped);
  }
  void from_int16(int x, int y, int count, const RowTarget& target) {
    if (!laid_out_) laid_out_.emplace(*plan_.plain, plan_.plain_kernel, *plan_.box, edge_, plan_.whole_x);
    if (const MapGridRow* row = places.grid())
      interpolate_int16_along(*laid_out_, plan_.plain_kernel, *row, x, count, target, steep_, clamped);
    else
      interpolate_int16(*laid_out_, plan_.plain_kernel, plan_.inverse_map, x, y, count, target, steep_, clamped);
  }
  void write_run(const RowTarget& target) {
    std::array<float, points_at_once> values;
    for (int band = 0; band < samples_.bands; ++band) {
      sample_plain(*plan_.plain, band, plan_.plain_kernel, edge_, run_, values.data());
      visit_depth(target.depth, [&](auto sample) {
        auto* out = reinterpret_cast<decltype(sample)*>(target.first + band * target.plane);
        for (int i = 0; i < run_.count; ++i)
          out[i] = to_sample<decltype(sample)>(values[static_cast<std::size_t>(i)], clamped);
      });
    }
  }

  const TilePlan& plan_;
  BorderMode edge_;
  std::optional<Int16Tile> laid_out_;  // laid out when a row first asks for them
  std::optional<DigitalLineSampler> lines_;
  Samples samples_;
  std::vector<PixelSpan> rest_, steep_;
  SourcePoints run_;
};

template <class T>
void fill_around(Clip::Span span, Region tile, int y, Region region, const Resampling& resampling, Image& out) {
  for (int band = 0; band < out.bands(); ++band) {
    T* row = out.row<T>(band, y - region.y) - region.x;
    const T fill = static_cast<T>(resampling.fill_of(band));
    std::fill(row + tile.x, row + span.begin, fill);
    std::fill(row + span.end, row + tile.x + tile.width, fill);
  }
}

/// A stretch of a row where the widened kernel has a share.
template <class T>
class ShrinkingRows {
 public:
  ShrinkingRows(const TilePlan& plan, const Resampling& resampling, int bands)
      : plan_(plan),
        bands_(bands),
        sampler_(*plan.source, resampling.kernel, resampling.edge),
        wide_(static_cast<std::size_t>(bands * points_at_once)),
        plain_(wide_.size()) {}

  void write(int x, int y, int count, PlainRows& rows, const RowTarget& target) {
    rows.places.fill(x, count, run_);
    ShrinkingSpan(plan_, sampler_, x, y, run_, wide_.data(), mix_);
    const bool all_wide = *std::min_element(mix_.begin(), mix_.begin() + count) >= 1;
    if (!all_wide)
      rows.write(x, y, count,
                 {reinterpret_cast<std::byte*>(plain_.data()), points_at_once * sizeof(float), Depth::f32});
    for (int band = 0; band < bands_; ++band) {
      T* out = reinterpret_cast<T*>(target.first + band * target.plane);
      const float* wide = wide_.data() + band * points_at_once;
      const float* plain = plain_.data() + band * points_at_once;
      for (int i = 0; i < count; ++i) {
        const float mix = mix_[static_cast<std::size_t>(i)];
        const float value = all_wide ? wide[i] : mix > 0 ? plain[i] + mix * (wide[i] - plain[i]) : plain[i];
        out[i] = to_sample<T>(value, rows.clamped);
      }
    }
  }

 private:
  const TilePlan& plan_;
  int bands_;
  WidenedSampler sampler_;
  SourcePoints run_;
  std::array<float, points_at_once> mix_;
  std::vector<float> wide_, plain_;
};

std::int64_t scale_region(const ScalePlan& plan, const Clip& painted, Region tile, const Resampling& resampling,
                          Image& out) {
  for (int y = tile.y; y < tile.y + tile.height; ++y)
    visit_depth(out.depth(), [&](auto sample) {
      fill_around<decltype(sample)>(painted.row(y + 0.5, tile.x, tile.x + tile.width), tile, y, plan.region, resampling,
                                    out);
    });
  const int x = tile.x - plan.region.x, y = tile.y - plan.region.y;
  return scale_tile(plan, x, y, x + tile.width, y + tile.height, painted, out);
}

/// What lies between the spans of a row.
template <class T>
void fill_between(std::span<const Clip::Span> spans, Region tile, int y, Region region, const Resampling& resampling,
                  Image& out) {
  int from = tile.x;
  for (std::size_t i = 0; i <= spans.size(); ++i) {
    const int to = i < spans.size() ? spans[i].begin : tile.x + tile.width;
    if (from < to) fill_around<T>({from, from}, {from, y, to - from, 1}, y, region, resampling, out);
    if (i < spans.size()) from = spans[i].end;
  }
}

/// Returns how many samples were clamped.
template <class T>
std::int64_t warp_tile(const TilePlan& plan, TileMapGrids& grids, ClipSpans& painted, Region tile, Region region,
                       const Resampling& resampling, const std::stop_token& stop, Image& out) {
  PlainRows rows(plan, grids, resampling.edge);
  std::optional<ShrinkingRows<T>> shrinking;
  if (plan.shrinking) shrinking.emplace(plan, resampling, out.bands());
  for (int y = tile.y; y < tile.y + tile.height && !stop.stop_requested(); ++y) {
    const auto spans = painted.spans(y);
    fill_between<T>(spans, tile, y, region, resampling, out);
    rows.places.begin(y);
    for (const auto& span : spans) {
      if (!shrinking) rows.write(span.begin, y, span.end - span.begin, target_in(out, region, span.begin, y));
      // Runs begin where those of the whole do, for between their footprints it is interpolated.
      for (int x = span.begin; shrinking && x < span.end;) {
        const int count = std::min(points_at_once - past(x + plan.whole_x, points_at_once), span.end - x);
        shrinking->write(x, y, count, rows, target_in(out, region, x, y));
        x += count;
      }
    }
    for (const int x : rows.places.nowhere) fill_around<T>({x, x}, {x, y, 1, 1}, y, region, resampling, out);
  }
  return rows.clamped;
}

/// Writes the mask rows, and returns how many pixels are empty.
std::int64_t write_mask(const Clip& clip, Region region, int y0, int y1, Image& out) {
  std::int64_t empty = 0;
  for (int y = y0; y < y1; ++y) {
    const auto span = clip.row(region.y + y + 0.5, region.x, region.x + region.width);
    empty += region.width - (span.end - span.begin);
    out.set_valid_span(y, span.begin - region.x, span.end - region.x);
  }
  return empty;
}

/// Makes the pixels of a row empty whose centres lie in empty pixels of the source, and returns how many.
std::int64_t leave_out(const Image& source, const WarpPlan& plan, Region region, int y, const Resampling& resampling,
                       Image& out) {
  std::int64_t empty = 0;
  const auto span = plan.clip.row(y + 0.5, region.x, region.x + region.width);
  for (int x = span.begin; x < span.end; ++x) {
    if (!out.valid(x - region.x, y - region.y)) continue;
    const Point centre{x + 0.5, y + 0.5};
    const auto at = plan.curved ? plan.curved->forward(centre) : Map::apply(plan.inverse_map, centre);
    const auto place = [](double v, int count) { return std::clamp(static_cast<int>(std::floor(v)), 0, count - 1); };
    if (!at || source.valid(place(at->x, source.width()), place(at->y, source.height()))) continue;
    ++empty;
    out.set_valid(x - region.x, y - region.y, false);
    for (int band = 0; band < out.bands(); ++band)
      visit_depth(out.depth(), [&](auto sample) {
        using T = decltype(sample);
        T& value = out.row<T>(band, y - region.y)[x - region.x];
        if constexpr (std::is_floating_point_v<T>)
          value = std::numeric_limits<T>::quiet_NaN();
        else if (resampling.edge == BorderMode::fill)
          value = static_cast<T>(resampling.fill_of(band));
      });
  }
  return empty;
}

/// The mask of a tile, whose columns begin with a word of the mask; returns how many pixels are empty.
std::int64_t mark_tile(ClipSpans& cover, Region tile, Region region, Image& out) {
  std::int64_t empty = std::int64_t{tile.width} * tile.height;
  for (int y = tile.y; y < tile.y + tile.height; ++y)
    for (const auto& span : cover.spans(y)) {
      out.add_valid_span(y - region.y, span.begin - region.x, span.end - region.x);
      empty -= span.end - span.begin;
    }
  return empty;
}

/// Copies rows [y0, y1) of the region; returns how many pixels are empty.
std::int64_t copy_strip(const Image& base, const WarpPlan& plan, const PixelMove& move, Region region, int y0, int y1,
                        const Resampling& resampling, bool masked, Image& out) {
  copy_moved(base, move, plan.clip, region, y0, y1, resampling, out);
  if (plan.clip.convex()) return masked ? write_mask(plan.clip, region, y0, y1, out) : 0;
  const Region strip{region.x, region.y + y0, region.width, y1 - y0};
  TileMapGrids grids(strip);
  ClipSpans inside(plan.clip, strip, grids);
  const std::int64_t empty = mark_tile(inside, strip, region, out);
  if (resampling.edge == BorderMode::fill)
    visit_depth(base.depth(), [&](auto sample) {
      for (int y = strip.y; y < strip.y + strip.height; ++y)
        fill_between<decltype(sample)>(inside.spans(y), strip, y, region, resampling, out);
    });
  return empty;
}

PathPixels pixels_by_path(const PathChoice& choice, Region region, std::span<const Region> tiles) {
  PathPixels out;
  const auto add = [&](Path path, Region r) {
    out.by_path[static_cast<std::size_t>(path)] += std::int64_t{r.width} * r.height;
  };
  if (choice.move) add(Path::copy, region);
  if (choice.scaling) add(Path::separable, region);
  for (std::size_t i = 0; i < choice.tiles.size(); ++i) {
    add(choice.tiles[i].path, tiles[i]);
    if (choice.tiles[i].shrinking) out.widened += std::int64_t{tiles[i].width} * tiles[i].height;
  }
  return out;
}

}  // namespace

bool is_exact(const WarpPlan& plan) {
  return !plan.curved && whole_pixel_move(plan.inverse_map, plan.result, plan.stride).has_value();
}

Image warp(const Pyramid& source, const WarpPlan& plan, Region region, const Resampling& resampling, Quality quality,
           const Job& job, WarpReport* report) {
  const Image& base = source.base();
  Image out(region.width, region.height, base.bands(), base.depth(), Image::Start::unset);
  std::atomic<std::int64_t> clamped = 0;
  std::atomic<std::int64_t> empty = 0;
  const bool masked = !plan.clip.holds(region) || base.has_mask();
  if (masked && plan.clip.convex())
    out.make_unset_mask();  // row by row
  else if (masked)
    out.make_mask(false);

  // With an border mode other than fill, everything this side of the horizon is painted.
  Clip painted = plan.clip;
  if (resampling.edge != BorderMode::fill) {
    painted = plan.curved ? Clip{} : Clip{}.through(Map(plan.inverse_map).inverse());
  }
  // Tiles begin where those of the whole do; where masks are made a tile at a time, with a word of the mask.
  const bool by_tile = !plan.clip.convex();
  const int early_x = by_tile ? 0 : past(region.x + plan.whole_x, tile_width);
  const int early_y = by_tile ? 0 : past(region.y + plan.whole_y, tile_height);
  const int across = (region.width + early_x + tile_width - 1) / tile_width;
  const int down = (region.height + early_y + tile_height - 1) / tile_height;
  const auto tile_at = [&](int index) {
    const int x = index % across * tile_width - early_x, y = index / across * tile_height - early_y;
    const int x0 = std::max(x, 0), y0 = std::max(y, 0);
    return Region{region.x + x0, region.y + y0, std::min(x + tile_width, region.width) - x0,
                  std::min(y + tile_height, region.height) - y0};
  };
  std::vector<Region> tiles;
  for (int index = 0; index < across * down; ++index) tiles.push_back(tile_at(index));
  // Before the loop, because a missing pyramid level is made, in parallel, when it is first asked for.
  const PathChoice choice = choose_path(source, plan, region, tiles, resampling, quality, {job.stop, {}});
  if (choice.move) {
    const int strips = (region.height + tile_height - 1) / tile_height;
    parallel_for(strips, job, [&](int index) {
      const int y0 = index * tile_height, y1 = std::min(y0 + tile_height, region.height);
      empty += copy_strip(base, plan, *choice.move, region, y0, y1, resampling, masked, out);
    });
  } else {
    parallel_for(across * down, job, [&](int index) {
      const Region tile = tiles[static_cast<std::size_t>(index)];
      TileMapGrids grids(tile);
      ClipSpans inside(plan.clip, tile, grids);
      if (masked && by_tile) empty += mark_tile(inside, tile, region, out);
      if (masked && !by_tile && tile.x == region.x)
        empty += write_mask(plan.clip, region, tile.y - region.y, tile.y - region.y + tile.height, out);
      if (choice.scaling) {
        clamped += scale_region(*choice.scaling, painted, tile, resampling, out);
        return;
      }
      const TilePlan& how = choice.tiles[static_cast<std::size_t>(index)];
      visit_depth(base.depth(), [&](auto sample) {
        std::optional<ClipSpans> beyond;
        if (resampling.edge != BorderMode::fill) beyond.emplace(painted, tile, grids);
        clamped +=
            warp_tile<decltype(sample)>(how, grids, beyond ? *beyond : inside, tile, region, resampling, job.stop, out);
      });
    });
  }
  if (base.has_mask())
    parallel_for(region.height, {job.stop, {}},
                 [&](int y) { empty += leave_out(base, plan, region, region.y + y, resampling, out); });
  if (!plan.clip.convex() && !base.has_mask() && empty == 0) out.drop_mask();
  out.set_largest(base.stated_largest());
  clamped += clamp_to_largest(out);
  if (report)
    *report = {choice.move.has_value() && clamped == 0, clamped, empty, pixels_by_path(choice, region, tiles)};
  return out;
}

}  // namespace fexel

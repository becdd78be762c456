#include "chain/masks.h"
#include "base/statistics.h"

#include <algorithm>
#include <map>
#include <numbers>

#include "align/prepared.h"
#include "filter/filter.h"

namespace fexel {
namespace {

constexpr int cell = 16;          // pixels, of the grid that suggestions are made on
constexpr int least_cells = 4;    // of a suggestion
constexpr int max_masks = 32;     // suggestions
constexpr double flat_below = 2;  // times the picture's noise

bool applies(const Mask& mask, int frame) {
  return mask.frames.empty() || std::ranges::find(mask.frames, frame + 1) != mask.frames.end();
}

/// Where a row at height y crosses the outline, in order.
std::vector<double> crossings(const Mask& mask, double y) {
  std::vector<double> at;
  const Point first = mask.points[0];
  const auto circle = [&](double radius) {
    const double rest = radius * radius - (y - first.y) * (y - first.y);
    if (rest <= 0) return;
    at.push_back(first.x - std::sqrt(rest));
    at.push_back(first.x + std::sqrt(rest));
  };
  switch (mask.shape) {
    case Mask::Shape::rectangle:
      if (y >= first.y && y < mask.points[1].y) at = {first.x, mask.points[1].x};
      break;
    case Mask::Shape::circle:
      circle(mask.radius);
      break;
    case Mask::Shape::ring:
      circle(mask.radius);
      circle(mask.inner);
      break;
    case Mask::Shape::polygon:
      for (std::size_t i = 0; i < mask.points.size(); ++i) {
        const Point a = mask.points[i], b = mask.points[(i + 1) % mask.points.size()];
        if ((a.y <= y) != (b.y <= y)) at.push_back(a.x + (y - a.y) / (b.y - a.y) * (b.x - a.x));
      }
      break;
  }
  std::ranges::sort(at);
  return at;
}

void paint(const Mask& mask, std::uint8_t value, Image& out) {
  for (int y = 0; y < out.height(); ++y) {
    const std::vector<double> at = crossings(mask, y + 0.5);
    for (std::size_t i = 0; i + 1 < at.size(); i += 2) {
      const auto column = [&](double x) {
        return static_cast<int>(std::clamp(std::ceil(x - 0.5), 0.0, double(out.width())));
      };
      const int from = column(at[i]), to = column(at[i + 1]);
      if (from < to) std::fill_n(out.row<std::uint8_t>(0, y) + from, to - from, value);
    }
  }
}

/// Cells of a grid, as numbers of the part that each belongs to; 0 belongs to none.
struct Parts {
  int across, down;
  std::vector<int> of;
  int at(int x, int y) const {
    return x < 0 || y < 0 || x >= across || y >= down ? 0 : of[static_cast<std::size_t>(y * across + x)];
  }
};

/// Numbers the parts of cells that hang together by their sides, and says how many cells each has.
std::vector<int> number_parts(Parts& parts) {
  std::vector<int> sizes{0};
  for (int& start : parts.of) {
    if (start != -1) continue;
    const auto number = static_cast<int>(sizes.size());
    std::vector<int> open{static_cast<int>(&start - parts.of.data())};
    start = number;
    int count = 0;
    while (!open.empty()) {
      const int here = open.back();
      open.pop_back();
      ++count;
      const int x = here % parts.across, y = here / parts.across;
      for (const auto& [dx, dy] : {std::pair{1, 0}, {-1, 0}, {0, 1}, {0, -1}})
        if (parts.at(x + dx, y + dy) == -1) {
          const int next = (y + dy) * parts.across + x + dx;
          parts.of[static_cast<std::size_t>(next)] = number;
          open.push_back(next);
        }
    }
    sizes.push_back(count);
  }
  return sizes;
}

using Corner = std::pair<int, int>;
using Loop = std::vector<Corner>;

/// The outlines of a part along the cells' sides, the part at the right of each, without corners on straight sides.
std::vector<Loop> outlines(const Parts& parts, int number) {
  std::multimap<Corner, Corner> sides;
  for (int y = 0; y < parts.down; ++y)
    for (int x = 0; x < parts.across; ++x) {
      if (parts.at(x, y) != number) continue;
      if (parts.at(x, y - 1) != number) sides.insert({{x, y}, {x + 1, y}});
      if (parts.at(x + 1, y) != number) sides.insert({{x + 1, y}, {x + 1, y + 1}});
      if (parts.at(x, y + 1) != number) sides.insert({{x + 1, y + 1}, {x, y + 1}});
      if (parts.at(x - 1, y) != number) sides.insert({{x, y + 1}, {x, y}});
    }
  std::vector<Loop> loops;
  while (!sides.empty()) {
    Loop loop;
    auto side = sides.begin();
    Corner came = side->first, at = side->second;
    const Corner start = came;
    loop.push_back(came);
    sides.erase(side);
    while (at != start) {
      const Corner along{at.first - came.first, at.second - came.second};
      auto [next, end] = sides.equal_range(at);
      // Where two outlines touch, the one to the right goes on around the same cell.
      for (auto it = next; it != end; ++it)
        if (Corner{it->second.first - at.first, it->second.second - at.second} == Corner{-along.second, along.first})
          next = it;
      const Corner to = next->second;
      if (Corner{to.first - at.first, to.second - at.second} != along) loop.push_back(at);
      sides.erase(next);
      came = at;
      at = to;
    }
    loops.push_back(std::move(loop));
  }
  return loops;
}

double area_of(const Loop& loop) {
  double twice = 0;
  for (std::size_t i = 0; i < loop.size(); ++i) {
    const auto [ax, ay] = loop[i];
    const auto [bx, by] = loop[(i + 1) % loop.size()];
    twice += double(ax) * by - double(bx) * ay;
  }
  return twice / 2;
}

/// One outline of a part with holes: each hole is reached by a way in and out from the nearest corner.
Loop joined(std::vector<Loop> loops) {
  std::ranges::sort(loops, std::greater{}, [](const Loop& loop) { return std::abs(area_of(loop)); });
  Loop outer = loops.front();
  for (std::size_t k = 1; k < loops.size(); ++k) {
    const Loop& hole = loops[k];
    std::size_t from = 0, into = 0;
    int least = std::numeric_limits<int>::max();
    for (std::size_t i = 0; i < outer.size(); ++i)
      for (std::size_t j = 0; j < hole.size(); ++j) {
        const int dx = outer[i].first - hole[j].first, dy = outer[i].second - hole[j].second;
        if (dx * dx + dy * dy < least) {
          least = dx * dx + dy * dy;
          from = i;
          into = j;
        }
      }
    Loop way(hole.begin() + static_cast<std::ptrdiff_t>(into), hole.end());
    way.insert(way.end(), hole.begin(), hole.begin() + static_cast<std::ptrdiff_t>(into) + 1);
    way.push_back(outer[from]);
    outer.insert(outer.begin() + static_cast<std::ptrdiff_t>(from) + 1, way.begin(), way.end());
  }
  return outer;
}

Region cell_at(int x, int y, Size size) {
  return {x * cell, y * cell, std::min(cell, size.width - x * cell), std::min(cell, size.height - y * cell)};
}

bool saturated(const Image& picture, Region part) {
  if (picture.depth() == Depth::f32) return false;
  std::int64_t glare = 0, black = 0;
  for (int y = part.y; y < part.y + part.height; ++y)
    for (int x = part.x; x < part.x + part.width; ++x) {
      bool top = false, bottom = true;
      visit_depth(picture.depth(), [&](auto sample) {
        using T = decltype(sample);
        for (int band = 0; band < picture.bands(); ++band) {
          const auto value = static_cast<double>(picture.row<T>(band, y)[x]);
          top = top || value >= static_cast<double>(std::numeric_limits<T>::max());
          bottom = bottom && value <= 0;
        }
      });
      glare += top;
      black += bottom;
    }
  return 4 * std::max(glare, black) >= std::int64_t{part.width} * part.height;
}

double deviation_in(const Image& plane, Region part) {
  double sum = 0, squares = 0;
  for (int y = part.y; y < part.y + part.height; ++y)
    for (int x = part.x; x < part.x + part.width; ++x) {
      const auto v = static_cast<double>(plane.row<float>(0, y)[x] - plane.row<float>(0, part.y)[part.x]);
      sum += v;
      squares += v * v;
    }
  const double count = double(part.width) * part.height;
  return std::sqrt(std::max(0.0, squares / count - sum * sum / count / count));
}

}  // namespace

bool covers(const Mask& mask, Point p) {
  const std::vector<double> at = crossings(mask, p.y);
  return std::ranges::count_if(at, [&](double x) { return x <= p.x; }) % 2 == 1;
}

std::optional<Image> used_pixels(const std::vector<Mask>& masks, int frame, Size source) {
  const auto any = [&](Mask::Use use) {
    return std::ranges::any_of(masks, [&](const Mask& m) { return m.use == use && applies(m, frame); });
  };
  const bool only = any(Mask::Use::only);
  if (!only && !any(Mask::Use::leave_out)) return std::nullopt;
  Image out(source.width, source.height, 1, Depth::u8);
  if (!only)
    for (int y = 0; y < source.height; ++y) std::fill_n(out.row<std::uint8_t>(0, y), source.width, std::uint8_t{255});
  for (const Mask& mask : masks)
    if (applies(mask, frame) && mask.use == Mask::Use::only) paint(mask, 255, out);
  for (const Mask& mask : masks)
    if (applies(mask, frame) && mask.use == Mask::Use::leave_out) paint(mask, 0, out);
  return out;
}

double share_left_out(const std::vector<Mask>& masks, int frame, Size source) {
  // Of a large frame a smaller one tells it well enough, while a hand drags.
  constexpr double largest = 1024;
  const double part = std::min(1.0, largest / std::max(source.width, source.height));
  std::vector<Mask> small = masks;
  for (Mask& mask : small) {
    for (Point& p : mask.points) p = part * p;
    mask.inner *= part;
    mask.radius *= part;
  }
  const auto side = [&](int pixels) { return std::max(1, static_cast<int>(std::lround(part * pixels))); };
  const Size size{side(source.width), side(source.height)};
  const auto used = used_pixels(small, frame, size);
  if (!used) return 0;
  std::int64_t count = 0;
  for (int y = 0; y < size.height; ++y) {
    const auto* row = used->row<std::uint8_t>(0, y);
    count += std::count(row, row + size.width, 0);
  }
  return static_cast<double>(count) / (double(size.width) * size.height);
}

void leave_unused_out(Image& picture, const Layout& layout, int station, const Image& used, const Job& job) {
  const Map& map = layout.stations[static_cast<std::size_t>(station)].from_source;
  if (!picture.has_mask()) picture.make_mask(true);
  parallel_for(picture.height(), job, [&](int y) {
    for (int x = 0; x < picture.width(); ++x) {
      const auto at = map.backward({x + 0.5, y + 0.5});
      if (!at || !(at->x >= 0 && at->y >= 0 && at->x < used.width() && at->y < used.height())) continue;
      if (used.row<std::uint8_t>(0, static_cast<int>(at->y))[static_cast<int>(at->x)] == 0)
        picture.set_valid(x, y, false);
    }
  });
}

std::vector<std::vector<Point>> outlines_of(const Mask& mask) {
  const Point first = mask.points[0];
  const auto circle = [&](double radius) {
    std::vector<Point> out;
    constexpr int pieces = 96;
    for (int i = 0; i < pieces; ++i) {
      const double angle = 2 * std::numbers::pi * i / pieces;
      out.push_back(first + Point{radius * std::cos(angle), radius * std::sin(angle)});
    }
    return out;
  };
  switch (mask.shape) {
    case Mask::Shape::rectangle: {
      const Point last = mask.points[1];
      return {{first, {last.x, first.y}, last, {first.x, last.y}}};
    }
    case Mask::Shape::circle:
      return {circle(mask.radius)};
    case Mask::Shape::ring:
      return {circle(mask.radius), circle(mask.inner)};
    case Mask::Shape::polygon:
      break;
  }
  return {mask.points};
}

std::vector<Mask> suggested_masks(const Image& picture, Useless what, const Job& job) {
  const Size size{picture.width(), picture.height()};
  Parts parts{(size.width + cell - 1) / cell, (size.height + cell - 1) / cell, {}};
  const auto each = [&](auto&& body) {
    for (int y = 0; y < parts.down; ++y)
      for (int x = 0; x < parts.across; ++x) body(cell_at(x, y, size));
    job.check();
  };
  if (what == Useless::saturated) {
    each([&](Region part) { parts.of.push_back(saturated(picture, part) ? -1 : 0); });
  } else {
    const Image plane = plane_of(picture, 0, job);
    std::vector<double> noises;
    each([&](Region part) { noises.push_back(noise_in(plane, part)); });
    // The quietest twentieth of the cells tells the noise; textured ones seem noisier.
    const double quiet = quantile(noises, 0.05);
    const double step = picture.depth() == Depth::f32 ? 0 : 0.3;  // what rounding to whole samples adds
    const double limit = flat_below * std::hypot(quiet, step);
    each([&](Region part) { parts.of.push_back(deviation_in(plane, part) <= limit ? -1 : 0); });
    // Where all is alike, nothing is flatter than the rest.
    if (std::ranges::count(parts.of, -1) * 20 > static_cast<std::ptrdiff_t>(parts.of.size()) * 19) return {};
  }
  const std::vector<int> sizes = number_parts(parts);
  std::vector<int> order;
  for (int k = 1; k < static_cast<int>(sizes.size()); ++k)
    if (sizes[static_cast<std::size_t>(k)] >= least_cells) order.push_back(k);
  std::ranges::stable_sort(order, std::greater{}, [&](int k) { return sizes[static_cast<std::size_t>(k)]; });
  if (order.size() > max_masks) order.resize(max_masks);
  std::vector<Mask> out;
  for (const int number : order) {
    Mask mask;
    mask.shape = Mask::Shape::polygon;
    mask.name = (what == Useless::saturated ? "saturated " : "flat ") + std::to_string(out.size() + 1);
    for (const auto& [x, y] : joined(outlines(parts, number)))
      mask.points.push_back({double(std::min(x * cell, size.width)), double(std::min(y * cell, size.height))});
    out.push_back(std::move(mask));
  }
  return out;
}

}  // namespace fexel

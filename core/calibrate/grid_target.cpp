#include "calibrate/grid_target.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/statistics.h"
#include "calibrate/crossing_fit.h"
#include "calibrate/grid_lattice.h"
#include "calibrate/ruled_strips.h"
#include "fit/fit.h"

namespace fexel {
namespace {

constexpr std::size_t least_nodes = 12;
constexpr int least_side = 3;
constexpr double least_filled = 0.6;       // of the rectangle of numbers
constexpr double largest_residual = 0.02;  // RMS, in steps
constexpr double least_agreeing = 0.85;    // of the places between nodes that look as the pattern says
constexpr int levels = 4;
constexpr double window_share = 0.66;  // of the room that a node has

[[noreturn]] void refuse(const std::string& why) {
  throw input_error("No grid was found: " + why, {},
                    "Choose the part of the picture with the grid only: a checkerboard, dots or crossed lines of one "
                    "pitch, at least 3 by 4 nodes.");
}

std::vector<GridNode> nodes_of(const Lattice& lattice) {
  std::vector<GridNode> out;
  for (const auto& [index, at] : lattice) out.push_back({index.first, index.second, at});
  return out;
}

/// The steps to the next column and the next row at a node, in pixels.
struct Steps {
  Point u, v;
  double area() const { return std::abs(u.x * v.y - u.y * v.x); }
  /// From a line along u, or v, to the next one.
  double across_u() const { return area() / std::hypot(u.x, u.y); }
  double across_v() const { return area() / std::hypot(v.x, v.y); }
  /// Half of the distance from a node to the lines through its neighbours.
  double room() const { return 0.5 * std::min(across_u(), across_v()); }
};
std::optional<Steps> steps_at(const GridView& view, double column, double row) {
  const auto a = view.seen({column - 0.5, row}), b = view.seen({column + 0.5, row}), c = view.seen({column, row - 0.5}),
             d = view.seen({column, row + 0.5});
  if (!a || !b || !c || !d) return std::nullopt;
  return Steps{*b - *a, *d - *c};
}

/// One way to look: what candidates are, at which size.
struct Attempt {
  CandidateKind kind;
  int level;
};

class GridFinder {
 public:
  GridFinder(const Image& plane, const Job& job) : plane_(plane), refiner_(plane, job), job_(job) {}

  GridTarget find() {
    std::optional<GridTarget> best;
    std::string why = "nothing repeats along two directions.";
    std::size_t seen = 0;
    for (int level = 0; level < levels; ++level)
      for (const CandidateKind kind : {CandidateKind::saddles, CandidateKind::dark, CandidateKind::light}) {
        job_.check();
        const auto candidates = node_candidates(plane_, kind, level, job_);
        const Lattice lattice = grown_lattice(candidates, kind == CandidateKind::saddles, job_);
        if (lattice.size() < least_nodes) continue;
        try {
          GridTarget target = solved(lattice, candidates, kind, level);
          if (!best || target.nodes.size() > best->nodes.size() * 11 / 10 ||
              (target.nodes.size() * 11 / 10 >= best->nodes.size() && target.view.rms < 0.8 * best->view.rms))
            best = std::move(target);
        } catch (const Error& error) {
          if (error.kind() == Error::Kind::cancelled) throw;
          // The reason of the attempt that came farthest.
          if (lattice.size() > seen) {
            seen = lattice.size();
            why = error.message();
          }
        }
      }
    if (!best) {
      const std::string opening = "No grid was found: ";
      refuse(why.starts_with(opening) ? why.substr(opening.size()) : why);
    }
    return *best;
  }

 private:
  Size size() const { return {plane_.width(), plane_.height()}; }

  GridTarget solved(Lattice lattice, const std::vector<NodeCandidate>& candidates, CandidateKind kind, int level) {
    // Gaps are bridged where the view says that nodes are; the view is solved anew with what was found.
    GridView view;
    for (int round = 0; round < 6; ++round) {
      auto nodes = nodes_of(lattice);
      view = solve_view(nodes, size());
      // Candidates that were taken for nodes and are none.
      std::vector<double> off;
      for (const GridNode& n : nodes) off.push_back(std::hypot(n.residual.x, n.residual.y));
      const double most = std::max(4 * median(off), 0.3 + 0.3 * (1 << level));
      bool dropped = false;
      for (std::size_t i = 0; i < nodes.size(); ++i)
        if (off[i] > most) {
          lattice.erase({nodes[i].column, nodes[i].row});
          dropped = true;
        }
      if (lattice.size() < least_nodes) refuse("too few of its nodes lie evenly.");
      const int added = fill_lattice(lattice, candidates, 3, [&](int i, int j) {
        return view.seen({double(i), double(j)});
      });
      if (added == 0 && !dropped) break;
    }
    GridTarget target;
    target.dark = kind != CandidateKind::light;
    auto places = nodes_of(lattice);
    if (kind == CandidateKind::saddles) {
      target.pattern = GridPattern::checkerboard;
      place_crossings(places, view, target);
    } else {
      // Lines run from node to node; dots stand alone.
      target.pattern = between(places, view, target.dark) > 0.5 ? GridPattern::lines : GridPattern::dots;
      if (target.pattern == GridPattern::lines)
        place_crossings(places, view, target);
      else
        place_dots(places, view, target);
    }
    if (target.nodes.size() < least_nodes) refuse("too few of its nodes can be placed.");
    settle(target);
    check(target);
    return target;
  }

  /// Nodes where edges or lines cross: first by gradients, then by fitting what they look like.
  void place_crossings(const std::vector<GridNode>& places, const GridView& view, GridTarget& target) const {
    struct Place {
      GridNode node;
      Steps steps;
      double radius;
    };
    std::vector<Place> found;
    const bool lines = target.pattern == GridPattern::lines;
    for (const GridNode& n : places) {
      const auto steps = steps_at(view, n.column, n.row);
      const auto expected = view.seen({double(n.column), double(n.row)});
      if (!steps || !expected) continue;
      const double radius = std::clamp(window_share * steps->room(), 4.0, 16.0);
      // In a window that is hardly wider than the lines, the gradients of one side outweigh the other's.
      const auto at = lines ? expected : refiner_.crossing(*expected, radius);
      if (!at || distance(*at, *expected) > 0.3 * steps->room() + 1) continue;
      if (!lines && !crosses(*at, *steps)) continue;
      found.push_back({n, *steps, radius});
      found.back().node.at = *at;
    }
    // What the first ones look like is where the others begin.
    std::vector<double> blurs, widths, noises;
    for (const Place& place : found) {
      const double wide_u = place.steps.across_u(), wide_v = place.steps.across_v();
      CrossingLook start{1, 0.15 * wide_u, 0.15 * wide_v};
      if (blurs.size() >= 5) start = {median(blurs), median(widths) * wide_u, median(widths) * wide_v};
      std::optional<FittedCrossing> best;
      const double spread[] = {1, 0.5, 2};
      for (int i = 0; i < (lines && blurs.size() < 5 ? 3 : 1); ++i) {
        const auto one = fitted_crossing(plane_, lines, place.node.at, place.steps.u, place.steps.v, place.radius,
                                         {start.blur, spread[i] * start.width_u, spread[i] * start.width_v});
        if (one && (!best || one->noise < best->noise)) best = one;
      }
      if (!best) continue;
      blurs.push_back(best->look.blur);
      widths.push_back(0.5 * (best->look.width_u / wide_u + best->look.width_v / wide_v));
      noises.push_back(best->noise);
      target.nodes.push_back(place.node);
      target.nodes.back().at = best->at;
    }
    // Where lines end, or something lies over them, the fit leaves more than elsewhere, and is off.
    if (noises.empty()) return;
    const double most = 1.5 * median(noises);
    std::vector<GridNode> sound;
    for (std::size_t i = 0; i < noises.size(); ++i)
      if (noises[i] <= most) sound.push_back(target.nodes[i]);
    target.nodes = std::move(sound);
  }

  /// Whether four squares meet: at the outer sides of a board there are fewer, and what is placed there is off.
  bool crosses(Point node, const Steps& steps) const {
    double corner[4];
    int i = 0;
    for (const Point p : {Point{1, 1}, Point{-1, 1}, Point{-1, -1}, Point{1, -1}}) {
      const auto v = refiner_.sample(node + 0.3 * p.x * steps.u + 0.3 * p.y * steps.v);
      if (!v) return false;
      corner[i++] = *v;
    }
    const double one = std::min(corner[0], corner[2]) - std::max(corner[1], corner[3]),
                 other = std::min(corner[1], corner[3]) - std::max(corner[0], corner[2]);
    const auto [low, high] = std::ranges::minmax(corner);
    return std::max(one, other) > 0.4 * (high - low);
  }

  void place_dots(const std::vector<GridNode>& places, const GridView& view, GridTarget& target) {
    std::vector<double> radii;
    for (GridNode n : places) {
      const auto steps = steps_at(view, n.column, n.row);
      const auto expected = view.seen({double(n.column), double(n.row)});
      if (!steps || !expected) continue;
      const auto dot = refiner_.dot(*expected, steps->u, steps->v, target.dark);
      if (!dot) continue;
      n.at = dot->at;
      target.nodes.push_back(n);
      const double area = steps->area();
      radii.push_back(std::sqrt(dot->area / (M_PI * area)));
    }
    if (radii.size() < least_nodes) return;
    // In pitches. The middle of a dot's picture is not the picture of its middle.
    const double radius = median(radii);
    target.view = solve_view(target.nodes, size());
    for (GridNode& n : target.nodes) {
      Point sum;
      double weight = 0;
      constexpr int steps = 24;
      bool whole = true;
      for (int ring = 0; ring < 8 && whole; ++ring)
        for (int i = 0; i < steps && whole; ++i) {
          const double r = radius * std::sqrt((ring + 0.5) / 8), turn = 2 * M_PI * (i + 0.5) / steps;
          const Point plane{n.column + r * std::cos(turn), n.row + r * std::sin(turn)};
          const auto at = target.view.seen(plane);
          const auto local = steps_at(target.view, plane.x, plane.y);
          whole = at && local;
          if (!whole) break;
          const double area = local->area();
          sum = sum + area * *at;
          weight += area;
        }
      const auto at = target.view.seen({double(n.column), double(n.row)});
      if (whole && at) n.shift = (1 / weight) * sum - *at;
    }
  }

  /// The share of the places half-way between neighbours that are as dark (or light) as the nodes.
  double between(const std::vector<GridNode>& places, const GridView& view, bool dark) const {
    int line = 0, all = 0;
    for (const GridNode& n : places)
      for (const Point half : {Point{0.5, 0}, Point{0, 0.5}}) {
        const auto middle = view.seen({n.column + half.x, n.row + half.y}),
                   cell = view.seen({n.column + 0.5, n.row + 0.5}), node = view.seen({double(n.column), double(n.row)});
        if (!middle || !cell || !node) continue;
        const auto steps = steps_at(view, n.column + half.x, n.row + half.y);
        if (!steps) continue;
        // The darkest place across the line, for a line that is thin.
        const Point across = half.x > 0 ? steps->v : steps->u;
        std::optional<double> m;
        for (int i = -4; i <= 4; ++i)
          if (const auto v = refiner_.sample(*middle + i / 40.0 * across))
            m = !m ? *v : dark ? std::min(*m, *v) : std::max(*m, *v);
        const auto c = refiner_.sample(*cell), at = refiner_.sample(*node);
        if (!m || !c || !at) continue;
        ++all;
        const double deep = dark ? *c - *at : *at - *c, found = dark ? *c - *m : *m - *c;
        line += deep > 0 && found > 0.5 * deep;
      }
    return all > 0 ? static_cast<double>(line) / all : 0;
  }

  /// Solves the view from the placed nodes, without those that are off, and numbers from 0.
  void settle(GridTarget& target) const {
    for (int round = 0; round < 3; ++round) {
      target.view = solve_view(target.nodes, size());
      std::vector<double> off;
      for (const GridNode& n : target.nodes) off.push_back(std::hypot(n.residual.x, n.residual.y));
      const double most = std::max(6 * median(off), 0.02);
      const auto before = target.nodes.size();
      std::erase_if(target.nodes, [&](const GridNode& n) { return std::hypot(n.residual.x, n.residual.y) > most; });
      if (target.nodes.size() < least_nodes) refuse("too few of its nodes lie evenly.");
      if (target.nodes.size() == before) break;
    }
    number_from_zero(target);
    target.view = solve_view(target.nodes, size());
  }

  /// Columns to the right, rows downwards, as far as the view allows; counted from 0.
  static void number_from_zero(GridTarget& target) {
    const auto steps = steps_at(target.view, target.nodes.front().column, target.nodes.front().row);
    if (steps && std::abs(steps->u.x) < std::abs(steps->u.y))
      for (GridNode& n : target.nodes) std::swap(n.column, n.row);
    const auto turned = steps && std::abs(steps->u.x) < std::abs(steps->u.y) ? Steps{steps->v, steps->u}
                                                                             : steps.value_or(Steps{{1, 0}, {0, 1}});
    for (GridNode& n : target.nodes) {
      if (turned.u.x < 0) n.column = -n.column;
      if (turned.v.y < 0) n.row = -n.row;
    }
    const int left = std::ranges::min(target.nodes, {}, &GridNode::column).column,
              top = std::ranges::min(target.nodes, {}, &GridNode::row).row;
    for (GridNode& n : target.nodes) {
      n.column -= left;
      n.row -= top;
    }
    target.columns = std::ranges::max(target.nodes, {}, &GridNode::column).column + 1;
    target.rows = std::ranges::max(target.nodes, {}, &GridNode::row).row + 1;
    target.missing = target.columns * target.rows - static_cast<int>(target.nodes.size());
    std::ranges::sort(target.nodes, {}, [](const GridNode& n) { return std::pair(n.row, n.column); });
  }

  /// Whether what was found is a grid of this pattern.
  void check(const GridTarget& target) const {
    if (std::min(target.columns, target.rows) < least_side) refuse("its nodes lie in fewer than three rows.");
    if (static_cast<double>(target.nodes.size()) < least_filled * target.columns * target.rows)
      refuse(fmt::format("{} of the {} nodes of the rectangle are not to be seen.", target.missing,
                         target.columns * target.rows));
    double step = 1e300;
    for (const GridNode& n : target.nodes)
      if (const auto steps = steps_at(target.view, n.column, n.row)) step = std::min(step, steps->room());
    if (target.view.rms > std::max(largest_residual * step, 0.05))
      refuse(fmt::format("what repeats here does not lie evenly ({:.2f} px off).", target.view.rms));
    if (target.pattern == GridPattern::checkerboard) {
      // Of two squares that share a side one is dark.
      int right = 0, all = 0;
      for (const GridNode& n : target.nodes)
        for (const Point other : {Point{1, 0}, Point{0, 1}}) {
          const auto here = square(target.view, n.column, n.row),
                     there =
                         square(target.view, n.column + static_cast<int>(other.x), n.row + static_cast<int>(other.y));
          if (!here || !there) continue;
          ++all;
          right += (*here < *there) == ((n.column + n.row) % 2 == 0);
        }
      const double share = all > 0 ? static_cast<double>(std::max(right, all - right)) / all : 0;
      if (share < least_agreeing) refuse("its squares are not in turn dark and light.");
    } else {
      const double share = between(target.nodes, target.view, target.dark);
      if (target.pattern == GridPattern::lines ? share < least_agreeing : share > 1 - least_agreeing)
        refuse(target.pattern == GridPattern::lines ? "lines do not run from node to node."
                                                    : "there are lines between some of its dots.");
    }
  }
  std::optional<double> square(const GridView& view, int column, int row) const {
    const auto at = view.seen({column + 0.5, row + 0.5});
    return at ? refiner_.sample(*at) : std::nullopt;
  }

  const Image& plane_;
  NodeRefiner refiner_;
  const Job& job_;
};

}  // namespace

GridTarget find_grid_target(const Image& image, Region region, const Job& job) {
  const int left = std::clamp(region.x, 0, image.width()), top = std::clamp(region.y, 0, image.height()),
            right = std::clamp(region.x + region.width, left, image.width()),
            bottom = std::clamp(region.y + region.height, top, image.height());
  if (right - left < 40 || bottom - top < 40) refuse("the region is smaller than 40 px.");
  const Image plane = grey_of(image, {left, top, right - left, bottom - top});
  GridTarget found = GridFinder(plane, job).find();
  const Point corner{double(left), double(top)};
  if (left == 0 && top == 0 && right == image.width() && bottom == image.height()) return found;
  // The lens belongs to the whole picture.
  for (GridNode& n : found.nodes) n.at = n.at + corner;
  found.view = solve_view(found.nodes, {image.width(), image.height()});
  return found;
}

}  // namespace fexel

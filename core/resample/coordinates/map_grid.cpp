#include "resample/coordinates/map_grid.h"

#include <algorithm>
#include <span>

namespace fexel {
namespace {

constexpr int closest = 8;                // rows from node to node
constexpr int few = 6;                    // one in so many cells may be left to be looked at closer
constexpr int closer_apart = 16;          // columns and rows of a closer grid
constexpr int closest_apart = 4;          // and of one that is closer still
constexpr double tolerance = 0.3 / 1024;  // for the error is not quite largest where it is checked
constexpr double rough = 0.25, off_roughly = 2;

}  // namespace

MapGrid::MapGrid(const Map& inverse_map, double scale, Region tile, int apart)
    : inverse_map_(inverse_map), scale_(scale), tile_(tile), apart_(apart) {
  for (int step = apart;; step /= 2) {
    lay(step);
    // Rows that are closer do not help where columns stand too far apart.
    if (unsound() * few <= static_cast<int>(accuracy_.size()) || apart != stretch || step <= closest) return;
  }
}

std::optional<Point> MapGrid::exact(Point p) const {
  const auto at = inverse_map_.forward(p);
  if (!at) return at;
  return scale_ * *at;
}

void MapGrid::lay(int step) {
  step_ = step;
  columns_ = (tile_.width + apart_ - 1) / apart_ + 1;
  rows_ = (tile_.height + step - 1) / step + 1;
  nodes_.assign(static_cast<std::size_t>(columns_) * static_cast<std::size_t>(rows_), {});
  std::size_t i = 0;
  for (int row = 0; row < rows_; ++row)
    for (int column = 0; column < columns_; ++column, ++i) {
      const auto here = inverse_map_.local({tile_.x + column * apart_ + 0.5, tile_.y + row * step + 0.5});
      if (!here) continue;
      const Matrix2 j = scale_ * here->slope;
      nodes_[i] = {true, scale_ * here->at, {apart_ * j(0, 0), apart_ * j(1, 0)}, {step * j(0, 1), step * j(1, 1)}, {}};
    }
  // How the slope along the row changes from row to row is taken from the neighbours.
  for (int row = 0; row < rows_; ++row)
    for (int column = 0; column < columns_; ++column) {
      const int before = row > 0 && node(column, row - 1).defined ? row - 1 : row;
      const int after = row + 1 < rows_ && node(column, row + 1).defined ? row + 1 : row;
      if (before < after)
        nodes_[static_cast<std::size_t>(row) * static_cast<std::size_t>(columns_) + static_cast<std::size_t>(column)]
            .twist = 1.0 / (after - before) * (node(column, after).across - node(column, before).across);
    }
}

void MapGrid::row(int y, MapGridRow& out) const {
  out.first = tile_.x;
  const int row = row_of(y);
  const auto cells = std::span(accuracy_).subspan(static_cast<std::size_t>(row * (columns_ - 1)));
  out.sound.resize(static_cast<std::size_t>(columns_ - 1));
  for (std::size_t i = 0; i < out.sound.size(); ++i) out.sound[i] = cells[i] == CellAccuracy::well ? 1 : 0;
  out.places.resize(static_cast<std::size_t>(columns_));
  const double t = double(y - tile_.y - row * step_) / step_, s = 1 - t;
  const double wa = s * s * (1 + 2 * t), wb = t * t * (3 - 2 * t), va = t * s * s, vb = -t * t * s;
  const Node *a = &node(0, row), *b = &node(0, row + 1);
  for (GridPlace& place : out.places) {
    const Point at = wa * a->at + wb * b->at + va * a->down + vb * b->down;
    const Point across = wa * a->across + wb * b->across + va * a->twist + vb * b->twist;
    place = {at.x, at.y, across.x, across.y};
    ++a, ++b;
  }
  out.down = 1.0 / step_ * node(columns_ / 2, row).down;
}

std::optional<MapGrid::Hull> MapGrid::hull(int column, int y) const {
  const int row = row_of(y);
  const CellAccuracy told = accuracy_[static_cast<std::size_t>(row * (columns_ - 1) + column)];
  if (told == CellAccuracy::not_at_all) return std::nullopt;
  // The control points of the patch between four nodes.
  Hull hull{{}, told == CellAccuracy::well ? 1.0 / 1024 : off_roughly};
  auto& out = hull.points;
  std::size_t i = 0;
  for (const int below : {0, 1})
    for (const int beside : {0, 1}) {
      const Node& n = node(column + beside, row + below);
      const double across = beside == 0 ? 1.0 / 3 : -1.0 / 3, down = below == 0 ? 1.0 / 3 : -1.0 / 3;
      out[i++] = n.at;
      out[i++] = n.at + across * n.across;
      out[i++] = n.at + down * n.down;
      out[i++] = n.at + across * n.across + down * n.down + across * down * n.twist;
    }
  return hull;
}

int MapGrid::unsound() {
  // Shares of a cell across and down. Errors that are odd about a cell's middle are nothing there, and largest at 0.28
  // and 0.72 of it.
  struct Check {
    int line;
    double across;
  };
  constexpr double lines[] = {0.28, 0.5, 0.72};
  constexpr Check checks[] = {{0, 0}, {1, 0}, {1, 0.5}, {0, 0.28}, {2, 0.72}};
  const int across = columns_ - 1, down = rows_ - 1;
  accuracy_.assign(static_cast<std::size_t>(across) * static_cast<std::size_t>(down), CellAccuracy::not_at_all);
  int count = 0;
  std::array<MapGridRow, std::size(lines)> drawn;
  std::array<int, std::size(lines)> ys{};
  std::size_t i = 0;
  for (int row = 0; row < down; ++row) {
    for (std::size_t k = 0; k < std::size(lines); ++k) {
      ys[k] = tile_.y + row * step_ + static_cast<int>(lines[k] * step_);
      this->row(ys[k], drawn[k]);
    }
    for (int column = 0; column < across; ++column, ++i) {
      if (!node(column, row).defined || !node(column + 1, row).defined || !node(column, row + 1).defined ||
          !node(column + 1, row + 1).defined) {
        ++count;
        continue;
      }
      const auto k = static_cast<std::size_t>(column);
      CellAccuracy worst = CellAccuracy::well;
      bool rows_off = false;
      for (const Check& check : checks) {
        const auto line = static_cast<std::size_t>(check.line);
        const auto truth = exact({tile_.x + (column + check.across) * apart_ + 0.5, ys[line] + 0.5});
        const auto& places = drawn[line].places;
        const double off = truth ? distance(*truth, between(places[k], places[k + 1], check.across)) : 2 * rough;
        rows_off = rows_off || (check.across == 0 && off >= tolerance);
        worst = std::min(worst, off < tolerance ? CellAccuracy::well
                                : off < rough   ? CellAccuracy::roughly
                                                : CellAccuracy::not_at_all);
        if (worst == CellAccuracy::not_at_all) break;
      }
      accuracy_[i] = worst;
      count += rows_off;
    }
  }
  return count;
}

void MapGrid::fill(const MapGridRow& row, int y, int x, int count, double* xs, double* ys, std::vector<int>& nowhere) {
  for (const int end = x + count; x < end;) {
    const auto k = static_cast<std::size_t>((x - tile_.x) / apart_);
    const int from = tile_.x + static_cast<int>(k) * apart_, pixels = std::min(from + apart_, end) - x;
    if (row.sound[k] != 0) {
      for (int i = 0; i < pixels; ++i) {
        const Point at = between(row.places[k], row.places[k + 1], double(x + i - from) / apart_);
        xs[i] = at.x, ys[i] = at.y;
      }
    } else if (apart_ != closest_apart) {
      Closer& closer = closer_at(static_cast<int>(k), y);
      closer.grid->fill(closer.row, y, x, pixels, xs, ys, nowhere);
    } else {
      for (int i = 0; i < pixels; ++i) {
        const auto at = exact({x + i + 0.5, y + 0.5});
        if (!at) nowhere.push_back(x + i);
        xs[i] = at ? at->x : 0, ys[i] = at ? at->y : 0;
      }
    }
    x += pixels, xs += pixels, ys += pixels;
  }
}

MapGrid::Closer& MapGrid::closer_at(int column, int y) {
  const int line = (y - tile_.y) / apart_;
  Closer& closer = closer_[{line, column}];
  if (!closer.grid)
    closer.grid = std::make_unique<MapGrid>(inverse_map_, scale_,
                                            Region{tile_.x + column * apart_, tile_.y + line * apart_, apart_, apart_},
                                            apart_ == stretch ? closer_apart : closest_apart);
  if (closer.y != y) closer.grid->row(y, closer.row);
  closer.y = y;
  return closer;
}

std::shared_ptr<MapGrid> TileMapGrids::of(const Map& inverse_map, double scale) {
  for (const auto& known : known_)
    if (known->scale == scale && known->inverse_map == inverse_map) return known->grid;
  known_.push_back(std::make_unique<Known>(Known{inverse_map, scale, nullptr}));
  known_.back()->grid = std::make_shared<MapGrid>(known_.back()->inverse_map, scale, tile_);
  return known_.back()->grid;
}

}  // namespace fexel

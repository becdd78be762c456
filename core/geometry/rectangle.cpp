#include "geometry/rectangle.h"

#include "geometry/map.h"

namespace fexel {
namespace {

constexpr double largest_share = 0.05;

struct View {
  double ratio, focal;
};

std::optional<View> view_of(const Quad& seen, Point middle) {
  const double unit = distance(seen[0], seen[2]);
  Quad q = seen;
  for (Point& p : q) p = 1 / unit * (p - middle);
  const Matrix3 h = unit_square_to_quad(q);
  const double closing = h(2, 0) * h(2, 1);
  const double square = -(h(0, 0) * h(0, 1) + h(1, 0) * h(1, 1)) / closing;
  if (!(square > 0) || !std::isfinite(square)) return std::nullopt;
  const auto side = [&](int c) { return h(0, c) * h(0, c) + h(1, c) * h(1, c) + square * h(2, c) * h(2, c); };
  return View{std::sqrt(side(0) / side(1)), std::sqrt(square) * unit};
}

}  // namespace

std::optional<RatioEstimate> estimate_ratio(const Quad& seen, Point middle, const std::array<double, 4>& picking,
                                            double centre_sigma) {
  const auto view = view_of(seen, middle);
  if (!view) return std::nullopt;
  double variance = 0;
  for (std::size_t corner = 0; corner < 4; ++corner)
    for (double Point::*axis : {&Point::x, &Point::y}) {
      Quad plus = seen, minus = seen;
      plus[corner].*axis += picking[corner];
      minus[corner].*axis -= picking[corner];
      const auto high = view_of(plus, middle), low = view_of(minus, middle);
      if (!high || !low) return std::nullopt;
      variance += std::pow((high->ratio - low->ratio) / 2, 2);
    }
  double of_centre = 0;
  for (double Point::*axis : {&Point::x, &Point::y}) {
    Point plus = middle, minus = middle;
    plus.*axis += centre_sigma;
    minus.*axis -= centre_sigma;
    const auto high = view_of(seen, plus), low = view_of(seen, minus);
    if (!high || !low) return std::nullopt;
    of_centre += std::pow((high->ratio - low->ratio) / 2, 2);
  }
  const double uncertainty = std::sqrt(variance + of_centre);
  if (!(uncertainty < largest_share * view->ratio)) return std::nullopt;
  return RatioEstimate{view->ratio, uncertainty, std::sqrt(of_centre), view->focal};
}

}  // namespace fexel

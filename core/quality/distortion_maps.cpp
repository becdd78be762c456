#include "quality/distortion_maps.h"

#include <Eigen/Geometry>
#include <Eigen/LU>

namespace fexel {
namespace {

constexpr double picked_off = 0.1;  // px, to differentiate

/// The last rectify step that is carried out before a station, or −1.
int rectify_before(const Chain& chain, const Layout& layout, int station) {
  for (int i = station - 1; i >= 0; --i) {
    const auto at = static_cast<std::size_t>(i);
    if (std::holds_alternative<RectifyStep>(chain.steps[at].kind) && chain.steps[at].on &&
        !layout.stations[at + 1].problem)
      return i;
  }
  return -1;
}

}  // namespace

std::optional<double> source_pixels(const Layout& layout, int station, Point p) {
  const auto j = map_between(layout, station, 0).jacobian(p);
  if (!j) return std::nullopt;
  return std::abs(j->determinant());
}

std::optional<PickingUncertainty> PickingUncertainty::of(const Chain& chain, const SourceShape& source,
                                                         const Layout& layout, int station) {
  const int index = rectify_before(chain, layout, station);
  if (index < 0) return std::nullopt;
  const auto at = static_cast<std::size_t>(index);
  Chain fixed = chain;
  auto& rectify = std::get<RectifyStep>(fixed.steps[at].kind);
  rectify.pixel_size.reset();
  if (rectify.allow.scale) rectify.pixels = layout.stations[at + 1].size;
  PickingUncertainty out;
  const Map back = map_between(layout, station, 0);
  for (std::size_t corner = 0; corner < 4; ++corner)
    for (double Point::*axis : {&Point::x, &Point::y})
      for (const double by : {picked_off, -picked_off}) {
        Chain moved = fixed;
        std::get<RectifyStep>(moved.steps[at].kind).corners[corner].*axis += by;
        const Layout other = lay_out(moved, source);
        if (other.stations[static_cast<std::size_t>(station)].problem) return std::nullopt;
        out.moved_.push_back(map_between(other, 0, station).after(back));
      }
  return out;
}

double PickingUncertainty::movement(Point p) const {
  double square = 0;
  for (std::size_t i = 0; i + 1 < moved_.size(); i += 2) {
    const auto up = moved_[i].forward(p), down = moved_[i + 1].forward(p);
    if (up && down) square += std::pow(distance(*up, *down) / (2 * picked_off), 2);
  }
  return std::sqrt(square);
}

std::optional<PlaneCamera> plane_camera(const Chain& chain, const Layout& layout, int station) {
  const int index = rectify_before(chain, layout, station);
  if (index < 0) return std::nullopt;
  const StepInput input = input_of_step(layout, index);
  if (!input.from_source.planar()) return std::nullopt;
  const RectifyPlane plane =
      rectify_plane(std::get<RectifyStep>(chain.steps[static_cast<std::size_t>(index)].kind), input);
  const Point middle = input.source.middle();
  const double unit = std::max(input.source.width, input.source.height);
  // Plane to picture, about the camera's axis and in picture widths, so that numbers are of one size.
  const Matrix3 h = scaling(1 / unit, 1 / unit) * translation(-middle.x, -middle.y) *
                    input.from_source.inverse_matrix() * plane.to_input;
  const auto flat = [&](int a, int b) { return h(0, a) * h(0, b) + h(1, a) * h(1, b); };
  // The plane's two directions are of one length and at right angles: both give 1 / focal², by least squares.
  const double right_flat = flat(0, 1), right_deep = h(2, 0) * h(2, 1);
  const double long_flat = flat(0, 0) - flat(1, 1), long_deep = h(2, 0) * h(2, 0) - h(2, 1) * h(2, 1);
  const double weight = right_flat * right_flat + long_flat * long_flat;
  const double square = -weight / (right_flat * right_deep + long_flat * long_deep);  // focal²
  const double tilt = std::hypot(h(2, 0), h(2, 1)) * std::max(plane.width, plane.height) / std::abs(h(2, 2));
  if (!(square > 0.01) || !(square < 1e4) || tilt < 0.02) return std::nullopt;
  const double focal = std::sqrt(square);
  Matrix3 pose = h;
  pose.row(0) /= focal;
  pose.row(1) /= focal;
  pose /= (pose.col(0).norm() + pose.col(1).norm()) / 2;
  const Eigen::Vector3d x = pose.col(0), y = pose.col(1), z = x.cross(y);
  Matrix3 axes;
  axes << x, y, z;
  const Eigen::Vector3d eye = -axes.inverse() * pose.col(2);
  const auto foot = map_between(layout, index, station).after(Map(plane.to_input)).forward({eye.x(), eye.y()});
  if (!foot) return std::nullopt;
  return PlaneCamera{*foot, std::abs(eye.z()), focal * unit};
}

}  // namespace fexel

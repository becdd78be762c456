/// Every kernel x depth x bands x edge x map x instruction set: flat pictures to the last bit, noise against the
/// definition in plain double arithmetic. FEXEL_WIDE in the environment walks more pixels of each.
#include <catch2/catch.hpp>
#include <cstdlib>

#include <fmt/format.h>

#include "chain/evaluate.h"
#include "resample/paths/row_float.h"
#include "tests/maps.h"
#include "tests/plain_wide.h"

using namespace fexel;
using namespace fexel::test;

namespace {

constexpr Size source_size{62, 46};

struct MapClass {
  const char* name;
  const char* steps;
  bool nonlinear = false;  ///< evaluated between grid points, within 1/256 px
};

const MapClass map_classes[] = {
    {"whole-pixel", R"({"step":"crop","x":3,"y":2,"width":50,"height":40})"},
    {"quarter turn", R"({"step":"rotate","degrees":90})"},
    {"small turn", R"({"step":"rotate","degrees":4,"extent":"keep"})"},
    {"smaller turn", R"({"step":"rotate","degrees":-0.7,"extent":"grow"})"},
    {"large turn", R"({"step":"rotate","degrees":37,"extent":"grow"})"},
    {"near 90 degrees", R"({"step":"rotate","degrees":90.4,"extent":"keep"})"},
    {"mirror and turn", R"({"step":"mirror","reverse":"x"},{"step":"rotate","degrees":-2.5,"extent":"keep"})"},
    {"half a pixel", R"({"step":"translate","dx":0.4,"dy":-0.25})"},
    {"shrink by 1.1", R"({"step":"resize","width":56,"height":42})"},
    {"shrink by 1.5", R"({"step":"resize","width":41,"height":31})"},
    {"shrink by 3.1", R"({"step":"resize","width":20,"height":15})"},
    {"shrink across only", R"({"step":"resize","width":30,"height":46})"},
    {"shrink and turn", R"({"step":"rotate","degrees":3,"extent":"keep"},{"step":"resize","width":40,"height":30})"},
    {"enlarge", R"({"step":"resize","width":90,"height":66})"},
    {"perspective", R"({"step":"matrix","matrix":[[1.04,0.02,-3],[0.01,1.03,-2],[0.0004,-0.0003,1]]})"},
    {"steep perspective", R"({"step":"tilt","about_x":35,"about_y":-20,"extent":"keep"})"},
    {"lens", R"({"step":"lens","k1":-0.08,"p1":0.004})", true},
    {"tilt and lens", R"({"step":"lens","k1":0.05},{"step":"tilt","about_y":15,"extent":"keep"})", true},
    {"polynomial 2",
     R"({"step":"fit","model":"polynomial2","pairs":[{"from":[2,2],"to":[3,1]},{"from":[58,3],"to":[57,5]},{"from":[59,43],"to":[60,42]},{"from":[3,42],"to":[2,44]},{"from":[30,22],"to":[31.5,23]},{"from":[30,4],"to":[30,6]},{"from":[6,24],"to":[5,25]},{"from":[55,24],"to":[56,22]}]})",
     true},
    {"polynomial 3",
     R"({"step":"fit","model":"polynomial3","pairs":[{"from":[2,2],"to":[2.5,1.5]},{"from":[20,2],"to":[20,2.5]},{"from":[40,3],"to":[40.4,3]},{"from":[58,3],"to":[57.5,3.5]},{"from":[3,16],"to":[3,16]},{"from":[21,16],"to":[21.5,16.2]},{"from":[41,15],"to":[41,15.5]},{"from":[59,16],"to":[59,16]},{"from":[2,30],"to":[2.5,30]},{"from":[20,31],"to":[20,31.4]},{"from":[42,30],"to":[41.6,30]},{"from":[58,31],"to":[58,30.6]},{"from":[3,43],"to":[3,43.5]},{"from":[22,44],"to":[22,44]},{"from":[41,43],"to":[41.3,43]},{"from":[59,43],"to":[59,42.6]}]})",
     true},
    {"thin-plate",
     R"({"step":"fit","model":"thin-plate","pairs":[{"from":[5,5],"to":[6,4]},{"from":[55,6],"to":[54,7]},{"from":[56,40],"to":[56,41]},{"from":[6,41],"to":[5,40]},{"from":[31,23],"to":[32,24.5]}]})",
     true},
    {"unwrap", R"({"step":"unwrap","centre":[31,23],"inner":8,"outer":20})", true},
    {"mixed chain",
     R"({"step":"mirror","reverse":"y"},{"step":"rotate","degrees":11,"extent":"grow"},{"step":"crop","x":6.5,"y":4,"width":48,"height":40},{"step":"resize","width":38,"height":30},{"step":"translate","dx":1.3,"dy":0.6},{"step":"pad","left":3,"right":2,"top":1},{"step":"rotate","degrees":-90})"},
};

Chain chain_of(const std::string& steps, const Resampling& how) {
  Chain chain = parse_chain("{\"fexel\":1,\"steps\":[" + steps + "]}");
  chain.resampling = how;
  return chain;
}

/// Where a result pixel's centre stands in the source, and the Jacobian there, by central differences.
struct Place {
  Point at;
  Matrix2 jacobian;
};
std::optional<Place> place_of(const Map& to_source, Point centre) {
  constexpr double h = 1e-4;
  const auto at = to_source.forward(centre);
  if (!at) return std::nullopt;
  Place out{*at, {}};
  for (int axis = 0; axis < 2; ++axis) {
    const Point d = axis == 0 ? Point{h, 0} : Point{0, h};
    const auto a = to_source.forward({centre.x + d.x, centre.y + d.y}),
               b = to_source.forward({centre.x - d.x, centre.y - d.y});
    if (!a || !b) return std::nullopt;
    out.jacobian(0, axis) = (a->x - b->x) / (2 * h);
    out.jacobian(1, axis) = (a->y - b->y) / (2 * h);
  }
  return out;
}

double largest_stretch(const Matrix2& jacobian) {
  return Eigen::JacobiSVD<Matrix2>(jacobian).singularValues()[0];
}

/// The largest difference between neighbours around a place: what a pixel's place being off costs.
double steepest(const Image& source, int band, Point at, double around, BorderMode edge) {
  double low = 1e30, high = -1e30;
  const int x = static_cast<int>(std::floor(at.x)), y = static_cast<int>(std::floor(at.y));
  const int n = static_cast<int>(std::ceil(around)) + 2;
  for (int j = y - n; j <= y + n; ++j)
    for (int i = x - n; i <= x + n; ++i) {
      const double v = value(source, band, walked(i, source.width(), edge), walked(j, source.height(), edge));
      low = std::min(low, v), high = std::max(high, v);
    }
  return high - low;
}

struct Expected {
  int x, y;
  bool valid;
  std::vector<double> values;   ///< a band each
  std::vector<double> allowed;  ///< what each may be off by
};

double highest_of(Depth depth) {
  return depth == Depth::u8 ? 255 : depth == Depth::u16 ? 65535 : 1e30;
}

/// A fill that no rounding makes of noise.
constexpr double fill = 7;

std::vector<Expected> expected_of(const MapClass& map, const Layout& layout, const Image& samples,
                                  const std::vector<Endless>& endless, const Resampling& how) {
  const Map to_source = layout.result().from_source.inverse();
  const Size size = layout.result().size;
  const int step = std::getenv("FEXEL_WIDE") ? 3 : std::clamp(size.width * size.height / 90, 3, 29) | 1;
  std::vector<Expected> out;
  for (int n = 0; n < size.width * size.height; n += step) {
    Expected here{n % size.width, n / size.width, false, {}, {}};
    const Point centre{here.x + 0.5, here.y + 0.5};
    const auto place = place_of(to_source, centre);
    if (!place) continue;  // about a horizon
    const double stretch = largest_stretch(place->jacobian);
    // Beyond, the taps come from a level of the pyramid; so far out nothing but the rule is left to test.
    if (stretch > 3.6 || std::abs(place->at.x - 30) > 70 || std::abs(place->at.y - 23) > 60) continue;
    here.valid = carry(layout, centre, layout.last(), 0).status == CarryStatus::ok;
    // On a border a rounding decides.
    const auto inside = [&](double d) {
      return carry(layout, {centre.x + d, centre.y}, layout.last(), 0).status == CarryStatus::ok &&
             carry(layout, {centre.x, centre.y + d}, layout.last(), 0).status == CarryStatus::ok;
    };
    if (inside(1e-3) != here.valid || inside(-1e-3) != here.valid) continue;
    if (how.kernel == Kernel::nearest) {
      const double off = map.nonlinear ? 0.01 : 1e-6;
      if (std::abs(place->at.x - std::round(place->at.x)) < off ||
          std::abs(place->at.y - std::round(place->at.y)) < off)
        continue;
    }
    // Turned footprints are even between every sixteenth pixel.
    const bool bends = map.nonlinear || std::string(map.name).find("perspective") != std::string::npos;
    for (int band = 0; band < samples.bands(); ++band) {
      double value = fill;
      double allowed = 0;
      if (here.valid || how.edge != BorderMode::fill) {
        value =
            expected_sample(samples, endless[static_cast<std::size_t>(band)], band, how, place->at, place->jacobian);
        const double range = samples.depth() == Depth::u8 ? 255 : samples.depth() == Depth::u16 ? 65535 : 1;
        allowed = samples.depth() == Depth::u8 ? 0.57 : samples.depth() == Depth::u16 ? 0.5 + 65535 * 4e-6 : 6e-6;
        const bool wide = stretch > (bends ? 1.06 : 1.089) && how.antialias && how.kernel != Kernel::nearest;
        if (wide) allowed += range * 4e-5;
        if (how.kernel == Kernel::nearest) allowed = 0;
        if (how.kernel != Kernel::nearest && bends)
          allowed += (map.nonlinear ? 1.5 / 256 : 0) * steepest(samples, band, place->at, stretch, how.edge) +
                     (wide             ? 0.012 * range
                      : stretch > 0.95 ? 0.002 * range
                                       : 0);
        if (samples.depth() != Depth::f32) value = std::clamp(value, 0.0, highest_of(samples.depth()));
      }
      here.values.push_back(value);
      here.allowed.push_back(allowed);
    }
    out.push_back(std::move(here));
  }
  return out;
}

template <class T>
void paint_flat(Image& image, double of_band) {
  for (int band = 0; band < image.bands(); ++band)
    for (int y = 0; y < image.height(); ++y)
      std::fill_n(image.row<T>(band, y), image.width(), static_cast<T>(of_band * (band + 1)));
}

Image flat(int bands, Depth depth) {
  Image image(source_size.width, source_size.height, bands, depth);
  visit_depth(depth, [&](auto sample) { paint_flat<decltype(sample)>(image, depth == Depth::f32 ? 0.1234567 : 47); });
  return image;
}

/// The number of samples that are neither the flat picture's nor, where the fill is painted, the fill.
int off_flat(const Image& out, const Image& source, BorderMode edge) {
  int off = 0;
  for (int band = 0; band < out.bands(); ++band)
    for (int y = 0; y < out.height(); ++y)
      for (int x = 0; x < out.width(); ++x) {
        const double v = value(out, band, x, y);
        const bool filled = !out.valid(x, y) && (edge == BorderMode::fill || v == fill);
        off += filled ? v != fill : v != value(source, band, 0, 0);
      }
  return off;
}

}  // namespace

TEST_CASE("every kernel, depth, band count, edge, map and instruction set is flat on flat pictures and right on noise",
          "[matrix][long]") {
  const BestTarget afterwards;
  use_vector_target("");
  const std::vector<std::string> targets = vector_targets();
  const Kernel kernel =
      GENERATE(Kernel::nearest, Kernel::linear, Kernel::cubic, Kernel::lanczos3, Kernel::bspline3, Kernel::area);
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const int bands = GENERATE(1, 3, 5);
  const Image samples = noise(source_size.width, source_size.height, bands, depth), even = flat(bands, depth);
  std::size_t cells = 0;
  for (const BorderMode edge :
       {BorderMode::fill, BorderMode::extend, BorderMode::mirror, BorderMode::mirror_once, BorderMode::tile}) {
    const Resampling how{kernel, edge, {fill}, true};
    const Pyramid source = pyramid_of(samples.clone()), plain = pyramid_of(even.clone());
    std::vector<Endless> endless;
    for (int band = 0; band < bands; ++band) endless.emplace_back(samples, band, kernel, edge);
    for (const MapClass& map : map_classes) {
      const Chain chain = chain_of(map.steps, how);
      const Layout layout = lay_out(chain, {source_size, bands, depth, {}});
      layout.require_sound();
      const auto expected = expected_of(map, layout, samples, endless, how);
      for (const std::string& target : targets) {
        use_vector_target(target);
        ++cells;
        const Image level = evaluate(chain, layout, plain, {}, nullptr);
        const int off = off_flat(level, even, edge);
        const Image out = evaluate(chain, layout, source, {}, nullptr);
        int wrong = 0, masks = 0;
        std::string first;
        for (const Expected& here : expected) {
          masks += out.valid(here.x, here.y) != here.valid;
          for (int band = 0; band < bands; ++band) {
            const auto b = static_cast<std::size_t>(band);
            const double error = value(out, band, here.x, here.y) - here.values[b];
            if (std::abs(error) <= here.allowed[b]) continue;
            if (wrong++ == 0)
              first = fmt::format("({}, {}) band {} is off by {:.6g}, allowed {:.6g}", here.x, here.y, band, error,
                                  here.allowed[b]);
          }
        }
        if (off == 0 && wrong == 0 && masks == 0 && expected.size() > 10) continue;
        INFO(name_of(kernel) << ", " << name_of(depth) << ", " << bands << " bands, " << name_of(edge) << ", "
                             << map.name << ", " << target << ": " << expected.size() << " pixels; " << first);
        CHECK(expected.size() > 10);
        CHECK(off == 0);
        CHECK(wrong == 0);
        CHECK(masks == 0);
      }
    }
  }
  CHECK(cells == 5 * std::size(map_classes) * targets.size());
}

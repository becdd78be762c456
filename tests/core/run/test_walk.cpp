/// A random walk over chains: random steps on random small pictures, made whole, by regions, by parts, at the screen's
/// scale and again from their records. FEXEL_WALK in the environment says how many, FEXEL_SEED where to begin.
#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <cstdlib>

#include "base/error.h"
#include "run/by_parts.h"
#include "run/verify.h"
#include "tests/maps.h"
#include "tests/support.h"

using namespace fexel;
using namespace fexel::test;
namespace fs = std::filesystem;

namespace {

class RandomChains {
 public:
  explicit RandomChains(unsigned seed) : random_(seed) {}
  int whole(int low, int high) { return low + static_cast<int>(random_() % static_cast<unsigned>(high - low + 1)); }
  double number(double low, double high) { return low + (high - low) * static_cast<double>(random_()) / 4294967295.0; }
  bool one_in(int n) { return whole(1, n) == 1; }
  template <class T>
  T of(std::initializer_list<T> list) {
    return *(list.begin() + whole(0, static_cast<int>(list.size()) - 1));
  }

  /// A picture of any depth, some with holes.
  Image picture() {
    const Depth depth = of({Depth::u8, Depth::u8, Depth::u16, Depth::f32});
    const Size size{one_in(6) ? whole(1, 6) : whole(8, 60), one_in(6) ? whole(1, 6) : whole(8, 50)};
    Image image = noise(size.width, size.height, of({1, 1, 3, 5}), depth, static_cast<unsigned>(random_()));
    if (one_in(4)) {
      image.make_mask(true);
      for (int n = whole(1, 30); n > 0; --n)
        image.set_valid(whole(0, size.width - 1), whole(0, size.height - 1), false);
      if (depth == Depth::f32) put_nan(image);
    }
    return image;
  }

  std::string resampling() {
    return fmt::format(R"({{"kernel":"{}","edge":"{}","fill":{},"antialias":{}}})",
                       of({"nearest", "linear", "cubic", "lanczos3", "bspline3", "area"}),
                       of({"fill", "fill", "fill", "extend", "extend", "mirror", "mirror-once", "tile"}), whole(0, 9),
                       !one_in(6));
  }

  std::string step(int bands) {
    switch (whole(0, 18)) {
      case 0:
        return fmt::format(R"({{"step":"rotate","degrees":{}}})", 90 * whole(-3, 3));
      case 1:
        return fmt::format(R"({{"step":"mirror","reverse":"{}"}})", of({"x", "y"}));
      case 2:
      case 3:
        return fmt::format(R"({{"step":"rotate","degrees":{},"extent":"{}"}})",
                           one_in(3) ? number(-4, 4) : number(-180, 180), of({"grow", "keep", "inside"}));
      case 4:
        return fmt::format(R"({{"step":"translate","dx":{},"dy":{},"extent":"{}"}})",
                           one_in(2) ? whole(-5, 5) : number(-5, 5), one_in(2) ? whole(-5, 5) : number(-5, 5),
                           of({"keep", "grow"}));
      case 5:
      case 6:
        return fmt::format(R"({{"step":"crop","x":{},"y":{},"width":{},"height":{}}})",
                           one_in(2) ? whole(0, 6) : number(0, 6), one_in(2) ? whole(0, 6) : number(0, 6), whole(2, 30),
                           whole(2, 30));
      case 7:
        return fmt::format(R"({{"step":"crop","ratio":[{},{}]}})", whole(1, 4), whole(1, 4));
      case 8:
        return fmt::format(R"({{"step":"resize","scale":{}}})", number(0.25, 2.2));
      case 9:
        return fmt::format(R"({{"step":"resize","width":{},"height":{},"when_shape_differs":"{}"}})", whole(3, 60),
                           whole(3, 60), of({"stretch", "crop", "pad"}));
      case 10:
        return fmt::format(R"({{"step":"downsample","factor":[{},{}],"take":"{}","remainder":"{}"}})", whole(1, 4),
                           whole(1, 4), of({"first", "mean", "median", "min", "max"}), of({"drop", "partial"}));
      case 11:
        return fmt::format(R"({{"step":"pad","left":{},"top":{},"right":{},"bottom":{}{}}})", whole(0, 6), whole(0, 6),
                           whole(0, 6), whole(0, 6),
                           one_in(2) ? fmt::format(R"(,"edge":"{}")", of({"fill", "extend", "mirror", "tile"})) : "");
      case 12:
        return fmt::format(R"({{"step":"tilt","about_x":{},"about_y":{},"extent":"{}"}})", number(-30, 30),
                           number(-30, 30), of({"grow", "keep"}));
      case 13:
        return fmt::format(R"({{"step":"lens","k1":{},"direction":"{}"}})", number(-0.08, 0.08), of({"undo", "add"}));
      case 14:
        return fmt::format(R"({{"step":"bands","take":{}}})",
                           one_in(2) ? std::string("\"grey\"") : fmt::format("[{}]", whole(1, bands)));
      case 15:
        return fmt::format(R"({{"step":"denoise","radius":{},"method":"{}"}})", whole(1, 2),
                           of({"median", "gaussian"}));
      case 16:
        return fmt::format(R"({{"step":"convolve","kernel":[[1,2,1],[2,4,2]],"scale":{}{}}})", number(0.02, 0.2),
                           one_in(2) ? "" : fmt::format(R"(,"depth":"{}")", of({"u8", "u16", "f32"})));
      case 17:
        return fmt::format(R"({{"step":"highpass","radius":{}}})", number(1, 4));
      default:
        return fmt::format(R"({{"step":"matrix","matrix":[[{},{},{}],[{},{},{}],[{},{},1]]}})", number(0.6, 1.5),
                           number(-0.3, 0.3), number(-5, 5), number(-0.3, 0.3), number(0.6, 1.5), number(-5, 5),
                           number(-0.004, 0.004), number(-0.004, 0.004));
    }
  }

  std::string chain(int bands) {
    std::string steps;
    for (int n = whole(0, 5); n > 0; --n) steps += (steps.empty() ? "" : ",") + step(bands);
    return fmt::format(R"({{"fexel":1,"resample":{},"steps":[{}]}})", resampling(), steps);
  }

 private:
  std::mt19937 random_;
};

bool same_masks(const Image& a, const Image& b) {
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x)
      if (a.valid(x, y) != b.valid(x, y)) return false;
  return true;
}

bool same_shape(const Image& a, const Image& b) {
  return a.width() == b.width() && a.height() == b.height() && a.bands() == b.bands() && a.depth() == b.depth();
}

/// The largest difference of samples, NaN being the same as NaN; infinite where the shapes differ.
double difference(const Image& a, const Image& b) {
  if (!same_shape(a, b)) return std::numeric_limits<double>::infinity();
  double most = 0;
  for (int band = 0; band < a.bands(); ++band)
    for (int y = 0; y < a.height(); ++y)
      for (int x = 0; x < a.width(); ++x) {
        const double v = value(a, band, x, y), w = value(b, band, x, y);
        if (v == w || (v != v && w != w)) continue;
        most = std::max(most, v == v && w == w ? std::abs(v - w) : std::numeric_limits<double>::infinity());
      }
  return most;
}

bool curved(const Layout& layout) {
  for (const Station& station : layout.stations)
    if (!station.from_source.planar()) return true;
  return false;
}

/// The largest sample, at least 1.
double largest_of(const Image& image) {
  double largest = 1;
  for (int band = 0; band < image.bands(); ++band)
    for (int y = 0; y < image.height(); ++y)
      for (int x = 0; x < image.width(); ++x)
        if (const double v = std::abs(value(image, band, x, y)); v == v) largest = std::max(largest, v);
  return largest;
}

/// What a sample may differ by where pixels of a nonlinear map stand within 1/256 px. Floats have the range of what
/// they are made of.
double bend(const Image& whole, bool bent) {
  const Depth depth = whole.depth();
  const double range = depth == Depth::u8 ? 255 : depth == Depth::u16 ? 65535 : largest_of(whole);
  return bent ? 0.02 * range + (depth == Depth::f32 ? 0 : 1) : 0;
}

/// Whether it is a toss which pixel is the nearest: the place lies on the border of two, within the accuracy of the
/// map.
bool toss(const WarpPlan& plan, int x, int y) {
  const Point centre{x + 0.5, y + 0.5};
  const auto at = plan.curved ? plan.curved->forward(centre) : Map::apply(plan.inverse_map, centre);
  const double within = plan.curved ? 1.0 / 256 : 1e-9;
  const auto near = [&](double v) { return std::abs(v - std::round(v)) < within; };
  return !at || near(at->x) || near(at->y);
}

/// The same picture with what is a toss as in another.
Image without_tosses(const Image& image, const Image& other, const WarpPlan& plan) {
  Image out = image.clone();
  for (int band = 0; band < out.bands() && same_shape(image, other); ++band)
    for (int y = 0; y < out.height(); ++y)
      for (int x = 0; x < out.width(); ++x)
        if (toss(plan, x, y))
          visit_depth(out.depth(), [&](auto sample) {
            using T = decltype(sample);
            out.row<T>(band, y)[x] = other.row<T>(band, y)[x];
          });
  return out;
}

}  // namespace

TEST_CASE("random chains agree whole, by regions, by parts, at the screen's scale and from their records", "[walk]") {
  const int count = std::getenv("FEXEL_WALK") ? std::atoi(std::getenv("FEXEL_WALK")) : 150;
  const unsigned first = std::getenv("FEXEL_SEED") ? static_cast<unsigned>(std::atoi(std::getenv("FEXEL_SEED"))) : 1;
  const Scratch scratch;
  int made = 0, parted = 0, refused = 0;
  std::int64_t differing = 0, compared = 0;
  for (unsigned seed = first; seed < first + static_cast<unsigned>(count); ++seed) {
    RandomChains walk(seed);
    const Image samples = walk.picture();
    const std::string text = walk.chain(samples.bands());
    INFO("FEXEL_SEED=" << seed << " FEXEL_WALK=1: " << samples.width() << " x " << samples.height() << " px, "
                       << samples.bands() << " of " << name_of(samples.depth())
                       << (samples.has_mask() ? " with holes, " : ", ") << text);
    const Chain chain = parse_chain(text);
    CHECK(parse_chain(write_chain(chain)) == chain);
    const bool alpha = samples.has_mask() && samples.depth() != Depth::f32;
    const fs::path source = scratch / "source.tif";
    WriteOptions how;
    how.replace = true;
    how.alpha = alpha;
    write_pictures(source, one_page(alpha ? with_alpha(samples) : samples.clone()), how);
    const auto frames = pages_of(source, {});
    Target target;
    target.path = scratch / "whole.tif";
    target.replace = true;
    target.record = record_path(target.path);
    const Image base = read_picture(source);
    const Layout layout = lay_out(chain, {{base.width(), base.height()}, base.bands(), base.depth(), {}});
    std::string trouble;
    try {
      layout.require_sound();
      check_fill(chain, base.bands());
    } catch (const Error& error) {
      trouble = error.message();
    }
    if (!trouble.empty()) {
      // Refused for the same reason by whatever would write it.
      try {
        plan_frames(chain, frames, target, {});
        FAIL_CHECK("a chain that cannot be laid out was planned");
      } catch (const Error& error) {
        CHECK(error.message() == trouble);
        CHECK_FALSE(error.remedy().empty());
      }
      ++refused;
      continue;
    }
    RunResult outcome;
    try {
      outcome = write_frames(chain, frames, target, {}, {});
    } catch (const Error& error) {
      CHECK_FALSE(error.message().empty());
      CHECK_FALSE(error.remedy().empty());
      ++refused;
      continue;
    }
    ++made;
    const Pyramid pyramid = pyramid_of(base.clone());
    WarpReport report;
    const Image whole = evaluate(chain, layout, pyramid, {}, &report);
    const bool bent = curved(layout);
    const double allowed = bend(whole, bent);
    // The file holds what was evaluated.
    const Image file = read_picture(target.path);
    if (!whole.has_mask() || whole.depth() != Depth::f32) CHECK(difference(whole, file) == 0);
    CHECK(outcome.width == layout.result().size.width);
    CHECK(outcome.exact == report.exact);
    CHECK(outcome.clamped == report.clamped);
    const WarpPlan last_plan = plan_for(layout, layout.last());
    const bool nearest = chain.resampling.kernel == Kernel::nearest;
    // By regions.
    const auto shared = std::shared_ptr<const Pyramid>(std::shared_ptr<const Pyramid>(), &pyramid);
    const RunPictures pictures(shared, chain, layout);
    const Station& last = layout.result();
    const bool own = !(last.run_start == layout.last() && layout.last() > 0);  // a pad's surroundings are no fill
    for (int n = 0; n < 3 && own; ++n) {
      const int x = walk.whole(0, last.size.width - 1), y = walk.whole(0, last.size.height - 1);
      const Region part{x, y, walk.whole(1, last.size.width - x), walk.whole(1, last.size.height - y)};
      const Image piece = warp(*pictures.at(last.run_start, {}), plan_for(layout, layout.last()), part,
                               chain.resampling, Quality::final, {});
      double most = 0, largest = 1;
      bool masks = true;
      for (int band = 0; band < piece.bands(); ++band)
        for (int j = 0; j < part.height; ++j)
          for (int i = 0; i < part.width; ++i) {
            const double v = value(piece, band, i, j), w = value(whole, band, x + i, y + j);
            if (nearest && v != w && toss(last_plan, x + i, y + j)) continue;
            if (!(v != v && w != w) && v != w) most = std::max(most, v == v && w == w ? std::abs(v - w) : 1e30);
            largest = std::max(largest, std::abs(w));
            differing += !bent && whole.depth() == Depth::u8 && v != w;
            ++compared;
            masks = masks && piece.valid(i, j) == whole.valid(x + i, y + j);
          }
      INFO("region " << part.x << ", " << part.y << ", " << part.width << " x " << part.height);
      // The same but for what lies within 1e-5 of a rounding, which of bytes is one sample in tens of thousands.
      const double rounded = whole.depth() == Depth::f32 ? 2e-6 * largest : 1;
      CHECK(most <= allowed + rounded);
      CHECK(masks);
    }
    // At the screen's scale: what the window draws of a station is that station resized.
    // Samples that are taken on purpose stay taken in a view, and are not in a step behind; what is nearest is a toss
    // where a pixel stands in the middle between two.
    if (own && last.stride == Stride{} && chain.resampling.kernel != Kernel::nearest && last.size.width > 3 &&
        last.size.height > 3) {
      const Size view{(last.size.width + 1) / 2, (last.size.height + 1) / 2};
      Chain smaller = chain;
      ResizeStep half;
      half.width = view.width;
      half.height = view.height;
      smaller.steps.push_back({half, true, {}});
      const Layout resized = lay_out(smaller, {{base.width(), base.height()}, base.bands(), base.depth(), {}});
      const Image written = evaluate(smaller, resized, pyramid, {}, nullptr);
      const Map station_from_view(scaling(static_cast<double>(last.size.width) / view.width,
                                          static_cast<double>(last.size.height) / view.height));
      const WarpPlan view_plan = plan_for_view(layout, layout.last(), station_from_view, view);
      const Image as_drawn = warp(*pictures.at(last.run_start, {}), view_plan, {0, 0, view.width, view.height},
                                  chain.resampling, Quality::final, {});
      // Which pixel of a source with holes a place on a border belongs to.
      const bool holes = pictures.at(last.run_start, {})->base().has_mask();
      const Image drawn = holes ? without_tosses(as_drawn, written, view_plan) : as_drawn.clone();
      const double most = difference(written, drawn);
      INFO("drawn at half its size it differs by " << most);
      CHECK(most <= allowed + (whole.depth() == Depth::f32 ? 2e-5 * largest_of(drawn) : 1));
    }
    // By parts.
    WriteHow little;
    little.memory = 4000;
    Target parts = target;
    parts.path = scratch / "parts.tif";
    parts.record.clear();
    try {
      const WritePlan plan = plan_frames(chain, frames, parts, little);
      if (plan.pages.front().by_parts) {
        const RunResult other = write_frames(chain, frames, parts, little, {});
        ++parted;
        const Image read = read_picture(parts.path);
        const Image pieced = nearest && bent ? without_tosses(read, file, last_plan) : read.clone();
        const double rounding = whole.depth() == Depth::f32 ? 1e-5 * largest_of(file) : 1;
        const bool spline = chain.resampling.kernel == Kernel::bspline3;
        INFO("by parts it differs by " << difference(file, pieced));
        CHECK(difference(file, pieced) <= allowed + rounding * (spline ? 3 : 1));
        CHECK(same_masks(file, pieced));
        CHECK(other.exact == outcome.exact);
        CHECK(other.empty_share == Approx(outcome.empty_share).margin(1e-12));
      }
    } catch (const Error& error) {
      // Not by parts, or a small part of it is made of too much: said.
      CHECK_FALSE(error.remedy().empty());
    }
    const Verified again = verify_record(target.record, {}, {});
    CHECK(again.same);
  }
  INFO(made << " made, " << parted << " of them by parts, " << refused << " refused");
  CHECK(static_cast<double>(differing) <= 1 + 2e-5 * static_cast<double>(compared));
  CHECK(made > count / 2);
  CHECK(parted >= count / 75);
}

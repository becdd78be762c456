// Pictures of many frames against plain references: projections, slices along time, mosaics.
#include <catch2/catch.hpp>
#include <random>

#include "base/error.h"
#include "stacks/mosaic.h"
#include "stacks/projection.h"
#include "stacks/provenance.h"
#include "stacks/time_slice.h"
#include "tests/scene.h"
#include "tests/support.h"

using namespace fexel;
namespace fs = std::filesystem;

namespace {

/// Frames in one TIFF, with masked pixels where a second list of masks says so (by NaN in f32, by alpha in integers).
std::vector<FrameFile> stacked(const test::Scratch& scratch, const std::vector<Image>& pages,
                               const std::string& name = "stack.tif", bool alpha = false) {
  WriteOptions how;
  how.alpha = alpha;
  how.replace = true;
  write_pictures(scratch / name, pages, how);
  return pages_of(scratch / name, {});
}

/// What a projection is, the plain way: all values of a pixel, sorted out by hand.
std::optional<double> plain(std::vector<double> values, Projection what) {
  if (values.empty()) return std::nullopt;
  std::sort(values.begin(), values.end());
  const double n = static_cast<double>(values.size());
  double sum = 0;
  for (const double v : values) sum += v;
  double squares = 0;
  for (const double v : values) squares += (v - sum / n) * (v - sum / n);
  switch (what) {
    case Projection::mean:
      return sum / n;
    case Projection::median:
      return values.size() % 2 == 1 ? values[values.size() / 2]
                                    : (values[values.size() / 2 - 1] + values[values.size() / 2]) / 2;
    case Projection::least:
      return values.front();
    case Projection::largest:
      return values.back();
    case Projection::deviation:
      return values.size() < 2 ? std::nullopt : std::optional(std::sqrt(squares / (n - 1)));
    case Projection::range:
      return values.back() - values.front();
    case Projection::sum:
      return sum;
  }
  return std::nullopt;
}

constexpr Projection all_projections[] = {Projection::mean,    Projection::median,    Projection::least,
                                          Projection::largest, Projection::deviation, Projection::range,
                                          Projection::sum};

}  // namespace

TEST_CASE("each projection is that of a plain reference, for every depth, whatever part is read at a time",
          "[stacks]") {
  const test::Scratch scratch;
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const int bands = GENERATE(1, 3), count = GENERATE(1, 2, 7);
  std::mt19937 random(5);
  std::vector<Image> pages;
  const int width = 23, height = 17;
  std::vector<std::vector<bool>> there;
  for (int k = 0; k < count; ++k) {
    Image page = test::noise(width, height, bands + (depth == Depth::f32 ? 0 : 1), depth, static_cast<unsigned>(k) + 3);
    auto& mask = there.emplace_back();
    for (int y = 0; y < height; ++y)
      for (int x = 0; x < width; ++x) {
        // Some pixels are empty in some frames, one in all of them.
        const bool valid = !(x == 3 && y == 4) && random() % 5 != 0;
        mask.push_back(valid);
        visit_depth(depth, [&](auto kind) {
          using T = decltype(kind);
          if constexpr (std::is_floating_point_v<T>) {
            for (int b = 0; b < bands && !valid; ++b) page.row<T>(b, y)[x] = std::numeric_limits<T>::quiet_NaN();
          } else {
            page.row<T>(bands, y)[x] = valid ? static_cast<T>(top_of(depth)) : T{0};
          }
        });
      }
    pages.push_back(std::move(page));
  }
  const FrameStack frames(stacked(scratch, pages, "s.tif", depth != Depth::f32), {});
  REQUIRE(frames.count() == static_cast<std::size_t>(count));
  CHECK(frames.bands() == bands);
  const auto numbers = groups_of(frames.count(), 0).front();
  for (const std::int64_t memory : {std::int64_t{1} << 30, std::int64_t{20000}, std::int64_t{1}})
    for (const Projection what : all_projections) {
      INFO(name_of(depth) << " " << bands << " " << count << " " << memory << " "
                          << projection_words()[static_cast<std::size_t>(what)]);
      const Projected made = project(frames, numbers, what, memory, {});
      CHECK(made.frames == count);
      const bool kept = what == Projection::least || what == Projection::largest || what == Projection::range;
      CHECK(made.picture.depth() == (kept ? depth : Depth::f32));
      int wrong = 0, unlike = 0, counts = 0;
      for (int y = 0; y < height; ++y)
        for (int x = 0; x < width; ++x) {
          int n = 0;
          for (int b = 0; b < bands; ++b) {
            std::vector<double> values;
            for (int k = 0; k < count; ++k)
              if (there[static_cast<std::size_t>(k)][static_cast<std::size_t>(y * width + x)])
                values.push_back(test::value(pages[static_cast<std::size_t>(k)], b, x, y));
            n = static_cast<int>(values.size());
            const auto expected = plain(values, what);
            if (expected.has_value() != made.picture.valid(x, y)) ++unlike;
            if (expected && made.picture.valid(x, y))
              wrong += std::abs(test::value(made.picture, b, x, y) - *expected) > 1e-6 * (1 + std::abs(*expected));
          }
          counts += made.counts.row<float>(0, y)[x] != static_cast<float>(n);
        }
      CHECK(wrong == 0);
      CHECK(unlike == 0);
      CHECK(counts == 0);
    }
}

TEST_CASE("frames that are unlike the first, or cannot be read, are left out and said", "[stacks]") {
  const test::Scratch scratch;
  std::vector<FrameFile> frames;
  const auto add = [&](const char* name, const Image& image) {
    write_pictures(scratch / name, test::one_page(image.clone()), {*format_of_name(scratch / name), {}, false, {}});
    const auto pages = pages_of(scratch / name, {});
    frames.push_back(pages.front());
  };
  add("a.png", test::noise(20, 10, 1, Depth::u8, 1));
  add("b.png", test::noise(21, 10, 1, Depth::u8, 2));
  add("c.png", test::noise(20, 10, 3, Depth::u8, 3));
  add("d.png", test::noise(20, 10, 1, Depth::u16, 4));
  add("e.png", test::noise(20, 10, 1, Depth::u8, 5));
  add("f.png", test::noise(20, 10, 1, Depth::u8, 6));
  const FrameStack stack(frames, {}, {false, false, false, false, false, true});
  CHECK(stack.count() == 2);
  CHECK(stack.number(1) == 5);
  CHECK(stack.notes().size() == 4);
  fs::remove(scratch / "e.png");
  const Projected made = project(stack, {0, 1}, Projection::mean, 1 << 20, {});
  CHECK(made.frames == 1);
  REQUIRE(made.notes.size() == 1);
  CHECK(made.notes[0].starts_with("Frame 5"));
  fs::remove(scratch / "a.png");
  CHECK_THROWS_AS(project(stack, {0, 1}, Projection::mean, 1 << 20, {}), Error);
}

TEST_CASE("groups take n by n, the last what is left", "[stacks]") {
  CHECK(groups_of(5, 2) == std::vector<std::vector<std::size_t>>{{0, 1}, {2, 3}, {4}});
  CHECK(groups_of(3, 0) == std::vector<std::vector<std::size_t>>{{0, 1, 2}});
  CHECK(groups_of(0, 3).empty());
}

TEST_CASE("a slice along time samples the line in each frame", "[stacks]") {
  const test::Scratch scratch;
  // A wave that runs: the spline goes through samples of it, and between them within its bound.
  const auto wave = [](double x, double y, int k) { return 100 + 50 * std::sin(0.11 * x + 0.05 * y - 0.3 * k); };
  std::vector<Image> pages;
  for (int k = 0; k < 6; ++k) pages.push_back(test::painted(90, 70, [&](double x, double y) { return wave(x, y, k); }));
  const FrameStack frames(stacked(scratch, pages), {});
  const Point from{12.3, 50.7}, to{70.1, 15.2};
  const double length = distance(from, to);
  for (const int across : {1, 5}) {
    const TimeSlice slice = slice_along_time(frames, from, to, across, Kernel::bspline3, {});
    CHECK(slice.picture.width() == static_cast<int>(std::floor(length)));
    CHECK(slice.picture.height() == 6);
    CHECK(slice.notes.empty());
    double worst = 0;
    for (int k = 0; k < 6; ++k)
      for (int i = 0; i < slice.picture.width(); ++i) {
        double expected = 0;
        for (int j = 0; j < across; ++j) {
          const double u = (i + 0.5) / length, side = j + 0.5 - across / 2.0;
          const double nx = -(to.y - from.y) / length, ny = (to.x - from.x) / length;
          expected += wave(from.x + u * (to.x - from.x) + side * nx, from.y + u * (to.y - from.y) + side * ny, k);
        }
        REQUIRE(slice.picture.valid(i, k));
        worst = std::max(worst, std::abs(static_cast<double>(slice.picture.row<float>(0, k)[i]) - expected / across));
      }
    CHECK(worst < 0.01);
  }
  // Partly outside: empty there. All outside, or no line: refused.
  const TimeSlice part = slice_along_time(frames, {-10, 20}, {30, 20}, 1, Kernel::linear, {});
  CHECK_FALSE(part.picture.valid(3, 0));
  CHECK(part.picture.valid(20, 0));
  CHECK_THROWS_AS(slice_along_time(frames, {-50, -20}, {-10, -20}, 1, Kernel::linear, {}), Error);
  CHECK_THROWS_AS(slice_along_time(frames, {5, 5}, {5.3, 5}, 1, Kernel::linear, {}), Error);
}

TEST_CASE("gains that explain the ratios are found, and change nothing together", "[stacks]") {
  const std::vector<double> gains{1.0, 0.8, 1.25, 1.1};
  std::vector<GainRatio> ratios;
  for (int i = 0; i < 4; ++i)
    for (int k = i + 1; k < 4; ++k)
      if (k - i < 3)
        ratios.push_back({i, k, gains[static_cast<std::size_t>(k)] / gains[static_cast<std::size_t>(i)], 10.0 + i});
  const auto found = evened_gains(5, ratios);
  double product = 1;
  for (std::size_t i = 0; i < 4; ++i) {
    CHECK(found[i] / found[0] == Approx(gains[i] / gains[0]).epsilon(1e-6));
    product *= found[i];
  }
  CHECK(product == Approx(1).epsilon(1e-6));
  CHECK(found[4] == Approx(1));
  CHECK(evened_gains(2, {}) == std::vector<double>{1, 1});
}

namespace {

/// A field of 5 x 4 views of one scene that overlap by a quarter, taken in rows to and fro, each off by some pixels.
struct Views {
  std::vector<Matrix3> truth;  // a view's places to the scene's
  std::vector<FrameFile> files;
  std::vector<double> exposure;
  Views(const test::Scratch& scratch, const test::Scene& scene, double noise, double exposures, double turn) {
    std::mt19937 random(11);
    std::uniform_real_distribution<double> off(-9, 9), some(-1, 1);
    std::vector<Image> pages;
    for (int r = 0; r < 4; ++r)
      for (int c = 0; c < 5; ++c) {
        const int column = r % 2 == 0 ? c : 4 - c;
        const double angle = turn * some(random) * degree;
        Matrix3 to = translation(190.0 * column + off(random), 140.0 * r + off(random));
        Matrix3 rotation;
        rotation << std::cos(angle), -std::sin(angle), 0, std::sin(angle), std::cos(angle), 0, 0, 0, 1;
        to = to * rotation;
        truth.push_back(to);
        exposure.push_back(truth.size() == 1 ? 1.0 : 1 + exposures * some(random));
        Image frame = test::frame_of(scene, Matrix3(to.inverse()), {256, 192}, Depth::f32, 0, 1);
        std::normal_distribution<float> grain(0, static_cast<float>(noise));
        Image page(256, 192, 1, Depth::u16);
        for (int y = 0; y < 192; ++y)
          for (int x = 0; x < 256; ++x)
            page.row<std::uint16_t>(0, y)[x] = static_cast<std::uint16_t>(std::clamp(
                std::lround(100 * exposure.back() * static_cast<double>(frame.row<float>(0, y)[x] + grain(random))), 0L,
                65535L));
        pages.push_back(std::move(page));
      }
    files = stacked(scratch, pages, "views.tif");
  }
};

}  // namespace

TEST_CASE("a ring of 5 x 4 views closes: seams within 0.05 px, exposures within 1 %, the scene as it is",
          "[stacks][long]") {
  const test::Scratch scratch;
  const test::Scene scene = test::textured(60, 0.01, 0.12, 40, 8);
  const double exposures = GENERATE(0.0, 0.2);
  const Views views(scratch, scene, 2, exposures, 0);
  const FrameStack frames(views.files, {});
  for (const Blend blend : {Blend::first, Blend::last, Blend::mean, Blend::median, Blend::feathered}) {
    if (exposures > 0 && blend != Blend::feathered) continue;
    MosaicOptions options;
    options.blend = blend;
    options.resampling.kernel = Kernel::bspline3;
    if (blend == Blend::median) options.memory = 20 << 20;  // made by parts
    const Mosaic made = make_mosaic(frames, options, {});
    INFO(blend_words()[static_cast<std::size_t>(blend)] << " " << exposures);
    CHECK(made.notes.empty());
    const Matrix3 to_scene =
        views.truth[static_cast<std::size_t>(made.reference)] * translation(made.origin.x, made.origin.y);
    double worst = 0, gains = 0;
    for (std::size_t i = 0; i < 20; ++i) {
      CHECK(made.frames[i].placed);
      CHECK(made.frames[i].status == MatchStatus::ok);
      const Matrix3 found = to_scene * made.frames[i].to_canvas;
      worst = std::max(worst, std::hypot(found(0, 2) - views.truth[i](0, 2), found(1, 2) - views.truth[i](1, 2)));
      gains = std::max(
          gains, std::abs(made.frames[i].gain * views.exposure[i] / (made.frames[0].gain * views.exposure[0]) - 1));
    }
    CHECK(worst < 0.05);
    CHECK(gains < 0.01);
    CHECK(made.seams.size() >= 31);
    // The canvas shows the scene: what is left is noise and the kernel's.
    double squares = 0, n = 0;
    const double level = made.frames[0].gain * views.exposure[0];
    for (int y = 4; y < made.picture.height() - 4; y += 3)
      for (int x = 4; x < made.picture.width() - 4; x += 3) {
        if (!made.picture.valid(x, y)) continue;
        const Matrix3 here = to_scene * translation(x, y);
        const double expected = scene.at(here(0, 2) + 0.5, here(1, 2) + 0.5);
        const double off = test::value(made.picture, 0, x, y) / (100 * level) - expected;
        squares += off * off;
        ++n;
      }
    CHECK(n > 50000);
    CHECK(std::sqrt(squares / n) < 2.6 + 100 * (exposures > 0 ? 0.01 : 0));
  }
}

TEST_CASE("views that turn are laid by a rigid model, and one of something else is left out or called weak",
          "[stacks][long]") {
  const test::Scratch scratch;
  const test::Scene scene = test::textured(60, 0.01, 0.12, 40, 8), other = test::textured(60, 0.01, 0.12, 40, 77);
  Views views(scratch, scene, 2, 0, 1.5);
  std::vector<Image> pages;
  for (const FrameFile& file : views.files) pages.push_back(read_frame(file, {}, {}));
  Image stray = test::frame_of(other, Matrix3::Identity(), {256, 192}, Depth::f32, 2, 3);
  for (int y = 0; y < 192; ++y)
    for (int x = 0; x < 256; ++x)
      pages[7].row<std::uint16_t>(0, y)[x] =
          static_cast<std::uint16_t>(100 * std::max(0.0F, stray.row<float>(0, y)[x]));
  const FrameStack frames(stacked(scratch, pages, "with-stray.tif"), {});
  MosaicOptions options;
  options.match.model = Model::rigid;
  const Mosaic made = make_mosaic(frames, options, {});
  double worst = 0;
  for (std::size_t i = 0; i < 20; ++i) {
    if (i == 7) {
      CHECK(made.frames[i].status != MatchStatus::ok);
      continue;
    }
    CHECK(made.frames[i].status == MatchStatus::ok);
    const Matrix3 to_scene =
        views.truth[static_cast<std::size_t>(made.reference)] * translation(made.origin.x, made.origin.y);
    const Matrix3 found = to_scene * made.frames[i].to_canvas;
    for (const Point corner : {Point{0, 0}, Point{256, 192}}) {
      const auto a = Map(found).forward(corner), b = Map(views.truth[i]).forward(corner);
      worst = std::max(worst, distance(*a, *b) / made.frames[i].uncertainty_px);
    }
  }
  // At the far end turns add up; each frame says by how much.
  CHECK(worst < 6);
  double apart = 0;
  for (const MosaicSeam& seam : made.seams) {
    const Point middle{seam.part.x + seam.part.width / 2.0, seam.part.y + seam.part.height / 2.0};
    const auto in_scene = [&](int i) {
      const auto k = static_cast<std::size_t>(i);
      return *Map(Matrix3(views.truth[k] * made.frames[k].to_canvas.inverse())).forward(middle);
    };
    apart = std::max(apart, distance(in_scene(seam.first), in_scene(seam.second)));
  }
  CHECK(apart < 0.05);
}

TEST_CASE("frames that do not overlap make no mosaic", "[stacks]") {
  const test::Scratch scratch;
  std::vector<Image> pages;
  for (unsigned k = 0; k < 3; ++k)
    pages.push_back(
        test::frame_of(test::textured(60, 0.01, 0.12, 40, 100 + k), Matrix3::Identity(), {200, 160}, Depth::u8, 2, k));
  const FrameStack frames(stacked(scratch, pages), {});
  try {
    const Mosaic made = make_mosaic(frames, {}, {});
    for (std::size_t i = 0; i < 3; ++i)
      CHECK((static_cast<int>(i) == made.reference || made.frames[i].status != MatchStatus::ok));
  } catch (const Error& error) {
    CHECK(error.kind() == Error::Kind::input);
  }
  CHECK_THROWS_AS(make_mosaic(FrameStack({pages_of(scratch / "stack.tif", {}).front()}, {}), {}, {}), Error);
}

TEST_CASE("what a picture was made of is kept beside it", "[stacks]") {
  const test::Scratch scratch;
  write_pictures(scratch / "a.tif", test::one_page(test::noise(20, 10, 1, Depth::u8)), {});
  std::vector<WatchedFile> sources;
  sources.emplace_back(scratch / "a.tif");
  write_made(scratch / "out.tif", test::one_page(test::noise(5, 4, 1, Depth::f32)), {}, {{{"name", "project"}}, {}, {}},
             sources, {});
  const Json text = parse_json(read_text(scratch / "out.tif.made.json"));
  CHECK(text.at("sources")[0].at("sha256") == checksum(scratch / "a.tif"));
  CHECK(text.at("result").at("sha256") == checksum(scratch / "out.tif"));
}

#include <catch2/catch.hpp>

#include "files/parts.h"
#include "resample/coordinates/source_region.h"
#include "run/run.h"
#include "tests/support.h"

using namespace fexel;
using Catch::Contains;

namespace {

/// A 16-bit TIFF of 1500 x 1200 pixels and what a chain makes of it, whole and by parts.
struct Desk {
  test::Scratch scratch;
  std::filesystem::path picture = scratch / "large.tif";
  Image samples = test::noise(1500, 1200, 1, Depth::u16);
  RunOptions options;
  Desk() {
    std::vector<Image> pages;
    pages.push_back(samples.clone());
    write_pictures(picture, pages, {});
    options.folder = scratch.path();
    options.format = Format::tiff;
  }
  RunItem plan(const Chain& chain, double megabytes, const std::string& name) {
    options.memory = static_cast<std::int64_t>(megabytes * 1024 * 1024);
    options.name = name;
    return plan_run(chain, {picture}, options).front();
  }
  RunResult run(const Chain& chain, double megabytes, const std::string& name) {
    const RunItem item = plan(chain, megabytes, name);
    WriteHow how;
    how.memory = options.memory;
    Target free = item.target;
    free.replace = true;
    CHECK(plan_frames(chain, item.frames, free, how).pages.front().by_parts == (megabytes < 100));
    return run_one(chain, item, options, {});
  }
};

Chain chain_of(const std::string& steps, const std::string& kernel = "cubic") {
  return parse_chain(R"({"fexel": 1, "resample": {"kernel": ")" + kernel + R"(", "edge": "fill"}, "steps": [)" + steps +
                     "]}");
}

bool same_masks(const Image& a, const Image& b) {
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x)
      if (a.valid(x, y) != b.valid(x, y)) return false;
  return true;
}

}  // namespace

TEST_CASE("a picture that is gone through by parts comes out as the whole one does", "[stream]") {
  const std::string steps = GENERATE(
      R"({"step": "rotate", "degrees": 1.8})", R"({"step": "rotate", "degrees": -37, "extent": "keep"})",
      R"({"step": "resize", "scale": 0.3})", R"({"step": "resize", "scale": 1.4})",
      R"({"step": "rotate", "degrees": 90})", R"({"step": "crop", "x": 130, "y": 210, "width": 900, "height": 777})",
      R"({"step": "matrix", "matrix": [[0.9, 0.1, 20], [-0.08, 1.1, 5], [1e-5, -2e-5, 1]]})",
      R"({"step": "downsample", "factor": 3}, {"step": "rotate", "degrees": 5})",
      R"({"step": "rotate", "degrees": 4}, {"step": "downsample", "factor": [2, 5], "remainder": "partial"})");
  const std::string kernel = GENERATE("cubic", "area");
  Desk desk;
  const Chain chain = chain_of(steps, kernel);
  desk.options.finish.empty = EmptyAs::alpha;
  const RunResult whole = desk.run(chain, 4000, "whole"), parted = desk.run(chain, 4.4, "parted");
  INFO(steps << " " << kernel);
  CHECK(whole.width == parted.width);
  CHECK(whole.height == parted.height);
  CHECK(whole.exact == parted.exact);
  CHECK(whole.clamped == parted.clamped);
  CHECK(whole.empty_share == Approx(parted.empty_share));
  const Image a = read_picture(desk.scratch / "whole.tif"), b = read_picture(desk.scratch / "parted.tif");
  REQUIRE(a.width() == b.width());
  REQUIRE(a.height() == b.height());
  CHECK(test::same_samples(a, b));
  CHECK(same_masks(a, b));
}

TEST_CASE("the spline by parts is the whole one's to a grey level", "[stream]") {
  Desk desk;
  const Chain chain = chain_of(R"({"step": "rotate", "degrees": 1.8})", "bspline3");
  desk.run(chain, 4000, "whole");
  desk.run(chain, 9, "parted");
  const Image a = read_picture(desk.scratch / "whole.tif"), b = read_picture(desk.scratch / "parted.tif");
  double worst = 0;
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x)
      worst = std::max(worst, std::abs(test::value(a, 0, x, y) - test::value(b, 0, x, y)));
  CHECK(worst <= 1);
}

TEST_CASE("what cannot be gone through by parts is refused with a remedy", "[stream]") {
  Desk desk;
  Chain chain = chain_of(R"({"step": "rotate", "degrees": 1.8})");
  desk.options.format = Format::png;
  CHECK_THROWS_WITH(desk.plan(chain, 7, "a"), Contains("not written by parts") && Contains("--max-memory"));
  desk.options.format = Format::tiff;
  desk.options.finish.empty = EmptyAs::mask;
  CHECK_THROWS_WITH(desk.plan(chain, 7, "a"), Contains("mask") && Contains("--empty alpha"));
  desk.options.finish.empty = EmptyAs::fill;
  chain.resampling.edge = BorderMode::tile;
  CHECK_THROWS_WITH(desk.plan(chain, 7, "a"), Contains("tile") && Contains("extend"));
  chain = chain_of(R"({"step": "pad", "left": 5, "edge": "mirror"})");
  CHECK_THROWS_WITH(desk.plan(chain, 7, "a"), Contains("step 1"));
  std::vector<Image> pages;
  pages.push_back(desk.samples.clone());
  write_pictures(desk.scratch / "a.png", pages, {Format::png, {}, false, {}});
  desk.picture = desk.scratch / "a.png";
  CHECK_THROWS_WITH(desk.plan(chain_of(""), 7, "b"), Contains("cannot be read by parts"));
  CHECK_FALSE(std::filesystem::exists(desk.scratch / "a.tif"));
}

TEST_CASE("any part of a TIFF is read, whatever it is stored in", "[stream]") {
  const std::string how = GENERATE("-c none", "-c none -r 1000", "-c none -r 7 -B", "-c zip:2 -r 11", "-c lzw -r 1000",
                                   "-c none -t -w 32 -l 16", "-c zip:2 -t -w 64 -l 48", "-c zip -p separate");
  const test::Scratch scratch;
  const Depth depth = how.find("separate") == std::string::npos ? Depth::u16 : Depth::u8;  // as far as that tool goes
  const Image image = test::noise(150, 97, 3, depth);
  std::vector<Image> pages;
  pages.push_back(image.clone());
  write_pictures(scratch / "ours.tif", pages, {});
  const std::string call =
      "tiffcp " + how + " " + (scratch / "ours.tif").string() + " " + (scratch / "theirs.tif").string();
  REQUIRE(std::system(call.c_str()) == 0);
  const auto parts = open_parts(scratch / "theirs.tif", 1);
  REQUIRE(parts);
  for (const Region r : {Region{0, 0, 150, 97}, Region{0, 30, 150, 40}, Region{17, 5, 100, 90}, Region{149, 96, 1, 1},
                         Region{31, 15, 33, 18}}) {
    const Image part = parts->read(r, {});
    bool same = part.width() == r.width && part.height() == r.height && part.bands() == 3;
    for (int band = 0; band < 3; ++band)
      for (int y = 0; y < r.height; ++y)
        for (int x = 0; x < r.width; ++x)
          same = same && test::value(part, band, x, y) == test::value(image, band, r.x + x, r.y + y);
    INFO(how << ", " << r.x << ", " << r.y);
    CHECK(same);
  }
}

TEST_CASE("the part of a source that a result is made of holds the kernel, and nothing beyond the horizon",
          "[stream]") {
  const WarpPlan plan{translation(100, 200), {}, {300, 300}};
  const auto box = source_box(plan, {0, 0, 300, 300}, {}, {5000, 5000});
  REQUIRE(box);
  CHECK(box->x % 64 == 0);
  CHECK(box->y % 64 == 0);
  CHECK(box->x <= 97);
  CHECK(box->y <= 197);
  CHECK(box->x + box->width >= 403);
  CHECK(box->width < 600);
  Matrix3 tilted = Matrix3::Identity();
  tilted(2, 0) = -0.01;
  CHECK_FALSE(source_box({tilted, {}, {300, 300}}, {0, 0, 300, 300}, {}, {5000, 5000}));
}

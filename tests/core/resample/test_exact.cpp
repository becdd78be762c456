#include <catch2/catch.hpp>

#include "resample/paths/copy.h"
#include "resample/paths/row_float.h"
#include "resample/warp.h"
#include "tests/plain.h"
#include "tests/support.h"

using namespace fexel;
using test::value;

namespace {

Image moved(const Image& source, const Matrix3& forward, Size result, BorderMode edge, WarpReport& report) {
  const Map map(forward);
  Clip clip;
  clip.keep_inside({source.width(), source.height()});
  const Pyramid pyramid(std::make_shared<const Image>(source.clone()));
  return warp(pyramid, {map.inverse_matrix(), clip.through(map), result}, {0, 0, result.width, result.height},
              {Kernel::cubic, edge, {3}, true}, Quality::final, {}, &report);
}

}  // namespace

TEST_CASE("quarter turns move every sample bit for bit", "[exact]") {
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const int bands = GENERATE(1, 3, 5);
  const int turns = GENERATE(-5, -1, 0, 1, 2, 3, 4, 7);
  const Image source = test::noise(131, 77, bands, depth);
  const int quarter = ((turns % 4) + 4) % 4;
  const Size result = quarter % 2 == 0 ? Size{131, 77} : Size{77, 131};
  WarpReport report;
  const Image out = moved(source, quarter_turn({131, 77}, turns), result, BorderMode::fill, report);
  CHECK(report.exact);
  CHECK(report.empty == 0);
  bool same = true;
  for (int band = 0; band < bands; ++band)
    for (int y = 0; y < 77; ++y)
      for (int x = 0; x < 131; ++x) {
        // Counter-clockwise: the right column becomes the top row.
        const int i = quarter == 0 ? x : quarter == 1 ? y : quarter == 2 ? 130 - x : 76 - y;
        const int j = quarter == 0 ? y : quarter == 1 ? 130 - x : quarter == 2 ? 76 - y : x;
        same = same &&
               std::memcmp(source.bytes(band, y) + static_cast<std::size_t>(x) * bytes_of(depth),
                           out.bytes(band, j) + static_cast<std::size_t>(i) * bytes_of(depth), bytes_of(depth)) == 0;
      }
  CHECK(same);
}

TEST_CASE("on every instruction set, moves are bit for bit, inside the source and beside it", "[exact]") {
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const BorderMode edge = GENERATE(BorderMode::fill, BorderMode::extend, BorderMode::mirror);
  // Result (i, j) is source (a i + b j + x, c i + d j + y): four turns and two mirrors, moved so that a part is
  // outside.
  const auto [a, b, c, d] = GENERATE(table<int, int, int, int>(
      {{1, 0, 0, 1}, {0, 1, -1, 0}, {-1, 0, 0, -1}, {0, -1, 1, 0}, {-1, 0, 0, 1}, {0, 1, 1, 0}, {0, -1, -1, 0}}));
  const Image source = test::noise(140, 90, 1, depth);
  const int x0 = a + b < 0 ? 130 : -11, y0 = c + d < 0 ? 101 : 7;
  Matrix3 inverse_map;
  inverse_map << a, b, x0 + 0.5 - (a + b) / 2.0, c, d, y0 + 0.5 - (c + d) / 2.0, 0, 0, 1;
  struct BestAgain {
    ~BestAgain() { use_vector_target(""); }
  } const best_again;
  for (const std::string& target : vector_targets()) {
    use_vector_target(target);
    WarpReport report;
    const Image out = moved(source, Map(inverse_map).inverse().matrix(), {120, 85}, edge, report);
    bool same = true;
    for (int j = 0; j < 85; ++j)
      for (int i = 0; i < 120; ++i) {
        const int x = a * i + b * j + x0, y = c * i + d * j + y0;
        const bool inside = x >= 0 && y >= 0 && x < 140 && y < 90;
        double expected = 3;
        if (inside || edge != BorderMode::fill)
          expected = test::value(source, 0, test::walked(x, 140, edge), test::walked(y, 90, edge));
        same = same && test::value(out, 0, i, j) == expected && out.valid(i, j) == inside;
      }
    INFO(target);
    CHECK(report.exact);
    CHECK(same);
  }
}

TEST_CASE("whole-pixel crops copy, and fill or extend what lies outside", "[exact]") {
  const Depth depth = GENERATE(Depth::u8, Depth::u16, Depth::f32);
  const int bands = GENERATE(1, 3, 5);
  const BorderMode edge =
      GENERATE(BorderMode::fill, BorderMode::extend, BorderMode::mirror, BorderMode::mirror_once, BorderMode::tile);
  const int left = GENERATE(-20, 0, 33);
  const Image source = test::noise(131, 77, bands, depth);
  const int top = 12;
  const Size result{120, 80};
  WarpReport report;
  const Image out = moved(source, translation(-left, -top), result, edge, report);
  CHECK(report.exact);
  bool right = true;
  std::int64_t empty = 0;
  for (int y = 0; y < result.height; ++y)
    for (int x = 0; x < result.width; ++x) {
      const int sx = x + left, sy = y + top;
      const bool inside = sx >= 0 && sx < 131 && sy < 77;
      empty += !inside;
      right = right && out.valid(x, y) == inside;
      for (int band = 0; band < bands; ++band) {
        const double expected =
            inside || edge != BorderMode::fill ? value(source, band, folded(sx, 131, edge), folded(sy, 77, edge)) : 3;
        right = right && value(out, band, x, y) == expected;
      }
    }
  CHECK(right);
  CHECK(report.empty == empty);
}

TEST_CASE("mirrors are whole-pixel moves; a fraction or a turn is not", "[exact]") {
  Matrix3 mirror = Matrix3::Identity();
  mirror(0, 0) = -1;
  mirror(0, 2) = 100;
  CHECK(whole_pixel_move(mirror, {100, 50}));
  CHECK(whole_pixel_move(translation(3 + 4e-7, 0), {100, 50}));
  CHECK_FALSE(whole_pixel_move(translation(3.5, 0), {100, 50}));
  CHECK_FALSE(whole_pixel_move(translation(3 + 4e-6, 0), {100, 50}));
  CHECK_FALSE(whole_pixel_move(scaling(1 + 1e-7, 1), {100, 50}));  // 1e-5 px at the far corner
  CHECK_FALSE(whole_pixel_move(scaling(1 + 1e-7, 1), {100000, 50}));
  CHECK_FALSE(whole_pixel_move(scaling(2, 1), {100, 50}));
  Matrix3 shear = Matrix3::Identity();
  shear(0, 1) = 1;
  CHECK_FALSE(whole_pixel_move(shear, {100, 50}));
}

#include <catch2/catch.hpp>

#include "base/error.h"
#include "chain/masks.h"
#include "run/align_search.h"
#include "tests/scene.h"
#include "tests/support.h"

using namespace fexel;
using namespace fexel::test;

namespace {

Mask shape(const std::string& text) {
  return parse_chain(R"({"fexel":1,"masks":[)" + text + "]}").masks.at(0);
}

/// Whether a point is inside, by the formula of each shape; of polygons by the winding number.
bool inside(const Mask& m, Point p) {
  const Point c = m.points[0];
  const double away = std::hypot(p.x - c.x, p.y - c.y);
  switch (m.shape) {
    case Mask::Shape::rectangle:
      return p.x >= c.x && p.x < m.points[1].x && p.y >= c.y && p.y < m.points[1].y;
    case Mask::Shape::circle:
      return away < m.radius;
    case Mask::Shape::ring:
      return away < m.radius && away > m.inner;
    case Mask::Shape::polygon:
      break;
  }
  double turned = 0;
  for (std::size_t i = 0; i < m.points.size(); ++i) {
    const Point a = m.points[i] - p, b = m.points[(i + 1) % m.points.size()] - p;
    turned += std::atan2(a.x * b.y - a.y * b.x, a.x * b.x + a.y * b.y);
  }
  return std::abs(turned) > 3;
}

std::string where_of(const std::string& text) {
  try {
    parse_chain(text);
  } catch (const Error& error) {
    return error.where();
  }
  return "accepted";
}

bool used(const std::vector<Mask>& masks, int frame, Size size, int x, int y) {
  const auto pixels = used_pixels(masks, frame, size);
  return !pixels || pixels->row<std::uint8_t>(0, y)[x] != 0;
}

const std::string rectangle = R"({"shape":"rectangle","x":3.5,"y":2,"width":10.2,"height":8})";
const std::string circle = R"({"shape":"circle","centre":[20.3,15.1],"radius":9.7})";
const std::string ring = R"({"shape":"ring","centre":[25,18],"inner":4.5,"outer":12})";
const std::string polygon = R"({"shape":"polygon","points":[[4,3],[35.5,6],[20,14],[38,27],[6,24.2]]})";

}  // namespace

TEST_CASE("a mask covers the pixels whose centres lie inside its shape", "[masks]") {
  const Mask mask = shape(GENERATE(rectangle, circle, ring, polygon));
  const Size size{40, 30};
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const Point centre{x + 0.5, y + 0.5};
      CHECK(covers(mask, centre) == inside(mask, centre));
      CHECK(used({mask}, 0, size, x, y) == !inside(mask, centre));
    }
}

TEST_CASE("masks are for all frames or for some, leave out or are kept to", "[masks]") {
  const Size size{40, 30};
  const Mask some = shape(R"({"shape":"rectangle","x":0,"y":0,"width":10,"height":10,"frames":[2,3]})");
  CHECK_FALSE(used_pixels({some}, 0, size).has_value());
  CHECK(share_left_out({some}, 1, size) == Approx(100 / 1200.0));
  CHECK(share_left_out({some}, 3, size) == 0);
  const Mask only = shape(R"({"shape":"rectangle","x":5,"y":5,"width":20,"height":20,"use":"only"})");
  CHECK(share_left_out({only}, 0, size) == Approx(1 - 400 / 1200.0));
  // In frame 2 a quarter of what is kept to is left out.
  CHECK(share_left_out({only, some}, 1, size) == Approx(1 - 375 / 1200.0));
}

TEST_CASE("masks come back from the text of a chain and from a file of their own", "[masks]") {
  const Chain chain = parse_chain(
      R"({"fexel":1,"time_step":{"value":0.5,"unit":"h"},"masks":[)" + rectangle + "," + circle + "," + ring + "," +
      polygon + R"(,{"shape":"circle","centre":[1,2],"radius":3,"name":"post","use":"only","frames":[1,4]}]})");
  REQUIRE(chain.masks.size() == 5);
  CHECK(chain.masks[4].name == "post");
  CHECK(chain.masks[4].frames == std::vector<int>{1, 4});
  CHECK(parse_chain(write_chain(chain)) == chain);
  CHECK(parse_chain(write_masks(chain.masks)).masks == chain.masks);
}

TEST_CASE("a wrong mask is refused by its place", "[masks]") {
  const auto at = [](const std::string& mask) { return where_of(R"({"fexel":1,"masks":[)" + mask + "]}"); };
  CHECK(at(R"({"shape":"star"})") == "/masks/0/shape");
  CHECK(at(R"({"shape":"rectangle","x":0,"y":0,"width":0,"height":4})") == "/masks/0/width");
  CHECK(at(R"({"shape":"circle","centre":[0,0],"radius":-1})") == "/masks/0/radius");
  CHECK(at(R"({"shape":"ring","centre":[0,0],"inner":5,"outer":5})") == "/masks/0/inner");
  CHECK(at(R"({"shape":"polygon","points":[[0,0],[1,1]]})") == "/masks/0/points");
  CHECK(at(R"({"shape":"circle","centre":[0,0],"radius":1,"frames":[0]})") == "/masks/0/frames");
  CHECK(at(R"({"shape":"circle","centre":[0,0],"radius":1,"frames":"some"})") == "/masks/0/frames");
  CHECK(at(R"({"shape":"circle","centre":[0,0],"radius":1,"inner":1})") == "/masks/0/inner");
  CHECK(where_of(R"({"fexel":1,"time_step":{"value":0,"unit":"s"}})") == "/time_step/value");
  CHECK(where_of(R"({"fexel":1,"time_step":{"value":1,"unit":"week"}})") == "/time_step/unit");
}

TEST_CASE("glare and flat parts are suggested as polygons around them, with their holes", "[masks]") {
  const Size size{320, 240};
  const Scene scene = textured(120, 0.03, 0.2, 30, 4);
  Image picture = frame_of(scene, Matrix3::Identity(), size, Depth::u8, 2, 7);
  // A disc of glare, and a flat frame of 48 px around a textured middle.
  const auto glare = [](int x, int y) { return std::hypot(x + 0.5 - 200, y + 0.5 - 120) < 40; };
  std::mt19937 random(3);
  std::normal_distribution<double> grain(0, 2);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      if (glare(x, y)) picture.row<std::uint8_t>(0, y)[x] = 255;
      if (x < 48 || x >= 272 || y < 48 || y >= 192)
        picture.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(std::lround(90 + grain(random)));
    }
  const auto bright = suggested_masks(picture, Useless::saturated, {});
  REQUIRE(bright.size() == 1);
  const auto flat = suggested_masks(picture, Useless::flat, {});
  REQUIRE(!flat.empty());
  int missed = 0, taken = 0, flat_missed = 0, flat_taken = 0;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const Point p{x + 0.5, y + 0.5};
      const double away = std::hypot(p.x - 200, p.y - 120);
      missed += away < 40 && !covers(bright[0], p);
      taken += away > 60 && covers(bright[0], p);
      const bool covered = std::ranges::any_of(flat, [&](const Mask& m) { return covers(m, p); });
      const bool border = x < 48 || x >= 272 || y < 48 || y >= 192;
      flat_missed += border && !covered;
      flat_taken += !border && away > 60 && covered;
    }
  CHECK(missed < 250);  // of 5027, at the rim, where less than a quarter of a cell is bright
  CHECK(taken == 0);
  CHECK(flat_missed == 0);
  CHECK(flat_taken == 0);
  // Where all is alike nothing is suggested.
  CHECK(suggested_masks(frame_of(scene, Matrix3::Identity(), size, Depth::u16, 2, 7), Useless::saturated, {}).empty());
  CHECK(suggested_masks(Image(64, 64, 1, Depth::u8), Useless::flat, {}).empty());
}

TEST_CASE("what a mask covers does not pull on the search, in each frame by its own masks", "[masks]") {
  // The scene moves; a large stark patch stays, and in the second frame another one stands elsewhere.
  const Size size{320, 240};
  const Scene scene = textured(100, 0.01, 0.2, 25, 14), patch = textured(60, 0.02, 0.2, 60, 15);
  const Matrix3 lies[] = {Matrix3::Identity(), translation(9.3, -6.8)};
  std::vector<Image> frames;
  for (int i = 0; i < 2; ++i) {
    frames.push_back(frame_of(scene, lies[i], size, Depth::u8, 2, static_cast<unsigned>(i)));
    const Image still = frame_of(patch, Matrix3::Identity(), size, Depth::u8, 2, static_cast<unsigned>(i + 5));
    for (int y = 20; y < 220; ++y)
      for (int x = 100; x < 240; ++x)
        frames[static_cast<std::size_t>(i)].row<std::uint8_t>(0, y)[x] = still.row<std::uint8_t>(0, y)[x];
  }
  const FrameReader reader{2, [&](int i, const Job&) { return frames[static_cast<std::size_t>(i)].clone(); }};
  const auto found = [&](const std::string& masks) {
    const Chain chain =
        parse_chain(R"({"fexel":1,"masks":[)" + masks + R"(],"steps":[{"step":"align","model":"translation"}]})");
    const AlignStep step = searched(chain, 0, reader, {});
    return distance_rms(step.frames[1].matrix * lies[1], Matrix3::Identity(), size);
  };
  CHECK(found("") > 5);  // the patch wins
  CHECK(found(R"({"shape":"rectangle","x":98,"y":18,"width":144,"height":204})") < 0.03);
  // In the first frame alone it is enough for the second one to have nothing to hold on to there.
  CHECK(found(R"({"shape":"rectangle","x":98,"y":18,"width":144,"height":204,"frames":[1]})") < 0.03);
}

TEST_CASE("masks follow the source through the steps before", "[masks]") {
  // Turned by a quarter: what was left out at the left is left out at the bottom.
  const Chain chain = parse_chain(R"({"fexel":1,"steps":[{"step":"rotate","degrees":90}]})");
  const Layout layout = lay_out(chain, {{40, 30}, 1, Depth::u8, {}});
  const auto pixels = used_pixels({shape(rectangle)}, 0, {40, 30});
  Image turned(30, 40, 1, Depth::u8);
  leave_unused_out(turned, layout, 1, *pixels, {});
  for (int y = 0; y < 40; ++y)
    for (int x = 0; x < 30; ++x) {
      // Counter-clockwise: the source's right side becomes the top.
      const int from_x = 39 - y, from_y = x;
      CHECK(turned.valid(x, y) == (pixels->row<std::uint8_t>(0, from_y)[from_x] != 0));
    }
}

TEST_CASE("ways are compared, each once, and say what still moves", "[masks]") {
  // Frames that turn: a translation leaves movement behind, a rigid motion does not.
  const Size size{320, 240};
  const Scene scene = textured(100, 0.01, 0.2, 40, 24);
  std::vector<Image> frames;
  for (int i = 0; i < 3; ++i)
    frames.push_back(
        frame_of(scene, similarity(size, 0.25 * i, 1, 3 * i, 2 * i), size, Depth::u8, 2, static_cast<unsigned>(i)));
  const FrameReader reader{3, [&](int i, const Job&) { return frames[static_cast<std::size_t>(i)].clone(); }};
  const Chain chain = parse_chain(R"({"fexel":1,"steps":[{"step":"align","model":"translation"}]})");
  AlignStep step = std::get<AlignStep>(chain.steps[0].kind);
  CHECK(variants_of(step).size() == 8);  // four references, four other motions
  AlignStep rigid = step;
  rigid.model = Model::rigid;
  const auto ways = compare_variants(chain, 0, {step, rigid}, reader, {});
  REQUIRE(ways.size() == 2);
  CHECK(ways[1].matched == 3);
  CHECK(ways[1].still_px < 0.1);
  // Turned by 0.25 and 0.5 degrees about the middle, windows move by the arcs at their middles.
  std::vector<double> arcs;
  for (const double degrees : {0.25, 0.5})
    for (int i = 0; i < 5; ++i)
      for (int j = 0; j < 3; ++j) arcs.push_back(degrees * M_PI / 180 * std::hypot(64 * (i - 2), 64 * (j - 1)));
  std::ranges::sort(arcs);
  CHECK(ways[0].still_px == Approx(arcs[15]).epsilon(0.25));
  CHECK(ways[1].seconds > 0);
}

TEST_CASE("another stack gets the transforms of the frames that are not left out", "[masks]") {
  Chain chain = parse_chain(
      R"({"fexel":1,"sources":[{"path":"a.tif","skip":[2]}],"steps":[{"step":"align","frames":[
          {"matrix":[[1,0,1],[0,1,0],[0,0,1]]},{"matrix":[[1,0,2],[0,1,0],[0,0,1]]},{"matrix":[[1,0,3],[0,1,0],[0,0,1]]}]}]})");
  const auto pages = [](const char* path, int count) {
    std::vector<FrameFile> out;
    for (int i = 1; i <= count; ++i) out.push_back({path, i, 0, {}, {}, {}});
    return out;
  };
  std::vector<FrameFile> others = pages("b.tif", 3);
  const Chain carried = carried_to(chain, pages("a.tif", 3), others);
  REQUIRE(others.size() == 2);
  CHECK(others[1].page == 3);
  const auto& step = std::get<AlignStep>(carried.steps[0].kind);
  REQUIRE(step.frames.size() == 2);
  CHECK(step.frames[1].matrix(0, 2) == 3);
  std::vector<FrameFile> fewer = pages("b.tif", 2);
  CHECK_THROWS_AS(carried_to(chain, pages("a.tif", 3), fewer), Error);
}

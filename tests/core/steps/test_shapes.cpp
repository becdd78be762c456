#include <catch2/catch.hpp>

#include "base/error.h"
#include "chain/evaluate.h"
#include "tests/support.h"
#include "tests/theory.h"

using namespace fexel;

namespace {

Chain steps(const std::string& text, const std::string& more = {}) {
  return parse_chain(R"({"fexel":1,)" + more + R"("steps":[)" + text + "]}");
}

const SourceShape photo{{300, 200}, 1, Depth::u8, PixelSize{0.5, 0.5, "mm"}};

std::string where_of(const std::string& text) {
  try {
    lay_out(steps(text), photo).require_sound();
  } catch (const Error& error) {
    CHECK_FALSE(error.remedy().empty());
    return error.where();
  }
  return "sound";
}

Image result_of(const Chain& chain, const Image& source) {
  const Pyramid pyramid(std::make_shared<const Image>(source.clone()));
  return evaluate(chain, lay_out(chain, {{source.width(), source.height()}, source.bands(), source.depth(), {}}),
                  pyramid, {}, nullptr);
}

/// A pinhole's picture of the plane: the plane's point turned about x, then y, then z, one after the other.
Point seen(Point p, const double degrees[3], double distance) {
  double x = p.x - 150, y = 100 - p.y, z = 0;
  const auto turn = [](double& a, double& b, double angle) {
    const double c = std::cos(angle * M_PI / 180), s = std::sin(angle * M_PI / 180), old = a;
    a = c * a - s * b;
    b = s * old + c * b;
  };
  turn(y, z, degrees[0]);
  turn(z, x, degrees[1]);
  turn(x, y, degrees[2]);
  const double scale = distance > 0 ? distance / (distance - z) : 1;
  return {150 + x * scale, 100 - y * scale};
}

}  // namespace

TEST_CASE("a tilt is what a pinhole sees of the turned plane", "[shapes]") {
  const double angles[][3] = {{25, 0, 0}, {0, -30, 0}, {0, 0, 40}, {20, -35, 110}, {-50, 10, -5}};
  for (const auto& angle : angles)
    for (const double widths : {1.2, 3.0, 0.0}) {
      const std::string text = "{\"step\":\"tilt\",\"about_x\":" + std::to_string(angle[0]) +
                               ",\"about_y\":" + std::to_string(angle[1]) + ",\"about_z\":" + std::to_string(angle[2]) +
                               (widths > 0 ? ",\"distance\":" + std::to_string(widths) : ",\"view\":\"parallel\"");
      const Layout kept = lay_out(steps(text + ",\"extent\":\"keep\"}"), photo);
      const Layout grown = lay_out(steps(text + "}"), photo);
      kept.require_sound();
      grown.require_sound();
      Point low{1e9, 1e9}, high{-1e9, -1e9};
      for (const Point p : {Point{0, 0}, Point{300, 0}, Point{300, 200}, Point{0, 200}, Point{211.5, 33.25}}) {
        const Point expected = seen(p, angle, widths * 300);
        CHECK(distance(carry(kept, p, 0, 1).point, expected) < 1e-9);
        CHECK(distance(carry(kept, expected, 1, 0).point, p) < 1e-6);
        low = {std::min(low.x, expected.x), std::min(low.y, expected.y)};
        high = {std::max(high.x, expected.x), std::max(high.y, expected.y)};
      }
      CHECK(grown.result().size.width == static_cast<int>(std::ceil(high.x - low.x - 1e-6)));
      CHECK(grown.result().size.height == static_cast<int>(std::ceil(high.y - low.y - 1e-6)));
      // Lengths are true where the plane is only turned in itself.
      CHECK(grown.result().pixel.has_value() == (angle[0] == 0 && angle[1] == 0));
    }
}

TEST_CASE("a positive tilt about x brings the top nearer, one about z turns counter-clockwise", "[shapes]") {
  const Layout x = lay_out(steps(R"({"step":"tilt","about_x":30,"extent":"keep"})"), photo);
  const auto across = [&](double y) { return distance(carry(x, {0, y}, 0, 1).point, carry(x, {300, y}, 0, 1).point); };
  CHECK(across(0) > 310);
  CHECK(across(200) < 290);
  const Layout z = lay_out(steps(R"({"step":"tilt","about_z":33.5})"), photo),
               turn = lay_out(steps(R"({"step":"rotate","degrees":33.5})"), photo);
  CHECK(z.result().size == turn.result().size);
  CHECK(distance(carry(z, {40, 60}, 0, 1).point, carry(turn, {40, 60}, 0, 1).point) < 1e-9);
}

TEST_CASE("a lens is undone where it was added, and the middle stays", "[shapes]") {
  const std::string lens = R"("k1":-0.15,"k2":0.03,"p1":0.001,"p2":-0.0005,"focal":280)";
  const Layout layout =
      lay_out(steps("{\"step\":\"lens\"," + lens + R"(,"direction":"add"},{"step":"lens",)" + lens + "}"), photo);
  layout.require_sound();
  CHECK(layout.result().size == photo.size);
  CHECK(layout.result().pixel == photo.pixel);
  CHECK(distance(carry(layout, {150, 100}, 0, 1).point, {150, 100}) < 1e-9);
  for (const Point p : {Point{20, 30}, Point{280, 15}, Point{151, 190}}) {
    const double u = (p.x - 150) / 280, v = (p.y - 100) / 280, s = u * u + v * v, radial = 1 - 0.15 * s + 0.03 * s * s;
    CHECK(distance(carry(layout, p, 0, 1).point, {150 + 280 * (u * radial + 0.002 * u * v - 0.0005 * (s + 2 * u * u)),
                                                  100 + 280 * (v * radial + 0.001 * (s + 2 * v * v) - 0.001 * u * v)}) <
          1e-9);
    CHECK(distance(carry(layout, p, 0, 2).point, p) < 1e-3);
    CHECK(carry(layout, p, 2, 0).status == CarryStatus::ok);
  }
}

TEST_CASE("a ring is rolled out as it says, with lengths true at the radius that is asked for", "[shapes]") {
  const Chain chain = steps(
      R"({"step":"unwrap","centre":[150,100],"inner":40,"outer":80,"start":90,"direction":"clockwise","true_radius":70})");
  const Layout layout = lay_out(chain, photo);
  layout.require_sound();
  CHECK(layout.result().size == Size{static_cast<int>(std::floor(2 * M_PI * 70 + 0.5)), 40});
  CHECK(layout.result().pixel->x == Approx(0.5 * 2 * M_PI * 70 / layout.result().size.width));
  CHECK(layout.result().pixel->y == Approx(0.5));
  const double w = layout.result().size.width;
  CHECK(distance(carry(layout, {0, 0}, 1, 0).point, {150, 20}) < 1e-9);
  CHECK(distance(carry(layout, {w / 4, 40}, 1, 0).point, {190, 100}) < 1e-9);
  CHECK(distance(carry(layout, {w / 2, 0}, 1, 0).point, {150, 180}) < 1e-9);
  CHECK(distance(carry(layout, {230, 100}, 0, 1).point, {w / 4, 0}) < 1e-9);
  CHECK(carry(layout, {230.5, 100}, 0, 1).status == CarryStatus::empty);
  // A chord of the ring's true radius, as an arc of 10 degrees.
  const double arc = 70 * 10 * M_PI / 180 * 0.5;
  CHECK(w / 36 * layout.result().pixel->x == Approx(arc));
}

TEST_CASE("a chain of ten mixed steps has the error of one resampling, and its points come back", "[shapes]") {
  const Chain chain = steps(R"({"step":"rotate","degrees":3},{"step":"tilt","about_x":4,"about_y":-3},
    {"step":"lens","k1":-0.06,"k2":0.01},{"step":"crop","x":20.5,"y":18.25,"width":380,"height":370},
    {"step":"resize","scale":1.06},{"step":"translate","dx":2.3,"dy":-1.7},{"step":"lens","k1":0.04,"direction":"add"},
    {"step":"rotate","degrees":-5.5,"extent":"keep"},{"step":"mirror","reverse":"x"},{"step":"tilt","about_z":7,"extent":"keep"})",
                            R"("resample":{"kernel":"cubic"},)");
  const auto waves = test::waves(60, 0.18, 5);
  const Image source = test::picture_of(waves, 420, 410);
  const SourceShape shape{{420, 410}, 1, Depth::f32, {}};
  const Layout layout = lay_out(chain, shape);
  layout.require_sound();
  CHECK(resamplings(layout, layout.last()) == 1);
  const Image out = result_of(chain, source);
  double square = 0;
  int count = 0, outliers = 0;
  for (int y = 60; y < out.height() - 60; ++y)
    for (int x = 60; x < out.width() - 60; ++x) {
      const Point p{x + 0.5, y + 0.5};
      const Carried at = carry(layout, p, layout.last(), 0);
      if (at.status != CarryStatus::ok || at.point.x < 8 || at.point.y < 8 || at.point.x > 412 || at.point.y > 402)
        continue;
      outliers += distance(carry(layout, at.point, 0, layout.last()).point, p) > 1e-3;
      square += std::pow(test::value(out, 0, x, y) - test::scene(waves, at.point.x, at.point.y), 2);
      ++count;
    }
  REQUIRE(count > 20000);
  CHECK(outliers == 0);
  const double rms = std::sqrt(square / count), once = test::expected_error(Kernel::cubic, waves);
  INFO("RMS error " << rms << ", of one resampling in theory " << once);
  CHECK(rms < 1.06 * once);  // 0.5 dB
  CHECK(rms > 0.9 * once);
}

TEST_CASE("what cannot be made is met with its key and a remedy", "[shapes]") {
  CHECK(where_of(R"({"step":"tilt","about_x":90,"view":"parallel"})") == "/steps/0/about_x");
  CHECK(where_of(R"({"step":"tilt","about_y":80,"distance":0.3})") == "/steps/0/distance");
  CHECK(where_of(R"({"step":"lens","k1":-2})") == "/steps/0/k1");
  CHECK(where_of(R"({"step":"unwrap","centre":[150,100],"inner":50,"outer":50})") == "/steps/0/outer");
  CHECK(where_of(R"({"step":"unwrap","centre":[900,900],"inner":50,"outer":90})") == "/steps/0/centre");
  CHECK(where_of(R"({"step":"unwrap","centre":[150,100],"inner":5,"outer":900000})") == "/steps/0/outer");
  CHECK(where_of(R"({"step":"bands","take":[2]})") == "/steps/0/take/0");
  CHECK(where_of(R"({"step":"bands","take":"grey","weights":[1,2]})") == "/steps/0/weights");
}

TEST_CASE("pixel steps end a run, keep the size, and say what bands and depth come out", "[shapes]") {
  const Image source = test::noise(60, 50, 3, Depth::u8);
  const Chain chain =
      steps(R"({"step":"rotate","degrees":90},{"step":"bands","take":"grey"},{"step":"denoise","radius":1},
    {"step":"convolve","kernel":[[1,1]],"scale":0.5,"depth":"u16"})");
  const Layout layout = lay_out(chain, {{60, 50}, 3, Depth::u8, {}});
  layout.require_sound();
  CHECK(layout.result().bands == 1);
  CHECK(layout.result().depth == Depth::u16);
  CHECK(layout.stations[2].run_start == 2);
  CHECK_FALSE(is_exact_station(layout, 2));
  const Image out = result_of(chain, source);
  CHECK(out.bands() == 1);
  CHECK(out.depth() == Depth::u16);
  // A kernel of two stands between its pixels: a point keeps its place on the picture.
  CHECK(distance(carry(layout, {20, 30}, 3, 4).point, {19.5, 30}) < 1e-12);
  const auto grey = [&](int x, int y) {  // of the turned picture
    const int i = 59 - y, j = x;
    return std::round(0.2126 * test::value(source, 0, i, j) + 0.7152 * test::value(source, 1, i, j) +
                      0.0722 * test::value(source, 2, i, j));
  };
  const auto median = [&](int x, int y) {
    std::vector<double> around;
    for (int j = -1; j <= 1; ++j)
      for (int i = -1; i <= 1; ++i) around.push_back(grey(x + i, y + j));
    std::ranges::sort(around);
    return around[4];
  };
  for (int y = 5; y < 50; y += 7)
    for (int x = 5; x < 40; x += 3)
      CHECK(std::abs(test::value(out, 0, x, y) - 0.5 * (median(x, y) + median(x + 1, y))) <= 0.5);
}

TEST_CASE("a chain of ten mixed steps has the error of one resampling, and its points go there and back", "[shapes]") {
  constexpr int side = 700;
  // Through all of these the picture stays about as large, so that theory's figure for one resampling holds.
  const std::string ten = R"(
    {"step":"rotate","degrees":14},{"step":"translate","dx":7.3,"dy":-4.6},{"step":"tilt","about_x":6,"about_y":-5},
    {"step":"lens","k1":-0.03,"k2":0.004},{"step":"crop","x":60.4,"y":75.7,"width":760,"height":700},
    {"step":"fit","model":"polynomial2","pairs":[
      {"from":[50,40],"to":[52,43]},{"from":[700,60],"to":[696,66]},{"from":[680,640],"to":[688,633]},
      {"from":[60,650],"to":[55,655]},{"from":[380,340],"to":[384,338]},{"from":[390,60],"to":[391,52]},
      {"from":[70,350],"to":[78,352]}]},
    {"step":"resize","scale":[1.06,0.97]},{"step":"mirror","reverse":"x"},
    {"step":"fit","model":"thin-plate","pairs":[
      {"from":[90,80],"to":[92,77]},{"from":[700,90],"to":[703,96]},{"from":[690,600],"to":[685,597]},
      {"from":[80,590],"to":[76,595]},{"from":[400,330],"to":[404,327]}]},
    {"step":"rotate","degrees":-9.5,"extent":"keep"})";
  const auto scene = test::waves(80, 0.15, 5);
  const auto light = [&](Point p) {
    double sum = 0;
    for (const auto& w : scene) sum += w.amplitude * std::cos(2 * M_PI * (w.fx * p.x + w.fy * p.y) + w.phase);
    return sum;
  };
  Image source(side, side, 1, Depth::f32);
  for (int y = 0; y < side; ++y)
    for (int x = 0; x < side; ++x) source.row<float>(0, y)[x] = static_cast<float>(light({x + 0.5, y + 0.5}));
  const auto error_of = [&](const std::string& text) {
    const Chain chain = steps(text);
    const Layout layout = lay_out(chain, {{side, side}, 1, Depth::f32, {}});
    layout.require_sound();
    const Image out = result_of(chain, source);
    double square = 0, all = 0;
    int count = 0;
    for (int y = 0; y < out.height(); y += 2)
      for (int x = 0; x < out.width(); x += 2) {
        const auto at = layout.result().from_source.backward({x + 0.5, y + 0.5});
        if (!at || !out.valid(x, y) || at->x < 20 || at->y < 20 || at->x > side - 20 || at->y > side - 20) continue;
        const double truth = light(*at);
        square += std::pow(static_cast<double>(out.row<float>(0, y)[x]) - truth, 2);
        all += truth * truth;
        ++count;
      }
    CHECK(count > 20000);
    return 10 * std::log10(all / square);
  };
  const double once = error_of(R"({"step":"rotate","degrees":4.5})"), mixed = error_of(ten);
  INFO("one resampling " << once << " dB, ten steps " << mixed << " dB");
  CHECK(mixed > once - 0.5);

  const Layout layout = lay_out(steps(ten), {{side, side}, 1, Depth::f32, {}});
  CHECK(layout.last() == 10);
  for (int i = 1; i <= 6; ++i)
    for (int j = 1; j <= 6; ++j) {
      const Point p{side * i / 7.0, side * j / 7.0};
      const auto there = layout.result().from_source.forward(p);
      REQUIRE(there);
      const auto back = layout.result().from_source.backward(*there);
      REQUIRE(back);
      CHECK(distance(*back, p) < 1e-6);
    }
}

TEST_CASE("a fit carries its pairs, and a transform that folds the picture is refused", "[shapes]") {
  const std::string pairs =
      R"("pairs":[{"from":[10,10],"to":[5,8]},{"from":[290,12],"to":[145,6]},{"from":[280,190],"to":[139,95]},{"from":[12,180],"to":[7,92]}])";
  const Layout fitted =
      lay_out(steps(R"({"step":"fit","model":"projective","width":150,"height":100,)" + pairs + "}"), photo);
  fitted.require_sound();
  CHECK(fitted.result().size == Size{150, 100});
  CHECK(distance(*fitted.result().from_source.forward({290, 12}), {145, 6}) < 1e-6);
  CHECK_FALSE(fitted.result().pixel);
  const Layout real =
      lay_out(steps(R"({"step":"fit","model":"projective","unit":"mm","pixel_size":0.5,"width":300,"height":200,)" +
                    pairs + "}"),
              photo);
  real.require_sound();
  CHECK(distance(*real.result().from_source.forward({290, 12}), {290, 12}) < 1e-6);
  REQUIRE(real.result().pixel);
  CHECK(real.result().pixel->x == 0.5);
  CHECK(where_of(R"({"step":"fit","model":"affine","pairs":[{"from":[1,1],"to":[1,1]}]})") == "/steps/0/pairs");
  CHECK(
      where_of(
          R"({"step":"fit","model":"thin-plate","pairs":[{"from":[0,0],"to":[0,0]},{"from":[300,0],"to":[300,0]},{"from":[300,200],"to":[300,200]},{"from":[0,200],"to":[0,200]},{"from":[140,100],"to":[220,100]},{"from":[160,100],"to":[80,100]}]})") ==
      "/steps/0/model");
}

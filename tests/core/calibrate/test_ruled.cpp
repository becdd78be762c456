#include <catch2/catch.hpp>
#include <random>

#include "base/error.h"
#include "calibrate/ruled_target.h"
#include "tests/edged.h"

using namespace fexel;

namespace {

struct Ruled {
  double pitch = 20, degrees = 0, share = 0.3, blur = 0.7, contrast = 90, noise = 3, hidden = 0, uneven = 0, bow = 0;
  bool dark = true;
  Size size{420, 320};
};

/// Lines by their formula: `degrees` is the direction across them, counter-clockwise from x.
Image ruled_picture(const Ruled& r, unsigned seed) {
  std::mt19937 random(seed * 31 + 7);
  std::uniform_real_distribution<double> any(0, 1);
  const double phase = any(random) * r.pitch, turn = -r.degrees * M_PI / 180, light = any(random) * 2 * M_PI;
  const Point across{std::cos(turn), std::sin(turn)};
  std::vector<bool> hidden(4000);
  for (std::size_t i = 0; i < hidden.size(); ++i) hidden[i] = any(random) < r.hidden;
  std::normal_distribution<double> sensor(0, r.noise);
  const auto line = [&](Point p) {
    double t = p.x * across.x + p.y * across.y - phase;
    t += r.bow * t * t;
    const double number = std::floor(t / r.pitch + 0.5), d = t - number * r.pitch, half = r.share * r.pitch / 2;
    if (hidden[static_cast<std::size_t>(number + 2000)]) return 0.0;
    return test::blurred(d + half, r.blur) * test::blurred(half - d, r.blur);
  };
  Image image(r.size.width, r.size.height, 1, Depth::u8);
  constexpr int steps = 3;
  for (int y = 0; y < r.size.height; ++y)
    for (int x = 0; x < r.size.width; ++x) {
      double sum = 0;
      for (int j = 0; j < steps; ++j)
        for (int i = 0; i < steps; ++i) sum += line({x + (i + 0.5) / steps, y + (j + 0.5) / steps}) / (steps * steps);
      const double shade =
          1 + r.uneven * ((x - r.size.width / 2.0) * std::cos(light) + (y - r.size.height / 2.0) * std::sin(light)) /
                  r.size.width;
      const double value = (r.dark ? 60 + r.contrast * (1 - sum) : 60 + r.contrast * sum) * shade + sensor(random);
      image.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(std::clamp(value + 0.5, 0.0, 255.0));
    }
  return image;
}

RuledTarget found_in(const Image& image) {
  return find_ruled_target(image, {0, 0, image.width(), image.height()}, {});
}

}  // namespace

TEST_CASE("the spacing of ruled targets is found to 1 in 5,000, with the uncertainty that it has", "[ruled][long]") {
  std::mt19937 random(2);
  std::uniform_real_distribution<double> any(0, 1);
  int inside = 0, found = 0, refused = 0;
  constexpr int rounds = 120;
  for (int round = 0; round < rounds; ++round) {
    Ruled r;
    r.pitch = 6 * std::pow(70 / 6.0, any(random));
    r.degrees = round % 6 == 0 ? 90 * (round / 6 % 2) : -89 + 178 * any(random);
    r.share = 0.15 + 0.35 * any(random);
    r.blur = 0.3 + any(random);
    r.hidden = 0.2 * any(random);
    r.uneven = 0.5 * any(random);
    r.dark = any(random) < 0.5;
    // As many as twelve lines fit across, whatever their direction.
    const int side = std::max(300, static_cast<int>(12 * r.pitch));
    r.size = {side + 60, side};
    INFO("round " << round << ", pitch " << r.pitch << ", degrees " << r.degrees << ", share " << r.share << ", hidden "
                  << r.hidden);
    RuledTarget target;
    try {
      target = found_in(ruled_picture(r, static_cast<unsigned>(round + 1)));
    } catch (const Error&) {
      ++refused;  // of few lines, some of which are hidden, what repeats may not be known
      continue;
    }
    CHECK(std::abs(target.pitch / r.pitch - 1) < 2e-4);
    CHECK(target.dark == r.dark);
    double turned = target.angle - r.degrees;
    turned -= 180 * std::round(turned / 180);
    CHECK(std::abs(turned) < 0.05);
    CHECK(target.rms < 0.1);
    CHECK(target.lines.size() >= 5);
    CHECK(target.lines.back().number == static_cast<int>(target.lines.size()) - 1 + target.missing);
    inside += std::abs(target.pitch - r.pitch) <= target.uncertainty;
    ++found;
  }
  INFO(100.0 * inside / found << " % inside");
  CHECK(refused < 3);
  CHECK(inside > 0.6 * found);
  CHECK(inside < 0.78 * found);
}

TEST_CASE("a target that is seen at an angle says that its spacing changes", "[ruled]") {
  Ruled r;
  r.bow = 1e-4;
  const RuledTarget bowed = found_in(ruled_picture(r, 3));
  // t + b t^2 even: the spacing falls by 2 b t from one end to the other.
  CHECK(bowed.stretch == Approx(-2 * r.bow * 20 * static_cast<double>(bowed.lines.back().number)).epsilon(0.1));
  CHECK(std::abs(bowed.stretch) > 10 * bowed.stretch_sigma);
  r.bow = 0;
  const RuledTarget even = found_in(ruled_picture(r, 3));
  CHECK(std::abs(even.stretch) < 4 * even.stretch_sigma + 1e-5);
}

TEST_CASE("noise, flat pictures, brick walls, text and few lines are no ruled target", "[ruled][long]") {
  const auto refused = [](const Image& image) {
    try {
      found_in(image);
      return false;
    } catch (const Error& error) {
      return error.kind() == Error::Kind::input && !error.remedy().empty();
    }
  };
  CHECK(refused(Image(300, 200, 1, Depth::u8)));
  for (unsigned seed = 1; seed <= 12; ++seed) {
    INFO("seed " << seed);
    CHECK(refused(test::edged_picture([](Point) { return 0.0; }, {300, 240}, {0, 8, 0}, seed)));
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> any(0, 1);
    std::vector<double> tone(4000);
    for (double& t : tone) t = any(random);
    const double high = 18 + 10 * any(random), wide = 2.4 * high, joint = 2 + any(random);
    // Courses of bricks, each of its own tone, half a brick apart.
    const auto brick = [&](Point p) {
      const double course = std::floor(p.y / high), x = p.x + (static_cast<int>(course) % 2 ? wide / 2 : 0);
      if (p.y - course * high < joint || x - std::floor(x / wide) * wide < joint) return 0.9;
      return 0.15 + 0.4 * tone[static_cast<std::size_t>(61 * course + std::floor(x / wide) + 100)];
    };
    CHECK(refused(test::edged_picture(brick, {360, 300}, {150, 3, 0}, seed)));
    // Rows of marks of a letter's size, some of them left out as between words.
    const auto text = [&](Point p) {
      const double row = std::floor(p.y / 22), letter = std::floor(p.x / 9);
      const double kind = tone[static_cast<std::size_t>(97 * row + letter + 100)];
      const double u = p.x / 9 - letter, v = p.y / 22 - row;
      if (kind < 0.2 || v < 0.25 || v > 0.8 || u < 0.12 || u > 0.88) return 0.0;
      const bool stroke = kind < 0.45   ? u < 0.35
                          : kind < 0.65 ? v < 0.38 || v > 0.67
                          : kind < 0.85 ? std::abs(u - v) < 0.2
                                        : u > 0.6 || v > 0.65;
      return stroke ? 1.0 : 0.0;
    };
    CHECK(refused(test::edged_picture(text, {360, 300}, {-150, 3, 0, 210}, seed)));
  }
  Ruled few;
  few.pitch = 90;
  CHECK(refused(ruled_picture(few, 1)));
}

#include <catch2/catch.hpp>

#include "quality/round_trip.h"
#include "tests/theory.h"

using namespace fexel;

namespace {

/// A wave of `frequency` cycles a pixel in a slanted direction, 16 bits.
Pyramid wave(double frequency) {
  auto image = std::make_shared<Image>(400, 300, 1, Depth::u16);
  for (int y = 0; y < 300; ++y)
    for (int x = 0; x < 400; ++x)
      image->row<std::uint16_t>(0, y)[x] = static_cast<std::uint16_t>(
          std::lround(30000 + 12000 * std::sin(2 * M_PI * frequency * (0.8 * (x + 0.5) + 0.6 * (y + 0.5)))));
  return Pyramid(image);
}

std::optional<RoundTripError> round_trip_of(const std::string& steps, Kernel kernel, double frequency,
                                            Point place = {200, 150}) {
  Chain chain = parse_chain(R"({"fexel":1,"steps":[)" + steps + "]}");
  chain.resampling.kernel = kernel;
  return round_trip_at(chain, lay_out(chain, {{400, 300}, 1, Depth::u16, {}}), wave(frequency), place, 64, {});
}

}  // namespace

TEST_CASE("moved pixels lose nothing; a turn loses what its kernel takes, twice") {
  for (const char* exact : {R"({"step":"rotate","degrees":90})", R"({"step":"mirror","reverse":"x"})",
                            R"({"step":"crop","x":20,"y":30,"width":340,"height":250})"}) {
    const auto loss = round_trip_of(exact, Kernel::linear, 0.2);
    REQUIRE(loss);
    CHECK(loss->rms == 0);
    CHECK(loss->kept == 1);
  }
  // A kernel leaves the share R of a wave on the way there and again on the way back, so that 1 − R² of its amplitude
  // is missing; copies of the wave at other frequencies, of which the second pass lets some through, add to the loss.
  const char* turn = R"({"step":"rotate","degrees":11.3})";
  double before = 0;
  for (const Kernel kernel : {Kernel::linear, Kernel::cubic, Kernel::bspline3}) {
    const double f = 0.15, r = test::response(kernel, 0.8 * f) * test::response(kernel, 0.6 * f);
    const auto loss = round_trip_of(turn, kernel, f);
    REQUIRE(loss);
    INFO(name_of(kernel));
    const double missing = 1 - r * r;
    CHECK(1 - loss->kept > 0.7 * missing * missing);
    CHECK(1 - loss->kept < 2 * missing * missing + 1e-4);
    CHECK(loss->kept > before);
    before = loss->kept;
  }
}

TEST_CASE("shrinking loses the waves that the result cannot hold, and keeps the others") {
  const char* half = R"({"step":"resize","scale":0.5})";
  CHECK(round_trip_of(half, Kernel::lanczos3, 0.4)->kept < 0.1);
  CHECK(round_trip_of(half, Kernel::lanczos3, 0.05)->kept > 0.99);
}

TEST_CASE("where the spot is not in the picture or not in the result, nothing is said of it") {
  CHECK_FALSE(round_trip_of(R"({"step":"rotate","degrees":3})", Kernel::cubic, 0.1, {10, 150}));
  CHECK_FALSE(round_trip_of(R"({"step":"crop","x":300,"y":200,"width":80,"height":80})", Kernel::cubic, 0.1));
  // Pixels are computed behind the turn: it is followed up to there.
  const auto up_to_there = round_trip_of(
      R"({"step":"rotate","degrees":3},{"step":"denoise","radius":2,"method":"median"})", Kernel::cubic, 0.1);
  REQUIRE(up_to_there);
  CHECK(up_to_there->kept == round_trip_of(R"({"step":"rotate","degrees":3})", Kernel::cubic, 0.1)->kept);
}

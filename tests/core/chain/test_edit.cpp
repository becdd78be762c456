#include <catch2/catch.hpp>

#include "base/error.h"
#include "chain/chain.h"
#include "chain/edit.h"
#include "tests/support.h"

using namespace fexel;

namespace {

Layout layout_of(const Chain& chain, Size size, int bands = 3) {
  return lay_out(chain, {size, bands, Depth::u8, {}});
}
StepInput first_input(Size size) {
  Chain chain;
  chain.steps.push_back({RotateStep{90}, true, {}});
  return input_of_step(layout_of(chain, size), 0);
}
std::string trouble_of(const Step& step, Size size) {
  Chain chain;
  chain.steps.push_back(step);
  try {
    layout_of(chain, size).require_sound();
  } catch (const Error& error) {
    return error.what();
  }
  return {};
}

}  // namespace

TEST_CASE("a step that is added by hand works on any picture, and is the same when it is read back", "[edit]") {
  const Size size = GENERATE(Size{1, 1}, Size{2, 3}, Size{4, 4}, Size{5, 400}, Size{640, 480}, Size{6000, 4000});
  const StepInput input = first_input(size);
  for (const std::string& word : step_words()) {
    INFO(word << " on " << size.width << " x " << size.height);
    const Step step{step_begun(word, input), true, {}};
    CHECK(word_of(step.kind) == word);
    if (word == DownsampleStep::word && size.width == 1)
      CHECK_FALSE(trouble_of(step, size).empty());  // one pixel is not reduced any further
    else
      CHECK(trouble_of(step, size).empty());
    Chain chain;
    chain.steps.push_back(step);
    CHECK(parse_chain(write_chain(chain)) == chain);
  }
  CHECK_THROWS_AS(step_begun("polish", input), Error);
}

TEST_CASE("a crop that has come to lie outside is moved and cut, not begun again", "[edit]") {
  struct Row {
    CropRectangle given;
    double x, y;
    int width, height;
  };
  // Into 300 x 200: moved back as little as can be, cut to what there is.
  const Row row = GENERATE(Row{{280, 150, 100, 80}, 200, 120, 100, 80}, Row{{-40, 20, 60, 60}, 0, 20, 60, 60},
                           Row{{10, 10, 900, 50}, 0, 10, 300, 50}, Row{{-5, -5, 1000, 1000}, 0, 0, 300, 200},
                           Row{{250, 190, 20, 10}, 250, 190, 20, 10});
  const StepInput input = first_input({300, 200});
  const auto remedy = remedied({CropStep{row.given}, false, "the plate"}, input);
  REQUIRE(remedy);
  CHECK_FALSE(remedy->begun_again);
  CHECK(remedy->step.name == "the plate");
  CHECK_FALSE(remedy->step.on);
  const auto& crop = std::get<CropRectangle>(std::get<CropStep>(remedy->step.kind).what);
  CHECK(crop.x == row.x);
  CHECK(crop.y == row.y);
  CHECK(crop.width == row.width);
  CHECK(crop.height == row.height);
  CHECK(trouble_of({std::get<CropStep>(remedy->step.kind), true, {}}, {300, 200}).empty());
}

TEST_CASE("what cannot be put right is begun again under its name, and works", "[edit]") {
  const Size size{640, 480};
  const StepInput input = first_input(size);
  MatrixStep flat;
  flat.matrix << 1, 2, 0, 2, 4, 0, 0, 0, 1;
  UnwrapStep outside;
  outside.centre = {9000, 9000}, outside.inner = 10, outside.outer = 20;
  RectifyStep crossed;
  crossed.corners = {Point{10, 10}, Point{10, 10}, Point{10, 10}, Point{10, 10}};
  crossed.width = 10, crossed.height = 10;
  for (const StepKind& kind : {StepKind(flat), StepKind(outside), StepKind(crossed)}) {
    INFO(word_of(kind));
    REQUIRE_FALSE(trouble_of({kind, true, {}}, size).empty());
    const auto remedy = remedied({kind, true, "mine"}, input);
    REQUIRE(remedy);
    CHECK(remedy->begun_again);
    CHECK(remedy->step.name == "mine");
    CHECK(std::string(word_of(remedy->step.kind)) == word_of(kind));
    CHECK(trouble_of(remedy->step, size).empty());
  }
}

TEST_CASE("lengths stay on what they lie on while steps come and go before them", "[edit]") {
  const Size size{400, 300};
  Chain chain;
  chain.steps.push_back({RotateStep{90}, true, {}});
  chain.steps.push_back({CropStep{CropRectangle{20, 30, 200, 250}}, true, {}});
  // At each station; places of the source that a quarter turn to the left takes to (y, 400 - x).
  chain.measurements = {length_measurement("at the source", 0, {100, 50}, {180, 90}, {}, "mm"),
                        length_measurement("turned", 1, {50, 300}, {90, 220}),
                        length_measurement("cropped", 2, {30, 270}, {70, 190})};
  // Without the turn the crop cuts elsewhere: its measurement keeps its numbers only where it cannot be carried.
  const Chain unturned = with_step_removed(chain, layout_of(chain, size), 0);
  REQUIRE(unturned.steps.size() == 1);
  REQUIRE(unturned.measurements.size() == 3);
  CHECK(unturned.measurements[0] == chain.measurements[0]);
  CHECK(unturned.measurements[1].station == 0);
  CHECK(distance(unturned.measurements[1].points[0], {100, 50}) < 1e-9);
  CHECK(distance(unturned.measurements[1].points[1], {180, 90}) < 1e-9);
  CHECK(unturned.measurements[2].station == 1);

  const Chain uncropped = with_step_removed(chain, layout_of(chain, size), 1);
  CHECK(uncropped.measurements[1] == chain.measurements[1]);
  CHECK(uncropped.measurements[2].station == 1);
  CHECK(distance(uncropped.measurements[2].points[0], {50, 300}) < 1e-9);
  CHECK(distance(uncropped.measurements[2].points[1], {90, 220}) < 1e-9);

  const Chain more = with_step_inserted(chain, 1, {MirrorStep{}, true, {}});
  CHECK(more.measurements[0].station == 0);
  CHECK(more.measurements[1].station == 1);
  CHECK(more.measurements[2].station == 3);
  CHECK(more.measurements[2].points[0] == chain.measurements[2].points[0]);
}

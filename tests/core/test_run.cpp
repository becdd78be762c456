#include <catch2/catch.hpp>

#include "chain/run.h"
#include "tests/support.h"

using namespace fexel;

TEST_CASE("names sort as people count", "[run]") {
  CHECK(natural_less("frame-2.tif", "frame-10.tif"));
  CHECK_FALSE(natural_less("frame-10.tif", "frame-2.tif"));
  CHECK(natural_less("a-007", "a-8"));
  CHECK(natural_less("a", "b"));
  CHECK_FALSE(natural_less("a", "a"));
  CHECK((natural_less("01", "1") != natural_less("1", "01")));
}

TEST_CASE("clashing names, existing files and sources stop a run before it starts", "[run]") {
  const test::Scratch scratch;
  std::vector<std::filesystem::path> inputs;
  for (const char* name : {"a.png", "b.png"}) {
    std::vector<Image> pages;
    pages.push_back(test::noise(20, 10, 1, Depth::u8));
    write_pictures(scratch / name, pages, {Format::png, {}, false, {}});
    inputs.push_back(scratch / name);
  }
  RunOptions options;
  options.folder = scratch.path();
  options.chain_name = "turned";
  Chain chain;
  chain.steps = {{QuarterStep{1}, true, {}}};
  CHECK(plan_run(chain, inputs, options)[1].output == scratch / "b-turned.png");
  options.name = "same";
  CHECK_THROWS_WITH(plan_run(chain, inputs, options), Catch::Contains("both"));
  options.name = "{stem}";
  options.replace = true;
  CHECK_THROWS_WITH(plan_run(chain, inputs, options), Catch::Contains("source"));
  options.name = "{index}-{stem}.{ext}";
  CHECK(plan_run(chain, inputs, options)[0].output == scratch / "1-a.png");
  options.name = "../{stem}-x";
  CHECK_THROWS_WITH(plan_run(chain, inputs, options), Catch::Contains("slash"));
}

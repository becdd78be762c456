#include <catch2/catch.hpp>

#include "chain/layout.h"
#include "demo/passing.h"
#include "files/film.h"
#include "run/align_search.h"
#include "tests/support.h"

// The film of the wall, aligned and rectified with its own chain, against its truth.

using namespace fexel;

TEST_CASE("the rectified film: tile corners lie within 0.1 px of truth in every frame after align", "[demo][film]") {
  const test::Scratch scratch;
  {
    const scene::Passing passing({});
    FilmWriter writer(scratch / "passing.mkv", {{640, 480}, 1, Depth::u8, 0, scene::passing_rate, FilmUse::lossless},
                      {});
    for (int n = 1; n <= scene::passing_frames; ++n) writer.add(passing.frame(n, {}));
    writer.finish();
  }
  const auto frames = pages_of(scratch / "passing.mkv", {});
  REQUIRE(frames.size() == static_cast<std::size_t>(scene::passing_frames));
  for (std::size_t i = 0; i < frames.size(); ++i)
    CHECK(*frames[i].info->time == Approx(static_cast<double>(i) / scene::passing_rate).margin(1e-3));
  Chain chain = scene::passing_chain();
  const AlignStep found =
      searched(chain, 0,
               {scene::passing_frames,
                [&](int i, const Job& job) { return read_frame(frames[static_cast<std::size_t>(i)], {}, job); }},
               {});
  chain.steps[0].kind = found;
  // In the result the tile is a square of 300 px.
  const Point square[] = {{0, 0}, {300, 0}, {300, 300}, {0, 300}};
  double worst = 0;
  for (int n = 0; n < scene::passing_frames; ++n) {
    INFO(n);
    CHECK(found.frames[static_cast<std::size_t>(n)].status == MatchStatus::ok);
    const Layout layout = lay_out(chain, {{640, 480}, 1, Depth::u8, {}, {}, n});
    const Map to_result = map_between(layout, 0, layout.last());
    const Map to_frame(Matrix3(scene::passing_to_first(n + 1).inverse()));
    for (std::size_t k = 0; k < 4; ++k) {
      const auto in_frame = to_frame.forward(scene::passing_tile()[k]);
      REQUIRE(in_frame);
      const auto at = to_result.forward(*in_frame);
      REQUIRE(at);
      worst = std::max(worst, distance(*at, square[k]));
    }
  }
  CHECK(worst < 0.1);
}

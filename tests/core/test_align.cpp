#include <catch2/catch.hpp>

#include "align/sequence.h"
#include "base/error.h"
#include "tests/scene.h"

using namespace fexel;
using namespace fexel::test;

namespace {

const Transforms transforms;

Match match(const Image& reference, const Image& frame, Model model, Likeness likeness = Likeness::brightness) {
  return match_frames(PreparedFrame(reference, 0, likeness, nullptr, Role::reference, {}),
                      PreparedFrame(frame, 0, likeness, nullptr, Role::moved, {}), {model, true}, transforms, {}, {});
}

}  // namespace

TEST_CASE("a frame that was moved without noise is found to a thousandth of a pixel, whatever the model") {
  const Size size{400, 300};
  const Scene scene = textured(200, 0.01, 0.2, 40, 3);
  const Image reference = frame_of(scene, Matrix3::Identity(), size, Depth::f32, 0, 1);
  Matrix3 affine = similarity(size, 1.2, 1.01, 7.3, -11.6), bent = affine;
  affine(0, 1) += 0.01;
  bent(2, 0) = 2e-5;
  bent(2, 1) = -1e-5;
  const std::pair<Model, Matrix3> cases[] = {{Model::translation, translation(13.37, -21.81)},
                                             {Model::rigid, similarity(size, -2, 1, 31.2, 17.9)},
                                             {Model::similarity, similarity(size, 1.5, 1.03, -20.4, 8.8)},
                                             {Model::affine, affine},
                                             {Model::projective, bent}};
  for (const auto& [model, lies] : cases) {
    INFO(name_of(model));
    const Match found = match(reference, frame_of(scene, lies, size, Depth::f32, 0, 2), model);
    INFO(found.reason);
    CHECK(found.status == MatchStatus::ok);
    CHECK(distance_rms(found.matrix * lies, Matrix3::Identity(), size) < 0.002);
    CHECK(found.score > 0.999);
  }
}

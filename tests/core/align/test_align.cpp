#include <catch2/catch.hpp>

#include "align/residual.h"
#include "align/self_test.h"
#include "align/sequence.h"
#include "base/error.h"
#include "tests/scene.h"

using namespace fexel;
using namespace fexel::test;

namespace {

const FftPlans transforms;

Match match(const Image& reference, const Image& frame, Model model,
            SimilarityMetric likeness = SimilarityMetric::brightness) {
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

TEST_CASE("any turn, a scale of 0.5 to 2, and a small overlap are found without a start") {
  const Size size{400, 300};
  const Scene scene = textured(150, 0.01, 0.2, 40, 8);
  const Image reference = frame_of(scene, Matrix3::Identity(), size, Depth::u8, 2, 1);
  const auto check = [&](Model model, const Matrix3& lies, double within) {
    const Match found = match(reference, frame_of(scene, lies, size, Depth::u8, 2, 2), model);
    INFO(name_of(model) << " " << lies << " " << found.reason);
    CHECK(found.status != MatchStatus::failed);
    CHECK(distance_rms(found.matrix * lies, Matrix3::Identity(), size) < within);
  };
  for (const double degrees : {-170.0, -95.0, -37.0, 21.0, 90.0, 144.0, 180.0})
    check(Model::rigid, similarity(size, degrees, 1, 12.3, -8.1), 0.01);
  for (const double scale : {0.5, 0.71, 1.4, 2.0})
    for (const double degrees : {0.0, 120.0})
      check(Model::similarity, similarity(size, degrees, scale, 9.2, 14.7), 0.03);
  // 30 % of the reference: 165 pixels to the side in 400, 147 down in 300.
  check(Model::translation, translation(280, 0), 0.02);
  check(Model::translation, translation(-165.4, 147.3), 0.02);
  check(Model::translation, translation(0.3, 209.6), 0.02);
}

TEST_CASE("light, blur, strangers and flat frames are told apart") {
  const Size size{400, 300};
  const Scene scene = textured(150, 0.01, 0.2, 40, 5), other = textured(150, 0.01, 0.2, 40, 6);
  const Matrix3 lies = similarity(size, 0.8, 1, 6.6, -9.4);
  const Image reference = frame_of(scene, Matrix3::Identity(), size, Depth::u16, 2, 1);
  const auto off = [&](const Match& m) { return distance_rms(m.matrix * lies, Matrix3::Identity(), size); };

  const Match dim = match(reference, frame_of(scene, lies, size, Depth::u16, 2, 2, 0.5, 100), Model::rigid);
  CHECK(dim.status == MatchStatus::ok);
  CHECK(off(dim) < 0.02);
  CHECK(dim.gain == Approx(2).margin(0.02));
  CHECK(dim.offset == Approx(-200).margin(5));

  // A blur of 2 px by formula: each wave loses exp(-2 (pi f s)^2).
  Scene blurred = scene;
  for (Wave& w : blurred.parts) w.amplitude *= std::exp(-2 * std::pow(M_PI * std::hypot(w.fx, w.fy) * 2, 2));
  const Match soft = match(reference, frame_of(blurred, lies, size, Depth::u16, 2, 2), Model::rigid);
  CHECK(soft.status != MatchStatus::failed);
  CHECK(off(soft) < 0.1);

  const Match stranger = match(reference, frame_of(other, lies, size, Depth::u16, 2, 2), Model::rigid);
  CHECK(stranger.status == MatchStatus::failed);
  CHECK(stranger.matrix == Matrix3::Identity());
  CHECK_FALSE(stranger.reason.empty());

  // Half of the frame is covered by something else.
  Image covered = frame_of(scene, lies, size, Depth::u16, 2, 2);
  const Image stuff = frame_of(other, Matrix3::Identity(), size, Depth::u16, 2, 3);
  for (int y = 0; y < 120; ++y)
    std::copy_n(stuff.row<std::uint16_t>(0, y), size.width, covered.row<std::uint16_t>(0, y));
  const Match half = match(reference, covered, Model::rigid);
  CHECK(half.status != MatchStatus::failed);
  CHECK(off(half) < 0.05);

  const Image black(size.width, size.height, 1, Depth::u8);
  CHECK_THROWS_WITH(PreparedFrame(black, 0, SimilarityMetric::brightness, nullptr, Role::both, {}),
                    Catch::Contains("no texture"));
  CHECK_THROWS_WITH(PreparedFrame(Image(9, 9, 1, Depth::u8), 0, SimilarityMetric::brightness, nullptr, Role::both, {}),
                    Catch::Contains("16 pixels"));
}

TEST_CASE("masked pixels and those outside the region have no say") {
  const Size size{320, 240};
  const Scene scene = textured(120, 0.01, 0.2, 40, 15), other = textured(120, 0.01, 0.2, 40, 16);
  const Matrix3 lies = translation(5.4, -3.2);
  Image reference = frame_of(scene, Matrix3::Identity(), size, Depth::u8, 1, 1);
  Image frame = frame_of(scene, lies, size, Depth::u8, 1, 2);
  // In the right half the same thing stands still in both: it would hold the frame back.
  const Image still = frame_of(other, Matrix3::Identity(), size, Depth::u8, 0, 3);
  for (int y = 0; y < size.height; ++y)
    for (Image* image : {&reference, &frame})
      std::copy_n(still.row<std::uint8_t>(0, y) + 130, 190, image->row<std::uint8_t>(0, y) + 130);
  Image use(size.width, size.height, 1, Depth::u8);
  for (int y = 0; y < size.height; ++y) std::fill_n(use.row<std::uint8_t>(0, y), 125, std::uint8_t{255});
  const auto found = match_frames(PreparedFrame(reference, 0, SimilarityMetric::brightness, &use, Role::reference, {}),
                                  PreparedFrame(frame, 0, SimilarityMetric::brightness, nullptr, Role::moved, {}),
                                  {Model::translation, true}, transforms, {}, {});
  CHECK(found.status != MatchStatus::failed);
  CHECK(distance_rms(found.matrix * lies, Matrix3::Identity(), size) < 0.02);
  // The same by a mask of the frame itself.
  frame.make_mask(true);
  for (int y = 0; y < size.height; ++y) frame.set_valid_span(y, 0, 128);
  const Match masked = match(reference, frame, Model::translation);
  CHECK(distance_rms(masked.matrix * lies, Matrix3::Identity(), size) < 0.02);
}

TEST_CASE("bands of unlike contrast are matched by their edges") {
  const Size size{400, 300};
  const Scene scene = textured(150, 0.01, 0.12, 40, 21);
  const Matrix3 lies = similarity(size, 0, 1.004, 2.7, -3.3);
  // Seen through unlike filters: upside down, and with dark and bright alike (the square of what is above the mean).
  const Image reference = frame_of(scene, Matrix3::Identity(), size, Depth::u16, 1, 1, 40, 3000);
  const Image inverted = frame_of(scene, lies, size, Depth::u16, 1, 2, -30, 20000);
  Image bent = frame_of(scene, lies, size, Depth::u16, 1, 3, 40, 3000);
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      std::uint16_t& v = bent.row<std::uint16_t>(0, y)[x];
      v = static_cast<std::uint16_t>(40000 / (1 + std::exp((v - 8120) / 900.0)) + 60);
    }
  for (const Image* band : {&inverted, &std::as_const(bent)}) {
    const Match found = match(reference, *band, Model::similarity, SimilarityMetric::structure);
    INFO(found.reason);
    CHECK(found.status != MatchStatus::failed);
    CHECK(distance_rms(found.matrix * lies, Matrix3::Identity(), size) < 0.1);
  }
}

TEST_CASE("stated uncertainties hold as often as they should", "[long]") {
  const Size size{192, 160};
  std::mt19937 random(7);
  std::uniform_real_distribution<double> unit(-1, 1);
  int inside[2] = {0, 0};
  constexpr int rounds = 500;
  for (int round = 0; round < rounds; ++round) {
    const Scene scene = textured(60, 0.02, 0.2, 35, 100 + static_cast<unsigned>(round));
    const Matrix3 lies = similarity(size, 1.5 * unit(random), 1, 6 * unit(random), 6 * unit(random));
    const auto seed = static_cast<unsigned>(2 * round);
    const Match found = match(frame_of(scene, Matrix3::Identity(), size, Depth::u8, 5, seed),
                              frame_of(scene, lies, size, Depth::u8, 5, seed + 1), Model::rigid);
    REQUIRE(found.status != MatchStatus::failed);
    // Per coordinate, in the middle of the frame.
    const StepBasis basis(Model::rigid, size);
    const auto b = basis.at(size.middle());
    const Eigen::Matrix2d c = b * found.covariance * b.transpose();
    const Point off = *Map::apply(found.matrix * lies, size.middle()) - size.middle();
    inside[0] += std::abs(off.x) < std::sqrt(c(0, 0)) ? 1 : 0;
    inside[1] += std::abs(off.y) < std::sqrt(c(1, 1)) ? 1 : 0;
  }
  for (const int count : inside) {
    CHECK(count > 0.60 * rounds);
    CHECK(count < 0.75 * rounds);
  }
}

TEST_CASE("a frame that cannot be used is said, and the others are aligned") {
  const Size size{256, 192};
  const Scene scene = textured(100, 0.01, 0.2, 40, 31), other = textured(100, 0.01, 0.2, 40, 32);
  std::vector<Matrix3> lies;
  for (int i = 0; i < 8; ++i) lies.push_back(similarity(size, 0.2 * i, 1, 2.5 * i, -1.7 * i));
  const FrameReader reader{8, [&](int i, const Job&) {
                             if (i == 2) throw input_error("The file is cut short.", "frame-3.tif");
                             if (i == 4) return frame_of(other, lies[4], size, Depth::u8, 2, 4);
                             if (i == 5) return Image(size.width, size.height, 1, Depth::u8);
                             return frame_of(scene, lies[static_cast<std::size_t>(i)], size,
                                             i == 6 ? Depth::u16 : Depth::u8, 2, static_cast<unsigned>(i));
                           }};
  for (const auto& [against, number] : {std::pair{ReferenceMode::first, 0},
                                        {ReferenceMode::neighbour, 0},
                                        {ReferenceMode::network, 0},
                                        {ReferenceMode::frame, 4},
                                        {ReferenceMode::average, 0},
                                        {ReferenceMode::average, 2}}) {
    AlignOptions options;
    options.against = against;
    options.number = number;
    const Alignment found = align_frames(reader, options, {});
    INFO("against " << static_cast<int>(against));
    const Matrix3 home = against == ReferenceMode::frame ? lies[3] : Matrix3::Identity();
    for (const std::size_t i : {0U, 1U, 3U, 6U, 7U}) {
      INFO("frame " << i << " " << found.frames[i].reason);
      CHECK(found.frames[i].status == MatchStatus::ok);
      CHECK(distance_rms(found.frames[i].matrix * lies[i], home, size) < 0.03);
    }
    for (const std::size_t i : {2U, 4U, 5U}) {
      CHECK(found.frames[i].status == MatchStatus::failed);
      CHECK_FALSE(found.frames[i].reason.empty());
      CHECK(found.frames[i].matrix == Matrix3::Identity());
    }
    CHECK(found.frames[2].reason == "The file is cut short.");
  }
  AlignOptions beyond;
  beyond.against = ReferenceMode::frame;
  beyond.number = 9;
  CHECK_THROWS_WITH(align_frames(reader, beyond, {}), Catch::Contains("no frame 9"));
  std::stop_source stopped;
  stopped.request_stop();
  CHECK_THROWS_AS(align_frames(reader, {}, {stopped.get_token(), {}}), Error);
}

TEST_CASE("the network adjusts pairs as a plain least-squares solution does, and lowers the drift", "[long]") {
  // The wall dries: a fine grain stays, broad patches come and go on it.
  const Size size{128, 96};
  constexpr int count = 200;
  const Scene grain = textured(50, 0.05, 0.2, 30, 50), patches = textured(30, 0.004, 0.02, 6, 51);
  std::mt19937 random(3);
  std::uniform_real_distribution<double> unit(-1, 1);
  std::vector<Matrix3> lies{Matrix3::Identity()};
  for (int i = 1; i < count; ++i) lies.push_back(translation(3 * unit(random), 3 * unit(random)));
  const FrameReader reader{count, [&](int i, const Job&) {
                             Scene now = grain;
                             for (Wave w : patches.parts) {
                               w.amplitude *= std::cos(0.01 * i + 40 * w.phase);
                               now.parts.push_back(w);
                             }
                             return frame_of(now, lies[static_cast<std::size_t>(i)], size, Depth::u8, 6,
                                             static_cast<unsigned>(i));
                           }};
  AlignOptions options;
  options.match.model = Model::translation;
  const auto drift = [&](ReferenceMode against, double& stated) {
    options.against = against;
    const Alignment found = align_frames(reader, options, {});
    double squares = 0;
    for (int i = count / 2; i < count; ++i) {
      const Match& match = found.frames[static_cast<std::size_t>(i)];
      REQUIRE(match.status != MatchStatus::failed);
      squares += std::pow(distance_rms(match.matrix * lies[static_cast<std::size_t>(i)], Matrix3::Identity(), size), 2);
      stated = match.uncertainty_px;
    }
    return std::sqrt(squares / (count / 2.0));
  };
  double stated_neighbour = 0, stated_network = 0;
  const double neighbour = drift(ReferenceMode::neighbour, stated_neighbour),
               network = drift(ReferenceMode::network, stated_network);
  INFO("neighbour " << neighbour << " network " << network);
  CHECK(network < neighbour / 3);
  // Errors add up as a random walk: what is stated at the end is of the size of what is seen.
  CHECK(neighbour < 4 * stated_neighbour);
  CHECK(stated_network < stated_neighbour / 2);
}

TEST_CASE("the trial finds known motions, and says of a frame's noise and error what is so") {
  const Size size{320, 240};
  const Scene scene = textured(100, 0.01, 0.15, 40, 41);
  const double noise = 4;
  for (const Model model : {Model::translation, Model::rigid, Model::affine, Model::projective}) {
    AlignOptions options;
    options.match.model = model;
    const SelfTest trial =
        try_known_motions(frame_of(scene, Matrix3::Identity(), size, Depth::u8, noise, 1), options, 6, 15, 3, {});
    INFO(name_of(model));
    REQUIRE(trial.rounds.size() == 6);
    CHECK(trial.failed == 0);
    CHECK(trial.noise == Approx(noise).epsilon(0.1));
    CHECK(trial.error_px < 0.05);
    CHECK(trial.error_px < 2 * trial.stated_px);
    CHECK(trial.error_px > 0.3 * trial.stated_px);
    CHECK(trial.seconds > 0);
    // Every second pixel of this scene still carries all of its detail.
    CHECK(trial.halves == 3);
    CHECK(trial.halves_failed == 0);
    CHECK(trial.halves_error_px < 0.1);
    CHECK_FALSE(trial.aliased());
    for (const SelfTestRound& round : trial.rounds)
      CHECK(distance_rms(round.found.matrix * round.moved, Matrix3::Identity(), size) ==
            Approx(round.error_px).epsilon(0.1));
  }
  CHECK_THROWS_WITH(try_known_motions(Image(64, 64, 1, Depth::u8), {}, 3, 5, 1, {}), Catch::Contains("no texture"));
}

TEST_CASE("errors stay near the least that noise allows", "[long]") {
  // Twelve frames against a noisy one: what they have in common is that one's noise, and is taken out.
  const Size size{320, 240};
  const double noise = 4;
  const Scene scene = textured(80, 0.02, 0.22, 40, 77);
  for (const Model model : {Model::translation, Model::rigid, Model::affine}) {
    const StepBasis basis(model, size);
    StepMatrix information = StepMatrix::Zero(basis.count(), basis.count());
    for (int y = 1; y < size.height; y += 2)
      for (int x = 1; x < size.width; x += 2) {
        const Point p{x + 0.5, y + 0.5}, slope = scene.slope(p.x, p.y);
        const SmallStep g = basis.at(p).transpose() * Eigen::Vector2d(slope.x, slope.y);
        information += 4 / (noise * noise + 1.0 / 12) * (g * g.transpose());
      }
    const double bound = std::sqrt(2.0) * basis.uncertainty(information.inverse());
    const PreparedFrame reference(frame_of(scene, Matrix3::Identity(), size, Depth::u8, noise, 1000), 0,
                                  SimilarityMetric::brightness, nullptr, Role::reference, {});
    std::mt19937 random(5);
    std::uniform_real_distribution<double> unit(-1, 1);
    constexpr int count = 60;
    std::vector<SmallStep> errors;
    SmallStep common = SmallStep::Zero(basis.count());
    for (int k = 0; k < count; ++k) {
      SmallStep step = SmallStep::Zero(basis.count());
      for (int i = 0; i < basis.count(); ++i) step(i) = (i < 2 ? 8 : 3) * unit(random);
      const Matrix3 lies = basis.transform(step);
      const Match found =
          match_frames(reference,
                       PreparedFrame(frame_of(scene, lies, size, Depth::u8, noise, static_cast<unsigned>(k)), 0,
                                     SimilarityMetric::brightness, nullptr, Role::moved, {}),
                       {model, true}, transforms, {}, {});
      REQUIRE(found.status == MatchStatus::ok);
      errors.push_back(basis.step_of(found.matrix * lies));
      common += errors.back() / count;
    }
    StepMatrix spread = StepMatrix::Zero(basis.count(), basis.count());
    for (const SmallStep& e : errors) spread += (e - common) * (e - common).transpose() / (count - 1.0);
    const double ratio = std::sqrt(2.0) * basis.uncertainty(spread) / bound;
    INFO(name_of(model) << " " << ratio);
    // The frames overlap by some 95 % only, and sixty of them say it to within 5 to 10 %.
    CHECK(ratio < 1.3);
    CHECK(ratio > 0.8);
  }
}

TEST_CASE("several bands are matched by their mean, and light is said of it") {
  const Size size{200, 160};
  const Scene scene = textured(80, 0.01, 0.2, 40, 61);
  const auto coloured = [&](const Matrix3& lies, double gain, double offset, unsigned seed) {
    Image out(size.width, size.height, 3, Depth::u16);
    for (int band = 0; band < 3; ++band) {
      const Image one =
          frame_of(scene, lies, size, Depth::u16, 1, seed + static_cast<unsigned>(band), gain, offset + 100 * band);
      for (int y = 0; y < size.height; ++y) std::copy_n(one.bytes(0, y), one.row_bytes(), out.bytes(band, y));
    }
    return out;
  };
  const Matrix3 lies = translation(3.4, -2.6);
  const Match found = match(coloured(Matrix3::Identity(), 2, 500, 1), coloured(lies, 1, 900, 9), Model::translation);
  CHECK(distance_rms(found.matrix * lies, Matrix3::Identity(), size) < 0.01);
  // The mean over the bands: 2 s + 600 of the reference, s + 1000 of the frame.
  CHECK(found.gain == Approx(2).margin(0.02));
  CHECK(found.offset == Approx(600 - 2 * 1000).margin(25));
}

TEST_CASE("what still moves is found window by window, with its uncertainty, and flat windows say nothing") {
  const Size size{512, 384};
  const Scene scene = textured(150, 0.01, 0.2, 40, 33);
  // Stretched by 0.2 % about the middle: a place p moves by 0.002 (p - middle).
  const double stretch = 1.002;
  const Matrix3 lies = similarity(size, 0, stretch, 0, 0);
  Image reference = frame_of(scene, Matrix3::Identity(), size, Depth::u8, 2, 1);
  Image frame = frame_of(scene, lies, size, Depth::u8, 2, 2, 0.9, 10);
  for (int y = 0; y < 70; ++y)
    for (int x = 0; x < 140; ++x) reference.row<std::uint8_t>(0, y)[x] = frame.row<std::uint8_t>(0, y)[x] = 77;
  const ResidualField field = residual_field(reference, frame, 0, SimilarityMetric::brightness, 64, {});
  REQUIRE(field.shifts.size() == 48);
  int covered = 0, sound = 0;
  double squares = 0;
  for (const ResidualShift& shift : field.shifts) {
    if (shift.at.x < 130 && shift.at.y < 64) {
      CHECK_FALSE(shift.sound);
      continue;
    }
    if (!shift.sound) continue;
    ++sound;
    const Point truth = (stretch - 1) * (shift.at - size.middle()), off = shift.moved - truth;
    squares += (off.x * off.x + off.y * off.y) / 2;
    // Least squares on a noisy frame against a noisy one; the stretch within a window adds 0.02 px at its sides.
    covered += std::abs(off.x) < 2 * shift.uncertainty_px + 0.005;
  }
  CHECK(sound >= 44);
  CHECK(std::sqrt(squares / sound) < 0.03);
  CHECK(covered >= sound * 85 / 100);
  CHECK(field.moving > sound / 2);
  const double farthest = 0.002 * std::hypot(224, 160);  // the middle of a corner's window
  CHECK(std::hypot(field.farthest.moved.x, field.farthest.moved.y) == Approx(farthest).margin(0.05));
  // A frame and its own copy with other noise: nothing but noise is left, and its size is foretold.
  const ResidualField still = residual_field(frame_of(scene, Matrix3::Identity(), size, Depth::u8, 2, 3),
                                             frame_of(scene, Matrix3::Identity(), size, Depth::u8, 2, 4), 0,
                                             SimilarityMetric::brightness, 64, {});
  CHECK(still.sound == 48);
  CHECK(still.usual_px == Approx(still.expected_px).epsilon(0.3));
  CHECK(still.moving == 0);
  CHECK_THROWS_AS(residual_field(reference, Image(64, 64, 1, Depth::u8), 0, SimilarityMetric::brightness, 64, {}),
                  Error);
}

TEST_CASE("frames that are nearly free of noise go with their mean, every one of them") {
  const Size size{320, 240};
  const Scene scene = textured(80, 0.01, 0.2, 40, 9);
  std::vector<Image> frames;
  for (int i = 0; i < 4; ++i)
    frames.push_back(
        frame_of(scene, translation(4 * i, -3 * i), size, Depth::u16, 3, static_cast<unsigned>(i), 100, 2000));
  const FrameReader reader{4, [&](int i, const Job&) { return frames[static_cast<std::size_t>(i)].clone(); }};
  AlignOptions options;
  options.against = ReferenceMode::average;
  const Alignment found = align_frames(reader, options, {});
  for (int i = 0; i < 4; ++i) {
    const Match& match = found.frames[static_cast<std::size_t>(i)];
    INFO(i << " " << match.reason);
    CHECK(match.status == MatchStatus::ok);
    CHECK(distance_rms(match.matrix * translation(4 * i, -3 * i), Matrix3::Identity(), size) < 0.002);
  }
}

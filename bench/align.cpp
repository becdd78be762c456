/// Aligns frames that were rendered from formulas, and prints how far off the transforms are, against the least error
/// that their noise allows (the Cramer-Rao bound), how often the stated uncertainty holds, and how long the search
/// takes.
#include <fmt/format.h>

#include <Eigen/Cholesky>
#include <chrono>
#include <cstdlib>
#include <cstring>

#include "align/sequence.h"
#include "bench/stolen.h"
#include "files/picture.h"
#include "tests/scene.h"
#include "tests/support.h"

namespace {

using namespace fexel;
using Clock = std::chrono::steady_clock;

constexpr int frames = 16;
constexpr double noise = 4;
const Size size{1600, 1200};

struct Stack {
  std::vector<Matrix3> lies;
  std::vector<Image> frames;
};

Stack render(const test::Scene& scene, Model model, unsigned seed) {
  std::mt19937 random(seed);
  std::uniform_real_distribution<double> unit(-1, 1);
  Stack out;
  for (int i = 0; i < frames; ++i) {
    const auto some = [&] { return i == 0 ? (unit(random), 0.0) : unit(random); };
    const double dx = 40 * some(), dy = 40 * some(), turn = 2 * some(), grown = 0.02 * some(), skew = 0.01 * some(),
                 bend_x = 1e-5 * some(), bend_y = 1e-5 * some();
    const bool turned = model != Model::translation, scaled = turned && model != Model::rigid;
    Matrix3 m = test::similarity(size, turned ? turn : 0, scaled ? 1 + grown : 1, dx, dy);
    if (model == Model::affine || model == Model::projective) m(0, 1) += skew;
    if (model == Model::projective) m(2, 0) = bend_x, m(2, 1) = bend_y;
    out.lies.push_back(m / m(2, 2));
    out.frames.push_back(
        test::frame_of(scene, out.lies.back(), size, Depth::u8, noise, seed * 100 + static_cast<unsigned>(i)));
  }
  return out;
}

/// The least RMS error over the frame of a transform that is found against a scene without noise.
double bound_of(const test::Scene& scene, const StepBasis& basis) {
  StepMatrix information = StepMatrix::Zero(basis.count(), basis.count());
  constexpr int apart = 8;
  for (int y = apart / 2; y < size.height; y += apart)
    for (int x = apart / 2; x < size.width; x += apart) {
      const Point p{x + 0.5, y + 0.5}, slope = scene.slope(p.x, p.y);
      const SmallStep g = basis.at(p).transpose() * Eigen::Vector2d(slope.x, slope.y);
      information += apart * apart / (noise * noise + 1.0 / 12) * (g * g.transpose());
    }
  return std::sqrt(2.0) * basis.uncertainty(information.inverse());
}

double rms_of(const std::vector<SmallStep>& steps, const StepBasis& basis) {
  StepMatrix spread = StepMatrix::Zero(basis.count(), basis.count());
  for (const SmallStep& s : steps) spread += s * s.transpose() / static_cast<double>(steps.size());
  return std::sqrt(2.0) * basis.uncertainty(spread);
}

double median_of(std::vector<double> values) {
  std::ranges::sort(values);
  return values[values.size() / 2];
}

/// The median time of `fexel-cli align` from PGM files to a TIFF that is not compressed, the whole process.
double process_seconds(const Stack& stack) {
  const test::Scratch scratch;
  for (int i = 0; i < frames; ++i) {
    std::vector<Image> page;
    page.push_back(stack.frames[static_cast<std::size_t>(i)].clone());
    write_pictures(scratch / fmt::format("frame-{}.pgm", i + 1), page, {Format::pnm, {}, false, {}});
  }
  const std::string command = fmt::format("'{}' align '{}' --out '{}' --replace --quiet >/dev/null", FEXEL_CLI,
                                          scratch.path().string(), (scratch / "aligned.tif").string());
  std::vector<double> times;
  for (int round = 0; round < 7; ++round) {
    const auto begin = Clock::now();
    if (std::system(command.c_str()) != 0) return 0;
    times.push_back(std::chrono::duration<double>(Clock::now() - begin).count());
    std::filesystem::remove(scratch / "aligned.tif");
  }
  return median_of(times);
}

}  // namespace

int main() {
  const test::Scene scene = test::textured(60, 0.01, 0.22, 40, 11);
  const double stolen = stolen_seconds();
  fmt::print("{} frames {} x {} u8, noise {} grey levels; M: memcpy of the stack by one thread\n", frames, size.width,
             size.height, noise);
  fmt::print("{:<12} {:>10} {:>10} {:>7} {:>9} {:>9} {:>7}\n", "model", "error px", "bound px", "ratio", "stated",
             "time s", "x M");
  for (const Model model : {Model::translation, Model::rigid, Model::similarity, Model::affine, Model::projective}) {
    const Stack stack = render(scene, model, 5);
    const FrameReader reader{frames,
                             [&](int i, const Job&) { return stack.frames[static_cast<std::size_t>(i)].clone(); }};
    AlignOptions options;
    options.match.model = model;
    std::vector<double> times, copies;
    Alignment found;
    std::vector<std::byte> from(static_cast<std::size_t>(frames) * 1600 * 1200, std::byte{1}), to(from.size());
    for (int round = 0; round < 7; ++round) {
      auto begin = Clock::now();
      std::memcpy(to.data(), from.data(), from.size());
      copies.push_back(std::chrono::duration<double>(Clock::now() - begin).count());
      begin = Clock::now();
      found = align_frames(reader, options, {});
      times.push_back(std::chrono::duration<double>(Clock::now() - begin).count());
    }
    const StepBasis basis(model, size);
    std::vector<SmallStep> errors;
    SmallStep common = SmallStep::Zero(basis.count());
    double stated = 0;
    for (int i = 1; i < frames; ++i) {
      const Match& match = found.frames[static_cast<std::size_t>(i)];
      errors.push_back(basis.step_of(match.matrix * stack.lies[static_cast<std::size_t>(i)]));
      common += errors.back() / (frames - 1);
      stated += match.uncertainty_px / (frames - 1);
      if (match.status != MatchStatus::ok) fmt::print("frame {}: {}\n", i + 1, match.reason);
    }
    const double pair = rms_of(errors, basis);
    for (SmallStep& e : errors) e -= common;
    const double error = rms_of(errors, basis) * std::sqrt((frames - 1.0) / (frames - 2.0)),
                 bound = bound_of(scene, basis);
    fmt::print("{:<12} {:>10.5f} {:>10.5f} {:>7.2f} {:>9.5f} {:>9.3f} {:>7.0f}   pair {:.5f}, {:.2f} of its bound\n",
               name_of(model), error, bound, error / bound, std::sqrt(2.0) * stated, median_of(times),
               median_of(times) / median_of(copies), pair, pair / bound / std::sqrt(2.0));
    if (model == Model::rigid) {
      const double whole = process_seconds(stack);
      fmt::print("{:<12} fexel-cli align, PGM to TIFF, the whole process: {:.3f} s, {:.2f} x the search\n", "", whole,
                 whole / median_of(times));
    }
  }
  fmt::print("{:.1f} s were stolen by other guests.\n", stolen_seconds() - stolen);
}

/// Aligns stacks of many kinds, and prints how far off the transforms are, what was stated of them, and how many were
/// called ok, weak, ambiguous or failed: `bench_honesty [SEEDS] [PART OF A NAME] [each]`.
#include <fmt/format.h>

#include <chrono>
#include <cstdlib>
#include <string_view>

#include "align/sequence.h"
#include "base/statistics.h"
#include "tests/material.h"
#include "tests/scene.h"

using namespace fexel;

int main(int count, char** words) {
  const unsigned seeds = count > 1 ? static_cast<unsigned>(std::atoi(words[1])) : 40;
  const std::string_view only = count > 2 ? words[2] : "";
  fmt::print("{:<32}{:>7}{:>6}{:>6}{:>6}{:>6}{:>10}{:>10}{:>8}{:>8}{:>8}{:>9}\n", "kind", "frames", "ok", "weak",
             "ambig", "fail", "error px", "stated", "in, %", "off", "strays", "ms/frame");
  int total = 0, wrong = 0, strays = 0;
  for (const test::Material& kind : test::materials()) {
    if (std::string_view(kind.name).find(only) == std::string_view::npos) continue;
    int by_status[4] = {}, frames = 0, inside = 0, off = 0, taken = 0;
    std::vector<double> errors, stated;
    double seconds = 0;
    for (unsigned seed = 1; seed <= seeds; ++seed) {
      const test::Stack stack = kind.make(seed, kind.frames);
      const Size size{stack.frames[0].width(), stack.frames[0].height()};
      AlignOptions options;
      options.match.model = static_cast<Model>(kind.model);
      const FrameReader reader{kind.frames,
                               [&](int i, const Job&) { return stack.frames[static_cast<std::size_t>(i)].clone(); }};
      const auto begin = std::chrono::steady_clock::now();
      const Alignment found = align_frames(reader, options, {});
      seconds += std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
      for (std::size_t i = 1; i < stack.frames.size(); ++i) {
        const Match& match = found.frames[i];
        ++by_status[static_cast<int>(match.status)];
        ++frames;
        if (count > 3)
          fmt::print(
              "  seed {} frame {}: {}, off by {:.3f} px, stated {:.4f}, detail {:.2f}, sure {:.1f}, misfit {:.3f}, "
              "parts {:.3f}, blind {:.4f}: {}\n",
              seed, i + 1, name_of(match.status),
              test::distance_rms(match.matrix * stack.lies[i], Matrix3::Identity(), size) / std::sqrt(2),
              match.uncertainty_px, match.detail, match.sureness, match.misfit_px, match.parts_px, match.blind_px,
              match.reason);
        if (match.status != MatchStatus::ok) continue;
        if (!stack.matchable) {
          ++taken;
          continue;
        }
        // Per axis, as the uncertainty is.
        const double error = test::distance_rms(match.matrix * stack.lies[i], Matrix3::Identity(), size) / std::sqrt(2);
        errors.push_back(error);
        stated.push_back(match.uncertainty_px);
        if (error <= match.uncertainty_px) ++inside;
        if (error > std::max(0.5, 5 * match.uncertainty_px)) ++off;
      }
    }
    total += frames;
    wrong += off;
    strays += taken;
    fmt::print("{:<32}{:>7}{:>6}{:>6}{:>6}{:>6}", kind.name, frames, by_status[0], by_status[1], by_status[2],
               by_status[3]);
    if (errors.empty())
      fmt::print("{:>10}{:>10}{:>8}", "-", "-", "-");
    else
      fmt::print("{:>10.4f}{:>10.4f}{:>8.0f}", median(errors), median(stated),
                 100.0 * inside / static_cast<double>(errors.size()));
    fmt::print("{:>8}{:>8}{:>9.1f}\n", off, taken, 1000 * seconds / frames);
    std::fflush(stdout);
  }
  fmt::print(
      "{} frames; called ok and off by more than 0.5 px and five times what was stated: {}; strays called ok: {}\n",
      total, wrong, strays);
}

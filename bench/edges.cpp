/// Corners from edges and centres from rims over contrast, noise and blur: how far off they are, what was stated, how
/// often it holds, and how many were refused: `bench_edges [SEEDS]`.
#include <fmt/format.h>

#include <cstdlib>
#include <vector>

#include "base/error.h"
#include "measure/edges.h"
#include "measure/ring_edge.h"
#include "tests/edged.h"

using namespace fexel;

namespace {

struct Row {
  int answers = 0, refused = 0, inside = 0, places = 0, worse = 0;
  double squares = 0, stated = 0, most = 0;
  void add(Point off, double sigma) {
    for (const double d : {off.x, off.y}) {
      squares += d * d;
      stated += sigma * sigma;
      most = std::max(most, std::abs(d));
      inside += std::abs(d) <= sigma;
      ++places;
    }
  }
  void print(const char* thing, const test::EdgedLook& look) const {
    fmt::print("{:<10}{:>9}{:>7}{:>7}{:>9}{:>9}", thing, look.contrast, look.noise, look.blur, answers, refused);
    if (places)
      fmt::print("{:>10.4f}{:>10.4f}{:>10.4f}{:>8.0f}{:>7}\n", std::sqrt(squares / places), std::sqrt(stated / places),
                 most, 100.0 * inside / places, worse);
    else
      fmt::print("\n");
  }
};

}  // namespace

int main(int count, char** words) {
  const unsigned seeds = count > 1 ? static_cast<unsigned>(std::atoi(words[1])) : 40;
  fmt::print("{:<10}{:>9}{:>7}{:>7}{:>9}{:>9}{:>10}{:>10}{:>10}{:>8}{:>7}\n", "thing", "contrast", "noise", "blur",
             "answers", "refused", "RMS px", "stated", "most", "in, %", "worse");
  for (const double contrast : {15.0, 40.0, 130.0})
    for (const double noise : {1.0, 4.0, 8.0})
      for (const double blur : {0.0, 0.3, 1.5, 3.0, 4.0}) {
        const test::EdgedLook look{contrast, noise, blur};
        Row corners, centres;
        for (unsigned seed = 1; seed <= seeds; ++seed) {
          const auto look_seed = static_cast<unsigned>(seed * 7919 + 1000 * contrast + 100 * noise + 10 * blur);
          std::mt19937 random(look_seed);
          std::uniform_real_distribution<double> hand(-2, 2), any(-12, 12);
          Quad quad = {Point{60, 50}, Point{390, 62}, Point{372, 330}, Point{44, 300}};
          for (Point& p : quad) p = p + Point{any(random), any(random)};
          if (seed % 4 == 0) {  // along the rows and columns
            quad[1].y = quad[0].y;
            quad[3].x = quad[0].x;
          }
          const Image seen = test::quad_seen(quad, {460, 380}, look, look_seed);
          Quad placed = quad;
          for (Point& p : placed) p = p + Point{hand(random), hand(random)};
          try {
            const EdgeCorners found = corners_from_edges({seen, Map()}, placed, 10);
            ++corners.answers;
            for (std::size_t i = 0; i < 4; ++i) {
              corners.add(found.corners[i] - quad[i], found.sigma[i]);
              corners.worse += distance(found.corners[i], quad[i]) > distance(placed[i], quad[i]);
            }
          } catch (const Error&) {
            ++corners.refused;
          }
          const Point centre{150 + any(random), 140 + any(random)};
          const double radius = 90 + any(random);
          const Image disc = test::disc_seen(centre, radius, {300, 280}, look, look_seed);
          const Point near = centre + Point{hand(random), hand(random)};
          const auto rim = find_ring_edge({disc, Map()}, near, radius + hand(random), 12);
          if (rim) {
            ++centres.answers;
            centres.add(rim->centre - centre, rim->centre_sigma);
            centres.worse += distance(rim->centre, centre) > distance(near, centre);
          } else {
            ++centres.refused;
          }
        }
        corners.print("corners", look);
        centres.print("rim", look);
        std::fflush(stdout);
      }
}

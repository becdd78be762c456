#include "demo/letters.h"

#include <algorithm>
#include <map>

namespace fexel::scene {
namespace {

/// Strokes on a grid of 4 x 6, y down: pairs of digits are places, a bar begins a new stroke.
const std::map<char, const char*>& shapes() {
  static const std::map<char, const char*> all = {{'A', "06204 6|1333"},
                                                  {'B', "06003041423303|334445360 6"},
                                                  {'C', "4130100105163645"},
                                                  {'D', "060030414536 06"},
                                                  {'E', "40000646|0333"},
                                                  {'F', "400006|0333"},
                                                  {'G', "413010010516364543 23"},
                                                  {'H', "0006|4046|0343"},
                                                  {'I', "2026"},
                                                  {'J', "404536160 5"},
                                                  {'K', "0006|4003|1346"},
                                                  {'L', "000646"},
                                                  {'M', "0600234046"},
                                                  {'N', "06004640"},
                                                  {'O', "1030414536160501 10"},
                                                  {'P', "0600304142330 3"},
                                                  {'Q', "103041453616050110|2446"},
                                                  {'R', "060030414233 03|2346"},
                                                  {'S', "4130100102134445361605"},
                                                  {'T', "0040|2026"},
                                                  {'U', "000516364540"},
                                                  {'V', "002640"},
                                                  {'W', "0016233640"},
                                                  {'X', "0046|4006"},
                                                  {'Y', "002340|2326"},
                                                  {'Z', "00400646"},
                                                  {'0', "103041453616050110"},
                                                  {'1', "112026"},
                                                  {'2', "01103041420646"},
                                                  {'3', "0040234445361605"},
                                                  {'4', "36300444"},
                                                  {'5', "40000233444536 1605"},
                                                  {'6', "4130100105163645443303"},
                                                  {'7', "004016"},
                                                  {'8', "13020110304142331304051636454433"},
                                                  {'9', "051636454130100102134 3"},
                                                  {'-', "1333"},
                                                  {'.', "1525|2526"},
                                                  {':', "2122|2425"},
                                                  {'/', "0640"}};
  return all;
}

constexpr double advance = 5.6, grid = 6;

}  // namespace

double Lettering::width_of(const std::string& text, double height) {
  return text.empty() ? 0 : (static_cast<double>(text.size()) * advance - (advance - 4)) * height / grid;
}

void Lettering::write(const std::string& text, Point at, double height) {
  const double unit = height / grid;
  double x = at.x;
  for (const char c : text) {
    if (const auto shape = shapes().find(c); shape != shapes().end()) {
      bool begun = false;
      Point last;
      int first = -1;
      for (const char* p = shape->second; *p != 0; ++p) {
        if (*p == '|') begun = false;
        if (*p < '0' || *p > '9') continue;
        if (first < 0) {
          first = *p - '0';
          continue;
        }
        const Point here{x + first * unit, at.y + (*p - '0' - grid) * unit};
        if (begun) stroke(last, here);
        begun = true;
        last = here;
        first = -1;
      }
    }
    x += advance * unit;
  }
}

void Lettering::stroke(Point from, Point to) {
  const int index = static_cast<int>(strokes_.size());
  strokes_.push_back({from, to});
  const auto [low_x, high_x] = std::minmax(from.x, to.x);
  const auto [low_y, high_y] = std::minmax(from.y, to.y);
  for (long j = cell(low_y - reach_); j <= cell(high_y + reach_); ++j)
    for (long i = cell(low_x - reach_); i <= cell(high_x + reach_); ++i) cells_[j * 1000003 + i].push_back(index);
}

double Lettering::distance_to(Point p) const {
  double least = reach_;
  const auto at = cells_.find(cell(p.y) * 1000003 + cell(p.x));
  if (at == cells_.end()) return least;
  for (const int index : at->second) {
    const Stroke& s = strokes_[static_cast<std::size_t>(index)];
    const Point along = s.to - s.from, d = p - s.from;
    const double square = along.x * along.x + along.y * along.y;
    const double t = square > 0 ? std::clamp((d.x * along.x + d.y * along.y) / square, 0.0, 1.0) : 0;
    const double dx = d.x - t * along.x, dy = d.y - t * along.y;
    least = std::min(least, std::sqrt(dx * dx + dy * dy));
  }
  return least;
}

}  // namespace fexel::scene

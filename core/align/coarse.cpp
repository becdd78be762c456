#include "align/coarse.h"

#include <Eigen/LU>
#include <numbers>

namespace fexel {
namespace {

constexpr double least_overlap = 0.15;

/// A plane of which not every pixel is known.
struct Patch {
  Size size;
  Plane values;  // 0 where unknown
  std::vector<char> known;
  std::size_t at(int x, int y) const {
    return static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) + static_cast<std::size_t>(x);
  }
};

Patch patch_of(const PreparedFrame& frame, int level, bool as_reference) {
  const Size size = frame.size(level);
  Patch out{size, Plane(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height)), {}};
  out.known.resize(out.values.size());
  double sum = 0;
  int count = 0;
  for (int y = 0; y < size.height; ++y) {
    const float* row = as_reference
                           ? frame.reference(level).row<float>(0, y + PreparedFrame::above) + PreparedFrame::left
                           : frame.plane(level).row<float>(0, y);
    for (int x = 0; x < size.width; ++x) {
      if (std::isnan(row[x]) || !frame.plane(level).valid(x, y)) continue;
      out.values[out.at(x, y)] = row[x];
      out.known[out.at(x, y)] = 1;
      sum += static_cast<double>(row[x]);
      ++count;
    }
  }
  const auto mean = static_cast<float>(count > 0 ? sum / count : 0);
  for (std::size_t i = 0; i < out.values.size(); ++i)
    if (out.known[i] != 0) out.values[i] -= mean;
  return out;
}

/// The patch seen through a transform from new places to its own, linear, in a frame of `size`.
Patch moved(const Patch& patch, const Matrix3& inverse_map, Size size) {
  Patch out{size, Plane(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height)), {}};
  out.known.resize(out.values.size());
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const auto p = Map::apply(inverse_map, {x + 0.5, y + 0.5});
      if (!p) continue;
      const double u = p->x - 0.5, v = p->y - 0.5;
      if (!(u >= 0 && v >= 0 && u < patch.size.width - 1 && v < patch.size.height - 1)) continue;
      const int i = static_cast<int>(u), j = static_cast<int>(v);
      if (patch.known[patch.at(i, j)] == 0 || patch.known[patch.at(i + 1, j + 1)] == 0) continue;
      const auto s = static_cast<float>(u - i), t = static_cast<float>(v - j);
      const float upper = patch.values[patch.at(i, j)] * (1 - s) + patch.values[patch.at(i + 1, j)] * s;
      const float lower = patch.values[patch.at(i, j + 1)] * (1 - s) + patch.values[patch.at(i + 1, j + 1)] * s;
      out.values[out.at(x, y)] = upper + t * (lower - upper);
      out.known[out.at(x, y)] = 1;
    }
  return out;
}

/// The patch in a larger plane, falling to 0 along its edges; with a `share`, all the way from its middle, and 0 where
/// that share of its sides ends.
Plane tapered(const Patch& patch, Size size, double share = 0) {
  Plane out(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height));
  const auto fall = [share](int i, int count) {
    const double edge = share > 0 ? count * 0.5 * share : std::max(2.0, count * 0.08);
    const double d = (std::min(i + 0.5, count - i - 0.5) - (share > 0 ? count * 0.5 * (1 - share) : 0)) / edge;
    return static_cast<float>(d >= 1 ? 1 : d <= 0 ? 0 : 0.5 - 0.5 * std::cos(std::numbers::pi * d));
  };
  for (int y = 0; y < patch.size.height; ++y)
    for (int x = 0; x < patch.size.width; ++x)
      out[static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) + static_cast<std::size_t>(x)] =
          patch.values[patch.at(x, y)] * fall(x, patch.size.width) * fall(y, patch.size.height);
  return out;
}

/// Normalised correlation where pixel p of `a` lies on pixel p + (dx, dy) of `b`.
double agreement_at(const Patch& a, const Patch& b, int dx, int dy) {
  const int x0 = std::max(0, -dx), x1 = std::min(a.size.width, b.size.width - dx);
  const int y0 = std::max(0, -dy), y1 = std::min(a.size.height, b.size.height - dy);
  double n = 0, sa = 0, sb = 0, saa = 0, sbb = 0, sab = 0;
  for (int y = y0; y < y1; ++y)
    for (int x = x0; x < x1; ++x) {
      const std::size_t p = a.at(x, y), q = b.at(x + dx, y + dy);
      if (a.known[p] == 0 || b.known[q] == 0) continue;
      const auto u = static_cast<double>(a.values[p]), v = static_cast<double>(b.values[q]);
      n += 1;
      sa += u;
      sb += v;
      saa += u * u;
      sbb += v * v;
      sab += u * v;
    }
  const auto smaller = static_cast<double>(std::min(a.values.size(), b.values.size()));
  if (n < least_overlap * smaller || n < 50) return -1;
  const double va = saa - sa * sa / n, vb = sbb - sb * sb / n;
  if (!(va > 0 && vb > 0)) return -1;
  // Few pixels agree by chance more easily.
  return (sab - sa * sb / n) / std::sqrt(va * vb) - 1.5 / std::sqrt(n);
}

struct Peak {
  int x, y;
  float height;
};

/// The highest places of a periodic plane, apart from one another, as distances from the origin.
std::vector<Peak> peaks_of(Size size, Plane plane, int count, int apart) {
  std::vector<Peak> out;
  for (int k = 0; k < count; ++k) {
    const auto top = static_cast<int>(std::max_element(plane.begin(), plane.end()) - plane.begin());
    const int x = top % size.width, y = top / size.width;
    out.push_back({x > size.width / 2 ? x - size.width : x, y > size.height / 2 ? y - size.height : y,
                   plane[static_cast<std::size_t>(top)]});
    for (int dy = -apart; dy <= apart; ++dy)
      for (int dx = -apart; dx <= apart; ++dx) {
        const int px = (x + dx + size.width) % size.width, py = (y + dy + size.height) % size.height;
        plane[static_cast<std::size_t>(py) * static_cast<std::size_t>(size.width) + static_cast<std::size_t>(px)] =
            -1e9F;
      }
  }
  return out;
}

/// The cross power spectrum with its magnitudes evened out, back in space.
Plane phase_correlation(Size size, const Spectrum& a, const Spectrum& b, const FftPlans& transforms) {
  Spectrum product(a.size());
  double mean = 0;
  for (std::size_t i = 0; i < a.size(); ++i) {
    product[i] = std::conj(a[i]) * b[i];
    mean += static_cast<double>(std::abs(product[i]));
  }
  const auto floor = static_cast<float>(1e-3 * mean / static_cast<double>(a.size()) + 1e-30);
  for (auto& v : product) v /= std::abs(v) + floor;
  return transforms.backward(size, std::move(product));
}

/// Peaks of the phase correlation of two patches: where b lies as seen from a.
std::vector<Start> agreeing_shifts(const Patch& a, const Patch& b, const FftPlans& transforms) {
  const Size size{FftPlans::quick(a.size.width + b.size.width), FftPlans::quick(a.size.height + b.size.height)};
  const Spectrum fa = transforms.forward(size, tapered(a, size));
  const Spectrum fb = transforms.forward(size, tapered(b, size));
  std::vector<Start> out;
  for (const Peak& peak : peaks_of(size, phase_correlation(size, fa, fb, transforms), 8, 2))
    out.push_back({translation(peak.x, peak.y), agreement_at(a, b, peak.x, peak.y)});
  out.push_back({Matrix3::Identity(), agreement_at(a, b, 0, 0)});
  std::ranges::stable_sort(out, [](const Start& p, const Start& q) { return p.agreement > q.agreement; });
  if (out.size() > 3) out.resize(3);
  return out;
}

Matrix3 to_full(const Matrix3& inverse_map, int level) {
  const double scale = std::ldexp(1.0, level);
  return scaling(scale, scale) * inverse_map * scaling(1 / scale, 1 / scale);
}

constexpr int angles = 360;  // over half a turn
constexpr int rings = 192;
constexpr double largest_scale = 2.5;

/// Magnitudes of a patch's spectrum along logarithmic rings, what is coarse held back. `side` is the plane's.
Plane rings_of(const Patch& patch, double share, int side, double innermost, double outermost,
               const FftPlans& transforms) {
  const Spectrum spectrum = transforms.forward({side, side}, tapered(patch, {side, side}, share));
  const int wide = side / 2 + 1;
  const auto magnitude = [&](int i, int j) {
    if (i < 0) {
      i = -i;
      j = -j;
    }
    j = (j + side) % side;
    return std::log1p(std::abs(spectrum[static_cast<std::size_t>(j) * static_cast<std::size_t>(wide) +
                                        static_cast<std::size_t>(std::min(i, wide - 1))]));
  };
  Plane out(static_cast<std::size_t>(angles) * rings);
  for (int r = 0; r < rings; ++r) {
    const double radius = innermost * std::pow(outermost / innermost, static_cast<double>(r) / rings);
    double sum = 0;
    for (int k = 0; k < angles; ++k) {
      const double angle = std::numbers::pi * k / angles;
      const double u = radius * std::cos(angle), v = radius * std::sin(angle);
      const int i = static_cast<int>(std::floor(u)), j = static_cast<int>(std::floor(v));
      const auto s = static_cast<float>(u - i), t = static_cast<float>(v - j);
      const float value = (magnitude(i, j) * (1 - s) + magnitude(i + 1, j) * s) * (1 - t) +
                          (magnitude(i, j + 1) * (1 - s) + magnitude(i + 1, j + 1) * s) * t;
      out[static_cast<std::size_t>(r * angles + k)] = value;
      sum += static_cast<double>(value);
    }
    // What every direction has in common says nothing of the turn; it falls toward the ends so that they do not bind.
    const auto mean = static_cast<float>(sum / angles);
    const auto fall = static_cast<float>(std::sin(std::numbers::pi * (r + 0.5) / rings));
    for (int k = 0; k < angles; ++k) {
      float& v = out[static_cast<std::size_t>(r * angles + k)];
      v = (v - mean) * fall;
    }
  }
  return out;
}

}  // namespace

std::vector<Start> shift_starts(const PreparedFrame& reference, const PreparedFrame& frame, int level,
                                const FftPlans& transforms, const Matrix3& turned) {
  const Patch still = patch_of(reference, level, true);
  Patch other = patch_of(frame, std::min(level, frame.levels() - 1), false);
  const bool straight = turned == Matrix3::Identity();
  if (frame.levels() <= level || !straight) {
    const int halvings = std::max(0, level - frame.levels() + 1);
    const double scale = std::ldexp(1.0, halvings);
    const Size own{std::max(1, other.size.width >> halvings), std::max(1, other.size.height >> halvings)};
    other = moved(other, scaling(scale, scale) * turned, straight ? own : still.size);
  }
  std::vector<Start> starts = agreeing_shifts(still, other, transforms);
  for (Start& start : starts) start.inverse_map = to_full(turned * start.inverse_map, level);
  return starts;
}

std::vector<Start> overlap_starts(const PreparedFrame& reference, const PreparedFrame& frame, int level,
                                  const FftPlans& transforms) {
  level = std::min(level, frame.levels() - 1);
  const Patch still = patch_of(reference, level, true), other = patch_of(frame, level, false);
  const Size size{FftPlans::quick(still.size.width + other.size.width),
                  FftPlans::quick(still.size.height + other.size.height)};
  // Sums over the overlap at every shift: products of masks, samples and squares.
  const auto spectrum = [&](const Patch& patch, int power) {
    Plane plane(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height));
    for (int y = 0; y < patch.size.height; ++y)
      for (int x = 0; x < patch.size.width; ++x)
        if (const std::size_t p = patch.at(x, y); patch.known[p] != 0)
          plane[static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) + static_cast<std::size_t>(x)] =
              power == 0   ? 1.0F
              : power == 1 ? patch.values[p]
                           : patch.values[p] * patch.values[p];
    return transforms.forward(size, plane);
  };
  const Spectrum a[3] = {spectrum(still, 0), spectrum(still, 1), spectrum(still, 2)};
  const Spectrum b[3] = {spectrum(other, 0), spectrum(other, 1), spectrum(other, 2)};
  const auto sums = [&](int i, int j) {
    Spectrum product(a[0].size());
    for (std::size_t k = 0; k < product.size(); ++k) product[k] = std::conj(a[i][k]) * b[j][k];
    return transforms.backward(size, std::move(product));
  };
  const Plane n = sums(0, 0), sa = sums(1, 0), sb = sums(0, 1), saa = sums(2, 0), sbb = sums(0, 2), sab = sums(1, 1);
  const auto least =
      static_cast<float>(least_overlap * static_cast<double>(std::min(still.values.size(), other.values.size())));
  Plane agreement(n.size(), -1);
  for (std::size_t k = 0; k < n.size(); ++k) {
    if (n[k] < least || n[k] < 50) continue;
    const float va = saa[k] - sa[k] * sa[k] / n[k], vb = sbb[k] - sb[k] * sb[k] / n[k];
    if (va > 1e-3F * n[k] && vb > 1e-3F * n[k]) agreement[k] = (sab[k] - sa[k] * sb[k] / n[k]) / std::sqrt(va * vb);
  }
  std::vector<Start> out;
  for (const Peak& peak : peaks_of(size, std::move(agreement), 4, 2))
    out.push_back({to_full(translation(peak.x, peak.y), level), static_cast<double>(peak.height)});
  return out;
}

std::vector<Start> turned_starts(const PreparedFrame& reference, const PreparedFrame& frame, int level, bool scales,
                                 const FftPlans& transforms) {
  level = std::min(level, frame.levels() - 1);
  const Patch still = patch_of(reference, level, true), other = patch_of(frame, level, false);
  const int side =
      FftPlans::quick(2 * std::max({still.size.width, still.size.height, other.size.width, other.size.height}));
  const double innermost = side / 40.0, outermost = side / 2.2;
  const Size polar{angles, FftPlans::quick(2 * rings)};
  const auto spectrum = [&](const Patch& patch, double share) {
    Plane rows = rings_of(patch, share, side, innermost, outermost, transforms);
    rows.resize(static_cast<std::size_t>(polar.width) * static_cast<std::size_t>(polar.height));
    return transforms.forward(polar, rows);
  };
  const double ring = std::log(outermost / innermost) / rings;
  const int farthest = scales ? static_cast<int>(std::log(largest_scale) / ring) : 0;
  // Plain correlation: the rings are smooth, and their magnitudes are what is compared.
  const auto peaks = [&](double share_still, double share_other, int count) {
    const Spectrum a = spectrum(still, share_still), b = spectrum(other, share_other);
    Spectrum product(a.size());
    for (std::size_t i = 0; i < a.size(); ++i) product[i] = std::conj(a[i]) * b[i];
    Plane agreement = transforms.backward(polar, std::move(product));
    for (int y = 0; y < polar.height; ++y) {
      const int away = y > polar.height / 2 ? polar.height - y : y;
      if (away > farthest)
        std::fill_n(agreement.begin() + static_cast<std::ptrdiff_t>(y) * polar.width, polar.width, -1e9F);
    }
    return peaks_of(polar, std::move(agreement), count, 5);
  };
  std::vector<Peak> candidates = peaks(1, 1, 4);
  // Of two scales, the one that shows less shows the other's middle.
  if (scales)
    for (const auto& [mine, theirs] : {std::pair{0.6, 1.0}, {1.0, 0.6}})
      for (const Peak& peak : peaks(mine, theirs, 2)) candidates.push_back(peak);
  std::vector<Start> out;
  const Point from = still.size.width > 0 ? still.size.middle() : Point{}, to = other.size.middle();
  for (const Peak& peak : candidates) {
    // The frame's spectrum is turned as the frame is, and wider where the frame is smaller.
    const double angle = std::numbers::pi * peak.x / angles, scale = std::exp(-peak.y * ring);
    for (const double more : {0.0, std::numbers::pi}) {
      Matrix3 turn = Matrix3::Identity();
      turn(0, 0) = turn(1, 1) = scale * std::cos(angle + more);
      turn(1, 0) = scale * std::sin(angle + more);
      turn(0, 1) = -turn(1, 0);
      const Matrix3 turned = translation(to.x, to.y) * turn * translation(-from.x, -from.y);
      for (const Start& start : shift_starts(reference, frame, level, transforms, turned)) out.push_back(start);
    }
  }
  std::ranges::stable_sort(out, [](const Start& p, const Start& q) { return p.agreement > q.agreement; });
  if (out.size() > 3) out.resize(3);
  return out;
}

}  // namespace fexel

#include "tests/scene.h"

namespace fexel::test {

Scene textured(int count, double lowest, double highest, double contrast, unsigned seed) {
  std::mt19937 random(seed);
  std::uniform_real_distribution<double> unit(0, 1);
  Scene scene;
  double power = 0;
  for (int i = 0; i < count; ++i) {
    const double f = lowest * std::pow(highest / lowest, (i + unit(random)) / count), way = 2 * M_PI * unit(random);
    scene.parts.push_back({f * std::cos(way), f * std::sin(way), 2 * M_PI * unit(random), 1 / std::sqrt(f)});
    power += 0.5 / f;
  }
  for (Wave& w : scene.parts) w.amplitude *= contrast / std::sqrt(power);
  return scene;
}

Image frame_of(const Scene& scene, const Matrix3& lies, Size size, Depth depth, double noise, unsigned seed,
               double gain, double offset) {
  Image out(size.width, size.height, 1, depth);
  const Matrix3 back = lies.inverse();
  std::mt19937 random(seed);
  std::normal_distribution<float> grain(0, static_cast<float>(noise));
  const bool affine = back(2, 0) == 0 && back(2, 1) == 0;
  std::vector<double> row(static_cast<std::size_t>(size.width));
  for (int y = 0; y < size.height; ++y) {
    std::fill(row.begin(), row.end(), scene.mean);
    if (affine) {
      // Along a row a wave's phase grows evenly: a turning arrow, started afresh on every row.
      const Point start = *Map::apply(back, {0.5, y + 0.5});
      for (const Wave& w : scene.parts) {
        const double step = 2 * M_PI * (w.fx * back(0, 0) + w.fy * back(1, 0)) / back(2, 2);
        const double phase = 2 * M_PI * (w.fx * start.x + w.fy * start.y) + w.phase;
        double c = w.amplitude * std::cos(phase), s = w.amplitude * std::sin(phase);
        const double turn_c = std::cos(step), turn_s = std::sin(step);
        for (double& v : row) {
          v += s;
          const double next = c * turn_c - s * turn_s;
          s = s * turn_c + c * turn_s;
          c = next;
        }
      }
    } else {
      for (int x = 0; x < size.width; ++x) {
        const Point p = *Map::apply(back, {x + 0.5, y + 0.5});
        row[static_cast<std::size_t>(x)] = scene.at(p.x, p.y);
      }
    }
    visit_depth(depth, [&](auto sample) {
      using T = decltype(sample);
      for (int x = 0; x < size.width; ++x) {
        const double v =
            gain * row[static_cast<std::size_t>(x)] + offset + static_cast<double>(noise > 0 ? grain(random) : 0);
        if constexpr (std::is_floating_point_v<T>)
          out.row<T>(0, y)[x] = static_cast<T>(v);
        else
          out.row<T>(0, y)[x] = static_cast<T>(std::clamp(std::lround(v), 0L, sizeof(T) == 1 ? 255L : 65535L));
      }
    });
  }
  return out;
}

Matrix3 similarity(Size size, double degrees, double scale, double dx, double dy) {
  const double a = degrees * M_PI / 180;
  Matrix3 m = Matrix3::Identity();
  m(0, 0) = m(1, 1) = scale * std::cos(a);
  m(0, 1) = scale * std::sin(a);
  m(1, 0) = -m(0, 1);
  const Point c = size.middle();
  return translation(c.x + dx, c.y + dy) * m * translation(-c.x, -c.y);
}

double distance_rms(const Matrix3& a, const Matrix3& b, Size size) {
  double sum = 0;
  int count = 0;
  for (double v = 0.05; v < 1; v += 0.1)
    for (double u = 0.05; u < 1; u += 0.1) {
      const Point p{u * size.width, v * size.height};
      const auto pa = Map::apply(a, p), pb = Map::apply(b, p);
      if (!pa || !pb) return 1e9;
      sum += std::pow(distance(*pa, *pb), 2);
      ++count;
    }
  return std::sqrt(sum / count);
}

}  // namespace fexel::test

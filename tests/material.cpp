#include "tests/material.h"

#include "tests/material_tools.h"

namespace fexel::test {
namespace {

Stack ordinary(unsigned seed, int frames) {
  Random random(seed);
  const double noise = random.even(1, 5);
  return waves_stack(usual(seed, random.even(25, 45)), frames, size_of(seed), turning, random, noisy(noise, random));
}

Stack light_changes(unsigned seed, int frames) {
  Random random(seed);
  return waves_stack(usual(seed, 25), frames, size_of(seed), turning, random, [&](Image& frame, int i) {
    const double gain = i == 0 ? 1 : random.even(0.6, 1.4), offset = i == 0 ? 0 : random.even(-20, 20);
    each(frame, [&](double v, int, int) { return 128 + gain * (v - 128) + offset + random.normal(2); });
  });
}

Stack half_overlap(unsigned seed, int frames) {
  Random random(seed);
  const Size size = size_of(seed);
  Stack out;
  const Scene scene = usual(seed);
  for (int i = 0; i < frames; ++i) {
    const double way = random.even(0, 2 * M_PI);
    const double far = i == 0 ? 0 : random.even(0.3, 0.5);
    out.lies.push_back(similarity(size, 0, 1, far * size.width * std::cos(way), far * size.height * std::sin(way)));
    Image frame = waves_seen(scene, out.lies.back(), size);
    add_noise(frame, 2, random);
    out.frames.push_back(bytes(frame));
  }
  return out;
}

Stack large_turns(unsigned seed, int frames) {
  Random random(seed);
  return waves_stack(usual(seed), frames, size_of(seed), {10, 60, 0}, random, noisy(2, random));
}

/// Round, of the middle, dark or bright, on grey.
struct Discs {
  struct Disc {
    Point middle;
    double radius, level;
  };
  Discs(Size size, unsigned seed, double least, double most) {
    Random random(seed);
    const int count = size.width * size.height / 220;
    wide = size.width + 120;
    high = size.height + 120;
    cells.resize(static_cast<std::size_t>((wide / side + 1) * (high / side + 1)));
    for (int i = 0; i < count; ++i) {
      const Disc d{
          {random.even(-60, wide - 60), random.even(-60, high - 60)}, random.even(least, most), random.even(-70, 70)};
      for (int cy = cell(d.middle.y - d.radius); cy <= cell(d.middle.y + d.radius); ++cy)
        for (int cx = cell(d.middle.x - d.radius); cx <= cell(d.middle.x + d.radius); ++cx)
          if (cx >= 0 && cy >= 0 && cx <= wide / side && cy <= high / side) cells[at(cx, cy)].push_back(d);
    }
  }
  static int cell(double v) { return static_cast<int>(std::floor((v + 60) / side)); }
  std::size_t at(int cx, int cy) const { return static_cast<std::size_t>(cy * (wide / side + 1) + cx); }
  double operator()(double x, double y) const {
    const int cx = cell(x), cy = cell(y);
    double v = 120;
    if (cx < 0 || cy < 0 || cx > wide / side || cy > high / side) return v;
    for (const Disc& d : cells[at(cx, cy)])
      if (std::hypot(x - d.middle.x, y - d.middle.y) < d.radius) v = 120 + d.level;
    return v;
  }
  static constexpr int side = 16;
  int wide = 0, high = 0;
  std::vector<std::vector<Disc>> cells;
};

/// Discs with sharp edges; each sample is the mean of `n` x `n` places of its pixel.
Stack discs_stack(unsigned seed, int frames, double least, double most, int n, double noise) {
  Random random(seed);
  const Size size = small_size_of(seed);
  const Discs discs(size, seed, least, most);
  return stack_of(
      frames, size, {6, 0, 0}, random,
      [&](const Matrix3& lies) { return seen([&](double x, double y) { return discs(x, y); }, lies, size, n); },
      noisy(noise, random));
}
Stack sharp_discs(unsigned seed, int frames) {
  return discs_stack(seed, frames, 1.5, 7, 6, 1);
}
/// Edges that are steeper than any pixel, sampled at points.
Stack hard_edges(unsigned seed, int frames) {
  return discs_stack(seed, frames, 4, 16, 1, 0.7);
}

/// A fine scene, averaged over the pixels: much of its detail is finer than they are.
Stack reduced_photo(unsigned seed, int frames) {
  Random random(seed);
  const Size size = small_size_of(seed);
  Scene scene = textured(90, 0.01, 1.6, 35, seed);
  for (Wave& w : scene.parts) w.amplitude *= sinc(w.fx) * sinc(w.fy);
  return waves_stack(scene, frames, size, {6, 0, 0}, random, noisy(0.6, random));
}

double gradient_rms(const Scene& scene) {
  double sum = 0;
  for (const Wave& w : scene.parts) sum += 0.5 * std::pow(2 * M_PI * w.amplitude, 2) * (w.fx * w.fx + w.fy * w.fy) / 2;
  return std::sqrt(sum);
}

Stack weak_texture(unsigned seed, int frames) {
  Random random(seed);
  Scene scene = textured(60, 0.01, 0.15, 10, seed);
  const double factor = random.even(1.7, 3) / gradient_rms(scene), noise = random.even(5, 20);
  for (Wave& w : scene.parts) w.amplitude *= factor;
  return waves_stack(scene, frames, small_size_of(seed), {6, 0, 0}, random, noisy(noise, random));
}

/// What stays where it is on the sensor, of `size`.
Stack fixed_stack(unsigned seed, int frames, double contrast, const std::function<double(double, int, int)>& change,
                  Size size, Random& random, double noise = 2) {
  return waves_stack(usual(seed, contrast), frames, size, {4, 0, 0}, random, [&](Image& frame, int) {
    each(frame, change);
    add_noise(frame, noise, random);
  });
}

Stack fixed_pattern(unsigned seed, int frames) {
  Random random(seed);
  const Size size = small_size_of(seed);
  std::vector<double> pattern(static_cast<std::size_t>(size.width * size.height));
  for (double& v : pattern) v = random.normal(3);
  return fixed_stack(
      seed, frames, 20,
      [&](double v, int x, int y) { return v + pattern[static_cast<std::size_t>(y * size.width + x)]; }, size, random);
}

Stack fixed_columns(unsigned seed, int frames) {
  Random random(seed);
  const Size size = small_size_of(seed);
  std::vector<double> columns(static_cast<std::size_t>(size.width));
  for (double& v : columns) v = random.normal(3);
  return fixed_stack(
      seed, frames, 20, [&](double v, int x, int) { return v + columns[static_cast<std::size_t>(x)]; }, size, random);
}

Stack hot_pixels(unsigned seed, int frames) {
  Random random(seed);
  const Size size = small_size_of(seed);
  std::vector<char> hot(static_cast<std::size_t>(size.width * size.height));
  for (char& h : hot) h = random.even(0, 1) < 0.01 ? 1 : 0;
  return fixed_stack(
      seed, frames, 20,
      [&](double v, int x, int y) { return hot[static_cast<std::size_t>(y * size.width + x)] != 0 ? 230.0 : v; }, size,
      random);
}

Stack dust(unsigned seed, int frames) {
  Random random(seed);
  const Size size = small_size_of(seed);
  std::vector<std::pair<Point, double>> spots;
  for (int i = 0; i < size.width * size.height / 4000; ++i)
    spots.push_back({{random.even(0, size.width), random.even(0, size.height)}, random.even(2, 6)});
  Image shade(size.width, size.height, 1, Depth::f32);
  each(shade, [&](double, int x, int y) {
    double v = 1;
    for (const auto& [middle, radius] : spots) {
      const double d = std::hypot(x + 0.5 - middle.x, y + 0.5 - middle.y) / radius;
      if (d < 3) v *= 1 - 0.35 * std::exp(-0.5 * d * d);
    }
    return v;
  });
  return fixed_stack(
      seed, frames, 20, [&](double v, int x, int y) { return v * static_cast<double>(shade.row<float>(0, y)[x]); },
      size, random);
}

Stack vignetting(unsigned seed, int frames, double contrast) {
  Random random(seed);
  const Size size = small_size_of(seed);
  const double corner = std::hypot(size.width, size.height) / 2;
  return fixed_stack(
      seed, frames, contrast,
      [&](double v, int x, int y) {
        const double d = std::hypot(x + 0.5 - size.width / 2.0, y + 0.5 - size.height / 2.0) / corner;
        return v * (1 - 0.5 * d * d);
      },
      size, random, 1);
}
Stack vignetting_8(unsigned seed, int frames) {
  return vignetting(seed, frames, 8);
}
Stack vignetting_3(unsigned seed, int frames) {
  return vignetting(seed, frames, 3);
}

Stack round_aperture(unsigned seed, int frames) {
  Random random(seed);
  const Size size = small_size_of(seed);
  const double radius = random.even(0.36, 0.5) * std::min(size.width, size.height);
  return fixed_stack(
      seed, frames, random.even(8, 25),
      [&](double v, int x, int y) {
        return std::hypot(x + 0.5 - size.width / 2.0, y + 0.5 - size.height / 2.0) < radius ? v : 8.0;
      },
      size, random);
}

Stack burnt_in_frame(unsigned seed, int frames) {
  Random random(seed);
  const Size size = small_size_of(seed);
  const int wide = 6 + static_cast<int>(random.even(0, 10));
  return fixed_stack(
      seed, frames, random.even(8, 25),
      [&](double v, int x, int y) {
        const int in = std::min({x, y, size.width - 1 - x, size.height - 1 - y});
        if (in < wide) return (x / 7 + y / 5) % 2 == 0 ? 240.0 : 15.0;
        if (y > size.height - wide - 22 && y < size.height - wide - 8 && x > 40 && x < 160)
          return (x / 3 * 7 + y / 4 * 5) % 3 == 0 ? 250.0 : 10.0;
        return v;
      },
      size, random);
}

Stack periodic(unsigned seed, int frames, int defects) {
  Random random(seed);
  const Size size = small_size_of(seed);
  const double period = random.even(12, 26), way = random.even(0, M_PI / 2);
  const double u = std::cos(way) / period, v = std::sin(way) / period;
  Scene scene;
  for (const double more : {1.0, 2.0}) {
    scene.parts.push_back({more * u, more * v, random.even(0, 6), 30 / more});
    scene.parts.push_back({-more * v, more * u, random.even(0, 6), 30 / more});
  }
  std::vector<Point> spots;
  for (int i = 0; i < defects; ++i)
    spots.push_back({random.even(60, size.width - 60.0), random.even(60, size.height - 60.0)});
  return stack_of(
      frames, size, {30, 0, 0}, random,
      [&](const Matrix3& lies) {
        Image out = waves_seen(scene, lies, size);
        each(out, [&](double value, int x, int y) {
          const Point p = *Map::apply(lies.inverse(), {x + 0.5, y + 0.5});
          for (const Point s : spots)
            value += 60 * std::exp(-0.5 * (std::pow(p.x - s.x, 2) + std::pow(p.y - s.y, 2)) / 9);
          return value;
        });
        return out;
      },
      noisy(3, random));
}
Stack pure_periodic(unsigned seed, int frames) {
  return periodic(seed, frames, 0);
}
Stack defective_periodic(unsigned seed, int frames) {
  return periodic(seed, frames, 5);
}

/// Frames that move as the model does not.
Stack turned_by(unsigned seed, int frames, double degrees, double scale, double bend) {
  Random random(seed);
  const Size size = size_of(seed);
  Stack out;
  const Scene scene = usual(seed);
  for (int i = 0; i < frames; ++i) {
    Matrix3 m = Matrix3::Identity();
    if (i > 0) {
      m = similarity(size, random.even(0, 1) < 0.5 ? degrees : -degrees, scale, random.even(-6, 6), random.even(-6, 6));
      const Point c = size.middle();
      Matrix3 bent = Matrix3::Identity();
      bent(2, 0) = bend * random.even(0.5, 1) / size.width;
      bent(2, 1) = -bend * random.even(0.5, 1) / size.height;
      m = m * translation(c.x, c.y) * bent * translation(-c.x, -c.y);
    }
    out.lies.push_back(m / m(2, 2));
    Image frame = waves_seen(scene, out.lies.back(), size);
    add_noise(frame, 2, random);
    out.frames.push_back(bytes(frame));
  }
  return out;
}
Stack turned_1(unsigned seed, int frames) {
  return turned_by(seed, frames, 1, 1, 0);
}
Stack turned_3(unsigned seed, int frames) {
  return turned_by(seed, frames, 3, 1, 0);
}
Stack grown_2(unsigned seed, int frames) {
  return turned_by(seed, frames, 0, 1.02, 0);
}
Stack in_perspective(unsigned seed, int frames) {
  return turned_by(seed, frames, 0, 1, 0.08);
}
Stack slight_turn(unsigned seed, int frames) {
  return turned_by(seed, frames, 0.05, 1, 0);
}

/// A third of the frame lies nearer and moves farther; the truth is the larger part's.
Stack two_depths(unsigned seed, int frames) {
  Random random(seed);
  const Size size = small_size_of(seed);
  const Scene far = usual(seed), near = usual(seed + 5000);
  Stack out;
  out.lies = places(frames, size, {5, 0, 0}, random);
  const double farther = random.even(0.5, 2.5);
  for (int i = 0; i < frames; ++i) {
    const Matrix3 lies = out.lies[static_cast<std::size_t>(i)];
    const Matrix3 nearer = i == 0 ? lies : Matrix3(translation(farther, -farther) * lies);
    Image frame = waves_seen(far, lies, size);
    const Image other = waves_seen(near, nearer, size);
    each(frame, [&](double v, int x, int y) {
      const Point p = *Map::apply(nearer.inverse(), {x + 0.5, y + 0.5});
      return p.x < 0.33 * size.width ? static_cast<double>(other.row<float>(0, y)[x]) : v;
    });
    add_noise(frame, 2, random);
    out.frames.push_back(bytes(frame));
  }
  return out;
}

/// Something passes in front that covers a quarter of the frame.
Stack foreground(unsigned seed, int frames) {
  Random random(seed);
  const Size size = small_size_of(seed);
  const Scene thing = usual(seed + 7000, 50);
  return waves_stack(usual(seed, 25), frames, size, turning, random, [&](Image& frame, int i) {
    const Point middle{size.width * (0.25 + 0.1 * i) + random.even(-20, 20), size.height * random.even(0.3, 0.7)};
    const Image other = waves_seen(thing, translation(middle.x, middle.y), size);
    each(frame, [&](double v, int x, int y) {
      const bool covered = std::hypot((x - middle.x) / (0.28 * size.width), (y - middle.y) / (0.28 * size.height)) < 1;
      return (covered ? static_cast<double>(other.row<float>(0, y)[x]) : v) + random.normal(2);
    });
  });
}

Stack smooth(unsigned seed, int frames) {
  Random random(seed);
  const Size size = small_size_of(seed);
  return waves_stack(textured(30, 0.003, 0.02, 40, seed), frames, size, {8, 0, 0}, random, noisy(2, random));
}

Stack something_else(unsigned seed, int frames) {
  Random random(seed);
  const Size size = small_size_of(seed);
  const double lowest = random.even(0.003, 0.02), highest = lowest * random.even(3, 12);
  Stack out;
  out.matchable = false;
  for (int i = 0; i < frames; ++i) {
    out.lies.push_back(Matrix3::Identity());
    Image frame = waves_seen(textured(40, lowest, std::min(0.25, highest), 35, seed * 31 + static_cast<unsigned>(i)),
                             out.lies.back(), size);
    add_noise(frame, 2, random);
    out.frames.push_back(bytes(frame));
  }
  return out;
}

Stack no_overlap(unsigned seed, int frames) {
  Random random(seed);
  const Size size = small_size_of(seed);
  Stack out;
  out.matchable = false;
  const Scene scene = textured(60, random.even(0.004, 0.02), 0.2, 35, seed);
  for (int i = 0; i < frames; ++i) {
    out.lies.push_back(translation(i * 1.3 * size.width, 0));
    Image frame = waves_seen(scene, out.lies.back(), size);
    add_noise(frame, 2, random);
    out.frames.push_back(bytes(frame));
  }
  return out;
}

Stack half_turns(unsigned seed, int frames) {
  Random random(seed);
  const Size size = small_size_of(seed);
  const Scene scene = textured(40, 0.005, random.even(0.03, 0.2), 35, seed);
  Stack out;
  for (int i = 0; i < frames; ++i) {
    out.lies.push_back(i == 0
                           ? Matrix3(Matrix3::Identity())
                           : similarity(size, 180 + random.even(-4, 4), 1, random.even(-15, 15), random.even(-15, 15)));
    Image frame = waves_seen(scene, out.lies.back(), size);
    add_noise(frame, 2, random);
    out.frames.push_back(bytes(frame));
  }
  return out;
}

Stack strong_jpeg(unsigned seed, int frames) {
  Random random(seed);
  return waves_stack(usual(seed, 20), frames, small_size_of(seed), {6, 0, 0}, random, [&](Image& frame, int) {
    add_noise(frame, 2, random);
    compress(frame, 3);
  });
}

Stack few_photons(unsigned seed, int frames) {
  Random random(seed);
  return waves_stack(usual(seed, 35), frames, small_size_of(seed), {6, 0, 0}, random, [&](Image& frame, int) {
    const double photons = 6.0 / 128;
    each(frame, [&](double v, int, int) { return 5 * random.counts(std::max(0.0, v) * photons); });
  });
}

Stack blurred(unsigned seed, int frames) {
  Random random(seed);
  const Scene sharp = usual(seed);
  Scene soft = sharp;
  for (Wave& w : soft.parts) w.amplitude *= std::exp(-2 * std::pow(M_PI * 2, 2) * (w.fx * w.fx + w.fy * w.fy));
  Stack out;
  const Size size = small_size_of(seed);
  out.lies = places(frames, size, turning, random);
  for (int i = 0; i < frames; ++i) {
    Image frame = waves_seen(i == 0 ? sharp : soft, out.lies[static_cast<std::size_t>(i)], size);
    add_noise(frame, 2, random);
    out.frames.push_back(bytes(frame));
  }
  return out;
}

constexpr Material all[] = {
    {"ordinary", Motion::rigid, 4, true, ordinary},
    {"light changes", Motion::rigid, 4, true, light_changes},
    {"half overlap", Motion::translation, 4, true, half_overlap},
    {"turns up to 60 degrees", Motion::rigid, 4, true, large_turns},
    {"blurred frames", Motion::rigid, 4, true, blurred},
    {"sharp discs", Motion::translation, 4, false, sharp_discs},
    {"hard edges", Motion::translation, 4, false, hard_edges},
    {"reduced photographs", Motion::translation, 4, false, reduced_photo},
    {"weak texture", Motion::translation, 4, false, weak_texture},
    {"fixed pattern", Motion::translation, 14, false, fixed_pattern},
    {"fixed columns", Motion::translation, 6, false, fixed_columns},
    {"hot pixels", Motion::translation, 6, false, hot_pixels},
    {"dust", Motion::translation, 6, false, dust},
    {"vignetting, contrast 8", Motion::translation, 6, false, vignetting_8},
    {"vignetting, contrast 3", Motion::translation, 6, false, vignetting_3},
    {"round aperture", Motion::translation, 4, false, round_aperture},
    {"burnt-in frame", Motion::translation, 4, false, burnt_in_frame},
    {"periodic", Motion::translation, 4, false, pure_periodic},
    {"periodic with defects", Motion::translation, 4, false, defective_periodic},
    {"translation under 0.05 degrees", Motion::translation, 4, false, slight_turn},
    {"translation under 1 degree", Motion::translation, 4, false, turned_1},
    {"translation under 3 degrees", Motion::translation, 4, false, turned_3},
    {"translation under scale 1.02", Motion::translation, 4, false, grown_2},
    {"rigid under scale 1.02", Motion::rigid, 4, false, grown_2},
    {"translation under perspective", Motion::translation, 4, false, in_perspective},
    {"affine under perspective", Motion::affine, 4, false, in_perspective},
    {"two depths", Motion::translation, 4, false, two_depths},
    {"foreground", Motion::rigid, 4, false, foreground},
    {"smooth", Motion::translation, 4, false, smooth},
    {"something else", Motion::rigid, 5, false, something_else},
    {"something else, projective", Motion::projective, 4, false, something_else},
    {"no overlap", Motion::rigid, 4, false, no_overlap},
    {"half turns", Motion::rigid, 4, false, half_turns},
    {"strong compression", Motion::translation, 4, false, strong_jpeg},
    {"few photons", Motion::translation, 4, false, few_photons},
};

}  // namespace

std::span<const Material> materials() {
  return all;
}

}  // namespace fexel::test

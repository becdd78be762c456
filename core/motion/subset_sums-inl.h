// The vector code of subset_sums.cpp, compiled once for each instruction set.
#if defined(FEXEL_MOTION_SUBSET_SUMS_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_MOTION_SUBSET_SUMS_INL_H
#undef FEXEL_MOTION_SUBSET_SUMS_INL_H
#else
#define FEXEL_MOTION_SUBSET_SUMS_INL_H
#endif

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {
namespace hn = hwy::HWY_NAMESPACE;

using Lane = hn::CappedTag<float, subset_lanes>;
using Whole = hn::RebindToSigned<Lane>;
using Floats = hn::Vec<Lane>;

/// Weights of the cubic spline's four coefficients for a place that lies t behind the second.
template <class V>
HWY_INLINE void SplineWeights(V t, V (&w)[4]) {
  const Lane d;
  const V sixth = hn::Set(d, 1.0F / 6), one = hn::Set(d, 1.0F), half = hn::Set(d, 0.5F),
          two_thirds = hn::Set(d, 2.0F / 3);
  const V s = hn::Sub(one, t), tt = hn::Mul(t, t), ss = hn::Mul(s, s);
  w[0] = hn::Mul(sixth, hn::Mul(ss, s));
  w[3] = hn::Mul(sixth, hn::Mul(tt, t));
  w[1] = hn::MulAdd(tt, hn::Sub(hn::Mul(half, t), one), two_thirds);
  w[2] = hn::MulAdd(ss, hn::Sub(hn::Mul(half, s), one), two_thirds);
}

void ReadSubset(const SplineCoefficients& from, std::ptrdiff_t column, std::ptrdiff_t row, const float* wx,
                const float* dx, const float* wy, const float* dy, const SubsetRows& to) {
  const Lane d;
  const int lanes = static_cast<int>(hn::Lanes(d));
  Floats vx[4], vdx[4], vy[4], vdy[4];
  for (int k = 0; k < 4; ++k) {
    vx[k] = hn::Set(d, wx[k]);
    vdx[k] = hn::Set(d, dx[k]);
    vy[k] = hn::Set(d, wy[k]);
    vdy[k] = hn::Set(d, dy[k]);
  }
  for (int y = 0; y < to.size; ++y) {
    const float* first = from.origin + (row + y - 1) * from.stride + column - 1;
    for (int x = 0; x < to.stride; x += lanes) {
      Floats value = hn::Zero(d), across = value, down = value;
      for (int j = 0; j < 4; ++j) {
        const float* p = first + j * from.stride + x;
        Floats plain = hn::Zero(d), slope = plain;
        for (int k = 0; k < 4; ++k) {
          const Floats c = hn::LoadU(d, p + k);
          plain = hn::MulAdd(vx[k], c, plain);
          slope = hn::MulAdd(vdx[k], c, slope);
        }
        value = hn::MulAdd(vy[j], plain, value);
        across = hn::MulAdd(vy[j], slope, across);
        down = hn::MulAdd(vdy[j], plain, down);
      }
      const std::ptrdiff_t at = static_cast<std::ptrdiff_t>(y) * to.stride + x;
      hn::StoreU(value, d, to.value + at);
      hn::StoreU(across, d, to.across + at);
      hn::StoreU(down, d, to.down + at);
    }
  }
}

float WeighSubset(const SubsetSamples& read, float per_count, const SubsetRows& to) {
  const Lane d;
  const std::ptrdiff_t cells = static_cast<std::ptrdiff_t>(to.size) * to.stride;
  const auto lanes = static_cast<std::ptrdiff_t>(hn::Lanes(d));
  // About a value of the subset, so that the sum is exact enough whatever the light.
  const Floats about = hn::Set(d, read.value[0]);
  Floats sum = hn::Zero(d);
  for (std::ptrdiff_t i = 0; i < cells; i += lanes)
    sum = hn::MulAdd(hn::LoadU(d, to.weight + i), hn::Sub(hn::LoadU(d, read.value + i), about), sum);
  const float mean = read.value[0] + per_count * hn::GetLane(hn::SumOfLanes(d, sum));
  const Floats off = hn::Set(d, mean);
  for (std::ptrdiff_t i = 0; i < cells; i += lanes) {
    const Floats w = hn::LoadU(d, to.weight + i);
    hn::StoreU(hn::Mul(w, hn::Sub(hn::LoadU(d, read.value + i), off)), d, to.value + i);
    hn::StoreU(hn::Mul(w, hn::LoadU(d, read.across + i)), d, to.across + i);
    hn::StoreU(hn::Mul(w, hn::LoadU(d, read.down + i)), d, to.down + i);
  }
  return mean;
}

void Moments(const SubsetRows& rows, float* out) {
  using M = SubsetMoments;
  const Lane d;
  const int lanes = static_cast<int>(hn::Lanes(d));
  const float middle = 0.5F * static_cast<float>(rows.size - 1);
  // In two passes, so that all sums stay in registers.
  {
    Floats s[M::aa];
    for (Floats& v : s) v = hn::Zero(d);
    for (int y = 0; y < rows.size; ++y) {
      const Floats vy = hn::Set(d, static_cast<float>(y) - middle);
      for (int x = 0; x < rows.stride; x += lanes) {
        const std::ptrdiff_t at = static_cast<std::ptrdiff_t>(y) * rows.stride + x;
        const Floats vx = hn::Iota(d, static_cast<float>(x) - middle);
        const Floats v = hn::LoadU(d, rows.value + at), a = hn::LoadU(d, rows.across + at),
                     b = hn::LoadU(d, rows.down + at);
        const Floats va = hn::Mul(v, a), vb = hn::Mul(v, b);
        s[M::vv] = hn::MulAdd(v, v, s[M::vv]);
        s[M::gx] = hn::Add(s[M::gx], a);
        s[M::gxx] = hn::MulAdd(a, vx, s[M::gxx]);
        s[M::gxy] = hn::MulAdd(a, vy, s[M::gxy]);
        s[M::gy] = hn::Add(s[M::gy], b);
        s[M::gyx] = hn::MulAdd(b, vx, s[M::gyx]);
        s[M::gyy] = hn::MulAdd(b, vy, s[M::gyy]);
        s[M::vgx] = hn::Add(s[M::vgx], va);
        s[M::vgxx] = hn::MulAdd(va, vx, s[M::vgxx]);
        s[M::vgxy] = hn::MulAdd(va, vy, s[M::vgxy]);
        s[M::vgy] = hn::Add(s[M::vgy], vb);
        s[M::vgyx] = hn::MulAdd(vb, vx, s[M::vgyx]);
        s[M::vgyy] = hn::MulAdd(vb, vy, s[M::vgyy]);
      }
    }
    for (int k = 0; k < M::aa; ++k) out[k] = hn::GetLane(hn::SumOfLanes(d, s[k]));
  }
  Floats s[M::how_many - M::aa];
  for (Floats& v : s) v = hn::Zero(d);
  for (int y = 0; y < rows.size; ++y) {
    const Floats vy = hn::Set(d, static_cast<float>(y) - middle);
    for (int x = 0; x < rows.stride; x += lanes) {
      const std::ptrdiff_t at = static_cast<std::ptrdiff_t>(y) * rows.stride + x;
      const Floats vx = hn::Iota(d, static_cast<float>(x) - middle);
      const Floats a = hn::LoadU(d, rows.across + at), b = hn::LoadU(d, rows.down + at);
      const Floats squares[3] = {hn::Mul(a, a), hn::Mul(a, b), hn::Mul(b, b)};
      for (int k = 0; k < 3; ++k) {
        Floats* to = s + 6 * k;
        const Floats q = squares[k], qx = hn::Mul(q, vx), qy = hn::Mul(q, vy);
        to[0] = hn::Add(to[0], q);
        to[1] = hn::Add(to[1], qx);
        to[2] = hn::Add(to[2], qy);
        to[3] = hn::MulAdd(qx, vx, to[3]);
        to[4] = hn::MulAdd(qx, vy, to[4]);
        to[5] = hn::MulAdd(qy, vy, to[5]);
      }
    }
  }
  for (int k = M::aa; k < M::how_many; ++k) out[k] = hn::GetLane(hn::SumOfLanes(d, s[k - M::aa]));
}

void Match(const SubsetRows& rows, const SplineCoefficients& frame, const SubsetPlace& place, float offset,
           float* out) {
  using M = MatchSums;
  const Lane d;
  const Whole i;
  const int lanes = static_cast<int>(hn::Lanes(d));
  const float middle = 0.5F * static_cast<float>(rows.size - 1);
  // What is added in the loop stays small, so that floats carry it to a millionth of a pixel.
  const double column = std::floor(place.x0), row = std::floor(place.y0);
  const float* base =
      frame.origin + static_cast<std::ptrdiff_t>(row) * frame.stride + static_cast<std::ptrdiff_t>(column);
  const auto begin_x = static_cast<float>(place.x0 - column), begin_y = static_cast<float>(place.y0 - row);
  const auto stride = static_cast<std::int32_t>(frame.stride);
  const Floats off = hn::Set(d, offset);
  Floats g1 = hn::Zero(d), gg = g1, vg = g1, jg[6] = {g1, g1, g1, g1, g1, g1};
  for (int y = 0; y < rows.size; ++y) {
    const float yy = static_cast<float>(y) - middle;
    const Floats vy = hn::Set(d, yy);
    const Floats row_x = hn::Set(d, begin_x + place.xy * yy), row_y = hn::Set(d, begin_y + place.yy * yy);
    for (int x = 0; x < rows.stride; x += lanes) {
      const std::ptrdiff_t at = static_cast<std::ptrdiff_t>(y) * rows.stride + x;
      const Floats w = hn::LoadU(d, rows.weight + at);
      // What is behind the subset reads on; its weight is 0.
      const Floats vx = hn::Iota(d, static_cast<float>(x) - middle);
      const Floats px = hn::MulAdd(hn::Set(d, place.xx), vx, row_x), py = hn::MulAdd(hn::Set(d, place.yx), vx, row_y);
      const Floats fx = hn::Floor(px), fy = hn::Floor(py);
      const auto cx = hn::ConvertTo(i, fx), cy = hn::ConvertTo(i, fy);
      Floats wx[4], wy[4];
      SplineWeights(hn::Sub(px, fx), wx);
      SplineWeights(hn::Sub(py, fy), wy);
      // Pixels side by side in a row of the frame, but for a stretch or a turn that skips one now and then.
      const auto along = hn::Sub(cx, hn::Iota(i, 0));
      const std::int32_t x0 = hn::GetLane(along), y0 = hn::GetLane(cy);
      const auto skip_x = hn::Sub(along, hn::Set(i, x0)), skip_y = hn::Sub(cy, hn::Set(i, y0));
      Floats g = hn::Zero(d);
      if (hn::AllTrue(i, hn::Eq(hn::Or(skip_x, skip_y), hn::Zero(i)))) {
        const float* p = base + static_cast<std::ptrdiff_t>(y0 - 1) * frame.stride + (x0 - 1);
        for (int j = 0; j < 4; ++j, p += frame.stride) {
          Floats line = hn::Mul(wx[0], hn::LoadU(d, p));
          line = hn::MulAdd(wx[1], hn::LoadU(d, p + 1), line);
          line = hn::MulAdd(wx[2], hn::LoadU(d, p + 2), line);
          line = hn::MulAdd(wx[3], hn::LoadU(d, p + 3), line);
          g = hn::MulAdd(wy[j], line, g);
        }
      } else {
        const std::int32_t least_x = x0 + hn::GetLane(hn::MinOfLanes(i, skip_x)),
                           least_y = y0 + hn::GetLane(hn::MinOfLanes(i, skip_y));
        const auto one_x = hn::Sub(along, hn::Set(i, least_x)), one_y = hn::Sub(cy, hn::Set(i, least_y));
        if (hn::AllTrue(i, hn::Lt(hn::Max(one_x, one_y), hn::Set(i, 2)))) {
          // Each lane has one of two neighbours.
          const auto next_x = hn::RebindMask(d, hn::Gt(one_x, hn::Zero(i))),
                     next_y = hn::RebindMask(d, hn::Gt(one_y, hn::Zero(i)));
          const float* p = base + static_cast<std::ptrdiff_t>(least_y - 1) * frame.stride + (least_x - 1);
          Floats before = hn::Zero(d);
          for (int j = 0; j < 5; ++j, p += frame.stride) {
            const Floats c0 = hn::LoadU(d, p), c1 = hn::LoadU(d, p + 1), c2 = hn::LoadU(d, p + 2),
                         c3 = hn::LoadU(d, p + 3), c4 = hn::LoadU(d, p + 4);
            Floats line = hn::Mul(wx[0], hn::IfThenElse(next_x, c1, c0));
            line = hn::MulAdd(wx[1], hn::IfThenElse(next_x, c2, c1), line);
            line = hn::MulAdd(wx[2], hn::IfThenElse(next_x, c3, c2), line);
            line = hn::MulAdd(wx[3], hn::IfThenElse(next_x, c4, c3), line);
            if (j > 0) g = hn::MulAdd(wy[j - 1], hn::IfThenElse(next_y, line, before), g);
            before = line;
          }
        } else {
          auto from = hn::Add(hn::Mul(hn::Sub(cy, hn::Set(i, 1)), hn::Set(i, stride)), hn::Sub(cx, hn::Set(i, 1)));
          for (int j = 0; j < 4; ++j, from = hn::Add(from, hn::Set(i, stride))) {
            Floats line = hn::Mul(wx[0], hn::GatherIndex(d, base, from));
            line = hn::MulAdd(wx[1], hn::GatherIndex(d, base + 1, from), line);
            line = hn::MulAdd(wx[2], hn::GatherIndex(d, base + 2, from), line);
            line = hn::MulAdd(wx[3], hn::GatherIndex(d, base + 3, from), line);
            g = hn::MulAdd(wy[j], line, g);
          }
        }
      }
      g = hn::Mul(w, hn::Sub(g, off));
      const Floats ag = hn::Mul(hn::LoadU(d, rows.across + at), g), bg = hn::Mul(hn::LoadU(d, rows.down + at), g);
      g1 = hn::Add(g1, g);
      gg = hn::MulAdd(g, g, gg);
      vg = hn::MulAdd(hn::LoadU(d, rows.value + at), g, vg);
      jg[0] = hn::Add(jg[0], ag);
      jg[1] = hn::MulAdd(ag, vx, jg[1]);
      jg[2] = hn::MulAdd(ag, vy, jg[2]);
      jg[3] = hn::Add(jg[3], bg);
      jg[4] = hn::MulAdd(bg, vx, jg[4]);
      jg[5] = hn::MulAdd(bg, vy, jg[5]);
    }
  }
  const auto sum = [&](Floats v) { return hn::GetLane(hn::SumOfLanes(d, v)); };
  out[M::g] = sum(g1);
  out[M::gg] = sum(gg);
  out[M::vg] = sum(vg);
  for (int k = 0; k < 6; ++k) out[M::jg + k] = sum(jg[k]);
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();
#endif

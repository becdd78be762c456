// The vector code of prefilter.cpp, compiled once for each instruction set.
#if defined(FEXEL_RESAMPLE_PREFILTER_INL_H) == defined(HWY_TARGET_TOGGLE)
#ifdef FEXEL_RESAMPLE_PREFILTER_INL_H
#undef FEXEL_RESAMPLE_PREFILTER_INL_H
#else
#define FEXEL_RESAMPLE_PREFILTER_INL_H
#endif

#include "resample/vectors-inl.h"

HWY_BEFORE_NAMESPACE();
namespace fexel {
namespace HWY_NAMESPACE {

/// Second differences of lines of samples, filtered there and back with the pole, are what has to be added to the
/// samples; where a line is flat, that is nothing. `D` are lines that stand side by side.
template <class D>
struct Change {
  using V = hn::Vec<D>;
  static constexpr D lanes{};

  HWY_INLINE V pole() const { return hn::Set(lanes, spline_pole); }
  HWY_INLINE V there(V before, V here, V behind, V last) const {
    return hn::MulAdd(pole(), last, hn::Add(hn::Sub(before, here), hn::Sub(behind, here)));
  }
  HWY_INLINE V turn(V change) const { return hn::Mul(change, hn::Set(lanes, 1 / (1 - spline_pole * spline_pole))); }
  HWY_INLINE V back(V change, V last) const { return hn::MulAdd(pole(), last, change); }
};

/// `lines` lines of `count` samples side by side, with one sample more at both ends: the coefficients take the place of
/// samples [1, count], and `work` holds count x lines numbers.
void FilterLines(float* samples, int count, float* work) {
  constexpr std::size_t lanes = hn::MaxLanes(floats), vectors = lines_at_once / lanes;
  const Change<Floats> change{};
  F last[vectors], before[vectors], here[vectors];
  for (std::size_t v = 0; v < vectors; ++v) {
    last[v] = hn::Zero(floats);
    before[v] = hn::Load(floats, samples + v * lanes);
    here[v] = hn::Load(floats, samples + lines_at_once + v * lanes);
  }
  for (int k = 0; k < count; ++k)
    for (std::size_t v = 0; v < vectors; ++v) {
      const auto behind = hn::Load(floats, samples + (k + 2) * lines_at_once + v * lanes);
      last[v] = change.there(before[v], here[v], behind, last[v]);
      before[v] = here[v];
      here[v] = behind;
      hn::Store(last[v], floats, work + k * lines_at_once + v * lanes);
    }
  for (std::size_t v = 0; v < vectors; ++v) last[v] = change.turn(last[v]);
  for (int k = count - 1; k >= 0; --k)
    for (std::size_t v = 0; v < vectors; ++v) {
      if (k < count - 1) last[v] = change.back(hn::Load(floats, work + k * lines_at_once + v * lanes), last[v]);
      float* sample = samples + (k + 1) * lines_at_once + v * lanes;
      hn::Store(hn::MulAdd(change.pole(), last[v], hn::Load(floats, sample)), floats, sample);
    }
}

/// Rows of samples, as many as lines stand side by side, are turned to stand so; `more` are the samples that they go on
/// by at both ends.
template <class T>
void InterleaveRows(const T* const* rows, int count, int more, const int* before, const int* behind, float* line,
                    float* out) {
  const std::ptrdiff_t all = count + 2 * more, stride = all + 4;
  constexpr int lanes = static_cast<int>(hn::MaxLanes(floats));
  for (int first = 0; first < lines_at_once; first += 4) {
    for (int r = 0; r < 4; ++r) {
      const T* row = rows[first + r];
      float* at = line + r * stride;
      for (int i = 0; i < more; ++i) at[i] = static_cast<float>(row[before[i]]);
      int i = 0;
      for (; i + lanes <= count; i += lanes) hn::StoreU(load(row + i), floats, at + more + i);
      for (; i < count; ++i) at[more + i] = static_cast<float>(row[i]);
      for (i = 0; i < more; ++i) at[more + count + i] = static_cast<float>(row[behind[i]]);
    }
    for (std::ptrdiff_t x = 0; x < all; x += 4)
      turn_square(line + x, stride, out + x * lines_at_once + first, lines_at_once);
  }
}

/// Writes `count` samples of each line to its row.
void WriteLines(const float* in, int count, float* const* rows, int row_count) {
  for (int first = 0; first < row_count; first += 4) {
    int x = 0;
    if (first + 4 <= row_count) {
      const std::ptrdiff_t stride = rows[first + 1] - rows[first];
      for (; x + 4 <= count; x += 4)
        turn_square(in + x * lines_at_once + first, lines_at_once, rows[first] + x, stride);
    }
    for (; x < count; ++x)
      for (int r = first; r < std::min(first + 4, row_count); ++r) rows[r][x] = in[x * lines_at_once + r];
  }
}

void FilterRows(const Image& samples, int band, int y, int rows, const LineEnds& ends, PrefilterBuffers& buffers,
                Image& out) {
  const int more = prefilter_margin + 1, width = samples.width();
  const auto all = static_cast<std::size_t>(width + 2 * more);
  buffers.line.resize(4 * (all + 4));
  buffers.lines.resize((all + 4) * lines_at_once);
  buffers.work.resize(all * lines_at_once);
  visit_depth(samples.depth(), [&](auto sample) {
    using T = decltype(sample);
    const T* in[lines_at_once];
    for (int r = 0; r < lines_at_once; ++r) in[r] = samples.row<T>(band, y + std::min(r, rows - 1));
    InterleaveRows(in, width, more, ends.before.data(), ends.behind.data(), buffers.line.data(), buffers.lines.data());
  });
  FilterLines(buffers.lines.data(), width + 2 * prefilter_margin, buffers.work.data());
  float* to[lines_at_once];
  for (int r = 0; r < rows; ++r) to[r] = out.row<float>(band, y + r + prefilter_margin);
  WriteLines(buffers.lines.data() + lines_at_once, width + 2 * prefilter_margin, to, rows);
}

/// Columns [x, x + the lanes' number x `vectors`) of a band, whose rows are `stride` apart, `height` of them; `above`
/// and `below` are the rows before and behind them.
template <class D>
class ColumnFilter {
 public:
  ColumnFilter(float* first, std::ptrdiff_t stride, int height, int columns, const float* above, const float* below,
               float* work)
      : first_(first), stride_(stride), height_(height), columns_(columns), below_(below), work_(work) {
    std::copy(above, above + columns, before_);
    std::fill(last_, last_ + columns, 0.0F);
  }
  void run() {
    for (int y = 0; y < height_; y += column_strip) {
      const int end = std::min(y + column_strip, height_), seen = std::min(end + column_peek, height_);
      there(y, end, seen);
      back(y, end, seen);
    }
  }

 private:
  using V = hn::Vec<D>;
  float* row(int y) const { return first_ + y * stride_; }
  /// Down from row y to `seen`; what row `end` goes on from is kept.
  void there(int y, int end, int seen) {
    alignas(64) float last[max_columns], next[max_columns];
    std::copy(last_, last_ + columns_, last);
    for (int r = y; r < seen; ++r) {
      const float* before = r == y ? before_ : row(r - 1);
      const float* behind = r + 1 < height_ ? row(r + 1) : below_;
      const float* here = row(r);
      float* out = work_ + static_cast<std::ptrdiff_t>(r - y) * max_columns;
      for (int x = 0; x < columns_; x += step) {
        const auto value = change_.there(hn::LoadU(lanes, before + x), hn::LoadU(lanes, here + x),
                                         hn::LoadU(lanes, behind + x), hn::LoadU(lanes, last + x));
        hn::StoreU(value, lanes, last + x);
        hn::StoreU(value, lanes, out + x);
      }
      if (r != end - 1) continue;
      std::copy(last, last + columns_, last_);
      std::copy(here, here + columns_, next);
    }
    std::copy(next, next + columns_, before_);
  }
  /// And up again, which changes rows [y, end).
  void back(int y, int end, int seen) {
    alignas(64) float last[max_columns];
    for (int r = seen - 1; r >= y; --r) {
      const float* in = work_ + static_cast<std::ptrdiff_t>(r - y) * max_columns;
      float* out = row(r);
      for (int x = 0; x < columns_; x += step) {
        const auto here = hn::LoadU(lanes, in + x);
        const auto value = r == seen - 1 ? change_.turn(here) : change_.back(here, hn::LoadU(lanes, last + x));
        hn::StoreU(value, lanes, last + x);
        if (r < end) hn::StoreU(hn::MulAdd(change_.pole(), value, hn::LoadU(lanes, out + x)), lanes, out + x);
      }
    }
  }

  static constexpr D lanes{};
  static constexpr int step = static_cast<int>(hn::MaxLanes(D()));
  Change<D> change_{};
  float* first_;
  std::ptrdiff_t stride_;
  int height_, columns_;
  const float* below_;
  float* work_;
  alignas(64) float before_[max_columns], last_[max_columns];
};

void FilterColumns(float* first, std::ptrdiff_t stride, int height, int columns, const float* above, const float* below,
                   float* work) {
  constexpr int step = static_cast<int>(hn::MaxLanes(floats));
  const int whole = columns / step * step;
  if (whole > 0) ColumnFilter<Floats>(first, stride, height, whole, above, below, work).run();
  if (whole < columns)
    ColumnFilter<hn::CappedTag<float, 1>>(first + whole, stride, height, columns - whole, above + whole, below + whole,
                                          work)
        .run();
}

}  // namespace HWY_NAMESPACE
}  // namespace fexel
HWY_AFTER_NAMESPACE();

#endif

#include "stacks/projection.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/error.h"
#include "base/statistics.h"

namespace fexel {
namespace {

/// What is kept of some rows while frames go by.
class Part {
 public:
  Part(Projection what, int width, int rows, int bands, std::size_t frames)
      : what_(what), width_(width), rows_(rows), bands_(bands), counts_(samples()) {
    if (what == Projection::median)
      values_.reserve(frames);
    else
      first_.assign(samples(), start());
    if (what == Projection::deviation || what == Projection::range) second_.assign(samples(), other());
  }

  void add(const Image& rows) {
    std::vector<float>* values = nullptr;
    if (what_ == Projection::median) {
      values = &values_.emplace_back(samples(), std::numeric_limits<float>::quiet_NaN());
    }
    visit_depth(rows.depth(), [&](auto kind) {
      using T = decltype(kind);
      parallel_for(rows_, {}, [&](int y) {
        for (int band = 0; band < bands_; ++band) {
          const T* row = rows.row<T>(band, y);
          const std::size_t begin = at(band, y);
          for (int x = 0; x < width_; ++x) {
            const auto value = static_cast<double>(row[x]);
            if (!std::isfinite(value) || !rows.valid(x, y)) continue;
            const std::size_t i = begin + static_cast<std::size_t>(x);
            if (values)
              (*values)[i] = static_cast<float>(row[x]);
            else
              take(i, value);
            ++counts_[i];
          }
        }
      });
    });
  }

  /// Writes what came of it into rows [top, ...) of the results.
  void finish(Image& picture, Image& counts, int top) const {
    parallel_for(rows_, {}, [&](int y) {
      std::vector<float> some;
      for (int x = 0; x < width_; ++x) {
        bool there = true;
        for (int band = 0; band < bands_; ++band) {
          const std::size_t i = at(band, y) + static_cast<std::size_t>(x);
          const auto value = result(i, some);
          there = there && value.has_value();
          visit_depth(picture.depth(), [&](auto kind) {
            using T = decltype(kind);
            // Least, largest and range of integers are integers.
            picture.row<T>(band, top + y)[x] = static_cast<T>(value.value_or(0));
          });
        }
        counts.row<float>(0, top + y)[x] = static_cast<float>(counts_[at(0, y) + static_cast<std::size_t>(x)]);
        if (!there) picture.set_valid(x, top + y, false);
      }
    });
  }

 private:
  std::size_t samples() const {
    return static_cast<std::size_t>(width_) * static_cast<std::size_t>(rows_) * static_cast<std::size_t>(bands_);
  }
  std::size_t at(int band, int y) const {
    return (static_cast<std::size_t>(band) * static_cast<std::size_t>(rows_) + static_cast<std::size_t>(y)) *
           static_cast<std::size_t>(width_);
  }
  double start() const {
    if (what_ == Projection::least || what_ == Projection::range) return std::numeric_limits<double>::infinity();
    return what_ == Projection::largest ? -std::numeric_limits<double>::infinity() : 0;
  }
  double other() const { return what_ == Projection::range ? -std::numeric_limits<double>::infinity() : 0; }

  void take(std::size_t i, double value) {
    switch (what_) {
      case Projection::mean:
      case Projection::sum:
        first_[i] += value;
        break;
      case Projection::least:
        first_[i] = std::min(first_[i], value);
        break;
      case Projection::largest:
        first_[i] = std::max(first_[i], value);
        break;
      case Projection::range:
        first_[i] = std::min(first_[i], value);
        second_[i] = std::max(second_[i], value);
        break;
      case Projection::deviation: {
        const double off = value - first_[i];
        first_[i] += off / (counts_[i] + 1);
        second_[i] += off * (value - first_[i]);
        break;
      }
      case Projection::median:
        break;
    }
  }

  std::optional<double> result(std::size_t i, std::vector<float>& some) const {
    const int n = counts_[i];
    if (n == 0) return std::nullopt;
    switch (what_) {
      case Projection::mean:
        return first_[i] / n;
      case Projection::range:
        return second_[i] - first_[i];
      case Projection::deviation:
        return n < 2 ? std::nullopt : std::optional(std::sqrt(second_[i] / (n - 1)));
      case Projection::median:
        some.clear();
        for (const auto& frame : values_)
          if (std::isfinite(frame[i])) some.push_back(frame[i]);
        return static_cast<double>(central_median(some));
      default:
        return first_[i];
    }
  }

  Projection what_;
  int width_, rows_, bands_;
  std::vector<int> counts_;
  std::vector<double> first_, second_;
  std::vector<std::vector<float>> values_;
};

/// Bytes that a row takes while frames go by, besides the frame that is read.
double bytes_a_row(const FrameStack& frames, Projection what, std::size_t count) {
  const double samples = static_cast<double>(frames.size().width) * frames.bands();
  if (what == Projection::median) return samples * (4 + 4 * static_cast<double>(count));
  return samples * (what == Projection::deviation || what == Projection::range ? 20 : 12);
}

}  // namespace

const std::vector<std::string>& projection_words() {
  static const std::vector<std::string> words{"mean", "median", "min", "max", "std", "range", "sum"};
  return words;
}

std::vector<std::vector<std::size_t>> groups_of(std::size_t count, int every) {
  std::vector<std::vector<std::size_t>> out;
  for (std::size_t i = 0; i < count; ++i) {
    if (out.empty() || (every > 0 && out.back().size() == static_cast<std::size_t>(every))) out.emplace_back();
    out.back().push_back(i);
  }
  return out;
}

Projected project(const FrameStack& frames, const std::vector<std::size_t>& numbers, Projection what,
                  std::int64_t memory, const Job& job) {
  const Size size = frames.size();
  const bool kept = what == Projection::least || what == Projection::largest || what == Projection::range;
  Projected out;
  out.picture = Image(size.width, size.height, frames.bands(), kept ? frames.depth() : Depth::f32);
  out.picture.make_mask(true);
  out.counts = Image(size.width, size.height, 1, Depth::f32);
  // Of a sample's bytes one frame has as many at most, and what is unpacked of it.
  const double frame_row = static_cast<double>(size.width) * frames.bands() * 8;
  const double results = static_cast<double>(size.width) * size.height * 4 * (frames.bands() + 1);
  const double room = std::max(static_cast<double>(memory) - results, static_cast<double>(memory) / 4);
  const int rows =
      static_cast<int>(std::clamp(std::floor(room / (bytes_a_row(frames, what, numbers.size()) + frame_row)), 1.0,
                                  static_cast<double>(size.height)));
  const int parts = (size.height + rows - 1) / rows;
  std::vector<bool> broken(numbers.size(), false);
  for (int part = 0; part < parts; ++part) {
    const int top = part * rows, bottom = std::min(size.height, top + rows);
    Part sums(what, size.width, bottom - top, frames.bands(), numbers.size());
    for (std::size_t k = 0; k < numbers.size(); ++k) {
      job.check();
      if (broken[k]) continue;
      try {
        const Image rows_now = frames.rows(numbers[k], top, bottom, {job.stop, {}});
        if (kept && rows_now.stated_largest() > 0) out.picture.set_largest(rows_now.stated_largest());
        sums.add(rows_now);
      } catch (const Error& error) {
        // In the first part it is left out; later ones would then be made of other frames.
        if (error.kind() == Error::Kind::cancelled || part > 0) throw;
        broken[k] = true;
        out.notes.push_back(fmt::format("Frame {} is left out: {}", frames.number(numbers[k]), error.message()));
      }
      if (job.progress)
        job.progress((static_cast<double>(part) + static_cast<double>(k + 1) / static_cast<double>(numbers.size())) /
                     parts);
    }
    if (std::ranges::find(broken, false) == broken.end())
      throw input_error("None of these frames can be read.", {}, "Name other pictures.");
    sums.finish(out.picture, out.counts, top);
  }
  out.frames = static_cast<int>(std::ranges::count(broken, false));
  bool whole = true;
  for (int y = 0; y < size.height && whole; ++y)
    for (int x = 0; x < size.width && whole; ++x) whole = out.picture.valid(x, y);
  if (whole) out.picture.drop_mask();
  return out;
}

}  // namespace fexel

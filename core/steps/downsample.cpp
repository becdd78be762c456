#include "steps/downsample.h"

#include <fmt/format.h>

#include "base/error.h"
#include "text/reader.h"

namespace fexel {
namespace {

constexpr int largest_factor = 4096;
const std::vector<std::string> statistic_words = {"first", "mean", "median", "min", "max"};

int reduced_side(int side, int factor, bool partial, const char* where) {
  const int out = partial ? (side + factor - 1) / factor : side / factor;
  if (out < 1)
    throw call_error(fmt::format("The factor {} is more than the {} pixels that there are.", factor, side), where,
                     "Choose a smaller factor, or keep the remainder (\"partial\").");
  return out;
}

double taken(std::vector<float>& values, DownsampleStep::Take take) {
  switch (take) {
    case DownsampleStep::Take::mean: {
      double sum = 0;
      for (const float v : values) sum += v;
      return sum / static_cast<double>(values.size());
    }
    case DownsampleStep::Take::median: {
      const auto middle = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
      std::nth_element(values.begin(), middle, values.end());
      if (values.size() % 2 == 1) return *middle;
      return (static_cast<double>(*std::max_element(values.begin(), middle)) + *middle) / 2;
    }
    case DownsampleStep::Take::min:
      return *std::ranges::min_element(values);
    case DownsampleStep::Take::max:
      return *std::ranges::max_element(values);
    case DownsampleStep::Take::first:
      break;
  }
  return values.front();
}

bool any_valid(const DownsampleStep& step, const Image& input, int x, int y) {
  for (int j = y * step.factor_y; j < std::min((y + 1) * step.factor_y, input.height()); ++j)
    for (int i = x * step.factor_x; i < std::min((x + 1) * step.factor_x, input.width()); ++i)
      if (input.valid(i, j)) return true;
  return false;
}

/// One row of the result. A block's empty pixels do not count, unless all of it is empty.
template <class T>
void reduce_row(const DownsampleStep& step, const Image& input, int band, int y, Image& out) {
  std::vector<float> values;
  const int y0 = y * step.factor_y, y1 = std::min(y0 + step.factor_y, input.height());
  for (int x = 0; x < out.width(); ++x) {
    const int x0 = x * step.factor_x, x1 = std::min(x0 + step.factor_x, input.width());
    values.clear();
    const auto collect = [&](bool empty_too) {
      for (int j = y0; j < y1; ++j)
        for (int i = x0; i < x1; ++i)
          if (empty_too || input.valid(i, j)) values.push_back(static_cast<float>(input.row<T>(band, j)[i]));
    };
    collect(false);
    if (values.empty()) collect(true);
    std::int64_t none = 0;
    out.row<T>(band, y)[x] = to_sample<T>(static_cast<float>(taken(values, step.take)), none);
  }
}

}  // namespace

StepGeometry geometry_of(const DownsampleStep& step, const StepInput& input) {
  const bool partial = step.partial;
  StepGeometry out;
  out.size = {reduced_side(input.size.width, step.factor_x, partial, "/factor"),
              reduced_side(input.size.height, step.factor_y, partial, "/factor")};
  const Matrix3 smaller = scaling(1.0 / step.factor_x, 1.0 / step.factor_y);
  if (step.take == DownsampleStep::Take::first) {
    out.map = Map(translation(0.5, 0.5) * smaller * translation(-0.5, -0.5));
    out.stride = {step.factor_x, step.factor_y};
  } else {
    out.map = Map(smaller);
    out.ends_run = step.factor_x > 1 || step.factor_y > 1;
    // A block that is cut off counts, also where its middle would lie beyond the picture.
    out.all_valid = partial && input.clip.holds({0, 0, input.size.width, input.size.height});
  }
  if (input.pixel)
    out.pixel = PixelSize{input.pixel->x * step.factor_x, input.pixel->y * step.factor_y, input.pixel->unit};
  return out;
}

void read_step(JsonReader& in, DownsampleStep& step) {
  const Json& factor = in.at("factor");
  const auto whole = [&](const Json& value, const std::string& path) {
    const double v = JsonReader::number(value, path, 1, largest_factor);
    if (v != std::floor(v)) JsonReader::refuse(value, path, "a whole number");
    return static_cast<int>(v);
  };
  if (factor.is_array()) {
    if (factor.size() != 2) JsonReader::refuse(factor, in.path("factor"), "a whole number, or two, for x and y");
    step.factor_x = whole(factor[0], in.path("factor") + "/0");
    step.factor_y = whole(factor[1], in.path("factor") + "/1");
  } else {
    step.factor_x = step.factor_y = whole(factor, in.path("factor"));
  }
  if (in.has("take"))
    step.take = static_cast<DownsampleStep::Take>(
        std::ranges::find(statistic_words, in.choice("take", statistic_words)) - statistic_words.begin());
  if (in.has("remainder")) step.partial = in.choice("remainder", {"drop", "partial"}) == "partial";
}

void write_step(Json& out, const DownsampleStep& step) {
  if (step.factor_x == step.factor_y)
    out["factor"] = step.factor_x;
  else
    out["factor"] = {step.factor_x, step.factor_y};
  out["take"] = statistic_words[static_cast<std::size_t>(step.take)];
  out["remainder"] = step.partial ? "partial" : "drop";
}

Image pixels_of(const DownsampleStep& step, const Image& input, const Resampling&, const Job& job, std::int64_t&) {
  Image out(reduced_side(input.width(), step.factor_x, step.partial, "/factor"),
            reduced_side(input.height(), step.factor_y, step.partial, "/factor"), input.bands(), input.depth(),
            Image::Start::unset);
  if (input.has_mask()) out.make_mask(true);
  parallel_for(out.height(), job, [&](int y) {
    for (int band = 0; band < input.bands(); ++band)
      visit_depth(input.depth(), [&](auto sample) { reduce_row<decltype(sample)>(step, input, band, y, out); });
    for (int x = 0; input.has_mask() && x < out.width(); ++x) out.set_valid(x, y, any_valid(step, input, x, y));
  });
  return out;
}

}  // namespace fexel

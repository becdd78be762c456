#include "steps/crop.h"

#include <fmt/format.h>

#include "base/error.h"
#include "resample/coordinates/clip_spans.h"
#include "text/reader.h"

namespace fexel {
namespace {

CropRectangle of_ratio(const CropRatio& crop, Size size) {
  const double ratio = crop.across / crop.down;
  CropRectangle out;
  out.width = size.width;
  out.height = size.height;
  if (size.width > ratio * size.height)
    out.width = std::clamp(static_cast<int>(std::floor(ratio * size.height + 0.5)), 1, size.width);
  else
    out.height = std::clamp(static_cast<int>(std::floor(size.width / ratio + 0.5)), 1, size.height);
  const auto at = std::ranges::find(crop_anchors(), crop.anchor) - crop_anchors().begin();
  out.x = (size.width - out.width) * static_cast<int>(at % 3) / 2;  // whole pixels, so that the crop stays exact
  out.y = (size.height - out.height) * static_cast<int>(at / 3) / 2;
  return out;
}

}  // namespace

const std::vector<std::string>& crop_anchors() {
  static const std::vector<std::string> words = {"top-left", "top",         "top-right", "left",        "centre",
                                                 "right",    "bottom-left", "bottom",    "bottom-right"};
  return words;
}

std::optional<CropRectangle> largest_valid(const Clip& clip, Size size) {
  std::vector<Clip::Span> rows;
  ClipSpans inside(clip, {0, 0, size.width, size.height});
  for (int y = 0; y < size.height; ++y) {
    Clip::Span longest{0, 0};
    for (const auto& span : inside.spans(y))
      if (span.end - span.begin > longest.end - longest.begin) longest = span;
    rows.push_back(longest);
  }
  CropRectangle best;
  double most = 0;
  for (std::size_t top = 0; top < rows.size(); ++top) {
    const double reachable = static_cast<double>(rows.size() - top) * (rows[top].end - rows[top].begin);
    if (reachable <= most) continue;
    int begin = rows[top].begin, end = rows[top].end;
    for (std::size_t bottom = top; bottom < rows.size(); ++bottom) {
      begin = std::max(begin, rows[bottom].begin);
      end = std::min(end, rows[bottom].end);
      if (end <= begin || static_cast<double>(rows.size() - top) * (end - begin) <= most) break;
      const double area = static_cast<double>(end - begin) * static_cast<double>(bottom - top + 1);
      if (area <= most) continue;
      most = area;
      best = {double(begin), double(top), end - begin, static_cast<int>(bottom - top + 1)};
    }
  }
  if (most <= 0) return std::nullopt;
  return best;
}

CropRectangle crop_rectangle(const CropStep& step, const StepInput& input) {
  if (const auto* rectangle = std::get_if<CropRectangle>(&step.what)) return *rectangle;
  if (const auto* ratio = std::get_if<CropRatio>(&step.what)) return of_ratio(*ratio, input.size);
  const auto valid = largest_valid(input.clip, input.size);
  if (!valid)
    throw call_error("No pixel here is free of empty area.", "/to", "Crop by numbers, or change the steps before.");
  return *valid;
}

StepGeometry geometry_of(const CropStep& step, const StepInput& input) {
  const auto r = crop_rectangle(step, input);
  if (r.x >= input.size.width || r.y >= input.size.height || r.x + r.width <= 0 || r.y + r.height <= 0)
    throw call_error(fmt::format("The crop from {}, {} with {} x {} pixels lies outside the picture of {} x {}.", r.x,
                                 r.y, r.width, r.height, input.size.width, input.size.height),
                     r.x >= input.size.width || r.x + r.width <= 0 ? "/x" : "/y",
                     fmt::format("Place it so that it overlaps 0, 0 to {}, {}.", input.size.width, input.size.height));
  return {{r.width, r.height}, input.pixel, Map(translation(-r.x, -r.y))};
}

void begin_step(CropStep& step, const StepInput& input) {
  const int cut_x = input.size.width / 10, cut_y = input.size.height / 10;
  step.what = CropRectangle{double(cut_x), double(cut_y), input.size.width - 2 * cut_x, input.size.height - 2 * cut_y};
}

std::optional<CropStep> fitted_step(const CropStep& step, const StepInput& input) {
  const auto* wanted = std::get_if<CropRectangle>(&step.what);
  if (!wanted) return std::nullopt;
  CropRectangle fitted = *wanted;
  fitted.width = std::min(wanted->width, input.size.width);
  fitted.height = std::min(wanted->height, input.size.height);
  fitted.x = std::clamp(wanted->x, 0.0, static_cast<double>(input.size.width - fitted.width));
  fitted.y = std::clamp(wanted->y, 0.0, static_cast<double>(input.size.height - fitted.height));
  return CropStep{fitted};
}

void read_step(JsonReader& in, CropStep& step) {
  const bool ratio = in.has("ratio") || in.has("anchor");
  const bool to = in.has("to");
  const bool numbers = in.has("x") || in.has("y") || in.has("width") || in.has("height");
  if (ratio + to + numbers != 1)
    throw call_error("A crop is given in one way.", in.path(),
                     "Give x, y, width and height; or ratio (and anchor); or \"to\": \"valid\".");
  if (to) {
    in.choice("to", {"valid"});
    step.what = CropValid{};
  } else if (ratio) {
    CropRatio out;
    const Json& value = in.array("ratio");
    if (value.size() != 2) JsonReader::refuse(value, in.path("ratio"), "two numbers, across and down");
    out.across = JsonReader::number(value[0], in.path("ratio") + "/0", 1e-6, 1e6);
    out.down = JsonReader::number(value[1], in.path("ratio") + "/1", 1e-6, 1e6);
    if (in.has("anchor")) out.anchor = in.choice("anchor", crop_anchors());
    step.what = out;
  } else {
    const int side = static_cast<int>(largest_side);
    step.what = CropRectangle{in.number("x", -largest_side, largest_side), in.number("y", -largest_side, largest_side),
                              in.whole("width", 1, side), in.whole("height", 1, side)};
  }
}

void write_step(Json& out, const CropStep& step) {
  if (const auto* r = std::get_if<CropRectangle>(&step.what)) {
    out["x"] = r->x;
    out["y"] = r->y;
    out["width"] = r->width;
    out["height"] = r->height;
  } else if (const auto* ratio = std::get_if<CropRatio>(&step.what)) {
    out["ratio"] = {ratio->across, ratio->down};
    out["anchor"] = ratio->anchor;
  } else {
    out["to"] = "valid";
  }
}

}  // namespace fexel

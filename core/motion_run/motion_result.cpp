#include "motion_run/motion_result.h"

#include <fmt/format.h>

#include <cmath>
#include <limits>

#include "base/error.h"
#include "text/reader.h"

namespace fexel {
namespace {

enum Band {
  dx,
  dy,
  dxdx,
  dxdy,
  dydx,
  dydy,
  sigma_x,
  sigma_y,
  score,
  misfit,
  predicted,
  glare,
  back,
  status,
  reason,
  reference,
  from,
  frame,
  peaks,
  bands
};

constexpr int version = 1;
constexpr int most_points = 50'000'000;
constexpr double any_number = 1e12;

/// The names of sources alone: what is handed on says nothing of the folders here.
Json sources_json(const std::vector<SourceReference>& sources) {
  Json out = Json::array();
  for (const SourceReference& s : sources)
    out.push_back({{"path", std::filesystem::path(s.path).filename().string()}, {"sha256", s.sha256}});
  return out;
}

std::string head_text(const MotionResultHead& head) {
  Json out{{"fexel", "motion"}, {"version", version}};
  out["probe"] = write_motion_probe(head.probe);
  out["grid"] = {{"first", {head.grid.first.x, head.grid.first.y}},
                 {"step", {head.grid.step_x, head.grid.step_y}},
                 {"size", {head.grid.columns, head.grid.rows}}};
  out["picture"] = {head.size.width, head.size.height};
  if (const auto& pixel = head.units.pixel) {
    out["pixel_size"] = {pixel->x, pixel->y};
    out["unit"] = pixel->unit;
  }
  if (const auto& axes = head.units.axes)
    out["axes"] = {{"origin", {axes->origin.x, axes->origin.y}},
                   {"value", {axes->value.x, axes->value.y}},
                   {"along", {axes->along.x, axes->along.y}},
                   {"across", {axes->across.x, axes->across.y}}};
  if (const auto& time = head.units.time) out["time_step"] = {{"value", time->value}, {"unit", time->unit}};
  out["fields"] = head.wanted;
  out["sources"] = sources_json(head.sources);
  out["bands"] = motion_bands();
  return to_text(out, 0);
}

std::pair<double, double> two(const JsonReader& in, const std::string& key, double low, double high) {
  const Json& list = in.array(key);
  if (list.size() != 2) JsonReader::refuse(list, in.path(key), "two numbers");
  return {JsonReader::number(list[0], in.path(key) + "/0", low, high),
          JsonReader::number(list[1], in.path(key) + "/1", low, high)};
}

/// A page's point, and whether it counts.
bool point_from(const Image& page, int x, int y, MotionPoint& p) {
  const auto value = [&](Band band) { return static_cast<double>(page.row<float>(band, y)[x]); };
  if (!std::isfinite(value(status))) return false;
  const auto whole = [&](Band band, int most) {
    const double v = value(band);
    if (!(v >= 0 && v <= most && v == std::floor(v)))
      throw input_error("The result does not hold together: a point has no known status.", {},
                        "Measure again; the file is broken.");
    return static_cast<int>(v);
  };
  p.status = static_cast<MotionStatus>(whole(status, static_cast<int>(MotionStatus::filled)));
  p.reason = static_cast<MotionReason>(whole(reason, static_cast<int>(MotionReason::peaks)));
  const auto or_nothing = [&](Band band) { return std::isfinite(value(band)) ? value(band) : 0.0; };
  p.moved = {or_nothing(dx), or_nothing(dy)};
  p.gradient << or_nothing(dxdx), or_nothing(dxdy), or_nothing(dydx), or_nothing(dydy);
  p.sigma = {or_nothing(sigma_x), or_nothing(sigma_y)};
  p.score = or_nothing(score);
  p.misfit = or_nothing(misfit);
  p.predicted = or_nothing(predicted);
  p.glare = or_nothing(glare);
  p.peaks = or_nothing(peaks);
  if (std::isfinite(value(back))) p.back = value(back);
  return true;
}

}  // namespace

MotionResultHead parse_motion_head(const std::string& text) {
  const Json value = parse_json(text);
  if (!value.is_object() || !value.contains("fexel") || value.at("fexel") != "motion")
    throw input_error("This TIFF holds no movement.", {}, "Open the result of a movement that Fexel wrote.");
  JsonReader in(value, "",
                {"fexel", "version", "probe", "grid", "picture", "pixel_size", "unit", "axes", "time_step", "fields",
                 "sources", "bands"});
  in.whole("version", version, version);
  MotionResultHead out;
  out.probe = read_motion_probe(in.at("probe"), "/probe");
  const JsonReader grid(in.at("grid"), "/grid", {"first", "step", "size"});
  std::tie(out.grid.first.x, out.grid.first.y) = two(grid, "first", -1e9, 1e9);
  const auto [sx, sy] = two(grid, "step", 1, 1e6);
  const auto [columns, rows] = two(grid, "size", 1, 1e6);
  if (columns * rows > most_points) JsonReader::refuse(grid.at("size"), "/grid/size", "fewer points");
  out.grid.step_x = static_cast<int>(sx);
  out.grid.step_y = static_cast<int>(sy);
  out.grid.columns = static_cast<int>(columns);
  out.grid.rows = static_cast<int>(rows);
  const auto [width, height] = two(in, "picture", 1, 1e7);
  out.size = {static_cast<int>(width), static_cast<int>(height)};
  if (in.has("pixel_size")) {
    const auto [px, py] = two(in, "pixel_size", 1e-12, any_number);
    out.units.pixel = PixelSize{px, py, in.choice("unit", length_units())};
  }
  if (in.has("axes")) {
    const JsonReader axes(in.at("axes"), "/axes", {"origin", "value", "along", "across"});
    AxesHere here;
    for (const auto& [key, to] : {std::pair("origin", &here.origin), std::pair("value", &here.value),
                                  std::pair("along", &here.along), std::pair("across", &here.across)})
      std::tie(to->x, to->y) = two(axes, key, -any_number, any_number);
    if (out.units.pixel) here.pixel = {out.units.pixel->x, out.units.pixel->y};
    out.units.axes = here;
  }
  if (in.has("time_step")) {
    const JsonReader time(in.at("time_step"), "/time_step", {"value", "unit"});
    out.units.time = TimeStep{time.number("value", 1e-12, any_number), time.choice("unit", time_units())};
  }
  out.wanted = in.whole("fields", 1, 10000000);
  const Json& sources = in.array("sources");
  for (std::size_t i = 0; i < sources.size(); ++i) {
    const JsonReader one(sources[i], fmt::format("/sources/{}", i), {"path", "sha256"});
    out.sources.push_back({one.text("path"), one.text("sha256")});
  }
  return out;
}

const std::vector<std::string>& motion_bands() {
  static const std::vector<std::string> names{
      "dx",    "dy",     "dx/dx",     "dx/dy", "dy/dx", "dy/dy",  "uncertainty x", "uncertainty y",
      "score", "misfit", "predicted", "glare", "back",  "status", "reason",        "reference",
      "from",  "frame",  "peak ratio"};
  return names;
}

struct MotionResultWriter::State {
  State(const std::filesystem::path& path, const MotionResultHead& head, std::vector<PictureRows::Page> pages,
        const WriteOptions& options)
      : grid(head.grid), rows(path, std::move(pages), options) {}
  MotionGrid grid;
  PictureRows rows;
};

MotionResultWriter::MotionResultWriter(std::filesystem::path path, MotionResultHead head, int fields, bool replace,
                                       const ProtectedPaths* keep) {
  WriteOptions options;
  options.replace = replace;
  if (keep) options.keep = std::make_shared<const ProtectedPaths>(*keep);
  head.wanted = fields;
  options.description = head_text(head);
  const PictureRows::Page page{{head.grid.columns, head.grid.rows}, bands, Depth::f32, {}, {}};
  state_ = std::make_unique<State>(path, head, std::vector<PictureRows::Page>(static_cast<std::size_t>(fields), page),
                                   options);
}
MotionResultWriter::~MotionResultWriter() = default;

void MotionResultWriter::append(const MotionResultFrame& result) {
  const MotionGrid& grid = state_->grid;
  constexpr float nothing = std::numeric_limits<float>::quiet_NaN();
  Image page(grid.columns, grid.rows, bands, Depth::f32, Image::Start::unset);
  for (std::size_t i = 0; i < grid.count(); ++i) {
    const int x = static_cast<int>(i) % grid.columns, y = static_cast<int>(i) / grid.columns;
    const auto put = [&](Band band, double v) { page.row<float>(band, y)[x] = static_cast<float>(v); };
    for (int b = 0; b < bands; ++b) page.row<float>(b, y)[x] = nothing;
    // Which frames a page is of, it says itself, counted from 1: some may not have come.
    put(reference, result.matched.reference + 1);
    put(from, result.matched.from + 1);
    put(frame, result.number);
    if (grid.used[i] == 0) continue;
    const MotionPoint& p = result.matched.points[i];
    put(status, static_cast<int>(p.status));
    put(reason, static_cast<int>(p.reason));
    if (p.score > 0) put(score, p.score);
    if (p.peaks > 0) put(peaks, p.peaks);
    if (!p.has_place()) continue;
    put(dx, p.moved.x);
    put(dy, p.moved.y);
    put(dxdx, p.gradient(0, 0));
    put(dxdy, p.gradient(0, 1));
    put(dydx, p.gradient(1, 0));
    put(dydy, p.gradient(1, 1));
    put(sigma_x, p.sigma.x);
    put(sigma_y, p.sigma.y);
    put(misfit, p.misfit);
    put(predicted, p.predicted);
    put(glare, p.glare);
    if (p.back) put(back, *p.back);
  }
  // Rows are taken as many at a time as stand together in the file.
  state_->rows.append(page, {});
  state_->rows.end_page();
}

void MotionResultWriter::finish() {
  state_->rows.finish().commit();
}

MotionResult::MotionResult(std::filesystem::path path) : path_(std::move(path)) {
  const FileInfo info = read_info(path_);
  try {
    head_ = parse_motion_head(read_description(path_));
    if (info.width != head_.grid.columns || info.height != head_.grid.rows || info.bands != bands ||
        info.depth != Depth::f32)
      throw input_error("The result does not hold together: its maps are not of the size that it says.", {},
                        "Measure again; the file is broken.");
    if (info.frames > head_.wanted)
      throw input_error("The result has more pages than frames.", {}, "Measure again; the file is broken.");
    head_.complete = info.frames == head_.wanted;
    head_.frames.clear();
    head_.grid.used.assign(head_.grid.count(), 0);
    // Which points count is the same in all fields.
    const Image page = open_parts(path_, 1)->read({0, 0, head_.grid.columns, head_.grid.rows}, {});
    for (std::size_t i = 0; i < head_.grid.count(); ++i)
      head_.grid.used[i] = std::isfinite(
          page.row<float>(status, static_cast<int>(i) / head_.grid.columns)[static_cast<int>(i) % head_.grid.columns]);
    for (int k = 0; k < info.frames; ++k) {
      const Image corner = open_parts(path_, k + 1)->read({0, 0, 1, 1}, {});
      head_.frames.push_back(static_cast<int>(std::lround(std::clamp(corner.row<float>(frame, 0)[0], 0.0F, 1e7F))));
    }
  } catch (const Error& error) {
    // A description that cannot be read is a broken file, not a wrong call.
    throw Error(Error::Kind::input, error.message(), path_.string(), error.remedy());
  }
}
MotionResult::~MotionResult() = default;

MotionResultFrame MotionResult::field(int index) const {
  const auto parts = open_parts(path_, index + 1);
  const Image page = parts->read({0, 0, head_.grid.columns, head_.grid.rows}, {});
  MotionResultFrame out;
  const auto number = [&](Band band) {
    const double v = static_cast<double>(page.row<float>(band, 0)[0]);
    if (!(v >= 1 && v <= 1e7 && v == std::floor(v)))
      throw input_error("The result does not hold together: a page does not say which frame it is of.", path_.string(),
                        "Measure again; the file is broken.");
    return static_cast<int>(v);
  };
  out.number = number(frame);
  out.matched.grid = head_.grid;
  out.matched.frame = out.number - 1;
  out.matched.reference = number(reference) - 1;
  out.matched.from = number(from) - 1;
  out.matched.points.resize(head_.grid.count());
  for (std::size_t i = 0; i < head_.grid.count(); ++i)
    point_from(page, static_cast<int>(i) % head_.grid.columns, static_cast<int>(i) / head_.grid.columns,
               out.matched.points[i]);
  return out;
}

std::vector<MotionPoint> MotionResult::over_time(std::size_t point, const Job& job) const {
  std::vector<MotionPoint> out;
  const int x = static_cast<int>(point) % head_.grid.columns, y = static_cast<int>(point) / head_.grid.columns;
  for (int k = 0; k < fields(); ++k) {
    job.check();
    const Image page = open_parts(path_, k + 1)->read({x, y, 1, 1}, job);
    MotionPoint p;
    point_from(page, 0, 0, p);
    out.push_back(p);
  }
  return out;
}

}  // namespace fexel

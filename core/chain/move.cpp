
#include "base/error.h"
#include "chain/step.h"
#include "text/reader.h"

namespace fexel {
namespace {

constexpr double most_shift = 1e6;
const std::vector<std::string> extent_words = {"grow", "keep", "inside"};

/// Sizes a frame: the smallest whole number that holds v, give or take what rounding adds.
int holding(double v, const char* where) {
  return whole_size(std::ceil(v - 1e-6), where);
}

/// What the linear map `turned` (about the origin) makes of a picture, in a frame that just holds its pixels.
StepGeometry grown(const Matrix3& turned, const StepInput& input, const char* where) {
  auto outline = input.clip.corners(input.size);
  if (outline.empty()) outline = Clip().corners(input.size);
  Point low{1e300, 1e300}, high{-1e300, -1e300};
  for (const Point corner : outline) {
    const Point p = *Map::apply(turned, corner);
    low = {std::min(low.x, p.x), std::min(low.y, p.y)};
    high = {std::max(high.x, p.x), std::max(high.y, p.y)};
  }
  const Size size{holding(high.x - low.x, where), holding(high.y - low.y, where)};
  const Point middle = size.middle();
  return {size, {}, Map(translation(middle.x - (low.x + high.x) / 2, middle.y - (low.y + high.y) / 2) * turned)};
}

/// A turn keeps the pixel size where pixels are square, or where it goes by quarters.
std::optional<PixelSize> turned_pixel(const std::optional<PixelSize>& pixel, double degrees) {
  if (!pixel || pixel->square()) return pixel;
  const double quarters = degrees / 90;
  if (quarters != std::floor(quarters)) return std::nullopt;
  return std::fmod(quarters, 2) == 0 ? *pixel : PixelSize{pixel->y, pixel->x, pixel->unit};
}

}  // namespace

StepGeometry geometry_of(const MirrorStep& step, const StepInput& input) {
  const bool across = step.reverse == 'x';
  const Matrix3 mirror =
      across ? translation(input.size.width, 0) * scaling(-1, 1) : translation(0, input.size.height) * scaling(1, -1);
  return {input.size, input.pixel, Map(mirror)};
}

void read_step(JsonReader& in, MirrorStep& step) {
  step.reverse = in.choice("reverse", {"x", "y"})[0];
}

void write_step(Json& out, const MirrorStep& step) {
  out["reverse"] = std::string(1, step.reverse);
}

StepGeometry geometry_of(const TurnStep& step, const StepInput& input) {
  // Sine and cosine of quarter turns are exact, so that four of them are none.
  const double angle = std::remainder(step.degrees, 360);
  const double quarters = angle / 90;
  double c = std::cos(angle * M_PI / 180), s = std::sin(angle * M_PI / 180);
  if (quarters == std::floor(quarters)) {
    c = std::round(c);
    s = std::round(s);
  }
  Matrix3 turned;
  turned << c, s, 0, -s, c, 0, 0, 0, 1;
  const Point centre = step.centre.value_or(input.size.middle());
  StepGeometry out{input.size, {}, Map()};
  if (step.extent == Extent::grow) {
    out = grown(turned, input, TurnStep::size_key);
  } else {
    Point to = centre;
    if (step.extent == Extent::inside) {
      const double half_width = std::min(centre.x, input.size.width - centre.x);
      const double half_height = std::min(centre.y, input.size.height - centre.y);
      if (!(half_width > 0 && half_height > 0))
        throw call_error("The centre lies outside the picture, so no rectangle about it is free of empty corners.",
                         "/centre", "Choose a centre inside the picture, or another extent.");
      const double w = input.size.width, h = input.size.height;
      const double factor = std::min(2 * half_width / (w * std::abs(c) + h * std::abs(s)),
                                     2 * half_height / (w * std::abs(s) + h * std::abs(c)));
      out.size = {std::max(1, static_cast<int>(std::floor(factor * w + 1e-6))),
                  std::max(1, static_cast<int>(std::floor(factor * h + 1e-6)))};
      to = out.size.middle();
    }
    out.map = Map(translation(to.x, to.y) * turned * translation(-centre.x, -centre.y));
  }
  out.pixel = turned_pixel(input.pixel, step.degrees);
  return out;
}

void read_step(JsonReader& in, TurnStep& step) {
  step.degrees = in.degrees("degrees", -1e6, 1e6);
  if (in.has("centre")) step.centre = JsonReader::point(in.at("centre"), in.path("centre"));
  if (in.has("extent"))
    step.extent =
        static_cast<Extent>(std::ranges::find(extent_words, in.choice("extent", extent_words)) - extent_words.begin());
}

void write_step(Json& out, const TurnStep& step) {
  out["degrees"] = step.degrees;
  if (step.centre) out["centre"] = {step.centre->x, step.centre->y};
  out["extent"] = extent_words[static_cast<std::size_t>(step.extent)];
}

StepGeometry geometry_of(const ShiftStep& step, const StepInput& input) {
  if (step.extent == Extent::keep) return {input.size, input.pixel, Map(translation(step.dx, step.dy))};
  const Size size{holding(input.size.width + std::abs(step.dx), "/dx"),
                  holding(input.size.height + std::abs(step.dy), "/dy")};
  return {size, input.pixel, Map(translation(std::max(step.dx, 0.0), std::max(step.dy, 0.0)))};
}

void read_step(JsonReader& in, ShiftStep& step) {
  step.dx = in.number("dx", -most_shift, most_shift);
  step.dy = in.number("dy", -most_shift, most_shift);
  if (in.has("extent")) step.extent = in.choice("extent", {"keep", "grow"}) == "grow" ? Extent::grow : Extent::keep;
}

void write_step(Json& out, const ShiftStep& step) {
  out["dx"] = step.dx;
  out["dy"] = step.dy;
  out["extent"] = extent_words[static_cast<std::size_t>(step.extent)];
}

StepGeometry geometry_of(const MatrixStep& step, const StepInput& input) {
  const Point middle = input.size.middle();
  const double w = step.matrix(2, 0) * middle.x + step.matrix(2, 1) * middle.y + step.matrix(2, 2);
  if (w == 0)
    throw call_error("The matrix puts the middle of the picture on the horizon.", "/matrix",
                     "Choose a matrix whose last row is not zero there.");
  StepGeometry out;
  out.size = {step.width.value_or(input.size.width), step.height.value_or(input.size.height)};
  try {
    out.map = Map(w < 0 ? Matrix3(-step.matrix) : step.matrix);
  } catch (const Error& error) {
    throw error.at("/matrix");
  }
  const Matrix3 m = out.map.matrix() / out.map.matrix()(2, 2);
  const auto nothing = [](double v) { return std::abs(v) < 1e-15; };
  // The pixel size is known where the axes stay axes, and where square pixels are only turned and scaled.
  if (input.pixel && nothing(m(2, 0)) && nothing(m(2, 1))) {
    const double along_x = std::hypot(m(0, 0), m(1, 0)), along_y = std::hypot(m(0, 1), m(1, 1));
    const double skew = std::abs(m(0, 0) * m(0, 1) + m(1, 0) * m(1, 1));
    if (nothing(m(0, 1)) && nothing(m(1, 0)))
      out.pixel = PixelSize{input.pixel->x / along_x, input.pixel->y / along_y, input.pixel->unit};
    else if (input.pixel->square() && skew < 1e-12 * along_x * along_y && std::abs(along_x - along_y) < 1e-12 * along_x)
      out.pixel = PixelSize{input.pixel->x / along_x, input.pixel->y / along_x, input.pixel->unit};
  }
  return out;
}

std::array<double, 2> read_ends_picking(const JsonReader& in) {
  if (!in.has("picking")) return {0.5, 0.5};
  const Json& list = in.array("picking");
  if (list.size() != 2) JsonReader::refuse(list, in.path("picking"), "two numbers");
  return {JsonReader::number(list[0], in.path("picking") + "/0", 1e-6, 1e6),
          JsonReader::number(list[1], in.path("picking") + "/1", 1e-6, 1e6)};
}

void write_ends_picking(Json& out, const std::array<double, 2>& picking) {
  if (picking != std::array{0.5, 0.5}) out["picking"] = picking;
}

Matrix3 read_matrix(const JsonReader& in, const std::string& key) {
  Matrix3 out;
  const Json& rows = in.array(key);
  if (rows.size() != 3) JsonReader::refuse(rows, in.path(key), "three rows of three numbers");
  for (std::size_t r = 0; r < 3; ++r) {
    const std::string path = in.path(key) + "/" + std::to_string(r);
    if (!rows[r].is_array() || rows[r].size() != 3) JsonReader::refuse(rows[r], path, "three numbers");
    for (std::size_t c = 0; c < 3; ++c)
      out(static_cast<int>(r), static_cast<int>(c)) =
          JsonReader::number(rows[r][c], path + "/" + std::to_string(c), -1e12, 1e12);
  }
  return out;
}

Json rows_of(const Matrix3& matrix) {
  Json rows = Json::array();
  for (int r = 0; r < 3; ++r) rows.push_back({matrix(r, 0), matrix(r, 1), matrix(r, 2)});
  return rows;
}

void read_step(JsonReader& in, MatrixStep& step) {
  step.matrix = read_matrix(in, "matrix");
  const int side = static_cast<int>(largest_side);
  if (in.has("width")) step.width = in.whole("width", 1, side);
  if (in.has("height")) step.height = in.whole("height", 1, side);
}

void write_step(Json& out, const MatrixStep& step) {
  out["matrix"] = rows_of(step.matrix);
  if (step.width) out["width"] = *step.width;
  if (step.height) out["height"] = *step.height;
}

}  // namespace fexel

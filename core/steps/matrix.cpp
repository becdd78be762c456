#include "steps/matrix.h"

#include "base/error.h"
#include "text/reader.h"

namespace fexel {

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

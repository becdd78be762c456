#pragma once
/// Marks, laid out: a list of what is drawn, in order, in pixels of the copy. Screen, files of pixels, SVG and PDF are
/// all made from this list.
#include <cstdint>
#include <variant>

#include "geometry/point.h"
#include "marks/style.h"

namespace fexel {

/// 8-bit RGB pixels, row by row.
struct RgbPicture {
  int width = 0, height = 0;
  std::vector<std::uint8_t> pixels;  ///< 3 x width x height
};

struct Rect {
  double x = 0, y = 0, width = 0, height = 0;
  bool contains(Point p) const { return p.x >= x && p.y >= y && p.x <= x + width && p.y <= y + height; }
};

/// A line through points.
struct DrawnLine {
  std::vector<Point> points;
  bool closed = false;
  double width = 1;
  Colour colour;
};
/// A filled area.
struct DrawnArea {
  std::vector<Point> points;
  Colour colour;
};
/// One line of text, from the left end of its base line.
struct DrawnText {
  Point at;
  std::string text, font;
  double size = 10;
  Colour colour;
};
/// A picture in a rectangle.
struct DrawnPicture {
  Rect box;
  RgbPicture picture;
};
using DrawnShape = std::variant<DrawnLine, DrawnArea, DrawnText, DrawnPicture>;

struct MarkDrawing {
  std::vector<DrawnShape> shapes;
  /// The room that each mark takes; in the order of the marks, empty for those that are not drawn.
  std::vector<Rect> boxes;
  /// Why a mark is not drawn, in a sentence with a remedy; empty for those that are.
  std::vector<std::string> problems;
};

/// Width, and height above and below the base line, of one line of text. Measured by Pango.
struct TextExtent {
  double width = 0, above = 0, below = 0;
};
TextExtent text_extent(const std::string& text, const std::string& font, double size);

/// Paints the shapes over premultiplied pixels of 32 bits, blue first, `stride` bytes a row. The drawing's point (x, y)
/// lies at scale * (x, y) + offset.
void paint_over(const MarkDrawing& drawing, std::uint8_t* pixels, int width, int height, int stride, double scale = 1,
                Point offset = {});
/// Paints the shapes on a picture.
void paint_over(const MarkDrawing& drawing, RgbPicture& picture);

/// The picture with the shapes over it as a page of `width_mm`: an SVG whose text is text, and a PDF with its fonts.
/// Both hold the picture's pixels without loss.
std::string as_svg(const MarkDrawing& drawing, const RgbPicture& picture, double width_mm);
std::string as_pdf(const MarkDrawing& drawing, const RgbPicture& picture, double width_mm);

}  // namespace fexel

#pragma once
/// How marks look: sizes in points of the printed page, colours, fonts. A style is what is set of it; the rest is as
/// usual.
#include <optional>
#include <string>
#include <vector>

#include "geometry/point.h"
#include "text/reader.h"

namespace fexel {

/// A colour, each part from 0 to 1, in sRGB.
struct Colour {
  double red = 0, green = 0, blue = 0, alpha = 1;
  bool operator==(const Colour&) const = default;
};
/// "#rrggbb"; nothing for anything else.
std::optional<Colour> colour_of(const std::string& text);
/// "#rrggbb".
std::string text_of_colour(const Colour& colour);
/// The relative luminance, 0 to 1, of a colour in sRGB (Web Content Accessibility Guidelines 2.1, W3C 2018).
double luminance(const Colour& colour);
/// The contrast of two luminances, 1 to 21, by the same source.
double contrast_ratio(double a, double b);

/// All of a look, as it is drawn.
struct MarkLook {
  std::string font = "DejaVu Sans";
  double text_size = 8;          ///< points
  double line_width = 1;         ///< points, of arrows, outlines and frames
  double bar_thickness = 2.5;    ///< points, of scale bars
  double margin = 7;             ///< points, from the picture's sides
  std::string colour = "auto";   ///< black or white by what lies beneath, or "#rrggbb"
  std::string backing = "auto";  ///< behind text and bars: only where it is needed, "none", or "#rrggbb"
  std::string ends = "plain";    ///< of scale bars: "plain" or "ticks"
  double width = 85;             ///< mm, of the picture on the page
  double dpi = 0;                ///< dots per inch of the page; 0 for the picture's own pixels
};

/// The coarsest page that has dots of its own; 0 is for the picture's pixels.
inline constexpr double least_dpi = 20;

/// What is set of a look.
struct MarkStyle {
  std::optional<std::string> font, colour, backing, ends;
  std::optional<double> text_size, line_width, bar_thickness, margin, width, dpi;
  bool operator==(const MarkStyle&) const = default;
  bool empty() const { return *this == MarkStyle(); }
};

/// The usual look with what a chain's style sets, and then what a mark's own style sets. Width and dpi belong to the
/// whole picture, and are the first one's.
MarkLook look_of(const MarkStyle& common, const MarkStyle& own = {});

/// Pixels of the copy for one of the result, by the style: those of the page's width and dots per inch, or 1.
double copy_scale(const MarkStyle& common, Size result);

/// Pixels for a point of the page, of a copy that is so many pixels wide.
double pixels_per_point(const MarkLook& look, double copy_width);

/// Reads a style strictly; with `page` it may have width and dpi. Raises a call error that names the path in the text.
MarkStyle read_style(const Json& value, const std::string& path, bool page);
Json style_json(const MarkStyle& style);

}  // namespace fexel

/// The list of shapes as SVG (Scalable Vector Graphics 1.1, W3C 2011).
#include <fmt/format.h>
#include <openssl/evp.h>
#include <png.h>

#include <pugixml.hpp>
#include <sstream>

#include "base/error.h"
#include "marks/drawing.h"

namespace fexel {
namespace {

std::string number(double v) {
  return fmt::format("{:.10g}", std::abs(v) < 1e-9 ? 0.0 : v);
}

/// The picture as a PNG in a data address.
std::string data_address(const RgbPicture& picture) {
  png_image image{};
  image.version = PNG_IMAGE_VERSION;
  image.width = static_cast<png_uint_32>(picture.width);
  image.height = static_cast<png_uint_32>(picture.height);
  image.format = PNG_FORMAT_RGB;
  png_alloc_size_t size = 0;
  std::vector<std::uint8_t> bytes;
  const auto fail = [] {
    throw input_error("The picture could not be put into the SVG.", {}, "Write a PNG or a PDF.");
  };
  if (!png_image_write_get_memory_size(image, size, 0, picture.pixels.data(), 0, nullptr)) fail();
  bytes.resize(size);
  if (!png_image_write_to_memory(&image, bytes.data(), &size, 0, picture.pixels.data(), 0, nullptr)) fail();
  if (size > 1'500'000'000) fail();
  std::string text(4 * ((size + 2) / 3) + 1, '\0');
  const int written =
      EVP_EncodeBlock(reinterpret_cast<unsigned char*>(text.data()), bytes.data(), static_cast<int>(size));
  text.resize(static_cast<std::size_t>(written));
  return "data:image/png;base64," + text;
}

std::string path_of(const std::vector<Point>& points, bool closed) {
  std::string out;
  for (const Point p : points) out += fmt::format("{}{} {}", out.empty() ? "M" : "L", number(p.x), number(p.y));
  return closed ? out + "Z" : out;
}

class SvgWriter {
 public:
  explicit SvgWriter(pugi::xml_node root) : root_(root) {}
  void operator()(const DrawnLine& line) {
    auto node = root_.append_child("path");
    node.append_attribute("d") = path_of(line.points, line.closed).c_str();
    node.append_attribute("fill") = "none";
    paint(node, "stroke", line.colour);
    node.append_attribute("stroke-width") = number(line.width).c_str();
    node.append_attribute("stroke-linejoin") = "round";
  }
  void operator()(const DrawnArea& area) {
    auto node = root_.append_child("path");
    node.append_attribute("d") = path_of(area.points, true).c_str();
    paint(node, "fill", area.colour);
  }
  void operator()(const DrawnText& text) {
    auto node = root_.append_child("text");
    node.append_attribute("x") = number(text.at.x).c_str();
    node.append_attribute("y") = number(text.at.y).c_str();
    node.append_attribute("font-family") = ("'" + without_quotes(text.font) + "', sans-serif").c_str();
    node.append_attribute("font-size") = number(text.size).c_str();
    node.append_attribute("xml:space") = "preserve";
    paint(node, "fill", text.colour);
    node.text().set(text.text.c_str());
  }
  void operator()(const DrawnPicture& drawn) { picture(drawn.picture, drawn.box); }
  void picture(const RgbPicture& picture, const Rect& box) {
    auto node = root_.append_child("image");
    node.append_attribute("x") = number(box.x).c_str();
    node.append_attribute("y") = number(box.y).c_str();
    node.append_attribute("width") = number(box.width).c_str();
    node.append_attribute("height") = number(box.height).c_str();
    node.append_attribute("preserveAspectRatio") = "none";
    node.append_attribute("xlink:href") = data_address(picture).c_str();
  }

 private:
  static std::string without_quotes(std::string font) {
    std::erase_if(font, [](char c) { return c == '\'' || c == '"'; });
    return font;
  }
  static void paint(pugi::xml_node node, const std::string& what, const Colour& colour) {
    node.append_attribute(what.c_str()) = text_of_colour(colour).c_str();
    if (colour.alpha < 1) node.append_attribute((what + "-opacity").c_str()) = number(colour.alpha).c_str();
  }
  pugi::xml_node root_;
};

}  // namespace

std::string as_svg(const MarkDrawing& drawing, const RgbPicture& picture, double width_mm) {
  pugi::xml_document document;
  auto root = document.append_child("svg");
  root.append_attribute("xmlns") = "http://www.w3.org/2000/svg";
  root.append_attribute("xmlns:xlink") = "http://www.w3.org/1999/xlink";
  root.append_attribute("version") = "1.1";
  root.append_attribute("width") = (number(width_mm) + "mm").c_str();
  root.append_attribute("height") = (number(width_mm * picture.height / picture.width) + "mm").c_str();
  root.append_attribute("viewBox") = fmt::format("0 0 {} {}", picture.width, picture.height).c_str();
  SvgWriter writer(root);
  writer.picture(picture, {0, 0, static_cast<double>(picture.width), static_cast<double>(picture.height)});
  for (const DrawnShape& shape : drawing.shapes) std::visit(writer, shape);
  std::ostringstream out;
  document.save(out, " ");
  return out.str();
}

}  // namespace fexel

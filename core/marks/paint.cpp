/// The list of shapes on pixels and pages, by Cairo and Pango.
#include <cairo-pdf.h>
#include <cairo.h>
#include <pango/pangocairo.h>

#include <cstring>

#include "base/error.h"
#include "marks/drawing.h"

namespace fexel {
namespace {

template <auto free>
struct Free {
  template <class T>
  void operator()(T* thing) const {
    free(thing);
  }
};
using Context = std::unique_ptr<cairo_t, Free<cairo_destroy>>;
using Surface = std::unique_ptr<cairo_surface_t, Free<cairo_surface_destroy>>;
using TextLayout = std::unique_ptr<PangoLayout, Free<g_object_unref>>;

/// A line of text whose size goes with the picture's scale: without hints, which are made for one size.
TextLayout layout_of(cairo_t* context, const std::string& text, const std::string& font, double size) {
  TextLayout layout(pango_cairo_create_layout(context));
  std::unique_ptr<cairo_font_options_t, Free<cairo_font_options_destroy>> options(cairo_font_options_create());
  cairo_font_options_set_hint_style(options.get(), CAIRO_HINT_STYLE_NONE);
  cairo_font_options_set_hint_metrics(options.get(), CAIRO_HINT_METRICS_OFF);
  cairo_font_options_set_antialias(options.get(), CAIRO_ANTIALIAS_GRAY);
  pango_cairo_context_set_font_options(pango_layout_get_context(layout.get()), options.get());
  std::unique_ptr<PangoFontDescription, Free<pango_font_description_free>> description(pango_font_description_new());
  pango_font_description_set_family(description.get(), (font + ",sans-serif").c_str());
  pango_font_description_set_absolute_size(description.get(), size * PANGO_SCALE);
  pango_layout_set_font_description(layout.get(), description.get());
  pango_layout_set_single_paragraph_mode(layout.get(), true);
  pango_layout_set_text(layout.get(), text.data(), static_cast<int>(text.size()));
  return layout;
}

Surface surface_of(const RgbPicture& picture) {
  Surface surface(cairo_image_surface_create(CAIRO_FORMAT_RGB24, picture.width, picture.height));
  cairo_surface_flush(surface.get());
  std::uint8_t* to = cairo_image_surface_get_data(surface.get());
  const int stride = cairo_image_surface_get_stride(surface.get());
  const std::uint8_t* from = picture.pixels.data();
  for (int y = 0; y < picture.height && to; ++y)
    for (int x = 0; x < picture.width; ++x, from += 3) {
      const std::uint32_t pixel = 0xff000000U | std::uint32_t{from[0]} << 16 | std::uint32_t{from[1]} << 8 | from[2];
      std::memcpy(to + y * static_cast<std::ptrdiff_t>(stride) + 4 * static_cast<std::ptrdiff_t>(x), &pixel, 4);
    }
  cairo_surface_mark_dirty(surface.get());
  return surface;
}

class Painter {
 public:
  explicit Painter(cairo_t* context) : context_(context) {}

  void operator()(const DrawnLine& line) {
    trace(line.points, line.closed);
    colour(line.colour);
    cairo_set_line_width(context_, line.width);
    cairo_set_line_join(context_, CAIRO_LINE_JOIN_ROUND);
    cairo_set_line_cap(context_, CAIRO_LINE_CAP_BUTT);
    cairo_stroke(context_);
  }
  void operator()(const DrawnArea& area) {
    trace(area.points, true);
    colour(area.colour);
    cairo_fill(context_);
  }
  void operator()(const DrawnText& text) {
    const TextLayout layout = layout_of(context_, text.text, text.font, text.size);
    colour(text.colour);
    cairo_move_to(context_, text.at.x,
                  text.at.y - pango_layout_get_baseline(layout.get()) / static_cast<double>(PANGO_SCALE));
    pango_cairo_show_layout(context_, layout.get());
  }
  void operator()(const DrawnPicture& drawn) { picture(drawn.picture, drawn.box); }
  void picture(const RgbPicture& picture, const Rect& box) {
    if (picture.width < 1 || picture.height < 1) return;
    const Surface surface = surface_of(picture);
    cairo_save(context_);
    cairo_translate(context_, box.x, box.y);
    cairo_scale(context_, box.width / picture.width, box.height / picture.height);
    cairo_set_source_surface(context_, surface.get(), 0, 0);
    // Pixels stay squares, and nothing of what is beside them comes in at the sides.
    cairo_pattern_set_filter(cairo_get_source(context_), CAIRO_FILTER_NEAREST);
    cairo_pattern_set_extend(cairo_get_source(context_), CAIRO_EXTEND_PAD);
    cairo_rectangle(context_, 0, 0, picture.width, picture.height);
    cairo_fill(context_);
    cairo_restore(context_);
  }

 private:
  void colour(const Colour& c) { cairo_set_source_rgba(context_, c.red, c.green, c.blue, c.alpha); }
  void trace(const std::vector<Point>& points, bool closed) {
    cairo_new_path(context_);
    for (const Point p : points) cairo_line_to(context_, p.x, p.y);
    if (closed) cairo_close_path(context_);
  }
  cairo_t* context_;
};

/// Raises an input error where Cairo could not do what was asked for.
void check(cairo_status_t status) {
  if (status != CAIRO_STATUS_SUCCESS)
    throw input_error(std::string("The marks could not be drawn: ") + cairo_status_to_string(status) + ".", {},
                      "Make the copy smaller (its width and dots per inch).");
}

}  // namespace

TextExtent text_extent(const std::string& text, const std::string& font, double size) {
  thread_local const Surface nowhere(cairo_image_surface_create(CAIRO_FORMAT_A8, 1, 1));
  thread_local const Context context(cairo_create(nowhere.get()));
  const TextLayout layout = layout_of(context.get(), text, font, size);
  PangoRectangle extent;
  pango_layout_get_extents(layout.get(), nullptr, &extent);
  const double above = pango_layout_get_baseline(layout.get()) / static_cast<double>(PANGO_SCALE),
               high = extent.height / static_cast<double>(PANGO_SCALE);
  return {extent.width / static_cast<double>(PANGO_SCALE), above, high - above};
}

void paint_over(const MarkDrawing& drawing, std::uint8_t* pixels, int width, int height, int stride, double scale,
                Point offset) {
  const Surface surface(cairo_image_surface_create_for_data(pixels, CAIRO_FORMAT_ARGB32, width, height, stride));
  const Context context(cairo_create(surface.get()));
  check(cairo_status(context.get()));
  cairo_translate(context.get(), offset.x, offset.y);
  cairo_scale(context.get(), scale, scale);
  Painter painter(context.get());
  for (const DrawnShape& shape : drawing.shapes) std::visit(painter, shape);
  cairo_surface_flush(surface.get());
  check(cairo_status(context.get()));
}

void paint_over(const MarkDrawing& drawing, RgbPicture& picture) {
  const Surface surface = surface_of(picture);
  const Context context(cairo_create(surface.get()));
  check(cairo_status(context.get()));
  Painter painter(context.get());
  for (const DrawnShape& shape : drawing.shapes) std::visit(painter, shape);
  cairo_surface_flush(surface.get());
  check(cairo_status(context.get()));
  const std::uint8_t* from = cairo_image_surface_get_data(surface.get());
  const int stride = cairo_image_surface_get_stride(surface.get());
  std::uint8_t* to = picture.pixels.data();
  for (int y = 0; y < picture.height; ++y)
    for (int x = 0; x < picture.width; ++x, to += 3) {
      std::uint32_t pixel = 0;
      std::memcpy(&pixel, from + y * static_cast<std::ptrdiff_t>(stride) + 4 * static_cast<std::ptrdiff_t>(x), 4);
      to[0] = static_cast<std::uint8_t>(pixel >> 16);
      to[1] = static_cast<std::uint8_t>(pixel >> 8);
      to[2] = static_cast<std::uint8_t>(pixel);
    }
}

std::string as_pdf(const MarkDrawing& drawing, const RgbPicture& picture, double width_mm) {
  std::string out;
  const auto append = [](void* to, const unsigned char* data, unsigned int size) {
    static_cast<std::string*>(to)->append(reinterpret_cast<const char*>(data), size);
    return CAIRO_STATUS_SUCCESS;
  };
  const double wide = width_mm / 25.4 * 72, scale = wide / picture.width;
  const Surface surface(cairo_pdf_surface_create_for_stream(append, &out, wide, picture.height * scale));
  {
    const Context context(cairo_create(surface.get()));
    check(cairo_status(context.get()));
    cairo_scale(context.get(), scale, scale);
    Painter painter(context.get());
    painter.picture(picture, {0, 0, static_cast<double>(picture.width), static_cast<double>(picture.height)});
    for (const DrawnShape& shape : drawing.shapes) std::visit(painter, shape);
    cairo_show_page(context.get());
    check(cairo_status(context.get()));
  }
  cairo_surface_finish(surface.get());
  check(cairo_surface_status(surface.get()));
  return out;
}

}  // namespace fexel

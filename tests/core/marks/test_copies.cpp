#include <pugixml.hpp>

#include "base/error.h"
#include "files/picture.h"
#include "tests/marks.h"

// The copy of a result with its marks, in every format.

using namespace fexel;
using namespace fexel::test;

TEST_CASE("a copy is the result bit for bit beside its marks; the data are the same as before", "[marks]") {
  const Scratch scratch;
  Chain chain;
  chain.steps.push_back({RotateStep{90}, true, {}});
  chain.marks = {{ScaleBarMark{}, {}}, {TextMark{"top", {0, 0, {}}}, {}}};
  for (const int bands : {1, 3}) {
    Image image = noise(300, 420, bands, Depth::u8, 4);
    const Image source = image.clone();
    const MarkedResult result = result_of(chain, std::move(image), PixelSize{0.02, 0.02, "mm"});
    const auto path = scratch / "copy.png";
    write_marked_copy(result, path, CopyFormat::png, true, nullptr, {});
    const Image copy = read_picture(path);
    REQUIRE(copy.width() == 420);
    REQUIRE(copy.height() == 300);
    const MarkDrawing drawing = result.drawing(1, result.reduced({}), {});
    int changed = 0;
    for (int y = 0; y < 300; ++y)
      for (int x = 0; x < 420; ++x) {
        bool marked = false;
        for (const Rect& box : drawing.boxes)
          marked = marked || Rect{box.x - 6, box.y - 6, box.width + 12, box.height + 12}.contains({x + 0.5, y + 0.5});
        for (int band = 0; band < 3; ++band) {
          // Counter-clockwise: column x of the result is row x of the source from the right end.
          const double want = value(source, bands == 3 ? band : 0, 299 - y, x);
          if (value(copy, band, x, y) != want) {
            ++changed;
            CHECK(marked);
          }
        }
      }
    CHECK(changed > 500);
    const FileInfo info = read_info(path);
    REQUIRE(info.pixel_size);
    CHECK(in_unit(*info.pixel_size, "mm").x == Approx(0.02).epsilon(1e-4));
  }
}

TEST_CASE("an inset shows the pixels of its part, each as a square", "[marks]") {
  Chain chain;
  chain.resampling.kernel = Kernel::nearest;
  chain.marks = {{InsetMark{20, 30, 40, 25, 3, {0, 0, {}}}, {}}};
  Image image = noise(300, 200, 3, Depth::u8, 6);
  const Image source = image.clone();
  const MarkedResult result = result_of(chain, std::move(image));
  RgbPicture copy = result.picture(1, {});
  const MarkDrawing drawing = result.drawing(1, result.reduced({}), {});
  paint_over(drawing, copy);
  const auto shown =
      std::ranges::find_if(drawing.shapes, [](const auto& s) { return std::holds_alternative<DrawnPicture>(s); });
  REQUIRE(shown != drawing.shapes.end());
  const RgbPicture& part = std::get<DrawnPicture>(*shown).picture;
  REQUIRE(part.width == 120);
  REQUIRE(part.height == 75);
  int wrong = 0;
  for (int y = 0; y < part.height; ++y)
    for (int x = 0; x < part.width; ++x)
      for (int band = 0; band < 3; ++band)
        wrong += part.pixels[static_cast<std::size_t>(3 * (y * part.width + x) + band)] !=
                 value(source, band, 20 + x / 3, 30 + y / 3);
  CHECK(wrong == 0);
}

TEST_CASE("16-bit and floating-point samples are shown as the window shows them; empty pixels are white", "[marks]") {
  Image wide = noise(60, 40, 1, Depth::u16, 2);
  const Image same = wide.clone();
  const RgbPicture shown = rgb_of(wide, std::nullopt);
  for (int x = 0; x < 60; ++x) CHECK(shown.pixels[static_cast<std::size_t>(3 * x)] == int(value(same, 0, x, 0)) / 257);
  Image real = painted(60, 40, [](double x, double) { return 100 + x; });
  real.make_mask(true);
  real.set_valid(0, 0, false);
  const MarkedResult result = result_of({}, std::move(real));
  const RgbPicture stretched = result.picture(1, {});
  CHECK(stretched.pixels[0] == 255);
  CHECK(stretched.pixels[3] == Approx(255.0 * 1 / 59).margin(5));
  CHECK(stretched.pixels[3 * 59] == 255);
}

TEST_CASE("an SVG holds its text as text and its bar at the right length; a PDF has the page's size and its fonts",
          "[marks]") {
  const Scratch scratch;
  Chain chain;
  chain.mark_style.width = 120;
  chain.marks = {{ScaleBarMark{2.0, "mm", {}, {}, true}, {}}, {TextMark{"<Wall & \"A\">", {0, 0, {}}}, {}}};
  const MarkedResult result = result_of(chain, noise(500, 400, 3, Depth::u8), PixelSize{0.02, 0.02, "mm"});
  const auto svg = scratch / "copy.svg", pdf = scratch / "copy.pdf";
  write_marked_copy(result, svg, CopyFormat::svg, false, nullptr, {});
  CHECK_THROWS_AS(write_marked_copy(result, svg, CopyFormat::svg, false, nullptr, {}), Error);
  pugi::xml_document document;
  REQUIRE(document.load_file(svg.c_str()));
  const auto root = document.child("svg");
  CHECK(root.attribute("width").as_string() == std::string("120mm"));
  CHECK(root.attribute("viewBox").as_string() == std::string("0 0 500 400"));
  std::vector<std::string> texts;
  for (const auto& text : root.children("text")) texts.emplace_back(text.text().as_string());
  CHECK(std::ranges::count(texts, "2 mm") == 1);
  CHECK(std::ranges::count(texts, "<Wall & \"A\">") == 1);
  CHECK(std::string(root.child("image").attribute("xlink:href").as_string()).starts_with("data:image/png;base64,"));
  bool bar = false;
  for (const auto& path : root.children("path")) {
    double x0 = 0, y0 = 0, x1 = 0, y1 = 0;
    if (std::sscanf(path.attribute("d").as_string(), "M%lf %lfL%lf %lf", &x0, &y0, &x1, &y1) == 4)
      bar = bar || (y0 == y1 && std::abs(x1 - x0 - 100) < 1e-6);  // 2 mm are 100 px
  }
  CHECK(bar);
  write_marked_copy(result, pdf, CopyFormat::pdf, false, nullptr, {});
  const std::string text = read_text(pdf);
  CHECK(text.starts_with("%PDF-"));
  CHECK_THAT(text, Catch::Contains("/Type /Font"));
  CHECK_THAT(text, Catch::Contains("340.157"));  // 120 mm in points
}

TEST_CASE("measurements are drawn where they lie in the result, with their values", "[marks]") {
  Chain chain;
  chain.steps.push_back({MirrorStep{}, true, {}});
  chain.measurements.push_back(length_measurement("a", 0, {40, 50}, {140, 50}));
  chain.measurements.push_back({CircleMeasurement{}, "c", 0, {{200, 100}, {250, 150}, {200, 200}}, {0.5, 0.5, 0.5}});
  chain.marks = {{MeasurementsMark{}, {}}};
  const MarkedResult result = result_of(chain, noise(400, 300, 1, Depth::u8), PixelSize{0.1, 0.1, "mm"});
  const MarkDrawing drawing = result.drawing(1, result.reduced({}), {});
  std::vector<std::string> texts;
  bool line = false, round = false;
  for (const DrawnShape& shape : drawing.shapes) {
    if (const auto* text = std::get_if<DrawnText>(&shape)) texts.push_back(text->text);
    const auto* drawn = std::get_if<DrawnLine>(&shape);
    if (drawn && drawn->points.size() == 2)
      line = line || (distance(drawn->points[0], {360, 50}) < 1e-6 && distance(drawn->points[1], {260, 50}) < 1e-6);
    if (drawn && drawn->closed && drawn->points.size() > 100)
      round = std::ranges::all_of(drawn->points, [](Point p) { return std::abs(distance(p, {200, 150}) - 50) < 1e-6; });
  }
  CHECK(line);
  CHECK(round);
  CHECK(texts.size() == 2);
  CHECK(std::ranges::any_of(texts, [](const auto& t) { return t.starts_with("10.0") && t.ends_with(" mm"); }));
}

TEST_CASE("copies of every depth, number of bands and format are the result beside the marks", "[marks]") {
  const Scratch scratch;
  Chain chain;
  chain.marks = {{ScaleBarMark{}, {}}};
  for (const Depth depth : {Depth::u8, Depth::u16, Depth::f32})
    for (const int bands : {1, 2, 3, 4}) {
      Image image = noise(120, 90, bands, depth, 7);
      const Image source = image.clone();
      const MarkedResult result = result_of(chain, std::move(image), PixelSize{0.1, 0.1, "mm"});
      const Rect box = result.drawing(1, result.reduced({}), {}).boxes[0];
      for (const CopyFormat format :
           {CopyFormat::png, CopyFormat::tiff, CopyFormat::jpeg, CopyFormat::svg, CopyFormat::pdf}) {
        const auto path = scratch / ("copy." + copy_format_words()[static_cast<std::size_t>(format)]);
        INFO(name_of(depth) << " x " << bands << " as " << path.filename().string());
        write_marked_copy(result, path, format, true, nullptr, {});
        if (format == CopyFormat::svg || format == CopyFormat::pdf) {
          CHECK(std::filesystem::file_size(path) > 1000);
          continue;
        }
        const Image copy = read_picture(path);
        REQUIRE((copy.width() == 120 && copy.height() == 90 && copy.bands() == 3 && copy.depth() == Depth::u8));
        double worst = 0, sum = 0;
        int count = 0;
        for (int y = 0; y < 90; ++y)
          for (int x = 0; x < 120; ++x) {
            if (Rect{box.x - 6, box.y - 6, box.width + 12, box.height + 12}.contains({x + 0.5, y + 0.5})) continue;
            for (int band = 0; band < 3; ++band) {
              const double v = value(source, bands >= 3 ? band : 0, x, y);
              const double want = depth == Depth::u8    ? v
                                  : depth == Depth::u16 ? std::floor(v / 257)
                                                        : std::floor(255 * v + 0.5);
              worst = std::max(worst, std::abs(value(copy, band, x, y) - want));
              sum += std::abs(value(copy, band, x, y) - want);
              ++count;
            }
          }
        // JPEG keeps noise roughly.
        if (format == CopyFormat::jpeg)
          CHECK(sum / count < 40);
        else
          CHECK(worst <= (depth == Depth::f32 ? 1 : 0));
      }
    }
}

TEST_CASE("a copy with dots per inch has the page's pixels, and its bar the right length", "[marks]") {
  const Scratch scratch;
  Chain chain;
  chain.mark_style.width = 60;
  chain.mark_style.dpi = 254;  // ten pixels for a millimetre of the page
  chain.mark_style.backing = "none";
  chain.marks = {{ScaleBarMark{20.0, "mm", {}, ScaleBarMark::Direction::both, false}, {}}};
  Image black(900, 500, 1, Depth::u8);
  const MarkedResult result = result_of(chain, std::move(black), PixelSize{0.1, 0.1, "mm"});
  const auto path = scratch / "page.png";
  write_marked_copy(result, path, CopyFormat::png, false, nullptr, {});
  const Image copy = read_picture(path);
  CHECK(copy.width() == 600);
  CHECK(copy.height() == 333);
  RgbPicture seen{copy.width(), copy.height(), {}};
  for (int y = 0; y < copy.height(); ++y)
    for (int x = 0; x < copy.width(); ++x)
      for (int band = 0; band < 3; ++band) seen.pixels.push_back(copy.row<std::uint8_t>(band, y)[x]);
  // 200 px of the result are 133.3 of the copy.
  CHECK(most_ink(seen, true) == Approx(200 * 600.0 / 900).margin(0.15));
  CHECK(most_ink(seen, false) == Approx(200 * 600.0 / 900).margin(0.15));
  CHECK(in_unit(*read_info(path).pixel_size, "mm").x == Approx(0.15).epsilon(1e-3));
}

TEST_CASE("samples that a step takes below zero are shown over their range, not cut off", "[marks]") {
  Chain chain;
  ConvolveStep slope;
  slope.kernel = {3, 1, {-1, 0, 1}};
  chain.steps.push_back({slope, true, {}});
  const MarkedResult result = result_of(chain, painted(80, 60, [](double x, double) { return std::sin(x / 4); }));
  const RgbPicture shown = result.picture(1, {});
  const auto [low, high] = std::ranges::minmax(shown.pixels);
  CHECK(low == 0);
  CHECK(high == 255);
  // As many are dark as light: nothing was cut off at zero.
  const auto dark = std::ranges::count_if(shown.pixels, [](int v) { return v < 64; }),
             light = std::ranges::count_if(shown.pixels, [](int v) { return v > 191; });
  CHECK(static_cast<double>(dark) / static_cast<double>(light) == Approx(1).margin(0.3));
}

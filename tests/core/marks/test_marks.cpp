#include <catch2/catch.hpp>
#include <random>
#include <set>

#include "base/error.h"
#include "chain/edit.h"
#include "tests/marks.h"

using namespace fexel;
using namespace fexel::test;

namespace {

MarkInput input_of(const RgbPicture& under, std::optional<PixelSize> pixel = {}, double scale = 1) {
  MarkInput input;
  input.size = {under.width, under.height};
  input.scale = scale;
  input.pixel = std::move(pixel);
  input.under = &under;
  return input;
}

std::vector<Mark> one_of_each() {
  return {{ScaleBarMark{20.0, "mm", {1, 2, {}}, ScaleBarMark::Direction::both, false}, {}},
          {TextMark{"Wall \"A\", µm", {2, 1, Point{30, 40}}}, {}},
          {ArrowMark{{Point{10, 20}, Point{60, 70}}, 0, "crack"}, {}},
          {OutlineMark{OutlineMark::Shape::polygon, {{1, 2}, {30, 4}, {5, 60}}, 1, "B"}, {}},
          {InsetMark{10, 20, 30, 40, 2.5, {0, 0, {}}}, {}},
          {TimeMark{TimeMark::Show::time, {0, 2, {}}, 3}, {}},
          {MeasurementsMark{{"a", "b"}, false}, {}}};
}

bool apart(const Rect& a, const Rect& b) {
  return a.x + a.width <= b.x || b.x + b.width <= a.x || a.y + a.height <= b.y || b.y + b.height <= a.y;
}

}  // namespace

TEST_CASE("every kind of mark is read back as it was written, and keys that it has not are refused", "[marks]") {
  const MarkStyle style{"Serif", "#102030", "none", "ticks", 9.5, 0.8, 3.0, 10.0, {}, {}};
  std::set<std::string> seen;
  for (Mark mark : one_of_each()) {
    mark.style = style;
    const Json json = mark_json(mark);
    seen.insert(word_of(mark.kind));
    CHECK(read_mark(json, "/marks/0") == mark);
    Json more = json;
    more["colour"] = 1;
    CHECK_THROWS_AS(read_mark(more, "/marks/0"), Error);
  }
  CHECK(seen.size() == mark_words().size());
  Chain chain;
  chain.marks = one_of_each();
  chain.marks[3].kind = OutlineMark{OutlineMark::Shape::ellipse, {{1, 2}, {30, 4}}, 0, ""};
  chain.mark_style.width = 180;
  chain.mark_style.dpi = 300;
  CHECK(parse_chain(write_chain(chain)) == chain);
}

TEST_CASE("impossible marks are refused with their path", "[marks]") {
  const auto refused = [](const std::string& text, const std::string& where) {
    try {
      parse_chain("{\"fexel\":1,\"marks\":[" + text + "]}");
    } catch (const Error& error) {
      INFO(error.what());
      return error.where() == where;
    }
    return false;
  };
  CHECK(refused("{}", "/marks/0/mark"));
  CHECK(refused(R"({"mark":"bar"})", "/marks/0/mark"));
  CHECK(refused(R"({"mark":"scale-bar","length":-1,"unit":"mm"})", "/marks/0/length"));
  CHECK(refused(R"({"mark":"scale-bar","length":5})", "/marks/0/unit"));
  CHECK(refused(R"({"mark":"scale-bar","length":5,"unit":"foot"})", "/marks/0/unit"));
  CHECK(refused(R"({"mark":"scale-bar","place":"somewhere"})", "/marks/0/place"));
  CHECK(refused(R"({"mark":"scale-bar","style":{"colour":"red"}})", "/marks/0/style/colour"));
  CHECK(refused(R"({"mark":"scale-bar","style":{"width":85}})", "/marks/0/style/width"));
  CHECK(refused(R"({"mark":"text"})", "/marks/0/text"));
  CHECK(refused(R"({"mark":"arrow","points":[[1,2]]})", "/marks/0/points"));
  CHECK(refused(R"({"mark":"arrow","points":[[1,2],[3,4]],"station":1})", "/marks/0/station"));
  CHECK(refused(R"({"mark":"inset","x":0,"y":0,"width":0,"height":5})", "/marks/0/width"));
}

TEST_CASE("a round length is the nearest of 1, 2 and 5 by ratio, in a unit that writes it short", "[marks]") {
  std::mt19937 random(3);
  std::uniform_real_distribution<double> power(-8, 4);
  for (int i = 0; i < 2000; ++i) {
    const double wanted = std::pow(10, power(random));
    const RoundLength found = round_length(wanted, "mm");
    const double in_mm = found.value * metres_per(found.unit) / metres_per("mm");
    double nearest = 1e300;
    for (int p = -12; p < 8; ++p)
      for (const double digit : {1, 2, 5})
        nearest = std::min(nearest, std::abs(std::log(digit * std::pow(10, p) / wanted)));
    CHECK(std::abs(std::log(in_mm / wanted)) == Approx(nearest).margin(1e-9));
    if (wanted > 1e-6 && wanted < 1e3) {
      CHECK(found.value >= 1);
      CHECK(found.value < 1000);
    }
  }
  CHECK(round_length(0.048, "mm").unit == "um");
  CHECK(round_length(0.048, "mm").value == 50);
  CHECK(round_length(7, "in").unit == "in");
}

TEST_CASE("a scale bar is as long on the picture as it says, across and down, where pixels are not square too",
          "[marks]") {
  std::mt19937 random(5);
  std::uniform_real_distribution<double> unit(0, 1);
  int drawn = 0;
  for (int i = 0; i < 60; ++i) {
    const RgbPicture under = plain(600 + 20 * (i % 7), 500, 0);
    const PixelSize pixel{0.01 + 0.2 * unit(random), 0.01 + 0.2 * unit(random), "mm"};
    const double scale = 0.7 + unit(random);
    const auto direction = static_cast<ScaleBarMark::Direction>(i % 3);
    ScaleBarMark bar{{}, "", {i % 9 % 3, i % 9 / 3, {}}, direction, false};
    const double length =
        round_length(under.width * pixel.x / (3 + 5 * unit(random)), "mm").value * (i % 2 == 0 ? 1.0 : 0.37);
    bar.length = length;
    bar.unit = "mm";
    MarkInput input = input_of(under, pixel, scale);
    const Mark mark{bar, {}};
    const MarkDrawing drawing = lay_out_marks(std::span(&mark, 1), {}, input);
    if (!drawing.problems[0].empty()) continue;
    ++drawn;
    RgbPicture copy = plain(static_cast<int>(under.width * scale), static_cast<int>(under.height * scale), 0);
    paint_over(drawing, copy);
    INFO(i << ": " << length << " mm, pixels " << pixel.x << " x " << pixel.y << ", scale " << scale);
    // Cairo covers pixels in steps of a fifteenth or so.
    if (direction != ScaleBarMark::Direction::down)
      CHECK(most_ink(copy, true) == Approx(length / pixel.x * scale).margin(0.15));
    if (direction != ScaleBarMark::Direction::across)
      CHECK(most_ink(copy, false) == Approx(length / pixel.y * scale).margin(0.15));
  }
  CHECK(drawn > 40);
}

TEST_CASE("a mark that cannot be drawn is not drawn, and says why", "[marks]") {
  const RgbPicture under = plain(400, 300, 128);
  const auto problem = [&](const MarkKind& kind, std::optional<PixelSize> pixel = PixelSize{0.1, 0.1, "mm"}) {
    const Mark mark{kind, {}};
    MarkInput input = input_of(under, std::move(pixel));
    input.carried = [](Point p, int) { return p.x < 0 ? std::nullopt : std::optional(p); };
    const MarkDrawing drawing = lay_out_marks(std::span(&mark, 1), {}, input);
    CHECK(drawing.shapes.empty() == !drawing.problems[0].empty());
    return drawing.problems[0];
  };
  CHECK_THAT(problem(ScaleBarMark{}, std::nullopt), Catch::Contains("needs a pixel size"));
  CHECK_THAT(problem(ScaleBarMark{50.0, "mm", {}, {}, true}), Catch::Contains("does not fit"));
  CHECK_THAT(problem(ScaleBarMark{0.2, "mm", {}, {}, true}), Catch::Contains("shorter than 4 px"));
  CHECK(problem(ScaleBarMark{}).empty());
  CHECK_THAT(problem(TextMark{}), Catch::Contains("empty"));
  CHECK_THAT(problem(ArrowMark{{Point{5, 5}, Point{5, 5}}, -1, ""}), Catch::Contains("same point"));
  CHECK_THAT(problem(ArrowMark{{Point{-5, 5}, Point{5, 5}}, 0, ""}), Catch::Contains("not seen"));
  CHECK_THAT(problem(InsetMark{390, 10, 20, 20, 2, {}}), Catch::Contains("outside"));
  CHECK_THAT(problem(InsetMark{10, 10, 200, 200, 3, {}}), Catch::Contains("larger than the picture"));
  CHECK_THAT(problem(TimeMark{TimeMark::Show::time, {}, 1}), Catch::Contains("time step"));
  CHECK(problem(TimeMark{}).empty());
  CHECK_THAT(problem(MeasurementsMark{}), Catch::Contains("measure something"));
  CHECK_THAT(problem(MeasurementsMark{{"a"}, true}), Catch::Contains("no measurement \"a\""));
}

TEST_CASE("text stands out from any ground by 4.5 to 1 where colour and backing are chosen for it", "[marks]") {
  std::mt19937 random(8);
  for (int level = 0; level <= 256; level += 16)
    for (const bool busy : {false, true}) {
      RgbPicture under = plain(400, 300, static_cast<std::uint8_t>(std::min(level, 255)));
      if (busy)
        for (auto& v : under.pixels) v = static_cast<std::uint8_t>(random());
      for (const std::string colour : {"auto", "#ff0000", "#202020", "#ffffff"}) {
        const Mark mark{TextMark{"scale", {1, 1, {}}}, {}};
        MarkStyle style;
        style.colour = colour;
        const MarkDrawing drawing = lay_out_marks(std::span(&mark, 1), style, input_of(under));
        double ground_low = 1, ground_high = 0;
        for (const auto v : under.pixels) {
          const double one = luminance({v / 255.0, v / 255.0, v / 255.0, 1});
          ground_low = std::min(ground_low, one);
          ground_high = std::max(ground_high, one);
        }
        std::optional<Colour> plate, ink;
        for (const DrawnShape& shape : drawing.shapes) {
          if (const auto* area = std::get_if<DrawnArea>(&shape)) plate = area->colour;
          if (const auto* text = std::get_if<DrawnText>(&shape)) ink = text->colour;
        }
        REQUIRE(ink);
        if (plate) {
          // Over the darkest and the lightest ground.
          const auto over = [&](double ground) {
            return luminance({plate->red * plate->alpha + ground * (1 - plate->alpha),
                              plate->green * plate->alpha + ground * (1 - plate->alpha),
                              plate->blue * plate->alpha + ground * (1 - plate->alpha), 1});
          };
          ground_low = over(0);
          ground_high = over(1);
          if (ground_low > ground_high) std::swap(ground_low, ground_high);
        }
        const double own = luminance(*ink);
        const double worst = own > ground_high  ? contrast_ratio(own, ground_high)
                             : own < ground_low ? contrast_ratio(own, ground_low)
                                                : 1;
        INFO("ground " << level << (busy ? " busy" : "") << ", colour " << colour);
        // Pure red has no ground at all that it stands out from by more than 5.3; through a plate less is left.
        CHECK(worst >= (colour == "#ff0000" ? 3.0 : 4.5));
      }
    }
}

TEST_CASE("blocks lie inside the picture, and clear of each other", "[marks]") {
  const RgbPicture under = plain(900, 700, 90);
  std::vector<Mark> marks;
  for (int i = 0; i < 9; ++i) {
    marks.push_back({TextMark{"place " + std::to_string(i), {i % 3, i / 3, {}}}, {}});
    marks.push_back({ScaleBarMark{{}, "", {i % 3, i / 3, {}}, {}, true}, {}});
  }
  const MarkDrawing drawing = lay_out_marks(marks, {}, input_of(under, PixelSize{0.1, 0.1, "mm"}));
  for (std::size_t i = 0; i < marks.size(); ++i) {
    const Rect& box = drawing.boxes[i];
    INFO(i << ": " << box.x << ' ' << box.y << ' ' << box.width << ' ' << box.height);
    CHECK(drawing.problems[i].empty());
    CHECK((box.x >= 0 && box.y >= 0 && box.x + box.width <= 900 && box.y + box.height <= 700));
    for (std::size_t j = 0; j < i; ++j) CHECK(apart(box, drawing.boxes[j]));
  }
}

TEST_CASE("sizes are those of the printed page, whatever the picture's pixels", "[marks]") {
  for (const int width : {400, 1700, 6000}) {
    const RgbPicture under = plain(40, 30, 90);
    MarkInput input = input_of(under);
    input.size = {width, width * 3 / 4};
    const Mark mark{TextMark{"Hx", {}}, {}};
    MarkStyle style;
    style.width = 127;
    style.text_size = 10;
    const MarkDrawing drawing = lay_out_marks(std::span(&mark, 1), style, input);
    const auto* text = std::get_if<DrawnText>(&drawing.shapes.back());
    REQUIRE(text);
    CHECK(text->size == Approx(10.0 * width / 360));  // 127 mm are 360 points
  }
  MarkStyle style;
  style.width = 85;
  style.dpi = 300;
  CHECK(copy_scale(style, {2000, 1000}) == Approx(1004.0 / 2000));  // 85 mm of 300 dots an inch are 1003.9
  CHECK(copy_scale({}, {2000, 1000}) == 1);
}

TEST_CASE("marks on a station follow when steps before it come and go", "[marks]") {
  Chain chain;
  chain.steps.push_back({TranslateStep{5, 7}, true, {}});
  chain.marks = {{ArrowMark{{Point{10, 20}, Point{60, 70}}, 1, ""}, {}}, {ScaleBarMark{}, {}}};
  const SourceShape shape{{300, 200}, 1, Depth::u8, {}};
  const Chain longer = with_step_inserted(chain, 0, {MirrorStep{}, true, {}});
  CHECK(std::get<ArrowMark>(longer.marks[0].kind).station == 2);
  const Chain shorter = with_step_removed(chain, lay_out(chain, shape), 0);
  const auto& arrow = std::get<ArrowMark>(shorter.marks[0].kind);
  CHECK(arrow.station == 0);
  CHECK(distance(arrow.points[0], {5, 13}) < 1e-9);
}

TEST_CASE("a text that does not fit is not cut off but named, and one that no page can hold is refused", "[marks]") {
  const RgbPicture under = plain(300, 40, 90);
  MarkStyle style;
  style.text_size = 40;
  for (const std::string text : {"incomprehensibilities", "one\ntwo\nthree\nfour"}) {
    const Mark mark{TextMark{text}, {}};
    const MarkDrawing drawing = lay_out_marks(std::span(&mark, 1), style, input_of(under));
    CHECK(drawing.shapes.empty());
    CHECK_THAT(drawing.problems[0], Catch::Contains("larger than the picture"));
  }
  const auto chain_with = [](const std::string& text) {
    return parse_chain(to_text(Json{{"fexel", 1}, {"marks", {{{"mark", "text"}, {"text", text}}}}}));
  };
  CHECK_THROWS_AS(chain_with("a\x01"
                             "b"),
                  Error);
  CHECK_THROWS_AS(chain_with(std::string(2001, 'a')), Error);
  std::string long_one;
  for (int i = 0; i < 2000; ++i) long_one += "µ";
  CHECK(std::get<TextMark>(chain_with(long_one).marks[0].kind).text == long_one);
}

#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <random>

#include "calibrate/grid_target.h"
#include "calibrate/ruled_target.h"
#include "chain/evaluate.h"
#include "demo/demo.h"
#include "files/picture.h"
#include "measure/edges.h"
#include "measure/proposal.h"
#include "measure/ring_edge.h"
#include "quality/distortion_maps.h"
#include "quality/uncertainty.h"
#include "report/marked_copy.h"
#include "run/align_search.h"
#include "tests/support.h"
#include "text/json.h"

using namespace fexel;

namespace {

struct Made {
  test::Scratch scratch;
  Image rectified;
  PixelSize pixel;
  Json truth;
  Chain chain;
};

/// The demo rendered, its chain run, its result written and read back, once for all tests.
const Made& made() {
  static const std::unique_ptr<const Made> made = [] {
    auto whole = std::make_unique<Made>();
    Made& m = *whole;
    write_demo(m.scratch.path(), {});
    m.truth = parse_json(read_text(m.scratch / "truth.json")).at("wall");
    m.chain = load_chain((m.scratch / "wall.fexel.json").string());
    const Pyramid source(std::make_shared<const Image>(read_picture(m.scratch / "wall-oblique.png")));
    const Layout layout = lay_out(m.chain, {{2400, 1600}, 3, Depth::u8, {}});
    std::vector<Image> pages;
    pages.push_back(evaluate(m.chain, layout, source, {}, nullptr));
    write_pictures(m.scratch / "out.tif", pages, {Format::tiff, layout.result().pixel, false, {}});
    m.rectified = read_picture(m.scratch / "out.tif");
    m.pixel = in_unit(*read_info(m.scratch / "out.tif").pixel_size, "mm");
    return whole;
  }();
  return *made;
}

/// Grey at a place of the written picture, in mm, between pixel centres by plain linear interpolation.
double grey(double x_mm, double y_mm) {
  const Made& m = made();
  const double u = x_mm / m.pixel.x - 0.5, v = y_mm / m.pixel.y - 0.5;
  const int i = static_cast<int>(std::floor(u)), j = static_cast<int>(std::floor(v));
  const double s = u - i, t = v - j;
  const auto at = [&](int x, int y) { return test::value(m.rectified, 1, x, y); };
  return (1 - t) * ((1 - s) * at(i, j) + s * at(i + 1, j)) + t * ((1 - s) * at(i, j + 1) + s * at(i + 1, j + 1));
}

/// The darkest place near `x`, as the centre of the darkness below the mean of the strip, averaged along the tick.
double tick_near(double x, double y_from, double y_to) {
  constexpr double reach = 1.8, step = 0.05;
  const int count = static_cast<int>(2 * reach / step) + 1;
  std::vector<double> profile(static_cast<std::size_t>(count));
  for (int i = 0; i < count; ++i)
    for (double y = y_from; y <= y_to; y += 0.25) profile[static_cast<std::size_t>(i)] += grey(x - reach + i * step, y);
  const double steel = 0.5 * (profile.front() + profile.back());
  double weight = 0, moment = 0;
  for (int i = 0; i < count; ++i) {
    const double dark = std::max(0.0, 0.85 * steel - profile[static_cast<std::size_t>(i)]);
    weight += dark;
    moment += dark * (x - reach + i * step);
  }
  REQUIRE(weight > 0);
  return moment / weight;
}

}  // namespace

TEST_CASE("the ticks of the strips on the wall lie where they belong in the written pixels", "[demo]") {
  const Made& m = made();
  double square = 0;
  int count = 0;
  for (const auto& strip : m.truth.at("strips")) {
    if (strip.at("proud") != 0) continue;
    const double x = strip.at("zero")[0], y = strip.at("zero")[1];
    const double from = strip.at("ticks").at("long_only_between")[0], to = strip.at("ticks").at("long_only_between")[1];
    for (int mm = 0; mm <= 100; mm += 5) {
      const double error = tick_near(x + mm, y + from + 1.5, y + to - 1.5) - (x + mm);
      square += error * error;
      ++count;
    }
  }
  REQUIRE(count == 63);
  const double rms = std::sqrt(square / count);
  WARN("ticks: " << rms << " mm RMS");
  CHECK(rms < 0.1);
}

TEST_CASE("the strip that stands proud reads as long as geometry predicts", "[demo]") {
  const Made& m = made();
  const auto& eye = m.truth.at("camera").at("eye");
  for (const auto& strip : m.truth.at("strips")) {
    const double proud = strip.at("proud");
    if (proud == 0) continue;
    // A point at height h is seen where the ray from the eye through it meets the wall.
    const double h = eye[2], grow = h / (h - proud);
    const auto on_wall = [&](double x, double y) {
      return Point{double(eye[0]) + grow * (x - double(eye[0])), double(eye[1]) + grow * (y - double(eye[1]))};
    };
    const double x = strip.at("zero")[0], y = strip.at("zero")[1];
    const Point a = on_wall(x, y + 7), b = on_wall(x + 100, y + 7);
    const double read = tick_near(b.x, b.y - 1.2, b.y + 1.2) - tick_near(a.x, a.y - 1.2, a.y + 1.2);
    const double predicted = 100 * grow - 100;
    WARN("proud strip: +" << read - 100 << " mm, predicted +" << predicted << " mm");
    CHECK(read - 100 == Approx(predicted).epsilon(0.1));
  }
}

TEST_CASE("the chain's map is the camera's", "[demo]") {
  const Made& m = made();
  const auto& h = m.truth.at("wall_to_pixels");
  const Layout layout = lay_out(m.chain, {{2400, 1600}, 3, Depth::u8, {}});
  for (int y = 0; y <= 600; y += 60)
    for (int x = 0; x <= 900; x += 60) {
      const auto row = [&](int i) {
        return double(h[static_cast<std::size_t>(i)][0]) * x + double(h[static_cast<std::size_t>(i)][1]) * y +
               double(h[static_cast<std::size_t>(i)][2]);
      };
      const Carried c = carry(layout, {row(0) / row(2), row(1) / row(2)}, 0, 1);
      CHECK(std::abs(c.point.x * m.pixel.x - x) < 0.01);  // corners in the chain are rounded to 0.01 px
      CHECK(std::abs(c.point.y * m.pixel.y - y) < 0.01);
    }
}

TEST_CASE("the lengths of the demo read true where the wall is, and did not before", "[demo]") {
  const Made& m = made();
  const SourceShape shape{{2400, 1600}, 3, Depth::u8, {}};
  const Layout layout = lay_out(m.chain, shape);
  const LengthSummary after = summarise_lengths(m.chain, shape, layout, 1),
                      before = summarise_lengths(m.chain, shape, layout, 0);
  CHECK(after.agree == 3);
  CHECK(after.largest < 0.05);
  CHECK(after.worst == Approx(100.0 * 20 / 1100).epsilon(0.02));
  CHECK(before.spread > 0.15);
}

TEST_CASE("a set is known by its truth, and remade when that is missing", "[demo]") {
  const Made& m = made();
  CHECK(demo_is_there(m.scratch.path()));
  CHECK_FALSE(demo_is_there(m.scratch / "nowhere"));
}

TEST_CASE("one set is rendered alone, and known from the others", "[demo]") {
  const test::Scratch scratch;
  write_demo(scratch.path(), {}, "roundel.fexel.json");
  CHECK(scratch.entries() == 3);  // the picture, its chain and the truth
  CHECK(demo_is_there(scratch.path(), "roundel.fexel.json"));
  CHECK_FALSE(demo_is_there(scratch.path(), "card.fexel.json"));
  CHECK_FALSE(demo_is_there(scratch.path()));
  CHECK(checksum(scratch / "roundel.png") == checksum(made().scratch / "roundel.png"));
  std::filesystem::remove(scratch / "roundel.png");
  CHECK_FALSE(demo_is_there(scratch.path(), "roundel.fexel.json"));
  CHECK_THROWS_AS(write_demo(scratch.path(), {}, "nothing.fexel.json"), Error);
}

TEST_CASE("corners from edges are where the camera saw them, by hand they need not be", "[demo][edges]") {
  const Image picture = read_picture(made().scratch / "wall-oblique.png");
  const EdgeView view{picture, Map()};
  Quad truth;
  for (std::size_t i = 0; i < 4; ++i)
    truth[i] = {made().truth.at("field").at("corners_px")[i][0], made().truth.at("field").at("corners_px")[i][1]};
  std::mt19937 random(7);
  std::uniform_real_distribution<double> hand(-1.5, 1.5);
  double square = 0, stated = 0;
  constexpr int rounds = 5;
  for (int round = 0; round < rounds; ++round) {
    Quad placed = truth;
    for (Point& p : placed) p = p + Point{hand(random), hand(random)};
    const EdgeCorners found = corners_from_edges(view, placed, 12);
    for (std::size_t i = 0; i < 4; ++i) {
      INFO("round " << round << ", corner " << i << ": off by " << found.corners[i].x - truth[i].x << ", "
                    << found.corners[i].y - truth[i].y << ", stated " << found.sigma[i]);
      CHECK(found.sides[i].kind == EdgeLine::Kind::stripe);
      CHECK(std::abs(found.sides[i].bow) < 0.1 + 3 * found.sides[i].bow_sigma);
      square += std::pow(distance(found.corners[i], truth[i]), 2) / (8 * rounds);
      stated += found.sigma[i] / (4 * rounds);
    }
  }
  INFO("RMS of a coordinate " << std::sqrt(square) << " px, stated " << stated << " px");
  CHECK(std::sqrt(square) < 0.05);
  CHECK(stated < 0.1);
}

TEST_CASE("the height off the plane predicts how the proud strip reads", "[demo][cost]") {
  const Layout layout = lay_out(made().chain, {{2400, 1600}, 3, Depth::u8, {}});
  const auto camera = plane_camera(made().chain, layout, 1);
  REQUIRE(camera);
  const double eye = double(made().truth.at("camera").at("eye")[2]);
  CHECK(camera->height == Approx(std::abs(eye)).epsilon(0.002));
  const Json& strip = made().truth.at("strips")[3];
  const double proud = strip.at("proud");
  const auto& ends = strip.at("ends_px");
  const Carried a = carry(layout, {ends[0][0], ends[0][1]}, 0, 1), b = carry(layout, {ends[1][0], ends[1][1]}, 0, 1);
  const double read = length_between(a.point, b.point, layout.result().pixel).value / double(strip.at("length")) - 1;
  CHECK(camera->reads_longer(proud) == Approx(read).epsilon(0.02));
}

TEST_CASE("the rectangle that the wall's frame makes is proposed first", "[demo][edges]") {
  const Layout layout = lay_out(made().chain, {{2400, 1600}, 3, Depth::u8, {}});
  const Pyramid picture(std::make_shared<const Image>(read_picture(made().scratch / "wall-oblique.png")));
  const auto proposals = propose_rectangles(picture);
  REQUIRE(proposals.size() > 1);
  const RectifyStep& rectify = std::get<RectifyStep>(made().chain.steps[0].kind);
  // Corners on the wall, in mm, from the reference's upper left one.
  const auto on_wall = [&](const Proposal& proposal) {
    Quad out;
    for (std::size_t i = 0; i < 4; ++i) {
      const Carried c = carry(layout, proposal.corners[i], 0, 1);
      out[i] = {c.point.x * made().pixel.x, c.point.y * made().pixel.y};
    }
    return out;
  };
  const Point truth[] = {{0, 0}, {rectify.width, 0}, {rectify.width, rectify.height}, {0, rectify.height}};
  for (const Proposal& proposal : proposals) {
    const Quad quad = on_wall(proposal);
    std::string text;
    for (const Point& p : quad) text += fmt::format(" ({:.0f}, {:.0f})", p.x, p.y);
    UNSCOPED_INFO("support " << proposal.support << text);
  }
  const Quad first = on_wall(proposals.front());
  for (std::size_t i = 0; i < 4; ++i) CHECK(distance(first[i], truth[i]) < 8);
  // None comes twice.
  for (std::size_t i = 0; i < proposals.size(); ++i)
    for (std::size_t j = i + 1; j < proposals.size(); ++j) {
      double furthest = 0;
      for (std::size_t k = 0; k < 4; ++k)
        furthest = std::max(furthest, distance(proposals[i].corners[k], proposals[j].corners[k]));
      CHECK(furthest > 12);
    }
}

namespace {

/// What a chain of the demo makes of its picture.
Image result_of(const std::string& chain_name, const std::string& picture, Layout& layout) {
  const Chain chain = load_chain((made().scratch / chain_name).string());
  const auto path = made().scratch / picture;
  const FileInfo info = read_info(path);
  const Pyramid source(std::make_shared<const Image>(read_picture(path)));
  layout = lay_out(
      chain, {{source.base().width(), source.base().height()}, source.base().bands(), Depth::u8, info.pixel_size});
  layout.require_sound();
  return evaluate(chain, layout, source, {}, nullptr);
}

}  // namespace

TEST_CASE("the roundel's 72 marks stand evenly in the strip, within 0.1 px", "[demo]") {
  const Json truth = parse_json(read_text(made().scratch / "truth.json")).at("roundel");
  Layout layout;
  const Image strip = result_of("roundel.fexel.json", "roundel.png", layout);
  const int marks = truth.at("marks");
  const double pitch = double(strip.width()) / marks;
  const double outer = 720;  // of the chain: row 0
  const int top = static_cast<int>(outer - truth.at("marks_between_px")[1].get<double>()) + 4,
            bottom = static_cast<int>(outer - truth.at("marks_between_px")[0].get<double>()) - 4;
  REQUIRE(bottom > top + 10);
  double square = 0, most = 0;
  for (int k = 0; k < marks; ++k) {
    // The strip begins half a mark before the first one.
    const double expected = (k + 0.5) * pitch;
    std::vector<double> dark;
    const int from = static_cast<int>(std::floor(expected)) - 7;
    for (int x = from; x <= from + 14; ++x) {
      double sum = 0;
      for (int y = top; y <= bottom; ++y) sum += test::value(strip, 1, x, y);
      dark.push_back(sum / (bottom - top + 1));
    }
    const double ground = (dark[0] + dark[1] + dark[13] + dark[14]) / 4;
    double weight = 0, moment = 0;
    for (std::size_t i = 0; i < dark.size(); ++i) {
      const double d = std::max(0.0, 0.9 * ground - dark[i]);
      weight += d;
      moment += d * (from + static_cast<double>(i) + 0.5);
    }
    REQUIRE(weight > 50);
    const double off = moment / weight - expected;
    square += off * off;
    most = std::max(most, std::abs(off));
  }
  INFO("RMS " << std::sqrt(square / marks) << " px, at most " << most << " px");
  CHECK(most < 0.1);
}

TEST_CASE("the roundel's centre is found from its rim within 0.05 px", "[demo]") {
  const Json truth = parse_json(read_text(made().scratch / "truth.json")).at("roundel");
  const Image picture = read_picture(made().scratch / "roundel.png");
  const Point centre{truth.at("centre_px")[0], truth.at("centre_px")[1]};
  const auto rim = find_ring_edge({picture, Map()}, {800, 800}, 700, 20);
  REQUIRE(rim);
  INFO(rim->centre.x << " " << rim->centre.y << " for " << centre.x << " " << centre.y);
  CHECK(distance(rim->centre, centre) < 0.05);
  CHECK(std::abs(rim->radius - truth.at("rim_px").get<double>()) < 0.1);
}

TEST_CASE("the record card comes out level, whole, and with its pixel size", "[demo]") {
  const Json truth = parse_json(read_text(made().scratch / "truth.json")).at("card");
  Layout layout;
  const Image card = result_of("card.fexel.json", "record-card.png", layout);
  CHECK(card.width() == 800);
  CHECK(card.height() == 533);
  REQUIRE(layout.result().pixel);
  // 150 mm over 800 px
  CHECK(layout.result().pixel->x == Approx(150.0 / 800).epsilon(1e-3));
  // The truth's corners land in the result's, and its upper side is level.
  const auto corner = [&](int i) {
    const Json& p = truth.at("card").at("corners_px")[static_cast<std::size_t>(i)];
    return *layout.result().from_source.forward({p[0], p[1]});
  };
  CHECK(distance(corner(0), {0, 0}) < 0.6);
  CHECK(distance(corner(2), {800, 533}) < 0.9);
  CHECK(std::abs(corner(0).y - corner(1).y) < 0.01);
  // Dark lid nowhere, light paper along the rim.
  for (int x = 20; x < 780; x += 40) CHECK(test::value(card, 0, x, 8) > 150);
}

namespace {

/// RMS over a picture of the distance between where a transform puts its pixels and where the truth does.
double off_by(const Matrix3& found, const Json& truth, Size size) {
  Matrix3 m;
  for (int r = 0; r < 3; ++r)
    for (int c = 0; c < 3; ++c) m(r, c) = truth[static_cast<std::size_t>(r)][static_cast<std::size_t>(c)].get<double>();
  double sum = 0;
  int count = 0;
  for (double v = 0.05; v < 1; v += 0.1)
    for (double u = 0.05; u < 1; u += 0.1, ++count)
      sum += std::pow(distance(*Map::apply(found, {u * size.width, v * size.height}),
                               *Map::apply(m, {u * size.width, v * size.height})),
                      2);
  return std::sqrt(sum / count);
}

Alignment aligned(const std::vector<FrameFile>& frames, const AlignOptions& options) {
  return align_frames({static_cast<int>(frames.size()),
                       [&](int i, const Job& job) { return read_frame(frames[static_cast<std::size_t>(i)], {}, job); }},
                      options, {});
}

}  // namespace

TEST_CASE("the drying wall is aligned as it was held, its stranger left out, its blurred frame within 0.1 px",
          "[demo]") {
  const Json truth = parse_json(read_text(made().scratch / "truth.json")).at("drying");
  const auto frames = list_frames({made().scratch / "drying"}, false, {});
  REQUIRE(frames.size() == 16);
  const Alignment found = aligned(frames, {});
  for (std::size_t i = 0; i < 16; ++i) {
    const Json& told = truth["frames"][i];
    INFO("frame " << i + 1 << " " << found.frames[i].reason);
    CHECK(frames[i].path.filename() == told["file"].get<std::string>());
    if (told["to_first"].is_null()) {
      CHECK(found.frames[i].status == MatchStatus::failed);
      continue;
    }
    CHECK(found.frames[i].status != MatchStatus::failed);
    const bool blurred = told["shows"] == "the wall, blurred";
    CHECK(off_by(found.frames[i].matrix, told["to_first"], {1600, 1200}) < (blurred ? 0.1 : 0.05));
  }
}

TEST_CASE("the five bands are aligned within 0.1 px, and their names are read", "[demo]") {
  const Json truth = parse_json(read_text(made().scratch / "truth.json")).at("bands");
  const auto frames = list_frames({made().scratch / "bands.ome.tif"}, true, {});
  REQUIRE(frames.size() == 5);
  AlignOptions options;
  options.match.model = Model::similarity;
  options.likeness = SimilarityMetric::structure;
  options.against = ReferenceMode::frame;
  options.number = 3;
  const Alignment found = aligned(frames, options);
  for (std::size_t i = 0; i < 5; ++i) {
    INFO(frames[i].name << " " << found.frames[i].reason);
    CHECK(frames[i].name == truth["bands"][i]["name"].get<std::string>());
    CHECK(off_by(found.frames[i].matrix, truth["bands"][i]["to_green"], {1280, 960}) < 0.1);
  }
}

TEST_CASE("the engraved lines and the board say the pixel size and the lens that they were made with") {
  const Json truth = parse_json(read_text(made().scratch / "truth.json"));
  const RuledTarget lines =
      find_ruled_target(read_picture(made().scratch / "line-target.png"), {60, 180, 1300, 240}, {});
  const Json& of_lines = truth.at("line-target");
  CHECK(static_cast<int>(lines.lines.size()) == of_lines.at("lines"));
  CHECK(std::abs(lines.pitch / of_lines.at("pitch_px").get<double>() - 1) < 2e-4);
  CHECK(std::abs(lines.angle + of_lines.at("clockwise_degrees").get<double>()) < 0.02);
  const Json& board = truth.at("board");
  std::vector<std::vector<GridNode>> views;
  Size size;
  for (const Json& view : board.at("views")) {
    const Image image = read_picture(made().scratch / ("board/" + view.at("file").get<std::string>()));
    size = {image.width(), image.height()};
    const GridTarget found = find_grid_target(image, {0, 0, size.width, size.height}, {});
    CHECK(found.columns == board.at("columns"));
    CHECK(found.rows == board.at("rows"));
    CHECK(found.missing < 6);
    for (const Json& corner : view.at("corner_nodes_px")) {
      double nearest = 1e9;
      for (const GridNode& n : found.nodes)
        nearest = std::min(nearest, distance(n.at, {corner[0].get<double>(), corner[1].get<double>()}));
      // A corner may be among the missing.
      CHECK((nearest < 0.1 || nearest > 20));
    }
    views.push_back(found.nodes);
  }
  const LensCalibration lens = solve_lens(views, size);
  CHECK(std::abs(lens.focal.value - board.at("focal_px").get<double>()) < 4 * lens.focal.sigma);
  CHECK(std::abs(lens.centre_x.value - board.at("centre_px")[0].get<double>()) < 4 * lens.centre_x.sigma);
  CHECK(std::abs(lens.centre_y.value - board.at("centre_px")[1].get<double>()) < 4 * lens.centre_y.sigma);
  CHECK(std::abs(lens.terms.k1 - board.at("k1").get<double>()) < 4 * lens.sigma.k1);
  CHECK(std::abs(lens.terms.k2 - board.at("k2").get<double>()) < 4 * lens.sigma.k2);
}

TEST_CASE("the card's measurements read what it was printed with, and its scale bar can be drawn") {
  const Json truth = parse_json(read_text(made().scratch / "truth.json")).at("card");
  const Chain chain = load_chain((made().scratch / "card.fexel.json").string());
  const SourceShape shape{{1700, 1250}, 1, Depth::u8, PixelSize{0.1, 0.1, "mm"}};
  const Layout layout = lay_out(chain, shape);
  REQUIRE(chain.measurements.size() == 3);
  for (int station = 0; station <= layout.last(); ++station) {
    INFO("station " << station);
    const auto read = [&](std::size_t i) {
      return read_at(chain, shape, layout, chain.measurements[i], station).value.value_or(Quantity{}).value;
    };
    CHECK(read(0) == Approx(truth.at("ruler").at("length").get<double>()).epsilon(1e-3));
    CHECK(read(1) == Approx(truth.at("grey_step_mm2").get<double>()).epsilon(2e-3));
    CHECK(read(2) == Approx(truth.at("frame_angle_degrees").get<double>()).epsilon(1e-3));
  }
  CHECK(mark_problems(chain, shape, layout).empty());
}

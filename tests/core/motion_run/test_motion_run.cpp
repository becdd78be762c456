#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <sstream>

#include "motion_run/motion_result.h"
#include "motion_run/motion_tables.h"
#include "tests/core/motion_run/surface_frames.h"

// Movement over files: through chains, into tables, maps and viewers' files.

using namespace fexel;
using namespace fexel::test;

namespace {

std::vector<std::vector<std::string>> cells_of(const std::string& csv) {
  std::vector<std::vector<std::string>> out;
  std::istringstream lines(csv);
  for (std::string line; std::getline(lines, line);) {
    out.emplace_back();
    std::size_t begin = 0;
    for (std::size_t at = 0; at <= line.size(); ++at)
      if (at == line.size() || line[at] == ',') {
        out.back().push_back(line.substr(begin, at - begin));
        begin = at + 1;
      }
  }
  return out;
}

}  // namespace

TEST_CASE("movement over files is that of the formula, in px and in the unit of the calibration", "[motion]") {
  const test::Scratch scratch;
  const auto files = write_frames_of(scratch, 4);
  Chain chain;
  chain.calibration = Calibration{"bench", {0.2, 0.2, "mm"}, 0, {}, {}};
  MotionRunOptions options = options_of();
  options.probe.settings.strain = 5;
  MotionRunSummary summary;
  const auto results = run(chain, files, options, &summary);
  REQUIRE(results.size() == 3);
  CHECK(summary.fields == 3);
  CHECK(summary.notes.empty());
  for (const MotionResultFrame& r : results) {
    CHECK(r.field.count(MotionStatus::ok) == r.field.used());
    CHECK(rms_of(r.field, motion_at(r.number - 1)) < 0.02);
    for (const auto& s : r.strain)
      if (s) CHECK(s->xx == Approx(0.0015 * (r.number - 1)).margin(2e-3));
  }
  // The table: one head, a row a point; real numbers are pixels times their size.
  const MotionTable table{0, true, false};
  const auto rows = cells_of(motion_csv_head(table) + motion_csv_rows(results[1], summary.units, table));
  REQUIRE(rows.size() == 1 + static_cast<std::size_t>(results[1].field.used()));
  const auto column = [&](const std::string& name) {
    return static_cast<std::size_t>(std::ranges::find(rows[0], name) - rows[0].begin());
  };
  const std::vector<std::string> promised{"frame",  "x",      "y",      "dx",      "dy",      "score",
                                          "status", "x_real", "y_real", "dx_real", "dy_real", "unit"};
  CHECK(std::vector(rows[0].begin(), rows[0].begin() + 12) == promised);
  for (std::size_t i = 1; i < rows.size(); ++i) {
    REQUIRE(rows[i].size() == rows[0].size());
    CHECK(rows[i][0] == "3");
    const auto number = [&](const char* name) { return std::stod(rows[i][column(name)]); };
    CHECK(number("x_real") == Approx(0.2 * number("x")));
    CHECK(number("dx_real") == Approx(0.2 * number("dx")).margin(1e-6));
    CHECK(number("dy_real") == Approx(0.2 * number("dy")).margin(1e-6));
    CHECK(rows[i][column("unit")] == "mm");
    CHECK(rows[i][column("status")] == "ok");
    CHECK(std::abs(number("dx") - motion_at(2)({number("x"), number("y")}).x) < 6 * number("uncertainty") + 1e-3);
  }
  // Without a calibration the real columns are empty, not px.
  const auto plain = cells_of(motion_csv_head({}) + motion_csv_rows(results[0], {}, {}));
  for (std::size_t k = 7; k < 12; ++k) CHECK(plain[1][k].empty());
}

TEST_CASE("maps hold all of a result, and are opened again to the same", "[motion]") {
  const test::Scratch scratch;
  const auto files = write_frames_of(scratch, 4);
  MotionRunOptions options = options_of();
  options.probe.settings.subset.back = true;
  options.probe.settings.clean = {{CleanRule::Kind::neighbours, 2, {}}};
  // A polygon: not every point of the grid counts.
  options.probe.settings.region = {{50, 50}, {250, 60}, {150, 210}};
  Chain chain;
  chain.calibration = Calibration{"bench", {0.2, 0.2, "mm"}, 0, {}, {}};
  chain.axes = Axes{{40, 200}, 0, {5, 0}, true, true, 12};
  chain.time_step = TimeStep{0.5, "s"};
  MotionRunSummary summary;
  const auto results = run(chain, files, options, &summary);
  MotionResultHead head{options.probe, summary.grid, summary.units, summary.size, {2, 3, 4}, {{"frame-01.tif", "ab"}}};
  const auto path = scratch / "fields.tif";
  {
    MotionResultWriter writer(path, head, 3, false, nullptr);
    for (const auto& r : results) writer.append(r);
    writer.finish();
  }
  const MotionResult again(path);
  CHECK(again.head().complete);
  CHECK(again.head().probe == options.probe);
  CHECK(again.head().grid == summary.grid);
  CHECK(again.head().frames == head.frames);
  CHECK(again.head().sources == head.sources);
  CHECK(again.head().units.pixel == summary.units.pixel);
  CHECK(again.head().units.time == summary.units.time);
  REQUIRE(again.head().units.axes);
  const Point place{123, 77};
  CHECK(distance(again.head().units.coordinates(place), summary.units.coordinates(place)) < 1e-9);
  for (int k = 0; k < 3; ++k) {
    const MotionResultFrame r = again.field(k);
    const MotionField& was = results[static_cast<std::size_t>(k)].matched;
    CHECK(r.number == k + 2);
    CHECK(r.matched.reference == was.reference);
    for (std::size_t i = 0; i < was.points.size(); ++i) {
      if (was.grid.used[i] == 0) continue;
      const MotionPoint &a = r.matched.points[i], &b = was.points[i];
      CHECK(a.status == b.status);
      CHECK(a.reason == b.reason);
      CHECK(distance(a.moved, b.moved) < 1e-5);
      CHECK((a.gradient - b.gradient).norm() < 1e-6);
      CHECK(a.sigma.x == Approx(b.sigma.x));
      CHECK(a.back.has_value() == b.back.has_value());
    }
  }
  const auto curve = again.over_time(8, {});
  REQUIRE(curve.size() == 3);
  CHECK(distance(curve[2].moved, results[2].matched.points[8].moved) < 1e-5);
  // Any reader opens it: bands as named, NaN where there is nothing.
  const FileInfo info = read_info(path);
  CHECK(info.frames == 3);
  CHECK(info.bands == static_cast<int>(motion_bands().size()));
  CHECK(info.depth == Depth::f32);
}

TEST_CASE("a run that ends early leaves whole fields, and says that it is not complete", "[motion]") {
  const test::Scratch scratch;
  const auto files = write_frames_of(scratch, 4);
  MotionRunSummary summary;
  const MotionRunOptions options = options_of();
  const auto results = run({}, files, options, &summary);
  const auto path = scratch / "fields.tif";
  {
    MotionResultWriter writer(path, {options.probe, summary.grid, summary.units, summary.size, {2, 3, 4}, {}}, 3, false,
                              nullptr);
    writer.append(results[0]);
    writer.append(results[1]);
    writer.finish();
  }
  const MotionResult again(path);
  CHECK(again.fields() == 2);
  CHECK_FALSE(again.head().complete);
  CHECK(rms_of(again.field(1).matched, motion_at(2)) < 0.02);
}

TEST_CASE("what is no result, is broken or cut short is refused with a sentence", "[motion]") {
  const test::Scratch scratch;
  const auto files = write_frames_of(scratch, 3);
  CHECK_THROWS_WITH(MotionResult(files[0].path), !Catch::Contains("JSON parse"));
  MotionRunSummary summary;
  const MotionRunOptions options = options_of();
  const auto results = run({}, files, options, &summary);
  const auto path = scratch / "fields.tif";
  {
    MotionResultWriter writer(path, {options.probe, summary.grid, summary.units, summary.size, {2, 3}, {}}, 2, false,
                              nullptr);
    for (const auto& r : results) writer.append(r);
    writer.finish();
  }
  const auto size = std::filesystem::file_size(path);
  for (const double share : {0.2, 0.5, 0.9}) {
    const auto cut = scratch / fmt::format("cut-{}.tif", share);
    std::filesystem::copy_file(path, cut);
    std::filesystem::resize_file(cut, static_cast<std::uintmax_t>(share * static_cast<double>(size)));
    try {
      const MotionResult broken(cut);
      for (int k = 0; k < broken.fields(); ++k) broken.field(k);
      // As far as it goes is whole, and it is said.
      CHECK_FALSE(broken.head().complete);
    } catch (const Error& error) {
      CHECK(error.kind() == Error::Kind::input);
    }
  }
}

TEST_CASE("one frame, frames of unlike size, and masks of another size are refused with a sentence", "[motion]") {
  const test::Scratch scratch;
  auto files = write_frames_of(scratch, 3);
  const MotionRunOptions options = options_of();
  CHECK_THROWS_WITH(run({}, {files[0]}, options), Catch::Contains("only one frame"));
  std::vector<Image> small;
  small.push_back(test::noise(100, 80, 1, Depth::u8));
  write_pictures(scratch / "small.tif", small, {});
  MotionRunOptions masked = options;
  masked.mask = scratch / "small.tif";
  CHECK_THROWS_WITH(run({}, files, masked), Catch::Contains("mask has 100 x 80"));
  // A frame that does not go with the others is left out, and said; the rest is measured.
  std::vector<FrameFile> mixed{files[0], pages_of(scratch / "small.tif", {}).front(), files[2]};
  MotionRunSummary summary;
  const auto results = run({}, mixed, options, &summary);
  REQUIRE(results.size() == 1);
  CHECK(results[0].number == 3);
  REQUIRE(summary.notes.size() == 1);
  CHECK_THAT(summary.notes[0], Catch::Contains("small.tif"));
}

TEST_CASE("shares of a run together are the whole", "[motion]") {
  const test::Scratch scratch;
  const auto files = write_frames_of(scratch, 6);
  MotionRunOptions options = options_of();
  options.probe.settings.against = GENERATE(MotionAgainst::first, MotionAgainst::neighbour, MotionAgainst::pairs);
  const auto whole = run({}, files, options);
  const int fields = static_cast<int>(whole.size());
  std::vector<MotionResultFrame> parts;
  for (const auto& shard : {std::pair(1, fields / 2), std::pair(fields / 2 + 1, fields)}) {
    options.shard = shard;
    for (auto& r : run({}, files, options)) parts.push_back(std::move(r));
  }
  REQUIRE(parts.size() == whole.size());
  for (std::size_t k = 0; k < whole.size(); ++k) {
    CHECK(parts[k].number == whole[k].number);
    for (std::size_t i = 0; i < whole[k].field.points.size(); ++i)
      CHECK(parts[k].field.points[i].moved == whole[k].field.points[i].moved);
  }
}

TEST_CASE("the camera's own motion, taken out by an align step before, leaves nearly nothing of it", "[motion]") {
  const test::Scratch scratch;
  // The camera moves; the surface does not.
  std::vector<std::filesystem::path> names;
  const Point shifts[] = {{0, 0}, {3.37, -2.21}, {-1.55, 4.64}};
  AlignStep align;
  for (int k = 0; k < 3; ++k) {
    std::vector<Image> pages;
    pages.push_back(moved_frame(
        320, 280, surface, [&](Point) { return shifts[k]; }, 1, static_cast<unsigned>(k + 1), Depth::u8));
    names.emplace_back(scratch / fmt::format("f{}.tif", k + 1));
    write_pictures(names.back(), pages, {});
    FoundFrame found;
    found.matrix = translation(-shifts[k].x, -shifts[k].y);
    found.status = MatchStatus::ok;
    align.frames.push_back(found);
  }
  Chain chain;
  chain.steps.push_back({align, true, {}});
  MotionRunOptions options = options_of(1);
  options.probe.settings.subset.size = 31;
  for (const MotionResultFrame& r : run(chain, list_frames(names, false, {}), options)) {
    const Point mean = mean_of(r.field);
    CHECK(std::hypot(mean.x, mean.y) < 0.003);
    CHECK(r.field.count(MotionStatus::ok) == r.field.used());
  }
}

TEST_CASE("a rectified plane, seen at a slant, moves by the same in mm", "[motion]") {
  const test::Scratch scratch;
  // 0.25 mm a pixel straight on; the slanted camera sees it through a perspective.
  const double pixel = 0.25;
  Matrix3 slant;
  slant << 0.82, 0.06, 38, -0.03, 0.97, 18, -3.2e-4, 0.6e-4, 1;
  const Map see(slant);
  std::vector<std::filesystem::path> straight, slanted;
  for (int k = 0; k < 2; ++k) {
    const auto moved = [k](Point p) { return Point{k * (1.3 + 0.004 * p.x), k * -0.8}; };
    std::vector<Image> a, b;
    a.push_back(moved_frame(340, 300, surface, moved, 1, static_cast<unsigned>(k + 1), Depth::u8));
    Image image(340, 300, 1, Depth::u8);
    std::mt19937 random(static_cast<unsigned>(k) + 50);
    std::normal_distribution<double> normal(0, 1);
    std::int64_t clamped = 0;
    for (int y = 0; y < 300; ++y)
      for (int x = 0; x < 340; ++x) {
        const auto on_plane = see.backward({x + 0.5, y + 0.5});
        const double v = on_plane ? surface(test::came_from(moved, *on_plane)) : 0;
        image.row<std::uint8_t>(0, y)[x] = to_sample<std::uint8_t>(static_cast<float>(v + normal(random)), clamped);
      }
    b.push_back(std::move(image));
    straight.emplace_back(scratch / fmt::format("a{}.tif", k));
    slanted.emplace_back(scratch / fmt::format("b{}.tif", k));
    write_pictures(straight.back(), a, {});
    write_pictures(slanted.back(), b, {});
  }
  Chain plain;
  plain.calibration = Calibration{"", {pixel, pixel, "mm"}, 0, {}, {}};
  const Point corners[] = {{60, 60}, {240, 60}, {240, 220}, {60, 220}};
  std::string text;
  for (const Point c : corners) {
    const Point seen = *see.forward(c);
    text += fmt::format("{}[{},{}]", text.empty() ? "" : ",", seen.x, seen.y);
  }
  // The rectified picture begins at the rectangle's corner.
  const Chain rectified = parse_chain(fmt::format(
      R"({{"fexel":1,"steps":[{{"step":"rectify","corners":[{}],"width":{},"height":{},"unit":"mm","pixel_size":{}}}]}})",
      text, 180 * pixel, 160 * pixel, pixel));
  MotionRunOptions a = options_of(0), b = options_of(1);
  a.probe.settings.region = {{80, 80}, {220, 80}, {220, 200}, {80, 200}};
  b.probe.settings.region = {{20, 20}, {160, 20}, {160, 140}, {20, 140}};
  const auto one = run(plain, list_frames(straight, false, {}), a),
             two = run(rectified, list_frames(slanted, false, {}), b);
  REQUIRE(one.size() == 1);
  REQUIRE(two.size() == 1);
  const MotionUnits units{PixelSize{pixel, pixel, "mm"}, {}, {}};
  int compared = 0, within = 0;
  for (std::size_t i = 0; i < two[0].field.points.size(); ++i) {
    const MotionPoint& p = two[0].field.points[i];
    if (two[0].field.grid.used[i] == 0 || !p.good()) continue;
    const Point at = two[0].field.grid.at(i) + Point{60, 60}, truth{1.3 + 0.004 * at.x, -0.8};
    const Point off = p.moved - truth;
    ++compared;
    within += std::abs(off.x) < 3 * p.sigma.x && std::abs(off.y) < 3 * p.sigma.y;
    CHECK(pixel * std::hypot(off.x, off.y) < pixel * 0.08);
  }
  CHECK(compared > 50);
  CHECK(within >= 0.97 * compared);
  CHECK(rms_of(one[0].field, [](Point p) { return Point{1.3 + 0.004 * p.x, -0.8}; }) < 0.02);
}

TEST_CASE("files for viewers hold the field, y up", "[motion]") {
  const test::Scratch scratch;
  const auto files = write_frames_of(scratch, 3);
  MotionRunSummary summary;
  MotionRunOptions options = options_of();
  options.probe.settings.strain = 3;
  Chain chain;
  chain.time_step = TimeStep{2, "s"};
  const auto results = run(chain, files, options, &summary);
  std::istringstream in(motion_vtk(results[1], summary.units, "surface"));
  std::string line, word;
  std::getline(in, line);
  CHECK(line == "# vtk DataFile Version 3.0");
  std::getline(in, line);
  CHECK_THAT(line, Catch::Contains("frame 3"));
  int columns = 0, rows = 0, deep = 0;
  std::size_t points = 0;
  while (in >> word && word != "DIMENSIONS")
    ;
  in >> columns >> rows >> deep >> word >> points;
  CHECK(points == static_cast<std::size_t>(columns * rows));
  in >> word;
  std::vector<Point> at(points), by(points);
  double z = 0;
  for (Point& p : at) in >> p.x >> p.y >> z;
  while (in >> word && word != "displacement")
    ;
  in >> word;
  for (Point& p : by) in >> p.x >> p.y >> z;
  REQUIRE(in);
  for (std::size_t i = 0; i < points; ++i) {
    CHECK(at[i].y == Approx(-results[1].field.grid.at(i).y));
    CHECK(by[i].x == Approx(results[1].field.points[i].moved.x).margin(1e-6));
    CHECK(by[i].y == Approx(-results[1].field.points[i].moved.y).margin(1e-6));
  }
  while (in >> word && word != "velocity")
    ;
  in >> word;
  for (std::size_t i = 0; i < points; ++i) {
    Point v;
    in >> v.x >> v.y >> z;
    // Two steps of two seconds.
    CHECK(v.x == Approx(by[i].x / 4).margin(1e-6));
  }
}

TEST_CASE("frames that are left out change no number of a frame, and no velocity", "[motion]") {
  const test::Scratch scratch;
  const auto files = write_frames_of(scratch, 7);
  Chain chain;
  chain.time_step = TimeStep{2, "s"};
  // The third frame is left out: 1, 2, 4, 5, 6, 7 remain.
  chain = with_left_out(chain, files, 2, true);
  MotionRunOptions options = options_of();
  const auto [against, from, to] =
      GENERATE(std::tuple(MotionAgainst::first, std::vector{1, 1, 1, 1, 1}, std::vector{2, 4, 5, 6, 7}),
               std::tuple(MotionAgainst::neighbour, std::vector{1, 1, 1, 1, 1}, std::vector{2, 4, 5, 6, 7}),
               std::tuple(MotionAgainst::pairs, std::vector{1, 4, 6}, std::vector{2, 5, 7}));
  options.probe.settings.against = against;
  MotionRunSummary summary;
  const auto results = run(chain, files, options, &summary);
  REQUIRE(results.size() == to.size());
  const auto path = scratch / "fields.tif";
  {
    MotionResultWriter writer(path, {options.probe, summary.grid, summary.units, summary.size, {}, {}},
                              static_cast<int>(to.size()), false, nullptr);
    for (const auto& r : results) writer.append(r);
    writer.finish();
  }
  const MotionResult again(path);
  CHECK(again.head().frames == to);
  CHECK(again.head().complete);
  for (std::size_t k = 0; k < to.size(); ++k) {
    CAPTURE(k);
    CHECK(results[k].number == to[k]);
    CHECK(results[k].file == files[static_cast<std::size_t>(to[k] - 1)].path);
    CHECK(results[k].matched.from + 1 == from[k]);
    CHECK(results[k].matched.frame + 1 == to[k]);
    CHECK_FALSE(results[k].matched.reference == 2);
    // What moved is that of the formula between just these frames.
    const auto start = motion_at(from[k] - 1), end = motion_at(to[k] - 1);
    CHECK(rms_of(results[k].field, [&](Point p) {
            const Point at = test::came_from(start, p);
            return at + end(at) - p;
          }) < 0.05);
    const MotionResultFrame read = again.field(static_cast<int>(k));
    CHECK(read.number == to[k]);
    CHECK(read.matched.from + 1 == from[k]);
    CHECK(read.matched.reference == results[k].matched.reference);
    CHECK(read.matched.frame + 1 == to[k]);
    // Velocity: what moved over the time from one to the other, which counts the frame that is left out.
    std::istringstream in(motion_vtk(results[k], summary.units, "surface"));
    std::string word;
    while (in >> word && word != "displacement")
      ;
    in >> word;
    const std::size_t points = results[k].field.points.size();
    std::vector<Point> by(points);
    double z = 0;
    for (Point& p : by) in >> p.x >> p.y >> z;
    while (in >> word && word != "velocity")
      ;
    in >> word;
    for (std::size_t i = 0; i < points; ++i) {
      Point v;
      in >> v.x >> v.y >> z;
      CHECK(v.x == Approx(by[i].x / (2. * (to[k] - from[k]))).margin(1e-6));
    }
    REQUIRE(in);
  }
}

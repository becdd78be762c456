// Files with channels, planes and times: which page is which, what is chosen, and what is written of them.
#include <catch2/catch.hpp>

#include "base/error.h"
#include "files/ome.h"
#include "run/align_run.h"
#include "run/axes.h"
#include "tests/scene.h"
#include "tests/support.h"

using namespace fexel;
namespace fs = std::filesystem;

namespace {

/// Pages of 3 channels, 4 planes and 5 times, in the order that the description says; sample(c, z, t) in all of a page.
fs::path stack(const test::Scratch& scratch, const std::string& description,
               const std::function<Image(int page)>& picture, int pages) {
  const fs::path path = scratch / "stack.ome.tif";
  std::vector<Image> all;
  for (int k = 0; k < pages; ++k) all.push_back(picture(k));
  WriteOptions how;
  how.description = description;
  how.replace = true;
  write_pictures(path, all, how);
  return path;
}

Matrix3 by(Point moved) {
  Matrix3 out = Matrix3::Identity();
  out(0, 2) = moved.x;
  out(1, 2) = moved.y;
  return out;
}

Image level(int value) {
  Image image(20, 10, 1, Depth::u8);
  for (int y = 0; y < 10; ++y)
    for (int x = 0; x < 20; ++x) image.row<std::uint8_t>(0, y)[x] = static_cast<std::uint8_t>(value);
  return image;
}

const std::string head =
    R"(<?xml version="1.0"?><OME xmlns="http://www.openmicroscopy.org/Schemas/OME/2016-06"><Image ID="Image:0"><Pixels ID="Pixels:0" Type="uint8" SizeX="20" SizeY="10" SizeC="3" SizeZ="4" SizeT="5" PhysicalSizeX="0.325" PhysicalSizeXUnit="µm" PhysicalSizeY="0.325" PhysicalSizeYUnit="µm" PhysicalSizeZ="1.5" TimeIncrement="2" TimeIncrementUnit="min" DimensionOrder=")";
const std::string channels =
    R"("><Channel ID="Channel:0:0" Name="DAPI"/><Channel ID="Channel:0:1" Name="GFP"/><Channel ID="Channel:0:2" Name="Cy5"/>)";
const std::string tail = "</Pixels></Image></OME>";

}  // namespace

TEST_CASE("pages of an OME-TIFF are told apart by every order of its axes", "[axes]") {
  const std::string order = GENERATE("XYCZT", "XYCTZ", "XYZCT", "XYZTC", "XYTCZ", "XYTZC");
  const test::Scratch scratch;
  const int sizes[] = {3, 4, 5};
  const fs::path path = stack(scratch, head + order + channels + "<TiffData/>" + tail, level, 60);
  const auto pages = read_pages(path);
  REQUIRE(pages.size() == 60);
  for (int k = 0; k < 60; ++k) {
    // The axis that is named first runs fastest.
    int rest = k, at[3] = {};
    for (int i = 2; i < 5; ++i) {
      const int axis = order[static_cast<std::size_t>(i)] == 'C'   ? 0
                       : order[static_cast<std::size_t>(i)] == 'Z' ? 1
                                                                   : 2;
      at[axis] = rest % sizes[axis];
      rest /= sizes[axis];
    }
    REQUIRE(pages[static_cast<std::size_t>(k)].info);
    CHECK(pages[static_cast<std::size_t>(k)].info->place == StackPlace{at[0], at[1], at[2]});
  }
  const FileInfo info = read_info(path, {}, 7);
  REQUIRE(info.axes);
  CHECK(info.axes->channel_names == std::vector<std::string>{"DAPI", "GFP", "Cy5"});
  CHECK(info.axes->plane_step == Approx(0.0015));
  CHECK(info.axes->time_step == Approx(120));
  REQUIRE(info.pixel_size);
  CHECK(in_unit(*info.pixel_size, "um").x == Approx(0.325).epsilon(1e-12));
  CHECK(info.place == pages[6].info->place);
}

TEST_CASE("single planes are placed by their own entries, and those of other files are not there", "[axes]") {
  const test::Scratch scratch;
  std::string entries;
  // Backwards, page by page; the last ten are elsewhere.
  for (int k = 0; k < 60; ++k)
    entries += "<TiffData IFD=\"" + std::to_string(k < 50 ? k : k - 50) + "\" FirstC=\"" + std::to_string(2 - k % 3) +
               "\" FirstZ=\"" + std::to_string(3 - k / 3 % 4) + "\" FirstT=\"" + std::to_string(4 - k / 12) + "\">" +
               (k < 50 ? "<UUID FileName=\"stack.ome.tif\">u</UUID>" : "<UUID FileName=\"other.ome.tif\">v</UUID>") +
               "</TiffData>";
  const fs::path path = stack(scratch, head + "XYCZT" + channels + entries + tail, level, 50);
  const auto pages = read_pages(path);
  for (int k = 0; k < 50; ++k)
    CHECK(pages[static_cast<std::size_t>(k)].info->place == StackPlace{2 - k % 3, 3 - k / 3 % 4, 4 - k / 12});
  // What cannot be is not believed.
  for (const std::string& bad :
       {std::string("<TiffData IFD=\"0\" FirstC=\"3\"/>"), std::string("<TiffData IFD=\"60\"/>"),
        std::string("<TiffData IFD=\"0\" FirstT=\"-1\"/>")})
    CHECK_FALSE(ome_stack(head + "XYCZT" + channels + bad + tail, 60, "stack.ome.tif"));
  CHECK_FALSE(ome_stack(head + "XYCZT" + channels + tail, 59, "stack.ome.tif"));
  CHECK_FALSE(ome_stack(head + "XYQQT" + channels + tail, 60, "stack.ome.tif"));
}

TEST_CASE("a channel and a plane are chosen, and their frames' transforms carried to the others", "[axes]") {
  const test::Scratch scratch;
  const fs::path path = stack(scratch, head + "XYCZT" + channels + tail, level, 60);
  const auto frames = list_frames({path}, false, {});
  REQUIRE(axes_of(frames));
  Chain chain = with_choice({}, frames, {2, 3});
  CHECK(choice_in(chain, frames) == AxisChoice{2, 3});
  const auto out = left_out(chain, frames);
  CHECK(std::ranges::count(out, false) == 5);
  CHECK(choice_in(with_choice({}, frames, {}), frames) == AxisChoice{});
  CHECK(choice_in(with_choice({}, frames, {0, 2}), frames) == AxisChoice{0, 2});
  CHECK_FALSE(choice_in(with_left_out(chain, frames, 0, false), frames));
  CHECK_THROWS_AS(with_transforms_carried(chain, frames), Error);
  AlignStep align;
  for (std::size_t i = 0; i < frames.size(); ++i) {
    FoundFrame found;
    if (!out[i]) {
      found.status = MatchStatus::ok;
      found.matrix(0, 2) = 10 + frames[i].info->place->time;
    }
    align.frames.push_back(found);
  }
  chain.steps.push_back({align, true, {}});
  const Chain carried = with_transforms_carried(chain, frames);
  const auto& found = std::get<AlignStep>(carried.steps[0].kind).frames;
  for (std::size_t i = 0; i < frames.size(); ++i) {
    CHECK(found[i].matrix(0, 2) == 10 + frames[i].info->place->time);
    CHECK(found[i].status == MatchStatus::ok);
  }
  CHECK(std::ranges::count(left_out(carried, frames), false) == 60);
}

TEST_CASE("an OME-TIFF aligns over time on one channel, carries the others, and is written with its axes", "[axes]") {
  const test::Scratch scratch;
  const test::Scene scene = test::textured(60, 0.01, 0.15, 40, 5);
  const auto moved = [](int t) { return Point{3.4 * t, -2.3 * t}; };
  // Channels look unlike: the third has nothing to match. Planes are dimmer the deeper they are.
  const fs::path path = stack(
      scratch, head + "XYCZT" + channels + tail,
      [&](int k) {
        const int c = k % 3, z = k / 3 % 4, t = k / 12;
        Image image = test::frame_of(scene, by(moved(t)), {120, 100}, Depth::u8, 1, static_cast<unsigned>(k));
        for (int y = 0; y < 100; ++y)
          for (int x = 0; x < 120; ++x) {
            auto& v = image.row<std::uint8_t>(0, y)[x];
            v = c == 2 ? static_cast<std::uint8_t>(7 + z)
                       : static_cast<std::uint8_t>(c == 1 ? 255 - v / (1 + z) : v / (1 + z));
          }
        return image;
      },
      60);
  AlignRunOptions options;
  options.step.model = Model::translation;
  options.choice = {1, 1};
  options.out = scratch / "aligned.ome.tif";
  const AlignRunResult result = align_files({path}, options, {});
  REQUIRE(result.files.size() == 5);
  for (int t = 0; t < 5; ++t) {
    const FoundFrame& found = result.step.frames[static_cast<std::size_t>(t)];
    CHECK(found.status == MatchStatus::ok);
    CHECK(std::abs(found.matrix(0, 2) + moved(t).x) < 0.1);
    CHECK(std::abs(found.matrix(1, 2) + moved(t).y) < 0.1);
  }
  const auto before = list_frames({path}, false, {}), after = list_frames({options.out}, false, {});
  REQUIRE(after.size() == 60);
  CHECK(axes_of(after) == axes_of(before));
  CHECK(after[0].info->axes->plane_step == Approx(0.0015));
  REQUIRE(after[0].info->pixel_size);
  CHECK(in_unit(*after[0].info->pixel_size, "um").x == Approx(0.325).epsilon(1e-9));
  for (std::size_t k = 0; k < 60; ++k) CHECK(after[k].info->place == before[k].info->place);
  // Every channel and plane of a time was moved like the matched one: the second against its own first.
  for (const int t : {1, 4})
    for (const int z : {0, 2}) {
      const Image first = read_picture(options.out, 1 + 1 + 3 * z),
                  later = read_picture(options.out, 1 + 1 + 3 * z + 12 * t);
      double sum = 0;
      int count = 0;
      for (int y = 20; y < 80; ++y)
        for (int x = 25; x < 95; ++x)
          if (later.valid(x, y)) {
            sum += std::abs(test::value(first, 0, x, y) - test::value(later, 0, x, y));
            ++count;
          }
      INFO(t << " " << z << " " << sum / count);
      CHECK(count > 3000);
      CHECK(sum / count < 4);
    }
  // Files of a frame each say nothing of the whole.
  AlignRunOptions apart = options;
  apart.out = scratch / "page-{index}.tif";
  REQUIRE(align_files({path}, apart, {}).written.size() >= 60);
  CHECK(read_description(scratch / "page-1.tif").empty());
  CHECK_FALSE(read_info(scratch / "page-1.tif").axes);
  CHECK(in_unit(*read_info(scratch / "page-1.tif").pixel_size, "um").x == Approx(0.325).epsilon(1e-6));
  // A channel that is not there is said.
  options.choice = {4, 1};
  options.replace = true;
  CHECK_THROWS_AS(align_files({path}, options, {}), Error);
}

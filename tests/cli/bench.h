#pragma once
/// A bench for the command line: a picture, a chain and a folder for results.
#include <string>
#include <vector>

#include "tests/cli/program.h"

namespace fexel::test {

/// A folder with a picture of 300 x 200 and a chain that turns and crops it.
struct Bench {
  test::Scratch scratch;
  std::string picture, chain, out;
  explicit Bench(int width = 300, int height = 200) {
    std::vector<Image> pages;
    pages.push_back(test::noise(width, height, 3, Depth::u8));
    picture = (scratch / "photo.png").string();
    write_pictures(picture, pages, {Format::png, PixelSize{0.1, 0.1, "mm"}, false, {}});
    out = (scratch / "results").string();
    chain = put(
        "turn.fexel.json",
        R"({"fexel":1,"steps":[{"step":"rotate","degrees":90},{"step":"crop","x":10,"y":20,"width":100,"height":50}]})");
  }
  std::string put(const std::string& name, const std::string& text) {
    write_text(scratch / name, text, true);
    return (scratch / name).string();
  }
};

}  // namespace fexel::test

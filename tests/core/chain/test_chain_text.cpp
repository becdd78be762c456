#include <catch2/catch.hpp>
#include <set>
#include <sstream>

#include "base/error.h"
#include "chain/chain.h"
#include "files/picture.h"
#include "text/json.h"

using namespace fexel;

namespace {

const char* whole = R"({
  "fexel": 1,
  "sources": [{"path": "wall.png", "sha256": "00ff"}],
  "calibration": {"name": "bench", "pixel_size": [0.0125, 0.025], "unit": "mm", "uncertainty": 0.00002, "lens": "60 mm", "made": "2026-03-02"},
  "resample": {"kernel": "linear", "edge": "extend", "fill": [1, 2, 3], "antialias": false},
  "steps": [
    {"step": "rotate", "degrees": -270, "name": "upright"},
    {"step": "rectify", "corners": [[412.5, 300.0], [1890.2, 355.1], [1844.0, 1420.7], [380.3, 1290.9]], "width": 600, "height": 400, "unit": "mm", "pixel_size": 0.25, "extent": "reference"},
    {"step": "crop", "x": 100.5, "y": 50, "width": 2000, "height": 1400, "on": false},
    {"step": "crop", "ratio": [4, 3], "anchor": "top-left"},
    {"step": "crop", "to": "valid"},
    {"step": "mirror", "reverse": "y"},
    {"step": "rotate", "degrees": -1.82, "extent": "inside"},
    {"step": "rotate", "degrees": 400, "centre": [3.5, 4], "extent": "keep"},
    {"step": "translate", "dx": 3.25, "dy": -4, "extent": "grow"},
    {"step": "resize", "width": 640, "height": 480, "when_shape_differs": "pad"},
    {"step": "resize", "height": 480},
    {"step": "resize", "scale": [0.5, 2]},
    {"step": "resize", "pixel_size": 0.25, "unit": "mm"},
    {"step": "matrix", "matrix": [[1, 0.5, 2], [0, 1, 3], [0.001, 0, 1]], "width": 100, "height": 90},
    {"step": "tilt", "about_x": 12, "about_y": -3.5, "about_z": 200, "centre": [4, 5.5], "view": "parallel", "distance": 3, "extent": "keep"},
    {"step": "lens", "k1": -0.1, "k2": 0.02, "k3": 0.001, "p1": 0.0005, "p2": -0.0002, "centre": [100, 90], "focal": 900, "direction": "add"},
    {"step": "fit", "model": "polynomial2", "pairs": [{"from": [1, 2], "to": [3, 4.5], "name": "a"}, {"from": [9, 2], "to": [8, 4], "use": false}], "width": 900, "height": 700, "unit": "mm", "pixel_size": 0.2, "robust": true, "picking": 0.3},
    {"step": "unwrap", "centre": [500, 480], "inner": 300, "outer": 420.5, "start": 12, "sweep": 350, "direction": "counter-clockwise", "true_radius": 400, "width": 2000, "height": 120},
    {"step": "bands", "take": [3, 1]},
    {"step": "bands", "take": "grey", "weights": [0.2, 0.8]},
    {"step": "local-contrast", "tile": 32, "limit": 3},
    {"step": "highpass", "radius": 20},
    {"step": "denoise", "radius": 2, "method": "median"},
    {"step": "denoise", "radius": 2.5, "method": "gaussian"},
    {"step": "convolve", "kernel": [[0, -1, 0], [-1, 5, -1]], "scale": 0.5, "offset": 3, "depth": "f32"},
    {"step": "align", "model": "affine", "against": "average:4", "band": 2, "region": [10, 20, 300, 200], "alike": "edges", "width": 640, "height": 480,
     "frames": [{"matrix": [[1, 0, 3.5], [0, 1, -2], [0, 0, 1]], "score": 0.98, "uncertainty_px": 0.004, "status": "ok"},
                {"matrix": [[1, 0, 0], [0, 1, 0], [0, 0, 1]], "score": 0.1, "uncertainty_px": 0, "status": "failed", "reason": "It is another view."}]}
  ],
  "measurements": [{"measure": "length", "name": "strip 1", "station": 2, "points": [[500, 410], [811, 425]], "expected": 100, "unit": "mm"}]
})";

void check_refused(const std::string& text, const std::string& path, const std::string& value,
                   const std::string& remedy) {
  INFO(text);
  try {
    parse_chain(text);
    FAIL("it was accepted");
  } catch (const Error& error) {
    CHECK(error.kind() == Error::Kind::call);
    CHECK(error.where() == path);
    CHECK_THAT(error.message(), Catch::Contains(value));
    CHECK_THAT(error.remedy(), Catch::Contains(remedy));
  }
}

std::string step(const std::string& body) {
  std::string text = R"({"fexel":1,"steps":[)";
  text += body;
  text += "]}";
  return text;
}
std::string rectify(const std::string& corners, const std::string& rest = R"("width":600,"height":400,"unit":"mm")") {
  std::string body = R"({"step":"rectify","corners":)";
  body += corners;
  body += ',';
  body += rest;
  body += '}';
  return step(body);
}

}  // namespace

TEST_CASE("a chain is read to the last key, and written text reads back as the same chain", "[chain]") {
  const Chain chain = parse_chain(whole);
  CHECK(chain.sources[0].path == "wall.png");
  CHECK(chain.calibration->pixel.y == 0.025);
  CHECK(chain.resampling.kernel == Kernel::linear);
  CHECK(chain.resampling.fill == std::vector<double>{1, 2, 3});
  REQUIRE(chain.steps.size() == 26);
  CHECK(std::get<RotateStep>(chain.steps[0].kind).degrees == -270);
  CHECK(chain.steps[0].name == "upright");
  CHECK(std::get<RectifyStep>(chain.steps[1].kind).corners[2].x == 1844);
  CHECK_FALSE(chain.steps[2].on);
  CHECK(std::get<CropRatio>(std::get<CropStep>(chain.steps[3].kind).what).anchor == "top-left");
  CHECK(std::holds_alternative<CropValid>(std::get<CropStep>(chain.steps[4].kind).what));
  CHECK(std::get<LengthMeasurement>(chain.measurements[0].kind).expected == 100);
  CHECK(parse_chain(write_chain(chain)) == chain);
}

TEST_CASE("only the version is required, and defaults are those of the format", "[chain]") {
  const Chain chain = parse_chain(R"({"fexel": 1})");
  CHECK(chain.resampling.kernel == Kernel::cubic);
  CHECK(chain.resampling.edge == BorderMode::fill);
  CHECK(chain.resampling.antialias);
  CHECK(chain.steps.empty());
}

TEST_CASE("files of before are refused with the new words", "[chain]") {
  const std::pair<const char*, const char*> renamed[] = {{"turn", "rotate"},
                                                         {"quarter", "rotate"},
                                                         {"shift", "translate"},
                                                         {"reduce", "downsample"},
                                                         {"contrast", "local-contrast"}};
  for (const auto& [old, now] : renamed) {
    const std::string quoted = std::string("\"") + old + "\"";
    check_refused(step("{\"step\":" + quoted + "}"), "/steps/0/step", old, now);
    CHECK(std::ranges::count(step_words(), old) == 0);
    CHECK(std::ranges::count(step_words(), now) == 1);
  }
  check_refused(R"({"fexel":1,"probes":[{"probe":"gauge","station":0,"points":[[0,0],[1,1]]}]})", "/probes", "probes",
                "measurements");
}

TEST_CASE("wrong chains are refused with path, value and remedy", "[chain]") {
  check_refused(step(R"({"step":"swirl"})"), "/steps/0/step", "swirl", "local-contrast");
  check_refused(step(R"({"step":"rotate","degrees":90,"angle":4})"), "/steps/0/angle", "4", "degrees");
  check_refused(step(R"({"step":"rotate"})"), "/steps/0/degrees", "degrees", "Add");
  check_refused(step(R"({"step":"rotate","degrees":"one"})"), "/steps/0/degrees", "one", "number");
  check_refused(step(R"({"step":"downsample","factor":1.5})"), "/steps/0/factor", "1.5", "whole number");
  check_refused(rectify("[[0,0],[100,100],[100,0],[0,100]]"), "/steps/0/corners", "100", "top-left");
  check_refused(rectify("[[0,0],[100,0],[100,0],[0,100]]"), "/steps/0/corners", "2 and 3", "Move");
  check_refused(rectify("[[0,0],[50,0],[100,0],[0,100]]"), "/steps/0/corners", "one line", "Move");
  check_refused(rectify("[[0,0],[100,0],[20,20],[0,100]]"), "/steps/0/corners", "Corner 3", "outward");
  check_refused(rectify("[[0,0],[100,0],[100,100]]"), "/steps/0/corners", "100", "four points");
  check_refused(rectify("[[0,0],[100,0],[100,100],[0,100]]", R"("width":-1,"height":4,"unit":"mm")"), "/steps/0/width",
                "-1", "number from");
  check_refused(rectify("[[0,0],[100,0],[100,100],[0,100]]", R"("width":1,"height":4,"unit":"ell")"), "/steps/0/unit",
                "ell", "mm");
  check_refused(step(R"({"step":"crop","x":0,"y":0,"width":99999999999,"height":5})"), "/steps/0/width", "99999999999",
                "whole number");
  check_refused(step(R"({"step":"crop","x":1e999,"y":0,"width":9,"height":5})"), "/steps/0/x", "1e999",
                "number between");
  check_refused(step(R"({"step":"crop","x":0,"ratio":[1,1]})"), "/steps/0", "one way", "ratio");
  check_refused(step(R"({"step":"mirror","reverse":"z"})"), "/steps/0/reverse", "z", "x or y");
  check_refused(step(R"({"step":"rotate","degrees":"level"})"), "/steps/0/degrees", "level", "number");
  check_refused(step(R"({"step":"rotate","degrees":3,"extent":"huge"})"), "/steps/0/extent", "huge",
                "grow, keep or inside");
  check_refused(step(R"({"step":"translate","dx":3})"), "/steps/0/dy", "dy", "Add");
  check_refused(step(R"({"step":"translate","dx":3,"dy":1,"extent":"inside"})"), "/steps/0/extent", "inside",
                "keep or grow");
  check_refused(step(R"({"step":"resize"})"), "/steps/0", "one way", "scale");
  check_refused(step(R"({"step":"resize","width":9,"scale":2})"), "/steps/0", "one way", "scale");
  check_refused(step(R"({"step":"resize","scale":[1,0]})"), "/steps/0/scale/1", "0", "number from");
  check_refused(step(R"({"step":"resize","width":9,"when_shape_differs":"pad"})"), "/steps/0/when_shape_differs",
                "both", "leave");
  check_refused(step(R"({"step":"matrix","matrix":[[1,0,0],[0,1],[0,0,1]]})"), "/steps/0/matrix/1", "[0,1]", "three");
  check_refused(step(R"({"step":"tilt","about_x":"steep"})"), "/steps/0/about_x", "steep", "number");
  check_refused(step(R"({"step":"tilt","distance":0})"), "/steps/0/distance", "0", "number");
  check_refused(step(R"({"step":"lens","focal":-5})"), "/steps/0/focal", "-5", "number");
  check_refused(step(R"({"step":"fit","model":"bent","pairs":[]})"), "/steps/0/model", "bent", "affine");
  check_refused(step(R"({"step":"fit","model":"affine","pairs":[{"from":[1,2]}]})"), "/steps/0/pairs/0/to", "to",
                "Add");
  check_refused(step(R"({"step":"fit","model":"affine","pairs":[],"unit":"mm"})"), "/steps/0/pixel_size", "both",
                "both");
  check_refused(step(R"({"step":"unwrap","inner":3,"outer":9})"), "/steps/0/centre", "centre", "Add");
  check_refused(step(R"({"step":"unwrap","centre":[1,1],"inner":3,"outer":9,"sweep":400})"), "/steps/0/sweep", "400",
                "number");
  check_refused(step(R"({"step":"bands","take":"gray"})"), "/steps/0/take", "gray", "grey");
  check_refused(step(R"({"step":"bands","take":[0]})"), "/steps/0/take/0", "0", "number");
  check_refused(step(R"({"step":"denoise","radius":1.5})"), "/steps/0/radius", "1.5", "whole number");
  check_refused(step(R"({"step":"convolve","kernel":[[1,2],[3]]})"), "/steps/0/kernel/1", "[3]", "one length");
  check_refused(step(R"({"step":"convolve","kernel":[[0,0],[0,0]]})"), "/steps/0/kernel", "0", "not 0");
  check_refused(R"({"fexel":1,"sources":[{"path":"a.tif","skip":[2,0]}]})", "/sources/0/skip/1", "0", "1");
  check_refused(R"({"fexel":1,"sources":[{"path":"a.tif","skip":[1.5]}]})", "/sources/0/skip/0", "1.5", "from 1");
  check_refused(step(R"({"step":"align","against":"last"})"), "/steps/0/against", "last", "neighbour");
  check_refused(step(R"({"step":"align","against":"frame:0"})"), "/steps/0/against", "0", "whole number");
  check_refused(step(R"({"step":"align","model":"thin-plate"})"), "/steps/0/model", "thin-plate", "projective");
  check_refused(step(R"({"step":"align","region":[1,2,3]})"), "/steps/0/region", "[1,2,3]", "width and height");
  check_refused(step(R"({"step":"align","frames":[{"matrix":[[1,0,0],[2,0,0],[0,0,1]]}]})"), "/steps/0/frames/0/matrix",
                "", "");
  check_refused(step(R"({"step":"align","frames":[{"matrix":[[1,0,0],[0,1,0],[0,0,1]],"status":"good"}]})"),
                "/steps/0/frames/0/status", "good", "weak");
  check_refused(step(R"({"step":"local-contrast","tile":2})"), "/steps/0/tile", "2", "whole number");
  check_refused(R"({"fexel":1,"steps":[)", "/steps/0", "not JSON", "JSON");
  check_refused("corners: 4", "/", "not JSON", "JSON");
  check_refused("[]", "/", "[]", "object");
  check_refused("{}", "/fexel", "missing", "docs");
  check_refused(R"({"fexel":2})", "/fexel", "2", "1");
  check_refused(R"({"fexel":1,"fexel":1})", "/fexel", "twice", "Keep one");
  check_refused(R"({"fexel":1,"resample":{"kernel":"sharp"}})", "/resample/kernel", "sharp",
                "nearest, linear, cubic, lanczos3, bspline3 or area");
  check_refused(R"({"fexel":1,"measurements":[{"measure":"length","station":3,"points":[[0,0],[1,1]]}]})",
                "/measurements/0/station", "3", "from 0");
  check_refused(R"({"fexel":1,"measurements":[{"measure":"motion"},{"measure":"motion"}]})", "/measurements/1",
                "second", "chain of its own");
  check_refused(R"({"fexel":1,"steps":[{"step":"rotate","degrees":90}, 7]})", "/steps/1", "7", "step");
}

TEST_CASE("deep nesting and mutated chains end in a sentence", "[chain]") {
  CHECK_THROWS_AS(parse_chain(std::string(100000, '[')), Error);
  const std::string good = whole;
  unsigned state = 7;
  const auto random = [&state] { return state = state * 1664525U + 1013904223U, state >> 8; };
  for (int round = 0; round < 500; ++round) {
    std::string text = good;
    for (unsigned i = 0; i < 1 + random() % 6; ++i) {
      const std::size_t at = random() % text.size();
      if (random() % 3 == 0)
        text.erase(at, 1 + random() % 9);
      else
        text[at] = static_cast<char>(32 + random() % 95);
      if (text.empty()) text = "x";
    }
    try {
      parse_chain(text);
    } catch (const Error& error) {
      CHECK_FALSE(error.message().empty());
    }
  }
}

namespace {

/// The keys that the parser says it would accept, from the remedy for a key that it does not know.
std::set<std::string> accepted_keys(const std::string& text) {
  try {
    parse_chain(text);
  } catch (const Error& error) {
    std::set<std::string> keys;
    std::string words = error.remedy();
    REQUIRE(words.starts_with("Use "));
    for (const std::string_view mark : {",", " or ", "."})
      for (auto at = words.find(mark); at != std::string::npos; at = words.find(mark))
        words.replace(at, mark.size(), " ");
    std::istringstream list(words.substr(4));
    for (std::string word; list >> word;) keys.insert(word);
    return keys;
  }
  FAIL("it was accepted");
  return {};
}

std::set<std::string> keys_of(const Json& schema) {
  std::set<std::string> keys;
  for (const auto& [key, ignored] : schema.at("properties").items()) keys.insert(key);
  return keys;
}

}  // namespace

TEST_CASE("the schema names the keys that the parser takes, and the steps that there are", "[chain]") {
  const Json schema = parse_json(read_text(FEXEL_DOCS "/chain.schema.json"));
  CHECK(accepted_keys(R"({"fexel":1,"nonsense":1})") == keys_of(schema));
  const auto& top = schema.at("properties");
  CHECK(accepted_keys(R"({"fexel":1,"resample":{"nonsense":1}})") == keys_of(top.at("resample")));
  CHECK(accepted_keys(R"({"fexel":1,"calibration":{"nonsense":1}})") == keys_of(top.at("calibration")));
  CHECK(accepted_keys(R"({"fexel":1,"sources":[{"nonsense":1}]})") == keys_of(top.at("sources").at("items")));
  std::set<std::string> kinds;
  for (const auto& entry : top.at("measurements").at("items").at("oneOf")) {
    const auto& definition = schema.at("$defs").at(std::string(entry.at("$ref")).substr(8));
    const std::string kind = definition.at("properties").at("measure").at("const");
    kinds.insert(kind);
    const std::string text = R"({"fexel":1,"measurements":[{"measure":")" + kind + R"(","nonsense":1}]})";
    CHECK(accepted_keys(text) == keys_of(definition));
  }
  auto measured = measurement_words();
  measured.emplace_back("motion");  // of a sequence, not of a picture
  CHECK(kinds == std::set<std::string>(measured.begin(), measured.end()));
  std::set<std::string> marks;
  for (const auto& entry : top.at("marks").at("items").at("oneOf")) {
    const auto& definition = schema.at("$defs").at(std::string(entry.at("$ref")).substr(8));
    const std::string kind = definition.at("properties").at("mark").at("const");
    marks.insert(kind);
    CHECK(accepted_keys(R"({"fexel":1,"marks":[{"mark":")" + kind + R"(","nonsense":1}]})") == keys_of(definition));
  }
  const auto marked = mark_words();
  CHECK(marks == std::set<std::string>(marked.begin(), marked.end()));
  CHECK(accepted_keys(R"({"fexel":1,"mark_style":{"nonsense":1}})") == keys_of(schema.at("$defs").at("page_style")));
  CHECK(accepted_keys(R"({"fexel":1,"marks":[{"mark":"time","style":{"nonsense":1}}]})") ==
        keys_of(schema.at("$defs").at("style")));
  CHECK(accepted_keys(R"({"fexel":1,"axes":{"nonsense":1}})") == keys_of(top.at("axes")));
  CHECK(accepted_keys(R"({"fexel":1,"time_step":{"nonsense":1}})") == keys_of(top.at("time_step")));
  for (const std::string shape : {"rectangle", "circle", "ring", "polygon"}) {
    std::string text = R"({"fexel":1,"masks":[{"shape":")";
    text += shape;
    text += R"(","centre":[1,1],"inner":1,"outer":2,"radius":1,"x":1,"y":1,"width":1,"height":1,"points":[]}]})";
    CHECK(accepted_keys(text) == keys_of(schema.at("$defs").at("mask_" + shape)));
  }
  std::set<std::string> words;
  for (const auto& entry : top.at("steps").at("items").at("oneOf")) {
    const std::string name = std::string(entry.at("$ref")).substr(8);
    const auto& definition = schema.at("$defs").at(name);
    words.insert(definition.at("properties").at("step").at("const"));
    std::string text = R"({"fexel":1,"steps":[{"step":")";
    text += name;
    text += R"(","nonsense":1}]})";
    CHECK(accepted_keys(text) == keys_of(definition));
  }
  const auto known = step_words();
  CHECK(words == std::set<std::string>(known.begin(), known.end()));
}

TEST_CASE("every step, every measurement and every mark has its row in the documentation", "[chain]") {
  const std::string text = read_text(FEXEL_DOCS "/chain.md");
  for (const auto& words : {step_words(), measurement_words(), mark_words(), std::vector<std::string>{"motion"}})
    for (const std::string& word : words) {
      INFO(word);
      CHECK(text.find("\n| `" + word + "` |") != std::string::npos);
    }
}

TEST_CASE("pages that are left out come back from the text", "[chain]") {
  const Chain chain = parse_chain(R"({"fexel":1,"sources":[{"path":"a.tif","skip":[7,9]},{"path":"b.tif"}]})");
  CHECK(chain.sources[0].skip == std::vector<int>{7, 9});
  CHECK(parse_chain(write_chain(chain)) == chain);
}

#include "report/grid_chain.h"

#include <fmt/format.h>

#include "base/error.h"
#include "chain/library.h"
#include "files/picture.h"
#include "text/reader.h"

namespace fexel {
namespace {

constexpr LibraryKind library{"lenses", ".lens.json", "lens"};
constexpr int file_version = 1;

constexpr std::pair<const char*, double Lens::Terms::*> terms[] = {{"k1", &Lens::Terms::k1},
                                                                   {"k2", &Lens::Terms::k2},
                                                                   {"k3", &Lens::Terms::k3},
                                                                   {"p1", &Lens::Terms::p1},
                                                                   {"p2", &Lens::Terms::p2}};

Json estimate_json(const Estimate& e) {
  return {{"value", e.value}, {"uncertainty", e.sigma}};
}
Estimate read_estimate(const JsonReader& in, const std::string& key, double low, double high) {
  const JsonReader own(in.at(key), in.path(key), {"value", "uncertainty"});
  return {own.number("value", low, high), own.number("uncertainty", 0, 1e9)};
}

}  // namespace

std::optional<LensStep> lens_step_of(const GridView& view) {
  if (view.terms == Lens::Terms{}) return std::nullopt;
  LensStep step;
  step.terms = view.terms;
  step.focal = view.focal;
  if (view.own_centre) step.centre = view.centre;
  return step;
}

LensStep lens_step_of(const LensCalibration& lens) {
  LensStep step;
  step.terms = lens.terms;
  step.centre = Point{lens.centre_x.value, lens.centre_y.value};
  step.focal = lens.focal.value;
  return step;
}

Chain chain_of_grid(const GridTarget& target, double pitch, const std::string& unit) {
  Chain chain;
  if (const auto lens = lens_step_of(target.view)) chain.steps.push_back({*lens, true, lens_of_grid});
  RectifyStep rectify;
  const double right = target.columns - 1, bottom = target.rows - 1;
  const Point corners[] = {{0, 0}, {right, 0}, {right, bottom}, {0, bottom}};
  for (std::size_t i = 0; i < 4; ++i) {
    const auto at = Map::apply(target.view.to_ideal, corners[i]);
    if (!at) throw input_error("A corner of the grid lies behind the horizon.", {}, "Choose a smaller part of it.");
    rectify.corners[i] = *at;
  }
  rectify.width = right * pitch;
  rectify.height = bottom * pitch;
  rectify.unit = unit;
  // As well as all nodes together tell a corner: better than any one of them.
  rectify.picking = each_corner(std::max(0.001, target.view.corner_sigma));
  chain.steps.push_back({rectify, true, plane_of_grid});
  return chain;
}

LensEntry parse_lens(const std::string& text) {
  const Json json = parse_json(text);
  const JsonReader in(json, "",
                      {"fexel_lens", "name", "lens", "made", "size", "focal", "centre_x", "centre_y", "terms",
                       "terms_uncertainty", "rms_px", "views", "nodes"});
  const int version = in.whole("fexel_lens", 1, 1000000);
  if (version > file_version)
    throw call_error(fmt::format("This lens is of version {}, from a newer Fexel.", version), "/fexel_lens",
                     fmt::format("Version {} can be read.", file_version));
  LensEntry out;
  if (in.has("name")) out.name = in.text("name");
  if (in.has("lens")) out.lens = in.text("lens");
  if (in.has("made")) out.made = in.text("made");
  LensCalibration& c = out.calibration;
  const Json& size = in.array("size");
  if (size.size() != 2) JsonReader::refuse(size, in.path("size"), "two numbers, width and height in pixels");
  c.size = {static_cast<int>(JsonReader::number(size[0], in.path("size") + "/0", 1, 1e6)),
            static_cast<int>(JsonReader::number(size[1], in.path("size") + "/1", 1, 1e6))};
  c.focal = read_estimate(in, "focal", 1e-3, 1e9);
  c.centre_x = read_estimate(in, "centre_x", -1e7, 1e7);
  c.centre_y = read_estimate(in, "centre_y", -1e7, 1e7);
  for (const auto& [key, into] : {std::pair("terms", &c.terms), std::pair("terms_uncertainty", &c.sigma)}) {
    const JsonReader own(in.at(key), in.path(key), {"k1", "k2", "k3", "p1", "p2"});
    for (const auto& [name, term] : terms) into->*term = own.number(name, -1e3, 1e3);
  }
  if (in.has("rms_px")) c.rms = in.number("rms_px", 0, 1e6);
  if (in.has("views")) c.views = in.whole("views", 0, 1000000);
  if (in.has("nodes")) c.nodes = in.whole("nodes", 0, 100000000);
  return out;
}

std::filesystem::path lens_file(const std::string& name) {
  return library_file(library, name);
}

void save_lens(const LensEntry& entry, const std::filesystem::path& file, bool replace) {
  const LensCalibration& c = entry.calibration;
  Json json{{"fexel_lens", file_version},
            {"name", entry.name},
            {"lens", entry.lens},
            {"made", entry.made},
            {"size", {c.size.width, c.size.height}},
            {"focal", estimate_json(c.focal)},
            {"centre_x", estimate_json(c.centre_x)},
            {"centre_y", estimate_json(c.centre_y)}};
  for (const auto& [name, term] : terms) {
    json["terms"][name] = c.terms.*term;
    json["terms_uncertainty"][name] = c.sigma.*term;
  }
  json["rms_px"] = c.rms;
  json["views"] = c.views;
  json["nodes"] = c.nodes;
  write_text(file, to_text(json, 2) + "\n", replace);
}

LensEntry lens_named(const std::string& name_or_file) {
  return parsed_file(library_file_meant(library, name_or_file), parse_lens);
}

std::vector<std::string> lenses_in_library() {
  std::vector<std::string> out;
  for (const auto& [file, name] : library_files(library)) out.push_back(name);
  return out;
}

}  // namespace fexel

#include <fmt/format.h>

#include <ctime>

#include "calibrate/ruled_target.h"
#include "chain/calibrations.h"
#include "cli/output.h"
#include "cli/verbs.h"
#include "files/picture.h"
#include "report/grid_chain.h"

namespace fexel::cli {
namespace {

struct CalibrateOptions {
  std::vector<std::string> files;
  std::string unit, region, save, lens, chain;
  double spacing = 0;
  bool grid = false, replace = false;
};

struct LibraryOptions {
  std::string show, remove, add, take, to;
  bool replace = false;
};

std::string today() {
  const std::time_t now = std::time(nullptr);
  std::tm local{};
  ::localtime_r(&now, &local);
  return fmt::format("{:04}-{:02}-{:02}", local.tm_year + 1900, local.tm_mon + 1, local.tm_mday);
}

/// The part of a picture that an option names; all of it without.
Region region_of(const std::string& text, const Image& image) {
  const Region whole{0, 0, image.width(), image.height()};
  if (text.empty()) return whole;
  const auto numbers = numbers_in(text, ',');
  if (!numbers || numbers->size() != 4 || !((*numbers)[2] >= 1 && (*numbers)[3] >= 1) ||
      !std::ranges::all_of(*numbers, [](double v) { return v >= 0 && v < 1e9; }))
    throw call_error(fmt::format("\"{}\" is not a region.", text), "--region", "Give x,y,width,height in pixels.");
  const Region part{static_cast<int>((*numbers)[0]), static_cast<int>((*numbers)[1]), static_cast<int>((*numbers)[2]),
                    static_cast<int>((*numbers)[3])};
  if (part.x >= whole.width || part.y >= whole.height)
    throw call_error("The region lies outside of the picture.", "--region",
                     fmt::format("The picture has {} x {} px.", whole.width, whole.height));
  return part;
}

int run_ruled(const Common& common, const CalibrateOptions& options) {
  const std::string& file = options.files.front();
  const Image image = read_picture(file, 1, {}, {common.stop, {}});
  const Region region = region_of(options.region, image);
  // What would be refused after the work is refused before it.
  std::filesystem::path target;
  if (!options.save.empty()) {
    target = calibration_file(options.save);
    std::error_code code;
    if (std::filesystem::exists(target, code) && !options.replace)
      throw call_error(fmt::format("There is a calibration \"{}\" already.", options.save), "--save",
                       "Choose another name, or give --replace.");
  }
  const RuledTarget found = find_ruled_target(image, region, {common.stop, {}});
  // The file may say that pixels are not square; how they compare stays.
  const auto pixel = read_info(file).pixel_size;
  const double tall = pixel ? pixel->y / pixel->x : 1, per_pixel = pixel_width(found, options.spacing, tall);
  const double uncertainty = per_pixel * found.uncertainty / found.pitch;
  if (!target.empty()) {
    Calibration made;
    made.name = options.save;
    made.pixel = {per_pixel, tall * per_pixel, options.unit};
    made.uncertainty = uncertainty;
    made.lens = options.lens;
    made.made = today();
    made.size = Size{image.width(), image.height()};
    made.method = fmt::format("ruled target, {} lines", found.lines.size());
    std::error_code code;
    std::filesystem::create_directories(target.parent_path(), code);
    save_calibration(made, target, options.replace);
  }
  const bool stretched = std::abs(found.stretch) > 3 * found.stretch_sigma && std::abs(found.stretch) > 1e-4;
  if (common.json) {
    Json lines = Json::array();
    for (const RuledLine& line : found.lines)
      lines.push_back({{"number", line.number}, {"place_px", line.place}, {"residual_px", line.residual}});
    say_json({{"pixels_per_unit", 1 / per_pixel},
              {"unit_per_pixel", per_pixel},
              {"uncertainty", uncertainty},
              {"unit", options.unit},
              {"lines", found.lines.size()},
              {"missing", found.missing},
              {"angle_deg", found.angle},
              {"rms_px", found.rms},
              {"pitch_px", found.pitch},
              {"pitch_uncertainty_px", found.uncertainty},
              {"stretch", found.stretch},
              {"stretch_uncertainty", found.stretch_sigma},
              {"places", lines}});
  } else {
    say("{:.9g} {} per pixel ± {:.2g} ({:.7g} px per {}); {} lines {:.5g} px apart, {} missing, at {:.2f}°, to {:.3f} "
        "px "
        "RMS.\n",
        per_pixel, options.unit, uncertainty, 1 / per_pixel, options.unit, found.lines.size(), found.pitch,
        found.missing, found.angle, found.rms);
    if (stretched)
      say("The spacing changes by {:.2f} % from one end to the other: the target was tilted, or the lens bends. "
          "Rectify "
          "the picture, or lay the target square.\n",
          100 * found.stretch);
    if (!target.empty()) say("-> {}\n", target.string());
  }
  return all_done;
}

Json terms_json(const Lens::Terms& terms) {
  return {{"k1", terms.k1}, {"k2", terms.k2}, {"k3", terms.k3}, {"p1", terms.p1}, {"p2", terms.p2}};
}

/// What lies off even spacing, and where.
Json nodes_json(const std::vector<GridNode>& nodes) {
  Json out = Json::array();
  for (const GridNode& n : nodes)
    out.push_back({{"column", n.column},
                   {"row", n.row},
                   {"x", n.at.x},
                   {"y", n.at.y},
                   {"residual_x", n.residual.x},
                   {"residual_y", n.residual.y}});
  return out;
}

/// One picture: perspective and lens, as a chain.
int run_grid(const Common& common, const CalibrateOptions& options) {
  const std::string& file = options.files.front();
  const Image image = read_picture(file, 1, {}, {common.stop, {}});
  const GridTarget found = find_grid_target(image, region_of(options.region, image), {common.stop, {}});
  const Chain chain = chain_of_grid(found, options.spacing, options.unit);
  const Layout layout = lay_out(chain, {{image.width(), image.height()}, image.bands(), image.depth(), {}});
  layout.require_sound();
  const auto& pixel = layout.result().pixel;
  if (!options.chain.empty()) {
    ProtectedPaths keep;
    keep.add(file, "the source");
    write_text(options.chain, write_chain(chain), options.replace, &keep);
  }
  if (common.json) {
    say_json({{"pattern", name_of(found.pattern)},
              {"columns", found.columns},
              {"rows", found.rows},
              {"nodes", found.nodes.size()},
              {"missing", found.missing},
              {"rms_px", found.view.rms},
              {"terms", terms_json(found.view.terms)},
              {"focal_px", found.view.focal},
              {"centre", {found.view.centre.x, found.view.centre.y}},
              {"unit_per_pixel", pixel ? Json(pixel->x) : Json()},
              {"unit", options.unit},
              {"places", nodes_json(found.nodes)}});
  } else {
    say("{}: {} of {} x {} nodes, to {:.3f} px RMS; lens k1 {:.4g}, k2 {:.4g}; {:.6g} {} per pixel when rectified.\n",
        name_of(found.pattern), found.nodes.size(), found.columns, found.rows, found.view.rms, found.view.terms.k1,
        found.view.terms.k2, pixel ? pixel->x : 0.0, options.unit);
    if (!options.chain.empty()) say("-> {}\n", options.chain);
  }
  return all_done;
}

/// Several pictures: the lens.
int run_lens(const Common& common, const CalibrateOptions& options) {
  if (!options.chain.empty())
    throw call_error("A chain is made from one picture.", "--chain", "Give one picture, or leave --chain out.");
  std::filesystem::path target;
  if (!options.save.empty()) {
    target = lens_file(options.save);
    std::error_code code;
    if (std::filesystem::exists(target, code) && !options.replace)
      throw call_error(fmt::format("There is a lens \"{}\" already.", options.save), "--save",
                       "Choose another name, or give --replace.");
  }
  std::vector<std::vector<GridNode>> views;
  Size size;
  Json failed = Json::array();
  const Job job = job_of(common, "grids");
  for (std::size_t i = 0; i < options.files.size(); ++i) {
    const std::string& file = options.files[i];
    if (common.stop.stop_requested()) throw cancelled_error();
    try {
      const Image image = read_picture(file, 1, {}, {common.stop, {}});
      if (views.empty()) size = {image.width(), image.height()};
      if (Size{image.width(), image.height()} != size)
        throw input_error(fmt::format("It has {} x {} px, and the first one {} x {}.", image.width(), image.height(),
                                      size.width, size.height),
                          file, "Give pictures of one camera and one size.");
      views.push_back(find_grid_target(image, region_of(options.region, image), {common.stop, {}}).nodes);
    } catch (const Error& error) {
      if (error.kind() != Error::Kind::input) throw;
      failed.push_back({{"input", file}, {"error", logged_error(error.at(file))}});
      if (!common.json) complain(fmt::format("fexel-cli: {}: {}", file, error.message()));
    }
    if (job.progress) job.progress(static_cast<double>(i + 1) / static_cast<double>(options.files.size()));
  }
  end_progress(common);
  const LensCalibration found = solve_lens(views, size);
  if (!target.empty()) {
    LensEntry entry{options.save, options.lens, today(), found};
    std::error_code code;
    std::filesystem::create_directories(target.parent_path(), code);
    save_lens(entry, target, options.replace);
  }
  if (common.json) {
    Json list = Json::array();
    for (const auto& nodes : views) list.push_back(nodes_json(nodes));
    say_json({{"focal_px", found.focal.value},
              {"focal_uncertainty_px", found.focal.sigma},
              {"centre", {found.centre_x.value, found.centre_y.value}},
              {"centre_uncertainty_px", {found.centre_x.sigma, found.centre_y.sigma}},
              {"terms", terms_json(found.terms)},
              {"terms_uncertainty", terms_json(found.sigma)},
              {"rms_px", found.rms},
              {"views", found.views},
              {"nodes", found.nodes},
              {"tilts_deg", found.tilts},
              {"failed", failed},
              {"places", list}});
  } else {
    say("focal length {:.2f} ± {:.2f} px, centre {:.2f} ± {:.2f}, {:.2f} ± {:.2f} px; k1 {:.5f} ± {:.5f}, k2 {:.4g} ± "
        "{:.2g}; {} nodes in {} views, to {:.3f} px RMS.\n",
        found.focal.value, found.focal.sigma, found.centre_x.value, found.centre_x.sigma, found.centre_y.value,
        found.centre_y.sigma, found.terms.k1, found.sigma.k1, found.terms.k2, found.sigma.k2, found.nodes, found.views,
        found.rms);
    if (!target.empty()) say("-> {}\n", target.string());
  }
  return failed.empty() ? all_done : inputs_failed;
}

int run_calibrate(const Common& common, const CalibrateOptions& options) {
  if (!options.grid) {
    if (options.files.size() > 1)
      throw call_error("A ruled target is one picture.", "FILE", "Give one picture, or --grid for several.");
    if (!options.chain.empty())
      throw call_error("A ruled target makes no chain.", "--chain", "Give --grid, or --save for the pixel size.");
    return run_ruled(common, options);
  }
  if (options.files.size() == 1 && !options.save.empty())
    throw call_error("One view of a grid does not tell a lens.", "--save",
                     "Give three views or more, or --chain for what one view tells.");
  return options.files.size() == 1 ? run_grid(common, options) : run_lens(common, options);
}

Json as_json(const LibraryEntry& entry) {
  Json out{{"name", entry.name}, {"file", entry.file.string()}};
  if (entry.calibration) out["calibration"] = calibration_json(*entry.calibration);
  if (!entry.problem.empty()) out["problem"] = entry.problem;
  return out;
}

int run_library(const Common& common, const LibraryOptions& options) {
  std::error_code code;
  if (!options.remove.empty()) {
    const auto file = calibration_file(options.remove);
    if (!std::filesystem::remove(file, code))
      throw call_error(fmt::format("There is no calibration \"{}\".", options.remove), "--remove", {});
  }
  if (!options.add.empty()) {
    const Calibration added = load_calibration(options.add);
    const auto file =
        calibration_file(added.name.empty() ? std::filesystem::path(options.add).stem().string() : added.name);
    std::filesystem::create_directories(file.parent_path(), code);
    save_calibration(added, file, options.replace);
  }
  if (!options.take.empty()) {
    if (options.to.empty()) throw call_error("A file is missing.", "--to", "Name the file to write with --to.");
    save_calibration(calibration_named(options.take), options.to, options.replace);
  }
  const auto all = calibrations_in_library();
  if (common.json) {
    Json list = Json::array();
    for (const LibraryEntry& entry : all) list.push_back(as_json(entry));
    say_json({{"calibrations", list}});
    return all_done;
  }
  for (const LibraryEntry& entry : all)
    if (const auto& c = entry.calibration)
      say("{}: {:.9g} x {:.9g} {} per pixel{}{}{}\n", entry.name, c->pixel.x, c->pixel.y, c->pixel.unit,
          c->uncertainty > 0 ? fmt::format(" ± {:.2g}", c->uncertainty) : "", c->lens.empty() ? "" : ", " + c->lens,
          c->made.empty() ? "" : ", " + c->made);
    else
      say("{}: cannot be read: {}\n", entry.name, entry.problem);
  if (all.empty()) say("There are no calibrations in {}.\n", calibration_folder().string());
  return all_done;
}

}  // namespace

void add_calibrate(CLI::App& app, Common& common, Verbs& verbs) {
  auto options = std::make_shared<CalibrateOptions>();
  CLI::App* verb = app.add_subcommand(
      "calibrate", "finds the pixel size from evenly spaced lines, or perspective and lens from a grid");
  verb->add_option("FILE", options->files,
                   "a picture of a ruler, a stage micrometer or a grid; with --grid several views of one grid")
      ->required();
  verb->add_flag("--grid", options->grid,
                 "a checkerboard, dots or crossed lines: perspective and lens from one picture, the lens from several");
  verb->add_option("--chain", options->chain, "with --grid: write the chain that undoes lens and perspective");
  verb->add_option("--spacing", options->spacing, "from line to line, or from node to node, in --unit")
      ->required()
      ->check(number_from(1e-9, 1e9));
  verb->add_option("--unit", options->unit, "nm, um, mm, cm, m, km or in")
      ->required()
      ->check(CLI::IsMember(length_units()));
  verb->add_option("--region", options->region, "x,y,width,height: look in this part only");
  verb->add_option("--save", options->save, "keep it in the library under this name");
  verb->add_option("--lens", options->lens, "the lens or objective that it is for");
  verb->add_flag("--replace", options->replace, "replace one of the same name");
  add_common(*verb, common);
  verbs.emplace_back(verb, [options, &common] { return run_calibrate(common, *options); });

  auto library = std::make_shared<LibraryOptions>();
  CLI::App* list = app.add_subcommand("calibrations", "lists the library of calibrations, and changes it");
  list->add_option("--remove", library->remove, "a name to take out");
  list->add_option("--import", library->add, "a file to take in");
  list->add_option("--export", library->take, "a name to write to the file of --to");
  list->add_option("--to", library->to, "the file that --export writes");
  list->add_flag("--replace", library->replace, "replace what is there");
  add_common(*list, common);
  verbs.emplace_back(list, [library, &common] { return run_library(common, *library); });
}

}  // namespace fexel::cli

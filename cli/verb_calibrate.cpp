#include <fmt/format.h>

#include <ctime>

#include "chain/calibrations.h"
#include "cli/output.h"
#include "cli/verbs.h"
#include "files/picture.h"
#include "measure/ruled_target.h"

namespace fexel::cli {
namespace {

struct CalibrateOptions {
  std::string file, unit, region, save, lens, out;
  double spacing = 0;
  bool replace = false;
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

int run_calibrate(const Common& common, const CalibrateOptions& options) {
  const Image image = read_picture(options.file, 1, {}, {common.stop, {}});
  Region region{0, 0, image.width(), image.height()};
  if (!options.region.empty()) {
    const auto numbers = numbers_in(options.region, ',');
    if (!numbers || numbers->size() != 4 || !((*numbers)[2] >= 1 && (*numbers)[3] >= 1) ||
        !std::ranges::all_of(*numbers, [](double v) { return v >= 0 && v < 1e9; }))
      throw call_error(fmt::format("\"{}\" is not a region.", options.region), "--region",
                       "Give x,y,width,height in pixels.");
    region = {static_cast<int>((*numbers)[0]), static_cast<int>((*numbers)[1]), static_cast<int>((*numbers)[2]),
              static_cast<int>((*numbers)[3])};
    if (region.x >= image.width() || region.y >= image.height())
      throw call_error("The region lies outside of the picture.", "--region",
                       fmt::format("The picture has {} x {} px.", image.width(), image.height()));
  }
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
  const auto pixel = read_info(options.file).pixel_size;
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
  CLI::App* verb = app.add_subcommand("calibrate", "finds the pixel size from evenly spaced parallel lines");
  verb->add_option("FILE", options->file, "a picture of a ruler or a stage micrometer")->required();
  verb->add_option("--spacing", options->spacing, "from line to line, in --unit")
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

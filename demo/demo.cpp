#include "demo/demo.h"

#include <fmt/format.h>

#include <algorithm>
#include <functional>

#include "base/error.h"
#include "demo/card.h"
#include "demo/crackle.h"
#include "demo/passing.h"
#include "demo/roundel.h"
#include "demo/series.h"
#include "demo/slip.h"
#include "demo/survey.h"
#include "demo/targets.h"
#include "demo/wall.h"
#include "files/film.h"
#include "files/ome.h"
#include "files/picture.h"
#include "filter/filter.h"
#include "fit/pairs_csv.h"
#include "text/json.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

/// A picture of the set, with the chain that does its job.
struct Scene {
  const char *picture, *chain, *key;
  Image (*render)(const Job& job);
  Json (*truth)();
  Chain (*steps)();
  std::optional<PixelSize> pixel;
  double share;  ///< of the time that the set takes
};
const std::vector<Scene>& scenes() {
  static const std::vector<Scene> all = {{"wall-oblique.png",
                                          "wall.fexel.json",
                                          "wall",
                                          scene::render_wall,
                                          scene::wall_truth,
                                          scene::wall_chain,
                                          {},
                                          0.4},
                                         {"record-card.png", "card.fexel.json", "card", scene::render_card,
                                          scene::card_truth, scene::card_chain, PixelSize{0.1, 0.1, "mm"}, 0.13},
                                         {"roundel.png",
                                          "roundel.fexel.json",
                                          "roundel",
                                          scene::render_roundel,
                                          scene::roundel_truth,
                                          scene::roundel_chain,
                                          {},
                                          0.13},
                                         {"line-target.png",
                                          "line-target.fexel.json",
                                          "line-target",
                                          scene::render_lines,
                                          scene::lines_truth,
                                          scene::lines_chain,
                                          {},
                                          0.06}};
  return all;
}

void write_drying(const fs::path& folder, const Job& job, std::vector<fs::path>& written) {
  std::error_code code;
  fs::create_directories(folder / "drying", code);
  const scene::Drying series(job.part(0, 0.2));
  WriteOptions how;
  how.pixel_size = PixelSize{0.28, 0.28, "mm"};
  how.replace = true;
  Chain chain;
  for (int n = 1; n <= scene::drying_frames; ++n) {
    std::vector<Image> pages;
    pages.push_back(series.frame(n, job.part(0.2 + 0.05 * (n - 1), 0.2 + 0.05 * n)));
    written.push_back(folder / "drying" / ("frame-" + std::to_string(n) + ".tif"));
    write_pictures(written.back(), pages, how, {job.stop, {}});
    chain.sources.push_back({"drying/" + written.back().filename().string(), checksum(written.back(), {})});
  }
  chain.steps.push_back({AlignStep{}, true, {}});
  chain.steps.push_back({CropStep{CropRectangle{40, 26, 1504, 1128}}, true, {}});
  written.push_back(folder / "drying.fexel.json");
  write_text(written.back(), write_chain(chain), true);
}

void write_bands(const fs::path& folder, const Job& job, std::vector<fs::path>& written) {
  const Image bands = scene::render_bands(job.part(0, 0.95));
  std::vector<Image> pages;
  std::vector<std::string> names;
  for (int band = 0; band < bands.bands(); ++band) {
    pages.push_back(chosen_bands(bands, {band}));
    names.emplace_back(scene::band_name(band));
  }
  WriteOptions how;
  how.pixel_size = PixelSize{0.3, 0.3, "mm"};
  how.replace = true;
  how.description = ome_description(names, {bands.width(), bands.height()}, bands.depth(), how.pixel_size);
  written.push_back(folder / "bands.ome.tif");
  write_pictures(written.back(), pages, how, job.part(0.95, 1));
  AlignStep align;
  align.model = Model::similarity;
  align.against = {ReferenceMode::frame, 3};
  align.alike = SimilarityMetric::structure;
  Chain chain;
  chain.sources.push_back({"bands.ome.tif", checksum(written.back(), {})});
  chain.steps.push_back({align, true, {}});
  written.push_back(folder / "bands.fexel.json");
  write_text(written.back(), write_chain(chain), true);
}

void write_board(const fs::path& folder, const Job& job, std::vector<fs::path>& written) {
  std::error_code code;
  fs::create_directories(folder / "board", code);
  WriteOptions how;
  how.format = Format::png;
  how.replace = true;
  Chain chain;
  for (int view = 1; view <= scene::board_views; ++view) {
    std::vector<Image> pages;
    pages.push_back(scene::render_board(view, job.part(static_cast<double>(view - 1) / scene::board_views,
                                                       static_cast<double>(view) / scene::board_views)));
    written.push_back(folder / "board" / ("view-" + std::to_string(view) + ".png"));
    write_pictures(written.back(), pages, how, {job.stop, {}});
    chain.sources.push_back({"board/" + written.back().filename().string(), checksum(written.back(), {})});
  }
  written.push_back(folder / "board.fexel.json");
  write_text(written.back(), write_chain(chain), true);
}

void write_survey(const fs::path& folder, const Job& job, std::vector<fs::path>& written) {
  WriteOptions how;
  how.format = Format::png;
  how.replace = true;
  const auto put = [&](const char* name, Image image, const Job& part) {
    std::vector<Image> pages;
    pages.push_back(std::move(image));
    written.push_back(folder / name);
    write_pictures(written.back(), pages, how, part);
  };
  put("survey-old.png", scene::render_old_record(job.part(0, 0.45)), job.part(0.45, 0.5));
  Chain chain = scene::survey_chain();
  chain.sources[0].sha256 = checksum(written.back(), job);
  how.pixel_size = PixelSize{scene::plan_pixel, scene::plan_pixel, "mm"};
  put("survey-plan.png", scene::render_plan(job.part(0.5, 0.95)), job.part(0.95, 1));
  written.push_back(folder / "survey-pairs.csv");
  write_text(written.back(), csv_of_pairs(scene::survey_pairs()), true);
  written.push_back(folder / "survey.fexel.json");
  write_text(written.back(), write_chain(chain), true);
}

void write_crackle(const fs::path& folder, const Job& job, std::vector<fs::path>& written) {
  std::error_code code;
  fs::create_directories(folder / "crackle", code);
  const scene::Crackle series(job.part(0, 0.1));
  WriteOptions how;
  how.replace = true;
  Chain chain = scene::crackle_chain();
  for (int n = 1; n <= scene::crackle_frames; ++n) {
    std::vector<Image> pages;
    pages.push_back(
        series.frame(n, job.part(0.1 + 0.9 * (n - 1) / scene::crackle_frames, 0.1 + 0.9 * n / scene::crackle_frames)));
    written.push_back(folder / "crackle" / fmt::format("load-{:02}.tif", n));
    write_pictures(written.back(), pages, how, {job.stop, {}});
    chain.sources.push_back({"crackle/" + written.back().filename().string(), checksum(written.back(), {})});
  }
  written.push_back(folder / "crackle.fexel.json");
  write_text(written.back(), write_chain(chain), true);
}

void write_slip(const fs::path& folder, const Job& job, std::vector<fs::path>& written) {
  std::error_code code;
  fs::create_directories(folder / "slip", code);
  WriteOptions how;
  how.format = Format::png;
  how.replace = true;
  Chain chain = scene::slip_chain();
  constexpr int all = 2 * scene::slip_pairs + 3;
  int done = 0;
  const auto put = [&](const std::string& name, const auto& render) {
    std::vector<Image> pages;
    pages.push_back(render(job.part(static_cast<double>(done) / all, (done + 1.0) / all)));
    ++done;
    written.push_back(folder / "slip" / name);
    write_pictures(written.back(), pages, how, {job.stop, {}});
  };
  for (int pair = 0; pair <= scene::slip_pairs; ++pair)
    for (const bool second : {false, true}) {
      const char* which = second ? "b" : "a";
      put(pair == 0 ? fmt::format("still-{}.png", which) : fmt::format("pour-{:02}-{}.png", pair, which),
          [&](const Job& part) { return scene::render_slip(pair, second, part); });
      if (pair > 0)
        chain.sources.push_back({"slip/" + written.back().filename().string(), checksum(written.back(), {})});
    }
  put("ruler.png", [](const Job& part) { return scene::render_slip_ruler(part); });
  written.push_back(folder / "slip.fexel.json");
  write_text(written.back(), write_chain(chain), true);
}

void write_passing(const fs::path& folder, const Job& job, std::vector<fs::path>& written) {
  const scene::Passing passing(job.part(0, 0.3));
  WriteOptions how;
  how.replace = true;
  written.push_back(folder / "passing.mkv");
  FilmWriter film(written.back(), {{640, 480}, 1, Depth::u8, 0, scene::passing_rate, FilmUse::lossless}, how);
  for (int n = 1; n <= scene::passing_frames; ++n)
    film.add(
        passing.frame(n, job.part(0.3 + 0.7 * (n - 1) / scene::passing_frames, 0.3 + 0.7 * n / scene::passing_frames)));
  film.finish();
  Chain chain = scene::passing_chain();
  chain.sources.push_back({"passing.mkv", checksum(written.back(), {})});
  written.push_back(folder / "passing.fexel.json");
  write_text(written.back(), write_chain(chain), true);
}

/// A set of the demonstration: its chain, its key in the truth, and its share of the time that all take.
struct Set {
  std::string chain, key;
  double share;
  std::function<void(const fs::path&, const Job&, std::vector<fs::path>&)> write;
  Json (*truth)();
};

void write_scene(const Scene& scene, const fs::path& folder, const Job& job, std::vector<fs::path>& written) {
  std::vector<Image> pages;
  pages.push_back(scene.render(job.part(0, 0.95)));
  WriteOptions how;
  how.format = Format::png;
  how.pixel_size = scene.pixel;
  how.replace = true;
  written.push_back(folder / scene.picture);
  write_pictures(written.back(), pages, how, job.part(0.95, 1));
  Chain chain = scene.steps();
  chain.sources[0].sha256 = checksum(written.back(), job);
  written.push_back(folder / scene.chain);
  write_text(written.back(), write_chain(chain), true);
}

std::vector<Set> sets() {
  std::vector<Set> all;
  for (const Scene& scene : scenes())
    all.push_back({scene.chain, scene.key, scene.share,
                   [&scene](const fs::path& folder, const Job& job, std::vector<fs::path>& written) {
                     write_scene(scene, folder, job, written);
                   },
                   scene.truth});
  all.push_back({"drying.fexel.json", "drying", 0.24, write_drying, scene::drying_truth});
  all.push_back({"bands.fexel.json", "bands", 0.1, write_bands, scene::bands_truth});
  all.push_back({"crackle.fexel.json", "crackle", 0.25, write_crackle, scene::crackle_truth});
  all.push_back({"slip.fexel.json", "slip", 0.25, write_slip, scene::slip_truth});
  all.push_back({"passing.fexel.json", "passing", 0.1, write_passing, scene::passing_truth});
  all.push_back({"survey.fexel.json", "survey", 0.2, write_survey, scene::survey_truth});
  all.push_back({"board.fexel.json", "board", 0.2, write_board, scene::board_truth});
  return all;
}

/// What the folder says about its sets; of another version, or none, nothing.
Json truth_in(const fs::path& folder) {
  try {
    Json truth = parse_json(read_text(folder / "truth.json"));
    if (truth.is_object() && truth.value("version", "") == demo_version) return truth;
  } catch (const std::exception&) {
  }
  return {{"version", demo_version}};
}

}  // namespace

std::vector<std::string> demo_chains() {
  std::vector<std::string> names;
  for (const Set& set : sets()) names.push_back(set.chain);
  return names;
}

std::vector<fs::path> write_demo(const fs::path& folder, const Job& job, const std::string& chain) {
  std::error_code code;
  fs::create_directories(folder, code);
  if (code) throw input_error("The folder for the demo cannot be made.", folder.string(), "Choose another one.");
  std::vector<Set> wanted = sets();
  if (!chain.empty()) std::erase_if(wanted, [&](const Set& set) { return set.chain != chain; });
  if (wanted.empty()) throw call_error("There is no such demo.", chain, "Name one of its chains.");
  double all = 0, done = 0;
  for (const Set& set : wanted) all += set.share;
  std::vector<fs::path> written;
  for (const Set& set : wanted) {
    // Its truth is written last: a set without it is not whole.
    Json truth = truth_in(folder);
    truth.erase(set.key);
    if (fs::exists(folder / "truth.json", code)) write_text(folder / "truth.json", to_text(truth, 2) + "\n", true);
    set.write(folder, job.part(done / all, (done + set.share) / all), written);
    done += set.share;
    truth[set.key] = set.truth();
    write_text(folder / "truth.json", to_text(truth, 2) + "\n", true);
  }
  written.push_back(folder / "truth.json");
  return written;
}

bool demo_is_there(const fs::path& folder, const std::string& chain) {
  std::error_code code;
  const Json truth = truth_in(folder);
  return std::ranges::all_of(sets(), [&](const Set& set) {
    if (!chain.empty() && set.chain != chain) return true;
    if (!truth.contains(set.key)) return false;
    try {
      const Chain steps = parse_chain(read_text(folder / set.chain));
      return std::ranges::all_of(steps.sources,
                                 [&](const SourceReference& s) { return fs::exists(folder / s.path, code); });
    } catch (const Error&) {
      return false;
    }
  });
}

}  // namespace fexel

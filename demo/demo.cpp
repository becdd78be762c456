#include "demo/demo.h"

#include "base/error.h"
#include "demo/wall.h"
#include "files/picture.h"
#include "text/json.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

constexpr const char* version = "1";

}  // namespace

std::vector<fs::path> write_demo(const fs::path& folder, const Job& job) {
  std::error_code code;
  fs::create_directories(folder, code);
  if (code) throw input_error("The folder for the demo cannot be made.", folder.string(), "Choose another one.");
  const fs::path truth_path = folder / "truth.json";
  fs::remove(truth_path, code);  // written last: a set without it is not whole

  std::vector<Image> wall;
  wall.push_back(scene::render_wall(job.part(0, 0.95)));
  const fs::path picture = folder / "wall-oblique.png";
  write_pictures(picture, wall, {Format::png, {}, true, {}}, job.part(0.95, 1));

  Chain chain = scene::wall_chain();
  chain.sources[0].sha256 = checksum(picture, job);
  const fs::path chain_path = folder / "wall.fexel.json";
  write_text(chain_path, write_chain(chain), true);

  Json truth{{"version", version}, {"wall", scene::wall_truth()}};
  write_text(truth_path, to_text(truth, 2) + "\n", true);
  return {picture, chain_path, truth_path};
}

bool demo_is_there(const fs::path& folder) {
  std::error_code code;
  if (!fs::exists(folder / "wall-oblique.png", code) || !fs::exists(folder / "wall.fexel.json", code)) return false;
  try {
    return parse_json(read_text(folder / "truth.json")).value("version", "") == version;
  } catch (const std::exception&) {
    return false;
  }
}

}  // namespace fexel

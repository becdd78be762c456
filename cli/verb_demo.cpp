#include <fmt/format.h>

#include "cli/output.h"
#include "cli/verbs.h"
#include "demo/demo.h"

namespace fexel::cli {

void add_demo(CLI::App& app, Common& common, Verbs& verbs) {
  auto folder = std::make_shared<std::string>();
  CLI::App* verb = app.add_subcommand("demo", "writes the demo data and its truth");
  verb->add_option("DIR", *folder, "the folder to write to; made when missing")->required();
  add_common(*verb, common);
  verbs.emplace_back(verb, [folder, &common] {
    const auto written = write_demo(*folder, job_of(common, "demo"));
    end_progress(common);
    Json list = Json::array();
    for (const auto& path : written) {
      list.push_back(path.string());
      if (!common.json) say("{}\n", path.string());
    }
    if (common.json) say_json((Json{{"files", list}}));
    return all_done;
  });
}

}  // namespace fexel::cli

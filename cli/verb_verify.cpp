#include <fmt/format.h>

#include "chain/record.h"
#include "cli/verbs.h"

namespace fexel::cli {
namespace {

int run_verify(const Common& common, const std::string& path) {
  const Verified found = verify_record(path, job_of(common, "verify"));
  end_progress(common);
  if (common.json) {
    Json out{{"same", found.same}, {"same_size", found.same_size}};
    out["largest_difference"] = std::isfinite(found.most) ? Json(found.most) : Json();
    out["differing_share"] = found.share;
    out["source_changed"] = !found.source_state.empty();
    fmt::print("{}\n", to_text(out));
  } else {
    if (!found.source_state.empty()) fmt::print("{}\n", found.source_state);
    if (found.same)
      fmt::print("The same, sample by sample.\n");
    else if (!found.same_size)
      fmt::print("Not the same: the chain now makes a picture of another size, band count or depth.\n");
    else
      fmt::print("Not the same: {:.3g} % of the samples differ, by at most {:.6g}.\n", 100 * found.share, found.most);
  }
  return found.same ? all_done : inputs_failed;
}

}  // namespace

void add_verify(CLI::App& app, Common& common, Verbs& verbs) {
  auto path = std::make_shared<std::string>();
  CLI::App* verb = app.add_subcommand("verify", "runs a record's chain again and compares with its result");
  verb->add_option("RECORD", *path, "NAME.record.json, beside the result")->required();
  add_common(*verb, common);
  verbs.emplace_back(verb, [path, &common] { return run_verify(common, *path); });
}

}  // namespace fexel::cli

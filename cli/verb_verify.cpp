#include <fmt/format.h>

#include "cli/output.h"
#include "cli/verbs.h"
#include "run/verify.h"

namespace fexel::cli {
namespace {

struct VerifyOptions {
  std::string path;
  double memory = 0;
};

int run_verify(const Common& common, const VerifyOptions& options) {
  WriteHow how;
  if (options.memory > 0) how.memory = how.limits.memory = static_cast<std::int64_t>(options.memory * 1024 * 1024);
  const Verified found = verify_record(options.path, how, job_of(common, "verify"));
  end_progress(common);
  if (common.json) {
    Json out{{"same", found.same}, {"same_size", found.same_size}};
    out["largest_difference"] = std::isfinite(found.most) ? Json(found.most) : Json();
    out["differing_share"] = found.share;
    out["source_changed"] = !found.source_state.empty();
    out["result_changed"] = !found.result_state.empty();
    say_json((out));
  } else {
    if (!found.source_state.empty()) say("{}\n", found.source_state);
    if (!found.result_state.empty()) say("{}\n", found.result_state);
    if (found.same)
      say("The same, sample by sample.\n");
    else if (!found.same_size)
      say("Not the same: what the chain now makes has another size, band count, depth or number of pages.\n");
    else if (found.share == 0)
      say("The samples are the same, but the files are not those that were written.\n");
    else
      say("Not the same: {:.3g} % of the samples differ, by at most {:.6g}.\n", 100 * found.share, found.most);
  }
  return found.same ? all_done : inputs_failed;
}

}  // namespace

void add_verify(CLI::App& app, Common& common, Verbs& verbs) {
  auto options = std::make_shared<VerifyOptions>();
  CLI::App* verb = app.add_subcommand("verify", "runs a record's chain again and compares with its result");
  verb->add_option("RECORD", options->path, "RESULT.record.json, beside the result")->required();
  verb->add_option("--max-memory", options->memory, "MB that a run may take (half of the machine's)")
      ->check(number_from(64.0, 1e9));
  add_common(*verb, common);
  verbs.emplace_back(verb, [options, &common] { return run_verify(common, *options); });
}

}  // namespace fexel::cli

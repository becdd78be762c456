#include <fmt/format.h>

#include "chain/calibrations.h"
#include "cli/output.h"
#include "cli/shard.h"
#include "cli/verbs.h"
#include "files/safe_file.h"
#include "run/align_search.h"
#include "run/frames.h"
#include "run/measure_run.h"

namespace fexel::cli {
namespace {

struct MeasureOptions {
  std::string chain, out, calibration, shard;
  std::vector<std::string> inputs;
  int station = -1;
  bool replace = false;
};

Json as_json(const MeasuredRow& row) {
  const Reading& reading = row.reading;
  Json out{{"frame", row.frame}, {"name", row.name}, {"kind", row.kind}};
  out["value"] = reading.value ? Json(reading.value->value) : Json();
  out["unit"] = reading.value ? Json(reading.value->unit) : Json();
  out["uncertainty"] = reading.uncertainty ? Json(*reading.uncertainty) : Json();
  if (row.expected) out["expected"] = {{"value", row.expected->value}, {"unit", row.expected->unit}};
  if (reading.error) out["error"] = *reading.error;
  if (reading.problem) out["problem"] = *reading.problem;
  for (const auto* details : {&reading.details, &row.sampled})
    for (const Detail& detail : *details)
      out["details"][detail.name] = {{"value", detail.quantity.value}, {"unit", detail.quantity.unit}};
  return out;
}

int run_measure(const Common& common, const MeasureOptions& options) {
  const Chain chain = with_calibration(load_chain(options.chain), options.calibration);
  auto inputs = expand_inputs({options.inputs.begin(), options.inputs.end()});
  if (!options.shard.empty()) {
    if (align_step_of(chain))
      throw call_error("The inputs of a chain that aligns are one sequence, which has no parts.", "--shard",
                       "Leave --shard out.");
    const auto [first, last] = read_shard(options.shard).block(inputs.size());
    inputs = {inputs.begin() + static_cast<std::ptrdiff_t>(first), inputs.begin() + static_cast<std::ptrdiff_t>(last)};
  }
  ProtectedPaths keep;
  if (options.chain != "-") keep.add(options.chain, "the chain");
  for (const auto& input : inputs) keep.add(input, "the source");
  if (!options.out.empty()) check_report(options.out, options.replace, keep);
  MeasureRunOptions run;
  if (options.station >= 0) run.station = options.station;
  const auto files = measure_files(chain, inputs, run, job_of(common, "measure"));
  end_progress(common);
  const std::string csv = measurements_csv(files);
  if (!options.out.empty()) write_text(options.out, csv, options.replace);
  Json list = Json::array(), failed = Json::array();
  std::size_t rows = 0, without = 0;
  for (const MeasuredFile& file : files) {
    for (const MeasuredRow& row : file.rows) {
      Json entry = as_json(row);
      entry["input"] = file.input.string();
      list.push_back(std::move(entry));
      ++rows;
      without += !row.reading.value;
    }
    if (!file.failure) continue;
    Json entry = logged_error(*file.failure);
    entry["input"] = file.input.string();
    failed.push_back(entry);
    if (!common.json) complain(fmt::format("{}: {}", file.input.string(), file.failure->message()));
  }
  if (common.json)
    say_json({{"measurements", list}, {"failed", failed}});
  else if (options.out.empty())
    say("{}", csv);
  else
    say("{} rows of {} files -> {}\n", rows, files.size() - failed.size(), options.out);
  if (without > 0 && !common.json)
    complain(fmt::format("{} of {} measurements have no value: see the column \"problem\".", without, rows));
  return failed.empty() ? all_done : inputs_failed;
}

}  // namespace

void add_measure(CLI::App& app, Common& common, Verbs& verbs) {
  auto options = std::make_shared<MeasureOptions>();
  CLI::App* verb = app.add_subcommand("measure", "reads every measurement of a chain on every input, as CSV");
  verb->add_option("CHAIN", options->chain, "the chain")->required();
  verb->add_option("INPUT", options->inputs, "pictures, and folders of them")->required();
  verb->add_option("--out", options->out, "the CSV file; without it the table goes to standard output");
  verb->add_option("--station", options->station, "where they are read: 0 is the source; the result without it")
      ->check(CLI::Range(0, 100000));
  verb->add_option("--shard", options->shard, "I/N: only the I-th of N parts of the inputs");
  verb->add_option("--calibration", options->calibration,
                   "a name in the library, a file, or none, in place of the chain's calibration");
  verb->add_flag("--replace", options->replace, "replace a file that is there");
  add_common(*verb, common);
  verbs.emplace_back(verb, [options, &common] { return run_measure(common, *options); });
}

}  // namespace fexel::cli

#include <fmt/format.h>

#include <iostream>
#include <iterator>

#include "cli/output.h"
#include "cli/verbs.h"
#include "files/picture.h"
#include "fit/model_choice.h"
#include "fit/pairs_csv.h"
#include "steps/fit.h"

namespace fexel::cli {
namespace {

struct FitOptions {
  std::string pairs, model, origin = "corner", chain;
  bool robust = false, replace = false;
  double picking = 0.5;
};

Json rows_of_map(const Fit& fit) {
  if (!fit.map.planar()) return {};
  const Matrix3 m = fit.map.matrix() / fit.map.matrix()(2, 2);
  Json rows = Json::array();
  for (int r = 0; r < 3; ++r) rows.push_back({m(r, 0), m(r, 1), m(r, 2)});
  return rows;
}

/// What is to be known before the fit is used.
std::vector<std::string> warnings_of(const FitStep& step, const Fit& fit, Model model,
                                     const std::optional<Model>& suggested) {
  std::vector<std::string> out;
  if (fit.freedom == 0 && model != Model::thin_plate)
    out.push_back(fmt::format(
        "The {} pairs determine the model and leave nothing over: the RMS says nothing. Add pairs.", fit.used));
  if (model == Model::thin_plate)
    out.emplace_back("A thin-plate spline goes through every pair: judge it by leave-one-out, not by its RMS.");
  std::string outliers;
  for (std::size_t i = 0; i < step.pairs.size(); ++i)
    if (step.pairs[i].use && fit.weights[i] == 0)
      outliers += (outliers.empty() ? "" : ", ") + label_of(step, static_cast<int>(i));
  if (!outliers.empty()) out.push_back("Excluded as outliers: " + outliers + ".");
  if (suggested && *suggested != model && model != Model::thin_plate)
    out.push_back(fmt::format("The pairs speak for the model {}.", name_of(*suggested)));
  return out;
}

int run_fit(const Common& common, const FitOptions& options) {
  const std::string text =
      options.pairs == "-" ? std::string(std::istreambuf_iterator<char>(std::cin), {}) : read_text(options.pairs);
  // corner: the outer corner of the first pixel is 0, 0. centre0, centre1: its centre is 0, 0 or 1, 1.
  const double shift = options.origin == "corner" ? 0 : options.origin == "centre0" ? 0.5 : -0.5;
  FitStep step;
  step.pairs = pairs_from_csv(text, shift);
  step.model = *model_named(options.model);
  step.robust = options.robust;
  step.picking = options.picking;
  const Fit fit = fit_of(step);
  const auto left_out = leave_one_out(step.model, step.pairs, fit);
  const auto suggested = suggested_model(try_models(step.pairs, step.robust));
  const auto warnings = warnings_of(step, fit, step.model, suggested);
  if (!options.chain.empty()) {
    Chain chain;
    chain.steps = {{step, true, {}}};
    write_text(options.chain, write_chain(chain), options.replace);
  }
  Json pairs = Json::array();
  for (std::size_t i = 0; i < step.pairs.size(); ++i) {
    const Point off = fit.residuals[i];
    pairs.push_back({{"name", label_of(step, static_cast<int>(i))},
                     {"use", step.pairs[i].use},
                     {"dx", off.x},
                     {"dy", off.y},
                     {"distance", std::hypot(off.x, off.y)},
                     {"leave_one_out", left_out[i] ? Json(*left_out[i]) : Json()},
                     {"outlier", step.pairs[i].use && fit.weights[i] == 0}});
  }
  if (common.json) {
    say_json({{"model", name_of(step.model)},
              {"matrix", rows_of_map(fit)},
              {"rms_px", fit.rms},
              {"noise_px", fit.noise},
              {"used", fit.used},
              {"pairs", pairs},
              {"suggested_model", suggested ? Json(name_of(*suggested)) : Json()},
              {"warnings", warnings}});
    return all_done;
  }
  say("{} through {} pairs: RMS {} px", name_of(step.model), fit.used, number_text(fit.rms, 3));
  say(fit.freedom > 0 ? fmt::format(", a coordinate scatters by {} px.\n", number_text(fit.noise, 3)) : ".\n");
  for (std::size_t i = 0; i < step.pairs.size(); ++i)
    say("{:<16} dx {:>9} dy {:>9} left out {:>9}{}\n", label_of(step, static_cast<int>(i)),
        number_text(fit.residuals[i].x, 3), number_text(fit.residuals[i].y, 3),
        left_out[i] ? number_text(*left_out[i], 3) : "-",
        step.pairs[i].use ? (fit.weights[i] == 0 ? "  outlier" : "") : "  not used");
  const Json rows = rows_of_map(fit);
  for (const Json& row : rows)
    say("{:>16.9g} {:>16.9g} {:>16.9g}\n", row[0].get<double>(), row[1].get<double>(), row[2].get<double>());
  for (const std::string& warning : warnings) complain(warning);
  return all_done;
}

}  // namespace

void add_fit(CLI::App& app, Common& common, Verbs& verbs) {
  auto options = std::make_shared<FitOptions>();
  CLI::App* verb = app.add_subcommand("fit", "fits a transform to pairs of control points");
  verb->add_option("PAIRS", options->pairs, "CSV with from_x,from_y,to_x,to_y, and name,use; - for standard input")
      ->required();
  verb->add_option("--model", options->model,
                   "translation, rigid, similarity, affine, projective, polynomial2, polynomial3 or thin-plate")
      ->required()
      ->check(CLI::IsMember(model_names()));
  verb->add_flag("--robust", options->robust, "exclude outliers");
  verb->add_option("--picking", options->picking, "standard uncertainty of a placed point, in px")
      ->check(number_from(1e-6, 1e6));
  verb->add_option("--pixel-origin", options->origin, "corner, centre0 or centre1")
      ->check(CLI::IsMember({"corner", "centre0", "centre1"}));
  verb->add_option("--chain", options->chain, "write a chain with the step to this file");
  verb->add_flag("--replace", options->replace, "replace a chain that is there");
  add_common(*verb, common);
  verbs.emplace_back(verb, [options, &common] { return run_fit(common, *options); });
}

}  // namespace fexel::cli

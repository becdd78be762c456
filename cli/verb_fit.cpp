#include <fmt/format.h>

#include <iostream>
#include <iterator>
#include <set>

#include "align/prepared.h"
#include "cli/output.h"
#include "cli/verbs.h"
#include "files/picture.h"
#include "fit/coverage.h"
#include "fit/model_choice.h"
#include "fit/pairs_csv.h"
#include "fit/typing_mistakes.h"
#include "points/propose_pairs.h"
#include "steps/fit.h"

namespace fexel::cli {
namespace {

struct FitOptions {
  std::string pairs, model, origin = "corner", chain, models, check, reference, table, world;
  bool robust = false, replace = false;
  double picking = 0.5;
  int propose = 0;
};

Json rows_of_map(const Fit& fit) {
  if (!fit.map.planar()) return {};
  const Matrix3 m = fit.map.matrix() / fit.map.matrix()(2, 2);
  Json rows = Json::array();
  for (int r = 0; r < 3; ++r) rows.push_back({m(r, 0), m(r, 1), m(r, 2)});
  return rows;
}

/// A world file: how much x and y grow by a column and by a row, and the coordinates of the first pixel's centre.
std::string world_file_of(const Map& map) {
  if (!map.planar()) throw call_error("A curved transform does not fit into a world file.", {}, "Choose affine.");
  const Matrix3 m = map.matrix() / map.matrix()(2, 2);
  if (std::abs(m(2, 0)) + std::abs(m(2, 1)) > 1e-15)
    throw call_error("A projective transform does not fit into a world file.", {}, "Choose affine.");
  const Point first = *map.forward({0.5, 0.5});
  return fmt::format("{:.12g}\n{:.12g}\n{:.12g}\n{:.12g}\n{:.12g}\n{:.12g}\n", m(0, 0), m(1, 0), m(0, 1), m(1, 1),
                     first.x, first.y);
}

Image plane_of_picture(const std::string& path, const Job& job) {
  return plane_of(read_picture(path, 1, {}, job), 0, job);
}

/// Pairs of places that the two pictures have in common, with a line for each about how it was found.
std::vector<PointPair> proposed(const FitOptions& options, const Job& job, Json& found) {
  if (options.pairs == "-") throw call_error("A proposal needs two pictures.", "PAIRS", "Name the first picture.");
  const Proposal made =
      propose_pairs(plane_of_picture(options.pairs, job.part(0, 0.05)),
                    plane_of_picture(options.reference, job.part(0.05, 0.1)), options.propose, job.part(0.1, 1));
  std::vector<PointPair> out;
  found = {{"tried", made.tried}, {"rms_px", made.rms}, {"by_edges", made.unlike}, {"pairs", Json::array()}};
  for (const ProposedPair& p : made.pairs) {
    out.push_back(p.pair);
    found["pairs"].push_back({{"name", p.pair.name}, {"sigma_px", p.sigma}, {"score", p.score}});
  }
  return out;
}

/// All that is asked for, or nothing: what is there already, or cannot be said, is found before the first is written.
void write_files(const FitOptions& options, const FitStep& step, const Fit& fit) {
  std::vector<std::pair<std::string, std::string>> files;
  if (!options.world.empty()) files.emplace_back(options.world, world_file_of(fit.map));
  if (!options.table.empty()) files.emplace_back(options.table, csv_of_pairs(step.pairs));
  if (!options.chain.empty()) {
    Chain chain;
    FitStep laid = step;
    if (!options.reference.empty()) {
      // The result lies on the reference.
      const FileInfo info = read_info(options.reference);
      const auto folder = std::filesystem::absolute(options.chain).parent_path();
      const auto beside = [&](const std::string& file) {
        return std::filesystem::absolute(file).lexically_normal().lexically_relative(folder).string();
      };
      laid = laid_on(laid, beside(options.reference), {info.width, info.height}, info.pixel_size);
      chain.sources = {{beside(options.pairs), checksum(options.pairs, {})}};
    }
    chain.steps = {{laid, true, {}}};
    files.emplace_back(options.chain, write_chain(chain));
  }
  ProtectedPaths keep;
  for (const std::string& read : {options.pairs, options.check, options.reference})
    if (!read.empty() && read != "-") keep.add(read, "what is read");
  std::set<std::filesystem::path> taken;
  for (const auto& [path, text] : files) {
    keep.check(path);
    if (!taken.insert(std::filesystem::absolute(path).lexically_normal()).second)
      throw call_error("Two results have the same name.", path, "Give each a name of its own.");
    std::error_code code;
    if (!options.replace && std::filesystem::exists(path, code))
      throw call_error("This file is there already.", path, "Give another name, or --replace.");
  }
  for (const auto& [path, text] : files) write_text(path, text, options.replace, &keep);
}

Json rows_of_models(const std::vector<ModelTried>& tried, const std::optional<Model>& suggested) {
  Json out = Json::array();
  for (const ModelTried& one : tried) {
    Json row{{"model", name_of(one.model)}, {"suggested", suggested == one.model}};
    if (one.fit) {
      row["rms_px"] = one.fit->rms;
      row["leave_one_out_rms_px"] = one.left_out_rms;
      row["criterion"] = std::isfinite(one.criterion) ? Json(one.criterion) : Json();
    } else {
      row["problem"] = one.problem;
    }
    out.push_back(row);
  }
  return out;
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
    if (step.pairs[i].counts() && fit.weights[i] == 0)
      outliers += (outliers.empty() ? "" : ", ") + label_of(step, static_cast<int>(i));
  if (!outliers.empty()) out.push_back("Excluded as outliers: " + outliers + ".");
  if (suggested && *suggested != model && model != Model::thin_plate)
    out.push_back(fmt::format("The pairs speak for the model {}.", name_of(*suggested)));
  return out;
}

Json rows_of_covariance(const Eigen::MatrixXd& covariance) {
  if (covariance.size() == 0) return {};
  Json rows = Json::array();
  for (Eigen::Index r = 0; r < covariance.rows(); ++r) {
    Json row = Json::array();
    for (Eigen::Index c = 0; c < covariance.cols(); ++c) row.push_back(covariance(r, c));
    rows.push_back(row);
  }
  return rows;
}

int run_fit(const Common& common, const FitOptions& options) {
  // Long because it says one thing after the other.
  if (options.propose > 0 && options.reference.empty())
    throw call_error("A proposal needs two pictures.", "--propose", "Give the second one with --reference.");
  if (options.propose == 0 && !options.reference.empty())
    throw call_error("Nothing is to be proposed.", "--reference", "Say how many pairs with --propose.");
  Json found;
  const auto text_of_table = [](const std::string& path) {
    return path == "-" ? std::string(std::istreambuf_iterator<char>(std::cin), {}) : read_text(path);
  };
  // corner: the outer corner of the first pixel is 0, 0. centre0, centre1: its centre is 0, 0 or 1, 1.
  const double shift = options.origin == "corner" ? 0 : options.origin == "centre0" ? 0.5 : -0.5;
  FitStep step;
  step.pairs = options.propose > 0 ? proposed(options, job_of(common, "proposing pairs"), found)
                                   : pairs_from_csv(text_of_table(options.pairs), shift);
  if (!options.check.empty())
    for (PointPair pair : pairs_from_csv(text_of_table(options.check), shift)) {
      pair.check = true;
      step.pairs.push_back(pair);
    }
  step.model = *model_named(options.model);
  step.robust = options.robust;
  step.picking = options.picking;
  const Fit fit = fit_of(step);
  const std::vector<PointPair> weighed = pairs_in_pixels(step);
  const auto left_out = leave_one_out(step.model, weighed, fit);
  const auto tried = try_models(weighed, step.robust);
  const double sigma = uncertainty_of_pairs(step, fit);
  const auto suggested = suggested_model(tried);
  auto warnings = warnings_of(step, fit, step.model, suggested);
  std::vector<std::string> labels;
  for (std::size_t i = 0; i < step.pairs.size(); ++i) labels.push_back(label_of(step, static_cast<int>(i)));
  Json mistakes = Json::array();
  for (const TypingMistake& mistake : typing_mistakes(step.model, step.pairs)) {
    mistakes.push_back({{"what", sentence_of(mistake, labels)}, {"remedy", remedy_of(mistake) + "."}});
    warnings.push_back(sentence_of(mistake, labels) + " " + remedy_of(mistake) + ".");
  }
  write_files(options, step, fit);
  Json pairs = Json::array();
  for (std::size_t i = 0; i < step.pairs.size(); ++i) {
    const Point off = fit.residuals[i];
    pairs.push_back({{"name", label_of(step, static_cast<int>(i))},
                     {"use", step.pairs[i].use},
                     {"check", step.pairs[i].check},
                     {"uncertainty", step.pairs[i].uncertainty ? Json(*step.pairs[i].uncertainty) : Json()},
                     {"dx", off.x},
                     {"dy", off.y},
                     {"distance", std::hypot(off.x, off.y)},
                     {"leave_one_out", left_out[i] ? Json(*left_out[i]) : Json()},
                     {"outlier", step.pairs[i].counts() && fit.weights[i] == 0}});
  }
  if (common.json) {
    Json out{{"model", name_of(step.model)},
             {"matrix", rows_of_map(fit)},
             {"covariance", rows_of_covariance(matrix_covariance(step.model, weighed, fit, sigma))},
             {"uncertainty_px", sigma},
             {"rms_px", fit.rms},
             {"noise_px", fit.noise},
             {"used", fit.used},
             {"pairs", pairs},
             {"suggested_model", suggested ? Json(name_of(*suggested)) : Json()},
             {"mistakes", mistakes},
             {"warnings", warnings}};
    if (fit.checks > 0) out["check"] = {{"pairs", fit.checks}, {"rms_px", fit.check_rms}};
    if (!options.models.empty()) out["models"] = rows_of_models(tried, suggested);
    if (options.propose > 0) out["proposed"] = found;
    say_json(out);
    return all_done;
  }
  say("{} through {} pairs: RMS {} px", name_of(step.model), fit.used, number_text(fit.rms, 3));
  say(fit.freedom > 0 ? fmt::format(", a coordinate scatters by {} px.\n", number_text(fit.noise, 3)) : ".\n");
  for (std::size_t i = 0; i < step.pairs.size(); ++i)
    say("{:<16} dx {:>9} dy {:>9} left out {:>9}{}\n", label_of(step, static_cast<int>(i)),
        number_text(fit.residuals[i].x, 3), number_text(fit.residuals[i].y, 3),
        left_out[i] ? number_text(*left_out[i], 3) : "-",
        !step.pairs[i].use    ? "  not used"
        : step.pairs[i].check ? "  check"
        : fit.weights[i] == 0 ? "  outlier"
                              : "");
  if (fit.checks > 0) say("{} check points: RMS {} px\n", fit.checks, number_text(fit.check_rms, 3));
  if (!options.models.empty())
    for (const ModelTried& one : tried)
      say("{:<12} {}{}\n", name_of(one.model),
          one.fit
              ? fmt::format("RMS {} px, left out {} px", number_text(one.fit->rms, 3), number_text(one.left_out_rms, 3))
              : one.problem,
          suggested == one.model ? "  suggested" : "");
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
  verb->add_option("PAIRS", options->pairs,
                   "CSV with from_x,from_y,to_x,to_y, and name,use,check; - for standard input. With --propose the "
                   "picture to lay on the reference")
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
  verb->add_option("--models", options->models, "all: every model side by side")->check(CLI::IsMember({"all"}));
  verb->add_option("--check", options->check, "CSV of check points, which are kept out of the fit");
  verb->add_option("--reference", options->reference, "the picture that pairs are proposed on");
  verb->add_option("--propose", options->propose, "find so many pairs that both pictures show")
      ->check(CLI::Range(4, 5000));
  verb->add_option("--table", options->table, "write the pairs to this CSV file");
  verb->add_option("--world", options->world, "write a world file of the fit, for models up to affine");
  verb->add_option("--chain", options->chain, "write a chain with the step to this file");
  verb->add_flag("--replace", options->replace, "replace files that are there");
  add_common(*verb, common);
  verbs.emplace_back(verb, [options, &common] { return run_fit(common, *options); });
}

}  // namespace fexel::cli

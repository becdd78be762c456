#pragma once
/// Models side by side: how well each fits, and which one the pairs speak for.
#include <optional>
#include <string>
#include <vector>

#include "fit/fit.h"

namespace fexel {

/// How far each pair would lie off the fit of the others, in `to` pixels; nothing for pairs that are not used, and
/// where the others do not determine the model.
std::vector<std::optional<double>> leave_one_out(Model model, const std::vector<PointPair>& pairs, const Fit& fit);

struct ModelTried {
  Model model;
  std::optional<Fit> fit;   ///< nothing where the pairs do not determine it
  std::string problem;      ///< then why
  double criterion = 0;     ///< corrected Akaike criterion; less is better
  double left_out_rms = 0;  ///< RMS of leave_one_out()
};
/// All models but the thin-plate spline, which goes through every pair. With `robust` without the pairs that most
/// models exclude as outliers.
std::vector<ModelTried> try_models(const std::vector<PointPair>& given, bool robust);

/// The model with the least corrected Akaike criterion (C. M. Hurvich and C.-L. Tsai, 1989, "Regression and time series
/// model selection in small samples"), or a simpler one whose criterion is within 4 of that. Nothing where no model
/// leaves a pair more than it needs.
std::optional<Model> suggested_model(const std::vector<ModelTried>& tried);

}  // namespace fexel

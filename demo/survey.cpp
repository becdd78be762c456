#include "demo/survey.h"

#include "demo/camera.h"
#include "demo/numbers.h"
#include "demo/sensor.h"
#include "demo/wall.h"
#include "text/json.h"

namespace fexel::scene {
namespace {

constexpr Size old_size{1600, 1100}, plan_size{2040, 1440};
constexpr double tile = 150;
constexpr int wrong = 8;           // the pair whose target is typed the wrong way round, from 0
constexpr double placed_to = 0.4;  // pixels

const Camera& camera() {
  static const Camera camera({1180, 720, 1300}, {462, 296, 0}, 0.03, 1750,
                             {old_size.width * 0.5, old_size.height * 0.5});
  return camera;
}

/// Crossings of joints that a person would take: along the rim and inside, none hidden.
constexpr int crossings[][2] = {{0, 0}, {3, 0}, {6, 0}, {1, 1}, {4, 1}, {6, 1}, {0, 2},
                                {2, 2}, {5, 2}, {1, 3}, {3, 3}, {0, 4}, {4, 4}, {6, 4}};
constexpr int pairs = sizeof(crossings) / sizeof(crossings[0]);

Point crossing(int k) {
  return {tile * crossings[k][0], tile * crossings[k][1]};
}

}  // namespace

Image render_old_record(const Job& job) {
  const auto light = [](Point pixel) {
    const Colour c = wall_at(camera().meet(pixel, 0));
    const double grey = 0.25 * c.r + 0.6 * c.g + 0.15 * c.b;
    // Faded: less contrast, a stain, a brighter side.
    const double stain = 0.06 * step_between(0.2, 0.9, noise(pixel.x / 260, pixel.y / 260, 201));
    const double value =
        0.2 + 0.85 * grey - stain + 0.05 * pixel.x / old_size.width + 0.02 * noise(pixel.x * 0.9, pixel.y * 0.9, 202);
    return Colour{value, value, value};
  };
  return photograph(old_size, 1, light, job);
}

Image render_plan(const Job& job) {
  const auto drawn = [](Point pixel) {
    return plan_at({plan_pixel * pixel.x - plan_margin, plan_pixel * pixel.y - plan_margin});
  };
  return photograph(plan_size, 3, drawn, job);
}

std::vector<PointPair> survey_pairs() {
  std::vector<PointPair> out;
  for (int k = 0; k < pairs; ++k) {
    const Point at = crossing(k);
    Point from = camera().see({at.x, at.y, 0});
    from = from + placed_to * Point{normal_at(k, 0, 203), normal_at(k, 1, 203)};
    from = {std::floor(from.x * 100 + 0.5) / 100, std::floor(from.y * 100 + 0.5) / 100};
    Point to{at.x + plan_margin, at.y + plan_margin};
    if (k == wrong) to = {to.y, to.x};
    out.push_back({from, to, "P" + std::to_string(k + 1), true});
  }
  return out;
}

Json survey_truth() {
  Json out{{"record", "survey-old.png"}, {"plan", "survey-plan.png"}, {"unit", "mm"}, {"plan_pixel_mm", plan_pixel}};
  out["wrong_pair"] = "P" + std::to_string(wrong + 1);
  out["placed_to_px"] = placed_to;
  for (int k = 0; k < pairs; ++k) {
    const Point at = crossing(k), seen = camera().see({at.x, at.y, 0});
    out["points"].push_back({{"name", "P" + std::to_string(k + 1)},
                             {"record_px", {seen.x, seen.y}},
                             {"plan_mm", {at.x + plan_margin, at.y + plan_margin}}});
  }
  return out;
}

Chain survey_chain() {
  Chain chain;
  chain.sources = {{"survey-old.png", {}}};
  FitStep fit;
  fit.model = Model::projective;
  fit.pairs = survey_pairs();
  fit.robust = true;
  fit.unit = "mm";
  fit.pixel_size = plan_pixel;
  fit.width = plan_size.width;
  fit.height = plan_size.height;
  fit.reference = FitReference{"survey-plan.png", {}};
  chain.steps.push_back({fit, true, {}});
  return chain;
}

}  // namespace fexel::scene

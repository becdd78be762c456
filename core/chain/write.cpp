#include "chain/calibrations.h"
#include "chain/chain.h"
#include "chain/masks.h"
#include "text/json.h"
namespace fexel {
namespace {

Json step_json(const Step& step) {
  Json out;
  out["step"] = word_of(step.kind);
  if (!step.name.empty()) out["name"] = step.name;
  std::visit([&](const auto& kind) { write_step(out, kind); }, step.kind);
  if (!step.on) out["on"] = false;
  return out;
}

Json mask_json(const Mask& mask) {
  Json out;
  if (!mask.name.empty()) out["name"] = mask.name;
  const auto centre = [&] { out["centre"] = {mask.points[0].x, mask.points[0].y}; };
  switch (mask.shape) {
    case Mask::Shape::rectangle:
      out["shape"] = "rectangle";
      out["x"] = mask.points[0].x;
      out["y"] = mask.points[0].y;
      out["width"] = mask.points[1].x - mask.points[0].x;
      out["height"] = mask.points[1].y - mask.points[0].y;
      break;
    case Mask::Shape::circle:
      out["shape"] = "circle";
      centre();
      out["radius"] = mask.radius;
      break;
    case Mask::Shape::ring:
      out["shape"] = "ring";
      centre();
      out["inner"] = mask.inner;
      out["outer"] = mask.radius;
      break;
    case Mask::Shape::polygon:
      out["shape"] = "polygon";
      for (const Point p : mask.points) out["points"].push_back({p.x, p.y});
      break;
  }
  out["use"] = mask.use == Mask::Use::only ? "only" : "leave-out";
  if (mask.frames.empty())
    out["frames"] = "all";
  else
    out["frames"] = mask.frames;
  return out;
}

}  // namespace

Json calibration_json(const Calibration& c) {
  Json entry;
  if (!c.name.empty()) entry["name"] = c.name;
  entry["pixel_size"] = {c.pixel.x, c.pixel.y};
  entry["unit"] = c.pixel.unit;
  if (c.uncertainty > 0) entry["uncertainty"] = c.uncertainty;
  if (!c.lens.empty()) entry["lens"] = c.lens;
  if (!c.made.empty()) entry["made"] = c.made;
  if (c.size) entry["size"] = {c.size->width, c.size->height};
  if (!c.method.empty()) entry["method"] = c.method;
  return entry;
}

std::string write_masks(const std::vector<Mask>& masks) {
  Json out;
  out["fexel"] = 1;
  out["masks"] = Json::array();
  for (const Mask& mask : masks) out["masks"].push_back(mask_json(mask));
  return to_text(out, 2) + "\n";
}

std::string write_one_step(const Step& step) {
  return to_text(step_json(step));
}

std::string write_chain(const Chain& chain) {
  Json out;
  out["fexel"] = 1;
  for (const auto& source : chain.sources) {
    Json entry{{"path", source.path}};
    if (!source.sha256.empty()) entry["sha256"] = source.sha256;
    if (!source.skip.empty()) entry["skip"] = source.skip;
    if (source.alpha_band) entry["alpha"] = "band";
    out["sources"].push_back(entry);
  }
  if (chain.calibration) out["calibration"] = calibration_json(*chain.calibration);
  if (const auto& a = chain.axes) {
    out["axes"] = {{"origin", {a->origin.x, a->origin.y}}, {"station", a->station},
                   {"value", {a->value.x, a->value.y}},    {"x", a->right ? "right" : "left"},
                   {"y", a->up ? "up" : "down"},           {"turn", a->turn}};
  }
  if (const auto& t = chain.time_step) out["time_step"] = {{"value", t->value}, {"unit", t->unit}};
  if (chain.pairing != Pairing::names) out["pairs"] = chain.pairing == Pairing::order ? "order" : "none";
  for (const Mask& mask : chain.masks) out["masks"].push_back(mask_json(mask));
  const Resampling& r = chain.resampling;
  Json resample{{"kernel", name_of(r.kernel)}, {"edge", name_of(r.edge)}};
  if (r.fill.size() == 1)
    resample["fill"] = r.fill[0];
  else
    resample["fill"] = r.fill;
  resample["antialias"] = r.antialias;
  out["resample"] = resample;
  out["steps"] = Json::array();
  for (const auto& step : chain.steps) out["steps"].push_back(step_json(step));
  for (const auto& measurement : chain.measurements) out["measurements"].push_back(write_measurement(measurement));
  for (const MotionProbe& motion : chain.motions) out["measurements"].push_back(write_motion_probe(motion));
  if (!chain.mark_style.empty()) out["mark_style"] = style_json(chain.mark_style);
  for (const auto& mark : chain.marks) out["marks"].push_back(mark_json(mark));
  return to_text(out, 2) + "\n";
}

}  // namespace fexel

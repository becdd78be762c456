/// What the page of the movement says: counts, effects of rules, what can be expected.
#include "app/motion/motion_page.h"
#include "app/ui/language.h"
#include "app/ui/text.h"

namespace fexel {

using Kind = CleanRule::Kind;

QString MotionPage::texture_text() const {
  const auto* t = document().motion_layer().texture();
  if (!t) return {};
  QString out = tr("Noise of at most %1 grey levels: %2 % of the points can be found to ± %3 px or better.")
                    .arg(number_shown(number_text(t->noise, 1)), number_shown(number_text(100 * t->share, 0)),
                         number_shown(short_number(wanted_->value(), 2)));
  if (t->size)
    out += " " + tr("The smallest size at which 95 % can is %1 px.").arg(*t->size);
  else
    out += " " + tr("No size up to 101 px is enough for 95 % of them.");
  return out;
}

void MotionPage::show_clean() {
  const MotionLayer& layer = document().motion_layer();
  const auto& clean = layer.probe()->settings.clean;
  const auto shown = layer.shown();
  for (std::size_t k = 0; k < rules_.size(); ++k) {
    const auto at = std::ranges::find(clean, static_cast<Kind>(k), &CleanRule::kind);
    const bool on = at != clean.end();
    rules_[k].on->setChecked(on);
    if (rules_[k].limit) {
      rules_[k].limit->setEnabled(on);
      if (!rules_[k].limit->hasFocus()) rules_[k].limit->show_value(on ? at->limit : plain_limit(static_cast<Kind>(k)));
    }
    const auto index = static_cast<std::size_t>(at - clean.begin());
    QString says;
    if (on && shown && index < layer.effects().size()) {
      const CleanEffect& effect = layer.effects()[index];
      says = effect.taken == 0
                 ? tr("none")
                 : tr("−%1, %2 px")
                       .arg(effect.taken)
                       .arg(number_shown(number_text(std::hypot(effect.mean_moves.x, effect.mean_moves.y), 3)));
    } else if (!on && static_cast<Kind>(k) == Kind::limits) {
      says = tr("drawn on the scatter");
    }
    rules_[k].says->setText(says);
    rules_[k].says->setToolTip(
        on && !says.isEmpty() ? tr("Points taken out, and by how much the mean of the rest moves") : QString());
  }
}

void MotionPage::show_findings() {
  const MotionLayer& layer = document().motion_layer();
  const auto shown = layer.shown();
  const auto frames = layer.frames();
  QString says;
  if (layer.outdated())
    says = tr("The settings or the chain have changed since: measure again, or undo.");
  else if (shown) {
    const MotionField& f = shown->field;
    says = (shown->number == 0 ? tr("Mean of %1 fields").arg(frames.size()) : tr("Frame %1").arg(shown->number)) +
           tr(": %1 of %2 points are ok").arg(f.count(MotionStatus::ok)).arg(f.used());
    const std::pair<MotionStatus, QString> others[] = {{MotionStatus::weak, tr("weak")},
                                                       {MotionStatus::masked, tr("masked")},
                                                       {MotionStatus::rejected, tr("rejected")},
                                                       {MotionStatus::filled, tr("filled")}};
    for (const auto& [status, word] : others)
      if (const int n = f.count(status)) says += QString(", %1 %2").arg(n).arg(word);
    const double time = layer.time_of(*shown);
    const Point mean = 1 / time * layer.units().displacement(mean_of(f));
    std::vector<double> sigmas;
    for (const MotionPoint& p : f.points)
      if (p.good()) sigmas.push_back(std::max(p.sigma.x, p.sigma.y));
    const double scale = (layer.units().pixel ? layer.units().pixel->mean() : 1) / time;
    if (!sigmas.empty()) {
      std::ranges::nth_element(sigmas, sigmas.begin() + static_cast<std::ptrdiff_t>(sigmas.size() / 2));
      const double usual = scale * sigmas[sigmas.size() / 2];
      const int decimals = decimals_for(usual);
      says += tr(". Mean %1, %2 %4; a point is known to ± %3 %4.")
                  .arg(number_shown(number_text(mean.x, decimals)), number_shown(number_text(mean.y, decimals)),
                       number_shown(short_number(usual, 2)), layer.unit_of(MotionQuantity::length));
    } else {
      says += ".";
    }
    if (layer.probe()->settings.against == MotionAgainst::first && f.reference != f.from)
      says += " " + tr("The reference was renewed at frame %1.").arg(f.reference + 1);
  } else if (!frames.empty()) {
    says = tr("%1 frames are measured; this one leads nowhere: displacements begin here, or it was left out.")
               .arg(frames.size());
  }
  if (frames.size() > 1)
    says += " " + (layer.probe()->settings.against == MotionAgainst::pairs ? tr("%1 pairs are measured.")
                                                                           : tr("%1 frames are measured."))
                      .arg(frames.size());
  fields::say(found_, says, layer.outdated());
}

void MotionPage::refresh() {
  const MotionLayer& layer = document().motion_layer();
  const MotionProbe* probe = layer.probe();
  if (!probe) return;
  const MotionSettings& s = probe->settings;
  method_->setCurrentIndex(static_cast<int>(s.method));
  against_->setCurrentIndex(static_cast<int>(s.against));
  renew_->setChecked(s.renew);
  show_method(s);
  flow_->refresh(s);
  fields::say(where_, s.region.empty() ? tr("The whole picture, but for masks.")
                                       : tr("A region with %1 corners, but for masks.").arg(s.region.size()));
  const auto show = [](fields::Number* field, double v) {
    if (!field->hasFocus()) field->show_value(v);
  };
  show(high_pass_, s.prepare.high_pass);
  show(contrast_, s.prepare.local_contrast);
  show(smoothing_, s.prepare.smoothing);
  show(step_x_, s.step_x);
  show(size_, s.subset.size);
  show(reach_, s.subset.reach);
  const double shared = std::max(0.0, 1 - static_cast<double>(s.step_x) / s.size());
  fields::say(overlap_, shared > 0 ? tr("Neighbours share %1 % of their pixels: they are not independent.")
                                         .arg(number_shown(number_text(100 * shared, 0)))
                                   : tr("Neighbours do not overlap."));
  const QString texture = texture_text();
  fields::say(texture_, texture);
  texture_->setVisible(!texture.isEmpty());
  const auto* t = layer.texture();
  propose_->setVisible(s.method == MotionMethod::subset && t && t->size && *t->size != s.subset.size);
  back_->setChecked(s.subset.back);
  const bool sequence = document().frames().size() > 1;
  try_->setEnabled(sequence);
  all_->setEnabled(sequence);
  if (!sequence)
    fields::say(found_, tr("One picture is open: movement needs a sequence of frames."), true);
  else
    show_findings();
  show_clean();
  fill_->setChecked(s.fill);
  strain_on_->setChecked(s.strain.has_value());
  window_->setEnabled(s.strain.has_value());
  show(window_, s.strain.value_or(5));
  green_->setChecked(s.measure == StrainMeasure::green_lagrange);
  green_->setEnabled(s.strain.has_value());
  if (s.strain) {
    MotionGrid grid = layer.grid();
    grid.step_x = s.step_x;
    grid.step_y = s.step_y;
    const Point g = gauge_length(grid, strain_settings(s, layer.units()), s.size());
    QString says = tr("Each is a mean over %1 px").arg(g.x);
    if (layer.units().pixel)
      says += QString(" (%1 %2)")
                  .arg(number_shown(short_number(g.x * layer.units().pixel->x, 3)), unit_text(layer.units().unit()));
    if (const auto shown = layer.shown()) {
      std::vector<double> sigmas;
      for (const auto& one : shown->strain)
        if (one) sigmas.push_back(one->sigma);
      if (!sigmas.empty() && s.method == MotionMethod::subset) {
        std::ranges::nth_element(sigmas, sigmas.begin() + static_cast<std::ptrdiff_t>(sigmas.size() / 2));
        says += tr(", known to ± %1 %").arg(number_shown(short_number(100 * sigmas[sigmas.size() / 2], 2)));
      }
    }
    fields::say(gauge_, says + ".");
  }
  gauge_->setVisible(s.strain.has_value());
  way_->setCurrentIndex(static_cast<int>(layer.look().way));
  show(enlarged_, layer.look().enlarged);
  all_frames_->setChecked(layer.look().all_frames);
  fields::say(trust_, layer.trust());
  trust_->setVisible(!layer.trust().isEmpty());
}

}  // namespace fexel

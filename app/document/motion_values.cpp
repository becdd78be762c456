/// What fields of movement are told by: quantities with their units, means over a flow, lines along and through it.
#include "app/document/document.h"
#include "app/document/motion_layer.h"
#include "app/ui/language.h"
#include "app/ui/text.h"

namespace fexel {
namespace {

bool is_velocity(const MotionLayer& layer) {
  return layer.probe() && layer.probe()->settings.method == MotionMethod::window && layer.units().time;
}

}  // namespace

const std::vector<MotionQuantity>& quantities_of(MotionMethod method) {
  using Q = MotionQuantity;
  static const std::vector<Q> surface{Q::dx,    Q::dy,    Q::length,   Q::exx,         Q::eyy,  Q::exy,
                                      Q::first, Q::shear, Q::rotation, Q::uncertainty, Q::score};
  static const std::vector<Q> fluid{Q::dx,         Q::dy,          Q::length,      Q::vorticity, Q::divergence,
                                    Q::shear_rate, Q::fluctuation, Q::uncertainty, Q::score,     Q::peaks};
  return method == MotionMethod::window ? fluid : surface;
}

double MotionLayer::time_of(const MotionResultFrame& field) const {
  return is_velocity(*this) ? units_.time->value * std::max(1, field.matched.frame - field.matched.from) : 1;
}

QString MotionLayer::title_of(MotionQuantity quantity) const {
  const bool velocity = is_velocity(*this);
  const QString titles[] = {velocity ? tr("x velocity") : tr("x displacement"),
                            velocity ? tr("y velocity") : tr("y displacement"),
                            velocity ? tr("speed") : tr("displacement"),
                            tr("strain xx"),
                            tr("strain yy"),
                            tr("strain xy"),
                            tr("largest strain"),
                            tr("largest shear"),
                            tr("rotation"),
                            tr("uncertainty"),
                            tr("correlation"),
                            tr("vorticity"),
                            tr("divergence"),
                            tr("shear rate"),
                            tr("RMS fluctuation"),
                            tr("peak ratio")};
  return titles[static_cast<std::size_t>(quantity)];
}

std::optional<double> MotionLayer::value(const MotionResultFrame& result, std::size_t point,
                                         MotionQuantity quantity) const {
  if (result.field.grid.used[point] == 0) return std::nullopt;
  const MotionPoint& p = result.field.points[point];
  if (!p.has_place()) return std::nullopt;
  const MotionUnits& here = units_;
  const double time = time_of(result);
  const Point moved = 1 / time * here.displacement(p.moved);
  const Strain* strain = point < result.strain.size() && result.strain[point] ? &*result.strain[point] : nullptr;
  const double scale = (here.pixel ? here.pixel->mean() : 1) / time;
  switch (quantity) {
    case MotionQuantity::dx:
      return moved.x;
    case MotionQuantity::dy:
      return moved.y;
    case MotionQuantity::length:
      return std::hypot(moved.x, moved.y);
    case MotionQuantity::uncertainty:
      return scale * std::max(p.sigma.x, p.sigma.y);
    case MotionQuantity::score:
      return p.score;
    case MotionQuantity::peaks:
      return p.peaks > 0 ? std::optional(p.peaks) : std::nullopt;
    case MotionQuantity::fluctuation:
      // Of all fields, whichever is shown.
      if (!statistics() || flow_at_[point].n < 2) return std::nullopt;
      return (here.pixel ? here.pixel->mean() : 1) / (is_velocity(*this) ? here.time->value : 1) *
             std::hypot(flow_at_[point].rms.x, flow_at_[point].rms.y);
    default:
      break;
  }
  if (!strain) return std::nullopt;
  if (quantity == MotionQuantity::vorticity) return strain->vorticity() / time;
  if (quantity == MotionQuantity::divergence) return strain->divergence() / time;
  if (quantity == MotionQuantity::shear_rate) return strain->shear_rate() / time;
  const double values[] = {100 * strain->xx,    100 * strain->yy,    100 * strain->xy,
                           100 * strain->first, 100 * strain->shear, strain->rotation};
  return values[static_cast<int>(quantity) - static_cast<int>(MotionQuantity::exx)];
}

QString MotionLayer::unit_of(MotionQuantity quantity) const {
  const bool velocity = is_velocity(*this);
  if (quantity == MotionQuantity::rotation) return QStringLiteral("°");
  if (quantity == MotionQuantity::score || quantity == MotionQuantity::peaks) return {};
  if (quantity >= MotionQuantity::exx && quantity <= MotionQuantity::shear) return QStringLiteral("%");
  if (quantity >= MotionQuantity::vorticity && quantity <= MotionQuantity::shear_rate)
    return velocity ? "1/" + unit_text(units_.time->unit) : tr("1/frame");
  return velocity ? unit_text(units_.unit()) + "/" + unit_text(units_.time->unit) : unit_text(units_.unit());
}

bool MotionLayer::has_mean() const {
  return current() && probe()->settings.method == MotionMethod::window && fields_.size() > 1;
}

const FlowStatistics* MotionLayer::statistics() const {
  // Asked for at every point: looked at once for each generation.
  if (mean_generation_ == generation_) return statistics_ ? &*statistics_ : nullptr;
  mean_generation_ = generation_;
  std::vector<std::shared_ptr<const MotionResultFrame>> now;
  if (has_mean())
    for (const auto& [frame, kept] : fields_) now.push_back(kept.field);
  if (now != mean_of_fields_) {
    mean_of_fields_ = std::move(now);
    statistics_.reset();
    mean_.reset();
    if (!mean_of_fields_.empty()) {
      statistics_.emplace(grid_);
      for (const auto& field : mean_of_fields_) statistics_->add(field->field);
      flow_at_ = statistics_->points();
    }
  }
  return statistics_ ? &*statistics_ : nullptr;
}

std::shared_ptr<const MotionResultFrame> MotionLayer::mean() const {
  const FlowStatistics* all = statistics();
  if (!all) return nullptr;
  if (!mean_) {
    auto made = std::make_shared<MotionResultFrame>();
    made->field = made->matched = all->mean();
    const MotionSettings& settings = probe()->settings;
    if (settings.strain) made->strain = strain_of(made->field, strain_settings(settings, units_), settings.size(), {});
    mean_ = std::move(made);
  }
  return mean_;
}

const std::vector<std::vector<Point>>& MotionLayer::stream() const {
  const auto now = shown();
  if (now != stream_of_) {
    // Two points of the grid apart, and so that forty lines side by side fill the picture.
    const double wide = std::max((grid_.columns - 1) * grid_.step_x, (grid_.rows - 1) * grid_.step_y);
    const double apart = std::max(2.0 * std::min(grid_.step_x, grid_.step_y), wide / 40);
    stream_of_ = now;
    stream_ = now ? streamlines(now->field, apart, {}) : std::vector<std::vector<Point>>{};
  }
  return stream_;
}

void MotionLayer::add_flow_line(const std::vector<Point>& points, bool round) {
  flow_lines_.push_back({points, round});
  tell();
}

QString MotionLayer::flow_says(std::size_t line) const {
  const auto now = shown();
  if (!now || line >= flow_lines_.size() || !probe()) return {};
  const FlowLine& of = flow_lines_[line];
  const Point pixel = units_.pixel ? Point{units_.pixel->x, units_.pixel->y} : Point{1, 1};
  const int size = probe()->settings.size();
  const LineFlow flow = of.round ? circulation_round(now->field, of.points, pixel, size)
                                 : flow_through(now->field, of.points, pixel, size);
  if (flow.known < 0.01) return tr("%1: no vector lies there.").arg(line + 1);
  const double time = time_of(*now);
  const QString unit =
      unit_text(units_.unit()) + "²" + (is_velocity(*this) ? "/" + unit_text(units_.time->unit) : tr("/frame"));
  const double value = flow.value / time, sigma = flow.uncertainty / time;
  const int decimals = decimals_for(std::max(sigma, 1e-12));
  QString out = (of.round ? tr("%1: circulation %2 ± %3 %4, counter-clockwise positive")
                          : tr("%1: %2 ± %3 %4 flow through to its right"))
                    .arg(line + 1)
                    .arg(number_shown(number_text(value, decimals)), number_shown(number_text(sigma, decimals)), unit);
  if (flow.known < 0.995)
    out += tr(", of the %1 % of it that have vectors").arg(number_shown(number_text(100 * flow.known, 0)));
  return out + ".";
}

std::shared_ptr<const QImage> MotionLayer::background() const {
  return probe() && background_of_ && *background_of_ == key() ? background_image_ : nullptr;
}

void MotionLayer::set_background(std::shared_ptr<const QImage> image) {
  background_image_ = std::move(image);
  background_of_ = key();
  look_.background = background_image_ != nullptr;
  tell();
}

}  // namespace fexel

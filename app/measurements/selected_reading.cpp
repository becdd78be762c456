#include "app/measurements/selected_reading.h"

#include <QLabel>

#include "app/document/follow.h"
#include "app/measurements/measurement_model.h"
#include "app/ui/chart.h"
#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "measure/area_statistics.h"

namespace fexel {
namespace {

constexpr int most_steps = 64;  // of a histogram

bool is_profile(const Measurement& m) {
  return std::holds_alternative<ProfileMeasurement>(m.kind);
}

double mean_of_bands(const Image& image, int x, int y) {
  double sum = 0;
  for (int band = 0; band < image.bands(); ++band) sum += sample_of(image, band, x, y);
  return sum / image.bands();
}

}  // namespace

SelectedReading::SelectedReading(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 8, 0);
  column->setSpacing(2);
  plot_ = new QCustomPlot(this);
  plot_->setAccessibleName(tr("Chart of the selected measurement at B"));
  dress(*plot_);
  plot_->xAxis->ticker()->setTickCount(4);
  plot_->yAxis->ticker()->setTickCount(2);
  plot_->axisRect()->setAutoMargins(QCP::msAll);
  plot_->axisRect()->setMinimumMargins({2, 2, 2, 2});
  column->addWidget(plot_, 1);
  said_ = fields::sentence(tr("What the selected measurement says at B"));
  column->addWidget(said_);
  follow_changes(document_, this, 150, [this] { refresh(); });
  connect(&document_, &Document::selection_changed, this, &SelectedReading::refresh);
}

QString SelectedReading::said() const {
  return said_->text();
}

bool SelectedReading::wanted() const {
  const int index = document_.session().measurement();
  if (!document_.source() || index < 0 || index >= static_cast<int>(document_.chain().measurements.size()))
    return false;
  const Measurement& m = document_.chain().measurements[static_cast<std::size_t>(index)];
  return !std::holds_alternative<LengthMeasurement>(m.kind) && !std::holds_alternative<CountMeasurement>(m.kind);
}

void SelectedReading::refresh() {
  if (!wanted()) {
    read_.reset();
    return;
  }
  const int index = document_.session().measurement();
  const Measurement& measurement = document_.chain().measurements[static_cast<std::size_t>(index)];
  const std::pair now(document_.revision(), index);
  if (read_ == now) return;
  if (!reads_pixels(measurement.kind) || std::holds_alternative<PointMeasurement>(measurement.kind)) {
    read_ = now;
    said_of_ = index;
    show_budget();
    return;
  }
  if (reading_.running()) return;  // the newest is asked for when it is done
  read_ = now;
  const int station = document_.station_b();
  auto pictures = document_.pictures() ? document_.pictures()
                                       : std::make_shared<const RunPictures>(document_.source()->pixels,
                                                                             document_.chain(), document_.layout());
  if (index != said_of_) {
    plot_->setVisible(false);
    fields::say(said_, tr("Reading its samples…"));
  }
  said_of_ = index;
  reading_.start(
      {},
      [this, measurement, station, pictures, now](const Job& job) -> Background::Finish {
        auto out = std::make_shared<const Samples>(read(*pictures, measurement, station, job));
        return [this, out, now] {
          // What was asked for meanwhile is read next.
          if (read_ == now) show_samples(*out);
          refresh();
        };
      },
      [this](const Error& error) {
        plot_->setVisible(false);
        fields::say(said_, text_of(error), true);
      });
}

SelectedReading::Samples SelectedReading::read(const RunPictures& pictures, const Measurement& measurement, int station,
                                               const Job& job) {
  Samples out;
  const Layout& layout = pictures.layout();
  const auto& pixel = layout.stations[static_cast<std::size_t>(station)].pixel;
  std::vector<Point> outline = outline_of(measurement);
  if (problem_of(measurement)) return out;
  for (Point& p : outline) {
    const Carried at = carry(layout, p, measurement.station, station);
    if (at.status == CarryStatus::beyond_horizon) return out;
    p = at.point;
  }
  const Image image = pictures.pixels(station, job);
  out.details = sampled_of(measurement.kind, {outline, pixel}, image);
  if (is_profile(measurement)) {
    out.profile = profile_along(image, outline[0], outline[1], distance(outline[2], outline[3]));
    if (out.profile) out.edges = edges_on(*out.profile);
    const Quantity length = length_between(outline[0], outline[1], pixel);
    out.scale = length.value / distance(outline[0], outline[1]);
    out.unit = length.unit;
    return out;
  }
  // Of what lies inside for at least half, as least and most are.
  const PolygonCoverage part(outline, image.width(), image.height());
  const auto each = [&](const auto& body) {
    for (int y = 0; y < part.rows(); ++y)
      for (int x = 0; x < part.columns(); ++x)
        if (part.at(x, y) >= 0.5 && image.valid(part.left() + x, part.top() + y))
          body(mean_of_bands(image, part.left() + x, part.top() + y));
  };
  double low = 1e300, high = -1e300;
  each([&](double v) {
    low = std::min(low, v);
    high = std::max(high, v);
  });
  if (!(low <= high)) return out;
  // Whole samples have steps of whole numbers.
  const bool whole = image.depth() != Depth::f32 && image.bands() == 1;
  out.step = high > low ? (high - low) / most_steps : 1;
  if (whole) out.step = std::ceil(out.step);
  out.first = whole ? low - 0.5 : low;
  out.counts.assign(static_cast<std::size_t>(std::max(1.0, std::ceil((high - out.first) / out.step))), 0);
  each([&](double v) {
    const auto at = static_cast<std::size_t>(std::max(0.0, (v - out.first) / out.step));
    ++out.counts[std::min(at, out.counts.size() - 1)];
  });
  return out;
}

namespace {

std::optional<Quantity> named(const std::vector<Detail>& details, const std::string& name) {
  for (const Detail& d : details)
    if (d.name == name) return d.quantity;
  return std::nullopt;
}

}  // namespace

void SelectedReading::show_samples(const Samples& samples) {
  plot_->clearPlottables();
  plot_->clearItems();
  plot_->yAxis->setTickLabels(true);
  plot_->setVisible(samples.profile || !samples.counts.empty());
  if (samples.profile)
    show_profile(samples);
  else if (!samples.counts.empty())
    show_histogram(samples);
  else
    fields::say(said_, tr("There are no samples here: it lies outside of what the picture shows."), true);
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

void SelectedReading::show_profile(const Samples& samples) {
  const Profile& profile = *samples.profile;
  QVector<double> keys, values;
  for (std::size_t i = 0; i < profile.value.size(); ++i) {
    keys << samples.scale * static_cast<double>(i) * profile.pitch;
    values << static_cast<double>(profile.value[i]);
  }
  auto* graph = plot_->addGraph();
  graph->setPen(QPen(theme().b, 1.4));
  graph->setData(keys, values, true);
  plot_->xAxis->setLabel(tr("along the profile, %1").arg(unit_text(samples.unit)));
  graph->rescaleAxes();
  for (const ProfileEdge& edge : samples.edges) {
    auto* line = new QCPItemStraightLine(plot_);
    line->setPen(QPen(theme().teal, 1, Qt::DashLine));
    line->point1->setCoords(samples.scale * edge.place, 0);
    line->point2->setCoords(samples.scale * edge.place, 1);
  }
  const auto width = named(samples.details, "width"), sigma = named(samples.details, "width_sigma"),
             sharpest = named(samples.details, "edge_width");
  QString text = samples.edges.empty()       ? tr("No edge stands out")
                 : samples.edges.size() == 1 ? tr("1 edge")
                                             : tr("%1 edges").arg(samples.edges.size());
  if (width && sigma)
    text += tr("; between the two strongest %1 ± %2 %3")
                .arg(number_shown(number_text(width->value, decimals_for(sigma->value))),
                     number_shown(short_number(sigma->value, 2)), unit_text(width->unit));
  if (sharpest)
    text += tr("; the sharpest is %1 %2 wide (10 to 90 %)")
                .arg(number_shown(short_number(sharpest->value, 2)), unit_text(sharpest->unit));
  fields::say(said_, text + ".");
}

void SelectedReading::show_histogram(const Samples& samples) {
  QVector<double> keys, counts;
  for (std::size_t i = 0; i < samples.counts.size(); ++i) {
    keys << samples.first + (static_cast<double>(i) + 0.5) * samples.step;
    counts << samples.counts[i];
  }
  auto* bars = new QCPBars(plot_->xAxis, plot_->yAxis);
  bars->setWidth(samples.step);
  bars->setPen(Qt::NoPen);
  bars->setBrush(theme().b);
  bars->setData(keys, counts, true);
  plot_->xAxis->setLabel(tr("pixels by sample"));
  bars->rescaleAxes();
  plot_->yAxis->setRangeLower(0);
  const auto said = [&](const char* name) {
    const auto value = named(samples.details, name);
    return value ? number_shown(short_number(value->value, 5)) : QStringLiteral("–");
  };
  QString text = tr("%1 pixels: mean %2, median %3, standard deviation %4, %5 to %6.")
                     .arg(said("n"), said("mean"), said("median"), said("deviation"), said("min"), said("max"));
  if (const auto covered = named(samples.details, "covered"); covered && covered->value < 0.999)
    text += tr(" %1 % of the area has samples.").arg(100 * covered->value, 0, 'f', 1);
  fields::say(said_, text);
}

/// The shares of the variance, largest first.
void SelectedReading::show_budget() {
  const auto index = static_cast<std::size_t>(document_.session().measurement());
  const Reading& reading = document_.readings(document_.station_b())[index];
  plot_->clearPlottables();
  plot_->clearItems();
  std::vector<std::pair<double, QString>> shares;
  const double all = reading.uncertainty ? *reading.uncertainty * *reading.uncertainty : 0;
  for (int i = 0; i < uncertainty_sources && all > 0; ++i) {
    const double part = reading.parts[static_cast<std::size_t>(i)];
    if (part * part > 1e-4 * all)
      shares.emplace_back(100 * part * part / all, MeasurementModel::name_of(static_cast<UncertaintySource>(i)));
  }
  std::ranges::sort(shares, std::ranges::greater());
  plot_->setVisible(!shares.empty());
  if (shares.empty()) {
    fields::say(said_, reading.problem ? text_of(*reading.problem) : tr("It has no uncertainty here."));
    return;
  }
  auto* bars = new QCPBars(plot_->yAxis, plot_->xAxis);
  bars->setWidth(0.6);
  bars->setPen(Qt::NoPen);
  bars->setBrush(theme().b);
  QVector<double> keys, values;
  for (std::size_t i = 0; i < shares.size(); ++i) {
    keys << -static_cast<double>(i);
    values << shares[i].first;
  }
  bars->setData(keys, values);
  plot_->xAxis->setRange(0, 105);
  plot_->yAxis->setRange(-static_cast<double>(shares.size()) + 0.4, 0.6);
  plot_->xAxis->setLabel(tr("share of the variance, %"));
  plot_->yAxis->setLabel({});
  plot_->yAxis->setTickLabels(false);
  QStringList said;
  for (const auto& [share, name] : shares) said << tr("%1 % %2").arg(share, 0, 'f', share < 10 ? 1 : 0).arg(name);
  fields::say(said_, tr("Its uncertainty comes from: %1.").arg(said.join(", ")));
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

}  // namespace fexel

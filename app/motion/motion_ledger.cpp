#include "app/motion/motion_ledger.h"

#include <QComboBox>

#include "app/document/motion_layer.h"
#include "app/ui/chart.h"
#include "app/ui/text.h"

namespace fexel {
namespace {

QColor colour_of(std::size_t k) {
  const QColor colours[] = {theme().teal,     theme().brick,    QColor(0x3F4FA3),
                            QColor(0xA3610F), QColor(0x6B4E9B), QColor(0x4E7D2D)};
  return colours[k % std::size(colours)];
}

QString name_of(const MotionResultFrame& shown) {
  return shown.number == 0 ? QObject::tr("the mean") : QObject::tr("frame %1").arg(shown.number);
}

}  // namespace

MotionLedger::MotionLedger(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(2);
  view_ = new QComboBox;
  view_->setAccessibleName(tr("Chart of the movement"));
  view_->addItems({tr("over the frames"), tr("along the profile"),
                   tr("scatter of x and y displacement: drag a rectangle to set limits"),
                   tr("histogram of what is shown")});
  column->addWidget(view_);
  plot_ = new QCustomPlot;
  plot_->setAccessibleName(tr("Movement"));
  column->addWidget(plot_, 1);
  connect(view_, &QComboBox::activated, this, [this] { refresh(); });
  connect(&document.motion_layer(), &MotionLayer::changed, this, [this] {
    if (isVisible()) refresh();
  });
  connect(plot_->selectionRect(), &QCPSelectionRect::accepted, this, [this](const QRect& rect) {
    const double left = plot_->xAxis->pixelToCoord(rect.left()), right = plot_->xAxis->pixelToCoord(rect.right() + 1),
                 top = plot_->yAxis->pixelToCoord(rect.top()), bottom = plot_->yAxis->pixelToCoord(rect.bottom() + 1);
    limit_to(QRectF(QPointF(std::min(left, right), std::min(top, bottom)),
                    QPointF(std::max(left, right), std::max(top, bottom))));
  });
}

void MotionLedger::show_view(View view) {
  view_->setCurrentIndex(static_cast<int>(view));
  refresh();
}

void MotionLedger::showEvent(QShowEvent* event) {
  QWidget::showEvent(event);
  refresh();
}

bool MotionLedger::in_pairs() const {
  const MotionProbe* probe = document_.motion_layer().probe();
  return probe && probe->settings.against == MotionAgainst::pairs;
}

double MotionLedger::time_of(int frame) const {
  // The time step is that within a pair; how far pairs are apart is not known.
  if (in_pairs()) {
    // As the frames are numbered, or one after the other.
    if (fexel::in_pairs(document_.chain(), document_.frames())) return (frame + 1) / 2;
    const auto frames = document_.motion_layer().frames();
    return static_cast<double>(std::ranges::find(frames, frame) - frames.begin()) + 1;
  }
  const auto& time = document_.motion_layer().units().time;
  return time ? (frame - 1) * time->value : frame;
}

QString MotionLedger::time_title() const {
  if (in_pairs()) return tr("pair");
  const auto& time = document_.motion_layer().units().time;
  return time ? tr("time, %1").arg(text_of(unit_name(time->unit))) : tr("frame");
}

/// Limits in px of displacement, from what was drawn in the unit of the chart.
void MotionLedger::limit_to(const QRectF& area) {
  const MotionLayer& layer = document_.motion_layer();
  if (view_->currentIndex() != static_cast<int>(View::scatter) || !layer.probe() || area.width() <= 0 ||
      area.height() <= 0)
    return;
  Chain chain = document_.chain();
  MotionSettings& s = chain.motions.front().settings;
  std::erase_if(s.clean, [](const CleanRule& r) { return r.kind == CleanRule::Kind::limits; });
  CleanRule rule{CleanRule::Kind::limits, 0, {}};
  for (const QPointF p : {area.topLeft(), area.topRight(), area.bottomRight(), area.bottomLeft()})
    rule.outline.push_back({p.x(), p.y()});
  s.clean.push_back(rule);
  std::ranges::stable_sort(s.clean, {}, &CleanRule::kind);
  document_.edit_chain(tr("movement: limits"), chain);
}

std::vector<MotionLedger::Course> MotionLedger::courses() const {
  const MotionLayer& layer = document_.motion_layer();
  std::vector<Course> out;
  const MotionQuantity quantity = layer.look().quantity;
  for (std::size_t k = 0; k < layer.charted().size(); ++k) {
    Course c{tr("point %1").arg(k + 1), {}, {}};
    for (const int frame : layer.frames())
      if (const auto v = layer.value(*layer.field(frame), layer.charted()[k], quantity)) {
        c.at << time_of(frame);
        c.value << *v;
      }
    out.push_back(std::move(c));
  }
  for (std::size_t k = 0; k < layer.extensometers().size(); ++k) {
    const auto [a, b] = layer.extensometers()[k];
    Course c{tr("length %1, change").arg(k + 1), {}, {}};
    const auto place = [&](const MotionResultFrame& f, std::size_t i) {
      return layer.units().coordinates(f.field.grid.at(i) + f.field.points[i].moved);
    };
    const double begin =
        distance(layer.units().coordinates(layer.grid().at(a)), layer.units().coordinates(layer.grid().at(b)));
    for (const int frame : layer.frames()) {
      const auto f = layer.field(frame);
      if (!f->field.points[a].has_place() || !f->field.points[b].has_place()) continue;
      c.at << time_of(frame);
      c.value << distance(place(*f, a), place(*f, b)) - begin;
    }
    out.push_back(std::move(c));
  }
  for (std::size_t k = 0; k < layer.areas().size(); ++k) {
    Course c{tr("area %1").arg(k + 1), {}, {}};
    for (const int frame : layer.frames()) {
      const auto f = layer.field(frame);
      double sum = 0, n = 0;
      for (const std::size_t i : layer.areas()[k].points)
        if (f->field.points[i].good())
          if (const auto v = layer.value(*f, i, quantity)) {
            sum += *v;
            ++n;
          }
      if (n == 0) continue;
      c.at << time_of(frame);
      c.value << sum / n;
    }
    out.push_back(std::move(c));
  }
  if (!out.empty()) return out;
  // Without a chosen point the mean of all tells the course.
  Course c{tr("mean of all points"), {}, {}};
  for (const int frame : layer.frames()) {
    const auto f = layer.field(frame);
    double sum = 0, n = 0;
    for (std::size_t i = 0; i < f->field.points.size(); ++i)
      if (f->field.points[i].good())
        if (const auto v = layer.value(*f, i, quantity)) {
          sum += *v;
          ++n;
        }
    if (n > 0) {
      c.at << time_of(frame);
      c.value << sum / n;
    }
  }
  out.push_back(std::move(c));
  return out;
}

void MotionLedger::draw_over_time() {
  const MotionLayer& layer = document_.motion_layer();
  const auto all = courses();
  double low = 1e300, high = -1e300, first = 1e300, last = -1e300;
  for (std::size_t k = 0; k < all.size(); ++k) {
    QCPGraph* graph = plot_->addGraph();
    const bool length = k >= layer.charted().size() && k < layer.charted().size() + layer.extensometers().size();
    graph->setName(length ? all[k].name : all[k].name + ": " + layer.title_of(layer.look().quantity));
    graph->setPen(QPen(colour_of(k), 1.6));
    graph->setScatterStyle(QCPScatterStyle(QCPScatterStyle::ssDisc, colour_of(k), 5));
    graph->setData(all[k].at, all[k].value);
    for (int i = 0; i < all[k].at.size(); ++i) {
      low = std::min(low, all[k].value[i]);
      high = std::max(high, all[k].value[i]);
      first = std::min(first, all[k].at[i]);
      last = std::max(last, all[k].at[i]);
    }
  }
  const QString unit = layer.unit_of(layer.look().quantity);
  plot_->xAxis->setLabel(time_title());
  // The chart is low: names stand in the legend.
  plot_->yAxis->setLabel(!layer.extensometers().empty() && layer.charted().empty() && layer.areas().empty()
                             ? unit_text(layer.units().unit())
                             : unit);
  if (high < low) return;
  const double room = std::max(1e-9, 0.08 * (high - low)), wide = std::max(1e-9, 0.04 * (last - first));
  plot_->xAxis->setRange(first - wide, last + wide);
  plot_->yAxis->setRange(low - room, high + room);
}

void MotionLedger::draw_profile() {
  const MotionLayer& layer = document_.motion_layer();
  const auto& units = layer.units();
  plot_->xAxis->setLabel(tr("along the line, %1").arg(unit_text(units.unit())));
  plot_->yAxis->setLabel(layer.unit_of(layer.look().quantity));
  const auto shown = layer.shown();
  if (!shown || !layer.profile()) return;
  const auto [from, to] = *layer.profile();
  const double length = distance(units.coordinates(from), units.coordinates(to));
  constexpr int samples = 300;
  QVector<double> at, value;
  for (int k = 0; k <= samples; ++k) {
    const double t = static_cast<double>(k) / samples;
    const auto v = layer.value_at(*shown, from + t * (to - from), layer.look().quantity);
    at << t * length;
    value << v.value_or(qQNaN());  // a gap
  }
  QCPGraph* graph = plot_->addGraph();
  graph->setName(layer.title_of(layer.look().quantity) + ", " + name_of(*shown));
  graph->setPen(QPen(theme().teal, 1.6));
  graph->setData(at, value);
  double low = 1e300, high = -1e300;
  for (const double v : value)
    if (std::isfinite(v)) {
      low = std::min(low, v);
      high = std::max(high, v);
    }
  if (high < low) return;
  const double room = std::max(1e-9, 0.08 * (high - low));
  plot_->xAxis->setRange(0, length);
  plot_->yAxis->setRange(low - room, high + room);
}

void MotionLedger::draw_scatter() {
  const MotionLayer& layer = document_.motion_layer();
  plot_->xAxis->setLabel(tr("x displacement, px"));
  plot_->yAxis->setLabel(tr("y, px"));
  const auto shown = layer.shown();
  if (!shown) return;
  QVector<double> kx, ky, rx, ry;
  for (std::size_t i = 0; i < shown->matched.points.size(); ++i) {
    const MotionPoint &was = shown->matched.points[i], &is = shown->field.points[i];
    if (shown->matched.grid.used[i] == 0 || !was.has_place()) continue;
    const bool kept = is.has_place() && is.status != MotionStatus::filled;
    (kept ? kx : rx) << was.moved.x;
    (kept ? ky : ry) << was.moved.y;
  }
  const std::tuple<QVector<double>, QVector<double>, QColor, QString> sets[] = {
      {kx, ky, theme().teal, tr("kept")}, {rx, ry, theme().soft_ink, tr("taken out")}};
  double left = 1e300, right = -1e300, low = 1e300, high = -1e300;
  for (const auto& [x, y, colour, name] : sets) {
    if (x.isEmpty()) continue;
    auto* curve = new QCPCurve(plot_->xAxis, plot_->yAxis);
    curve->setName(name);
    curve->setLineStyle(QCPCurve::lsNone);
    curve->setScatterStyle(
        QCPScatterStyle(name == tr("kept") ? QCPScatterStyle::ssDisc : QCPScatterStyle::ssCross, colour, 3));
    curve->setData(x, y);
    for (int i = 0; i < x.size(); ++i) {
      left = std::min(left, x[i]);
      right = std::max(right, x[i]);
      low = std::min(low, y[i]);
      high = std::max(high, y[i]);
    }
  }
  for (const CleanRule& rule : layer.probe()->settings.clean) {
    if (rule.kind != CleanRule::Kind::limits) continue;
    QVector<double> x, y;
    for (std::size_t k = 0; k <= rule.outline.size(); ++k) {
      const Point p = rule.outline[k % rule.outline.size()];
      x << p.x;
      y << p.y;
    }
    auto* outline = new QCPCurve(plot_->xAxis, plot_->yAxis);
    outline->setName(tr("limits"));
    outline->setPen(QPen(theme().brick, 1.4, Qt::DashLine));
    outline->setData(x, y);
  }
  if (right < left) return;
  const double room = 0.06 * std::max({right - left, high - low, 1e-3});
  plot_->xAxis->setRange(left - room, right + room);
  plot_->yAxis->setRange(low - room, high + room);
}

void MotionLedger::draw_histogram() {
  const MotionLayer& layer = document_.motion_layer();
  const QString unit = layer.unit_of(layer.look().quantity);
  plot_->xAxis->setLabel(layer.title_of(layer.look().quantity) + (unit.isEmpty() ? QString() : ", " + unit));
  plot_->yAxis->setLabel(tr("points"));
  const auto shown = layer.shown();
  if (!shown) return;
  std::vector<double> values;
  for (std::size_t i = 0; i < shown->field.points.size(); ++i)
    if (const auto v = layer.value(*shown, i, layer.look().quantity)) values.push_back(*v);
  if (values.empty()) return;
  const auto [low, high] = std::ranges::minmax(values);
  constexpr int bins = 60;
  const double width = std::max((high - low) / bins, 1e-12);
  QVector<double> at(bins), count(bins, 0);
  for (int k = 0; k < bins; ++k) at[k] = low + (k + 0.5) * width;
  for (const double v : values) ++count[std::clamp(static_cast<int>((v - low) / width), 0, bins - 1)];
  auto* bars = new QCPBars(plot_->xAxis, plot_->yAxis);
  bars->setName(name_of(*shown));
  bars->setWidth(width);
  bars->setPen(Qt::NoPen);
  bars->setBrush(theme().teal);
  bars->setData(at, count);
  plot_->xAxis->setRange(low - width, high + width);
  plot_->yAxis->setRange(0, 1.05 * *std::ranges::max_element(count));
}

void MotionLedger::refresh() {
  plot_->clearPlottables();
  dress(*plot_);
  plot_->legend->setVisible(true);
  plot_->legend->setFont(text_font(8));
  plot_->legend->setBrush(QColor(theme().panel.red(), theme().panel.green(), theme().panel.blue(), 200));
  plot_->legend->setBorderPen(Qt::NoPen);
  plot_->legend->setTextColor(theme().ink);
  plot_->axisRect()->insetLayout()->setInsetAlignment(
      0, Qt::AlignTop | (view_->currentIndex() == static_cast<int>(View::over_time) ? Qt::AlignLeft : Qt::AlignRight));
  const auto view = static_cast<View>(view_->currentIndex());
  plot_->setSelectionRectMode(view == View::scatter ? QCP::srmCustom : QCP::srmNone);
  if (document_.motion_layer().probe()) {
    if (view == View::over_time) draw_over_time();
    if (view == View::profile) draw_profile();
    if (view == View::scatter) draw_scatter();
    if (view == View::histogram) draw_histogram();
  }
  plot_->replot(QCustomPlot::rpQueuedReplot);
}

QString MotionLedger::summary() const {
  const MotionLayer& layer = document_.motion_layer();
  if (!layer.probe()) return {};
  if (layer.outdated()) return tr("settings have changed: measure again");
  const auto frames = layer.frames();
  if (frames.empty()) return tr("not measured yet");
  return (in_pairs() ? tr("%1 pairs, %2 points") : tr("%1 frames, %2 points"))
      .arg(frames.size())
      .arg(std::ranges::count_if(layer.grid().used, [](char u) { return u != 0; }));
}

QString MotionLedger::csv() const {
  QString out = "course," +
                QString(in_pairs()                              ? "pair"
                        : document_.motion_layer().units().time ? "time"
                                                                : "frame") +
                ",value\n";
  for (const Course& c : courses())
    for (int i = 0; i < c.at.size(); ++i)
      out += QString("\"%1\",%2,%3\n").arg(c.name).arg(c.at[i], 0, 'g', 9).arg(c.value[i], 0, 'g', 9);
  return out;
}

}  // namespace fexel

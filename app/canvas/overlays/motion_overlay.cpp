/// The movement over the picture: arrows, a map of a quantity, tracked points, the deformed grid; before anything was
/// measured, the grid with how well its points can be found.
#include "app/canvas/overlays/distortion_map.h"
#include "app/canvas/overlays/overlays.h"
#include "app/canvas/picture_view.h"
#include "app/document/motion_layer.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "base/statistics.h"

namespace fexel {
namespace {

constexpr double apart = 15;  // px of the screen between arrows or points, at least
constexpr int cover = 170;    // of 255: how much of the picture a map hides

class MotionOverlay : public Overlay {
 public:
  using Overlay::Overlay;

  void paint(QPainter& painter) override {
    const MotionLayer& layer = document_.motion_layer();
    const MotionProbe* probe = layer.probe();
    if (!probe || !visible() || probe->station > document_.layout().last()) {
      kept_ = {};
      legend_.reset();
      says_.clear();
      return;
    }
    // Drawn once for each look: the pointer's cross and the like repaint the view again and again.
    const double ratio = painter.device()->devicePixelRatioF();
    const Of now{layer.generation(),      document_.revision(), document_.frame(),   view_.station(),
                 view_.to_widget({0, 0}), view_.zoom(),         view_.size() * ratio};
    if (!(kept_of_ == now) || kept_.isNull()) {
      kept_of_ = now;
      kept_ = QPixmap(now.size);
      kept_.setDevicePixelRatio(ratio);
      kept_.fill(Qt::transparent);
      QPainter own(&kept_);
      own.setRenderHint(QPainter::Antialiasing);
      own.setFont(painter.font());
      draw(own, *probe);
    }
    painter.drawPixmap(0, 0, kept_);
  }

  std::optional<Remark> remark() const override {
    if (says_.isEmpty() || !visible()) return std::nullopt;
    return Remark{says_, drawing::flag_colour(view_.is_b())};
  }
  std::optional<drawing::Legend> legend() const override { return legend_; }

 private:
  struct Of {
    quint64 generation = 0, revision = 0;
    int frame = 0, station = 0;
    QPointF origin;
    double zoom = 0;
    QSize size;
    bool operator==(const Of&) const = default;
  };
  void draw(QPainter& painter, const MotionProbe& probe) {
    legend_.reset();
    says_.clear();
    MotionLayer& layer = document_.motion_layer();
    if (paint_background(painter)) return;
    paint_region(painter, probe);
    const auto field = layer.shown();
    if (!field) return paint_grid(painter);
    switch (layer.look().way) {
      case MotionLayer::Look::Way::nothing:
        break;
      case MotionLayer::Look::Way::map:
        paint_map(painter, *field);
        break;
      case MotionLayer::Look::Way::contours:
        paint_contours(painter, *field);
        break;
      case MotionLayer::Look::Way::arrows:
        paint_arrows(painter, *field);
        break;
      case MotionLayer::Look::Way::tracks:
        paint_points(painter, *field);
        break;
      case MotionLayer::Look::Way::mesh:
        paint_mesh(painter, *field);
        break;
      case MotionLayer::Look::Way::streamlines:
        paint_map(painter, *field);
        paint_streamlines(painter);
        break;
    }
    paint_charted(painter, *field);
  }
  /// Over the result side of the views, while the movement is at hand.
  bool visible() const {
    return document_.session().motion_page() && (view_.is_b() || document_.station_a() == document_.station_b());
  }
  std::optional<QPointF> place(Point p) const {
    const auto at = here(p, document_.motion_layer().probe()->station);
    return at ? std::optional(view_.to_widget(*at)) : std::nullopt;
  }
  QRectF room() const { return QRectF(view_.rect()).adjusted(-40, -40, 40, 40); }

  void paint_region(QPainter& painter, const MotionProbe& probe) {
    QPolygonF outline;
    for (const Point p : probe.settings.region)
      if (const auto at = place(p)) outline << *at;
    if (outline.size() > 2) drawing::line(painter, outline, drawing::colour_active, true, true);
  }

  /// Every how many columns and rows one is drawn, so that they do not cover each other.
  int every(const MotionGrid& grid) const {
    const double step = view_.zoom() * std::min(grid.step_x, grid.step_y);
    return std::max(1, static_cast<int>(std::ceil(apart / std::max(step, 1e-6))));
  }
  template <class Body>
  void each(const MotionGrid& grid, int n, const Body& body) const {
    for (int r = n / 2; r < grid.rows; r += n)
      for (int c = n / 2; c < grid.columns; c += n) {
        const auto i = static_cast<std::size_t>(r * grid.columns + c);
        if (grid.used[i] != 0) body(i);
      }
  }

  QColor colour_of(double value, std::pair<double, double> range) const {
    return scale_colour((value - range.first) / std::max(range.second - range.first, 1e-300));
  }
  void set_legend(std::pair<double, double> range, const QString& says, const QString& unit) {
    drawing::Legend out;
    for (int i = 0; i <= 10; ++i) out.shades << QGradientStop(i / 10.0, scale_colour(i / 10.0));
    const double span = std::max(range.second - range.first, 1e-12);
    const int decimals = std::clamp(static_cast<int>(std::ceil(-std::log10(span))) + 1, 0, 9);
    // A few lie beyond, and have the colours of the ends.
    out.low = QStringLiteral("≤ ") + number_shown(number_text(range.first, decimals));
    out.middle = number_shown(number_text((range.first + range.second) / 2, decimals));
    out.high = QStringLiteral("≥ ") + number_shown(number_text(range.second, decimals));
    out.says = unit.isEmpty() ? says : says + ", " + unit;
    legend_ = out;
  }

  /// The grid as it will be, in the colours of what its texture promises.
  void paint_grid(QPainter& painter) {
    const MotionLayer::Texture* texture = document_.motion_layer().texture();
    if (!texture) return;
    std::vector<double> known;
    for (const double v : texture->predicted)
      if (std::isfinite(v)) known.push_back(v);
    const double least = known.empty() ? 0 : quantile(known, 0.0);
    const double most = known.empty() ? 1 : std::max(quantile(known, 0.95), least + 1e-4);
    const int n = every(texture->grid);
    painter.save();
    each(texture->grid, n, [&](std::size_t i) {
      const auto at = place(texture->grid.at(i));
      if (!at || !room().contains(*at)) return;
      const double v = texture->predicted[i];
      if (!std::isfinite(v)) {
        drawing::cross(painter, *at, 4, drawing::colour_wrong);
        return;
      }
      painter.setPen(QPen(Qt::white, 1));
      painter.setBrush(colour_of(v, {least, most}));
      painter.drawEllipse(*at, 3.5, 3.5);
    });
    painter.restore();
    set_legend({least, most}, QObject::tr("expected standard uncertainty; crosses: no texture"), QObject::tr("px"));
    if (n > 1) says_ = QObject::tr("One of %1 columns and rows is drawn").arg(n);
  }

  double enlarged(const MotionResultFrame& field, int n) const {
    const double given = document_.motion_layer().look().enlarged;
    if (given > 0) return given;
    // So that long arrows are about as long as what is between them, three times; of flows, where all are long, less.
    const bool flow = document_.motion_layer().probe()->settings.method == MotionMethod::window;
    std::vector<double> lengths;
    for (std::size_t i = 0; i < field.field.points.size(); ++i)
      if (field.field.grid.used[i] != 0 && field.field.points[i].has_place())
        lengths.push_back(std::hypot(field.field.points[i].moved.x, field.field.points[i].moved.y));
    if (lengths.empty()) return 1;
    const auto at = lengths.begin() + static_cast<std::ptrdiff_t>(0.95 * static_cast<double>(lengths.size() - 1));
    std::ranges::nth_element(lengths, at);
    const double wanted =
        (flow ? 1.5 : 3.0) * n * std::min(field.field.grid.step_x, field.field.grid.step_y) / std::max(*at, 1e-9);
    double times = 1;
    for (const double step : {1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0})
      if (step <= wanted) times = step;
    return times;
  }

  void paint_arrows(QPainter& painter, const MotionResultFrame& field) {
    const MotionLayer& layer = document_.motion_layer();
    const int n = every(field.field.grid);
    const double times = enlarged(field, n);
    const auto range = layer.range();
    painter.save();
    each(field.field.grid, n, [&](std::size_t i) {
      const MotionPoint& p = field.field.points[i];
      const Point at = field.field.grid.at(i);
      const auto from = place(at);
      if (!from || !room().contains(*from)) return;
      if (!p.has_place()) return paint_rejected(painter, *from);
      const auto to = place(at + times * p.moved);
      if (!to) return;
      const auto v = layer.value(field, i, layer.look().quantity);
      const QColor colour = v && range ? colour_of(*v, *range) : QColor(90, 90, 90);
      painter.setPen(QPen(QColor(255, 255, 255, 210), 3.2, Qt::SolidLine, Qt::RoundCap));
      painter.drawLine(*from, *to);
      painter.setPen(QPen(colour, p.status == MotionStatus::ok ? 1.7 : 1, Qt::SolidLine, Qt::RoundCap));
      painter.drawLine(*from, *to);
      const QLineF line(*to, *from);
      if (line.length() > 4)
        for (const double turn : {25.0, -25.0}) {
          QLineF wing = line;
          wing.setLength(std::min(6.0, 0.5 * line.length()));
          wing.setAngle(line.angle() + turn);
          painter.drawLine(wing);
        }
    });
    painter.restore();
    if (range) set_legend(*range, layer.title_of(layer.look().quantity), layer.unit_of(layer.look().quantity));
    says_ = times > 1 ? QObject::tr("Arrows enlarged %1 times").arg(times)
                      : QObject::tr("Arrows as long as the displacement");
    if (n > 1) says_ += QObject::tr("; one of %1 columns and rows").arg(n);
  }

  static void paint_rejected(QPainter& painter, QPointF at) {
    painter.setPen(QPen(QColor(120, 120, 120, 200), 1));
    painter.drawLine(at - QPointF(3, 3), at + QPointF(3, 3));
    painter.drawLine(at - QPointF(3, -3), at + QPointF(3, -3));
  }

  void paint_points(QPainter& painter, const MotionResultFrame& field) {
    const int n = every(field.field.grid);
    painter.save();
    each(field.field.grid, n, [&](std::size_t i) {
      const MotionPoint& p = field.field.points[i];
      const auto from = place(field.field.grid.at(i));
      if (!from || !room().contains(*from)) return;
      if (!p.has_place()) return paint_rejected(painter, *from);
      const auto to = place(field.field.grid.at(i) + p.moved);
      if (!to) return;
      painter.setPen(QPen(QColor(255, 255, 255, 220), 3));
      painter.drawLine(*from, *to);
      painter.setPen(QPen(drawing::colour_active, 1.2));
      painter.drawLine(*from, *to);
      painter.setBrush(p.status == MotionStatus::ok ? drawing::colour_active : QColor(Qt::white));
      painter.drawEllipse(*to, 2.6, 2.6);
    });
    painter.restore();
    says_ = QObject::tr("Each line begins where its point was in frame %1").arg(field.field.from + 1);
    if (n > 1) says_ += QObject::tr("; one of %1 columns and rows").arg(n);
  }

  void paint_mesh(QPainter& painter, const MotionResultFrame& field) {
    const MotionGrid& grid = field.field.grid;
    const int n = every(grid);
    const double given = document_.motion_layer().look().enlarged, times = given > 0 ? given : 1;
    const auto at = [&](int c, int r) -> std::optional<QPointF> {
      const auto i = static_cast<std::size_t>(r * grid.columns + c);
      if (grid.used[i] == 0 || !field.field.points[i].has_place()) return std::nullopt;
      return place(grid.at(i) + times * field.field.points[i].moved);
    };
    QPainterPath path;
    for (int r = 0; r < grid.rows; r += n)
      for (int c = 0; c < grid.columns; c += n) {
        const auto here = at(c, r);
        if (!here || !room().contains(*here)) continue;
        for (const auto& [dc, dr] : {std::pair(n, 0), std::pair(0, n)}) {
          if (c + dc >= grid.columns || r + dr >= grid.rows) continue;
          if (const auto next = at(c + dc, r + dr)) {
            path.moveTo(*here);
            path.lineTo(*next);
          }
        }
      }
    drawing::lines(painter, path, drawing::colour_active, false);
    says_ =
        times > 1 ? QObject::tr("The deformed grid, enlarged %1 times").arg(times) : QObject::tr("The deformed grid");
  }

  /// A cell of the grid in a colour, for each point; where the view shows another station, place by place.
  void paint_map(QPainter& painter, const MotionResultFrame& field) {
    const MotionLayer& layer = document_.motion_layer();
    const auto range = layer.range();
    const MotionGrid& grid = field.field.grid;
    if (!range) {
      says_ = layer.probe()->settings.strain ? QObject::tr("There is nothing to show")
                                             : QObject::tr("Slopes are worked out once their window is switched on");
      return;
    }
    QImage cells(grid.columns, grid.rows, QImage::Format_ARGB32_Premultiplied);
    cells.fill(Qt::transparent);
    for (std::size_t i = 0; i < grid.count(); ++i)
      if (const auto v = layer.value(field, i, layer.look().quantity)) {
        QColor colour = colour_of(*v, *range);
        colour.setAlpha(cover);
        cells.setPixel(static_cast<int>(i) % grid.columns, static_cast<int>(i) / grid.columns,
                       qPremultiply(colour.rgba()));
      }
    const Point half{0.5 * grid.step_x, 0.5 * grid.step_y};
    const auto top_left = place(grid.first - half), bottom_right = place(grid.at(grid.count() - 1) + half);
    if (top_left && bottom_right) painter.drawImage(QRectF(*top_left, *bottom_right), cells);
    set_legend(*range, layer.title_of(layer.look().quantity), layer.unit_of(layer.look().quantity));
  }

  /// Lines of equal value, each in the colour of its level and with it.
  void paint_contours(QPainter& painter, const MotionResultFrame& field) {
    const MotionLayer& layer = document_.motion_layer();
    const auto range = layer.range();
    const MotionGrid& grid = field.field.grid;
    if (!range) return;
    std::vector<std::optional<double>> values(grid.count());
    std::vector<std::optional<QPointF>> places(grid.count());
    for (std::size_t i = 0; i < grid.count(); ++i)
      if ((values[i] = layer.value(field, i, layer.look().quantity))) places[i] = place(grid.at(i));
    const double step = drawing::round_step((range->second - range->first) / 10);
    const int decimals = decimals_for(step / 5);
    for (double level = step * std::ceil(range->first / step); step > 0 && level <= range->second; level += step) {
      QPainterPath path;
      std::optional<QPointF> label;
      for (int r = 0; r + 1 < grid.rows; ++r)
        for (int c = 0; c + 1 < grid.columns; ++c) {
          const auto at = [&](int dc, int dr) { return static_cast<std::size_t>((r + dr) * grid.columns + c + dc); };
          const std::size_t corners[] = {at(0, 0), at(1, 0), at(1, 1), at(0, 1)};
          if (std::ranges::any_of(corners, [&](std::size_t k) { return !values[k] || !places[k]; })) continue;
          QPolygonF ends;
          for (int k = 0; k < 4; ++k) {
            const std::size_t i = corners[k], j = corners[(k + 1) % 4];
            const double a = *values[i] - level, b = *values[j] - level;
            if ((a < 0) != (b < 0)) ends << *places[i] + a / (a - b) * (*places[j] - *places[i]);
          }
          for (int k = 0; k + 1 < ends.size(); k += 2) {
            path.moveTo(ends[k]);
            path.lineTo(ends[k + 1]);
            if (!label || std::abs(ends[k].y() - view_.height() / 2.0) < std::abs(label->y() - view_.height() / 2.0))
              label = ends[k];
          }
        }
      if (!label) continue;
      const QColor colour = colour_of(level, *range);
      painter.strokePath(path, QPen(QColor(255, 255, 255, 200), 3.4));
      painter.strokePath(path, QPen(colour, 1.8));
      drawing::label(painter, *label, number_shown(number_text(level, decimals)), QColor(40, 40, 40));
    }
    set_legend(*range, layer.title_of(layer.look().quantity), layer.unit_of(layer.look().quantity));
  }

  void paint_streamlines(QPainter& painter) {
    QPainterPath path, heads;
    for (const auto& line : document_.motion_layer().stream()) {
      QPolygonF drawn;
      for (const Point p : line)
        if (const auto at = place(p)) drawn << *at;
      if (drawn.size() < 2) continue;
      path.addPolygon(drawn);
      // Which way it goes, in its middle.
      const auto middle = drawn.size() / 2;
      QLineF back(drawn[middle], drawn[std::max<qsizetype>(0, middle - 3)]);
      if (back.length() < 0.1) continue;
      back.setLength(7);
      for (const double turn : {24.0, -24.0}) {
        QLineF wing = back;
        wing.setAngle(back.angle() + turn);
        heads.moveTo(wing.p1());
        heads.lineTo(wing.p2());
      }
    }
    for (const auto& [pen, of] :
         {std::pair(QPen(QColor(255, 255, 255, 190), 3), &path), std::pair(QPen(QColor(20, 30, 40), 1.1), &path),
          std::pair(QPen(QColor(20, 30, 40), 1.6), &heads)})
      painter.strokePath(*of, pen);
    says_ = QObject::tr("Streamlines of %1")
                .arg(document_.motion_layer().shown()->number == 0
                         ? QObject::tr("the mean")
                         : QObject::tr("frame %1").arg(document_.motion_layer().shown()->number));
  }

  /// What is taken off the frames before they are matched, in place of the frame.
  bool paint_background(QPainter& painter) {
    MotionLayer& layer = document_.motion_layer();
    const auto background = layer.background();
    if (!background || !layer.look().background) return false;
    const auto from = place({0, 0}),
               to = place({static_cast<double>(background->width()), static_cast<double>(background->height())});
    if (from && to) painter.drawImage(QRectF(*from, *to), *background);
    says_ = QObject::tr("The background that is taken off for matching");
    return true;
  }

  void paint_charted(QPainter& painter, const MotionResultFrame& field) {
    const MotionLayer& layer = document_.motion_layer();
    for (std::size_t k = 0; k < layer.flow_lines().size(); ++k) {
      QPolygonF outline;
      for (const Point p : layer.flow_lines()[k].points)
        if (const auto at = place(p)) outline << *at;
      if (outline.size() < 2) continue;
      drawing::line(painter, outline, drawing::colour_b, true, layer.flow_lines()[k].round);
      drawing::label(painter, outline.first(), QString::number(k + 1), QColor(40, 40, 40));
    }
    const auto now = [&](std::size_t i) {
      const MotionPoint& p = field.field.points[i];
      return place(field.field.grid.at(i) + (p.has_place() ? p.moved : Point{}));
    };
    for (std::size_t k = 0; k < layer.charted().size(); ++k)
      if (const auto at = now(layer.charted()[k]))
        drawing::handle(painter, *at, QString::number(k + 1), drawing::colour_b, false, {});
    for (const MotionLayer::Area& area : layer.areas()) {
      QPolygonF outline;
      for (const Point p : area.outline)
        if (const auto at = place(p)) outline << *at;
      if (outline.size() > 2) drawing::line(painter, outline, drawing::colour_b, false, true);
    }
    if (layer.profile()) {
      const auto from = place(layer.profile()->first), to = place(layer.profile()->second);
      if (from && to) drawing::length_line(painter, *from, *to, drawing::colour_a);
    }
    for (const auto& [a, b] : layer.extensometers()) {
      const auto from = now(a), to = now(b);
      if (from && to) drawing::length_line(painter, *from, *to, drawing::colour_b);
    }
  }

  std::optional<drawing::Legend> legend_;
  QString says_;
  Of kept_of_;
  QPixmap kept_;
};

}  // namespace

std::unique_ptr<Overlay> make_motion_overlay(PictureView& view) {
  return std::make_unique<MotionOverlay>(view);
}

}  // namespace fexel

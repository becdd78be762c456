/// All measurements with their values. The selected one has handles: its points, and a middle that moves all of them.
#include "app/canvas/overlays/overlays.h"
#include "app/canvas/picture_view.h"
#include "app/measurements/measurement_ui.h"
#include "app/ui/language.h"
#include "app/ui/text.h"

namespace fexel {
namespace {

class MeasurementOverlay : public Overlay {
 public:
  using Overlay::Overlay;

  void paint(QPainter& painter) override {
    const QColor colour = drawing::flag_colour(view_.is_b());
    // Labels keep clear of handles, of the badge, and of each other.
    std::vector<QRectF> taken{QRectF(drawing::ruler_thickness, drawing::ruler_thickness, 150, 30)};
    for (const Handle& handle : view_.handles()) {
      constexpr double half = 11;
      if (!owns(handle) || handle.owner == document_.session().measurement())
        taken.emplace_back(view_.to_widget(handle.at) - QPointF(half, half), QSizeF(2 * half, 2 * half));
    }
    const QRectF room = QRectF(view_.rect()).adjusted(drawing::ruler_thickness, drawing::ruler_thickness, -2, -2);
    const auto& measurements = document_.chain().measurements;
    struct Label {
      QLineF beside;
      QString text;
    };
    std::vector<Label> labels;  // above all lines
    for (std::size_t i = 0; i < measurements.size(); ++i) {
      const auto points = view_.measurement_points(static_cast<int>(i));
      if (!points) continue;
      QPolygonF shown;
      for (const QPointF& p : *points) shown << view_.to_widget(p);
      const MeasurementUi& ui = ui_of(measurements[i].kind);
      const Reading& reading = document_.readings(view_.station())[i];
      ui.paint(painter, shown, reading.problem ? drawing::colour_wrong : colour);
      if (reading.value) labels.push_back({ui.label_line(shown), number_shown(value_text(measurements[i], reading))});
    }
    for (const auto& [beside, text] : labels) {
      const QPointF at = drawing::free_place(beside, text, room, taken);
      drawing::label(painter, at, text, colour);
      taken.push_back(drawing::label_box(at, text));
    }
  }

  void add_handles(std::vector<Handle>& handles) const override {
    for (int m = 0; m < static_cast<int>(document_.chain().measurements.size()); ++m) {
      const Measurement& measurement = document_.chain().measurements[static_cast<std::size_t>(m)];
      const int count = static_cast<int>(measurement.points.size());
      for (int i = 0; i < count; ++i)
        if (const auto at = here(measurement.points[static_cast<std::size_t>(i)], measurement.station))
          handles.push_back({Handle::Kind::measurement, m, i, *at});
      // Its middle moves it; small ones have no room for that beside their points.
      const auto points = count > 1 ? view_.measurement_points(m) : std::nullopt;
      if (points && std::hypot(points->boundingRect().width(), points->boundingRect().height()) * view_.zoom() >
                        4 * drawing::handle_reach)
        handles.push_back({Handle::Kind::measurement, m, count, middle_of(*points)});
    }
  }
  bool owns(const Handle& handle) const override { return handle.kind == Handle::Kind::measurement; }

  void paint_handle(QPainter& painter, const Handle& handle, bool chosen, QPointF middle) const override {
    if (handle.owner == document_.session().measurement())
      drawing::handle(painter, view_.to_widget(handle.at), {}, drawing::flag_colour(view_.is_b()), chosen, middle);
  }
  void select(const Handle& handle) override { document_.session().select_measurement(handle.owner); }

  void move(const Handle& handle, QPointF to) override {
    Chain chain = document_.chain();
    Measurement& measurement = chain.measurements[static_cast<std::size_t>(handle.owner)];
    const auto points = view_.measurement_points(handle.owner);
    if (!points) return;
    const bool whole = handle.index == points->size();
    const QPointF by = whole ? to - middle_of(*points) : QPointF();
    for (int i = 0; i < points->size(); ++i) {
      if (!whole && i != handle.index) continue;
      const QPointF target = whole ? (*points)[i] + by : to;
      const auto at = there(target, measurement.station);
      if (!at) return;
      measurement.points[static_cast<std::size_t>(i)] = *at;
      measurement.picking[static_cast<std::size_t>(i)] = view_.placed_to(target, 0);
    }
    const QString word = text_of(word_of(measurement.kind));
    document_.edit_chain(QObject::tr("move %1").arg(word), chain,
                         QString("measurement%1/%2").arg(handle.owner).arg(handle.index));
  }
  bool remove(const Handle& handle) override {
    document_.remove_measurement(handle.owner);
    return true;
  }

 private:
  static QPointF middle_of(const QPolygonF& points) {
    QPointF sum;
    for (const QPointF& p : points) sum += p;
    return sum / static_cast<double>(points.size());
  }
};

}  // namespace

std::unique_ptr<Overlay> make_measurement_overlay(PictureView& view) {
  return std::make_unique<MeasurementOverlay>(view);
}

}  // namespace fexel

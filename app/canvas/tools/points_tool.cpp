/// Points by clicks: for a measurement, or for a page that asked for them.
#include <QLineF>

#include "app/canvas/picture_view.h"
#include "app/canvas/tools/tools.h"

namespace fexel {
namespace {

class PointsTool : public Tool {
 public:
  PointsTool(PictureView& view, PointsWanted wanted) : Tool(view), wanted_(std::move(wanted)) {}

  State press(QPointF at) override {
    if (wanted_.most == 0 && points_.size() >= wanted_.least &&
        QLineF(view_.to_widget(points_.front()), at).length() < drawing::handle_reach)
      return State::done;
    points_ << view_.clicked(at);
    view_.redraw();
    return wanted_.most > 0 && points_.size() == wanted_.most ? State::done : State::going_on;
  }
  State move(QPointF at) override {
    hover_ = at;
    if (!points_.isEmpty()) view_.redraw();
    return State::going_on;
  }
  State double_click(QPointF) override { return State::done; }  // the first of the two clicks has set the last point
  bool key(int key, State& state) override {
    if (key == Qt::Key_Return || key == Qt::Key_Enter) {
      state = State::done;
      return true;
    }
    if (key != Qt::Key_Backspace || points_.isEmpty()) return false;
    points_.removeLast();
    view_.redraw();
    return true;
  }
  void finish() override {
    if (points_.size() >= wanted_.least) wanted_.take(points_);
  }
  void paint(QPainter& painter) override {
    if (points_.isEmpty()) return;
    const QColor colour = drawing::flag_colour(view_.is_b());
    QPolygonF shown;
    for (const QPointF& p : points_) shown << view_.to_widget(p);
    for (const QPointF& p : shown) drawing::cross(painter, p, 5, colour);
    shown << hover_;
    drawing::line(painter, shown, colour, true, false);
  }
  QString hint() const override { return wanted_.hint; }

 private:
  PointsWanted wanted_;
  QPolygonF points_;  // clicked so far, in the view's station
  QPointF hover_;     // in the widget
};

}  // namespace

std::unique_ptr<Tool> make_points_tool(PictureView& view, PointsWanted wanted) {
  return std::make_unique<PointsTool>(view, std::move(wanted));
}

}  // namespace fexel

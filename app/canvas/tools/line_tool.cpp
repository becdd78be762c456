/// A line by a drag: for a length, or for a page that asked for it.
#include <QLineF>

#include "app/canvas/picture_view.h"
#include "app/canvas/tools/tools.h"

namespace fexel {
namespace {

class LineTool : public Tool {
 public:
  LineTool(PictureView& view, LineWanted wanted) : Tool(view), wanted_(std::move(wanted)) {}

  State press(QPointF at) override {
    drawing_ = true;
    from_ = to_ = view_.clicked(at);
    return State::going_on;
  }
  State move(QPointF at) override {
    if (drawing_) {
      to_ = view_.to_station(at);
      view_.redraw();
    }
    return State::going_on;
  }
  State release() override {
    if (drawing_) to_ = view_.clicked(view_.to_widget(to_));
    return drawing_ ? State::done : State::going_on;
  }
  bool key(int key, State& state) override {
    if (key != Qt::Key_Return && key != Qt::Key_Enter) return false;
    if (!wanted_.return_lays_one) return true;
    const QPointF half(view_.width() / view_.zoom() / 8, 0);
    const QPointF middle = view_.to_station(QPointF(view_.width(), view_.height()) / 2);
    from_ = middle - half;
    to_ = middle + half;
    state = State::done;
    return true;
  }
  void finish() override {
    constexpr double least = 4;  // px on the screen: a click is no line
    if (QLineF(from_, to_).length() * view_.zoom() >= least) wanted_.take(from_, to_);
  }
  void paint(QPainter& painter) override {
    if (drawing_)
      drawing::line(painter, {view_.to_widget(from_), view_.to_widget(to_)}, drawing::flag_colour(view_.is_b()), true,
                    false);
  }
  QString hint() const override { return wanted_.hint; }

 private:
  LineWanted wanted_;
  bool drawing_ = false;
  QPointF from_, to_;
};

}  // namespace

std::unique_ptr<Tool> make_line_tool(PictureView& view, LineWanted wanted) {
  return std::make_unique<LineTool>(view, std::move(wanted));
}

}  // namespace fexel

#include "app/pairs/placing.h"

#include "app/canvas/drawing.h"
#include "app/canvas/picture_view.h"
#include "app/canvas/tools/tool.h"

namespace fexel {
namespace {

class PairTool : public Tool {
 public:
  PairTool(PictureView& view, PairPlacing& placing) : Tool(view), placing_(placing) {}
  State press(QPointF at) override {
    const QPointF place = view_.reference() ? view_.to_station(at) : view_.clicked(at);
    placing_.click(view_, point_of(place));
    return State::going_on;
  }
  bool lets_handles() const override { return true; }
  bool key(int key, State&) override {
    if (key == Qt::Key_Return || key == Qt::Key_Enter) return placing_.confirm();
    return key == Qt::Key_Backspace && placing_.take_back();
  }
  void paint(QPainter& painter) override {
    if (const auto at = placing_.pending(view_))
      drawing::cross(painter, view_.to_widget(point_of(*at)), 9, drawing::colour_active);
    if (const auto at = placing_.predicted(view_)) {
      const QPointF there = view_.to_widget(point_of(*at));
      drawing::cross(painter, there, 9, drawing::colour_active);
      drawing::label(painter, there + QPointF(0, -22), QObject::tr("expected here"), drawing::colour_active);
    }
  }
  QString hint() const override { return placing_.hint(view_); }

 private:
  PairPlacing& placing_;
};

}  // namespace

PairPlacing::PairPlacing(Document& document, PictureView* a, PictureView* b, QObject* parent)
    : QObject(parent), document_(document), a_(a), b_(b) {}

void PairPlacing::begin() {
  first_.reset();
  running_ = true;
  b_->use(std::make_unique<PairTool>(*b_, *this));
  a_->use(std::make_unique<PairTool>(*a_, *this));
}

void PairPlacing::click(PictureView& view, Point at) {
  const auto open = open_reference(document_);
  if (!open) return;
  const bool on_reference = view.reference() != nullptr;
  Point place = at;
  if (!on_reference) {
    const Carried c = carry(document_.layout(), at, view.station(), open->step);
    if (c.status == CarryStatus::beyond_horizon) return;
    place = c.point;
  }
  if (!first_ || first_->on_reference == on_reference) {
    first_ = First{on_reference, place};
    // The other picture shows where the second is expected.
    PictureView& other = &view == a_ ? *b_ : *a_;
    if (const auto expected = predicted(other))
      if (!other.rect().adjusted(60, 60, -60, -60).contains(other.to_widget(point_of(*expected)).toPoint()))
        other.look_at(point_of(*expected), other.zoom());
    a_->redraw();
    b_->redraw();
    return;
  }
  add(on_reference ? first_->at : place, on_reference ? place : first_->at);
}

void PairPlacing::add(Point from, Point reference) {
  const auto open = open_reference(document_);
  first_.reset();
  FitStep next = *open->fit;
  next.pairs.push_back(
      {from, next.pixel_size.value_or(1) * open->scale * reference, std::to_string(next.pairs.size() + 1), true});
  change_fit(document_, tr("place a pair"), next);
  document_.session().select_pair(static_cast<int>(next.pairs.size()) - 1);
}

bool PairPlacing::confirm() {
  for (PictureView* view : {a_, b_})
    if (const auto at = predicted(*view)) {
      click(*view, *at);
      return true;
    }
  return false;
}

bool PairPlacing::take_back() {
  if (!first_) return false;
  first_.reset();
  a_->redraw();
  b_->redraw();
  return true;
}

std::optional<Point> PairPlacing::pending(const PictureView& view) const {
  const auto open = open_reference(document_);
  if (!first_ || !open || first_->on_reference != (view.reference() != nullptr)) return std::nullopt;
  if (first_->on_reference) return first_->at;
  return map_between(document_.layout(), open->step, view.station()).forward(first_->at);
}

std::optional<Point> PairPlacing::predicted(const PictureView& view) const {
  const auto open = open_reference(document_);
  if (!first_ || !open || first_->on_reference == (view.reference() != nullptr)) return std::nullopt;
  constexpr int least = 3;
  if (std::ranges::count_if(open->fit->pairs, &PointPair::counts) < least) return std::nullopt;
  const auto map = preliminary_map(*open->fit);
  if (!map) return std::nullopt;
  if (!first_->on_reference) {
    const auto at = map->forward(first_->at);
    return at ? std::optional(1 / open->scale * *at) : std::nullopt;
  }
  const auto at = map->backward(open->scale * first_->at);
  return at ? map_between(document_.layout(), open->step, view.station()).forward(*at) : std::nullopt;
}

QString PairPlacing::hint(const PictureView& view) const {
  if (!first_) return tr("Click a point here, then the same point on the other picture; Escape ends");
  if (pending(view)) return tr("Now click the same point on the other picture; Backspace takes it back");
  return predicted(view) ? tr("Click the point, or press Return to take the place that is expected")
                         : tr("Click the same point here");
}

}  // namespace fexel

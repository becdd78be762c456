#include "app/canvas/picture_view.h"

#include "app/canvas/canvas_overlay.h"
#include "app/canvas/mask_handles.h"
#include "app/ui/text.h"

namespace fexel {
namespace {

constexpr double least_side = 32;  // of a picture on the screen

}  // namespace

PictureView::PictureView(Document& document, bool is_b, QWidget* parent)
    : QWidget(parent), document_(document), is_b_(is_b) {
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumSize(160, 120);
  setAttribute(Qt::WA_OpaquePaintEvent);
  set_is_b(is_b);
  settle_.setSingleShot(true);
  settle_.setInterval(120);
  connect(&settle_, &QTimer::timeout, this, [this] { ask_for_picture(); });
  connect(&renderer_, &Renderer::ready, this, [this](const StationImage& image) {
    image_ = image;
    if (asked_ && image.serial >= alike_since_) image_.revision = asked_->revision;
    redraw();
  });
  connect(&renderer_, &Renderer::loupe_ready, this, [this](const StationImage& image) {
    loupe_ = image;
    redraw();
  });
  connect(&document_, &Document::opened, this, [this] {
    image_ = {};
    asked_.reset();
    fit();
  });
  connect(&document_, &Document::changed, this, &PictureView::refresh);
  connect(&document_, &Document::selection_changed, this, [this] {
    rebuild_handles();
    redraw();
  });
  connect(&document_, &Document::dragging_changed, this, [this] {
    if (!document_.dragging()) ask_for_picture();
  });
  connect(&document_, &Document::still_moving_changed, this, &PictureView::redraw);
  connect(&document_, &Document::pointer_moved, this, &PictureView::move_cross);
}

void PictureView::set_is_b(bool b) {
  is_b_ = b;
  setAccessibleName(b ? tr("Picture B") : tr("Picture A"));
  setAccessibleDescription(
      tr("Tab goes to the next handle, arrow keys move it by 1 px, with Shift by 0.1, with Ctrl by 10"));
}

const Station& PictureView::shown_station() const {
  return shows_kept() ? kept_->shown() : document_.layout().stations[static_cast<std::size_t>(station())];
}

void PictureView::set_kept(std::shared_ptr<const Kept> kept) {
  kept_ = std::move(kept);
  refresh();
}

void PictureView::set_range(std::optional<std::pair<double, double>> range) {
  range_ = range;
  refresh();
}

Map PictureView::map_to(const PictureView& other) const {
  if (!shows_kept() && !other.shows_kept()) return map_between(document_.layout(), station(), other.station());
  if (!kept_->source || !document_.source() || kept_->source != document_.source()->pixels) return Map();
  const auto to_source = [this](const PictureView& view) {
    return view.shows_kept() ? map_between(kept_->layout, kept_->station, 0)
                             : map_between(document_.layout(), view.station(), 0);
  };
  return to_source(other).inverse().after(to_source(*this));
}

bool PictureView::mix_is_carried() const {
  const auto& stations = document_.layout().stations;
  const Size a = kept_ ? kept_->shown().size : stations[static_cast<std::size_t>(document_.station_a())].size;
  return a != stations[static_cast<std::size_t>(station())].size;
}

void PictureView::set_cost_map(CostMap map) {
  cost_map_ = map;
  cost_layer_of_.reset();
  redraw();
}

const std::optional<CostLayer>& PictureView::cost_layer() {
  const std::pair<quint64, int> now{document_.revision(), station()};
  if (cost_layer_of_ != now) {
    no_cost_.clear();
    cost_layer_ = CostLayer::of(cost_map_, document_, station(), &no_cost_);
    cost_layer_of_ = now;
  }
  return cost_layer_;
}

void PictureView::set_badge_right(bool right) {
  badge_right_ = right;
  redraw();
}

void PictureView::set_mix(Mix mix) {
  mix_ = mix;
  refresh();
}

int PictureView::station() const {
  return is_b_ ? document_.station_b() : document_.station_a();
}

QPointF PictureView::to_widget(QPointF p) const {
  return (p - centre_) * zoom_ + QPointF(width(), height()) / 2;
}
QPointF PictureView::to_station(QPointF w) const {
  return (w - QPointF(width(), height()) / 2) / zoom_ + centre_;
}

void PictureView::fit() {
  fitted_ = true;
  refresh();
}

void PictureView::set_room(QSize room) {
  if (room == room_) return;
  room_ = room;
  if (fitted_) refresh();
}

void PictureView::look_at(QPointF centre, double zoom) {
  // A picture never becomes a dot that nobody finds again.
  const Size size = shown_station().size;
  zoom_ = std::clamp(zoom, std::min(1.0, least_side / std::max({size.width, size.height, 1})), 256.0);
  centre_ = centre;
  // At whole zooms the station's pixels lie on the screen's, so that nothing is smoothed on the way to the eye.
  const double ratio = devicePixelRatioF(), device = zoom_ * ratio;
  if (device > 0.5 && std::abs(device - std::round(device)) < 1e-9) {
    const QPointF corner = to_widget({0, 0}) * ratio;
    centre_ += (corner - QPointF(std::round(corner.x()), std::round(corner.y()))) / device;
  }
  fitted_ = false;
  refresh();
}

void PictureView::set_detail(double times) {
  detail_ = times;
  refresh();
}

void PictureView::refresh() {
  if (fitted_) {
    const Size size = shown_station().size;
    constexpr int ruler = overlay::ruler_thickness;
    const QSize room = room_.isValid() ? room_.boundedTo(this->size()) : this->size();
    zoom_ = std::max(
        1e-4, std::min((room.width() - ruler - 20.0) / size.width, (room.height() - ruler - 20.0) / size.height));
    centre_ = QPointF(size.width, size.height) / 2 - QPointF(ruler, ruler) / 2 / zoom_;
  }
  rebuild_handles();
  ask_for_picture();
  redraw();
}

void PictureView::ask_for_picture() {
  if (!document_.source() || !isVisible() || width() < 8) return;
  const double ratio = this->ratio();
  const Size size = shown_station().size;
  RenderRequest request;
  request.source = shows_kept() ? kept_->source : document_.source()->pixels;
  request.run_start = shown_station().run_start;
  if (request.run_start > 0) request.pictures = shows_kept() ? kept_->pictures : document_.pictures();
  request.resampling = shows_kept() ? kept_->resampling : document_.chain().resampling;
  request.revision = document_.revision();
  request.range = range_;
  const auto plan = [&](double left, double top, double step, Size part) {
    const Layout& layout = shows_kept() ? kept_->layout : document_.layout();
    return plan_for_view(layout, shows_kept() ? kept_->station : station(),
                         Map(translation(left, top) * scaling(step, step)), part);
  };
  if (drag_ == Drag::handle && selected_) {
    constexpr int side = Renderer::loupe_side;
    request.left = std::floor(selected_->at.x()) - side / 2;
    request.top = std::floor(selected_->at.y()) - side / 2;
    request.plan = plan(request.left, request.top, 1, {side, side});
    renderer_.request_loupe(request);
  }
  request.step = std::min(1.0, zoom_ * ratio) < 1 ? 1 / (zoom_ * ratio) : 1;
  const QPointF low = to_station({0, 0}), high = to_station({double(width()), double(height())});
  const double left = std::max(0.0, low.x()), top = std::max(0.0, low.y());
  // On the station's own pixels at 1:1 and above, on the screen's below.
  request.left = request.step > 1 ? left : std::floor(left);
  request.top = request.step > 1 ? top : std::floor(top);
  const double right = std::min<double>(size.width, high.x()), bottom = std::min<double>(size.height, high.y());
  const auto pixels = [&](double from, double to) {
    return std::min(static_cast<int>(std::ceil((to - from) / request.step)), 16384);
  };
  const Size part{pixels(request.left, right), pixels(request.top, bottom)};
  if (part.width < 1 || part.height < 1) return;  // panned out of sight
  request.plan = plan(request.left, request.top, request.step, part);
  if (request.step == 1) {
    request.plan.whole_x = static_cast<int>(request.left);
    request.plan.whole_y = static_cast<int>(request.top);
    request.plan.whole = size;
  }
  if (mix_ != Mix::none) {
    const Layout& layout = kept_ ? kept_->layout : document_.layout();
    const int a = kept_ ? kept_->station : document_.station_a();
    request.mix = mix_;
    request.other_source = kept_ ? kept_->source : request.source;
    request.other_run_start = layout.stations[static_cast<std::size_t>(a)].run_start;
    if (request.other_run_start > 0) request.other_pictures = kept_ ? kept_->pictures : document_.pictures();
    Map carried;
    if (mix_is_carried() && !kept_) carried = map_between(layout, station(), a);
    if (mix_is_carried() && kept_ && kept_->source == request.source)
      carried = map_between(kept_->layout, 0, a).after(map_between(document_.layout(), station(), 0));
    request.other = plan_for_view(
        layout, a, carried.after(Map(translation(request.left, request.top) * scaling(request.step, request.step))),
        part);
  }
  const bool moving = document_.dragging() || drag_ == Drag::pan || settle_.isActive();
  request.quality = moving ? Quality::draft : Quality::final;
  // What is shown or on its way is not asked for twice: a moved corner leaves the source's own picture as it is.
  if (asked_ && asked_->same_picture(request) && (moving || asked_->quality == Quality::final)) {
    asked_->revision = request.revision;
    if (image_.serial >= alike_since_) image_.revision = request.revision;
    return;
  }
  request.serial = ++serial_;
  if (!asked_ || !asked_->same_picture(request)) alike_since_ = request.serial;
  asked_ = request;
  renderer_.request(std::move(request));
}

void PictureView::rebuild_handles() {
  handles_.clear();
  if (!document_.source() || shows_kept()) return;
  const Chain& chain = document_.chain();
  const Layout& layout = document_.layout();
  const int here = station();
  // A step is changed by hand on the station that it gets and on those before it, or on its result and behind that.
  const int step = document_.selected_step();
  if (step >= 0) {
    const bool before = here <= step;
    const StepFigure figure =
        before ? figure_of(chain.steps[static_cast<std::size_t>(step)].kind, input_of_step(layout, step))
               : result_figure(step);
    for (int i = 0; i < static_cast<int>(figure.handles.size()); ++i) {
      const StepHandle& handle = figure.handles[static_cast<std::size_t>(i)];
      const Carried c = carry(layout, handle.at, before ? step : step + 1, here);
      if (c.status != CarryStatus::beyond_horizon)
        handles_.push_back(
            {before ? Handle::Kind::step : Handle::Kind::result, step, i, point_of(c.point), text_of(handle.name)});
    }
  }
  for (int g = 0; g < static_cast<int>(chain.gauges.size()); ++g) {
    const Gauge& gauge = chain.gauges[static_cast<std::size_t>(g)];
    for (int end = 0; end < 2; ++end) {
      const Carried c = carry(layout, end == 0 ? gauge.from : gauge.to, gauge.station, here);
      if (c.status != CarryStatus::beyond_horizon)
        handles_.push_back({Handle::Kind::gauge_end, g, end, point_of(c.point)});
    }
    // Its middle moves it; short ones have no room for that beside their ends.
    if (const auto line = gauge_line(g);
        line && QLineF(to_widget(line->p1()), to_widget(line->p2())).length() > 4 * overlay::handle_reach)
      handles_.push_back({Handle::Kind::gauge_end, g, 2, line->center()});
  }
  if (const int m = document_.selected_mask(); m >= 0 && shows_masks()) {
    const std::vector<MaskHandle> handles = handles_of(chain.masks[static_cast<std::size_t>(m)]);
    for (int i = 0; i < static_cast<int>(handles.size()); ++i) {
      const MaskHandle& handle = handles[static_cast<std::size_t>(i)];
      const Carried c = carry(layout, handle.at, 0, here);
      if (c.status != CarryStatus::beyond_horizon)
        handles_.push_back({Handle::Kind::mask, m, i, point_of(c.point), handle.name});
    }
  }
  if (selected_) {
    const auto at = std::ranges::find(handles_, *selected_);
    if (at == handles_.end())
      selected_.reset();
    else
      selected_ = *at;
  }
}

std::optional<QLineF> PictureView::gauge_line(int g) const {
  const Gauge& gauge = document_.chain().gauges[static_cast<std::size_t>(g)];
  const Carried a = carry(document_.layout(), gauge.from, gauge.station, station()),
                b = carry(document_.layout(), gauge.to, gauge.station, station());
  if (a.status == CarryStatus::beyond_horizon || b.status == CarryStatus::beyond_horizon) return std::nullopt;
  return QLineF(point_of(a.point), point_of(b.point));
}

int PictureView::gauge_near(QPointF widget) const {
  constexpr double reach = 6;
  for (int g = 0; g < static_cast<int>(document_.chain().gauges.size()); ++g) {
    const auto line = gauge_line(g);
    if (!line) continue;
    const QPointF p = to_widget(line->p1()), d = to_widget(line->p2()) - p;
    const double squared = QPointF::dotProduct(d, d);
    const double t = squared > 0 ? std::clamp(QPointF::dotProduct(widget - p, d) / squared, 0.0, 1.0) : 0;
    if (QLineF(p + t * d, widget).length() < reach) return g;
  }
  return -1;
}

StepFigure PictureView::result_figure(int step) const {
  const Layout& layout = document_.layout();
  const StepKind& kind = document_.chain().steps[static_cast<std::size_t>(step)].kind;
  if (!layout.stations[static_cast<std::size_t>(step) + 1].problem)
    return result_figure_of(kind, map_between(layout, step, step + 1));
  // Where it cannot be made, what it should make can still be moved.
  StepFigure figure = result_figure_of(kind, Map());
  figure.lines.clear();
  return figure;
}

void PictureView::select_handle(const Handle& handle) {
  selected_ = handle;
  document_.end_merging();
  if (handle.kind == Handle::Kind::gauge_end) document_.select_gauge(handle.owner);
  redraw();
}

std::optional<Handle> PictureView::handle_near(QPointF widget) const {
  std::optional<Handle> best;
  double least = overlay::handle_reach;
  for (const Handle& handle : handles_) {
    const QPointF d = to_widget(handle.at) - widget;
    const double away = std::hypot(d.x(), d.y());
    if (away < least) {
      least = away;
      best = handle;
    }
  }
  return best;
}

double PictureView::placed_to(QPointF at, int there) const {
  const Map map = map_between(document_.layout(), station(), there);
  const double scale = map.scale_at(point_of(at)).value_or(1);
  return std::max(picking, rounded_to(0.5 / (zoom_ * devicePixelRatioF()) * scale, 2));
}

void PictureView::move_handle(const Handle& handle, QPointF to) {
  Chain chain = document_.chain();
  if (handle.of_step()) {
    StepKind& kind = chain.steps[static_cast<std::size_t>(handle.owner)].kind;
    const bool on_result = handle.kind == Handle::Kind::result;
    const Carried c = carry(document_.layout(), point_of(to), station(), handle.owner + (on_result ? 1 : 0));
    if (c.status == CarryStatus::beyond_horizon) return;
    const QString purpose = text_of(handle_purpose(kind, handle.index));
    if (drag_ == Drag::handle && grabbed_ && grabbed_->index() == kind.index()) kind = *grabbed_;
    const int there = handle.owner + (on_result ? 1 : 0);
    kind = on_result ? with_result_handle_at(kind, handle.index, c.point)
                     : with_handle_at(kind, input_of_step(document_.layout(), handle.owner), handle.index, c.point);
    kind = with_picking(kind, handle.index, placed_to(to, there));
    const QString merging = on_result ? "target%1/%2" : "handle%1/%2";
    document_.edit_chain(purpose, chain, merging.arg(handle.owner).arg(handle.index));
  } else if (handle.kind == Handle::Kind::mask) {
    const Carried c = carry(document_.layout(), point_of(to), station(), 0);
    if (c.status == CarryStatus::beyond_horizon) return;
    document_.change_mask(handle.owner,
                          with_handle_at(chain.masks[static_cast<std::size_t>(handle.owner)], handle.index, c.point),
                          QString("mask%1/%2").arg(handle.owner).arg(handle.index));
  } else {
    Gauge& gauge = chain.gauges[static_cast<std::size_t>(handle.owner)];
    if (handle.index == 2) {
      const auto line = gauge_line(handle.owner);
      if (!line) return;
      const QPointF by = to - line->center();
      const Carried a = carry(document_.layout(), point_of(line->p1() + by), station(), gauge.station),
                    b = carry(document_.layout(), point_of(line->p2() + by), station(), gauge.station);
      if (a.status == CarryStatus::beyond_horizon || b.status == CarryStatus::beyond_horizon) return;
      gauge.from = a.point;
      gauge.to = b.point;
      gauge.picking = {placed_to(line->p1() + by, 0), placed_to(line->p2() + by, 0)};
      document_.edit_chain(tr("move gauge"), chain, QString("gauge%1/2").arg(handle.owner));
      return;
    }
    const Carried c = carry(document_.layout(), point_of(to), station(), gauge.station);
    if (c.status == CarryStatus::beyond_horizon) return;
    (handle.index == 0 ? gauge.from : gauge.to) = c.point;
    gauge.picking[static_cast<std::size_t>(handle.index)] = placed_to(to, 0);
    document_.edit_chain(tr("move gauge"), chain, QString("gauge%1/%2").arg(handle.owner).arg(handle.index));
  }
}

void PictureView::resizeEvent(QResizeEvent*) {
  refresh();
}

void PictureView::mousePressEvent(QMouseEvent* event) {
  if (!document_.source()) return;
  setFocus();
  const QPointF at = event->position();
  drag_start_ = at;
  if (event->button() == Qt::LeftButton && take_corners_ && !shows_kept()) {
    if (corners_.size() >= 3 && QLineF(to_widget(corners_.front()), at).length() < overlay::handle_reach)
      return close_corners();
    corners_ << to_station(at);
    redraw();
    return;
  }
  if (event->button() == Qt::LeftButton && laying_gauge_ && !shows_kept()) {
    drag_ = Drag::gauge;
    gauge_start_ = gauge_end_ = to_station(at);
    return;
  }
  const QRectF badge(overlay::ruler_thickness + 6, overlay::ruler_thickness + 6, 90, 20);
  if (event->button() == Qt::LeftButton && badge.contains(at)) {
    Q_EMIT badge_clicked();
    return;
  }
  const auto handle = handle_near(at);
  if (event->button() == Qt::LeftButton && handle && !space_held_) {
    select_handle(*handle);
    drag_ = Drag::handle;
    grabbed_.reset();
    if (handle->of_step()) grabbed_ = document_.chain().steps[static_cast<std::size_t>(handle->owner)].kind;
    drag_offset_ = to_widget(handle->at) - at;
    loupe_ = {};
    document_.set_dragging(true);
    drag_began_ = document_.undo_stack().index();
    ask_for_picture();
    return;
  }
  if (event->button() == Qt::LeftButton || event->button() == Qt::MiddleButton) {
    drag_ = Drag::pan;
    pan_centre_ = centre_;
    setCursor(Qt::ClosedHandCursor);
  }
}

void PictureView::mouseMoveEvent(QMouseEvent* event) {
  if (!document_.source()) return;
  const QPointF at = hover_ = event->position();
  if (!shows_kept()) {
    document_.set_pointer(Document::Pointer{station(), point_of(to_station(at))});
  } else if (const auto p = kept_->source == document_.source()->pixels
                                ? map_between(kept_->layout, kept_->station, 0).forward(point_of(to_station(at)))
                                : std::nullopt) {
    document_.set_pointer(Document::Pointer{0, *p});
  }
  switch (drag_) {
    case Drag::handle:
      if (selected_) move_handle(*selected_, to_station(at + drag_offset_));
      break;
    case Drag::pan:
      look_at(pan_centre_ - (at - drag_start_) / zoom_, zoom_);
      Q_EMIT looked(this);
      break;
    case Drag::gauge:
      gauge_end_ = to_station(at);
      redraw();
      break;
    case Drag::none:
      if (take_corners_ && !corners_.isEmpty()) redraw();
      if (!laying_gauge_)
        setCursor(handle_near(at) ? Qt::PointingHandCursor : space_held_ ? Qt::OpenHandCursor : Qt::CrossCursor);
  }
}

void PictureView::finish_drag() {
  const Drag was = drag_;
  drag_ = Drag::none;
  if (was == Drag::handle) document_.set_dragging(false);
  if (was == Drag::gauge) lay_gauge(gauge_start_, gauge_end_);
  if (was == Drag::pan) {
    unsetCursor();
    ask_for_picture();
  }
  redraw();
}

void PictureView::mouseReleaseEvent(QMouseEvent*) {
  finish_drag();
}

void PictureView::mouseDoubleClickEvent(QMouseEvent* event) {
  if (take_corners_) return close_corners();  // the first of the two clicks has set the last corner
  if (event->button() == Qt::LeftButton && set_mask_corner(event->position())) return;
  mousePressEvent(event);
}

void PictureView::contextMenuEvent(QContextMenuEvent* event) {
  Q_EMIT menu_wanted(event->globalPos());
}

void PictureView::leaveEvent(QEvent*) {
  document_.set_pointer({});
}

void PictureView::wheelEvent(QWheelEvent* event) {
  if (!document_.source()) return;
  const QPointF before = to_station(event->position());
  const double zoom = std::clamp(zoom_ * std::pow(1.2, event->angleDelta().y() / 120.0), 1e-4, 256.0);
  settle_.start();
  look_at(before - (event->position() - QPointF(width(), height()) / 2) / zoom, zoom);
  Q_EMIT looked(this);
}

void PictureView::keyPressEvent(QKeyEvent* event) {
  const bool ctrl = event->modifiers().testFlag(Qt::ControlModifier),
             shift = event->modifiers().testFlag(Qt::ShiftModifier);
  const double amount = ctrl ? 10 : shift ? 0.1 : 1;
  const auto nudge = [&](double x, double y) {
    if (selected_) {
      move_handle(*selected_, selected_->at + QPointF(x, y) * amount);
    } else {
      look_at(centre_ + QPointF(x, y) * 40 * (ctrl ? 5 : 1) / zoom_, zoom_);
      Q_EMIT looked(this);
    }
  };
  switch (event->key()) {
    case Qt::Key_Left:
      nudge(-1, 0);
      return;
    case Qt::Key_Right:
      nudge(1, 0);
      return;
    case Qt::Key_Up:
      nudge(0, -1);
      return;
    case Qt::Key_Down:
      nudge(0, 1);
      return;
    case Qt::Key_Space:
      if (!event->isAutoRepeat()) space_held_ = true;
      setCursor(Qt::OpenHandCursor);
      return;
    case Qt::Key_X:
      if (!event->isAutoRepeat()) Q_EMIT other_wanted(true);
      return;
    case Qt::Key_Return:
    case Qt::Key_Enter:
      if (take_corners_) return close_corners();
      if (laying_gauge_ && !take_line_) {
        const QPointF half(width() / zoom_ / 8, 0);
        const QPointF middle = to_station(QPointF(width(), height()) / 2);
        lay_gauge(middle - half, middle + half);
      }
      return;
    case Qt::Key_Backspace:
      if (!take_corners_ || corners_.isEmpty()) break;
      corners_.removeLast();
      redraw();
      return;
    case Qt::Key_Escape:
      // What is in the hand goes back to where it was.
      if (drag_ == Drag::handle && document_.undo_stack().index() > drag_began_) document_.undo_stack().undo();
      selected_.reset();
      drag_ = Drag::none;
      document_.set_dragging(false);
      end_asking();
      Q_EMIT answered();
      return;
    case Qt::Key_Delete:
      if (selected_ && remove_handle(*selected_)) return;
      break;
    default:
      break;
  }
  QWidget::keyPressEvent(event);
}

void PictureView::keyReleaseEvent(QKeyEvent* event) {
  if (event->isAutoRepeat()) return;
  if (event->key() == Qt::Key_Space) {
    space_held_ = false;
    unsetCursor();
  } else if (event->key() == Qt::Key_X) {
    Q_EMIT other_wanted(false);
  } else {
    QWidget::keyReleaseEvent(event);
  }
}

bool PictureView::focusNextPrevChild(bool next) {
  if (handles_.empty()) return QWidget::focusNextPrevChild(next);
  const auto count = static_cast<std::ptrdiff_t>(handles_.size());
  std::ptrdiff_t at = selected_ ? std::ranges::find(handles_, *selected_) - handles_.begin() : (next ? -1 : count);
  at += next ? 1 : -1;
  if (at < 0 || at >= count) {
    selected_.reset();
    redraw();
    return QWidget::focusNextPrevChild(next);
  }
  select_handle(handles_[static_cast<std::size_t>(at)]);
  return true;
}

}  // namespace fexel

#include "app/canvas/picture_view.h"

#include "app/canvas/drawing.h"
#include "app/canvas/overlays/overlays.h"
#include "app/document/marks_layer.h"
#include "app/document/motion_layer.h"
#include "app/pairs/reference.h"

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
  overlays_ = make_overlays(*this);
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
  connect(&document_.session(), &Session::dragging_changed, this, [this] {
    if (!document_.session().dragging()) ask_for_picture();
  });
  connect(&document_.marks_layer(), &MarksLayer::changed, this, [this] {
    rebuild_handles();
    redraw();
  });
  connect(&document_.motion_layer(), &MotionLayer::changed, this, &PictureView::redraw);
  connect(&document_.session(), &Session::residuals_changed, this, &PictureView::redraw);
  connect(&document_.session(), &Session::pair_selected, this, &PictureView::redraw);
  connect(&document_.session(), &Session::pointer_moved, this, &PictureView::move_cross);
}

void PictureView::set_is_b(bool b) {
  is_b_ = b;
  setAccessibleName(b ? tr("Picture B") : tr("Picture A"));
  setAccessibleDescription(
      tr("Tab goes to the next handle, arrow keys move it by 1 px, with Shift by 0.1, with Ctrl by 10"));
}

const Station& PictureView::shown_station() const {
  return shows_snapshot() ? snapshot_->shown() : document_.layout().stations[static_cast<std::size_t>(station())];
}

void PictureView::set_snapshot(std::shared_ptr<const Snapshot> snapshot) {
  snapshot_ = std::move(snapshot);
  refresh();
}

void PictureView::set_range(std::optional<std::pair<double, double>> range) {
  range_ = range;
  refresh();
}

/// From what is shown to the result of the step whose reference is shown.
std::optional<Map> PictureView::to_reference_result() const {
  const Snapshot::Reference& of = *snapshot_->reference;
  if (reference()) return Map(scaling(of.scale, of.scale));
  const Layout& layout = document_.layout();
  const auto made = static_cast<std::size_t>(of.step) + 1;
  if (made >= layout.stations.size()) return std::nullopt;
  if (!layout.stations[made].problem) return map_between(layout, station(), static_cast<int>(made));
  const auto* fit = selected_fit(document_);
  constexpr int least = 3;
  if (!fit || station() > of.step || std::ranges::count_if(fit->pairs, &PointPair::counts) < least) return std::nullopt;
  const auto map = preliminary_map(*fit);
  return map ? std::optional(map->after(map_between(layout, station(), of.step))) : std::nullopt;
}

std::optional<Map> PictureView::map_to(const PictureView& other) const {
  if (!shows_snapshot() && !other.shows_snapshot()) return map_between(document_.layout(), station(), other.station());
  if (snapshot_->reference) {
    const auto here = to_reference_result(), there = other.to_reference_result();
    return here && there ? std::optional(there->inverse().after(*here)) : std::nullopt;
  }
  if (!snapshot_->source || !document_.source() || snapshot_->source != document_.source()->pixels) return Map();
  const auto to_source = [this](const PictureView& view) {
    return view.shows_snapshot() ? map_between(snapshot_->layout, snapshot_->station, 0)
                                 : map_between(document_.layout(), view.station(), 0);
  };
  return to_source(other).inverse().after(to_source(*this));
}

bool PictureView::mix_is_carried() const {
  if (snapshot_ && snapshot_->reference) {
    const int made = snapshot_->reference->step + 1;
    return snapshot_->reference->scale != 1 || station() != made;
  }
  const auto& stations = document_.layout().stations;
  const Size a = snapshot_ ? snapshot_->shown().size : stations[static_cast<std::size_t>(document_.station_a())].size;
  return a != stations[static_cast<std::size_t>(station())].size;
}

void PictureView::set_distortion_map(DistortionMap map) {
  distortion_map_ = map;
  distortion_layer_of_.reset();
  redraw();
}

const std::optional<DistortionLayer>& PictureView::distortion_layer() {
  const std::pair<quint64, int> now{document_.revision(), station()};
  if (distortion_layer_of_ != now) {
    no_distortion_.clear();
    distortion_layer_ = DistortionLayer::of(distortion_map_, document_, station(), &no_distortion_);
    distortion_layer_of_ = now;
  }
  return distortion_layer_;
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
  // Beside a reference stands what its step gets, or what it makes.
  if (snapshot_ && snapshot_->reference)
    return document_.station_of_tile(snapshot_->reference->step + (snapshot_->in_b ? 0 : 1));
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
    constexpr int ruler = drawing::ruler_thickness;
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
  request.source = shows_snapshot() ? snapshot_->source : document_.source()->pixels;
  request.run_start = shown_station().run_start;
  if (request.run_start > 0) request.pictures = shows_snapshot() ? snapshot_->pictures : document_.pictures();
  request.resampling = shows_snapshot() ? snapshot_->resampling : document_.chain().resampling;
  request.revision = document_.revision();
  request.range = reference() ? snapshot_->range : range_;
  const auto plan = [&](double left, double top, double step, Size part) {
    const Layout& layout = shows_snapshot() ? snapshot_->layout : document_.layout();
    return plan_for_view(layout, shows_snapshot() ? snapshot_->station : station(),
                         Map(translation(left, top) * scaling(step, step)), part);
  };
  if (dragging_handle_ && selected_) {
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
    const Layout& layout = snapshot_ ? snapshot_->layout : document_.layout();
    const int a = snapshot_ ? snapshot_->station : document_.station_a();
    request.mix = mix_;
    request.other_range = snapshot_ && snapshot_->reference ? snapshot_->range : range_;
    request.other_source = snapshot_ ? snapshot_->source : request.source;
    request.other_run_start = layout.stations[static_cast<std::size_t>(a)].run_start;
    if (request.other_run_start > 0) request.other_pictures = snapshot_ ? snapshot_->pictures : document_.pictures();
    Map carried;
    if (mix_is_carried() && !snapshot_) carried = map_between(layout, station(), a);
    if (mix_is_carried() && snapshot_ && snapshot_->source == request.source)
      carried = map_between(snapshot_->layout, 0, a).after(map_between(document_.layout(), station(), 0));
    if (mix_is_carried() && snapshot_ && snapshot_->reference)
      if (const auto to = to_reference_result())
        carried = Map(scaling(1 / snapshot_->reference->scale, 1 / snapshot_->reference->scale)).after(*to);
    request.other = plan_for_view(
        layout, a, carried.after(Map(translation(request.left, request.top) * scaling(request.step, request.step))),
        part);
  }
  const bool moving = document_.session().dragging() || (dragged_ && !dragging_handle_) || settle_.isActive();
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

}  // namespace fexel

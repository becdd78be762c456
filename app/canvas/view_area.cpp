#include "app/canvas/view_area.h"

#include "app/document/marks_layer.h"

#include <QApplication>
#include <QButtonGroup>
#include <QComboBox>
#include <QElapsedTimer>
#include <QEventLoop>
#include <QFrame>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QTimer>
#include <QVBoxLayout>
#include <array>

#include "app/canvas/drawing.h"
#include "app/compare/proof_sheet.h"
#include "app/pairs/placing.h"
#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

constexpr int curtain_grip = 12, split_grip = 6;
constexpr int gap = 2;      // between the pictures, side by side
constexpr int least = 160;  // of a picture's width, side by side
constexpr int blink_ms = 600;

}  // namespace

Divider::Divider(QWidget* parent) : QWidget(parent) {
  setCursor(Qt::SplitHCursor);
  setFocusPolicy(Qt::StrongFocus);
  setAccessibleName(tr("Line between A and B"));
  setAccessibleDescription(tr("The left and right arrow keys move it"));
}

void Divider::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  const double middle = width() / 2.0;
  if (width() < curtain_grip) {
    painter.setPen(QPen(hasFocus() ? theme().teal : theme().line, 2));
    painter.drawLine(QPointF(middle, 0), QPointF(middle, height()));
    return;
  }
  painter.setPen(QPen(Qt::white, 4));
  painter.drawLine(QPointF(middle, 0), QPointF(middle, height()));
  painter.setPen(QPen(hasFocus() ? theme().teal : QColor(0x23282B), 2));
  painter.drawLine(QPointF(middle, 0), QPointF(middle, height()));
}

void Divider::mouseMoveEvent(QMouseEvent* event) {
  if (event->buttons() & Qt::LeftButton) Q_EMIT moved(mapToParent(event->position().toPoint()).x());
}

void Divider::keyPressEvent(QKeyEvent* event) {
  if (event->key() != Qt::Key_Left && event->key() != Qt::Key_Right) {
    QWidget::keyPressEvent(event);
    return;
  }
  const int by = event->modifiers() & Qt::ControlModifier ? 50 : event->modifiers() & Qt::ShiftModifier ? 1 : 10;
  Q_EMIT moved(x() + width() / 2 + (event->key() == Qt::Key_Left ? -by : by));
}

ViewArea::ViewArea(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  // Long because it lays the page out, from top to bottom.
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  auto* bar = new QWidget;
  bar->setFixedHeight(32);
  auto* row = new QHBoxLayout(bar);
  row->setContentsMargins(12, 2, 12, 2);
  modes_ = new QButtonGroup(this);
  const std::pair<QString, QString> modes[] = {
      {tr("One"), tr("One picture; the badge in its corner changes between A and B")},
      {tr("Side by side"), tr("A and B side by side, with linked pan and zoom")},
      {tr("Curtain"), tr("A left of a line that can be dragged, B right of it")},
      {tr("Blink"), tr("A and B by turns; hold X in the other ways of looking")},
      {tr("Difference"), tr("B minus A, in grey levels about a mid grey")},
      {tr("Tint"), tr("A and B in two hues that cancel where they agree")}};
  int id = 0;
  for (const auto& [name, purpose] : modes) {
    auto* button = new QPushButton(name);
    button->setCheckable(true);
    button->setProperty("mode", true);
    button->setAccessibleName(tr("View: %1").arg(name));
    button->setToolTip(purpose);
    modes_->addButton(button, id++);
    row->addWidget(button);
  }
  row->addStretch(1);
  keep_ = new QPushButton(tr("Keep"));
  keep_->setCheckable(true);
  keep_->setProperty("mode", true);
  keep_->setAccessibleName(tr("Keep what B shows, as A"));
  keep_->setToolTip(tr("Keep what B shows now as A (K), to lay what comes after beside or over it"));
  connect(keep_, &QPushButton::clicked, this, &ViewArea::keep);
  row->addWidget(keep_);
  range_button_ = new QPushButton;
  range_button_->setProperty("mode", true);
  range_button_->setToolTip(tr("Which samples are shown as black and as white; the data stay as they are"));
  range_button_->setCheckable(true);
  connect(range_button_, &QPushButton::clicked, this, &ViewArea::show_range_sheet);
  row->addWidget(range_button_);
  row->addSpacing(8);
  distortion_ = new QComboBox;
  distortion_->setAccessibleName(tr("Map over the picture"));
  distortion_->setToolTip(tr("What the rectification cost, place by place"));
  distortion_->addItems(
      {tr("no map"), tr("map: detail"), tr("map: picking error"), tr("map: off the plane"), tr("map: ± of pairs")});
  connect(distortion_, &QComboBox::activated, this,
          [this](int row) { set_distortion_map(static_cast<DistortionMap>(row)); });
  row->addWidget(distortion_);
  const auto offer_maps = [this] {
    distortion_->setVisible(std::ranges::any_of(document_.chain().steps, [](const Step& step) {
      return std::holds_alternative<RectifyStep>(step.kind) || std::holds_alternative<FitStep>(step.kind);
    }));
  };
  connect(&document_, &Document::changed, distortion_, [this, offer_maps] {
    offer_maps();
    fit_bar();
  });
  offer_maps();
  row->addSpacing(8);
  zoom_ = new QLabel;
  zoom_->setAccessibleName(tr("Zoom"));
  row->addWidget(zoom_);
  column->addWidget(bar);
  stage_ = new QWidget;
  stage_->setMinimumSize(2 * least + gap, 120);
  stage_->installEventFilter(this);
  b_ = new PictureView(document, true, stage_);
  a_ = new PictureView(document, false, stage_);
  divider_ = new Divider(stage_);
  column->addWidget(stage_, 1);
  proof_ = new ProofSheet(document, this);
  connect(proof_, &ProofSheet::closed, this, [this] { active()->setFocus(); });
  connect(divider_, &Divider::moved, this, [this](int x) {
    const double share = double(x) / std::max(1, stage_->width());
    (mode_ == Mode::curtain ? curtain_ : split_) = std::clamp(share, 0.0, 1.0);
    arrange();
  });
  blink_.setInterval(blink_ms);
  connect(&blink_, &QTimer::timeout, this, &ViewArea::blink);
  connect(modes_, &QButtonGroup::idClicked, this, [this](int chosen) { set_mode(static_cast<Mode>(chosen)); });
  for (PictureView* view : {a_, b_}) {
    connect(view, &PictureView::looked, this, [this](PictureView* from) {
      link(from);
      show_zoom();
    });
    connect(view, &PictureView::answered, this, [this, view] {
      placing_->end();
      (view == a_ ? b_ : a_)->end_asking();
    });
    connect(view, &PictureView::other_wanted, this, &ViewArea::show_other);
    connect(view, &PictureView::badge_clicked, this, &ViewArea::flip);
    connect(view, &PictureView::shown, this, &ViewArea::show_zoom);
  }
  setTabOrder(a_, divider_);
  setTabOrder(divider_, b_);
  build_range_sheet();
  placing_ = new PairPlacing(document, a_, b_, this);
  connect(&document_.session(), &Session::reference_changed, this, &ViewArea::arrange_reference);
  connect(&document_.session(), &Session::placing_wanted, this, &ViewArea::place_pairs);
  connect(&document_, &Document::selection_changed, this, &ViewArea::arrange_reference);
  connect(&document_, &Document::changed, this, &ViewArea::arrange_reference);
  connect(&document_, &Document::opened, this, &ViewArea::choose_range);
  set_range(std::nullopt);
  set_mode(Mode::side_by_side);
}

bool ViewArea::eventFilter(QObject* watched, QEvent* event) {
  if (watched == stage_ && event->type() == QEvent::Resize) arrange();
  return QWidget::eventFilter(watched, event);
}

/// A lies over B; the curtain is A's mask, so that either side of it is a whole picture with its own handles.
void ViewArea::arrange() {
  fit_bar();
  const QRect all(QPoint(0, 0), stage_->size());
  const int width = all.width();
  int at = 0;
  a_->clearMask();
  if (mode_ == Mode::side_by_side) {
    at = std::clamp(static_cast<int>(split_ * width + 0.5), least, std::max(least, width - least));
    a_->setGeometry(0, 0, at - gap / 2, all.height());
    b_->setGeometry(at + gap / 2, 0, width - at - gap / 2, all.height());
    // One picture on both sides has one scale, wherever the divider is.
    const QSize room(std::min(a_->width(), b_->width()), all.height());
    a_->set_room(room);
    b_->set_room(room);
  } else {
    a_->set_room({});
    b_->set_room({});
    a_->setGeometry(all);
    b_->setGeometry(all);
    if (mode_ == Mode::curtain) {
      at = std::clamp(static_cast<int>(curtain_ * width + 0.5), 0, width);
      a_->setMask(QRegion(0, 0, std::max(1, at), all.height()));
    }
  }
  divider_->setVisible(mode_ == Mode::side_by_side || mode_ == Mode::curtain);
  const int grip = mode_ == Mode::curtain ? curtain_grip : split_grip;
  divider_->setGeometry(at - grip / 2, 0, grip, all.height());
  divider_->raise();
  proof_->setGeometry(rect());
}

void ViewArea::open_proof_sheet() {
  if (!document_.source()) return;
  const auto& pointer = document_.session().pointer();
  const PictureView* view = active();
  const int station = pointer ? pointer->station : view->station();
  const Point at = pointer ? pointer->point : point_of(view->centre());
  const auto source = map_between(document_.layout(), station, 0).forward(at);
  proof_->setGeometry(rect());
  proof_->open_at(source.value_or(document_.shape().size.middle()), std::max(4.0, b_->zoom()));
}

std::optional<Point> ViewArea::source_in_middle() const {
  const PictureView* view = active();
  return map_between(document_.layout(), view->station(), 0).forward(point_of(view->centre()));
}

PictureView* ViewArea::active() const {
  if (!both()) return b_;
  return b_->hasFocus() ? b_ : a_;
}

void ViewArea::set_mode(Mode mode) {
  mode_ = mode;
  // The source and a reference lie on each other by the result alone.
  if (reference_ && reference_->in_b && mode != Mode::side_by_side && mode != Mode::one)
    document_.session().show_reference(Session::ReferenceView::compare);
  modes_->button(static_cast<int>(mode))->setChecked(true);
  blink_.stop();
  if (mode == Mode::blink) blink_.start();
  a_->setVisible(both());
  b_->set_is_b(mode != Mode::one || one_shows_b_);
  b_->set_badge_right(mode == Mode::curtain);
  arrange();
  b_->set_mix(mode == Mode::difference ? Mix::difference : mode == Mode::tint ? Mix::tint : Mix::none);
  if (mode == Mode::side_by_side && b_->is_fitted())
    a_->fit();
  else
    link(b_);
  a_->refresh();
  show_zoom();
}

void ViewArea::set_distortion_map(DistortionMap map) {
  distortion_->setCurrentIndex(static_cast<int>(map));
  a_->set_distortion_map(DistortionMap::none);
  b_->set_distortion_map(map);
}

void ViewArea::choose_range() {
  const auto range = document_.source() ? document_.source()->range : std::nullopt;
  const bool wide = range && range->second > range->first;
  set_range(wide ? range : std::nullopt, wide);
}

void ViewArea::set_range(std::optional<std::pair<double, double>> range, bool chosen) {
  range_ = range;
  a_->set_range(range);
  b_->set_range(range);
  document_.marks_layer().set_range(range);
  const auto number = [](double v) { return number_shown(short_number(v, 5)); };
  range_button_->setText(!range   ? tr("Full range")
                         : chosen ? tr("Range of the data %1 – %2").arg(number(range->first), number(range->second))
                                  : tr("Range %1 – %2").arg(number(range->first), number(range->second)));
  range_button_->setAccessibleName(tr("Display range: %1").arg(range_button_->text()));
  black_->show_value(range ? range->first : 0);
  white_->show_value(range ? range->second : document_.source() ? document_.source()->pixels->base().largest() : 1);
}

std::optional<std::pair<double, double>> ViewArea::range_of_shown() const {
  if (!document_.source()) return std::nullopt;
  const Pyramid& source = *document_.source()->pixels;
  // A level of a few hundred pixels tells the range as well, and is there at once.
  const Image& small = source.level(source.level_for(std::max(source.base().width(), source.base().height()) / 512.0));
  std::vector<double> values;
  visit_depth(small.depth(), [&](auto sample) {
    for (int band = 0; band < std::min(small.bands(), 3); ++band)
      for (int y = 0; y < small.height(); ++y)
        for (int x = 0; x < small.width(); ++x)
          if (const auto v = static_cast<double>(small.row<decltype(sample)>(band, y)[x]);
              std::isfinite(v) && small.valid(x, y))
            values.push_back(v);
  });
  if (values.empty()) return std::nullopt;
  const auto rank = [&](double share) {
    const auto at = values.begin() + static_cast<std::ptrdiff_t>(share * static_cast<double>(values.size() - 1));
    std::ranges::nth_element(values, at);
    return *at;
  };
  const double low = rank(0.005), high = rank(0.995);
  return high > low ? std::optional(std::pair(low, high)) : std::nullopt;
}

void ViewArea::build_range_sheet() {
  range_sheet_ = new QFrame(this);
  range_sheet_->setFrameShape(QFrame::StyledPanel);
  range_sheet_->setAutoFillBackground(true);
  auto* grid = new QGridLayout(range_sheet_);
  black_ = new fields::Number(tr("Shown as black"), -1e30, 1e30, 6);
  white_ = new fields::Number(tr("Shown as white"), -1e30, 1e30, 6);
  grid->addWidget(fields::label_for(tr("black"), black_), 0, 0);
  grid->addWidget(black_, 0, 1);
  grid->addWidget(fields::label_for(tr("white"), white_), 1, 0);
  grid->addWidget(white_, 1, 1);
  auto* says = fields::sentence(tr("What the range does"));
  const auto explain = [says](bool empty) {
    fields::say(says, empty ? tr("White is to be more than black.") : tr("This changes what is shown, never the data."),
                empty);
  };
  const auto take = [this, explain] {
    const bool empty = black_->value() >= white_->value();
    explain(empty);
    if (!empty) set_range(std::pair(black_->value(), white_->value()));
  };
  connect(black_, &QDoubleSpinBox::valueChanged, this, take);
  connect(white_, &QDoubleSpinBox::valueChanged, this, take);
  auto* from_picture = new QPushButton(tr("From the picture"));
  from_picture->setToolTip(tr("All but the darkest and brightest half percent"));
  auto* full = new QPushButton(tr("Full range of the depth"));
  for (QPushButton* button : {from_picture, full}) button->setAccessibleName(button->text());
  grid->addWidget(from_picture, 2, 0, 1, 2);
  grid->addWidget(full, 3, 0, 1, 2);
  connect(from_picture, &QPushButton::clicked, this, [this] {
    if (const auto range = range_of_shown()) set_range(range);
  });
  connect(full, &QPushButton::clicked, this, [this] { set_range(std::nullopt); });
  grid->addWidget(says, 4, 0, 1, 2);
  explain(false);
  range_sheet_->setFixedWidth(230);
  range_sheet_->hide();
}

void ViewArea::show_range_sheet(bool on) {
  range_button_->setChecked(on);
  range_sheet_->setVisible(on);
  if (!on) return;
  range_sheet_->adjustSize();
  const QPoint corner = range_button_->mapTo(this, QPoint(range_button_->width(), range_button_->height() + 4));
  range_sheet_->move(corner.x() - range_sheet_->width(), corner.y());
  range_sheet_->raise();
  black_->setFocus();
  black_->selectAll();
}

void ViewArea::blink() {
  if (a_->mask().isEmpty())
    a_->setMask(QRegion(0, 0, 1, 1));
  else
    a_->clearMask();
}

void ViewArea::show_other(bool other) {
  if (mode_ == Mode::curtain) {
    other ? a_->clearMask() : arrange();
    return;
  }
  if (mode_ != Mode::one) return;
  b_->set_is_b(one_shows_b_ != other);
  b_->refresh();
}

void ViewArea::flip() {
  if (mode_ != Mode::one) return;
  one_shows_b_ = !one_shows_b_;
  b_->set_is_b(one_shows_b_);
  b_->refresh();
}

void ViewArea::ask(const std::function<void(PictureView&)>& one) {
  // The one with the keyboard last, which keeps it. A reference is none of the chain's pictures.
  PictureView* last = active();
  if (last->reference()) last = last == a_ ? b_ : a_;
  for (PictureView* view : {a_, b_})
    if (view != last && view->isVisible() && !view->reference()) one(*view);
  if (!last->reference()) one(*last);
}

void ViewArea::ask_for_measurement(const std::string& word) {
  ask([&](PictureView& view) { view.begin_measurement(word); });
}

void ViewArea::ask_for_line(const QString& hint, int to, const std::function<void(Point, Point)>& take) {
  ask([&](PictureView& view) { view.ask_for_line(hint, to, take); });
}

void ViewArea::ask_for_points(const QString& hint, int to, const std::function<void(const std::vector<Point>&)>& take,
                              int count) {
  ask([&](PictureView& view) { view.ask_for_points(hint, to, take, count); });
}

void ViewArea::link(PictureView* from) {
  if (!both()) return;
  PictureView* to = from == a_ ? b_ : a_;
  const auto map = from->map_to(*to);
  if (!map) return;
  const Point centre{from->centre().x(), from->centre().y()};
  const auto at = map->forward(centre);
  const auto scale = map->scale_at(centre);
  if (!at || !scale) return;
  if (!(*scale > 1e-6) || !(*scale < 1e6)) return;
  to->look_at({at->x, at->y}, from->zoom() / *scale);
}

void ViewArea::fit() {
  a_->fit();
  b_->fit();
  show_zoom();
}

QPixmap ViewArea::drawn(int detail) {
  constexpr int longest_wait = 60000;  // ms
  constexpr double max_pixels = 50e6;  // of large screens that would be gigabytes
  const double pixels = double(stage_->width()) * stage_->height() * devicePixelRatioF() * devicePixelRatioF();
  while (detail > 1 && pixels * detail * detail > max_pixels) --detail;
  const auto in_detail = [this](double times) {
    for (PictureView* view : {a_, b_})
      if (view->isVisible()) view->set_detail(times);
  };
  const auto ready = [this] {
    return std::ranges::all_of(std::array{a_, b_}, [](PictureView* v) { return !v->isVisible() || v->settled(); });
  };
  in_detail(detail);
  QEventLoop waiting;
  QElapsedTimer clock;
  QTimer poll;
  connect(&poll, &QTimer::timeout, &waiting, [&] {
    if (ready() || clock.elapsed() > longest_wait) waiting.quit();
  });
  clock.start();
  poll.start(10);
  QApplication::setOverrideCursor(Qt::WaitCursor);
  if (!ready()) waiting.exec(QEventLoop::ExcludeUserInputEvents);
  QApplication::restoreOverrideCursor();
  const bool made = ready();
  QPixmap out(stage_->size() * (devicePixelRatioF() * detail));
  out.setDevicePixelRatio(devicePixelRatioF() * detail);
  stage_->render(&out);
  in_detail(1);
  if (!made)
    throw input_error("The figure's pictures were not made within a minute.", {},
                      "Try again when nothing else is worked out, or make the window smaller.");
  return out;
}

void ViewArea::actual_pixels() {
  PictureView* view = active();
  view->look_at(view->centre(), 1 / devicePixelRatioF());
  link(view);
  show_zoom();
}

}  // namespace fexel

#pragma once
/// One station of the chain as a picture, with what is drawn over it and handles that can be moved.
#include <QElapsedTimer>
#include <QTimer>
#include <QWidget>

#include "app/canvas/cost_map.h"
#include "app/compare/kept.h"
#include "app/document/document.h"
#include "app/document/renderer.h"
#include "app/steps/step_handles.h"

namespace fexel {

/// A point that a hand can move: one of the selected step's, an end of a gauge, or one of the selected mask's.
struct Handle {
  enum class Kind { step, result, gauge_end, mask };
  Kind kind;
  int owner;   ///< step, gauge or mask
  int index;   ///< the handle of the step, of its result, or of the mask; or end 0 or 1, 2 for the gauge's middle
  QPointF at;  ///< in this view's station
  QString name = {};
  bool of_step() const { return kind == Kind::step || kind == Kind::result; }
  bool operator==(const Handle& o) const { return kind == o.kind && owner == o.owner && index == o.index; }
};

inline QPointF point_of(Point p) {
  return {p.x, p.y};
}
inline Point point_of(QPointF p) {
  return {p.x(), p.y()};
}

class PictureView : public QWidget {
  Q_OBJECT
 public:
  PictureView(Document& document, bool is_b, QWidget* parent = nullptr);

  int station() const;
  /// With a mix the picture of B shows A too: as it lies where both stations have one size, else carried to B's
  /// place.
  void set_mix(Mix mix);
  Mix mix() const { return mix_; }
  bool mix_is_carried() const;
  /// Lays a map of what the rectification cost over the picture, where the station has one.
  void set_cost_map(CostMap map);
  const std::optional<CostLayer>& cost_layer();
  /// Where the badge stands: at the left, or at the right where something lies over the left.
  void set_badge_right(bool right);
  /// What A shows instead of its station, in both views: B mixes it in.
  void set_kept(std::shared_ptr<const Kept> kept);
  /// How low and high samples are shown as black and white; without it the depth's range.
  void set_range(std::optional<std::pair<double, double>> range);
  /// The station's size and pixels, or those of what is kept.
  const Station& shown_station() const;
  /// From what this view shows to what `other` shows: through the source where both come from one, else as they lie.
  Map map_to(const PictureView& other) const;
  bool is_b() const { return is_b_; }
  void set_is_b(bool b);

  /// The view transform, both ways.
  QPointF to_widget(QPointF station) const;
  QPointF to_station(QPointF widget) const;
  double zoom() const { return zoom_; }
  QPointF centre() const { return centre_; }
  /// What fit() may fill, where that is less than the view; an invalid size for all of it.
  void set_room(QSize room);
  void fit();
  void look_at(QPointF centre, double zoom);
  bool is_fitted() const { return fitted_; }

  /// Asks for a new gauge: the next drag, or Return, lays it.
  void begin_gauge();
  /// Asks for a line: the next drag is handed to `take`, in the coordinates of station `to`.
  void begin_line(const QString& hint, int to, std::function<void(Point, Point)> take);
  /// What was asked for is wanted no more.
  void end_asking();
  /// Asks for corners: each click sets one, Return, a double click or a click on the first one closes.
  void begin_corners(const QString& hint, int to, TakePoints take);
  /// Removes what a handle stands for: a gauge, or a mask's corner or the mask. False where nothing is to be removed.
  bool remove_handle(const Handle& handle);
  const std::vector<Handle>& handles() const { return handles_; }
  std::optional<Handle> handle_near(QPointF widget) const;
  /// The gauge whose line is under a place of the widget; -1 for none.
  int gauge_near(QPointF widget) const;
  std::optional<Handle> selected_handle() const { return selected_; }
  void select_handle(const Handle& handle);
  /// The station's point under the linked pointer of the other view.
  void refresh();
  /// Has the picture drawn with so many times the screen's pixels, as figures need; 1 for the screen.
  void set_detail(double times);
  /// Whether what is asked for is there.
  bool settled() const { return !asked_ || (image_.serial == asked_->serial && asked_->quality == Quality::final); }
  quint64 shown_revision() const { return image_.revision; }
  /// The samples of what is shown, where it is zoomed in so far that they are few.
  const std::shared_ptr<const Image>& samples() const { return image_.samples; }
  QSize sizeHint() const override { return {480, 360}; }

 Q_SIGNALS:
  void looked(fexel::PictureView* view);  ///< panned or zoomed by hand
  void shown(quint64 revision);           ///< a picture of this revision came to the screen
  void other_wanted(bool on);             ///< the blink key
  void badge_clicked();
  void menu_wanted(QPoint global);
  void answered();  ///< what was asked for was laid, or left

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;
  void keyReleaseEvent(QKeyEvent*) override;
  void leaveEvent(QEvent*) override;
  void contextMenuEvent(QContextMenuEvent*) override;
  void focusInEvent(QFocusEvent*) override;
  void focusOutEvent(QFocusEvent*) override;
  bool focusNextPrevChild(bool next) override;

 private:
  enum class Drag { none, pan, handle, gauge };
  /// Masks are drawn while they are at hand: with the source, or a step that matches, selected.
  bool shows_masks() const;
  bool shows_kept() const { return kept_ && !is_b_; }
  void ask_for_picture();
  /// Draws the layer anew with the next frame.
  void redraw();
  void paint_layer();
  /// Where the other view's pointer is marked; empty when it is not.
  QRectF cross() const;
  void move_cross();
  void rebuild_handles();
  StepFigure result_figure(int step) const;  // nothing where the step cannot be done
  /// The standard uncertainty, in pixels of station `there`, of what is placed by hand at the zoom of now: half a
  /// pixel, or half a pixel of the screen where that is more.
  double placed_to(QPointF at, int there) const;
  /// Where a gauge lies in this view's station; nothing beyond the horizon.
  std::optional<QLineF> gauge_line(int g) const;
  void move_handle(const Handle& handle, QPointF to);
  void paint_picture(QPainter& painter);
  void paint_over(QPainter& painter);
  void paint_kept(QPainter& painter);
  void paint_step(QPainter& painter);
  void paint_gauges(QPainter& painter, const QColor& colour) const;
  /// A letter as the map from the source lays it: mirrored and turned pictures tell themselves apart by it.
  void paint_hand(QPainter& painter, QPointF at) const;
  QRectF paint_legend(QPainter& painter, QPointF corner);
  void paint_values(QPainter& painter, const QRectF& visible);
  void finish_drag();
  void lay_gauge(QPointF from, QPointF to);
  void close_corners();
  /// A new corner on the selected polygon's side, where that runs near; false where none does.
  bool set_mask_corner(QPointF at_widget);
  void paint_masks(QPainter& painter);
  /// Arrows of what still moves, and by how much they are enlarged; 0 where there are none here.
  double paint_still_moving(QPainter& painter);

  Document& document_;
  Renderer renderer_;
  bool is_b_;
  Mix mix_ = Mix::none;
  std::shared_ptr<const Kept> kept_;
  QSize room_;
  std::optional<std::pair<double, double>> range_;
  bool badge_right_ = false;
  CostMap cost_map_ = CostMap::none;
  std::optional<CostLayer> cost_layer_;
  QString no_cost_;                                       ///< why there is no map here
  std::optional<std::pair<quint64, int>> cost_layer_of_;  ///< revision and station
  double zoom_ = 1;
  QPointF centre_;
  bool fitted_ = true;
  double detail_ = 1;
  double ratio() const { return devicePixelRatioF() * detail_; }  // pixels that are drawn for one of the widget's
  StationImage image_;
  StationImage loupe_;
  std::optional<RenderRequest> asked_;  ///< the newest
  quint64 alike_since_ = 0;             ///< the first of the requests for that picture, in whatever quality
  quint64 serial_ = 0;
  QImage layer_;  ///< all but the other view's pointer
  bool layer_stale_ = true;
  QRectF painted_cross_;
  std::vector<Handle> handles_;
  std::optional<Handle> selected_;
  int drag_began_ = 0;               ///< the place in the undo stack when the hand took hold
  std::optional<StepKind> grabbed_;  ///< the step as it was when the hand took hold: what a drag makes is told from it
  Drag drag_ = Drag::none;
  QPointF drag_start_, drag_offset_, pan_centre_, gauge_start_, gauge_end_;
  bool laying_gauge_ = false;
  QString line_hint_;  ///< a line is wanted, and not a gauge
  int line_station_ = 0;
  std::function<void(Point, Point)> take_line_;
  TakePoints take_corners_;
  QPolygonF corners_;  ///< clicked so far
  QPointF hover_;      ///< where the pointer was last, in the widget
  bool space_held_ = false;
  bool settle_pending_ = false;
  QTimer settle_;
  std::optional<quint64> announced_;
};

}  // namespace fexel

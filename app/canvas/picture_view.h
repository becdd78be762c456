#pragma once
/// One station of the chain as a picture: where it lies in the widget, its pixels, and what the overlays and the tool
/// in use draw over it.
#include <QElapsedTimer>
#include <QTimer>
#include <QWidget>

#include "app/canvas/handle.h"
#include "app/canvas/overlays/distortion_map.h"
#include "app/canvas/overlays/overlay.h"
#include "app/canvas/tools/tools.h"
#include "app/compare/snapshot.h"
#include "app/document/document.h"
#include "app/document/renderer.h"

namespace fexel {

class PictureView : public QWidget {
  Q_OBJECT
 public:
  PictureView(Document& document, bool is_b, QWidget* parent = nullptr);

  Document& document() const { return document_; }
  int station() const;
  /// With a mix the picture of B shows A too: as it lies where both stations have one size, else carried to B's
  /// place.
  void set_mix(Mix mix);
  Mix mix() const { return mix_; }
  bool mix_is_carried() const;
  /// Lays a map of what the rectification cost over the picture, where the station has one.
  void set_distortion_map(DistortionMap map);
  const std::optional<DistortionLayer>& distortion_layer();
  /// Where the badge stands: at the left, or at the right where something lies over the left.
  void set_badge_right(bool right);
  /// What A shows instead of its station, in both views: B mixes it in.
  void set_snapshot(std::shared_ptr<const Snapshot> snapshot);
  /// How low and high samples are shown as black and white; without it the depth's range.
  void set_range(std::optional<std::pair<double, double>> range);
  /// The station's size and pixels, or those of what is kept.
  const Station& shown_station() const;
  /// From what this view shows to what `other` shows: through the source where both come from one, else as they lie.
  /// Nothing between a source and a reference whose pairs do not yet say how they lie.
  std::optional<Map> map_to(const PictureView& other) const;
  /// The reference, where it is shown here; null else.
  const Snapshot* reference() const { return shows_snapshot() && snapshot_->reference ? snapshot_.get() : nullptr; }
  const std::shared_ptr<const Snapshot>& snapshot() const { return snapshot_; }
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

  /// Takes a tool up: the next drag or clicks are its.
  void use(std::unique_ptr<Tool> tool);
  /// Places a new measurement of this kind by hand.
  void begin_measurement(const std::string& word);
  /// Asks for a line or points; they come in the coordinates of station `to`.
  void ask_for_line(const QString& hint, int to, std::function<void(Point, Point)> take);
  void ask_for_points(const QString& hint, int to, std::function<void(const std::vector<Point>&)> take, int count = 0);
  /// Drops the tool.
  void end_asking();
  /// Removes what a handle stands for: a measurement, or a mask's corner or the mask. False where nothing is to be
  /// removed.
  bool remove_handle(const Handle& handle);
  void move_handle(const Handle& handle, QPointF to);
  const std::vector<Handle>& handles() const { return handles_; }
  std::optional<Handle> handle_near(QPointF widget) const;
  /// The measurement under a place of the widget; -1 for none.
  int measurement_near(QPointF widget) const;
  std::optional<Handle> selected_handle() const { return selected_; }
  void select_handle(const Handle& handle);
  /// The handle that is being dragged.
  std::optional<Handle> dragged_handle() const { return dragging_handle_ ? selected_ : std::nullopt; }
  const StationImage& loupe() const { return loupe_; }
  /// The points of a measurement in this view's station; nothing where one lies beyond the horizon.
  std::optional<QPolygonF> measurement_points(int index) const;
  /// The standard uncertainty, in pixels of station `there`, of what is placed by hand at the zoom of now: half a
  /// pixel, or half a pixel of the screen where that is more.
  double placed_to(QPointF at, int there) const;
  /// Where a click means: with Ctrl held the edge or corner near it.
  QPointF clicked(QPointF widget);
  /// Why there is no distortion map here; empty where there is one, or none is wanted.
  const QString& no_distortion() const { return no_distortion_; }
  /// Draws the layer anew with the next frame.
  void redraw();
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
  void return_pressed();                  ///< while no tool wanted it
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
  bool shows_snapshot() const { return snapshot_ && snapshot_->in_b == is_b_; }
  std::optional<Map> to_reference_result() const;
  void ask_for_picture();
  void paint_layer();
  /// Where the other view's pointer is marked; empty when it is not.
  QRectF cross() const;
  void move_cross();
  void rebuild_handles();
  Overlay& overlay_of(const Handle& handle) const;
  void paint_picture(QPainter& painter);
  void paint_over(QPainter& painter);
  void paint_handles(QPainter& painter);
  void paint_badge(QPainter& painter);
  void paint_remark(QPainter& painter, bool at_top);
  void paint_snapshot(QPainter& painter);
  void paint_focus(QPainter& painter);
  /// A letter as the map from the source lays it: mirrored and rotated pictures can be told by it.
  void paint_orientation(QPainter& painter, QPointF at) const;
  QRectF paint_legend(QPainter& painter, QPointF corner);
  void paint_values(QPainter& painter, const QRectF& visible);
  /// Runs an event through a tool, and drops the tool when it is done.
  void run(std::unique_ptr<Tool>& tool, Tool::State state);
  void cancel();

  Document& document_;
  Renderer renderer_;
  bool is_b_;
  Mix mix_ = Mix::none;
  std::shared_ptr<const Snapshot> snapshot_;
  QSize room_;
  std::optional<std::pair<double, double>> range_;
  bool badge_right_ = false;
  DistortionMap distortion_map_ = DistortionMap::none;
  std::optional<DistortionLayer> distortion_layer_;
  QString no_distortion_;                                       ///< why there is no map here
  std::optional<std::pair<quint64, int>> distortion_layer_of_;  ///< revision and station
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
  std::vector<std::unique_ptr<Overlay>> overlays_;
  std::unique_ptr<Tool> wanted_;                   ///< what was asked for by a key, a menu or a page
  std::unique_ptr<Tool> dragged_;                  ///< while a button is down
  std::vector<std::pair<QPointF, double>> snaps_;  ///< places that clicks were snapped to, and how well they are known
  bool dragging_handle_ = false;
  int drag_began_ = 0;  ///< the place in the undo stack when the drag began
  bool space_held_ = false;
  QTimer settle_;
  std::optional<quint64> announced_;
};

}  // namespace fexel

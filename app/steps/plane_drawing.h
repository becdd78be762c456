#pragma once
/// A small drawing of a picture's plane in space, which can be turned by hand.
#include <Eigen/Core>
#include <QWidget>

namespace fexel {

class PlaneDrawing : public QWidget {
  Q_OBJECT
 public:
  PlaneDrawing();
  /// `distance` of the viewer in widths of the picture, 0 for very far; `aspect` is height / width.
  void show_plane(const Eigen::Matrix3d& rotation, double distance, double aspect);
  QSize sizeHint() const override { return {278, 120}; }

 Q_SIGNALS:
  void turned(double about_x, double about_y);  ///< by how many degrees more
  void held(bool on);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  Eigen::Matrix3d rotation_ = Eigen::Matrix3d::Identity();
  double distance_ = 2, aspect_ = 1;
  QPointF last_;
};

}  // namespace fexel

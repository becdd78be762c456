#pragma once
/// One tile of the rail: a station with its pictogram, its one number, its size, and where the pointer is in it.
#include <QAbstractButton>

#include "app/document/document.h"
#include "app/steps/step_ui.h"

namespace fexel {

class Tile : public QAbstractButton {
  Q_OBJECT
 public:
  static constexpr int tile_width = 188, tile_height = 78;

  Tile(Document& document, int index, QWidget* parent);
  int index() const { return index_; }
  /// Reads everything again from the document.
  void refresh();
  QString coordinates_text() const { return coordinates_; }
  void refresh_coordinates();
  /// Lets the person type another name: Return takes it, Escape leaves it, an empty one gives the step its own again.
  void rename();

 Q_SIGNALS:
  void flag_dropped(bool b, int tile);
  void renamed(const QString& name);
  void dragged(QPoint global);  ///< the hand carries the tile
  void dropped(QPoint global);
  void menu_wanted(QPoint global);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;

 private:
  QRect flag_rect(bool b) const;
  bool has_motion() const;
  QRectF motion_rect() const;
  Document& document_;
  int index_;
  QString pictogram_, title_, parameter_, size_, coordinates_;
  bool problem_ = false, off_ = false, carried_ = false;
  QPoint pressed_;
};

/// What stands on a tile: "Source", "Result", or the step's name or title.
QString tile_title(const Document& document, int tile);

}  // namespace fexel

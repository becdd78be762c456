#pragma once
/// The strip at the top: source, steps, result, and how pixels get from one to the next. Long chains scroll; the result
/// stays at the right.
#include <QWidget>

#include "app/pipeline/tile.h"

class QBoxLayout;
class QPushButton;
class QScrollArea;

namespace fexel {

class Rail : public QWidget {
  Q_OBJECT
 public:
  explicit Rail(Document& document, QWidget* parent = nullptr);
  const std::vector<Tile*>& tiles() const { return tiles_; }
  QPushButton* add_button() const { return add_; }
  /// Lets the selected step be renamed in place.
  void rename_selected();

 Q_SIGNALS:
  void menu_wanted(int tile, QPoint global);
  void palette_wanted(QPoint global, int index);  ///< the step palette, for a new step at `index`

 protected:
  void keyPressEvent(QKeyEvent*) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void rebuild();
  void refresh();
  void show_selected();
  /// Where a tile that is let go here is put in: before the step of this number (from 0), or behind the last.
  int place_at(QPoint global) const;
  void show_place(QPoint global);
  void put(int step, QPoint global);
  Document& document_;
  QScrollArea* scroll_;
  QWidget* strip_ = nullptr;
  QWidget* end_ = nullptr;   ///< the result's tile, which stays in view whatever the strip shows
  QWidget* mark_ = nullptr;  ///< where a carried tile would be put
  std::vector<Tile*> tiles_;
  QPushButton* add_ = nullptr;
};

}  // namespace fexel

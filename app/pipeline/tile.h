#pragma once
/// One tile of the rail: a station with its pictogram, its one number, its size, and where the pointer is in it.
#include <QAbstractButton>

#include "app/document/document.h"

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
  Document& document_;
  int index_;
  QString pictogram_, title_, parameter_, size_, coordinates_;
  bool problem_ = false, off_ = false, carried_ = false;
  QPoint pressed_;
};

/// What a step's tile says under its name: the one number that matters.
QString parameter_text(const Step& step, const Station& made);
/// "Rectify", "Crop", "Quarter turn".
QString step_title(const std::string& word);
/// A step as sentences name it: by its own name in quotes, or its title in small letters.
QString called(const Step& step);
/// What stands on a tile: "Source", "Result", or the step's name or title.
QString tile_title(const Document& document, int tile);
/// The words of all steps in the order of the work.
const std::vector<std::string>& steps_in_order();
/// What the step is for, in half a sentence.
QString step_purpose(const std::string& word);
/// Whether a step is what someone looks for: each of the words wanted is in its title, its purpose, or among other
/// words for it.
bool step_answers(const std::string& word, const QString& wanted);
/// "2400 × 1600 px · 0.25 mm/px".
QString size_text(const Station& station);
/// What a pixel stands for, as "0.1 mm/px".
QString pixel_text(const PixelSize& pixel);
/// What a picture stands for, as "170 × 125 mm".
QString extent_text(Size size, const PixelSize& pixel);

}  // namespace fexel

#pragma once
/// One spot under every setting of one choice, side by side; a click takes the one to use.
#include <QWidget>
#include <deque>

#include "app/document/renderer.h"
#include "app/steps/step_ui.h"

class QButtonGroup;
class QCheckBox;
class QGridLayout;
class QHBoxLayout;
class QLabel;

namespace fexel {

class Document;
class ProofSheet;

/// A setting that can be taken: the chain with it, its name, and what it keeps.
struct Proof {
  QString name, says;
  Chain chain;
  std::optional<Kernel> kernel;  ///< whose frequency response is drawn
};

/// One setting's picture.
class ProofCell : public QWidget {
  Q_OBJECT
 public:
  ProofCell(ProofSheet& sheet, Proof proof);
  const Proof& proof() const { return proof_; }
  /// Where the engine's picture is shown; empty until it has come.
  const QImage& picture() const { return drawn_.image; }
  double seconds() const { return drawn_.seconds; }
  /// Asks for the picture; false where there is none.
  bool ask();
  /// Shows the difference to another one's picture; to nothing, the picture itself.
  void compare_with(const ProofCell* reference);

 protected:
  void paintEvent(QPaintEvent*) override;
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void mouseMoveEvent(QMouseEvent*) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent*) override;
  void keyPressEvent(QKeyEvent*) override;

 private:
  QRect stage() const;
  void paint_response(QPainter& painter, QRect box) const;
  ProofSheet& sheet_;
  Proof proof_;
  Layout layout_;
  std::shared_ptr<const RunPictures> pictures_;
  Renderer renderer_;
  StationImage drawn_;
  QImage difference_;             ///< shown instead, where there is one
  std::vector<double> response_;  ///< of the kernel, from 0 to half a cycle a pixel
  QPointF corner_;                ///< of what is drawn, in the cell
  QPointF asked_corner_;
  quint64 serial_ = 0;
  bool first_ = true;
  QPointF pressed_, last_;
};

class ProofSheet : public QWidget {
  Q_OBJECT
 public:
  ProofSheet(Document& document, QWidget* parent);
  /// Shows the sheet about a place of the source, with what the selected step lets choose.
  void open_at(Point source, double zoom);
  const std::vector<ProofCell*>& cells() const { return cells_; }
  QStringList caption() const;

  Document& document() const { return document_; }
  Point spot() const { return spot_; }
  double zoom() const { return zoom_; }
  void ask_all();
  void ask_next();
  /// Moves the spot by so many screen pixels, for all cells.
  void pan(QPointF by);
  void zoom_by(double factor);
  void take(const Proof& proof);
  bool is_current(const Proof& proof) const;
  /// The cell that the others are compared with; nothing while differences are not shown.
  const ProofCell* reference() const;
  void redraw();

 Q_SIGNALS:
  void closed();
  void figure_wanted();

 protected:
  void keyPressEvent(QKeyEvent*) override;

 private:
  void build();
  std::vector<Proof> proofs() const;
  void look_at_edge();
  QStringList choices() const;
  StepVariants selected_variants() const;
  Document& document_;
  QButtonGroup* group_;
  QHBoxLayout* bar_;
  QCheckBox* differences_;
  QLabel* place_;
  QGridLayout* grid_;
  std::vector<ProofCell*> cells_;
  std::deque<ProofCell*> waiting_;
  Point spot_;
  double zoom_ = 4;
  int choice_ = 0;
};

}  // namespace fexel

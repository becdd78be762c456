#pragma once
/// What lies over a picture. Each overlay draws one kind of thing and answers for the handles that belong to it; the
/// picture view knows only this interface.
#include <QColor>
#include <QPainter>
#include <optional>
#include <vector>

#include "app/canvas/drawing.h"
#include "app/canvas/handle.h"

namespace fexel {

class Document;
class PictureView;

class Overlay {
 public:
  explicit Overlay(PictureView& view);
  Overlay(const Overlay&) = delete;
  Overlay& operator=(const Overlay&) = delete;
  virtual ~Overlay() = default;

  /// Draws what lies below the handles.
  virtual void paint(QPainter& painter) = 0;

  virtual void add_handles(std::vector<Handle>&) const {}
  virtual bool owns(const Handle&) const { return false; }
  /// `middle` is the middle of all handles of steps, which names keep away from.
  virtual void paint_handle(QPainter&, const Handle&, bool /*chosen*/, QPointF /*middle*/) const {}
  virtual void select(const Handle&) {}
  /// A drag of this handle begins.
  virtual void grab(const Handle&) {}
  /// Moves what the handle stands for; `to` is a place of the view's station.
  virtual void move(const Handle&, QPointF /*to*/) {}
  /// Removes it. False where nothing is to be removed.
  virtual bool remove(const Handle&) { return false; }
  /// A double click beside the handles. False where it means nothing here.
  virtual bool double_click(QPointF /*widget*/) { return false; }

  /// Whether it has something to draw on a reference, which is no station.
  virtual bool on_reference() const { return false; }

  /// A sentence for the lower edge of the picture.
  struct Remark {
    QString text;
    QColor colour;
  };
  virtual std::optional<Remark> remark() const { return std::nullopt; }
  /// A scale of colours for the lower right corner.
  virtual std::optional<drawing::Legend> legend() const { return std::nullopt; }

 protected:
  /// Where a point of `station` lies in the view's station; nothing beyond the horizon.
  std::optional<QPointF> here(Point p, int station) const;
  /// Where a place of the view's station lies in `station`.
  std::optional<Point> there(QPointF p, int station) const;

  PictureView& view_;
  Document& document_;
};

}  // namespace fexel

#pragma once
/// Placing pairs of control points by clicks: one on a picture, one on the other.
#include <QObject>
#include <optional>

#include "app/pairs/reference.h"

namespace fexel {

class PictureView;

class PairPlacing : public QObject {
  Q_OBJECT
 public:
  PairPlacing(Document& document, PictureView* a, PictureView* b, QObject* parent);
  /// Both views take clicks from now on, until Escape.
  void begin();
  bool running() const { return running_; }
  void end() { running_ = false; }

  /// A click, in the coordinates that the view shows.
  void click(PictureView& view, Point at);
  /// Takes the predicted place for the second click. False where nothing is predicted.
  bool confirm();
  /// Drops the first click. False where there is none.
  bool take_back();
  /// The first click, where it was made in this view.
  std::optional<Point> pending(const PictureView& view) const;
  /// Where the second click is expected in this view, from the pairs that there are.
  std::optional<Point> predicted(const PictureView& view) const;
  QString hint(const PictureView& view) const;

 private:
  struct First {
    bool on_reference;
    Point at;  ///< of the station that the step gets, or of the reference, in its pixels
  };
  void add(Point from, Point to);
  Document& document_;
  PictureView* a_;
  PictureView* b_;
  std::optional<First> first_;
  bool running_ = false;
};

}  // namespace fexel

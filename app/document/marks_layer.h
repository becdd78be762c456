#pragma once
/// The chain's marks, laid out on a thread of its own: what views draw over the result.
#include <QObject>
#include <memory>

#include "app/document/background.h"
#include "report/marked_copy.h"

namespace fexel {

class Document;

class MarksLayer : public QObject {
  Q_OBJECT
 public:
  explicit MarksLayer(Document& document);
  /// The newest drawing, in pixels of the copy; null where there are no marks, or none was made yet.
  const MarkDrawing* drawing() const { return drawing_.get(); }
  double scale() const { return scale_; }  ///< pixels of the copy for one of the result
  /// Samples shown as black and white.
  void set_range(std::optional<std::pair<double, double>> range);
  /// Whether the drawing is that of the document as it is.
  bool settled() const { return !work_.running() && !again_; }
  /// What is laid out and written, as the document is now.
  MarkedResult result() const;

 Q_SIGNALS:
  void changed();

 private:
  void refresh();
  /// The picture by which black and white are chosen, and what it was made of.
  struct Under {
    Chain chain;
    const void* pixels;
    int frame;
    std::optional<std::pair<double, double>> range;
    RgbPicture picture;
  };

  Document& document_;
  std::optional<std::pair<double, double>> range_;
  std::shared_ptr<const MarkDrawing> drawing_;
  std::shared_ptr<const Under> under_;
  double scale_ = 1;
  bool again_ = false;
  Background work_;  // the last member: its thread ends before the rest
};

}  // namespace fexel

#pragma once
/// What the mouse does on a picture. A tool is made when it is wanted, gets the events, and is dropped when it is done;
/// the picture view knows only this interface.
#include <QPainter>
#include <QString>

namespace fexel {

class PictureView;

class Tool {
 public:
  explicit Tool(PictureView& view) : view_(view) {}
  Tool(const Tool&) = delete;
  Tool& operator=(const Tool&) = delete;
  virtual ~Tool() = default;

  enum class State { going_on, done };
  /// Places are in px of the widget.
  virtual State press(QPointF) { return State::going_on; }
  virtual State move(QPointF) { return State::going_on; }
  virtual State release() { return State::going_on; }
  virtual State double_click(QPointF) { return State::going_on; }
  /// False where the key means nothing to it.
  virtual bool key(int /*key*/, State&) { return false; }
  /// Hands over what was made: the view has dropped the tool already.
  virtual void finish() {}
  virtual void paint(QPainter&) {}
  /// Whether a press on a handle drags that, and is none of the tool's.
  virtual bool lets_handles() const { return false; }
  /// What to do, for the lower edge of the picture.
  virtual QString hint() const { return {}; }

 protected:
  PictureView& view_;
};

}  // namespace fexel

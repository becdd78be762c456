#pragma once
/// All tools.
#include <functional>
#include <memory>

#include "app/canvas/handle.h"
#include "app/canvas/tools/tool.h"

namespace fexel {

/// A line by a drag; `take` gets its ends in the view's station.
struct LineWanted {
  QString hint;
  bool return_lays_one = false;  ///< Return makes a line in the middle of the view
  std::function<void(QPointF, QPointF)> take;
};
std::unique_ptr<Tool> make_line_tool(PictureView& view, LineWanted wanted);

/// Points by clicks, closed by Return, a double click, a click on the first one, or by the last of `most`; `take` gets
/// them in the view's station.
struct PointsWanted {
  QString hint;
  int least = 3;
  int most = 0;  ///< 0 for any number
  std::function<void(const QPolygonF&)> take;
};
std::unique_ptr<Tool> make_points_tool(PictureView& view, PointsWanted wanted);

/// Drags a handle from where it was pressed.
std::unique_ptr<Tool> make_handle_tool(PictureView& view, QPointF pressed);
/// Drags the picture.
std::unique_ptr<Tool> make_pan_tool(PictureView& view, QPointF pressed);

}  // namespace fexel

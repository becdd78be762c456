#pragma once
/// What pages ask of the window: places on the picture, and long work. One channel for all of it.
#include <QString>
#include <functional>
#include <variant>
#include <vector>

#include "align/self_test.h"
#include "geometry/map.h"
#include "motion/motion_frame.h"

namespace fexel {

using TakeLine = std::function<void(Point, Point)>;
using TakePoints = std::function<void(const std::vector<Point>&)>;
using TakeSelfTest = std::function<void(const SelfTest&)>;

/// A line is to be drawn on the picture; its ends come in the coordinates of the station that the step gets.
struct LineRequest {
  QString hint;
  TakeLine take;
};
/// Points are to be clicked on the picture; they come in the coordinates of the station that the step gets.
struct PointsRequest {
  QString hint;
  TakePoints take;
  int station = -1;  ///< in whose coordinates they come instead
  int count = 0;     ///< so many, and no more
};
/// The frames are to be searched: all of them, or the one that is shown.
struct SearchRequest {
  bool all;
};
/// What still moves in the shown frame is to be measured.
struct ResidualRequest {};
/// The sequence is to be searched in several ways.
struct VariantsRequest {};
/// The shown frame is to be moved by known amounts and searched.
struct SelfTestRequest {
  TakeSelfTest take;
};

/// Alpha of the source is to be read as a band, or as the mask.
struct AlphaRequest {
  bool band;
};
/// A reference is to be opened for the fit step.
struct ReferenceRequest {};
/// Pairs of the fit step are to be matched with the reference.
struct RefineRequest {};
/// So many pairs are to be found.
struct ProposeRequest {
  int count;
};

/// How well the movement's points can be found is to be worked out.
struct TextureRequest {
  double wanted;  ///< px
};
/// The movement is to be measured: over all frames, or to the one that is shown.
struct MotionRequest {
  bool all;
};
/// The movement's settings are to be tested on a known field; and on a frame that shows the same as the first.
struct MotionTrialRequest {};
struct StillPairRequest {};
/// What was measured is to be written: to this file or folder, or to one that is asked for.
struct MotionExportRequest {
  enum class What { table, maps, vtk, mean };
  What what;
  QString path;
};

/// The grains of the shown frame are to be looked at, and windows proposed.
struct GrainRequest {};
/// The background of the sequence is to be worked out and shown.
struct BackgroundRequest {};
/// The background of the frames before the selected step is to be worked out and written: to this file, or to one that
/// is asked for. Of the kind none, a picture is to be chosen instead.
struct BackgroundFileRequest {
  MotionBackground kind;
  QString path;
};

using PageRequest = std::variant<LineRequest, PointsRequest, SearchRequest, ResidualRequest, VariantsRequest,
                                 SelfTestRequest, ReferenceRequest, RefineRequest, ProposeRequest, TextureRequest,
                                 MotionRequest, MotionTrialRequest, StillPairRequest, MotionExportRequest, GrainRequest,
                                 BackgroundRequest, BackgroundFileRequest, AlphaRequest>;

}  // namespace fexel

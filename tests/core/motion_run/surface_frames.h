#pragma once
/// Frames of a stretched surface as files, and their movement.
#include <fmt/format.h>

#include "motion_run/motion_run.h"
#include "tests/field_errors.h"
#include "tests/motion_scene.h"
#include "tests/support.h"

namespace fexel::test {

inline const Speckle surface(17);

inline test::Displacement motion_at(int k) {
  return [k](Point p) { return Point{0.7 * k + 0.0015 * k * (p.x - 150), -0.4 * k}; };
}

/// Frames of a stretched surface as files, and their list.
inline std::vector<FrameFile> write_frames_of(const test::Scratch& scratch, int frames,
                                              const std::function<Point(Point, int)>& extra = {}) {
  std::vector<std::filesystem::path> files;
  for (int k = 0; k < frames; ++k) {
    std::vector<Image> pages;
    const auto plain = motion_at(k);
    pages.push_back(moved_frame(
        300, 260, surface, [&](Point p) { return plain(p) + (extra ? extra(p + plain(p), k) : Point{}); }, 2,
        static_cast<unsigned>(k + 1), Depth::u8));
    files.emplace_back(scratch / fmt::format("frame-{:02}.tif", k + 1));
    write_pictures(files.back(), pages, {});
  }
  return list_frames(files, false, {});
}

inline MotionRunOptions options_of(int station = 0) {
  MotionRunOptions out;
  out.probe.station = station;
  out.probe.settings.step_x = out.probe.settings.step_y = 16;
  out.probe.settings.region = {{50, 50}, {250, 50}, {250, 210}, {50, 210}};
  return out;
}

inline std::vector<MotionResultFrame> run(const Chain& chain, const std::vector<FrameFile>& files,
                                          const MotionRunOptions& options, MotionRunSummary* summary = nullptr) {
  std::vector<MotionResultFrame> out;
  const MotionFrames frames(chain, options.probe.station, files, {});
  const auto done = run_motion(frames, options,
                               [&](const MotionResultFrame& r) {
                                 out.push_back(r);
                                 finish(out.back(), options.probe.settings, frames.units(), {});
                               },
                               {});
  if (summary) *summary = done;
  return out;
}

}  // namespace fexel::test

#include "stacks/frame_stack.h"

#include <fmt/format.h>

#include <cstring>

#include "base/error.h"
#include "run/write_frames.h"

namespace fexel {

FrameStack::FrameStack(std::vector<FrameFile> frames, const Limits& limits, const std::vector<bool>& skip)
    : limits_(limits) {
  take(std::move(frames), skip);
}

FrameStack::FrameStack(const Chain& chain, std::vector<FrameFile> frames, const Limits& limits) : limits_(limits) {
  made_ = std::make_unique<MotionFrames>(chain, static_cast<int>(chain.steps.size()), frames, limits, true);
  std::vector<bool> skip(frames.size());
  for (std::size_t i = 0; i < frames.size(); ++i) skip[i] = made_->skipped(i);
  take(std::move(frames), skip);
  const FileInfo& info = *frames_.front().info;
  const Station made =
      lay_out(chain, {{info.width, info.height}, info.bands, info.depth, info.pixel_size, {}, 0}).result();
  size_ = made.size;
  bands_ = made.bands;
  depth_ = made.depth;
  pixel_ = made.pixel;
}

FrameStack::~FrameStack() = default;

void FrameStack::take(std::vector<FrameFile> frames, const std::vector<bool>& skip) {
  for (std::size_t i = 0; i < frames.size(); ++i) {
    FrameFile& frame = frames[i];
    const std::string name = fmt::format("Frame {}, {}", i + 1, frame.path.filename().string());
    if (i < skip.size() && skip[i]) {
      notes_.push_back(name + ", is left out, as the chain says.");
      continue;
    }
    if (!frame.info) {
      notes_.push_back(fmt::format("{}, cannot be read: {}", name, frame.trouble));
      continue;
    }
    const int bands = frame.band > 0 ? 1 : frame.info->bands;
    if (frames_.empty()) {
      size_ = {frame.info->width, frame.info->height};
      bands_ = bands;
      depth_ = frame.info->depth;
      pixel_ = frame.info->pixel_size;
    } else if (Size{frame.info->width, frame.info->height} != size_ || bands != bands_) {
      notes_.push_back(fmt::format("{}, has {} x {} px and {} band{}; the first has {} x {} and {}.", name,
                                   frame.info->width, frame.info->height, bands, bands == 1 ? "" : "s", size_.width,
                                   size_.height, bands_));
      continue;
    } else if (frame.info->depth != depth_) {
      notes_.push_back(
          fmt::format("{}, has {} samples; the first has {}.", name, name_of(frame.info->depth), name_of(depth_)));
      continue;
    }
    numbers_.push_back(static_cast<int>(i) + 1);
    places_.push_back(i);
    frames_.push_back(std::move(frame));
  }
  for (const FrameFile& frame : frames_)
    for (const std::string& note : frame.info->notes) remarks_.push_back(frame.path.filename().string() + ": " + note);
  // What becomes of their samples is the same of all.
  if (!frames_.empty())
    for (const std::string& reading : frames_.front().info->readings) remarks_.push_back(reading);
  if (!frames_.empty()) sources_ = watched(frames_);
  if (frames_.empty())
    throw input_error("None of the frames can be used.", notes_.empty() ? std::string() : notes_.front(),
                      "Name other pictures.");
}

Image FrameStack::read(std::size_t i, const Job& job) const {
  Image out = made_ ? made_->read(places_[i], job) : read_frame(frames_[i], limits_, job);
  check(out, i, size_.height);
  return out;
}

void FrameStack::check(const Image& image, std::size_t i, int rows) const {
  if (image.width() == size_.width && image.height() == rows && image.bands() == bands_ && image.depth() == depth_)
    return;
  throw input_error("The frame is not any more what it was when the run began.", frames_[i].path.string(),
                    "Run it again when nothing else writes to it.");
}

Image FrameStack::rows(std::size_t i, int top, int bottom, const Job& job) const {
  if (top == 0 && bottom == size_.height) return read(i, job);
  const FrameFile& frame = frames_[i];
  if (!made_ && frame.band == 0) {
    const FileInfo now = read_info(frame.path, limits_, frame.page);
    const bool same = Size{now.width, now.height} == size_;
    if (const auto parts = same ? open_parts(frame.path, frame.page, limits_) : nullptr) {
      Image out = parts->read({0, top, size_.width, bottom - top}, job);
      check(out, i, bottom - top);
      return out;
    }
  }
  return rows_of_image(read(i, job), top, bottom);
}

Image rows_of_image(const Image& image, int top, int bottom) {
  Image out(image.width(), bottom - top, image.bands(), image.depth(), Image::Start::unset);
  for (int band = 0; band < image.bands(); ++band)
    for (int y = top; y < bottom; ++y) std::memcpy(out.bytes(band, y - top), image.bytes(band, y), image.row_bytes());
  if (image.stated_largest() > 0) out.set_largest(image.stated_largest());
  if (!image.has_mask()) return out;
  out.make_mask(true);
  for (int y = top; y < bottom; ++y)
    for (int x = 0; x < image.width(); ++x)
      if (!image.valid(x, y)) out.set_valid(x, y - top, false);
  return out;
}

}  // namespace fexel

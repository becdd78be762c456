#pragma once
/// Decoded frames of films, and pictures: the one place that knows the pixel formats of the codec library.
#include <memory>
#include <string>

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
#include <libswscale/swscale.h>
}

#include "image/image.h"

namespace fexel {

/// The tag of a stream in which a film of Fexel tells the largest value that a sample means.
inline constexpr const char* largest_tag = "LARGEST_SAMPLE";

struct FreeFrame {
  void operator()(AVFrame* frame) const { ::av_frame_free(&frame); }
};
using FramePointer = std::shared_ptr<AVFrame>;

/// What a pixel format holds; bits 0 for one that is not known here.
struct PixelKind {
  int bits = 0;
  bool grey = false, rgb = false, alpha = false;
  bool mosaic = false;  ///< of a colour filter, one colour a place
};
PixelKind kind_of(AVPixelFormat format);

/// By which matrix and range YUV becomes RGB.
struct Colours {
  AVColorSpace matrix = AVCOL_SPC_BT709;
  bool full = false, guessed = false;
  std::string said;  ///< "BT.709, limited range"
};
Colours colours_of(const AVCodecContext& codec);

/// The orientation, 1 to 8, that a stream's display matrix asks for.
int orientation_of(const AVStream& stream);

/// A converter between pixel formats, kept from frame to frame.
class Scaler {
 public:
  Scaler() = default;
  ~Scaler() { ::sws_freeContext(context_); }
  Scaler(const Scaler&) = delete;
  Scaler& operator=(const Scaler&) = delete;
  SwsContext* get(int width, int height, AVPixelFormat from, AVPixelFormat to, const Colours& colours, bool to_yuv);

 private:
  SwsContext* context_ = nullptr;
  int width_ = 0, height_ = 0;
  AVPixelFormat from_ = AV_PIX_FMT_NONE, to_ = AV_PIX_FMT_NONE;
};

/// The picture of a frame: samples as they are where it is grey or RGB, else converted.
Image picture_of(const AVFrame& frame, const AVCodecContext& codec, Scaler& scaler);
/// The frame of a picture, in a format of the lossless codec (`lossless_format`) or in 4:2:0 for showing.
AVPixelFormat lossless_format(int bands, Depth depth, int largest);
FramePointer frame_of(const Image& image, AVPixelFormat format, Scaler& scaler);

}  // namespace fexel

#include "files/film_frames.h"

extern "C" {
#include <libavutil/display.h>
#include <libavutil/imgutils.h>
#include <libavutil/pixdesc.h>
}

#include <bit>
#include <cstring>

#include "base/error.h"

namespace fexel {
namespace {

/// Where a band lies in a format of planes or of bytes side by side: plane, first byte, bytes from pixel to pixel.
struct Place {
  int plane = 0, offset = 0, step = 1;
};

/// Red, green and blue, or grey.
std::vector<Place> places_of(AVPixelFormat format) {
  const AVPixFmtDescriptor* d = ::av_pix_fmt_desc_get(format);
  std::vector<Place> out;
  const int bands = d->nb_components >= 3 ? 3 : 1;
  for (int i = 0; i < bands; ++i) out.push_back({d->comp[i].plane, d->comp[i].offset, d->comp[i].step});
  return out;
}

/// Whether samples can be taken as they lie: grey or RGB, a byte or two little-endian ones, none shifted or packed.
bool plain(AVPixelFormat format) {
  const AVPixFmtDescriptor* d = ::av_pix_fmt_desc_get(format);
  if (!d || (d->flags & (AV_PIX_FMT_FLAG_PAL | AV_PIX_FMT_FLAG_BITSTREAM | AV_PIX_FMT_FLAG_HWACCEL |
                         AV_PIX_FMT_FLAG_BAYER | AV_PIX_FMT_FLAG_FLOAT)) != 0)
    return false;
  const bool rgb = (d->flags & AV_PIX_FMT_FLAG_RGB) != 0;
  if (!rgb && d->nb_components > 2) return false;
  for (int i = 0; i < std::min<int>(d->nb_components, 3); ++i) {
    if (d->comp[i].shift != 0 || d->comp[i].depth < 8 || d->comp[i].depth > 16) return false;
    if (d->comp[i].depth != d->comp[0].depth) return false;
  }
  return d->comp[0].depth == 8 || (d->flags & AV_PIX_FMT_FLAG_BE) == 0;
}

AVPixelFormat rgb_of(int bits) {
  if (bits <= 8) return AV_PIX_FMT_GBRP;
  if (bits == 9) return AV_PIX_FMT_GBRP9LE;
  if (bits == 10) return AV_PIX_FMT_GBRP10LE;
  if (bits <= 12) return AV_PIX_FMT_GBRP12LE;
  return bits <= 14 ? AV_PIX_FMT_GBRP14LE : AV_PIX_FMT_GBRP16LE;
}

AVPixelFormat grey_of(int bits) {
  if (bits <= 8) return AV_PIX_FMT_GRAY8;
  if (bits == 9) return AV_PIX_FMT_GRAY9LE;
  if (bits == 10) return AV_PIX_FMT_GRAY10LE;
  if (bits <= 12) return AV_PIX_FMT_GRAY12LE;
  return bits <= 14 ? AV_PIX_FMT_GRAY14LE : AV_PIX_FMT_GRAY16LE;
}

Image taken(const AVFrame& frame, AVPixelFormat format) {
  const int bits = ::av_pix_fmt_desc_get(format)->comp[0].depth;
  const auto places = places_of(format);
  Image out(frame.width, frame.height, static_cast<int>(places.size()), bits > 8 ? Depth::u16 : Depth::u8,
            Image::Start::unset);
  if (bits > 8 && bits < 16) out.set_largest((1 << bits) - 1);
  for (std::size_t band = 0; band < places.size(); ++band) {
    const Place& place = places[band];
    for (int y = 0; y < frame.height; ++y) {
      const std::uint8_t* from =
          frame.data[place.plane] + static_cast<std::ptrdiff_t>(y) * frame.linesize[place.plane] + place.offset;
      visit_depth(out.depth(), [&](auto kind) {
        using T = decltype(kind);
        T* to = out.row<T>(static_cast<int>(band), y);
        for (int x = 0; x < frame.width; ++x)
          std::memcpy(to + x, from + static_cast<std::ptrdiff_t>(x) * place.step, sizeof(T));
      });
    }
  }
  return out;
}

FramePointer buffer_for(int width, int height, AVPixelFormat format) {
  FramePointer out(::av_frame_alloc(), FreeFrame());
  out->width = width;
  out->height = height;
  out->format = format;
  if (::av_frame_get_buffer(out.get(), 0) < 0)
    throw input_error("There is not enough memory for a frame of the film.", {}, "Close other pictures.");
  return out;
}

}  // namespace

PixelKind kind_of(AVPixelFormat format) {
  const AVPixFmtDescriptor* d = format == AV_PIX_FMT_NONE ? nullptr : ::av_pix_fmt_desc_get(format);
  if (!d || (d->flags & (AV_PIX_FMT_FLAG_HWACCEL | AV_PIX_FMT_FLAG_FLOAT)) != 0) return {};
  PixelKind out;
  out.bits = std::clamp(d->comp[0].depth, 8, 16);
  out.rgb = (d->flags & AV_PIX_FMT_FLAG_RGB) != 0;
  out.grey = !out.rgb && d->nb_components <= 2 && (d->flags & AV_PIX_FMT_FLAG_PAL) == 0;
  if ((d->flags & (AV_PIX_FMT_FLAG_PAL | AV_PIX_FMT_FLAG_BAYER)) != 0) out.rgb = true;
  out.alpha = (d->flags & AV_PIX_FMT_FLAG_ALPHA) != 0;
  out.mosaic = (d->flags & AV_PIX_FMT_FLAG_BAYER) != 0;
  return out;
}

Colours colours_of(const AVCodecContext& codec) {
  Colours out;
  out.matrix = codec.colorspace;
  if (codec.colorspace == AVCOL_SPC_UNSPECIFIED || codec.colorspace == AVCOL_SPC_RESERVED) {
    out.matrix = codec.height >= 720 ? AVCOL_SPC_BT709 : AVCOL_SPC_SMPTE170M;
    out.guessed = true;
  }
  const bool old_full = codec.pix_fmt == AV_PIX_FMT_YUVJ420P || codec.pix_fmt == AV_PIX_FMT_YUVJ422P ||
                        codec.pix_fmt == AV_PIX_FMT_YUVJ444P || codec.pix_fmt == AV_PIX_FMT_YUVJ440P;
  out.full = codec.color_range == AVCOL_RANGE_JPEG || old_full;
  const char* matrix = out.matrix == AVCOL_SPC_BT709                                             ? "BT.709"
                       : out.matrix == AVCOL_SPC_BT2020_NCL || out.matrix == AVCOL_SPC_BT2020_CL ? "BT.2020"
                       : out.matrix == AVCOL_SPC_SMPTE240M                                       ? "SMPTE 240M"
                                                                                                 : "BT.601";
  out.said = std::string(matrix) + (out.full ? ", full range" : ", limited range");
  return out;
}

int orientation_of(const AVStream& stream) {
  size_t size = 0;
  const std::uint8_t* data = ::av_stream_get_side_data(&stream, AV_PKT_DATA_DISPLAYMATRIX, &size);
  if (!data || size < 9 * sizeof(std::int32_t)) return 1;
  std::int32_t m[9];
  std::memcpy(m, data, sizeof m);
  const auto sign = [](std::int32_t v) { return v > 0 ? 1 : v < 0 ? -1 : 0; };
  // (x, y) of the stored picture goes to (a x + c y, b x + d y).
  const int a = sign(m[0]), b = sign(m[1]), c = sign(m[3]), d = sign(m[4]);
  if (b == 0 && c == 0) return a > 0 ? (d > 0 ? 1 : 4) : (d > 0 ? 2 : 3);
  if (a != 0 || d != 0) return 1;  // a turn by another angle
  if (b > 0) return c < 0 ? 6 : 5;
  return c > 0 ? 8 : 7;
}

SwsContext* Scaler::get(int width, int height, AVPixelFormat from, AVPixelFormat to, const Colours& colours,
                        bool to_yuv) {
  if (context_ && width == width_ && height == height_ && from == from_ && to == to_) return context_;
  ::sws_freeContext(context_);
  context_ = ::sws_getContext(width, height, from, width, height, to,
                              SWS_BICUBIC | SWS_ACCURATE_RND | SWS_FULL_CHR_H_INT | SWS_FULL_CHR_H_INP | SWS_BITEXACT,
                              nullptr, nullptr, nullptr);
  if (!context_)
    throw input_error("The film's pixels are in a form that is not known here.", {},
                      "Save it as H.264, VP9, FFV1 or uncompressed.");
  const int* coefficients = ::sws_getCoefficients(colours.matrix);
  ::sws_setColorspaceDetails(context_, coefficients, to_yuv ? 1 : colours.full, coefficients, to_yuv ? colours.full : 1,
                             0, 1 << 16, 1 << 16);
  width_ = width;
  height_ = height;
  from_ = from;
  to_ = to;
  return context_;
}

Image picture_of(const AVFrame& frame, const AVCodecContext& codec, Scaler& scaler) {
  const auto format = static_cast<AVPixelFormat>(frame.format);
  const PixelKind kind = kind_of(format);
  if (kind.bits == 0 || frame.width != codec.width || frame.height != codec.height)
    throw input_error("A frame of the film is unlike the others.", {}, "Leave it out, or save the film anew.");
  if (plain(format)) return taken(frame, format);
  const AVPixelFormat to = kind.grey ? grey_of(kind.bits) : rgb_of(kind.bits);
  const FramePointer out = buffer_for(frame.width, frame.height, to);
  SwsContext* context = scaler.get(frame.width, frame.height, format, to, colours_of(codec), false);
  ::sws_scale(context, frame.data, frame.linesize, 0, frame.height, out->data, out->linesize);
  return taken(*out, to);
}

AVPixelFormat lossless_format(int bands, Depth depth, int largest) {
  if (depth == Depth::u8) return bands == 1 ? AV_PIX_FMT_GRAY8 : AV_PIX_FMT_BGR0;
  const int bits = largest > 0 ? std::bit_width(static_cast<unsigned>(largest)) : 16;
  const int wanted = std::max(9, bits);
  if (bands == 3) return rgb_of(wanted);
  return wanted > 12 ? AV_PIX_FMT_GRAY16LE : grey_of(wanted);  // the codec knows none of 14
}

FramePointer frame_of(const Image& image, AVPixelFormat format, Scaler& scaler) {
  // As it lies: grey, or red, green and blue.
  const AVPixelFormat own = plain(format) ? format : image.bands() == 1 ? AV_PIX_FMT_GRAY8 : AV_PIX_FMT_GBRP;
  const FramePointer out = buffer_for(image.width(), image.height(), own);
  const auto places = places_of(own);
  for (std::size_t band = 0; band < places.size(); ++band) {
    const Place& place = places[band];
    for (int y = 0; y < image.height(); ++y) {
      std::uint8_t* to =
          out->data[place.plane] + static_cast<std::ptrdiff_t>(y) * out->linesize[place.plane] + place.offset;
      visit_depth(image.depth(), [&](auto kind) {
        using T = decltype(kind);
        const T* from = image.row<T>(static_cast<int>(band), y);
        for (int x = 0; x < image.width(); ++x)
          std::memcpy(to + static_cast<std::ptrdiff_t>(x) * place.step, from + x, sizeof(T));
      });
    }
  }
  if (own == format) return out;
  const FramePointer shown = buffer_for(image.width(), image.height(), format);
  const Colours colours{AVCOL_SPC_BT709, false, false, {}};
  SwsContext* context = scaler.get(image.width(), image.height(), own, format, colours, true);
  ::sws_scale(context, out->data, out->linesize, 0, image.height(), shown->data, shown->linesize);
  return shown;
}

}  // namespace fexel

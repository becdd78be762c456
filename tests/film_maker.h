#pragma once
/// Films for tests, written with the codec library itself: codecs, pixel formats, times and tags that Fexel never
/// writes.
#include <cstdint>
#include <filesystem>
#include <functional>
#include <stdexcept>
#include <string>
#include <vector>

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
#include <libavutil/display.h>
#include <libavutil/opt.h>
#include <libavutil/pixdesc.h>
}

namespace fexel::test {

struct FilmKind {
  std::string codec = "libx264";
  AVPixelFormat format = AV_PIX_FMT_YUV420P;
  int width = 160, height = 120, frames = 60, gop = 12, b_frames = 2;
  double rotation = 0;                             ///< degrees of the display matrix, counter-clockwise
  std::function<std::int64_t(int)> millisecond{};  ///< of each frame; 40 ms apart without it
  bool closed = false;                             ///< groups of pictures that lean on none before
  int seconds_of_sound = 0;                        ///< silence beside the pictures
};

inline void must(int code) {
  if (code >= 0) return;
  char text[AV_ERROR_MAX_STRING_SIZE] = {};
  ::av_strerror(code, text, sizeof text);
  throw std::runtime_error(text);
}

/// Frame k is drawn as eight blocks that spell k in bits, dark or light, so that each can be known again.
inline void draw(AVFrame& frame, int k) {
  const AVPixFmtDescriptor* d = ::av_pix_fmt_desc_get(static_cast<AVPixelFormat>(frame.format));
  for (int c = 0; c < std::min<int>(d->nb_components, 3); ++c) {
    const bool chroma = c > 0 && (d->flags & AV_PIX_FMT_FLAG_RGB) == 0;
    const int width = chroma ? -((-frame.width) >> d->log2_chroma_w) : frame.width;
    const int height = chroma ? -((-frame.height) >> d->log2_chroma_h) : frame.height;
    const int bits = d->comp[c].depth;
    for (int y = 0; y < height; ++y)
      for (int x = 0; x < width; ++x) {
        const int block = x * 8 / width;
        // A moving ramp below the blocks, so that pictures lean on each other.
        const int value = chroma           ? 128
                          : y < height / 2 ? ((k >> block) & 1) != 0 ? 200 : 60
                                           : (x + 2 * y + 3 * k) % 160 + 40;
        std::uint8_t* at = frame.data[d->comp[c].plane] + y * frame.linesize[d->comp[c].plane] + x * d->comp[c].step +
                           d->comp[c].offset;
        if (bits > 8)
          *reinterpret_cast<std::uint16_t*>(at) = static_cast<std::uint16_t>(value << (bits - 8));
        else
          *at = static_cast<std::uint8_t>(value);
      }
  }
}

inline void make_film(const std::filesystem::path& path, const FilmKind& kind) {
  AVFormatContext* format = nullptr;
  must(::avformat_alloc_output_context2(&format, nullptr, nullptr, path.c_str()));
  const AVCodec* codec = ::avcodec_find_encoder_by_name(kind.codec.c_str());
  if (!codec) throw std::runtime_error("no encoder " + kind.codec);
  AVCodecContext* context = ::avcodec_alloc_context3(codec);
  context->width = kind.width;
  context->height = kind.height;
  context->pix_fmt = kind.format;
  context->time_base = {1, 1000};
  context->framerate = {25, 1};
  if (kind.codec == "mjpeg") context->strict_std_compliance = FF_COMPLIANCE_UNOFFICIAL;
  context->gop_size = kind.gop;
  context->thread_count = 1;  // the same film each time
  if (kind.codec == "libx264" || kind.codec.starts_with("mpeg")) context->max_b_frames = kind.b_frames;
  if (kind.codec == "mjpeg") context->color_range = AVCOL_RANGE_JPEG;
  if (kind.codec == "mpeg4" || kind.codec == "mpeg2video") context->time_base = {1, 25};
  if (kind.codec == "libx264")
    ::av_opt_set(context->priv_data, "x264-params", kind.closed ? "open-gop=0:scenecut=0" : "open-gop=1:scenecut=0", 0);
  if ((format->oformat->flags & AVFMT_GLOBALHEADER) != 0) context->flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
  must(::avcodec_open2(context, codec, nullptr));
  AVStream* stream = ::avformat_new_stream(format, nullptr);
  stream->time_base = context->time_base;
  must(::avcodec_parameters_from_context(stream->codecpar, context));
  if (kind.rotation != 0) {
    auto* matrix = reinterpret_cast<std::int32_t*>(
        ::av_stream_new_side_data(stream, AV_PKT_DATA_DISPLAYMATRIX, 9 * sizeof(std::int32_t)));
    ::av_display_rotation_set(matrix, -kind.rotation);
  }
  AVStream* sound = nullptr;
  if (kind.seconds_of_sound > 0) {
    sound = ::avformat_new_stream(format, nullptr);
    sound->time_base = {1, 8000};
    sound->codecpar->codec_type = AVMEDIA_TYPE_AUDIO;
    sound->codecpar->codec_id = AV_CODEC_ID_PCM_S16LE;
    sound->codecpar->format = AV_SAMPLE_FMT_S16;
    sound->codecpar->sample_rate = 8000;
    sound->codecpar->block_align = 2;
    sound->codecpar->bits_per_coded_sample = 16;
    ::av_channel_layout_default(&sound->codecpar->ch_layout, 1);
  }
  must(::avio_open(&format->pb, path.c_str(), AVIO_FLAG_WRITE));
  must(::avformat_write_header(format, nullptr));
  AVPacket* packet = ::av_packet_alloc();
  const auto drain = [&] {
    while (::avcodec_receive_packet(context, packet) >= 0) {
      // An MP4 shows no frame that lasts no time.
      if (packet->duration == 0) packet->duration = ::av_rescale_q(20, {1, 1000}, context->time_base);
      ::av_packet_rescale_ts(packet, context->time_base, stream->time_base);
      packet->stream_index = 0;
      must(::av_interleaved_write_frame(format, packet));
    }
  };
  AVFrame* frame = ::av_frame_alloc();
  for (int k = 0; k < kind.frames; ++k) {
    ::av_frame_unref(frame);
    frame->width = kind.width;
    frame->height = kind.height;
    frame->format = kind.format;
    must(::av_frame_get_buffer(frame, 0));
    draw(*frame, k);
    const std::int64_t ms = kind.millisecond ? kind.millisecond(k) : 40 * k;
    frame->pts = ::av_rescale_q(ms, {1, 1000}, context->time_base);
    must(::avcodec_send_frame(context, frame));
    drain();
  }
  must(::avcodec_send_frame(context, nullptr));
  drain();
  for (int i = 0; i < 10 * kind.seconds_of_sound; ++i) {
    ::av_packet_unref(packet);
    must(::av_new_packet(packet, 1600));
    std::fill_n(packet->data, 1600, std::uint8_t{0});
    packet->pts = packet->dts = ::av_rescale_q(800 * i, {1, 8000}, sound->time_base);
    packet->duration = ::av_rescale_q(800, {1, 8000}, sound->time_base);
    packet->stream_index = 1;
    must(::av_interleaved_write_frame(format, packet));
  }
  must(::av_write_trailer(format));
  ::avio_closep(&format->pb);
  ::av_frame_free(&frame);
  ::av_packet_free(&packet);
  ::avcodec_free_context(&context);
  ::avformat_free_context(format);
}

}  // namespace fexel::test

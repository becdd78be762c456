extern "C" {
#include <libavcodec/avcodec.h>
#include <libavutil/pixdesc.h>
}

#include <bit>
#include <cstring>

#include "files/decoders/decoders.h"

namespace fexel::codec {
namespace {

struct Head {
  FileInfo info;
  int bits = 0;
};

std::uint32_t number_at(const std::vector<std::uint8_t>& bytes, std::size_t at, int count) {
  std::uint32_t out = 0;
  for (int i = 0; i < count && at + static_cast<std::size_t>(i) < bytes.size(); ++i)
    out |= static_cast<std::uint32_t>(bytes[at + static_cast<std::size_t>(i)]) << (8 * i);
  return out;
}

constexpr std::uint32_t by_masks = 3, with_alpha_mask = 6;  // of the compression's field

Head head_of(const fs::path& path, const std::vector<std::uint8_t>& bytes) {
  Head out;
  FileInfo& info = out.info;
  info.format = "bmp";
  const std::uint32_t size = number_at(bytes, 14, 4);
  if (bytes.size() < 30 || size < 12 || size > 200) throw broken(path, "The header of the BMP is not whole.");
  const bool old = size == 12;
  const auto width = static_cast<std::int32_t>(number_at(bytes, 18, old ? 2 : 4));
  const auto height = static_cast<std::int32_t>(number_at(bytes, old ? 20 : 22, old ? 2 : 4));
  if (width < 1 || height == 0 || height == std::numeric_limits<std::int32_t>::min())
    throw broken(path, "The BMP does not say how large its picture is.");
  info.width = width;
  info.height = std::abs(height);
  out.bits = static_cast<int>(number_at(bytes, old ? 24 : 28, 2));
  const std::uint32_t compression = old ? 0 : number_at(bytes, 30, 4);
  if (compression == 4 || compression == 5)
    throw unsupported(path, "The BMP holds a JPEG or PNG for a printer, which Fexel does not read.");
  info.bands = 3;
  if (out.bits <= 8) {
    const std::uint32_t stated = old ? 0 : number_at(bytes, 46, 4);
    const std::uint32_t most = 1U << out.bits, count = stated == 0 || stated > most ? most : stated;
    bool grey = true;
    for (std::uint32_t i = 0; i < count; ++i) {
      const std::size_t at = 14 + size + std::size_t{i} * (old ? 3 : 4);
      const auto colour = [&](std::size_t band) { return number_at(bytes, at + band, 1); };
      grey = grey && colour(0) == colour(1) && colour(1) == colour(2);
    }
    info.bands = grey ? 1 : 3;
    info.readings.push_back(fmt::format("Its samples are indices into a palette; they are read as {}.",
                                        grey ? "grey" : "red, green and blue"));
  } else if (out.bits == 16) {
    info.readings.emplace_back("Its colours have 5 or 6 bits each; they are spread over 0 to 255 and rounded.");
  }
  if ((compression == by_masks || compression == with_alpha_mask) && out.bits == 32 && (size >= 56 || compression == 6))
    info.alpha = number_at(bytes, 66, 4) != 0;
  const std::uint32_t x = old ? 0 : number_at(bytes, 38, 4), y = old ? 0 : number_at(bytes, 42, 4);
  if (x < 0x80000000U && y < 0x80000000U) info.density = pixel_size_from_density(x, y);
  return out;
}

struct FreeAll {
  void operator()(AVCodecContext* context) const { ::avcodec_free_context(&context); }
  void operator()(AVPacket* packet) const { ::av_packet_free(&packet); }
  void operator()(AVFrame* frame) const { ::av_frame_free(&frame); }
};

}  // namespace

FileInfo bmp_info(const fs::path& path, const Limits& limits, int page) {
  check_page(path, page, 1);
  FileInfo info = head_of(path, all_bytes(path, limits)).info;
  settle_alpha(info, limits);
  return info;
}

Image bmp_read(const fs::path& path, int page, const Limits& limits, const Job& job) {
  check_page(path, page, 1);
  const std::vector<std::uint8_t> bytes = all_bytes(path, limits);
  const FileInfo info = head_of(path, bytes).info;
  check_size(path, info, limits);
  // Run lengths say at most 255 pixels in two bytes, and lines that are left out are few.
  if (static_cast<double>(info.width) * info.height > 4096.0 * static_cast<double>(bytes.size()))
    throw broken(path, "The file is too short for the picture that its header says.");
  ::av_log_set_level(AV_LOG_QUIET);
  const std::unique_ptr<AVCodecContext, FreeAll> context(
      ::avcodec_alloc_context3(::avcodec_find_decoder(AV_CODEC_ID_BMP)));
  const std::unique_ptr<AVPacket, FreeAll> packet(::av_packet_alloc());
  const std::unique_ptr<AVFrame, FreeAll> frame(::av_frame_alloc());
  if (!context || !packet || !frame || ::avcodec_open2(context.get(), nullptr, nullptr) < 0 ||
      ::av_new_packet(packet.get(), static_cast<int>(bytes.size())) < 0)
    throw input_error("There is not enough memory for this.", path.string(), "Close other pictures.");
  std::copy(bytes.begin(), bytes.end(), packet->data);
  if (::avcodec_send_packet(context.get(), packet.get()) < 0 ||
      ::avcodec_receive_frame(context.get(), frame.get()) < 0 || frame->width != info.width ||
      frame->height != info.height)
    throw broken(path, "The BMP cannot be read.");
  const auto* form = ::av_pix_fmt_desc_get(static_cast<AVPixelFormat>(frame->format));
  const bool indexed = (form->flags & AV_PIX_FMT_FLAG_PAL) != 0;
  const bool coloured = indexed || form->nb_components >= 3, alpha = info.alpha && form->nb_components == 4;
  Image image(info.width, info.height, info.bands + (info.alpha ? 1 : 0), Depth::u8, Image::Start::unset);
  std::vector<std::uint16_t> line(static_cast<std::size_t>(info.width));
  for (int y = 0; y < info.height; ++y) {
    if (y % 64 == 0) job.check();
    for (int band = 0; band < image.bands(); ++band) {
      auto* to = image.row<std::uint8_t>(band, y);
      const bool of_alpha = band == info.bands;
      if (of_alpha && !alpha) {
        std::fill_n(to, info.width, std::uint8_t{255});
        continue;
      }
      const int component = of_alpha ? 3 : coloured && !indexed ? band : 0;
      ::av_read_image_line2(line.data(), const_cast<const std::uint8_t**>(frame->data), frame->linesize, form, 0, y,
                            component, info.width, 0, sizeof line[0]);
      if (indexed) {
        // Alpha, red, green and blue of a colour are one number.
        for (int x = 0; x < info.width; ++x) {
          std::uint32_t colour = 0;
          std::memcpy(&colour, frame->data[1] + 4 * line[static_cast<std::size_t>(x)], 4);
          to[x] = static_cast<std::uint8_t>(colour >> (16 - 8 * band));
        }
        continue;
      }
      const int bits = form->comp[component].depth, top = (1 << bits) - 1;
      // One bit a pixel without a palette has white as zero in one of its two forms.
      const bool inverted = static_cast<AVPixelFormat>(frame->format) == AV_PIX_FMT_MONOWHITE;
      for (int x = 0; x < info.width; ++x) {
        const int value = line[static_cast<std::size_t>(x)];
        to[x] = static_cast<std::uint8_t>(((inverted ? top - value : value) * 255 + top / 2) / top);
      }
    }
  }
  settle_alpha(image, info, limits, image.largest());
  return image;
}

std::string bmp_library() {
  const unsigned version = ::avcodec_version();
  return fmt::format("libavcodec {}.{}.{}", version >> 16, version >> 8 & 255, version & 255);
}

}  // namespace fexel::codec

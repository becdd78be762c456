#include <webp/decode.h>
#include <webp/demux.h>

#include "files/decoders/decoders.h"
#include "files/metadata.h"

namespace fexel::codec {
namespace {

struct FreeAll {
  void operator()(WebPAnimDecoder* decoder) const { ::WebPAnimDecoderDelete(decoder); }
  void operator()(WebPDemuxer* demuxer) const { ::WebPDemuxDelete(demuxer); }
};
using Demuxer = std::unique_ptr<WebPDemuxer, FreeAll>;

Demuxer demuxer_of(const fs::path& path, const std::vector<std::uint8_t>& bytes) {
  const WebPData data{bytes.data(), bytes.size()};
  Demuxer out(::WebPDemux(&data));
  if (!out) throw broken(path, "The WebP cannot be read: it is cut short or broken.");
  return out;
}

/// What stands beside the pictures; of Exif without the head that some programs put before it.
std::vector<unsigned char> chunk_of(WebPDemuxer& demuxer, const char* name) {
  WebPChunkIterator at{};
  std::vector<unsigned char> block;
  if (::WebPDemuxGetChunk(&demuxer, name, 1, &at) != 0) block.assign(at.chunk.bytes, at.chunk.bytes + at.chunk.size);
  ::WebPDemuxReleaseChunkIterator(&at);
  constexpr unsigned char head[] = {'E', 'x', 'i', 'f', 0, 0};
  if (block.size() > 6 && std::equal(std::begin(head), std::end(head), block.begin()))
    block.erase(block.begin(), block.begin() + 6);
  return block;
}

/// All pictures; the last one of an animation says how long the others are.
std::vector<FileInfo> infos_of(const fs::path& path, const std::vector<std::uint8_t>& bytes, const Limits& limits) {
  const Demuxer demuxer = demuxer_of(path, bytes);
  FileInfo info;
  info.format = "webp";
  info.width = static_cast<int>(::WebPDemuxGetI(demuxer.get(), WEBP_FF_CANVAS_WIDTH));
  info.height = static_cast<int>(::WebPDemuxGetI(demuxer.get(), WEBP_FF_CANVAS_HEIGHT));
  info.frames = static_cast<int>(::WebPDemuxGetI(demuxer.get(), WEBP_FF_FRAME_COUNT));
  info.bands = 3;
  WebPIterator at{};
  if (info.frames < 1 || ::WebPDemuxGetFrame(demuxer.get(), 1, &at) == 0)
    throw broken(path, "The WebP holds no whole picture.");
  WebPBitstreamFeatures features{};
  const bool whole = ::WebPGetFeatures(at.fragment.bytes, at.fragment.size, &features) == VP8_STATUS_OK;
  if (whole && features.format == 1)
    info.readings.emplace_back("It is stored with loss, as YUV with half the colours' resolution.");
  info.alpha = info.frames > 1 || (::WebPDemuxGetI(demuxer.get(), WEBP_FF_FORMAT_FLAGS) & ALPHA_FLAG) != 0 ||
               (whole && features.has_alpha != 0);
  if ((::WebPDemuxGetI(demuxer.get(), WEBP_FF_FORMAT_FLAGS) & ICCP_FLAG) != 0) info.profile = "embedded";
  info.orientation = camera_data(chunk_of(*demuxer, "EXIF")).orientation;
  settle_alpha(info, limits);
  std::vector<FileInfo> out;
  double time = 0;
  do {
    if (info.frames > 1) info.time = time;
    time += 0.001 * at.duration;
    out.push_back(info);
  } while (::WebPDemuxNextFrame(&at) != 0);
  ::WebPDemuxReleaseIterator(&at);
  for (FileInfo& one : out) one.frames = static_cast<int>(out.size());
  return out;
}

}  // namespace

FileInfo webp_info(const fs::path& path, const Limits& limits, int page) {
  const auto infos = infos_of(path, all_bytes(path, limits), limits);
  check_page(path, page, static_cast<int>(infos.size()));
  return infos[static_cast<std::size_t>(page) - 1];
}

std::vector<PageInfo> webp_pages(const fs::path& path, const Limits& limits) {
  std::vector<PageInfo> pages;
  for (FileInfo& info : infos_of(path, all_bytes(path, limits), limits)) pages.push_back({std::move(info), {}});
  return pages;
}

Image webp_read(const fs::path& path, int page, const Limits& limits, const Job& job) {
  const std::vector<std::uint8_t> bytes = all_bytes(path, limits);
  const auto infos = infos_of(path, bytes, Limits{limits.pixels, limits.bytes, limits.memory});
  check_page(path, page, static_cast<int>(infos.size()));
  const FileInfo& info = infos.front();
  check_size(path, info, limits);
  Image image(info.width, info.height, info.alpha ? 4 : 3, Depth::u8, Image::Start::unset);
  const int stored = image.bands();
  const std::size_t line = static_cast<std::size_t>(info.width) * static_cast<std::size_t>(stored);
  if (infos.size() == 1) {
    std::vector<std::uint8_t> pixels(line * static_cast<std::size_t>(info.height));
    const auto decode = info.alpha ? ::WebPDecodeRGBAInto : ::WebPDecodeRGBInto;
    if (!decode(bytes.data(), bytes.size(), pixels.data(), pixels.size(), static_cast<int>(line)))
      throw broken(path, "The WebP cannot be read: its samples are not whole.");
    for (int y = 0; y < info.height; ++y)
      unweave(reinterpret_cast<const std::byte*>(pixels.data()) + line * static_cast<std::size_t>(y), stored, 0, 0, y,
              info.width, image);
  } else {
    WebPAnimDecoderOptions options;
    ::WebPAnimDecoderOptionsInit(&options);
    options.color_mode = MODE_RGBA;
    const WebPData data{bytes.data(), bytes.size()};
    const std::unique_ptr<WebPAnimDecoder, FreeAll> decoder(::WebPAnimDecoderNew(&data, &options));
    std::uint8_t* pixels = nullptr;
    for (int i = 0; i < page; ++i) {
      job.check();
      int milliseconds = 0;
      if (!decoder || ::WebPAnimDecoderGetNext(decoder.get(), &pixels, &milliseconds) == 0)
        throw broken(path, fmt::format("Picture {} of the WebP cannot be read.", i + 1));
    }
    for (int y = 0; y < info.height; ++y)
      unweave(reinterpret_cast<const std::byte*>(pixels) + line * static_cast<std::size_t>(y), stored, 0, 0, y,
              info.width, image);
  }
  settle_alpha(image, info, limits, image.largest());
  return image;
}

Stored webp_attached(const fs::path& path) {
  Stored out;
  const std::vector<std::uint8_t> bytes = all_bytes(path, {});
  const Demuxer demuxer = demuxer_of(path, bytes);
  out.profile = chunk_of(*demuxer, "ICCP");
  out.exif = chunk_of(*demuxer, "EXIF");
  out.xmp = chunk_of(*demuxer, "XMP ");
  return out;
}

std::string webp_library() {
  const int version = ::WebPGetDecoderVersion();
  return fmt::format("libwebp {}.{}.{}", version >> 16, version >> 8 & 255, version & 255);
}

}  // namespace fexel::codec

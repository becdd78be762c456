#include <unistd.h>

#include <bit>

#include "files/tiff.h"

#include "files/metadata.h"
#include "files/ome.h"
#include "files/page_index.h"
#include "files/tiff_samples.h"

namespace fexel::codec {
namespace {

thread_local std::string last_words;
void keep_words(const char*, const char* format, va_list arguments) {
  char text[512];
  std::vsnprintf(text, sizeof text, format, arguments);
  last_words = text;
}
void ignore_words(const char*, const char*, va_list) {}

constexpr std::size_t piece_bytes = 1 << 20;       // of plain samples that one thread reads at once
constexpr std::size_t max_chunk_bytes = 64 << 20;  // decoded at once; larger strips are read line by line

Error tiff_error(const fs::path& path) {
  return broken(
      path, last_words.empty() ? "The TIFF cannot be read." : fmt::format("The TIFF cannot be read: {}.", last_words));
}

}  // namespace

TiffPointer open_tiff_page(const fs::path& path, int page) {
  const auto index = page_index(path, tiff_directories);
  if (page < 1 || static_cast<std::size_t>(page) > index->offsets.size()) {
    if (index->offsets.empty()) throw broken(path, index->cut.empty() ? "The TIFF has no page." : index->cut);
    throw call_error(fmt::format("The file has no page {}.", page), path.string(),
                     fmt::format("Give a page from 1 to {}.", index->offsets.size()));
  }
  hush_tiff();
  TiffPointer tiff(TIFFOpen(path.c_str(), "rmh"));
  if (!tiff || TIFFSetSubDirectory(tiff.get(), index->offsets[static_cast<std::size_t>(page) - 1]) == 0)
    throw tiff_error(path);
  std::uint16_t compression = COMPRESSION_NONE, photometric = 0;
  TIFFGetFieldDefaulted(tiff.get(), TIFFTAG_COMPRESSION, &compression);
  if (compression == COMPRESSION_JPEG && TIFFGetField(tiff.get(), TIFFTAG_PHOTOMETRIC, &photometric) != 0 &&
      photometric == PHOTOMETRIC_YCBCR)
    TIFFSetField(tiff.get(), TIFFTAG_JPEGCOLORMODE, JPEGCOLORMODE_RGB);
  return tiff;
}

namespace {

/// How many samples a byte may stand for, at most. None: a TIFF may come compressed in ways that are not known here.
double max_expansion(std::uint16_t compression) {
  switch (compression) {
    case COMPRESSION_NONE:
      return 1;
    case COMPRESSION_PACKBITS:
      return 64;
    case COMPRESSION_DEFLATE:
    case COMPRESSION_ADOBE_DEFLATE:
      return 1040;
    case COMPRESSION_LZW:
      return 4096;
    default:
      return 40000;
  }
}

}  // namespace

const std::string& tiff_words() {
  return last_words;
}

void hush_tiff() {
  static std::once_flag once;
  std::call_once(once, [] {
    TIFFSetErrorHandler(keep_words);
    TIFFSetWarningHandler(ignore_words);
  });
  last_words.clear();
}

/// One of the page's handles, for as long as a thread works with it.
class TiffPage::Borrowed {
 public:
  explicit Borrowed(const TiffPage& page) : page_(page) {
    {
      const std::scoped_lock lock(page.mutex_);
      if (!page.idle_.empty()) {
        tiff_ = std::move(page.idle_.back());
        page.idle_.pop_back();
      }
    }
    if (!tiff_) tiff_ = open_tiff_page(page.path_, page.page_);
    last_words.clear();
  }
  ~Borrowed() {
    const std::scoped_lock lock(page_.mutex_);
    page_.idle_.push_back(std::move(tiff_));
  }
  Borrowed(const Borrowed&) = delete;
  Borrowed& operator=(const Borrowed&) = delete;
  TIFF* get() const { return tiff_.get(); }

 private:
  const TiffPage& page_;
  TiffPointer tiff_;
};

TiffPage::TiffPage(fs::path path, int page, const Limits& limits)
    : path_(std::move(path)), page_(page), max_bytes_(static_cast<std::size_t>(limits.bytes)) {
  idle_.push_back(open_tiff_page(path_, page));
  TIFF* tiff = idle_.back().get();
  info_ = page_info(path_, tiff);
  if (const auto index = page_index(path_, tiff_directories); !index->shifts.empty())
    shift_ = index->shifts[static_cast<std::size_t>(page) - 1];
  form_ = std::make_shared<const SampleForm>(sample_form(path_, tiff));
  alpha_band_ = info_.alpha && limits.alpha_band && info_.converted.empty();
  if (alpha_band_) info_.alpha = false;
  colours_ = colours_of(tiff);
  if (colours_ == Colours::cmyk) profile_ = tiff_profile(tiff);
  std::uint16_t planes = PLANARCONFIG_CONTIG, compression = COMPRESSION_NONE, bits = 8;
  TIFFGetFieldDefaulted(tiff, TIFFTAG_PLANARCONFIG, &planes);
  TIFFGetFieldDefaulted(tiff, TIFFTAG_COMPRESSION, &compression);
  TIFFGetFieldDefaulted(tiff, TIFFTAG_BITSPERSAMPLE, &bits);
  if (TIFFIsCODECConfigured(compression) == 0)
    throw unsupported(path_,
                      fmt::format("The TIFF is compressed in a way that is not read here (number {}).", compression));
  interleaved_ = planes == PLANARCONFIG_CONTIG;
  tiled_ = TIFFIsTiled(tiff) != 0;
  swapped_ = TIFFIsByteSwapped(tiff) != 0 && bits > 8;
  std::uint16_t order = FILLORDER_MSB2LSB;
  TIFFGetFieldDefaulted(tiff, TIFFTAG_FILLORDER, &order);
  plain_ = compression == COMPRESSION_NONE && order == FILLORDER_MSB2LSB && form_->native();
  stored_ = interleaved_ ? stored_bands() : form_->given;
  if (info_.width < 1 || info_.height < 1) throw broken(path_, "The TIFF says that it has no pixels.");
  std::uint32_t across = static_cast<std::uint32_t>(info_.width), down = 0;
  if (tiled_) {
    if (TIFFGetField(tiff, TIFFTAG_TILEWIDTH, &across) == 0 || TIFFGetField(tiff, TIFFTAG_TILELENGTH, &down) == 0 ||
        across == 0 || down == 0 || across > 0x100000 || down > 0x100000)
      throw broken(path_, "The tiles of the TIFF have no size.");
  } else {
    TIFFGetFieldDefaulted(tiff, TIFFTAG_ROWSPERSTRIP, &down);
    down = std::clamp(down, std::uint32_t{1}, static_cast<std::uint32_t>(info_.height));
    if (!form_->by_library && static_cast<std::size_t>(TIFFScanlineSize64(tiff)) != raw_bytes(info_.width))
      throw broken(path_, "The rows of the TIFF do not have the length that its header says.");
  }
  if (shift_ > 0 && !plain_)
    throw unsupported(path_, "The TIFF holds many pictures under one directory, in samples that are packed.");
  chunk_width_ = static_cast<int>(across);
  chunk_height_ = static_cast<int>(down);
  expansion_ = max_expansion(compression);
  const std::size_t row = form_->by_library ? 4 * static_cast<std::size_t>(chunk_width_) : raw_bytes(chunk_width_),
                    size = row * static_cast<std::size_t>(chunk_height_);
  if (form_->by_library && static_cast<double>(size) > std::min(1e9, static_cast<double>(limits.memory)))
    throw unsupported(path_, "The TIFF stores its colours as YCbCr in strips that are too large to be read.");
  if (tiled_ && ((!form_->by_library && static_cast<std::size_t>(TIFFTileSize64(tiff)) != size) || size > max_bytes_))
    throw broken(path_, "The tiles of the TIFF do not have the size that its header says.");
  if (tiled_ && static_cast<double>(size) > static_cast<double>(limits.memory))
    throw input_error(fmt::format("One tile of the TIFF takes {:.0f} MB of memory, more than is allowed.",
                                  static_cast<double>(size) / (1024 * 1024)),
                      path_.string(), "Allow more memory (--max-memory), or save it with smaller tiles.");
}

std::size_t TiffPage::raw_bytes(int pixels) const {
  return form_->line_bytes(static_cast<std::size_t>(pixels) * static_cast<std::size_t>(stored_ / form_->given));
}

const std::byte* TiffPage::unpacked(const std::byte* row, int pixels, std::vector<std::byte>& room) const {
  if (form_->native()) return row;
  room.resize(line_bytes(pixels));
  unpack(*form_, row, static_cast<std::size_t>(pixels) * static_cast<std::size_t>(stored_ / form_->given), room.data());
  return room.data();
}

std::string TiffPage::description() const {
  const Borrowed tiff(*this);
  const char* text = nullptr;
  return TIFFGetField(tiff.get(), TIFFTAG_IMAGEDESCRIPTION, &text) != 0 && text ? text : "";
}

std::vector<TiffPage::Chunk> TiffPage::chunks_in(Region region) const {
  std::vector<Chunk> out;
  const int right = region.x + region.width, bottom = region.y + region.height;
  const auto across = static_cast<std::uint32_t>((info_.width - 1) / chunk_width_ + 1);
  const auto down = static_cast<std::uint32_t>((info_.height - 1) / chunk_height_ + 1);
  const int planes = interleaved_ || form_->by_library ? 1 : stored_bands() / form_->given;
  for (int plane = 0; plane < planes; ++plane)
    for (int top = region.y / chunk_height_ * chunk_height_; top < bottom; top += chunk_height_)
      for (int left = region.x / chunk_width_ * chunk_width_; left < right; left += chunk_width_) {
        const auto number =
            (static_cast<std::uint32_t>(plane) * down + static_cast<std::uint32_t>(top / chunk_height_)) * across +
            static_cast<std::uint32_t>(left / chunk_width_);
        const int height = tiled_ ? chunk_height_ : std::min(chunk_height_, info_.height - top);
        // Tall strips of plain samples are shared by the threads.
        const int most =
            plain_ && !tiled_ ? std::max(1, static_cast<int>(piece_bytes / line_bytes(chunk_width_))) : height;
        for (int y = 0; y < height; y += most)
          if (top + y < bottom && top + std::min(height, y + most) > region.y)
            out.push_back({left, top + y, chunk_width_, std::min(most, height - y), plane, number});
      }
  return out;
}

Image TiffPage::read(Region region, const Job& job) const {
  Image image(region.width, region.height, stored_bands(), info_.depth, Image::Start::unset);
  if (info_.converted.empty()) image.set_largest(info_.largest);
  const auto chunks = chunks_in(region);
  const bool by_lines = !plain_ && !tiled_ && !form_->by_library &&
                        raw_bytes(chunk_width_) * static_cast<std::size_t>(chunk_height_) > max_chunk_bytes;
  if (by_lines) {
    const Borrowed tiff(*this);
    for (std::size_t i = 0; i < chunks.size(); ++i)
      read_lines(tiff.get(), chunks[i], region,
                 job.part(static_cast<double>(i) / static_cast<double>(chunks.size()),
                          static_cast<double>(i + 1) / static_cast<double>(chunks.size())),
                 image);
  } else {
    parallel_for(static_cast<int>(chunks.size()), job, [&](int index) {
      const Borrowed tiff(*this);
      const Chunk& chunk = chunks[static_cast<std::size_t>(index)];
      if (plain_ && !tiled_)
        read_plain(tiff.get(), chunk, region, image);
      else if (form_->by_library)
        read_by_library(tiff.get(), chunk, region, image);
      else
        read_encoded(tiff.get(), chunk, region, image);
    });
  }
  if (info_.alpha) image.take_alpha(form_->native() ? 0 : form_->full(), info_.associated);
  return colours_ == Colours::plain ? std::move(image) : to_srgb(image, colours_, profile_, {job.stop, {}});
}

FileInfo TiffPage::shown() const {
  FileInfo info = info_;
  info.alpha = info.alpha || alpha_band_;
  return as_shown(std::move(info), Limits{.alpha_band = alpha_band_});
}

/// Straight from the file, and only the columns that are wanted.
void TiffPage::read_plain(TIFF* tiff, const Chunk& chunk, Region region, Image& image) const {
  const std::uint64_t stored_at = TIFFGetStrileOffset(tiff, chunk.number), start = stored_at + shift_,
                      bytes = TIFFGetStrileByteCount(tiff, chunk.number);
  const std::size_t line = line_bytes(chunk.width), sample = bytes_of(info_.depth);
  const int first = std::max(chunk.top, region.y), end = std::min(chunk.top + chunk.height, region.y + region.height);
  const int strip_top = chunk.top / chunk_height_ * chunk_height_;
  if (stored_at == 0 || bytes < line * static_cast<std::uint64_t>(end - strip_top))
    throw broken(path_, "The TIFF holds fewer samples than its header says.");
  const bool whole = region.x == 0 && region.width == info_.width;
  const std::size_t wanted = line_bytes(region.width),
                    lines_at_once = whole ? static_cast<std::size_t>(end - first) : 1;
  thread_local std::vector<std::byte> buffer;
  buffer.resize(wanted * lines_at_once);
  for (int y = first; y < end; y += static_cast<int>(lines_at_once)) {
    auto at = static_cast<off_t>(start + line * static_cast<std::uint64_t>(y - strip_top) + line_bytes(region.x));
    // Rows of one band without padding are read where they belong.
    const bool in_place =
        stored_ == 1 && (lines_at_once == 1 || static_cast<std::size_t>(image.stride<std::byte>()) == wanted);
    std::byte* to = in_place ? image.bytes(chunk.plane, y - region.y) : buffer.data();
    for (std::size_t done = 0; done < buffer.size();) {
      const ssize_t got = ::pread(TIFFFileno(tiff), to + done, buffer.size() - done, at + static_cast<off_t>(done));
      if (got < 0 && errno == EINTR) continue;
      if (got <= 0) throw broken(path_, "The TIFF ends before its samples do.");
      done += static_cast<std::size_t>(got);
    }
    if (swapped_ && sample == 2)
      TIFFSwabArrayOfShort(reinterpret_cast<std::uint16_t*>(to), static_cast<tmsize_t>(buffer.size() / 2));
    if (swapped_ && sample == 4)
      TIFFSwabArrayOfLong(reinterpret_cast<std::uint32_t*>(to), static_cast<tmsize_t>(buffer.size() / 4));
    for (std::size_t k = 0; !in_place && k < lines_at_once; ++k)
      unweave(buffer.data() + k * wanted, stored_, chunk.plane, 0, y + static_cast<int>(k) - region.y, region.width,
              image);
  }
}

/// Red, green and blue of a whole strip or tile, as the library makes them; its rows come from below.
void TiffPage::read_by_library(TIFF* tiff, const Chunk& chunk, Region region, Image& image) const {
  // At least a sample a pixel: what the file cannot hold is not made room for.
  if (static_cast<double>(TIFFGetStrileByteCount(tiff, chunk.number)) * expansion_ <
      static_cast<double>(chunk.width) * chunk.height)
    throw broken(path_, "The TIFF holds fewer samples than its header says.");
  TIFFSetField(tiff, TIFFTAG_ORIENTATION, ORIENTATION_TOPLEFT);
  std::vector<std::uint32_t> raster(static_cast<std::size_t>(chunk.width) * static_cast<std::size_t>(chunk_height_));
  const auto x = static_cast<std::uint32_t>(chunk.left), y = static_cast<std::uint32_t>(chunk.top);
  const int done =
      tiled_ ? TIFFReadRGBATileExt(tiff, x, y, raster.data(), 1) : TIFFReadRGBAStripExt(tiff, y, raster.data(), 1);
  if (done == 0) throw tiff_error(path_);
  const int left = std::max(chunk.left, region.x), right = std::min(chunk.left + chunk.width, region.x + region.width);
  for (int v = std::max(chunk.top, region.y); v < std::min(chunk.top + chunk.height, region.y + region.height); ++v) {
    const std::uint32_t* row =
        raster.data() + static_cast<std::size_t>(chunk.height - 1 - (v - chunk.top)) * chunk.width;
    for (int band = 0; band < 3; ++band) {
      std::uint8_t* to = image.row<std::uint8_t>(band, v - region.y);
      for (int u = left; u < right; ++u)
        to[u - region.x] = static_cast<std::uint8_t>(row[u - chunk.left] >> (8 * band));
    }
  }
}

void TiffPage::read_encoded(TIFF* tiff, const Chunk& chunk, Region region, Image& image) const {
  const std::size_t line = raw_bytes(chunk.width);
  const double needed = static_cast<double>(line) * chunk.height;
  if (static_cast<double>(TIFFGetStrileByteCount(tiff, chunk.number)) * expansion_ < needed)
    throw broken(path_, "The TIFF holds fewer samples than its header says.");
  // What large chunks take is given back.
  constexpr std::size_t max_kept = 32 << 20;
  thread_local std::vector<std::byte> kept;
  std::vector<std::byte> large;
  std::vector<std::byte>& buffer = needed > max_kept ? large : kept;
  buffer.resize(line * static_cast<std::size_t>(chunk.height));
  const auto size = static_cast<tmsize_t>(buffer.size());
  const tmsize_t got = tiled_ ? TIFFReadEncodedTile(tiff, chunk.number, buffer.data(), size)
                              : TIFFReadEncodedStrip(tiff, chunk.number, buffer.data(), size);
  if (got != size) throw tiff_error(path_);
  const int left = std::max(chunk.left, region.x), right = std::min(chunk.left + chunk.width, region.x + region.width);
  const int end = std::min(chunk.top + chunk.height, region.y + region.height);
  std::vector<std::byte> room;
  for (int y = std::max(chunk.top, region.y); y < end; ++y)
    unweave(unpacked(buffer.data() + static_cast<std::size_t>(y - chunk.top) * line, chunk.width, room) +
                line_bytes(left - chunk.left),
            stored_, chunk.plane * form_->given, left - region.x, y - region.y, right - left, image);
}

/// A strip that is too large to be decoded at once: from its first line on, which is how it has to be.
void TiffPage::read_lines(TIFF* tiff, const Chunk& chunk, Region region, const Job& job, Image& image) const {
  std::vector<std::byte> buffer(raw_bytes(chunk.width)), room;
  const int end = std::min(chunk.top + chunk.height, region.y + region.height);
  for (int y = chunk.top; y < end; ++y) {
    if (y % 64 == 0) {
      job.check();
      if (job.progress) job.progress(static_cast<double>(y - chunk.top) / (end - chunk.top));
    }
    if (TIFFReadScanline(tiff, buffer.data(), static_cast<std::uint32_t>(y), static_cast<std::uint16_t>(chunk.plane)) <
        0)
      throw tiff_error(path_);
    if (y >= region.y)
      unweave(unpacked(buffer.data(), chunk.width, room) + line_bytes(region.x), stored_, chunk.plane * form_->given, 0,
              y - region.y, region.width, image);
  }
}

FileInfo tiff_info(const fs::path& path, const Limits& limits, int page) {
  const auto index = page_index(path, tiff_directories);
  if (!index->cut.empty() && !limits.salvage)
    throw input_error(index->cut, path.string(),
                      index->offsets.empty()
                          ? "Read it from its origin again."
                          : fmt::format("Read it from its origin again, or use the {} page{} that "
                                        "it has (--salvage).",
                                        index->offsets.size(), index->offsets.size() == 1 ? "" : "s"));
  const TiffPage stored(path, page, limits);
  FileInfo info = stored.shown();
  info.frames = static_cast<int>(index->offsets.size());
  if (index->beside > 0)
    info.readings.push_back(index->beside == 1
                                ? std::string("A thumbnail, overview or mask in it is left out.")
                                : fmt::format("{} thumbnails, overviews or masks in it are left out.", index->beside));
  const std::string description = page == 1 ? stored.description() : TiffPage(path, 1, limits).description();
  if (page == 1)
    if (const auto names = ome_page_names(description); static_cast<int>(names.size()) == info.frames)
      info.page_names = names;
  if (const auto ome = ome_stack(description, info.frames, path.filename().string())) put_ome(*ome, page, info);
  return info;
}

std::vector<PageInfo> tiff_pages(const fs::path& path, const Limits& limits) {
  const FileInfo first = tiff_info(path, limits, 1);
  std::vector<PageInfo> pages;
  hush_tiff();
  const auto index = page_index(path, tiff_directories);
  const TiffPointer tiff(TIFFOpen(path.c_str(), "rmh"));
  const auto ome = ome_stack(TiffPage(path, 1, limits).description(), static_cast<int>(index->offsets.size()),
                             path.filename().string());
  for (std::size_t i = 0; i < index->offsets.size(); ++i) {
    PageInfo page;
    try {
      hush_tiff();
      if (i == 0) {
        page.info = first;
      } else {
        if (!tiff || TIFFSetSubDirectory(tiff.get(), index->offsets[i]) == 0) throw tiff_error(path);
        page.info = page_info(path, tiff.get());
        check_size(path, *page.info, limits);
        page.info = as_shown(*page.info, limits);
      }
      page.info->frames = first.frames;
      page.info->page_names = first.page_names;
      if (ome) put_ome(*ome, static_cast<int>(i) + 1, *page.info);
    } catch (const Error& error) {
      page.trouble = error.message();
    }
    pages.push_back(std::move(page));
  }
  return pages;
}

Image tiff_read(const fs::path& path, int page, const Limits& limits, const Job& job) {
  const TiffPage stored(path, page, limits);
  check_size(path, stored.info(), limits);
  return stored.read({0, 0, stored.info().width, stored.info().height}, job);
}

}  // namespace fexel::codec

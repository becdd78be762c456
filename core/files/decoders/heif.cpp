#include <libheif/heif.h>

#include <cstring>

#include "files/decoders/decoders.h"

namespace fexel::codec {
namespace {

struct FreeAll {
  void operator()(heif_context* context) const { ::heif_context_free(context); }
  void operator()(heif_image_handle* handle) const { ::heif_image_handle_release(handle); }
  void operator()(heif_image* image) const { ::heif_image_release(image); }
};
using Handle = std::unique_ptr<heif_image_handle, FreeAll>;

class Reader {
 public:
  Reader(const fs::path& path, const Limits& limits) : path_(path), bytes_(all_bytes(path, limits)) {
    context_.reset(::heif_context_alloc());
    check(::heif_context_read_from_memory_without_copy(context_.get(), bytes_.data(), bytes_.size(), nullptr));
    const int count = ::heif_context_get_number_of_top_level_images(context_.get());
    ids_.resize(static_cast<std::size_t>(std::clamp(count, 0, 10000)));
    ::heif_context_get_list_of_top_level_image_IDs(context_.get(), ids_.data(), static_cast<int>(ids_.size()));
    if (ids_.empty()) throw broken(path, "The file holds no picture.");
    // The main one comes first.
    heif_item_id main = 0;
    if (::heif_context_get_primary_image_ID(context_.get(), &main).code == heif_error_Ok)
      std::stable_partition(ids_.begin(), ids_.end(), [&](heif_item_id id) { return id == main; });
  }
  int count() const { return static_cast<int>(ids_.size()); }

  Handle handle(int page) const {
    check_page(path_, page, count());
    heif_image_handle* out = nullptr;
    check(::heif_context_get_image_handle(context_.get(), ids_[static_cast<std::size_t>(page) - 1], &out));
    return Handle(out);
  }

  FileInfo info(int page) const {
    const Handle picture = handle(page);
    FileInfo out;
    out.format = "heif";
    out.width = ::heif_image_handle_get_width(picture.get());
    out.height = ::heif_image_handle_get_height(picture.get());
    out.frames = count();
    out.bands = 3;
    const int bits = ::heif_image_handle_get_luma_bits_per_pixel(picture.get());
    if (bits < 1 || bits > 16) throw broken(path_, "The file does not say how deep its samples are.");
    settle_bits(out, std::max(bits, 8));
    out.alpha = ::heif_image_handle_has_alpha_channel(picture.get()) != 0;
    out.associated = out.alpha && ::heif_image_handle_is_premultiplied_alpha(picture.get()) != 0;
    out.readings.emplace_back(
        "Its colours are stored as YCbCr, mostly with loss; they are read as red, green and blue.");
    if (const auto type = ::heif_image_handle_get_color_profile_type(picture.get());
        type == heif_color_profile_type_prof || type == heif_color_profile_type_rICC)
      out.profile = "embedded";
    return out;
  }

  Image read(int page, const Limits& limits) const {
    const Handle picture = handle(page);
    const FileInfo said = info(page);
    check_size(path_, said, limits);
    heif_image* decoded = nullptr;
    check(::heif_decode_image(picture.get(), &decoded, heif_colorspace_RGB, heif_chroma_444, nullptr));
    const std::unique_ptr<heif_image, FreeAll> image(decoded);
    Image out(said.width, said.height, said.alpha ? 4 : 3, said.depth, Image::Start::unset);
    out.set_largest(said.largest);
    constexpr heif_channel channels[] = {heif_channel_R, heif_channel_G, heif_channel_B, heif_channel_Alpha};
    for (int band = 0; band < out.bands(); ++band) {
      int stride = 0;
      const std::uint8_t* plane = ::heif_image_get_plane_readonly(image.get(), channels[band], &stride);
      const int bits = ::heif_image_get_bits_per_pixel_range(image.get(), channels[band]);
      const bool fits = plane && ::heif_image_get_width(image.get(), channels[band]) == said.width &&
                        ::heif_image_get_height(image.get(), channels[band]) == said.height &&
                        (bits > 8) == (said.depth == Depth::u16);
      if (!fits) throw broken(path_, "The samples of the picture are not what its header says.");
      for (int y = 0; y < said.height; ++y)
        std::memcpy(out.bytes(band, y), plane + static_cast<std::ptrdiff_t>(y) * stride, out.row_bytes());
    }
    return out;
  }

  Stored attached() const {
    Stored out;
    const Handle picture = handle(1);
    if (const std::size_t size = ::heif_image_handle_get_raw_color_profile_size(picture.get()); size > 0) {
      out.profile.resize(size);
      if (::heif_image_handle_get_raw_color_profile(picture.get(), out.profile.data()).code != heif_error_Ok)
        out.profile.clear();
    }
    std::vector<heif_item_id> ids(static_cast<std::size_t>(
        std::clamp(::heif_image_handle_get_number_of_metadata_blocks(picture.get(), nullptr), 0, 100)));
    ::heif_image_handle_get_list_of_metadata_block_IDs(picture.get(), nullptr, ids.data(),
                                                       static_cast<int>(ids.size()));
    for (const heif_item_id id : ids) {
      const std::string type = ::heif_image_handle_get_metadata_type(picture.get(), id);
      const char* content = ::heif_image_handle_get_metadata_content_type(picture.get(), id);
      std::vector<unsigned char> block(::heif_image_handle_get_metadata_size(picture.get(), id));
      if (block.empty() || ::heif_image_handle_get_metadata(picture.get(), id, block.data()).code != heif_error_Ok)
        continue;
      if (type == "Exif" && block.size() > 4) {
        // Behind four bytes that say where the block begins.
        const std::size_t skip =
            4 + (std::size_t{block[0]} << 24 | std::size_t{block[1]} << 16 | std::size_t{block[2]} << 8 | block[3]);
        if (skip < block.size()) out.exif.assign(block.begin() + static_cast<std::ptrdiff_t>(skip), block.end());
      }
      if (type == "mime" && content && std::string_view(content) == "application/rdf+xml") out.xmp = block;
    }
    return out;
  }

 private:
  void check(const heif_error& error) const {
    if (error.code == heif_error_Ok) return;
    if (error.code == heif_error_Unsupported_filetype || error.code == heif_error_Unsupported_feature)
      throw input_error(fmt::format("The file is compressed in a way that is not read here: {}.", error.message),
                        path_.string(), "Save it as TIFF or PNG.");
    throw broken(path_, fmt::format("The file cannot be read: {}.", error.message));
  }

  fs::path path_;
  std::vector<std::uint8_t> bytes_;
  std::unique_ptr<heif_context, FreeAll> context_;
  std::vector<heif_item_id> ids_;
};

}  // namespace

FileInfo heif_info(const fs::path& path, const Limits& limits, int page) {
  FileInfo info = Reader(path, limits).info(page);
  settle_alpha(info, limits);
  return info;
}

std::vector<PageInfo> heif_pages(const fs::path& path, const Limits& limits) {
  const Reader reader(path, limits);
  std::vector<PageInfo> pages;
  for (int page = 1; page <= reader.count(); ++page) {
    try {
      FileInfo info = reader.info(page);
      settle_alpha(info, limits);
      pages.push_back({std::move(info), {}});
    } catch (const Error& error) {
      if (page == 1) throw;
      pages.push_back({{}, error.message()});
    }
  }
  return pages;
}

Image heif_read(const fs::path& path, int page, const Limits& limits, const Job& job) {
  const Reader reader(path, limits);
  const FileInfo stored = reader.info(page);
  Image image = reader.read(page, limits);
  job.check();
  settle_alpha(image, stored, limits, image.largest());
  return image;
}

Stored heif_attached(const fs::path& path) {
  return Reader(path, {}).attached();
}

std::string heif_library() {
  return fmt::format("libheif {}", ::heif_get_version());
}

}  // namespace fexel::codec

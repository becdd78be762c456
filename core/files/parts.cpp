#include "files/parts.h"

#include "files/tiff.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

class TiffParts : public PictureParts {
 public:
  TiffParts(const fs::path& path, int page, const Limits& limits) : page_(path, page, limits) {}
  Image read(Region region, const Job& job) const override { return page_.read(region, job); }
  bool upright() const { return page_.info().orientation == 1; }

 private:
  codec::TiffPage page_;
};

}  // namespace

std::unique_ptr<PictureParts> open_parts(const fs::path& path, int page, const Limits& limits) {
  if (read_info(path, limits).format != name_of(Format::tiff)) return nullptr;
  auto parts = std::make_unique<TiffParts>(path, page, limits);
  if (!parts->upright()) return nullptr;
  return parts;
}

struct PictureRows::State {
  State(const fs::path& path, Size size_, int bands_, Depth depth_, int pages_, const WriteOptions& options)
      : file(path, options.replace),
        writer(
            file, path,
            static_cast<double>(size_.width) * size_.height * bands_ * pages_ * static_cast<double>(bytes_of(depth_)),
            options),
        size(size_),
        bands(bands_),
        depth(depth_),
        pages(pages_) {
    begin();
  }
  void begin() { writer.begin_page(size, bands, depth, page, pages); }

  SafeFile file;
  codec::TiffWriter writer;
  Size size;
  int bands;
  Depth depth;
  int pages, page = 0;
};

PictureRows::PictureRows(const fs::path& path, Size size, int bands, Depth depth, int pages,
                         const WriteOptions& options) {
  check_target(path, options);
  state_ = std::make_unique<State>(path, size, bands, depth, pages, options);
}
PictureRows::~PictureRows() = default;

void PictureRows::append(const Image& rows, const Job& job) {
  state_->writer.append(rows, job);
}

void PictureRows::end_page() {
  state_->writer.end_page();
  if (++state_->page < state_->pages) state_->begin();
}

void PictureRows::commit() {
  state_->writer.finish();
  state_->file.commit();
}

}  // namespace fexel

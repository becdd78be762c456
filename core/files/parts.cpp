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
  if (read_info(path, limits, page).format != name_of(Format::tiff)) return nullptr;
  auto parts = std::make_unique<TiffParts>(path, page, limits);
  if (!parts->upright()) return nullptr;
  return parts;
}

std::string read_description(const fs::path& path, int page) {
  if (read_info(path, {}, page).format != name_of(Format::tiff)) return {};
  return codec::TiffPage(path, page, {}).description();
}

namespace {

double bytes_of_all(const std::vector<PictureRows::Page>& pages) {
  double sum = 0;
  for (const auto& page : pages)
    sum += static_cast<double>(page.size.width) * page.size.height * page.bands *
           static_cast<double>(bytes_of(page.depth));
  return sum;
}

}  // namespace

struct PictureRows::State {
  State(const fs::path& path, std::vector<Page> all, const WriteOptions& options)
      : file(path, options.replace), writer(file, path, bytes_of_all(all), options), pages(std::move(all)) {}
  /// A page begins with its first rows, so that a file can end before all pages came.
  void begin() {
    if (begun) return;
    begun = true;
    const Page& page = pages[next];
    writer.begin_page(page.size, page.bands, page.depth, page.pixel_size, static_cast<int>(next),
                      static_cast<int>(pages.size()));
    if (page.plane) writer.put_coordinates(*page.plane);
  }

  SafeFile file;
  codec::TiffWriter writer;
  std::vector<Page> pages;
  std::size_t next = 0;
  bool begun = false;
};

PictureRows::PictureRows(const fs::path& path, std::vector<Page> pages, const WriteOptions& options) {
  check_target(path, options);
  state_ = std::make_unique<State>(path, std::move(pages), options);
}
PictureRows::~PictureRows() = default;

void PictureRows::append(const Image& rows, const Job& job) {
  state_->begin();
  state_->writer.append(rows, job);
}

void PictureRows::end_page() {
  state_->writer.end_page();
  ++state_->next;
  state_->begun = false;
}

SafeFile& PictureRows::finish() {
  state_->writer.finish();
  return state_->file;
}

}  // namespace fexel

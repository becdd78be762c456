#include "cli/output.h"
#include "cli/verbs.h"
#include "report/marked_copy.h"
#include "run/frames.h"
#include "run/sources.h"

namespace fexel::cli {
namespace fs = std::filesystem;
namespace {

struct ThumbnailWords {
  std::string chain, out;
  int size = 256;
};

/// What the chain makes of its first picture, small: for file managers.
int run_thumbnail(const Common& common, const ThumbnailWords& words) {
  const Chain chain = load_chain(words.chain);
  if (chain.sources.empty())
    throw call_error("This chain names no picture.", words.chain, "Save it from the window with its picture open.");
  const Job job{common.stop, {}};
  const fs::path picture = find_source(words.chain, chain.sources.front(), job).path;
  const std::vector<FrameFile> frames = pages_of(picture, limits_for(chain, {}));
  auto image = std::make_shared<const Image>(read_frame(frames.front(), limits_for(chain, {}), job));
  const FileInfo& info = *frames.front().info;
  const SourceShape shape{{image->width(), image->height()}, image->bands(), image->depth(), info.pixel_size};
  const Layout layout = lay_out(chain, shape);
  layout.require_sound();
  const auto pictures = std::make_shared<const RunPictures>(std::make_shared<const Pyramid>(image), chain, layout);
  const MarkedResult result(chain, shape, layout, pictures, std::nullopt);
  const Size size = layout.result().size;
  const double scale = std::min(1.0, static_cast<double>(words.size) / std::max(size.width, size.height));
  const RgbPicture small = result.picture(scale, job);
  Image out(small.width, small.height, 3, Depth::u8);
  for (int y = 0; y < small.height; ++y)
    for (int x = 0; x < small.width; ++x)
      for (int band = 0; band < 3; ++band)
        out.row<std::uint8_t>(band, y)[x] =
            small.pixels[3 * (static_cast<std::size_t>(y) * static_cast<std::size_t>(small.width) +
                              static_cast<std::size_t>(x)) +
                         static_cast<std::size_t>(band)];
  std::vector<Image> pages;
  pages.push_back(std::move(out));
  WriteOptions how;
  how.format = Format::png;
  how.replace = true;  // it is the file manager's own
  auto keep = std::make_shared<ProtectedPaths>();
  keep->add(words.chain, "the chain");
  for (const SourceReference& source : chain.sources)
    keep->add(fs::path(words.chain).parent_path() / source.path, "a source");
  keep->add(picture, "a source");
  how.keep = keep;
  write_pictures(words.out, pages, how, job);
  return all_done;
}

}  // namespace

void add_thumbnail(CLI::App& app, Common& common, Verbs& verbs) {
  auto words = std::make_shared<ThumbnailWords>();
  CLI::App* verb = app.add_subcommand("thumbnail", "what a chain makes of its first picture, as a small PNG");
  verb->add_option("CHAIN", words->chain, "the chain")->required();
  verb->add_option("OUT", words->out, "the PNG to write; one that is there is replaced")->required();
  verb->add_option("--size", words->size, "px of its longer side (256)")->check(CLI::Range(16, 4096));
  add_common(*verb, common);
  verbs.emplace_back(verb, [words, &common] { return run_thumbnail(common, *words); });
}

}  // namespace fexel::cli

#include "report/marked_copy.h"

#include <fmt/format.h>

#include "base/error.h"
#include "quality/uncertainty.h"

namespace fexel {
namespace {

constexpr int reduced_side = 512;    // pixels of the picture by which black and white are chosen
constexpr int longest_side = 32000;  // that can be drawn on
constexpr double most_pixels = 2.5e8;

}  // namespace

const std::vector<std::string>& copy_format_words() {
  static const std::vector<std::string> words{"png", "tiff", "jpeg", "svg", "pdf"};
  return words;
}

std::optional<CopyFormat> copy_format_of_name(const std::filesystem::path& path) {
  std::string ending = path.extension().string();
  std::ranges::transform(ending, ending.begin(), [](unsigned char c) { return std::tolower(c); });
  if (ending == ".svg") return CopyFormat::svg;
  if (ending == ".pdf") return CopyFormat::pdf;
  const auto format = format_of_name(path);
  if (format == Format::png) return CopyFormat::png;
  if (format == Format::tiff) return CopyFormat::tiff;
  if (format == Format::jpeg) return CopyFormat::jpeg;
  return std::nullopt;
}

RgbPicture rgb_of(const Image& image, const std::optional<std::pair<double, double>>& range) {
  RgbPicture out{image.width(), image.height(), {}};
  out.pixels.resize(3 * static_cast<std::size_t>(out.width) * static_cast<std::size_t>(out.height));
  const bool colour = image.bands() >= 3;
  const double low = range ? range->first : 0, high = range ? range->second : image.largest();
  const auto scale = static_cast<float>(255 / (high - low));
  visit_depth(image.depth(), [&](auto sample) {
    using T = decltype(sample);
    // As the window shows them: whole bytes are kept as they are.
    const auto level = [&](T v) -> std::uint8_t {
      if constexpr (sizeof(T) == 1) {
        if (!range && image.stated_largest() == 0) return v;
      } else if constexpr (sizeof(T) == 2) {
        if (!range && image.stated_largest() == 0) return static_cast<std::uint8_t>(v / 257);
      }
      const float shown = (static_cast<float>(v) - static_cast<float>(low)) * scale;
      return shown > 0 ? static_cast<std::uint8_t>(std::min(shown, 255.0F) + 0.5F) : std::uint8_t{0};
    };
    std::uint8_t* to = out.pixels.data();
    for (int y = 0; y < image.height(); ++y) {
      const T* bands[] = {image.row<T>(0, y), image.row<T>(colour ? 1 : 0, y), image.row<T>(colour ? 2 : 0, y)};
      for (int x = 0; x < image.width(); ++x)
        for (const T* band : bands) *to++ = image.valid(x, y) ? level(band[x]) : std::uint8_t{255};
    }
  });
  return out;
}

MarkedResult::MarkedResult(Chain chain, SourceShape shape, Layout layout, std::shared_ptr<const RunPictures> pictures,
                           std::optional<std::pair<double, double>> range)
    : chain_(std::move(chain)),
      shape_(std::move(shape)),
      layout_(std::move(layout)),
      pictures_(std::move(pictures)),
      range_(range),
      range_known_(range || layout_.result().depth != Depth::f32),
      frame_(layout_.frame + 1) {}

const std::optional<std::pair<double, double>>& MarkedResult::shown_range(const Job& job) const {
  if (range_known_) return range_;
  const auto data = range_of_data(pictures_->pixels(layout_.last(), job));
  if (data && (data->first < 0 || data->second > 1) && data->second > data->first) range_ = data;
  range_known_ = true;
  return range_;
}

RgbPicture MarkedResult::part(const Rect& part, int width, int height, const Job& job) const {
  const Map station_from_view(Matrix3(translation(part.x, part.y) * scaling(part.width / width, part.height / height)));
  const Station& at = layout_.result();
  const WarpPlan plan = plan_for_view(layout_, layout_.last(), station_from_view, {width, height});
  const auto start = pictures_->at(at.run_start, job);
  return rgb_of(warp(*start, plan, {0, 0, width, height}, chain_.resampling, Quality::final, job), shown_range(job));
}

RgbPicture MarkedResult::reduced(const Job& job) const {
  const Size size = layout_.result().size;
  const double scale = std::min(1.0, static_cast<double>(reduced_side) / std::max(size.width, size.height));
  return part({0, 0, static_cast<double>(size.width), static_cast<double>(size.height)},
              std::max(1, static_cast<int>(size.width * scale)), std::max(1, static_cast<int>(size.height * scale)),
              job);
}

double MarkedResult::scale() const {
  return copy_scale(chain_.mark_style, layout_.result().size);
}

RgbPicture MarkedResult::picture(double scale, const Job& job) const {
  const Size size = layout_.result().size;
  if (scale == 1) return rgb_of(pictures_->pixels(layout_.last(), job), shown_range(job));
  return part({0, 0, static_cast<double>(size.width), static_cast<double>(size.height)},
              std::max(1, static_cast<int>(std::lround(size.width * scale))),
              std::max(1, static_cast<int>(std::lround(size.height * scale))), job);
}

MarkDrawing MarkedResult::drawing(double scale, const RgbPicture& reduced, const Job& job) const {
  MarkInput input;
  input.size = layout_.result().size;
  input.scale = scale;
  input.pixel = layout_.result().pixel;
  input.frame = frame_;
  if (chain_.time_step) {
    input.time_step = chain_.time_step->value;
    input.time_unit = chain_.time_step->unit;
  }
  const int last = layout_.last();
  input.carried = [&](Point p, int station) -> std::optional<Point> {
    const Carried at = carry(layout_, p, station, last);
    return at.status == CarryStatus::beyond_horizon ? std::nullopt : std::optional(at.point);
  };
  if (std::ranges::any_of(chain_.marks, [](const Mark& m) { return std::holds_alternative<MeasurementsMark>(m.kind); }))
    for (const Measurement& measurement : chain_.measurements) {
      if (measurement.station > last) continue;
      MarkedMeasurement one{measurement.name, {}, {}};
      for (OutlinePart& drawn : drawn_at(layout_, measurement, last))
        one.parts.push_back({std::move(drawn.points), drawn.closed});
      one.text = value_text(measurement, read_at(chain_, shape_, layout_, measurement, last));
      input.measurements.push_back(std::move(one));
    }
  input.under = &reduced;
  if (pictures_) input.part = [&](const Rect& rect, int width, int height) { return part(rect, width, height, job); };
  return lay_out_marks(chain_.marks, chain_.mark_style, input);
}

std::vector<std::string> mark_problems(const Chain& chain, const SourceShape& shape, const Layout& layout) {
  const MarkedResult result(chain, shape, layout, nullptr, std::nullopt);
  std::vector<std::string> out;
  for (const std::string& problem : result.drawing(result.scale(), {}, {}).problems)
    if (!problem.empty()) out.push_back(problem);
  return out;
}

void write_marked_copy(const MarkedResult& result, const std::filesystem::path& path, CopyFormat format, bool replace,
                       std::shared_ptr<const ProtectedPaths> keep, const Job& job) {
  if (result.chain().marks.empty())
    throw call_error("This chain has no marks.", path.string(), "Add a scale bar or another mark first.");
  if (const auto problems = mark_problems(result.chain(), result.shape(), result.layout()); !problems.empty())
    throw call_error(problems.front(), path.string());
  const Size size = result.layout().result().size;
  const double scale = result.scale(), width = size.width * scale, height = size.height * scale;
  if (width > longest_side || height > longest_side || width * height > most_pixels)
    throw call_error(fmt::format("A copy of {:.0f} x {:.0f} px is too large to be drawn on.", width, height),
                     path.string(), "Set the dots per inch of the style, so that the copy is smaller.");
  RgbPicture picture = result.picture(scale, job.part(0, 0.6));
  const double exact = static_cast<double>(picture.width) / size.width;
  const MarkDrawing drawing = result.drawing(exact, result.reduced(job.part(0.6, 0.7)), job.part(0.7, 0.8));
  const MarkLook look = look_of(result.chain().mark_style);
  if (format == CopyFormat::svg || format == CopyFormat::pdf) {
    write_text(path,
               format == CopyFormat::svg ? as_svg(drawing, picture, look.width) : as_pdf(drawing, picture, look.width),
               replace, keep.get());
    return;
  }
  paint_over(drawing, picture);
  Image image(picture.width, picture.height, 3, Depth::u8, Image::Start::unset);
  const std::uint8_t* from = picture.pixels.data();
  for (int y = 0; y < image.height(); ++y)
    for (int x = 0; x < image.width(); ++x)
      for (int band = 0; band < 3; ++band) image.row<std::uint8_t>(band, y)[x] = *from++;
  WriteOptions options;
  options.format = format == CopyFormat::png ? Format::png : format == CopyFormat::tiff ? Format::tiff : Format::jpeg;
  options.replace = replace;
  options.keep = std::move(keep);
  if (auto pixel = result.layout().result().pixel) {
    pixel->x /= exact;
    pixel->y /= static_cast<double>(picture.height) / size.height;
    options.pixel_size = pixel;
  }
  std::vector<Image> pages;
  pages.push_back(std::move(image));
  write_pictures(path, pages, options, job.part(0.8, 1));
}

}  // namespace fexel

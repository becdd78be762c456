#include "app/steps/step_titles.h"

#include <algorithm>
#include <map>

#include "app/ui/text.h"

namespace fexel {
namespace {

struct Said {
  QString title, purpose, also;  // also: other words that people look for it by
};

Said said_of(const std::string& word) {
  static const std::map<std::string, Said> words = {
      {QuarterStep::word,
       {QObject::tr("Quarter turn"), QObject::tr("turn by whole quarters, bit for bit"),
        QObject::tr("rotate 90 180 270 degrees portrait landscape upright")}},
      {MirrorStep::word,
       {QObject::tr("Mirror"), QObject::tr("left and right, or up and down, change places"),
        QObject::tr("flip reverse handedness reflect")}},
      {TurnStep::word,
       {QObject::tr("Turn"), QObject::tr("turn by any angle"),
        QObject::tr("rotate straighten level plumb tilted slanted angle degrees horizon")}},
      {ShiftStep::word,
       {QObject::tr("Shift"), QObject::tr("move the picture in its window"),
        QObject::tr("move translate offset displace")}},
      {CropStep::word,
       {QObject::tr("Crop"), QObject::tr("cut out a rectangle"), QObject::tr("trim region of interest window ratio")}},
      {ResizeStep::word,
       {QObject::tr("Resize"), QObject::tr("another size, by pixels, factor or pixel size"),
        QObject::tr("scale resample enlarge shrink zoom dpi resolution thumbnail")}},
      {ReduceStep::word,
       {QObject::tr("Reduce"), QObject::tr("blocks of pixels to one each"),
        QObject::tr("bin average downsample smaller sum")}},
      {PadStep::word,
       {QObject::tr("Pad"), QObject::tr("more pixels around the picture"),
        QObject::tr("border margin extend canvas frame")}},
      {MatrixStep::word,
       {QObject::tr("Matrix"), QObject::tr("any planar map, by its nine numbers"),
        QObject::tr("affine projective homography transform shear")}},
      {RectifyStep::word,
       {QObject::tr("Rectify"), QObject::tr("lay a known rectangle square, so that lengths are true"),
        QObject::tr("perspective straighten keystone square homography facade plane corners")}},
      {TiltStep::word,
       {QObject::tr("Tilt"), QObject::tr("turn the picture's plane in space"),
        QObject::tr("perspective pitch yaw roll rotate in space")}},
      {LensStep::word,
       {QObject::tr("Lens"), QObject::tr("undo the distortion of a lens, or add it"),
        QObject::tr("distortion barrel pincushion undistort straight lines")}},
      {FitStep::word,
       {QObject::tr("Control points"), QObject::tr("lay control points on where they belong"),
        QObject::tr("affine projective polynomial thin-plate spline warp register control points landmarks pairs")}},
      {UnwrapStep::word,
       {QObject::tr("Unwrap"), QObject::tr("roll a ring out to a strip"),
        QObject::tr("polar ring rim circle dial cylinder")}},
      {BandsStep::word,
       {QObject::tr("Bands"), QObject::tr("grey, or some bands in another order"),
        QObject::tr("channels colour color red green blue grey gray")}},
      {ContrastStep::word,
       {QObject::tr("Local contrast"), QObject::tr("the same contrast everywhere"),
        QObject::tr("equalise equalize local brightness")}},
      {HighpassStep::word,
       {QObject::tr("High-pass"), QObject::tr("take slow changes of light away"),
        QObject::tr("background flatten shading illumination")}},
      {DenoiseStep::word,
       {QObject::tr("Denoise"), QObject::tr("median or Gaussian of the surroundings"),
        QObject::tr("median gaussian smooth blur noise")}},
      {ConvolveStep::word,
       {QObject::tr("Convolve"), QObject::tr("sums of neighbours with a kernel of your own"),
        QObject::tr("filter sharpen edge derivative sobel kernel")}},
      {AlignStep::word,
       {QObject::tr("Align"), QObject::tr("bring all frames, or bands, to one of them"),
        QObject::tr("register stack sequence stabilise stabilize drift channels")}}};
  return words.at(word);
}

QString plain(double value) {
  return text_of(short_number(value, 6));
}

QString parameter_of(const QuarterStep& step) {
  const int turns = ((step.turns % 4) + 4) % 4;
  return turns == 0   ? QObject::tr("no turn")
         : turns == 2 ? QObject::tr("half turn")
         : turns == 1 ? QObject::tr("90° counter-clockwise")
                      : QObject::tr("90° clockwise");
}

QString parameter_of(const MirrorStep& step) {
  return step.reverse == 'x' ? QObject::tr("left ↔ right") : QObject::tr("up ↔ down");
}

QString parameter_of(const TurnStep& step) {
  if (step.degrees == 0) return QObject::tr("no turn");
  return step.degrees < 0 ? QObject::tr("%1° clockwise").arg(plain(-step.degrees))
                          : QObject::tr("%1° counter-clockwise").arg(plain(step.degrees));
}

QString parameter_of(const ShiftStep& step) {
  return QObject::tr("%1 px %2, %3 px %4")
      .arg(plain(std::abs(step.dx)), step.dx < 0 ? QObject::tr("left") : QObject::tr("right"), plain(std::abs(step.dy)),
           step.dy < 0 ? QObject::tr("up") : QObject::tr("down"));
}

QString parameter_of(const CropStep& step) {
  if (std::holds_alternative<CropValid>(step.what)) return QObject::tr("to the area without gaps");
  if (const auto* ratio = std::get_if<CropRatio>(&step.what))
    return QString("%1 : %2").arg(ratio->across).arg(ratio->down);
  const auto& r = std::get<CropRectangle>(step.what);
  return QObject::tr("from %1, %2").arg(r.x).arg(r.y);
}

QString parameter_of(const ResizeStep& step) {
  if (step.scale)
    return step.scale->first == step.scale->second
               ? QString("× %1").arg(plain(step.scale->first))
               : QString("× %1, × %2").arg(plain(step.scale->first), plain(step.scale->second));
  if (step.pixel_size) return QObject::tr("to %1 %2/px").arg(plain(*step.pixel_size), unit_text(step.unit));
  if (step.width && step.height) return QObject::tr("to %1 × %2 px").arg(*step.width).arg(*step.height);
  return step.width ? QObject::tr("to %1 px across").arg(*step.width) : QObject::tr("to %1 px down").arg(*step.height);
}

QString parameter_of(const ReduceStep& step) {
  const QString by = step.factor_x == step.factor_y ? QObject::tr("by %1").arg(step.factor_x)
                                                    : QObject::tr("by %1 × %2").arg(step.factor_x).arg(step.factor_y);
  static const char* const takes[] = {QT_TR_NOOP("first"), QT_TR_NOOP("mean"), QT_TR_NOOP("median"), QT_TR_NOOP("min"),
                                      QT_TR_NOOP("max")};
  return by + ", " + QObject::tr(takes[static_cast<std::size_t>(step.take)]);
}

QString parameter_of(const PadStep& step) {
  if (step.left == step.right && step.left == step.top && step.left == step.bottom)
    return QObject::tr("%1 px all around").arg(step.left);
  return QObject::tr("%1, %2, %3, %4 px").arg(step.left).arg(step.top).arg(step.right).arg(step.bottom);
}

QString parameter_of(const MatrixStep& step) {
  return step.matrix(2, 0) == 0 && step.matrix(2, 1) == 0 ? QObject::tr("affine") : QObject::tr("projective");
}

QString parameter_of(const RectifyStep& step) {
  if (step.shape == RectifyStep::Shape::ratio)
    return QObject::tr("as %1 to 1").arg(text_of(short_number(step.ratio, 4)));
  if (step.shape == RectifyStep::Shape::estimated) return QObject::tr("ratio estimated");
  return QString("%1 × %2 %3")
      .arg(text_of(short_number(step.width, 5)), text_of(short_number(step.height, 5)), unit_text(step.unit));
}

QString parameter_of(const TiltStep& step) {
  return QObject::tr("%1°, %2°, %3°").arg(plain(step.about_x), plain(step.about_y), plain(step.about_z));
}

QString parameter_of(const LensStep& step) {
  return (step.add ? QObject::tr("add, k1 %1") : QObject::tr("undo, k1 %1")).arg(plain(step.terms.k1));
}

QString parameter_of(const FitStep& step) {
  const auto used = std::ranges::count_if(step.pairs, [](const PointPair& pair) { return pair.use; });
  return QObject::tr("%1, %2 pairs").arg(text_of(name_of(step.model))).arg(used);
}

QString parameter_of(const UnwrapStep& step) {
  return QObject::tr("radius %1 to %2 px").arg(plain(step.inner), plain(step.outer));
}

QString parameter_of(const BandsStep& step) {
  if (step.take.empty()) return QObject::tr("grey");
  QStringList numbers;
  for (const int number : step.take) numbers << QString::number(number);
  return QObject::tr("band %1").arg(numbers.join(", "));
}

QString parameter_of(const ContrastStep& step) {
  return QObject::tr("tiles of %1 px").arg(step.tile);
}

QString parameter_of(const HighpassStep& step) {
  return QObject::tr("within %1 px").arg(plain(step.radius));
}

QString parameter_of(const DenoiseStep& step) {
  return (step.median ? QObject::tr("median, radius %1 px") : QObject::tr("Gaussian, radius %1 px"))
      .arg(plain(step.radius));
}

QString parameter_of(const ConvolveStep& step) {
  return QObject::tr("%1 × %2 numbers").arg(step.kernel.width).arg(step.kernel.height);
}

QString parameter_of(const AlignStep& step) {
  if (step.frames.empty()) return QObject::tr("not searched yet");
  const auto matched =
      std::ranges::count_if(step.frames, [](const FoundFrame& f) { return f.status != MatchStatus::failed; });
  return QObject::tr("%1 of %2 matched").arg(matched).arg(step.frames.size());
}

}  // namespace

QString step_title(const std::string& word) {
  return said_of(word).title;
}

const std::vector<std::string>& steps_in_order() {
  static const std::vector<std::string> words = {
      RectifyStep::word,  FitStep::word,      CropStep::word,    TurnStep::word,     QuarterStep::word,
      MirrorStep::word,   ShiftStep::word,    ResizeStep::word,  ReduceStep::word,   PadStep::word,
      TiltStep::word,     UnwrapStep::word,   LensStep::word,    MatrixStep::word,   BandsStep::word,
      ContrastStep::word, HighpassStep::word, DenoiseStep::word, ConvolveStep::word, AlignStep::word};
  return words;
}

QString step_purpose(const std::string& word) {
  return said_of(word).purpose;
}

QString called(const Step& step) {
  return step.name.empty() ? step_title(word_of(step.kind)).toLower() : "“" + text_of(step.name) + "”";
}

bool step_answers(const std::string& word, const QString& wanted) {
  const Said said = said_of(word);
  const QString all = said.title + ' ' + said.purpose + ' ' + said.also;
  return std::ranges::all_of(wanted.split(' ', Qt::SkipEmptyParts),
                             [&](const QString& part) { return all.contains(part, Qt::CaseInsensitive); });
}

QString parameter_text(const Step& step, const Station& made) {
  if (made.problem) return QObject::tr("cannot be made");
  if (!step.on) return QObject::tr("off");
  return std::visit([](const auto& kind) { return parameter_of(kind); }, step.kind);
}

}  // namespace fexel

#include "app/report/print_result.h"

#include <QImage>
#include <QPagedPaintDevice>
#include <QPainter>
#include <cmath>

#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

constexpr double overlap = 5, ruler_room = 14;  // mm of paper
constexpr double dots_per_mm = 300 / 25.4;
constexpr int most_sheets = 100;

/// Sheets of `room` that `length` takes, each lying over the one before by the overlap.
int sheets_for(double length, double room) {
  if (length <= room) return 1;
  return static_cast<int>(std::min(most_sheets + 1.0, std::ceil((length - overlap) / (room - overlap) - 1e-9)));
}

QImage image_of(const RgbPicture& picture) {
  return QImage(picture.pixels.data(), picture.width, picture.height, 3 * picture.width, QImage::Format_RGB888)
      .convertToFormat(QImage::Format_ARGB32_Premultiplied);
}

/// A ruler of so many mm, in the paper's own length, with a tick each millimetre.
void draw_ruler(QPainter& painter, double left, double top, double length, double px) {
  painter.setPen(QPen(Qt::black, 0.2 * px));
  painter.drawLine(QPointF(left, top), QPointF(left + length * px, top));
  for (int i = 0; i <= static_cast<int>(length); ++i) {
    const double tick = i % 10 == 0 ? 3.2 : i % 5 == 0 ? 2.3 : 1.4;
    painter.drawLine(QPointF(left + i * px, top), QPointF(left + i * px, top + tick * px));
  }
}

}  // namespace

PrintPlan print_plan(const Station& result, QSizeF paper_mm, std::optional<double> reduction) {
  if (!result.pixel)
    throw call_error("The pixel size of the result is not known, so it has no size on paper.", {},
                     "Give a pixel size on the page of the source, or rectify by a known length.");
  if (!result.pixel->square())
    throw call_error("The pixels of the result are not square.", {}, "Resize it to square pixels first.");
  const double mm = 1000 * metres_per(result.pixel->unit) * result.pixel->mean();  // of one pixel
  const double width = result.size.width * mm, height = result.size.height * mm;
  PrintPlan out{};
  out.sheet_mm = QSizeF(paper_mm.width(), paper_mm.height() - ruler_room);
  if (!reduction) {
    const double needed = std::max(width / out.sheet_mm.width(), height / out.sheet_mm.height());
    const double ten = std::pow(10, std::floor(std::log10(needed)));
    for (const double step : {1.0, 2.0, 2.5, 5.0, 10.0})
      if (!reduction && step * ten >= needed * (1 - 1e-9)) reduction = step * ten;
  }
  out.reduction = *reduction;
  out.width_mm = width / out.reduction;
  out.height_mm = height / out.reduction;
  out.across = sheets_for(out.width_mm, out.sheet_mm.width());
  out.down = sheets_for(out.height_mm, out.sheet_mm.height());
  if (out.across > most_sheets || out.down > most_sheets || out.across * out.down > most_sheets)
    throw call_error("At this scale the picture takes more than " + std::to_string(most_sheets) + " sheets.", {},
                     "Reduce it more, or take larger paper.");
  out.ruler_mm = paper_mm.width() >= 110 ? 100 : 50;
  return out;
}

QString scale_text(double reduction) {
  return reduction >= 1 ? QStringLiteral("1 : %1").arg(number_shown(short_number(reduction, 4)))
                        : QStringLiteral("%1 : 1").arg(number_shown(short_number(1 / reduction, 4)));
}

void print_result(const MarkedResult& result, const PrintPlan& plan, bool with_marks, const QString& name,
                  QPagedPaintDevice& device, const Job& job) {
  result.layout().require_sound();
  const Station& station = result.layout().result();
  const double per_pixel = plan.width_mm / station.size.width;  // mm of paper for a pixel of the result
  const double k = per_pixel * dots_per_mm;                     // pixels that are drawn for one of the result
  std::optional<MarkDrawing> marks;
  if (with_marks && !result.chain().marks.empty()) marks = result.drawing(result.scale(), result.reduced(job), job);
  const auto must = [](bool done) {
    if (!done) throw input_error("The printer takes no sheets.", {}, "See whether it is on, or choose another one.");
  };
  QPainter painter;
  must(painter.begin(&device));
  const double px = device.logicalDpiX() / 25.4;  // of the device in a millimetre
  int sheet = 0;
  for (int row = 0; row < plan.down; ++row)
    for (int column = 0; column < plan.across; ++column, ++sheet) {
      job.check();
      if (sheet > 0) must(device.newPage());
      const double x = column * (plan.sheet_mm.width() - overlap), y = row * (plan.sheet_mm.height() - overlap);
      const double width = std::min(plan.sheet_mm.width(), plan.width_mm - x),
                   height = std::min(plan.sheet_mm.height(), plan.height_mm - y);
      const Rect part{x / per_pixel, y / per_pixel, width / per_pixel, height / per_pixel};
      QImage image = image_of(result.part(part, std::max(1, static_cast<int>(std::lround(width * dots_per_mm))),
                                          std::max(1, static_cast<int>(std::lround(height * dots_per_mm))), job));
      if (marks)
        paint_over(*marks, image.bits(), image.width(), image.height(), static_cast<int>(image.bytesPerLine()),
                   k / result.scale(), {-part.x * k, -part.y * k});
      painter.drawImage(QRectF(0, 0, width * px, height * px), image.convertToFormat(QImage::Format_RGB32));
      const double top = (plan.sheet_mm.height() + 3) * px;
      draw_ruler(painter, 0, top, plan.ruler_mm, px);
      painter.setFont(text_font(7.5));
      QString said =
          QObject::tr("This ruler is %1 mm long. Scale %2.").arg(plan.ruler_mm).arg(scale_text(plan.reduction));
      if (plan.across * plan.down > 1)
        said += " " + QObject::tr("Sheet %1 of %2, row %3, column %4; sheets overlap by %5 mm.")
                          .arg(sheet + 1)
                          .arg(plan.across * plan.down)
                          .arg(row + 1)
                          .arg(column + 1)
                          .arg(overlap);
      painter.drawText(QRectF(0, top + 4 * px, plan.sheet_mm.width() * px, 8 * px),
                       Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, name + ". " + said);
      if (job.progress) job.progress(static_cast<double>(sheet + 1) / (plan.across * plan.down));
    }
  must(painter.end());
}

}  // namespace fexel

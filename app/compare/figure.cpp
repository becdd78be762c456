#include "app/compare/figure.h"

#include <QFileInfo>
#include <QPainter>
#include <QPdfWriter>
#include <QSaveFile>
#include <QSvgGenerator>
#include <array>

#include "app/canvas/view_area.h"
#include "app/document/document.h"
#include "app/pipeline/tile.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

constexpr int margin = 16, line_height = 18;

QString station_name(const Document& document, int station) {
  if (station == 0) return QObject::tr("source");
  return station == document.layout().last() ? QObject::tr("result") : QObject::tr("after step %1").arg(station);
}

void draw(QPainter& painter, const QPixmap& pictures, const QStringList& caption) {
  const QSizeF size = pictures.deviceIndependentSize();
  painter.fillRect(
      QRectF(0, 0, size.width() + 2 * margin, size.height() + 3 * margin + line_height * double(caption.size())),
      Qt::white);
  painter.drawPixmap(QPointF(margin, margin), pictures);
  painter.setPen(QColor(0x23282B));
  painter.setFont(text_font(9.5));
  double y = size.height() + 2 * margin;
  for (const QString& line : caption) {
    painter.drawText(QRectF(margin, y, size.width(), line_height), Qt::AlignLeft | Qt::AlignVCenter, line);
    y += line_height;
  }
}

void check_figure_path(const QString& path, const Document& document) {
  const QString ending = QFileInfo(path).suffix().toLower();
  if (ending != "png" && ending != "svg" && ending != "pdf")
    throw call_error("The name's ending does not say what to write.", path.toStdString(), "Use .png, .svg or .pdf.");
  WriteOptions checks;
  checks.keep = document.protected_paths();
  checks.replace = true;
  check_target(path.toStdString(), checks);
}

}  // namespace

QStringList figure_caption(const ViewArea& views, const Document& document) {
  const QString modes[] = {QObject::tr("one picture"),
                           QObject::tr("side by side"),
                           QObject::tr("curtain: A left, B right"),
                           QObject::tr("by turns"),
                           QObject::tr("difference, B − A"),
                           QObject::tr("tint: A blue, B orange, grey where alike")};
  const Layout& layout = document.layout();
  QStringList out;
  out << QObject::tr("A: %1. B: %2. Shown: %3.")
             .arg(station_name(document, document.station_a()), station_name(document, document.station_b()),
                  modes[static_cast<std::size_t>(views.mode())]);
  QStringList steps;
  for (std::size_t i = 0; i < document.chain().steps.size(); ++i) {
    const Step& step = document.chain().steps[i];
    if (step.on) steps << step_title(word_of(step.kind)) + " " + parameter_text(step, layout.stations[i + 1]);
  }
  out << QObject::tr("%1; %2; %3.")
             .arg(QFileInfo(document.source()->path).fileName(),
                  steps.isEmpty() ? QObject::tr("no steps") : steps.join(" → "), how_made(layout, layout.last()));
  const auto& pixel = layout.result().pixel;
  const QString unit = pixel ? unit_text(pixel->unit) : QString();
  out << (pixel ? QObject::tr("Result: %1 × %2 px of %3 × %4 %5.")
                      .arg(layout.result().size.width)
                      .arg(layout.result().size.height)
                      .arg(number_shown(short_number(pixel->x)), number_shown(short_number(pixel->y)), unit)
                : QObject::tr("Result: %1 × %2 px; pixel size not known.")
                      .arg(layout.result().size.width)
                      .arg(layout.result().size.height));
  return out;
}

void save_figure(const QString& path, ViewArea& views, const Document& document) {
  constexpr int detail = 3;
  check_figure_path(path, document);
  save_captioned(path, views.drawn(detail), figure_caption(views, document), document);
}

void save_captioned(const QString& path, const QPixmap& pictures, const QStringList& caption,
                    const Document& document) {
  check_figure_path(path, document);
  const QString ending = QFileInfo(path).suffix().toLower();
  const QSize page = pictures.deviceIndependentSize().toSize() +
                     QSize(2 * margin, 3 * margin + line_height * static_cast<int>(caption.size()));
  QSaveFile file(path);
  bool well = file.open(QIODevice::WriteOnly);
  if (well && ending == "png") {
    const qreal ratio = pictures.devicePixelRatio();
    QImage image(page * ratio, QImage::Format_RGB32);
    image.setDevicePixelRatio(ratio);
    QPainter painter(&image);
    draw(painter, pictures, caption);
    painter.end();
    well = image.save(&file, "PNG");
  } else if (well && ending == "svg") {
    QSvgGenerator svg;
    svg.setOutputDevice(&file);
    svg.setSize(page);
    svg.setViewBox(QRect(QPoint(0, 0), page));
    svg.setTitle(caption.front());
    QPainter painter(&svg);
    draw(painter, pictures, caption);
  } else if (well) {
    QPdfWriter pdf(&file);
    pdf.setTitle(caption.front());
    pdf.setResolution(96);
    pdf.setPageSize(QPageSize(QSizeF(page) * 72 / 96, QPageSize::Point, {}, QPageSize::ExactMatch));
    pdf.setPageMargins({});
    QPainter painter(&pdf);
    draw(painter, pictures, caption);
  }
  if (!well || !file.commit())
    throw input_error("The figure could not be written: " + file.errorString().toStdString() + ".", path.toStdString(),
                      "Choose another folder, or make room on the disk.");
}

}  // namespace fexel

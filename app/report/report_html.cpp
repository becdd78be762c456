#include "app/report/report_html.h"

#include <QBuffer>
#include <QLocale>
#include <QRegularExpression>
#include <QSvgGenerator>

#include "app/ui/chart.h"

namespace fexel {
namespace {

const char* style = R"(
body { font: 15px/1.45 "DejaVu Sans", Verdana, sans-serif; color: #23282b; background: #fff; max-width: 62em; margin: 2em auto; padding: 0 1em; }
header { border-bottom: 2px solid #0e6b68; margin-bottom: 1.5em; }
header img { float: right; max-height: 4em; max-width: 16em; }
h1 { font-size: 1.6em; margin: 0 0 .2em; }
h2 { font-size: 1.2em; color: #0e6b68; border-bottom: 1px solid #d8d2c5; margin-top: 2em; }
p.soft, figcaption, caption { color: #5a625f; font-size: .9em; }
p.warning { color: #a63a2b; }
pre { background: #f4f1ea; padding: .5em .8em; white-space: pre-wrap; overflow-wrap: anywhere; font-size: .8em; }
table { border-collapse: collapse; margin: 1em 0; font-size: .85em; }
caption { text-align: left; padding-bottom: .3em; }
th { text-align: left; font-weight: 600; border-bottom: 1px solid #23282b; padding: .2em .8em .2em 0; }
td { border-bottom: 1px solid #e6e1d6; padding: .2em .8em .2em 0; vertical-align: top; overflow-wrap: anywhere; }
th.number, td.number { text-align: right; white-space: nowrap; font-variant-numeric: tabular-nums; }
figure { margin: 1em 0; }
figure img, figure svg { max-width: 100%; height: auto; display: block; }
.bar { border-bottom: 3px solid #23282b; text-align: center; font-size: .85em; margin: .3em 0; }
@media print { h2, figure, tr { break-inside: avoid; } thead { display: table-header-group; } }
)";

QString escaped(const QString& text) {
  return text.toHtmlEscaped();
}

QString data_of(const QImage& image, const char* format) {
  constexpr int quality = 92;  // of JPEG
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  image.save(&buffer, format, format == std::string_view("JPEG") ? quality : -1);
  return QStringLiteral("data:image/%1;base64,").arg(QString(format).toLower()) + QString::fromLatin1(bytes.toBase64());
}

QString svg_of(const ReportChart& chart) {
  constexpr int width_mm = 170;
  const QSize size(static_cast<int>(width_mm * px_per_mm), static_cast<int>(chart.height_mm * px_per_mm));
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  QSvgGenerator svg;
  svg.setOutputDevice(&buffer);
  svg.setResolution(96);
  svg.setSize(size);
  svg.setViewBox(QRect(QPoint(0, 0), size));
  svg.setTitle(chart.caption);
  QCPPainter painter;
  painter.begin(&svg);
  painter.setMode(QCPPainter::pmVectorized);
  chart.plot->toPainter(&painter, size.width(), size.height());
  painter.end();
  QString text = QString::fromUtf8(bytes);
  text.remove(0, text.indexOf(QStringLiteral("<svg")));
  // What HTML does not know of the element.
  static const QRegularExpression unknown(R"re( (version|baseProfile|width|height)="[^"]*")re");
  const auto end = text.indexOf('>');
  QString head = text.left(end);
  head.remove(unknown);
  return head + QStringLiteral(" width=\"%1\" height=\"%2\"").arg(size.width()).arg(size.height()) + text.mid(end);
}

struct Writer {
  QString& out;
  void operator()(const ReportText& block) const {
    if (block.text.isEmpty()) return;
    if (block.look == ReportText::Look::code)
      out += "<pre>" + escaped(block.text) + "</pre>\n";
    else
      out += QStringLiteral("<p%1>").arg(block.look == ReportText::Look::warning ? " class=\"warning\"" : "") +
             escaped(block.text).replace('\n', "<br>") + "</p>\n";
  }
  void operator()(const ReportTable& block) const {
    if (block.rows.empty()) return;
    out += "<table>\n";
    if (!block.caption.isEmpty()) out += "<caption>" + escaped(block.caption) + "</caption>\n";
    const auto cell = [&](const char* tag, int column, const QString& text) {
      const bool number =
          static_cast<std::size_t>(column) < block.numbers.size() && block.numbers[static_cast<std::size_t>(column)];
      out += QStringLiteral("<%1%2>%3</%1>").arg(tag, number ? " class=\"number\"" : "", escaped(text));
    };
    if (!block.heads.isEmpty()) {
      out += "<thead><tr>";
      for (int i = 0; i < block.heads.size(); ++i) cell("th", i, block.heads[i]);
      out += "</tr></thead>\n";
    }
    out += "<tbody>\n";
    for (const QStringList& row : block.rows) {
      out += "<tr>";
      for (int i = 0; i < row.size(); ++i) cell("td", i, row[i]);
      out += "</tr>\n";
    }
    out += "</tbody></table>\n";
  }
  void operator()(const ReportFigure& block) const {
    out += "<figure><img src=\"" + data_of(block.picture, "JPEG") + "\" width=\"" +
           QString::number(qRound(block.picture.deviceIndependentSize().width())) + "\" alt=\"" +
           escaped(block.caption) + "\">\n";
    if (block.bar)
      out += QStringLiteral("<div class=\"bar\" style=\"width: %1px\">%2</div>\n")
                 .arg(block.bar->share * block.picture.deviceIndependentSize().width(), 0, 'f', 1)
                 .arg(escaped(block.bar->label));
    out += "<figcaption>" + escaped(block.caption) + "</figcaption></figure>\n";
  }
  void operator()(const ReportChart& block) const {
    out += "<figure>" + svg_of(block) + "<figcaption>" + escaped(block.caption) + "</figcaption></figure>\n";
  }
};

}  // namespace

QByteArray report_as_html(const Report& report) {
  QString out = "<!DOCTYPE html>\n<html lang=\"" + language() + "\">\n<head>\n<meta charset=\"utf-8\">\n<title>" +
                escaped(report.title) + "</title>\n<style>" + QString::fromUtf8(style) +
                "</style>\n</head>\n<body>\n<header>\n";
  if (!report.style.logo.isNull()) out += "<img src=\"" + data_of(report.style.logo, "PNG") + "\" alt=\"logo\">\n";
  out += "<h1>" + escaped(report.title) + "</h1>\n";
  QStringList who;
  for (const QString& one : {report.style.author, report.style.organisation, report.made})
    if (!one.isEmpty()) who << escaped(one);
  out += "<p class=\"soft\">" + who.join(" · ") + "</p>\n</header>\n<main>\n";
  for (const ReportSection& section : report.sections) {
    out += "<section>\n<h2>" + escaped(section.title) + "</h2>\n";
    for (const ReportBlock& block : section.blocks) std::visit(Writer{out}, block);
    out += "</section>\n";
  }
  out += "</main>\n</body>\n</html>\n";
  return out.toUtf8();
}

}  // namespace fexel

#include "app/report/report_pdf.h"

#include <QBuffer>
#include <QPdfWriter>
#include <QTextLayout>

#include "app/ui/chart.h"

namespace fexel {
namespace {

constexpr double margin = 18 * px_per_mm, foot = 10 * px_per_mm, tallest_figure = 122 * px_per_mm, gap = 8,
                 cell_gap = 10;
const QColor ink(0x23282B), soft(0x5A625F), accent(0x0E6B68), hairline(0xD8D2C5), wrong(0xA63A2B), ground(0xF4F1EA);

/// Puts blocks one below the other, on as many pages as they need.
class Pages {
 public:
  Pages(QPdfWriter& pdf, const Report& report) : pdf_(pdf), report_(report) {
    painter_.begin(&pdf_);
    painter_.setMode(QCPPainter::pmVectorized);
    area_ = QRectF(margin, margin, pdf_.width() - 2 * margin, pdf_.height() - 2 * margin - foot);
    y_ = area_.top();
    write_head();
    for (const ReportSection& section : report.sections) {
      // A heading stays with what follows it.
      need(90);
      y_ += gap;
      text(section.title, font(13, true), accent);
      line(y_, hairline);
      y_ += gap;
      for (const ReportBlock& block : section.blocks) std::visit([this](const auto& b) { write(b); }, block);
    }
    write_foot();
    painter_.end();
  }

 private:
  static QFont font(double points, bool strong = false) {
    QFont out = text_font(points, strong);
    // Without ligatures, so that words are found as they are typed.
    out.setLetterSpacing(QFont::AbsoluteSpacing, 0.02);
    return out;
  }
  double left() const { return area_.bottom() - y_; }
  void need(double height) {
    if (height <= left() || y_ <= area_.top()) return;
    next_page();
  }
  void next_page() {
    write_foot();
    pdf_.newPage();
    ++page_;
    y_ = area_.top();
  }
  void line(double y, const QColor& colour, double width = 0.8) {
    painter_.setPen(QPen(colour, width));
    painter_.drawLine(QPointF(area_.left(), y), QPointF(area_.right(), y));
  }
  void write_foot() {
    painter_.setFont(font(7.5));
    painter_.setPen(soft);
    const QRectF box(area_.left(), area_.bottom() + foot / 2, area_.width(), foot);
    painter_.drawText(box, Qt::AlignLeft | Qt::AlignTop, report_.title);
    painter_.drawText(box, Qt::AlignRight | Qt::AlignTop, QString::number(page_));
  }
  void write_head() {
    double right = 0;
    if (!report_.style.logo.isNull()) {
      const QSizeF size = QSizeF(report_.style.logo.size()).scaled(45 * px_per_mm, 18 * px_per_mm, Qt::KeepAspectRatio);
      painter_.drawImage(QRectF(QPointF(area_.right() - size.width(), area_.top()), size), report_.style.logo);
      right = size.width() + 2 * gap;
    }
    const double top = y_;
    text(report_.title, font(18, true), ink, right);
    QStringList who;
    for (const QString& one : {report_.style.author, report_.style.organisation, report_.made})
      if (!one.isEmpty()) who << one;
    text(who.join(" · "), font(8.5), soft, right);
    if (right > 0) y_ = std::max(y_, top + 18 * px_per_mm + gap);
    line(y_, accent, 1.6);
    y_ += gap;
  }

  /// Wrapped text, page after page; `keep_right` is left free at its right.
  void text(const QString& words, const QFont& font, const QColor& colour, double keep_right = 0, double inset = 0,
            bool on_ground = false) {
    for (const QString& part : words.split('\n')) {
      QTextLayout layout(part.isEmpty() ? QStringLiteral(" ") : part, font, &pdf_);
      QTextOption wrap;
      wrap.setWrapMode(QTextOption::WrapAtWordBoundaryOrAnywhere);
      layout.setTextOption(wrap);
      layout.beginLayout();
      for (QTextLine row = layout.createLine(); row.isValid(); row = layout.createLine())
        row.setLineWidth(area_.width() - keep_right - 2 * inset);
      layout.endLayout();
      for (int i = 0; i < layout.lineCount(); ++i) {
        const QTextLine row = layout.lineAt(i);
        if (row.height() > left()) next_page();
        if (on_ground) painter_.fillRect(QRectF(area_.left(), y_, area_.width(), row.height() + 0.5), ground);
        painter_.setPen(colour);
        row.draw(&painter_, QPointF(area_.left() + inset, y_ - row.y()));
        y_ += row.height();
      }
    }
  }

  void write(const ReportText& block) {
    if (block.text.isEmpty()) return;
    const bool code = block.look == ReportText::Look::code;
    text(block.text, font(code ? 7.5 : 9.5), block.look == ReportText::Look::warning ? wrong : ink, 0, code ? gap : 0,
         code);
    y_ += gap;
  }

  /// A text in a column of this width.
  struct Cell {
    std::unique_ptr<QTextLayout> layout;
    double height = 0;
  };
  Cell cell(const QString& words, const QFont& font, double width, bool to_the_right) {
    Cell out{std::make_unique<QTextLayout>(words, font, &pdf_), 0};
    QTextOption wrap(to_the_right ? Qt::AlignRight : Qt::AlignLeft);
    wrap.setWrapMode(QTextOption::WrapAtWordBoundaryOrAnywhere);
    out.layout->setTextOption(wrap);
    out.layout->beginLayout();
    for (QTextLine row = out.layout->createLine(); row.isValid(); row = out.layout->createLine()) {
      row.setLineWidth(width);
      row.setPosition({0, out.height});
      out.height += row.height();
    }
    out.layout->endLayout();
    return out;
  }
  bool is_number(const ReportTable& table, std::size_t column) const {
    return column < table.numbers.size() && table.numbers[column];
  }
  /// Columns as wide as what is in them; where the page has less room, words give way, and numbers never.
  std::vector<double> widths(const ReportTable& table, const QFont& font, std::size_t columns) const {
    const QFontMetricsF metrics(font, &pdf_);
    std::vector<double> out(columns, 12), least(columns, 12);
    const auto widen = [&](std::size_t c, const QString& words, bool head) {
      double longest = 0;
      for (const QString& word : words.split(' ')) longest = std::max(longest, metrics.horizontalAdvance(word) + 2);
      const double whole = metrics.horizontalAdvance(words) + 2;
      out[c] = std::max(out[c], whole);
      least[c] = std::max(least[c], is_number(table, c) && !head ? whole : std::min(longest, 140.0));
    };
    for (std::size_t c = 0; c < columns; ++c) {
      if (c < static_cast<std::size_t>(table.heads.size())) widen(c, table.heads[static_cast<qsizetype>(c)], true);
      for (const QStringList& row : table.rows) widen(c, row[static_cast<qsizetype>(c)], false);
    }
    const double room = area_.width() - cell_gap * static_cast<double>(columns - 1);
    double all = 0;
    for (const double one : out) all += one;
    if (all <= room) return out;
    // The widest give way first.
    double low = 0, high = room;
    const auto capped = [&](std::size_t c, double cap) { return std::min(out[c], std::max(least[c], cap)); };
    for (int i = 0; i < 40; ++i) {
      const double cap = (low + high) / 2;
      double sum = 0;
      for (std::size_t c = 0; c < columns; ++c) sum += capped(c, cap);
      (sum <= room ? low : high) = cap;
    }
    for (std::size_t c = 0; c < columns; ++c) out[c] = capped(c, low);
    return out;
  }
  void row(const QStringList& cells, const ReportTable& table, const std::vector<double>& widths, const QFont& font,
           const QColor& colour) {
    std::vector<Cell> made;
    double height = 0;
    for (std::size_t c = 0; c < widths.size(); ++c) {
      made.push_back(cell(cells.value(static_cast<qsizetype>(c)), font, widths[c], is_number(table, c)));
      height = std::max(height, made.back().height);
    }
    if (height + 3 > left() && y_ > area_.top() + 40) {
      next_page();
      if (!table.heads.isEmpty() && &cells != &table.heads) write_heads(table, widths, font);
    }
    double x = area_.left();
    painter_.setPen(colour);
    for (std::size_t c = 0; c < made.size(); ++c) {
      made[c].layout->draw(&painter_, QPointF(x, y_ + 1));
      x += widths[c] + cell_gap;
    }
    y_ += height + 3;
  }
  void write_heads(const ReportTable& table, const std::vector<double>& widths, QFont font) {
    row(table.heads, table, widths, font, soft);
    line(y_, ink);
    y_ += 2;
  }
  void write(const ReportTable& block) {
    if (block.rows.empty()) return;
    need(70);
    if (!block.caption.isEmpty()) text(block.caption, font(8.5), soft);
    y_ += 2;
    const auto columns = static_cast<std::size_t>(std::max(block.heads.size(), block.rows.front().size()));
    QFont small = font(8.5);
    std::vector<double> at;
    for (const double points : {8.5, 7.5, 6.5, 5.5}) {
      small = font(points);
      at = widths(block, small, columns);
      double all = cell_gap * static_cast<double>(columns - 1);
      for (const double one : at) all += one;
      if (all <= area_.width() + 1) break;
    }
    if (!block.heads.isEmpty()) write_heads(block, at, small);
    for (const QStringList& cells : block.rows) {
      row(cells, block, at, small, ink);
      line(y_ - 1, hairline, 0.4);
    }
    y_ += gap;
  }

  void write(const ReportFigure& block) {
    const QSizeF size = QSizeF(block.picture.deviceIndependentSize())
                            .scaled(area_.width(), std::min(area_.height() - 60, tallest_figure), Qt::KeepAspectRatio);
    need(size.height() + 45);
    painter_.drawImage(QRectF(area_.topLeft().x(), y_, size.width(), size.height()), block.picture);
    y_ += size.height() + 4;
    if (block.bar) {
      const double width = block.bar->share * size.width();
      painter_.setPen(QPen(ink, 2.5));
      painter_.drawLine(QPointF(area_.left(), y_ + 3), QPointF(area_.left() + width, y_ + 3));
      painter_.setPen(ink);
      painter_.setFont(font(8));
      painter_.drawText(QPointF(area_.left() + width + 6, y_ + 6), block.bar->label);
      y_ += 12;
    }
    text(block.caption, font(8.5), soft);
    y_ += gap;
  }
  void write(const ReportChart& block) {
    const double height = block.height_mm * px_per_mm;
    need(height + 30);
    painter_.save();
    painter_.translate(area_.left(), y_);
    block.plot->toPainter(&painter_, static_cast<int>(area_.width()), static_cast<int>(height));
    painter_.restore();
    y_ += height + 2;
    text(block.caption, font(8.5), soft);
    y_ += gap;
  }

  QPdfWriter& pdf_;
  const Report& report_;
  QCPPainter painter_;
  QRectF area_;
  double y_ = 0;
  int page_ = 1;
};

}  // namespace

QByteArray report_as_pdf(const Report& report) {
  QByteArray out;
  QBuffer buffer(&out);
  buffer.open(QIODevice::WriteOnly);
  {
    QPdfWriter pdf(&buffer);
    pdf.setTitle(report.title);
    pdf.setCreator(QStringLiteral("Fexel ") + FEXEL_VERSION);
    pdf.setResolution(96);
    pdf.setPageSize(QPageSize(report.style.letter ? QPageSize::Letter : QPageSize::A4));
    pdf.setPageMargins({});
    Pages(pdf, report);
  }
  return out;
}

}  // namespace fexel

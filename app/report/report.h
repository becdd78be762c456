#pragma once
/// A report as a value: sections of text, tables, figures and charts. What it says is put together in report_content
/// and report_of_run; report_pdf and report_html write it.
#include <QImage>
#include <QString>
#include <QStringList>
#include <memory>
#include <variant>
#include <vector>

#include "app/report/report_template.h"

class QCustomPlot;

namespace fexel {

/// Pixels that a screen has in a millimetre, as CSS counts them.
inline constexpr double px_per_mm = 96 / 25.4;

struct ReportText {
  enum class Look { plain, warning, code };
  QString text;
  Look look = Look::plain;
};

struct ReportTable {
  QString caption;
  QStringList heads;               ///< none for a table of names and values
  std::vector<QStringList> rows;   ///< each with as many cells as there are columns
  std::vector<bool> numbers = {};  ///< columns that are set to the right
};

struct ReportFigure {
  QString caption;
  QImage picture;
  /// A bar of this share of the picture's width, with what it stands for.
  struct Bar {
    double share;
    QString label;
  };
  std::optional<Bar> bar = {};
};

struct ReportChart {
  QString caption;
  std::shared_ptr<QCustomPlot> plot;
  double height_mm = 60;
};

using ReportBlock = std::variant<ReportText, ReportTable, ReportFigure, ReportChart>;

struct ReportSection {
  QString title;
  std::vector<ReportBlock> blocks;
};

struct Report {
  QString title, subtitle, made;  ///< `made`: when, and by which program
  ReportTemplate style;
  std::vector<ReportSection> sections;
};

}  // namespace fexel

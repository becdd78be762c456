#pragma once
/// A result on paper at a scale: over as many sheets as it needs, with a ruler on each that shows whether the printer
/// kept the size.
#include <QSizeF>

#include "report/marked_copy.h"

class QPagedPaintDevice;

namespace fexel {

struct PrintPlan {
  double reduction = 1;        ///< n of 1 : n
  int across = 1, down = 1;    ///< sheets
  double width_mm, height_mm;  ///< of the result on paper
  QSizeF sheet_mm;             ///< room for the picture on one sheet
  double ruler_mm;             ///< length of the ruler
};
/// Sheets overlap by 5 mm, so that they can be laid together. Raises a call error where the result has no pixel size or
/// its pixels are not square, and where it would take more than a hundred sheets. Without a reduction the smallest of
/// 1, 2, 2.5, 5 x 10^n that lets it fit on one sheet (or enlarges it by less than to fill one).
PrintPlan print_plan(const Station& result, QSizeF paper_mm, std::optional<double> reduction);
/// "1 : 2.5", "2 : 1".
QString scale_text(double reduction);
/// Draws all sheets; `name` stands on each. Marks are drawn where `with_marks`. Raises a call error where a step of the
/// chain cannot be made, and an input error where the device takes no sheets.
void print_result(const MarkedResult& result, const PrintPlan& plan, bool with_marks, const QString& name,
                  QPagedPaintDevice& device, const Job& job);

}  // namespace fexel

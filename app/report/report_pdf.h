#pragma once
/// A report as a PDF: text that is text, charts of vectors, heads of tables on every page.
#include <QByteArray>

#include "app/report/report.h"

namespace fexel {

QByteArray report_as_pdf(const Report& report);

}  // namespace fexel

#pragma once
/// A report as one HTML file that needs no other: pictures within, charts as SVG.
#include <QByteArray>

#include "app/report/report.h"

namespace fexel {

QByteArray report_as_html(const Report& report);

}  // namespace fexel

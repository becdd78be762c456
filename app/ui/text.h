#pragma once
/// The core's words as the window's.
#include <QObject>
#include <QString>
#include <string>

#include "base/error.h"
#include "chain/evaluate.h"

namespace fexel {

inline QString text_of(const std::string& text) {
  return QString::fromStdString(text);
}

inline QString text_of(const Error& error) {
  return QString::fromUtf8(error.what());
}

/// A unit of length or time as people write it.
inline QString unit_text(const std::string& unit) {
  return text_of(unit_name(unit));
}

/// Numbers are shown with a true minus, and read with either.
inline QString with_plain_minus(QString text) {
  return text.replace(QChar(0x2212), '-');
}

/// "2400 × 1600 px · 0.25 mm/px".
QString size_text(const Station& station);
/// What a pixel stands for, as "0.1 mm/px".
QString pixel_text(const PixelSize& pixel);
/// What a picture stands for, as "170 × 125 mm".
QString extent_text(Size size, const PixelSize& pixel);

/// How a station's pixels came about since the source.
inline QString how_made(const Layout& layout, int station) {
  if (is_exact_station(layout, station)) return QObject::tr("exact");
  const int times = resamplings(layout, station);
  if (times == 0) return QObject::tr("from whole pixels");
  return times == 1 ? QObject::tr("resampled once") : QObject::tr("resampled %1 times").arg(times);
}

/// The endings of pictures and films that are read, for file dialogs: "*.tif *.tiff *.png ...".
QString picture_patterns();

/// A text as a cell of a CSV file.
QString csv_quoted(QString text);

}  // namespace fexel

#include "app/ui/text.h"
#include "app/ui/language.h"

#include <QStringList>

#include "files/picture.h"
#include "text/csv.h"

namespace fexel {

QString pixel_text(const PixelSize& pixel) {
  const QString unit = unit_text(pixel.unit);
  return pixel.square() ? QString("%1 %2/px").arg(number_shown(short_number(pixel.mean())), unit)
                        : QString("%1 × %2 %3/px")
                              .arg(number_shown(short_number(pixel.x)), number_shown(short_number(pixel.y)), unit);
}

QString size_text(const Station& s) {
  const QString text = QString("%1 × %2 px").arg(s.size.width).arg(s.size.height);
  return s.pixel ? text + " · " + pixel_text(*s.pixel) : text;
}

QString extent_text(Size size, const PixelSize& pixel) {
  return QString("%1 × %2 %3")
      .arg(number_shown(short_number(size.width * pixel.x)), number_shown(short_number(size.height * pixel.y)),
           unit_text(pixel.unit));
}

QString picture_patterns() {
  QStringList out;
  for (const FormatFacts& facts : known_formats())
    if (!facts.library.empty())
      for (const QString& ending : text_of(facts.endings).split(' ')) out << "*." + ending;
  return out.join(' ');
}

QString csv_quoted(QString text) {
  return text_of(csv_quoted(text.toStdString()));
}

}  // namespace fexel

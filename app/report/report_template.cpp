#include "app/report/report_template.h"

#include <QPainter>
#include <QSvgRenderer>

#include "app/ui/text.h"
#include "files/picture.h"
#include "text/reader.h"

namespace fexel {
namespace {

constexpr int file_version = 1;
constexpr int logo_height = 240;           // px that vector drawings are painted with
constexpr std::int64_t largest = 8 << 20;  // bytes of a logo

QImage logo_from(const std::filesystem::path& path) {
  const QString name = text_of(path.string());
  if (name.endsWith(".svg", Qt::CaseInsensitive)) {
    QSvgRenderer renderer(QByteArray::fromStdString(read_text(path, largest)));
    if (renderer.isValid() && !renderer.defaultSize().isEmpty()) {
      QImage out(renderer.defaultSize().scaled(4 * logo_height, logo_height, Qt::KeepAspectRatio),
                 QImage::Format_ARGB32_Premultiplied);
      out.fill(Qt::transparent);
      QPainter painter(&out);
      renderer.render(&painter);
      return out;
    }
  } else if (const QImage image(name); !image.isNull()) {
    return image;
  }
  throw call_error("The logo cannot be read.", path.string(), "Use a PNG, JPEG or SVG file.");
}

}  // namespace

ReportTemplate parse_report_template(const std::string& text, const std::filesystem::path& folder) {
  const Json json = parse_json(text);
  JsonReader in(json, "", {"fexel_report", "title", "author", "organisation", "logo", "language", "paper"});
  if (const int version = in.whole("fexel_report", 1, 1000000); version > file_version)
    throw call_error("This template is of version " + std::to_string(version) + ", from a newer Fexel.",
                     "/fexel_report", "Version 1 can be read.");
  ReportTemplate out;
  const auto words = [&](const char* key) { return in.has(key) ? text_of(in.text(key)).trimmed() : QString(); };
  out.title = words("title");
  out.author = words("author");
  out.organisation = words("organisation");
  if (in.has("language")) out.language = text_of(in.choice("language", {"en", "de"}));
  if (in.has("paper")) out.letter = in.choice("paper", {"A4", "letter"}) == "letter";
  if (const QString logo = words("logo"); !logo.isEmpty()) out.logo = logo_from(folder / logo.toStdString());
  return out;
}

ReportTemplate load_report_template(const std::filesystem::path& path) {
  std::string text;
  try {
    text = read_text(path, largest);
  } catch (const Error& error) {
    throw call_error(error.message(), path.string(), "Name a template that is there.");
  }
  try {
    return parse_report_template(text, path.parent_path());
  } catch (const Error& error) {
    throw call_error(error.message(), path.string() + (error.where().empty() ? "" : ": " + error.where()),
                     error.remedy());
  }
}

}  // namespace fexel

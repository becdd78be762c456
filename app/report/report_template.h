#pragma once
/// What reports of one house have in common: a small JSON file.
#include <QImage>
#include <QString>
#include <filesystem>
#include <string>

namespace fexel {

/// {"fexel_report": 1, "title": "…", "author": "…", "organisation": "…", "logo": "logo.png", "language": "de",
///  "paper": "A4"}; every key but the first may be left out. The logo is a PNG, JPEG or SVG file; relative names start
/// at the template's folder.
struct ReportTemplate {
  QString title;  ///< empty: the name of what is reported
  QString author, organisation;
  QImage logo;
  QString language;  ///< "en", "de"; empty: that of the program
  bool letter = false;
};

/// Raises a call error that names the file, and the key, for what cannot be read.
ReportTemplate load_report_template(const std::filesystem::path& path);
/// The same from text; `folder` is where relative names start.
ReportTemplate parse_report_template(const std::string& text, const std::filesystem::path& folder);

}  // namespace fexel

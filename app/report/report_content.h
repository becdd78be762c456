#pragma once
/// What the report of the open work says, section by section, in the words and numbers of the window.
#include "app/document/document.h"
#include "app/report/report.h"

namespace fexel {

/// What takes a while to find out, on a thread of its own.
struct ReportFacts {
  struct File {
    QString path;
    std::string sha256;
  };
  std::vector<File> sources;
  std::vector<std::vector<Detail>> sampled;  ///< what the pixels at B say of each measurement
  /// The frame that the movement is shown on, where the shown one has no field.
  struct Frame {
    int index;
    FileInfo info;
    std::shared_ptr<const Pyramid> pixels;
  };
  std::optional<Frame> moved = {};
};
/// What that needs of a document, as it is now.
struct ReportInput {
  explicit ReportInput(Document& document);
  Chain chain;
  Layout layout;
  int station;                                ///< B
  std::vector<WatchedFile> sources;           ///< since they were opened
  std::vector<std::filesystem::path> others;  ///< that steps refer to
  std::shared_ptr<const RunPictures> pictures;
  std::optional<std::pair<int, FrameFile>> moved = {};
};
/// Raises an input error where a source has changed since it was opened: its pixels are no longer the file's.
ReportFacts facts_of(const ReportInput& input, const Job& job);

using ShownRange = std::optional<std::pair<double, double>>;

/// The report of a document. `range`: samples shown as black and white. Runs the event loop while pictures are drawn.
Report report_of(const Document& document, const ReportFacts& facts, const ReportTemplate& style,
                 const ShownRange& range);

/// "made on 2026-03-09 14:05 with Fexel 1.0.0".
QString made_text();

}  // namespace fexel

#pragma once
/// Reports as files: from the window, or of a chain or a run without one.
#include "app/report/report.h"
#include "base/job.h"
#include "files/protected.h"

namespace fexel {

/// Raises a call error for another ending than .pdf, .html or .htm, for a file that may not be written, and for one
/// that is there and may not be replaced.
void check_report_target(const std::filesystem::path& path, bool replace, const ProtectedPaths* keep);
/// Writes it by the name's ending; the file appears whole or not at all.
void save_report(const Report& report, const std::filesystem::path& path, bool replace, const ProtectedPaths* keep);

struct ReportOrder {
  std::filesystem::path of;          ///< a chain, or the journal of a run (.jsonl)
  std::filesystem::path out;         ///< .pdf or .html
  std::filesystem::path style = {};  ///< a template; none where it is empty
  bool replace = false;
};
/// Makes a report without a window. A sequence that is not aligned yet is searched, and a movement that was not kept is
/// measured. Raises what reading, searching and writing raise.
void make_report(const ReportOrder& order, const Job& job);

}  // namespace fexel

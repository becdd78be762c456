#pragma once
/// The report of a run over many files: summary, failures, what should be looked at, the distribution of each
/// measurement.
#include "app/report/report.h"
#include "batch/journal.h"
#include "run/measure_run.h"

namespace fexel {

/// What the chain measures on the inputs that were done, each by the chain that it had. Empty without measurements. An
/// input that is no longer the file that its result was made of, as the record in `folder` says, is not measured, and
/// says so.
std::vector<MeasuredFile> measured_of_run(const Journal& journal, const std::filesystem::path& folder, const Job& job);

Report report_of_run(const Journal& journal, const std::filesystem::path& path,
                     const std::vector<MeasuredFile>& measured, const ReportTemplate& style);

}  // namespace fexel

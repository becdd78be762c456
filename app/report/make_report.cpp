#include "app/report/make_report.h"

#include "app/document/motion_layer.h"
#include "app/report/report_content.h"
#include "app/report/report_html.h"
#include "app/report/report_of_run.h"
#include "app/report/report_pdf.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "files/safe_file.h"
#include "run/align_search.h"
#include "run/sources.h"

namespace fexel {
namespace {

bool is_html(const std::filesystem::path& path) {
  const QString ending = text_of(path.extension().string()).toLower();
  return ending == ".html" || ending == ".htm";
}

void search_where_needed(Document& document, const Job& job) {
  const auto at = align_step_of(document.chain());
  const std::vector<FrameFile>& frames = document.frames();
  if (!at || frames.size() < 2 || document.align_step()->frames.size() == frames.size()) return;
  Chain chain = document.chain();
  const FrameReader reader{static_cast<int>(frames.size()), [&](int i, const Job& quiet) {
                             return read_frame(frames[static_cast<std::size_t>(i)], limits_for(chain, {}), quiet);
                           }};
  chain.steps[static_cast<std::size_t>(*at)].kind = searched(chain, *at, reader, job);
  document.edit_chain({}, chain);
}

void measure_where_needed(Document& document, const Job& job) {
  MotionLayer& layer = document.motion_layer();
  const MotionProbe* probe = layer.probe();
  if (!probe || document.frames().size() < 2 || !layer.frames().empty()) return;
  MotionRunOptions options;
  options.probe = *probe;
  options.limits = limits_for(document.chain(), {});
  check_motion(probe->settings);
  const MotionFrames frames(document.chain(), probe->station, document.frames(), options.limits);
  const auto kept = measured_frames(document.chain(), document.frames(), probe->settings).size();
  layer.begin(grid_of(probe->settings, frames.size()),
              kept > 1 ? static_cast<int>(motion_targets(probe->settings, kept).size()) : 1);
  run_motion(
      frames, options, [&](const MotionResultFrame& field) { layer.add(field); }, job);
}

Report report_of_chain(const ReportOrder& order, const ReportTemplate& style, const Job& job, ProtectedPaths& keep) {
  const Chain chain = load_chain(order.of.string());
  if (chain.sources.empty())
    throw call_error("This chain names no picture.", order.of.string(),
                     "Save it from the window with its picture open, or report on the journal of a run.");
  std::vector<std::filesystem::path> pictures;
  for (const SourceReference& named : chain.sources) pictures.emplace_back(find_source(order.of, named, job).path);
  for (const auto& picture : pictures) keep.add(picture, "a source");
  check_report_target(order.out, order.replace, &keep);
  Document document;
  document.open(read_open_source(pictures, job.part(0, 0.2), limits_for(chain, {}).alpha_band), chain,
                text_of(order.of.string()));
  search_where_needed(document, job.part(0.2, 0.5));
  measure_where_needed(document, job.part(0.5, 0.9));
  const ReportFacts facts = facts_of(ReportInput(document), job.part(0.9, 1));
  return report_of(document, facts, style, document.source()->range);
}

}  // namespace

void check_report_target(const std::filesystem::path& path, bool replace, const ProtectedPaths* keep) {
  if (!is_html(path) && text_of(path.extension().string()).toLower() != ".pdf")
    throw call_error("The name's ending does not say what to write.", path.string(), "Use .pdf or .html.");
  WriteOptions checks;
  checks.replace = replace;
  if (keep) checks.keep = std::make_shared<ProtectedPaths>(*keep);
  check_target(path, checks);
}

void save_report(const Report& report, const std::filesystem::path& path, bool replace, const ProtectedPaths* keep) {
  check_report_target(path, replace, keep);
  const QByteArray bytes = is_html(path) ? report_as_html(report) : report_as_pdf(report);
  write_text(path, bytes.toStdString(), replace, keep);
}

void make_report(const ReportOrder& order, const Job& job) {
  const ReportTemplate style = order.style.empty() ? ReportTemplate() : load_report_template(order.style);
  const InLanguage spoken(style.language);
  ProtectedPaths keep;
  keep.add(order.of, order.of.extension() == ".jsonl" ? "the journal" : "the chain");
  if (!order.style.empty()) keep.add(order.style, "the template");
  Report report;
  if (order.of.extension() == ".jsonl") {
    check_report_target(order.out, order.replace, &keep);
    const Journal journal = load_journal(order.of);
    report = report_of_run(journal, std::filesystem::absolute(order.of),
                           measured_of_run(journal, std::filesystem::absolute(order.of).parent_path(), job), style);
  } else {
    report = report_of_chain(order, style, job, keep);
  }
  save_report(report, order.out, order.replace, &keep);
}

}  // namespace fexel

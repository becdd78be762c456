#include "app/report/report_of_run.h"

#include <QCoreApplication>
#include <QFileInfo>
#include <cmath>

#include "app/report/report_content.h"
#include "app/report/report_figures.h"
#include "app/steps/step_ui.h"
#include "app/ui/chart.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "files/identity.h"
#include "run/align_search.h"

namespace fexel {
namespace {

QString name_of_file(const std::filesystem::path& path) {
  return text_of(path.filename().string());
}

/// The values of one measurement, by the unit that they are in.
struct Values {
  std::string name, unit;
  std::vector<double> all;
  int without = 0;
};

std::vector<Values> values_of(const std::vector<MeasuredFile>& measured) {
  std::vector<Values> out;
  for (const MeasuredFile& file : measured)
    for (const MeasuredRow& row : file.rows) {
      const std::string unit = row.reading.value ? row.reading.value->unit : std::string();
      auto at = std::ranges::find_if(out, [&](const Values& v) {
        return v.name == row.name && (unit.empty() || v.unit.empty() || v.unit == unit);
      });
      if (at == out.end()) at = out.insert(out.end(), Values{row.name, unit, {}, 0});
      if (at->unit.empty()) at->unit = unit;
      if (row.reading.value)
        at->all.push_back(row.reading.value->value);
      else
        ++at->without;
    }
  return out;
}

/// How many values lie in each of some steps of a round width.
ReportChart histogram_of(const Values& values) {
  const auto [low, high] = std::ranges::minmax(values.all);
  const int steps = std::clamp(static_cast<int>(std::sqrt(static_cast<double>(values.all.size()))), 5, 30);
  const double width = high > low ? (high - low) / steps : std::max(std::abs(high), 1.0) * 1e-3;
  QVector<double> at(steps), count(steps, 0.0);
  for (int i = 0; i < steps; ++i) at[i] = low + (i + 0.5) * width;
  for (const double v : values.all) ++count[std::clamp(static_cast<int>((v - low) / width), 0, steps - 1)];
  auto plot = std::make_shared<QCustomPlot>();
  dress(*plot);
  auto* bars = new QCPBars(plot->xAxis, plot->yAxis);
  bars->setWidth(width);
  bars->setPen(QPen(Qt::white, 0.5));
  bars->setBrush(theme().teal);
  bars->setData(at, count);
  plot->xAxis->setLabel(QStringLiteral("%1, %2").arg(text_of(values.name), unit_text(values.unit)));
  plot->yAxis->setLabel(QObject::tr("values"));
  plot->xAxis->setRange(low - width, low + (steps + 1) * width);
  plot->yAxis->setRange(0, 1.08 * *std::ranges::max_element(count));
  QCustomPlot* raw = plot.get();
  return chart_of(QObject::tr("Distribution of %1.").arg(text_of(values.name)), plot, raw, 45);
}

ReportSection measurements_section(const std::vector<MeasuredFile>& measured) {
  ReportSection out{QObject::tr("Measurements"), {}};
  const auto all = values_of(measured);
  ReportTable summary{QObject::tr("All files together; s is the standard deviation from file to file"),
                      {QObject::tr("name"), QObject::tr("values"), QObject::tr("mean"), QObject::tr("s"),
                       QObject::tr("least"), QObject::tr("most"), QObject::tr("unit"), QObject::tr("without a value")},
                      {},
                      {false, true, true, true, true, true, false, true}};
  for (const Values& v : all) {
    const auto n = static_cast<double>(v.all.size());
    double mean = 0, square = 0;
    for (const double one : v.all) mean += one / n;
    for (const double one : v.all) square += (one - mean) * (one - mean);
    const double s = n > 1 ? std::sqrt(square / (n - 1)) : 0;
    const int decimals = s > 0 ? decimals_for(s) : 3;
    const auto number = [&](double x) {
      return v.all.empty() ? QStringLiteral("–") : number_shown(number_text(x, decimals));
    };
    summary.rows.push_back({text_of(v.name), QString::number(v.all.size()), number(mean),
                            n > 1 ? number_shown(short_number(s, 2)) : QStringLiteral("–"),
                            number(v.all.empty() ? 0 : std::ranges::min(v.all)),
                            number(v.all.empty() ? 0 : std::ranges::max(v.all)), unit_text(v.unit),
                            QString::number(v.without)});
  }
  out.blocks.emplace_back(std::move(summary));
  for (const Values& v : all)
    if (v.all.size() > 1) out.blocks.emplace_back(histogram_of(v));
  ReportTable each{QObject::tr("Each value; ± is its standard uncertainty"),
                   {QObject::tr("file"), QObject::tr("frame"), QObject::tr("name"), QObject::tr("value"),
                    QObject::tr("±"), QObject::tr("unit"), QObject::tr("problem")},
                   {},
                   {false, true, false, true, true, false, false}};
  for (const MeasuredFile& file : measured)
    for (const MeasuredRow& row : file.rows) {
      const Reading& r = row.reading;
      const int decimals = r.uncertainty && *r.uncertainty > 0 ? decimals_for(*r.uncertainty) : 3;
      each.rows.push_back({name_of_file(file.input), QString::number(row.frame), text_of(row.name),
                           r.value ? number_shown(number_text(r.value->value, decimals)) : QStringLiteral("–"),
                           r.uncertainty ? number_shown(short_number(*r.uncertainty, 2)) : QStringLiteral("–"),
                           r.value ? unit_text(r.value->unit) : QString(),
                           r.problem ? text_of(*r.problem) : QString()});
    }
  out.blocks.emplace_back(std::move(each));
  return out;
}

}  // namespace

namespace {

/// Why an input is not measured any more; nothing where it is the file that its result was made of.
std::optional<Error> changed_since(const std::filesystem::path& input, const std::filesystem::path& result,
                                   const Job& job) {
  try {
    const Record record = load_record(record_path(result));
    const std::string now = checksum(input, {job.stop, {}});
    if (std::ranges::any_of(record.sources, [&](const SourceReference& s) { return s.sha256 == now; }))
      return std::nullopt;
    return input_error("It has changed since the run.", input.string(), "Run it again, then report.");
  } catch (const Error& error) {
    if (error.kind() == Error::Kind::cancelled) throw;
    return error;
  }
}

}  // namespace

std::vector<MeasuredFile> measured_of_run(const Journal& journal, const std::filesystem::path& folder, const Job& job) {
  std::vector<MeasuredFile> out;
  std::vector<std::pair<const Chain*, std::vector<std::filesystem::path>>> by_chain{{&journal.chain, {}}};
  for (const ChosenInput& input : journal.inputs) {
    const auto entry = journal.entries.find(input.file);
    if (entry == journal.entries.end() || entry->second.state != JournalEntry::State::done) continue;
    const Chain& its = chain_for(input.file, journal.chain, journal.options);
    if (its.measurements.empty()) continue;
    if (const auto why = changed_since(input.file, folder / entry->second.output, job)) {
      out.push_back({input.file, {}, why});
      continue;
    }
    if (&its == &journal.chain)
      by_chain.front().second.push_back(input.file);
    else
      by_chain.emplace_back(&its, std::vector{input.file});
  }
  double done = 0;
  const double all = std::max<double>(1, static_cast<double>(by_chain.size()));
  for (const auto& [chain, files] : by_chain) {
    // One that aligns is of the whole sequence, and not of single files.
    if (!chain->measurements.empty() && !files.empty() && !align_step_of(*chain)) {
      auto some = measure_files(*chain, files, {}, job.part(done / all, (done + 1) / all));
      out.insert(out.end(), std::make_move_iterator(some.begin()), std::make_move_iterator(some.end()));
    }
    ++done;
  }
  return out;
}

Report report_of_run(const Journal& journal, const std::filesystem::path& path,
                     const std::vector<MeasuredFile>& measured, const ReportTemplate& style) {
  const PaperLook paper;
  Report out;
  out.style = style;
  const QString name = text_of(journal.options.chain_name);
  out.title = style.title.isEmpty() ? QObject::tr("Report on the run of %1").arg(name) : style.title;
  out.made = made_text();

  ReportTable failures{{}, {QObject::tr("file"), QObject::tr("what happened"), QObject::tr("remedy")}, {}, {}};
  ReportTable doubts{{}, {QObject::tr("file"), QObject::tr("what should be looked at")}, {}, {}};
  int done = 0, failed = 0, own = 0;
  for (const ChosenInput& input : journal.inputs) {
    const auto at = journal.options.own.find(input.file);
    own += at != journal.options.own.end() && at->second.chain;
    const auto entry = journal.entries.find(input.file);
    if (entry == journal.entries.end()) continue;
    const JournalEntry& e = entry->second;
    if (e.state == JournalEntry::State::failed) {
      ++failed;
      failures.rows.push_back({name_of_file(input.file), text_of(e.message), text_of(e.remedy)});
      continue;
    }
    ++done;
    QStringList said;
    for (const std::string& doubt : e.doubts) said << text_of(doubt);
    if (!said.isEmpty()) doubts.rows.push_back({name_of_file(input.file), said.join(" ")});
  }
  for (const MeasuredFile& file : measured)
    if (file.failure)
      doubts.rows.push_back(
          {name_of_file(file.input), QObject::tr("It was not measured: %1").arg(text_of(*file.failure))});
  const auto count = journal.inputs.size();
  ReportSection summary{QObject::tr("Summary"), {}};
  QStringList steps;
  for (const Step& step : journal.chain.steps)
    if (step.on) steps << step_title(word_of(step.kind)) + " " + ui_of(step.kind).summary(step.kind);
  summary.blocks.emplace_back(
      facts_table({{QObject::tr("chain"), name + (steps.isEmpty() ? QString() : ": " + steps.join(" → "))},
                   {QObject::tr("folder of the results"), text_of(path.parent_path().string())},
                   {QObject::tr("files"), QString::number(count)},
                   {QObject::tr("done"), QString::number(done)},
                   {QObject::tr("failed"), QString::number(failed)},
                   {QObject::tr("not run"), QString::number(static_cast<int>(count) - done - failed)},
                   {QObject::tr("with a correction of their own"), own > 0 ? QString::number(own) : QString()},
                   {QObject::tr("to be looked at"), QString::number(doubts.rows.size())}}));
  if (!journal.chain.measurements.empty() && align_step_of(journal.chain))
    summary.blocks.emplace_back(
        ReportText{QObject::tr("Nothing is measured here: the chain aligns, and its files are one sequence. Report on "
                               "the chain itself."),
                   ReportText::Look::warning});
  out.sections.push_back(std::move(summary));
  if (!failures.rows.empty()) out.sections.push_back({QObject::tr("Failures"), {std::move(failures)}});
  if (!doubts.rows.empty()) out.sections.push_back({QObject::tr("To be looked at"), {std::move(doubts)}});
  if (std::ranges::any_of(measured, [](const MeasuredFile& f) { return !f.rows.empty(); }))
    out.sections.push_back(measurements_section(measured));
  ReportTable files{{}, {QObject::tr("file"), QObject::tr("result")}, {}, {}};
  for (const ChosenInput& input : journal.inputs) {
    const auto entry = journal.entries.find(input.file);
    files.rows.push_back({name_of_file(input.file), entry == journal.entries.end() ? QObject::tr("not run")
                                                    : entry->second.state == JournalEntry::State::failed
                                                        ? QObject::tr("failed")
                                                        : text_of(entry->second.output.string())});
  }
  out.sections.push_back({QObject::tr("Files"), {std::move(files)}});
  return out;
}

}  // namespace fexel

#include "run/measure_run.h"

#include <fmt/format.h>

#include <algorithm>
#include <mutex>

#include "chain/evaluate.h"
#include "run/align_search.h"
#include "run/frames.h"
#include "text/csv.h"

namespace fexel {
namespace {

constexpr std::string_view first_columns = "input,frame,name,kind,value,unit,uncertainty,expected,error,problem";

/// The words between the commas of ",a,b".
std::vector<std::string> split(const std::string& text, char apart) {
  std::vector<std::string> out;
  for (const char c : text) {
    if (c == apart)
      out.emplace_back();
    else if (!out.empty())
      out.back() += c;
  }
  return out;
}

/// Reads all measurements on one frame. `frame` counts from 0 in the sequence.
std::vector<MeasuredRow> measured(const Chain& chain, const FrameFile& file, int frame, int number,
                                  const MeasureRunOptions& options, const Job& job) {
  if (!file.info) throw input_error(file.trouble, file.path.string());
  const FileInfo& info = *file.info;
  SourceShape shape{{info.width, info.height}, info.bands, info.depth, info.pixel_size};
  shape.frame = frame;
  const bool pixels =
      std::ranges::any_of(chain.measurements, [](const Measurement& m) { return reads_pixels(m.kind); });
  std::shared_ptr<const Pyramid> source;
  if (pixels) {
    source = std::make_shared<const Pyramid>(
        std::make_shared<const Image>(read_frame(file, options.limits, {job.stop, {}})));
    shape.bands = source->base().bands();
  }
  const Layout layout = lay_out(chain, shape);
  layout.require_sound();
  const int station = options.station.value_or(layout.last());
  Image image;
  if (pixels) image = RunPictures(source, chain, layout).pixels(station, {job.stop, {}});
  std::vector<MeasuredRow> rows;
  for (const Measurement& measurement : chain.measurements) {
    MeasuredRow row{number, measurement.name, word_of(measurement.kind), {}, {}, expected_of(measurement.kind)};
    if (measurement.station >= static_cast<int>(layout.stations.size()))
      row.reading.problem = "Its station is not in this chain.";
    else
      row.reading = read_at(chain, shape, layout, measurement, station);
    // One unit a row: the value's. What has none of length has no error either.
    const auto in_row_unit = [&](const Quantity& q) -> std::optional<double> {
      return row.reading.value ? length_in(q, row.reading.value->unit) : std::nullopt;
    };
    if (row.reading.error) row.reading.error = in_row_unit({*row.reading.error, row.expected->unit});
    if (row.expected) {
      const auto same = in_row_unit(*row.expected);
      row.expected = same ? std::optional(Quantity{*same, row.reading.value->unit}) : std::nullopt;
    }
    if (pixels && row.reading.value) row.sampled = sampled_at(layout, measurement, station, image);
    rows.push_back(std::move(row));
  }
  return rows;
}

std::string number(const std::optional<double>& value) {
  return value && std::isfinite(*value) ? fmt::format("{:.9g}", *value) : "";
}

}  // namespace

std::vector<MeasuredFile> measure_files(const Chain& chain, const std::vector<std::filesystem::path>& inputs,
                                        const MeasureRunOptions& options, const Job& job) {
  if (chain.measurements.empty())
    throw call_error("This chain has no measurements.", "/measurements",
                     "Draw some in the window, and save the chain.");
  if (options.station && *options.station > static_cast<int>(chain.steps.size()))
    throw call_error(
        fmt::format("This chain has no station {}.", *options.station), "--station",
        fmt::format("Give a number from 0 (the source) to {}, or leave it out for the result.", chain.steps.size()));
  std::vector<MeasuredFile> out;
  struct Part {
    std::size_t file;
    FrameFile frame;
    int index, number;
  };
  std::vector<Part> parts;
  const auto aligning = align_step_of(chain);
  const AlignStep* align =
      aligning ? std::get_if<AlignStep>(&chain.steps[static_cast<std::size_t>(*aligning)].kind) : nullptr;
  for (const auto& input : inputs) {
    out.push_back({input, {}, {}});
    try {
      int page = 0;
      for (FrameFile& frame : pages_of(input, limits_for(chain, options.limits))) {
        const int index = static_cast<int>(parts.size());
        parts.push_back({out.size() - 1, std::move(frame), align ? index : 0, align ? index + 1 : ++page});
      }
    } catch (const Error& error) {
      if (error.kind() == Error::Kind::cancelled) throw;
      out.back().failure = error;
    }
  }
  if (align && align->frames.size() != parts.size())
    throw call_error(align->frames.empty() ? "The chain's align step has not been searched yet."
                                           : fmt::format("The chain aligns {} frames, and {} are to be measured.",
                                                         align->frames.size(), parts.size()),
                     "/steps", "Search it on these frames in the window, and save the chain.");
  std::vector<std::vector<MeasuredRow>> rows(parts.size());
  std::vector<std::optional<Error>> failures(parts.size());
  std::mutex telling;
  int done = 0;
  parallel_for(static_cast<int>(parts.size()), {job.stop, {}}, [&](int i) {
    const Part& part = parts[static_cast<std::size_t>(i)];
    try {
      rows[static_cast<std::size_t>(i)] = measured(chain, part.frame, part.index, part.number, options, job);
    } catch (const Error& error) {
      if (error.kind() == Error::Kind::cancelled) throw;
      failures[static_cast<std::size_t>(i)] = error;
    }
    const std::scoped_lock lock(telling);
    if (job.progress) job.progress(static_cast<double>(++done) / static_cast<double>(parts.size()));
  });
  for (std::size_t i = 0; i < parts.size(); ++i) {
    MeasuredFile& file = out[parts[i].file];
    if (failures[i] && !file.failure) file.failure = failures[i];
    std::ranges::move(rows[i], std::back_inserter(file.rows));
  }
  return out;
}

std::string joined_measurements(const std::vector<std::string>& tables) {
  const auto not_one = [](std::size_t table) {
    return call_error("This is no table of measurements.", std::to_string(table + 1),
                      "Give what the verb measure wrote.");
  };
  /// Rows as they stand: a quoted cell may hold a line's end. A table ends with a row's end, all of which have as many
  /// cells as the first.
  const auto rows_of = [&](std::size_t table) {
    std::vector<std::string> out(1);
    std::vector<std::size_t> cells{1};
    bool inside = false;
    for (const char c : tables[table]) {
      inside ^= c == '"';
      if (c == '\n' && !inside) {
        out.emplace_back();
        cells.push_back(1);
        continue;
      }
      out.back() += c;
      cells.back() += c == ',' && !inside;
    }
    if (!out.back().empty() || inside) throw not_one(table);
    out.pop_back();
    cells.pop_back();
    if (std::ranges::any_of(cells, [&](std::size_t n) { return n != cells.front(); })) throw not_one(table);
    return out;
  };
  std::vector<std::vector<std::string>> names(tables.size());
  std::vector<std::string> all;
  for (std::size_t i = 0; i < tables.size(); ++i) {
    const auto rows = rows_of(i);
    if (rows.empty() || !rows.front().starts_with(first_columns)) throw not_one(i);
    const std::string rest = rows.front().substr(first_columns.size());
    if (!rest.empty() && rest.front() != ',') throw not_one(i);
    names[i] = split(rest, ',');
    for (auto name = names[i].begin(); name != names[i].end(); ++name) {
      const bool plain = !name->empty() && std::ranges::all_of(*name, [](char c) {
        return (c >= 'a' && c <= 'z') || (c >= '0' && c <= '9') || c == '_';
      });
      if (!plain || std::find(names[i].begin(), name, *name) != name) throw not_one(i);
      if (std::ranges::find(all, *name) == all.end()) all.push_back(*name);
    }
  }
  std::string out(first_columns);
  for (const std::string& name : all) out += "," + name;
  out += "\n";
  for (std::size_t i = 0; i < tables.size(); ++i) {
    const auto rows = rows_of(i);
    for (std::size_t r = 1; r < rows.size(); ++r) {
      // The last cells are numbers, without quotes.
      std::string row = rows[r];
      std::vector<std::string> own(names[i].size());
      for (std::size_t k = own.size(); k-- > 0;) {
        const auto comma = row.rfind(',');
        if (comma == std::string::npos || row.find('"', comma) != std::string::npos) throw not_one(i);
        own[k] = row.substr(comma + 1);
        row.resize(comma);
      }
      out += row;
      for (const std::string& name : all) {
        const auto at = std::ranges::find(names[i], name);
        out += "," + (at == names[i].end() ? std::string() : own[static_cast<std::size_t>(at - names[i].begin())]);
      }
      out += "\n";
    }
  }
  return out;
}

std::string measurements_csv(const std::vector<MeasuredFile>& files) {
  std::vector<std::string> names;
  const auto add_names = [&](const std::vector<Detail>& details) {
    for (const Detail& detail : details)
      if (std::ranges::find(names, detail.name) == names.end()) names.push_back(detail.name);
  };
  for (const MeasuredFile& file : files)
    for (const MeasuredRow& row : file.rows) {
      add_names(row.reading.details);
      add_names(row.sampled);
    }
  std::string text(first_columns);
  for (const std::string& name : names) text += "," + name;
  text += "\n";
  for (const MeasuredFile& file : files)
    for (const MeasuredRow& row : file.rows) {
      const Reading& reading = row.reading;
      text +=
          fmt::format("{},{},{},{},{},{},{},{},{},{}", csv_quoted(file.input.string()), row.frame, csv_quoted(row.name),
                      row.kind, number(reading.value ? std::optional(reading.value->value) : std::nullopt),
                      reading.value ? reading.value->unit : "", number(reading.uncertainty),
                      number(row.expected ? std::optional(row.expected->value) : std::nullopt), number(reading.error),
                      reading.problem ? csv_quoted(*reading.problem) : "");
      for (const std::string& name : names) {
        std::optional<double> value;
        for (const auto* details : {&reading.details, &row.sampled})
          for (const Detail& detail : *details)
            if (detail.name == name) value = detail.quantity.value;
        text += "," + number(value);
      }
      text += "\n";
    }
  return text;
}

}  // namespace fexel

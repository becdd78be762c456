#include "chain/record.h"

#include <fmt/format.h>
#include <cstdlib>
#include <limits>

#include "chain/run.h"
#include "text/reader.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

constexpr std::string_view empty_table[] = {"fill", "alpha", "nan", "mask"};
Json reference_json(const SourceReference& file) {
  return {{"path", file.path}, {"sha256", file.sha256}};
}

SourceReference read_reference(const Json& value, const std::string& path) {
  const JsonReader in(value, path, {"path", "sha256"});
  return {in.text("path"), in.text("sha256")};
}

std::vector<std::string> words(std::initializer_list<std::string_view> names) {
  return {names.begin(), names.end()};
}

/// The largest difference and the number of samples that differ, NaN being the same as NaN.
void compare(const Image& a, const Image& b, double& most, std::int64_t& differing) {
  visit_depth(a.depth(), [&](auto sample) {
    using T = decltype(sample);
    for (int band = 0; band < a.bands(); ++band)
      for (int y = 0; y < a.height(); ++y)
        for (int x = 0; x < a.width(); ++x) {
          const double v = a.row<T>(band, y)[x], w = b.row<T>(band, y)[x];
          if (v == w || (v != v && w != w)) continue;
          ++differing;
          most = std::max(most, v == v && w == w ? std::abs(v - w) : std::numeric_limits<double>::infinity());
        }
  });
  if (!a.has_mask() && !b.has_mask()) return;
  for (int y = 0; y < a.height(); ++y)
    for (int x = 0; x < a.width(); ++x) differing += a.valid(x, y) != b.valid(x, y);
}

/// A folder that is gone when it goes out of scope.
class WorkFolder {
 public:
  WorkFolder() {
    std::string name = (fs::temp_directory_path() / "fexel-verify-XXXXXX").string();
    if (!::mkdtemp(name.data()))
      throw input_error("No working folder could be made.", fs::temp_directory_path().string(),
                        "Check that the disk has room.");
    path_ = name;
  }
  ~WorkFolder() {
    std::error_code code;
    fs::remove_all(path_, code);
  }
  WorkFolder(const WorkFolder&) = delete;
  WorkFolder& operator=(const WorkFolder&) = delete;
  const fs::path& path() const { return path_; }

 private:
  fs::path path_;
};

}  // namespace

std::string_view name_of(EmptyAs empty) {
  return empty_table[static_cast<std::size_t>(empty)];
}

std::vector<std::string> empty_words() {
  return {std::begin(empty_table), std::end(empty_table)};
}

fs::path record_path(const fs::path& result) {
  fs::path path = result;
  return path.replace_extension(".record.json");
}

std::string write_record(const Record& record) {
  Json out{{"fexel_record", 1}, {"version", record.version}};
  for (const SourceReference& source : record.sources) out["sources"].push_back(reference_json(source));
  out["result"] = reference_json(record.result);
  out["result"].update({{"width", record.outcome.width},
                        {"height", record.outcome.height},
                        {"exact", record.outcome.exact},
                        {"empty_share", record.outcome.empty_share},
                        {"clamped", record.outcome.clamped}});
  Json& written = out["written"];
  written = {{"format", name_of(record.format)},
             {"depth", record.finish.depth ? name_of(*record.finish.depth) : "keep"},
             {"empty", name_of(record.finish.empty)}};
  if (record.finish.range) written["range"] = {record.finish.range->first, record.finish.range->second};
  if (record.format == Format::jpeg) written["quality"] = record.finish.quality;
  out["chain"] = parse_json(write_chain(record.chain));
  return to_text(out, 2) + "\n";
}

Record parse_record(const std::string& text) {
  const Json value = parse_json(text);
  const JsonReader in(value, "", {"fexel_record", "version", "sources", "result", "written", "chain"});
  in.whole("fexel_record", 1, 1);
  Record record;
  record.version = in.text("version");
  const Json& sources = in.array("sources");
  for (std::size_t i = 0; i < sources.size(); ++i)
    record.sources.push_back(read_reference(sources[i], fmt::format("/sources/{}", i)));
  if (sources.empty()) JsonReader::refuse(sources, "/sources", "at least one source");
  const JsonReader result(in.at("result"), "/result",
                          {"path", "sha256", "width", "height", "exact", "empty_share", "clamped"});
  record.result = {result.text("path"), result.text("sha256")};
  record.outcome.width = result.whole("width", 1, static_cast<int>(largest_side));
  record.outcome.height = result.whole("height", 1, static_cast<int>(largest_side));
  record.outcome.exact = result.truth("exact");
  record.outcome.empty_share = result.number("empty_share", 0, 1);
  record.outcome.clamped = static_cast<std::int64_t>(result.number("clamped", 0, 1e15));
  const JsonReader written(in.at("written"), "/written", {"format", "depth", "empty", "range", "quality"});
  record.format = *format_named(written.choice("format", words({"tiff", "png", "pnm", "pfm", "jpeg"})));
  const std::string depth = written.choice("depth", words({"keep", "u8", "u16", "f32"}));
  if (depth != "keep") record.finish.depth = depth == "u8" ? Depth::u8 : depth == "u16" ? Depth::u16 : Depth::f32;
  const auto all = empty_words();
  record.finish.empty = static_cast<EmptyAs>(std::ranges::find(all, written.choice("empty", all)) - all.begin());
  if (written.has("range")) {
    const Json& range = written.array("range");
    if (range.size() != 2) JsonReader::refuse(range, "/written/range", "two numbers");
    record.finish.range = {JsonReader::number(range[0], "/written/range/0", -1e12, 1e12),
                           JsonReader::number(range[1], "/written/range/1", -1e12, 1e12)};
  }
  if (written.has("quality")) record.finish.quality = written.whole("quality", 1, 100);
  try {
    record.chain = parse_chain(to_text(in.at("chain")));
  } catch (const Error& error) {
    throw error.at("/chain" + error.where());
  }
  return record;
}

void save_record(const fs::path& path, const std::vector<fs::path>& sources, const fs::path& result, Format format,
                 const Finish& finish, const RunResult& outcome, Chain chain, bool replace, const Job& job) {
  const fs::path folder = fs::absolute(path).parent_path();
  const auto reference = [&](const fs::path& file) {
    return SourceReference{fs::absolute(file).lexically_normal().lexically_relative(folder.lexically_normal()).string(),
                           checksum(file, {job.stop, {}})};
  };
  // The record names its own sources, and a record is no place to keep working on gauges.
  chain.sources.clear();
  chain.gauges.clear();
  Record record{FEXEL_VERSION, {}, reference(result), format, finish, outcome, std::move(chain)};
  for (const fs::path& source : sources) record.sources.push_back(reference(source));
  write_text(path, write_record(record), replace);
}

Verified verify_record(const fs::path& path, const Job& job) {
  Record record;
  try {
    record = parse_record(read_text(path));
  } catch (const Error& error) {
    if (error.kind() != Error::Kind::call) throw;
    throw call_error(error.message(), path.string() + ": " + error.where(), error.remedy());
  }
  const fs::path folder = fs::absolute(path).parent_path();
  Verified out;
  for (const SourceReference& source : record.sources)
    if (const fs::path file = folder / source.path; checksum(file, job.part(0, 0.1)) != source.sha256)
      out.source_state = fmt::format("{} has changed since.", file.lexically_normal().string());
  const fs::path result = folder / record.result.path;
  const FileInfo before = read_info(result);
  const WorkFolder work;
  RunItem item;
  item.input = folder / record.sources.front().path;
  item.output = work.path() / result.filename();
  item.format = record.format;
  item.finish = record.finish;
  const RunOptions options;
  run_one(record.chain, item, options, {item.input}, job.part(0.1, 0.8));
  const FileInfo after = read_info(item.output);
  if (before.width != after.width || before.height != after.height || before.bands != after.bands ||
      before.depth != after.depth || before.frames != after.frames) {
    out.same_size = false;
    return out;
  }
  std::int64_t differing = 0;
  for (int page = 1; page <= before.frames; ++page)
    compare(read_picture(result, page), read_picture(item.output, page), out.most, differing);
  out.share = static_cast<double>(differing) / before.frames /
              (static_cast<double>(before.width) * before.height * before.bands);
  out.same = differing == 0;
  return out;
}

}  // namespace fexel

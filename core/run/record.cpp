#include "run/record.h"

#include <fmt/format.h>

#include <charconv>

#include "base/error.h"
#include "base/printable.h"
#include "text/reader.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

constexpr int version_of_records = 2;
constexpr const char* convention =
    "forward, source to result: rows of a 3x3 matrix applied to column vectors (x, y, 1); pixels, x to the right, y "
    "down, "
    "origin at the outer corner of the first pixel";

Json reference_json(const SourceReference& file) {
  Json out;
  put_name(out, "path", file.path);
  out["sha256"] = file.sha256;
  if (!file.skip.empty()) out["skip"] = file.skip;
  return out;
}

std::vector<std::string> words(std::initializer_list<std::string_view> names) {
  return {names.begin(), names.end()};
}

Json frame_json(const FrameOutcome& frame) {
  Json out{{"file", printable(frame.file.filename().string())}, {"page", frame.page}};
  if (frame.band > 0) out["band"] = frame.band;
  out["matrix"] = frame.matrix ? rows_of(*frame.matrix) : Json();
  out["status"] = name_of(frame.status);
  if (!frame.reason.empty()) out["reason"] = frame.reason;
  out["written"] = !frame.written ? "left out" : frame.empty_page ? "empty" : "yes";
  return out;
}

FrameOutcome read_frame_outcome(const Json& value, const std::string& path) {
  const JsonReader in(value, path, {"file", "page", "band", "matrix", "status", "reason", "written"});
  FrameOutcome out;
  out.file = in.text("file");
  out.page = in.whole("page", 1, 1 << 30);
  if (in.has("band")) out.band = in.whole("band", 0, 4096);
  if (!in.at("matrix").is_null()) out.matrix = read_matrix(in, "matrix");
  out.status = match_status_named(in.choice("status", match_status_names()));
  if (in.has("reason")) out.reason = in.text("reason");
  const std::string written = in.choice("written", {"yes", "empty", "left out"});
  out.written = written != "left out";
  out.empty_page = written == "empty";
  return out;
}

SourceReference read_reference(const JsonReader& in) {
  SourceReference out{name_in(in, "path"), in.text("sha256")};
  if (in.has("skip"))
    for (const Json& page : in.array("skip")) {
      if (!page.is_number_integer()) JsonReader::refuse(page, in.path("skip"), "page numbers from 1");
      out.skip.push_back(page.get<int>());
    }
  return out;
}

}  // namespace

void put_name(Json& out, const std::string& key, const std::string& name) {
  out[key] = is_utf8(name) ? name : printable(name);
  if (is_utf8(name)) return;
  std::string bytes;
  for (const char c : name) bytes += fmt::format("{:02x}", static_cast<unsigned char>(c));
  out[key + "_bytes"] = bytes;
}

std::string name_in(const JsonReader& in, const std::string& key) {
  if (!in.has(key + "_bytes")) return in.text(key);
  const std::string bytes = in.text(key + "_bytes");
  std::string name;
  for (std::size_t i = 0; i + 1 < bytes.size(); i += 2) {
    int value = 0;
    if (std::from_chars(bytes.data() + i, bytes.data() + i + 2, value, 16).ptr != bytes.data() + i + 2 || value == 0)
      JsonReader::refuse(in.at(key + "_bytes"), in.path(key + "_bytes"), "bytes in hexadecimal");
    name += static_cast<char>(value);
  }
  return name;
}

void put_finish(Json& out, const Finish& finish, bool quality) {
  out["depth"] = finish.depth ? name_of(*finish.depth) : "keep";
  out["empty"] = name_of(finish.empty);
  if (finish.range) out["range"] = {finish.range->first, finish.range->second};
  if (quality) out["quality"] = finish.quality;
}

Finish finish_in(const JsonReader& in) {
  Finish out;
  const std::string depth = in.choice("depth", words({"keep", "u8", "u16", "f32"}));
  if (depth != "keep") out.depth = depth == "u8" ? Depth::u8 : depth == "u16" ? Depth::u16 : Depth::f32;
  const auto all = empty_words();
  out.empty = static_cast<EmptyAs>(std::ranges::find(all, in.choice("empty", all)) - all.begin());
  if (in.has("range")) {
    const Json& range = in.array("range");
    if (range.size() != 2) JsonReader::refuse(range, in.path("range"), "two numbers");
    out.range = {JsonReader::number(range[0], in.path("range") + "/0", -1e12, 1e12),
                 JsonReader::number(range[1], in.path("range") + "/1", -1e12, 1e12)};
  }
  if (in.has("quality")) out.quality = in.whole("quality", 1, 100);
  return out;
}

Chain for_record(Chain chain) {
  chain = without_folders(std::move(chain));
  chain.sources.clear();
  chain.measurements.clear();
  chain.motions.clear();
  chain.marks.clear();
  chain.axes.reset();
  chain.mark_style = {};
  return chain;
}

std::string write_record(const Record& record) {
  Json out{{"fexel_record", version_of_records}, {"version", record.version}};
  for (const SourceReference& source : record.sources) out["sources"].push_back(reference_json(source));
  out["results"] = Json::array();
  for (const Record::File& file : record.results) {
    Json one = reference_json(file.file);
    if (file.mask) one["is"] = "mask";
    out["results"].push_back(one);
  }
  const RunResult& outcome = record.outcome;
  out["outcome"] = {{"width", outcome.width},
                    {"height", outcome.height},
                    {"exact", outcome.exact},
                    {"empty_share", outcome.empty_share},
                    {"clamped", outcome.clamped}};
  if (!outcome.dropped.empty()) out["outcome"]["not_carried"] = outcome.dropped;
  out["transform"] = {{"convention", convention}};
  Json& frames = out["transform"]["frames"];
  frames = Json::array();
  for (const FrameOutcome& frame : outcome.frames) frames.push_back(frame_json(frame));
  Json& written = out["written"];
  put_name(written, "name", record.name);
  written["format"] = name_of(record.format);
  put_finish(written, record.finish, record.format == Format::jpeg);
  if (!record.compress) written["compress"] = false;
  if (record.bands) written["bands"] = true;
  if (record.leaves_out) written["leaves_out"] = true;
  if (record.keeps_going) written["keeps_going"] = true;
  if (record.alpha_band) written["alpha_band"] = true;
  if (record.first_number != 1) written["first_number"] = record.first_number;
  out["chain"] = parse_json(write_chain(record.chain));
  return to_text(out, 2) + "\n";
}

Record parse_record(const std::string& text) {
  const Json value = parse_json(text);
  if (value.is_object() && value.contains("fexel_record") && value["fexel_record"] == 1)
    throw call_error("This record was made by an earlier version, which kept less than is needed now.", "/fexel_record",
                     "Make the result again.");
  const JsonReader in(value, "",
                      {"fexel_record", "version", "sources", "results", "outcome", "transform", "written", "chain"});
  in.whole("fexel_record", version_of_records, version_of_records);
  Record record;
  record.version = in.text("version");
  const Json& sources = in.array("sources");
  for (std::size_t i = 0; i < sources.size(); ++i)
    record.sources.push_back(read_reference(
        JsonReader(sources[i], fmt::format("/sources/{}", i), {"path", "path_bytes", "sha256", "skip"})));
  if (sources.empty()) JsonReader::refuse(sources, "/sources", "at least one source");
  const Json& results = in.array("results");
  for (std::size_t i = 0; i < results.size(); ++i) {
    const JsonReader one(results[i], fmt::format("/results/{}", i), {"path", "path_bytes", "sha256", "is"});
    record.results.push_back({read_reference(one), one.has("is") && one.choice("is", {"mask", "result"}) == "mask"});
  }
  const JsonReader outcome(in.at("outcome"), "/outcome",
                           {"width", "height", "exact", "empty_share", "clamped", "not_carried"});
  record.outcome.width = outcome.whole("width", 1, static_cast<int>(largest_side));
  record.outcome.height = outcome.whole("height", 1, static_cast<int>(largest_side));
  record.outcome.exact = outcome.truth("exact");
  record.outcome.empty_share = outcome.number("empty_share", 0, 1);
  record.outcome.clamped = static_cast<std::int64_t>(outcome.number("clamped", 0, 1e15));
  if (outcome.has("not_carried"))
    for (const Json& what : outcome.array("not_carried")) {
      if (!what.is_string()) JsonReader::refuse(what, "/outcome/not_carried", "words");
      record.outcome.dropped.push_back(what.get<std::string>());
    }
  const JsonReader transform(in.at("transform"), "/transform", {"convention", "frames"});
  const Json& frames = transform.array("frames");
  for (std::size_t i = 0; i < frames.size(); ++i)
    record.outcome.frames.push_back(read_frame_outcome(frames[i], fmt::format("/transform/frames/{}", i)));
  const JsonReader written(in.at("written"), "/written",
                           {"name", "name_bytes", "format", "depth", "empty", "range", "quality", "compress", "bands",
                            "leaves_out", "keeps_going", "alpha_band", "first_number"});
  record.name = name_in(written, "name");
  if (record.name.empty() || record.name.find('/') != std::string::npos)
    JsonReader::refuse(written.at("name"), "/written/name", "a file name");
  record.format = *format_named(written.choice("format", words({"tiff", "png", "pnm", "pfm", "jpeg"})));
  record.finish = finish_in(written);
  if (written.has("compress")) record.compress = written.truth("compress");
  if (written.has("bands")) record.bands = written.truth("bands");
  if (written.has("leaves_out")) record.leaves_out = written.truth("leaves_out");
  if (written.has("keeps_going")) record.keeps_going = written.truth("keeps_going");
  if (written.has("alpha_band")) record.alpha_band = written.truth("alpha_band");
  if (written.has("first_number")) record.first_number = written.whole("first_number", 1, 100'000'000);
  try {
    record.chain = parse_chain(to_text(in.at("chain")));
  } catch (const Error& error) {
    throw error.at("/chain" + error.where());
  }
  return record;
}

Record load_record(const fs::path& path) {
  try {
    return parse_record(read_text(path));
  } catch (const Error& error) {
    if (error.kind() != Error::Kind::call) throw;
    throw call_error(error.message(), path.string() + ": " + error.where(), error.remedy());
  }
}

std::vector<fs::path> results_in(const fs::path& folder) {
  std::vector<fs::path> out;
  std::error_code code;
  for (fs::directory_iterator entry(folder, fs::directory_options::skip_permission_denied, code), end;
       !code && entry != end; entry.increment(code)) {
    const std::string name = entry->path().filename().string();
    constexpr std::string_view ending = ".record.json", made = ".made.json";
    if (name.ends_with(made)) out.push_back(folder / name.substr(0, name.size() - made.size()));
    if (!name.ends_with(ending)) continue;
    try {
      for (const Record::File& file : load_record(entry->path()).results) out.push_back(folder / file.file.path);
    } catch (const Error&) {
      // What its name says is all that a broken record tells.
      out.push_back(folder / name.substr(0, name.size() - ending.size()));
    }
  }
  // Copies with marks lie beside results, by their names.
  std::vector<fs::path> copies;
  for (fs::directory_iterator entry(folder, fs::directory_options::skip_permission_denied, code), end;
       !code && entry != end; entry.increment(code)) {
    const std::string name = entry->path().filename().string();
    if (name.find("-marked") == std::string::npos) continue;
    if (std::ranges::any_of(
            out, [&](const fs::path& result) { return name.starts_with(result.stem().string() + "-marked"); }))
      copies.push_back(entry->path());
  }
  out.insert(out.end(), copies.begin(), copies.end());
  return out;
}

}  // namespace fexel

#include "batch/journal.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "base/error.h"
#include "files/safe_file.h"
#include "run/record.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

constexpr int version_of_journals = 1;

Json head_json(const Journal& journal) {
  const RunOptions& options = journal.options;
  Json out{{"fexel_journal", version_of_journals}, {"version", FEXEL_VERSION}};
  put_name(out, "chain_name", options.chain_name);
  out["name"] = options.name;
  out["format"] = options.format ? Json(name_of(*options.format)) : Json();
  put_finish(out, options.finish, true);
  if (options.keep_alpha) out["keep_alpha"] = true;
  if (!options.compress) out["compress"] = false;
  out["chain"] = parse_json(write_chain(journal.chain));
  out["inputs"] = Json::array();
  for (const ChosenInput& input : journal.inputs) {
    Json one;
    put_name(one, "file", input.file.string());
    if (!input.subfolder.empty()) put_name(one, "subfolder", input.subfolder.string());
    out["inputs"].push_back(one);
  }
  return out;
}

std::string entry_line(const fs::path& input, const JournalEntry& entry) {
  Json out;
  put_name(out, "input", input.string());
  out["state"] = entry.state == JournalEntry::State::done ? "done" : "failed";
  if (!entry.output.empty()) put_name(out, "output", entry.output.string());
  if (!entry.doubts.empty()) out["doubts"] = entry.doubts;
  if (entry.state == JournalEntry::State::failed)
    out["error"] = {{"message", entry.message}, {"where", entry.where}, {"remedy", entry.remedy}};
  return to_text(out) + "\n";
}

std::string own_line(const fs::path& input, const std::optional<Chain>& chain) {
  Json out;
  put_name(out, "input", input.string());
  out["chain"] = chain ? parse_json(write_chain(*chain)) : Json();
  return to_text(out) + "\n";
}

void read_head(const JsonReader& in, Journal& out) {
  in.whole("fexel_journal", version_of_journals, version_of_journals);
  in.text("version");
  out.options.chain_name = name_in(in, "chain_name");
  out.options.name = in.text("name");
  if (!in.at("format").is_null())
    out.options.format = *format_named(in.choice("format", {"tiff", "png", "jpeg", "pnm", "pfm"}));
  out.options.finish = finish_in(in);
  out.options.keep_alpha = in.has("keep_alpha") && in.truth("keep_alpha");
  out.options.compress = !in.has("compress") || in.truth("compress");
  try {
    out.chain = parse_chain(to_text(in.at("chain")));
  } catch (const Error& error) {
    throw error.at("/chain" + error.where());
  }
  const Json& inputs = in.array("inputs");
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    const JsonReader one(inputs[i], fmt::format("/inputs/{}", i),
                         {"file", "file_bytes", "subfolder", "subfolder_bytes"});
    ChosenInput input{name_in(one, "file"), one.has("subfolder") ? name_in(one, "subfolder") : ""};
    // A journal from elsewhere sends no result out of its folder.
    const fs::path normal = input.subfolder.lexically_normal();
    if (normal.is_absolute() || (!normal.empty() && *normal.begin() == ".."))
      JsonReader::refuse(one.at("subfolder"), one.path("subfolder"), "a folder inside the run's");
    if (!input.subfolder.empty()) out.options.own[input.file].subfolder = input.subfolder;
    out.inputs.push_back(std::move(input));
  }
}

void read_line(const Json& value, Journal& out) {
  const JsonReader in(value, "",
                      {"input", "input_bytes", "state", "output", "output_bytes", "doubts", "error", "chain"});
  const fs::path input = name_in(in, "input");
  if (in.has("chain")) {
    if (in.at("chain").is_null())
      out.options.own[input].chain.reset();
    else
      out.options.own[input].chain = parse_chain(to_text(in.at("chain")));
    return;
  }
  JournalEntry entry;
  entry.state =
      in.choice("state", {"done", "failed"}) == "done" ? JournalEntry::State::done : JournalEntry::State::failed;
  if (in.has("output")) entry.output = name_in(in, "output");
  if (in.has("doubts"))
    for (const Json& doubt : in.array("doubts")) {
      if (!doubt.is_string()) JsonReader::refuse(doubt, in.path("doubts"), "sentences");
      entry.doubts.push_back(doubt.get<std::string>());
    }
  if (in.has("error")) {
    const JsonReader error(in.at("error"), "/error", {"message", "where", "remedy"});
    entry.message = error.text("message");
    entry.where = error.text("where");
    entry.remedy = error.text("remedy");
  }
  out.entries[input] = std::move(entry);
}

}  // namespace

JournalEntry entry_for(const RunItem& item, const BatchOutcome& outcome, const fs::path& folder) {
  JournalEntry entry;
  if (!item.target.path.empty()) entry.output = item.target.path.lexically_relative(folder);
  if (outcome.failure) {
    entry.state = JournalEntry::State::failed;
    entry.message = outcome.failure->message();
    entry.where = outcome.failure->where();
    entry.remedy = outcome.failure->remedy();
  } else if (outcome.result) {
    entry.doubts = doubts_after(*outcome.result);
  } else {
    try {
      entry.doubts = doubts_after(load_record(item.target.record).outcome);
    } catch (const Error&) {
      // It stood a moment ago; what became of its record is said when it is looked at again.
    }
  }
  return entry;
}

fs::path journal_path(const fs::path& folder, const std::string& chain_name) {
  return folder / (chain_name + ".run.jsonl");
}

bool same_run(const Journal& journal, const Chain& chain) {
  return for_record(journal.chain) == for_record(chain);
}

Journal parse_journal(const std::string& text) {
  Journal out;
  int number = 0;
  for (std::size_t begin = 0; begin < text.size();) {
    const auto end = text.find('\n', begin);
    // Without its end a line was cut off: what it says is done again.
    if (end == std::string::npos) break;
    const std::string line = text.substr(begin, end - begin);
    begin = end + 1;
    ++number;
    if (line.empty()) continue;
    try {
      const Json value = parse_json(line);
      if (number == 1)
        read_head(JsonReader(value, "",
                             {"fexel_journal", "version", "chain_name", "chain_name_bytes", "name", "format", "depth",
                              "empty", "range", "quality", "keep_alpha", "compress", "chain", "inputs"}),
                  out);
      else
        read_line(value, out);
    } catch (const Error& error) {
      throw call_error(error.message(),
                       fmt::format("line {}{}{}", number, error.where().empty() ? "" : ", ", error.where()),
                       error.remedy());
    }
  }
  if (number == 0)
    throw call_error("This is not the journal of a run.", "line 1",
                     "Begin the run again; results that stand are kept.");
  return out;
}

Journal load_journal(const fs::path& path) {
  try {
    Journal out = parse_journal(read_text(path));
    out.options.folder = path.parent_path();
    return out;
  } catch (const Error& error) {
    if (error.kind() != Error::Kind::call) throw;
    throw call_error(error.message(), path.string() + ": " + error.where(), error.remedy());
  }
}

std::string write_journal(const Journal& journal) {
  std::string out = to_text(head_json(journal)) + "\n";
  for (const ChosenInput& input : journal.inputs) {
    const auto own = journal.options.own.find(input.file);
    if (own != journal.options.own.end() && own->second.chain) out += own_line(input.file, own->second.chain);
    const auto entry = journal.entries.find(input.file);
    if (entry != journal.entries.end()) out += entry_line(input.file, entry->second);
  }
  return out;
}

JournalWriter::JournalWriter(fs::path path, Journal journal) : path_(std::move(path)), journal_(std::move(journal)) {
  std::error_code code;
  if (fs::exists(path_, code) && !same_run(load_journal(path_), journal_.chain))
    fs::rename(path_, path_.string() + ".before", code);
  open();
}

JournalWriter::~JournalWriter() {
  if (descriptor_ >= 0) ::close(descriptor_);
}

void JournalWriter::open() {
  if (descriptor_ >= 0) ::close(descriptor_);
  descriptor_ = -1;
  SafeFile file(path_, true);
  const std::string text = write_journal(journal_);
  file.write(text.data(), text.size());
  file.commit();
  descriptor_ = ::open(path_.c_str(), O_WRONLY | O_APPEND | O_CLOEXEC);
  if (descriptor_ < 0)
    throw input_error("The journal of the run cannot be written.", path_.string(), "Choose another folder.");
}

void JournalWriter::append(const std::string& line) {
  const off_t begin = ::lseek(descriptor_, 0, SEEK_END);
  for (std::size_t done = 0; done < line.size();) {
    const ssize_t wrote = ::write(descriptor_, line.data() + done, line.size() - done);
    if (wrote < 0 && errno == EINTR) continue;
    if (wrote <= 0) {
      const int reason = errno;
      // Half a line would spoil what follows it.
      if (::ftruncate(descriptor_, begin) != 0) open();
      throw input_error(fmt::format("The journal of the run cannot be written: {}.", std::strerror(reason)),
                        path_.string(), "Make room on the disk, and go on with the run.");
    }
    done += static_cast<std::size_t>(wrote);
  }
  ::fdatasync(descriptor_);
}

void JournalWriter::add(const fs::path& input, const JournalEntry& entry) {
  const std::scoped_lock lock(mutex_);
  journal_.entries[input] = entry;
  append(entry_line(input, entry));
}

void JournalWriter::set_own_chain(const fs::path& input, const std::optional<Chain>& chain) {
  const std::scoped_lock lock(mutex_);
  journal_.options.own[input].chain = chain;
  append(own_line(input, chain));
}

void JournalWriter::tidy() {
  const std::scoped_lock lock(mutex_);
  open();
}

Journal JournalWriter::journal() const {
  const std::scoped_lock lock(mutex_);
  return journal_;
}

}  // namespace fexel

#include <fmt/format.h>

#include <cstdlib>
#include <set>

#include "cli/output.h"
#include "cli/verbs.h"
#include "files/picture.h"
#include "files/safe_file.h"

namespace fexel::cli {

std::size_t merge_motion_tables(const std::vector<std::string>& tables, const std::string& out, bool replace) {
  if (out.empty()) throw call_error("Nothing says where the result goes.", "--out", "Give a CSV file with --out.");
  ProtectedPaths keep;
  for (const std::string& path : tables) keep.add(path, "a part");
  check_report(out, replace, keep);
  std::string head;
  std::vector<std::pair<long, std::string>> parts;
  std::set<long> seen;
  for (const std::string& path : tables) {
    const std::string text = read_text(path, std::int64_t{1} << 34);
    const auto end = text.find('\n');
    if (end == std::string::npos || !text.starts_with("frame,x,y,dx,dy,"))
      throw call_error("This is no table of movement.", path, "Give the parts that --shard wrote.");
    const std::string own = text.substr(0, end + 1);
    if (head.empty()) head = own;
    if (own != head)
      throw call_error("The parts have different columns.", path, "Give parts of one run, with the same options.");
    // Each frame's rows stand together.
    std::size_t at = end + 1;
    while (at < text.size()) {
      const long frame = std::strtol(text.c_str() + at, nullptr, 10);
      std::size_t to = at;
      while (to < text.size() && std::strtol(text.c_str() + to, nullptr, 10) == frame)
        to = std::min(text.find('\n', to), text.size() - 1) + 1;
      if (!seen.insert(frame).second)
        throw call_error(fmt::format("Frame {} is in two parts.", frame), path, "Give each part once.");
      parts.emplace_back(frame, text.substr(at, to - at));
      at = to;
    }
  }
  std::ranges::sort(parts, {}, &std::pair<long, std::string>::first);
  SafeFile file(out, replace);
  file.write(head.data(), head.size());
  for (const auto& [frame, rows] : parts) file.write(rows.data(), rows.size());
  file.commit();
  return parts.size();
}

int merge_motion(const Common& common, const std::vector<std::string>& tables, const std::string& out, bool replace) {
  const std::size_t frames = merge_motion_tables(tables, out, replace);
  if (common.json)
    say_json({{"frames", frames}, {"written", {out}}});
  else
    say("{} frames of {} parts -> {}\n", frames, tables.size(), out);
  return all_done;
}

}  // namespace fexel::cli

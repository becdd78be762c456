#include <fmt/format.h>

#include <charconv>
#include <iostream>

#include "chain/layout.h"
#include "cli/output.h"
#include "cli/verbs.h"
#include "files/picture.h"

namespace fexel::cli {
namespace {

struct TraceOptions {
  std::string chain, file, from, to;
  std::string origin = "corner";
};

int station_named(const std::string& word, const std::string& flag, const Layout& layout) {
  if (word == "source") return 0;
  if (word == "result") return layout.last();
  int number = -1;
  const auto [end, code] = std::from_chars(word.data(), word.data() + word.size(), number);
  if (code != std::errc() || end != word.data() + word.size() || number < 0 || number > layout.last())
    throw call_error(fmt::format("\"{}\" is not a station of this chain.", word), flag,
                     fmt::format("Give source, result, or a number from 0 to {}.", layout.last()));
  return number;
}

/// "x,y" of a row; trailing columns are not allowed.
Point read_row(const std::string& line, int row) {
  Point p;
  const auto bad = [&] {
    return call_error(fmt::format("\"{}\" is not a point.", line.substr(0, 60)), fmt::format("row {}", row),
                      "Give two numbers with a comma between, x,y.");
  };
  const auto read = [&](const char* from, const char* to, double& value) {
    while (from < to && *from == ' ') ++from;
    while (to > from && (to[-1] == ' ' || to[-1] == '\r')) --to;
    const auto [end, code] = std::from_chars(from, to, value);
    if (code != std::errc() || end != to || !std::isfinite(value)) throw bad();
  };
  const auto comma = line.find(',');
  if (comma == std::string::npos) throw bad();
  read(line.data(), line.data() + comma, p.x);
  read(line.data() + comma + 1, line.data() + line.size(), p.y);
  return p;
}

int run_trace(const Common& common, const TraceOptions& options) {
  const Chain chain = load_chain(options.chain);
  const FileInfo info = read_info(options.file);
  const Layout layout = lay_out(chain, {{info.width, info.height}, info.bands, info.depth, info.pixel_size});
  layout.require_sound();
  const int from = station_named(options.from, "--from", layout);
  const int to = station_named(options.to, "--to", layout);
  // corner: the outer corner of the first pixel is 0, 0. centre0, centre1: its centre is 0, 0 or 1, 1.
  const double shift = options.origin == "corner" ? 0 : options.origin == "centre0" ? 0.5 : -0.5;
  std::string line;
  if (!std::getline(std::cin, line))
    throw call_error("There is nothing on standard input.", "row 1",
                     "Give CSV with the header x,y and a row for each point.");
  while (!line.empty() && (line.back() == '\r' || line.back() == ' ')) line.pop_back();
  if (line != "x,y")
    throw call_error(fmt::format("The header is \"{}\".", line.substr(0, 60)), "row 1", "The first row has to be x,y.");
  std::vector<Point> points;
  for (int row = 2; std::getline(std::cin, line); ++row)
    if (line.find_first_not_of(" \r") != std::string::npos) points.push_back(read_row(line, row));

  bool beyond = false;
  std::string text = "x,y,status\n";
  Json list = Json::array();
  constexpr const char* names[] = {"ok", "empty", "beyond-horizon"};
  for (const Point& p : points) {
    const Carried carried = carry(layout, {p.x + shift, p.y + shift}, from, to);
    const char* status = names[static_cast<int>(carried.status)];
    const bool none = carried.status == CarryStatus::beyond_horizon;
    beyond = beyond || none;
    const Point q{carried.point.x - shift, carried.point.y - shift};
    if (common.json)
      list.push_back({{"x", none ? Json() : Json(q.x)}, {"y", none ? Json() : Json(q.y)}, {"status", status}});
    else
      text += none ? fmt::format(",,{}\n", status) : fmt::format("{:.9g},{:.9g},{}\n", q.x, q.y, status);
  }
  say("{}", common.json ? to_text(Json{{"points", list}}) + "\n" : text);
  return beyond ? inputs_failed : all_done;
}

}  // namespace

void add_trace(CLI::App& app, Common& common, Verbs& verbs) {
  auto options = std::make_shared<TraceOptions>();
  CLI::App* verb =
      app.add_subcommand("trace", "carries points from one station of a chain to another (CSV x,y in and out)");
  verb->add_option("CHAIN", options->chain, "the chain")->required();
  verb->add_option("FILE", options->file, "the picture that the chain is for")->required();
  verb->add_option("--from", options->from, "source, result, or a station's number")->required();
  verb->add_option("--to", options->to, "source, result, or a station's number")->required();
  verb->add_option("--pixel-origin", options->origin, "corner, centre0 or centre1")
      ->check(CLI::IsMember({"corner", "centre0", "centre1"}));
  add_common(*verb, common);
  verbs.emplace_back(verb, [options, &common] { return run_trace(common, *options); });
}

}  // namespace fexel::cli

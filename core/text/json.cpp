#include "text/json.h"

#include <fmt/format.h>

#include <set>

#include "base/error.h"
#include "base/printable.h"

namespace fexel {
namespace {

/// Follows the text to know the path of whatever cannot be read.
class PathLimit : public nlohmann::json_sax<Json> {
 public:
  bool null() override { return value(); }
  bool boolean(bool) override { return value(); }
  bool number_integer(number_integer_t) override { return value(); }
  bool number_unsigned(number_unsigned_t) override { return value(); }
  bool number_float(number_float_t, const string_t&) override { return value(); }
  bool string(string_t&) override { return value(); }
  bool binary(binary_t&) override { return value(); }
  bool start_object(std::size_t) override { return open(false); }
  bool start_array(std::size_t) override { return open(true); }
  bool end_object() override { return close(); }
  bool end_array() override { return close(); }
  bool key(string_t& name) override {
    Level& level = levels_.back();
    level.key = printable(name, 60);
    if (!level.seen.insert(name).second)
      throw call_error(fmt::format("The key \"{}\" is given twice.", level.key), path(), "Keep one of them.");
    return true;
  }
  bool parse_error(std::size_t position, const std::string& token, const nlohmann::detail::exception& error) override {
    if (error.id == 406)
      throw call_error(fmt::format("{} is not a finite number.", token), path(),
                       "Give a number between −1e12 and 1e12.");
    throw call_error(fmt::format("The text is not JSON: at byte {} something else was expected (near \"{}\").",
                                 position, printable(token, 60)),
                     path().empty() ? "/" : path(), "Give a JSON object as docs/chain.md describes.");
  }

 private:
  struct Level {
    bool array = false;
    std::size_t index = 0;
    std::string key;
    std::set<std::string> seen;
  };
  bool value() {
    if (!levels_.empty()) ++levels_.back().index;
    return true;
  }
  bool open(bool array) {
    if (levels_.size() > 64)
      throw call_error("The text is nested too deeply.", path(), "A chain needs at most eight levels.");
    levels_.push_back({array, 0, {}, {}});
    return true;
  }
  bool close() {
    levels_.pop_back();
    return value();
  }
  std::string path() const {
    std::string text;
    for (const Level& level : levels_) {
      if (level.array)
        text += fmt::format("/{}", level.index);
      else if (!level.key.empty())
        text += "/" + level.key;
    }
    return text;
  }
  std::vector<Level> levels_;
};

}  // namespace

Json parse_json(const std::string& text) {
  PathLimit keeper;
  Json::sax_parse(text, &keeper);
  return Json::parse(text);
}

std::string to_text(const Json& value, int indent) {
  return value.dump(indent, ' ', false, Json::error_handler_t::replace);
}

}  // namespace fexel

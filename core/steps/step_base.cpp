#include "steps/step_base.h"

#include <fmt/format.h>

#include "base/error.h"
#include "text/reader.h"

namespace fexel {

const std::vector<std::string>& extent_words() {
  static const std::vector<std::string> words{"grow", "keep", "inside"};
  return words;
}

int whole_size(double v, const std::string& where) {
  const double size = std::max(1.0, std::floor(v + 0.5));
  if (!(size <= largest_side))
    throw call_error(fmt::format("A side of {} pixels is more than a picture can have.", short_number(v, 6)), where,
                     fmt::format("Choose values that give at most {} pixels a side.", static_cast<int>(largest_side)));
  return static_cast<int>(size);
}

int holding_size(double v, const std::string& where) {
  return whole_size(std::ceil(v - 1e-6), where);
}

StepGeometry computed_in_place(const StepInput& input) {
  StepGeometry out{input.size, input.pixel, Map()};
  out.ends_run = out.computed = true;
  return out;
}

std::array<double, 2> read_ends_picking(const JsonReader& in) {
  if (!in.has("picking")) return {0.5, 0.5};
  const Json& list = in.array("picking");
  if (list.size() != 2) JsonReader::refuse(list, in.path("picking"), "two numbers");
  return {JsonReader::number(list[0], in.path("picking") + "/0", 1e-6, 1e6),
          JsonReader::number(list[1], in.path("picking") + "/1", 1e-6, 1e6)};
}

void write_ends_picking(Json& out, const std::array<double, 2>& picking) {
  if (picking != std::array{0.5, 0.5}) out["picking"] = picking;
}

Matrix3 read_matrix(const JsonReader& in, const std::string& key) {
  Matrix3 out;
  const Json& rows = in.array(key);
  if (rows.size() != 3) JsonReader::refuse(rows, in.path(key), "three rows of three numbers");
  for (std::size_t r = 0; r < 3; ++r) {
    const std::string path = in.path(key) + "/" + std::to_string(r);
    if (!rows[r].is_array() || rows[r].size() != 3) JsonReader::refuse(rows[r], path, "three numbers");
    for (std::size_t c = 0; c < 3; ++c)
      out(static_cast<int>(r), static_cast<int>(c)) =
          JsonReader::number(rows[r][c], path + "/" + std::to_string(c), -1e12, 1e12);
  }
  return out;
}

Json rows_of(const Matrix3& matrix) {
  Json rows = Json::array();
  for (int r = 0; r < 3; ++r) rows.push_back({matrix(r, 0), matrix(r, 1), matrix(r, 2)});
  return rows;
}

}  // namespace fexel

#pragma once
/// Reading JSON by hand: every message names the path, the value and what would be accepted.
#include <string>
#include <vector>

#include "geometry/point.h"
#include "text/json.h"

namespace fexel {

/// One object of a text. Its making refuses keys that are not among `keys`.
class JsonReader {
 public:
  JsonReader(const Json& value, std::string path, std::vector<std::string> keys);

  bool has(const std::string& key) const { return value_.contains(key); }
  const Json& at(const std::string& key) const;  ///< refuses a missing key
  std::string path(const std::string& key) const { return path_ + "/" + key; }
  const std::string& path() const { return path_; }

  double number(const std::string& key, double low, double high) const;
  /// Degrees: a number, or a text in radians, as "0.5 rad".
  double degrees(const std::string& key, double low, double high) const;
  int whole(const std::string& key, int low, int high) const;
  std::string text(const std::string& key) const;
  bool truth(const std::string& key) const;
  std::string choice(const std::string& key, const std::vector<std::string>& words) const;
  const Json& array(const std::string& key) const;
  std::vector<double> numbers(const std::string& key) const;  ///< one number, or a list of at least one

  static double number(const Json& value, const std::string& path, double low, double high);
  static Point point(const Json& value, const std::string& path);
  [[noreturn]] static void refuse(const Json& value, const std::string& path, const std::string& accepted);

 private:
  const Json& value_;
  std::string path_;
};

/// "a, b or c".
std::string either_of(const std::vector<std::string>& words);

}  // namespace fexel

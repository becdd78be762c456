#include "base/error.h"

#include "base/printable.h"

namespace fexel {
namespace {

constexpr std::size_t longest = 1000;

std::string joined(const std::string& message, const std::string& where, const std::string& remedy) {
  std::string text = where.empty() ? message : where + ": " + message;
  if (!remedy.empty()) text += " " + remedy;
  return text;
}

}  // namespace

Error::Error(Kind kind, std::string message, std::string where, std::string remedy)
    : std::runtime_error(joined(printable(message, longest), printable(where), printable(remedy, longest))),
      kind_(kind),
      message_(printable(message, longest)),
      where_(printable(where)),
      remedy_(printable(remedy, longest)) {}

Error call_error(std::string message, std::string where, std::string remedy) {
  return Error(Error::Kind::call, std::move(message), std::move(where), std::move(remedy));
}

Error input_error(std::string message, std::string where, std::string remedy) {
  return Error(Error::Kind::input, std::move(message), std::move(where), std::move(remedy));
}

Error cancelled_error() {
  return Error(Error::Kind::cancelled, "Cancelled; no file was left half written.", {}, "Run it again to do the rest.");
}

}  // namespace fexel

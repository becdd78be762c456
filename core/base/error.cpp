#include "base/error.h"

namespace fexel {
namespace {

std::string joined(const std::string& message, const std::string& where, const std::string& remedy) {
  std::string text = where.empty() ? message : where + ": " + message;
  if (!remedy.empty()) text += " " + remedy;
  return text;
}

}  // namespace

Error::Error(Kind kind, std::string message, std::string where, std::string remedy)
    : std::runtime_error(joined(message, where, remedy)),
      kind_(kind),
      message_(std::move(message)),
      where_(std::move(where)),
      remedy_(std::move(remedy)) {}

Error call_error(std::string message, std::string where, std::string remedy) {
  return Error(Error::Kind::call, std::move(message), std::move(where), std::move(remedy));
}

Error input_error(std::string message, std::string where, std::string remedy) {
  return Error(Error::Kind::input, std::move(message), std::move(where), std::move(remedy));
}

Error cancelled_error() {
  return Error(Error::Kind::cancelled, "Cancelled; nothing was changed.");
}

}  // namespace fexel

#pragma once
/// The one exception type of Fexel: what happened, to what, and what to do about it.
#include <stdexcept>
#include <string>

namespace fexel {

class Error : public std::runtime_error {
 public:
  /// Who can mend it: `call` is a wrong command, chain or table (nothing was done); `input` is a file or frame that
  /// could not be used or written; `cancelled` is the person's own wish.
  enum class Kind { call, input, cancelled };

  /// `message` is a full sentence; `where` is a file, a frame or a path such as "/steps/1/width" (may be empty);
  /// `remedy` is a full sentence that says what would be accepted (may be empty).
  /// Bytes of files that are in any of them are made fit for a terminal: see printable().
  Error(Kind kind, std::string message, std::string where = {}, std::string remedy = {});

  Kind kind() const noexcept { return kind_; }
  const std::string& message() const noexcept { return message_; }
  const std::string& where() const noexcept { return where_; }
  const std::string& remedy() const noexcept { return remedy_; }

  /// The same error, said of another place: how a step's "/corners" becomes "/steps/1/corners".
  Error at(std::string where) const { return Error(kind_, message_, std::move(where), remedy_); }

 private:
  Kind kind_;
  std::string message_, where_, remedy_;
};

Error call_error(std::string message, std::string where = {}, std::string remedy = {});
Error input_error(std::string message, std::string where = {}, std::string remedy = {});
Error cancelled_error();

}  // namespace fexel

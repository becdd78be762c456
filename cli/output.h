#pragma once
/// What the command line says: to standard output, whose failure is an exit code, and to standard error, whose failure
/// is nobody's.
#include <fmt/format.h>

#include <string>

#include "text/json.h"

namespace fexel::cli {

/// Text to standard output; bytes of file names that are no text are made fit for a terminal.
void say(const std::string& text);
template <class... Arguments>
void say(fmt::format_string<Arguments...> format, Arguments&&... arguments) {
  say(fmt::format(format, std::forward<Arguments>(arguments)...));
}
/// The one object of --json.
void say_json(const Json& value);
/// A line to standard error.
void complain(const std::string& line);

/// Whether standard output took all of it.
bool all_said();

/// Sees to it that the three standard streams are there, so that no file that is opened takes their place.
void hold_standard_streams();

}  // namespace fexel::cli

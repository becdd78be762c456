#pragma once
/// The log of both programs: one file in the user's state folder, for whoever looks for what went wrong. It holds what
/// was run, what was written and what failed, and no pixels.
#include <filesystem>
#include <string>
#include <vector>

namespace fexel {

/// "trace", "debug", "info", "warning", "error", "off".
const std::vector<std::string>& log_levels();
/// Where the log is: $XDG_STATE_HOME/fexel, or ~/.local/state/fexel.
std::filesystem::path log_folder();
/// Begins to log, to `program`.log in log_folder(), which is turned over at 1 MB and kept three times. A folder that
/// cannot be written is no error: nothing is logged then.
void start_log(const std::string& program, const std::string& level);

void log_debug(const std::string& text);
void log_info(const std::string& text);
void log_warning(const std::string& text);
void log_error(const std::string& text);

}  // namespace fexel

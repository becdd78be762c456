#pragma once
/// A note of how a program ended that did not mean to: which one, why, and where it was.
#include <filesystem>
#include <optional>
#include <string>

namespace fexel {

/// From now on a signal that ends the program (a bad address, an abort, an instruction that is none) and an exception
/// that nobody takes leave a note in log_folder(): PROGRAM-crash-SECONDS-PROCESS.txt, with the stack of the thread. The
/// program then ends as it would have. Only the first thread that fails writes.
void leave_crash_notes(const std::string& program, const std::string& version);

/// The newest note of a program that was not told yet; each is told once. The eight newest are kept, others removed.
std::optional<std::filesystem::path> untold_crash_note(const std::string& program);

}  // namespace fexel

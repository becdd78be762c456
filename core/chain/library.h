#pragma once
/// Small files with names in the user's data folder: calibrations, styles.
#include <filesystem>
#include <string>
#include <vector>

#include "base/error.h"
#include "files/picture.h"

namespace fexel {

/// One kind of files: "calibrations" in files that end with ".calibration.json".
struct LibraryKind {
  const char* folder;
  const char* ending;
  const char* thing;  ///< "calibration", in messages
};

/// $XDG_DATA_HOME/fexel/FOLDER, or ~/.local/share/fexel/FOLDER.
std::filesystem::path library_folder(const LibraryKind& kind);
/// The file of a name. Raises a call error for a name that is empty, or no name for a file.
std::filesystem::path library_file(const LibraryKind& kind, const std::string& name);
/// All files with their names, by name.
std::vector<std::pair<std::filesystem::path, std::string>> library_files(const LibraryKind& kind);
/// What `parse` makes of the text of a small file; its errors name the file before the path.
template <class Parse>
auto parsed_file(const std::filesystem::path& file, const Parse& parse) {
  try {
    return parse(read_text(file, 1 << 20));
  } catch (const Error& error) {
    if (error.kind() == Error::Kind::cancelled) throw;
    throw call_error(error.message(), file.string() + (error.where() == file.string() ? "" : error.where()),
                     error.remedy());
  }
}
/// The file that a word means: one of that path, or of that name in the library. Raises a call error that names what
/// there is.
std::filesystem::path library_file_meant(const LibraryKind& kind, const std::string& name_or_file);

}  // namespace fexel

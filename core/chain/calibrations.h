#pragma once
/// The library of calibrations: a small file each in the user's data folder.
#include <filesystem>
#include <vector>

#include "chain/chain.h"
#include "text/json.h"

namespace fexel {

/// What a calibration is in a file. Reading raises a call error that names the path in the text.
Calibration read_calibration(const Json& value, const std::string& path);
Json calibration_json(const Calibration& calibration);

/// One file: {"fexel_calibration": 1, "calibration": {…}}. Reading raises a call error for one that is broken or from a
/// newer version. Writing raises one where a file is there and may not be replaced.
/// The text of such a file.
Calibration parse_calibration(const std::string& text);
Calibration load_calibration(const std::filesystem::path& file);
void save_calibration(const Calibration& calibration, const std::filesystem::path& file, bool replace);

/// $XDG_DATA_HOME/fexel/calibrations, or ~/.local/share/fexel/calibrations.
std::filesystem::path calibration_folder();
/// The file of a name in the library. Raises a call error for a name that is empty, or no name for a file.
std::filesystem::path calibration_file(const std::string& name);

struct LibraryEntry {
  std::filesystem::path file;
  std::string name;
  std::optional<Calibration> calibration;  ///< nothing where the file is broken
  std::string problem;                     ///< then why
};
/// All of the library, by name.
std::vector<LibraryEntry> calibrations_in_library();

/// A name in the library, or a file. Raises a call error that names what there is.
Calibration calibration_named(const std::string& name_or_file);

/// The chain with another calibration: a name in the library, a file, or "none"; as it is for an empty word.
Chain with_calibration(Chain chain, const std::string& word);

/// Why a calibration is not for a picture of this size, in a sentence with a remedy; nothing where it fits.
std::optional<std::string> unfit_for(const Calibration& calibration, Size size);

}  // namespace fexel

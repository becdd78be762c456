#pragma once
/// The pictures that a run over folders takes.
#include <filesystem>
#include <string>
#include <vector>

namespace fexel {

struct ChosenInput {
  std::filesystem::path file;
  std::filesystem::path subfolder;  ///< of the folder that was named
};

struct InputChoice {
  std::vector<std::filesystem::path> places;  ///< files and folders
  std::string pattern = {};                   ///< of names in folders, as "IMG_*.tif"; several apart by blanks
  bool subfolders = false;
  std::vector<ChosenInput> listed = {};  ///< taken before all others, as they were found once
  std::filesystem::path out = {};        ///< where results go: nothing in it is taken from a folder above
};

struct ChosenInputs {
  std::vector<ChosenInput> files;  ///< each once; folder by folder in natural order
  int results = 0;                 ///< files left out because records say that Fexel wrote them
  std::vector<std::string> notes;  ///< folders that could not be read, or have no such picture
};

/// Files that were named are taken as they are, whatever the pattern.
ChosenInputs choose_inputs(const InputChoice& choice);

/// Whether a name fits one of the patterns: * is any characters, ? is one, upper and lower case are the same. All names
/// fit no pattern.
bool fits_pattern(const std::string& name, const std::string& patterns);

}  // namespace fexel

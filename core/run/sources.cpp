#include "run/sources.h"

#include "base/error.h"
#include "files/picture.h"

namespace fexel {
namespace fs = std::filesystem;

FoundSource find_source(const fs::path& chain_file, const SourceReference& source, const Job& job) {
  const fs::path folder = fs::absolute(chain_file).parent_path(), said = folder / source.path;
  std::error_code code;
  if (source.sha256.empty() || fs::exists(said, code)) return {said.string(), false};
  const fs::path name = fs::path(source.path).filename();
  const auto is_it = [&](const fs::path& place) {
    try {
      return fs::is_regular_file(place, code) && checksum(place, job) == source.sha256;
    } catch (const Error& error) {
      if (error.kind() == Error::Kind::cancelled) throw;
      return false;
    }
  };
  for (const fs::path& around : {folder, folder.parent_path()}) {
    if (is_it(around / name)) return {(around / name).string(), true};
    int looked_into = 0;
    for (fs::directory_iterator entry(around, fs::directory_options::skip_permission_denied, code), end;
         !code && entry != end && looked_into < 1000; entry.increment(code), ++looked_into)
      if (entry->is_directory(code) && is_it(entry->path() / name)) return {(entry->path() / name).string(), true};
  }
  return {said.string(), false};
}

}  // namespace fexel

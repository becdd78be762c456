#include "stacks/provenance.h"

#include "files/safe_file.h"

namespace fexel {
namespace fs = std::filesystem;

fs::path provenance_path(const fs::path& result) {
  return result.string() + ".made.json";
}

void write_provenance(const fs::path& path, int descriptor, const MadeOf& made, const std::vector<WatchedFile>& sources,
                      const Job& job) {
  Json out{{"fexel_made", 1}, {"version", FEXEL_VERSION}, {"operation", made.operation}};
  for (const WatchedFile& source : sources) {
    Json one;
    put_name(one, "path", source.path().string());
    one["sha256"] = source.checked_checksum({job.stop, {}});
    out["sources"].push_back(one);
  }
  if (made.chain) out["chain"] = parse_json(write_chain(for_record(*made.chain)));
  if (!made.notes.empty()) out["notes"] = made.notes;
  Json result;
  put_name(result, "path", path.filename().string());
  result["sha256"] = checksum(descriptor, path.string(), {job.stop, {}});
  out["result"] = result;
  write_text(provenance_path(path), to_text(out, 2) + "\n", true);
}

void write_made(const fs::path& path, const std::vector<Image>& pages, const WriteOptions& options, const MadeOf& made,
                const std::vector<WatchedFile>& sources, const Job& job) {
  const auto file = prepare_pictures(path, pages, options, job);
  write_provenance(path, file->descriptor(), made, sources, job);
  file->commit();
}

}  // namespace fexel

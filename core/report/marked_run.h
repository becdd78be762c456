#pragma once
/// Marked copies beside the results of a run over many files.
#include "report/marked_copy.h"
#include "run/run.h"

namespace fexel {

/// The copies of one item, one for each page: NAME-marked.png, or NAME-marked-2.png for the second page.
std::vector<std::filesystem::path> copies_of(const RunItem& item, CopyFormat format);

/// Raises a call error, before anything is written, where the chain has no marks, or a copy would replace a source, a
/// result, or a file that may not be replaced; or where its one item has a mark that cannot be drawn. Of several items
/// such ones get their failure; so does one of a resumed run whose result is made anew beside a copy that is there.
void check_copies(const Chain& chain, std::vector<RunItem>& items, CopyFormat format, const RunOptions& options);

/// Writes the copies of one item; of one that is skipped those that are not there. `chain` is that of the whole
/// sequence, searched.
std::vector<std::filesystem::path> write_copies(const Chain& chain, const RunItem& item, CopyFormat format,
                                                const RunOptions& options, const Job& job);

}  // namespace fexel

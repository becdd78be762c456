#pragma once
/// The reference of a fit step: the picture that targets are placed on.
#include <memory>

#include "app/compare/snapshot.h"
#include "app/document/document.h"
#include "app/document/pairs_review.h"

namespace fexel {

/// The selected fit step with its reference, where that is open.
struct OpenReference {
  int step;
  const FitStep* fit;
  const Session::Reference* picture;
  double scale;  ///< pixels of the step's result for one of the reference
};
std::optional<OpenReference> open_reference(const Document& document);
/// Changes the selected fit step as one change.
void change_fit(Document& document, const QString& text, const FitStep& next, const QString& merge = {});

/// The reference as a picture of its own; `in_b` says on which side it is shown.
std::shared_ptr<const Snapshot> snapshot_of(const OpenReference& reference, bool in_b);

/// Where the reference's file lies: beside the chain, or beside the source where the chain has no file yet.
std::filesystem::path reference_path(const Document& document, const std::string& file);
/// Reads it, with the pixel size that it carries. Raises what reading a picture raises.
Session::Reference read_reference(const std::filesystem::path& path, const std::string& file, const Job& job);
}  // namespace fexel

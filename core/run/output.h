#pragma once
/// What is written of a result: its shape, and what is done to its samples behind the chain.
#include <filesystem>
#include <optional>
#include <utility>

#include "chain/layout.h"
#include "files/parts.h"
#include "files/picture.h"

namespace fexel {

/// How the empty pixels of a result are told: by the fill value alone, by one more band (0 there, full elsewhere), by
/// NaN in floating-point samples, or by a picture beside the result that is 0 there and 255 elsewhere.
enum class EmptyAs { fill, alpha, nan, mask };
std::string_view name_of(EmptyAs empty);
std::vector<std::string> empty_words();

/// What a run does to samples behind the chain.
struct Finish {
  std::optional<Depth> depth;                      ///< the result's without it; clamps
  std::optional<std::pair<double, double>> range;  ///< these samples become the depth's lowest and highest
  EmptyAs empty = EmptyAs::fill;
  int quality = 92;  ///< of JPEG, 1 to 100
  bool operator==(const Finish&) const = default;
};

/// A page of a result, as it is written.
using OutputShape = PictureRows::Page;
/// The shape that the layout's result has in the file.
OutputShape output_shape(const Layout& layout, const Finish& finish);

/// Raises a call error when the format cannot hold what would be written.
void check_output(const Layout& layout, const Finish& finish, Format format, int pages);

/// What is made of an evaluated picture before it is written. `clamped` grows by the samples that were clamped.
Image finished(Image image, const Finish& finish, std::int64_t& clamped);

/// What a result goes on saying of what its source says: all, but for a profile that its samples no longer follow.
Attached carried_on(const std::filesystem::path& source, const OutputShape& shape, const Finish& finish);

/// What of a result its format cannot hold, in sentences: the pixel size, the colour profile, the camera's data.
std::vector<std::string> not_held(Format format, const OutputShape& shape, const Attached& attached);
/// What of the source's own words a result does not say: names such as "maker notes".
std::vector<std::string> dropped_by(Format format, const Attached& attached);

/// Half of the machine's memory, in bytes.
std::int64_t memory_to_use();

}  // namespace fexel

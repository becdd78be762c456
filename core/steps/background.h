#pragma once
/// What stands still in every frame of a sequence, taken off.
#include "steps/step_base.h"

namespace fexel {

/// A picture of the background is taken off, sample by sample; a band of it for each band, or one for all. Without a
/// file nothing is. Where its checksum is given the file must still have it, so that results can be made again.
struct BackgroundStep {
  static constexpr const char* word = "background";
  static constexpr std::array keys{"file", "sha256", "keep_level"};
  static constexpr const char* size_key = "/file";
  std::string file;
  std::string sha256;
  bool keep_level = true;  ///< the background's mean is put back, band by band
  bool operator==(const BackgroundStep&) const = default;
};

StepGeometry geometry_of(const BackgroundStep& step, const StepInput& input);
void read_step(JsonReader& in, BackgroundStep& step);
void write_step(nlohmann::ordered_json& out, const BackgroundStep& step);
/// What the step makes of all pixels of its station. Raises a call error for a background of another size or number of
/// bands, or one that is not what its checksum says; an input error for one that cannot be read.
Image pixels_of(const BackgroundStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);

}  // namespace fexel

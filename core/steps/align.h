#pragma once
/// The step that brings each frame of a sequence to one of them.
#include "align/sequence.h"
#include "steps/step_base.h"

namespace fexel {

/// What the search found for one frame.
struct FoundFrame {
  Matrix3 matrix = Matrix3::Identity();  ///< the frame's places in this station to the reference's
  double score = 0, uncertainty_px = 0;
  MatchStatus status = MatchStatus::failed;
  std::string reason;    ///< why it is not ok, and what to do
  bool by_hand = false;  ///< a person put it there; it has no score and no uncertainty
  bool operator==(const FoundFrame&) const = default;
};

/// What frames are aligned to.
struct AlignReference {
  ReferenceMode mode = ReferenceMode::first;
  int number = 0;         ///< of the frame, from 1, or how many frames before are averaged (0 for all)
  std::string path = {};  ///< of a picture
  bool operator==(const AlignReference&) const = default;
};
/// first, neighbour, average, average:N, frame:N, file:PATH, network. Raises a call error at "/against".
AlignReference reference_from(const std::string& text);
std::string text_of_reference(const AlignReference& reference);

/// Every frame lies as the reference does. Until the search has run, frames stay where they are.
struct AlignStep {
  static constexpr const char* word = "align";
  static constexpr std::array keys{"model", "against", "band", "region", "alike", "width", "height", "frames"};
  static constexpr const char* size_key = "/width";
  Model model = Model::rigid;
  AlignReference against;
  int band = 0;                  ///< that is matched on, from 1; 0 is the mean of all
  std::optional<Region> region;  ///< of the reference, that is matched on
  SimilarityMetric alike = SimilarityMetric::brightness;
  std::optional<int> width, height;  ///< of the reference; without them the station's
  std::vector<FoundFrame> frames;
  bool operator==(const AlignStep&) const = default;
};

StepGeometry geometry_of(const AlignStep& step, const StepInput& input);
void read_step(JsonReader& in, AlignStep& step);
void write_step(nlohmann::ordered_json& out, const AlignStep& step);

}  // namespace fexel

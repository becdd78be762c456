#pragma once
/// Steps that change samples and not where they are. Each ends a run.
#include "chain/step_base.h"
#include "filter/filter.h"

namespace fexel {

/// Bands chosen and put in order, or weighed together to one.
struct BandsStep {
  static constexpr const char* word = "bands";
  static constexpr std::array keys{"take", "weights"};
  static constexpr const char* size_key = "/take";
  std::vector<int> take;        ///< counted from 1; empty for grey
  std::vector<double> weights;  ///< of grey, one for each band; empty for those of the eye (three bands) or equal ones
  bool operator==(const BandsStep&) const = default;
};

/// Local histogram equalisation.
struct ContrastStep {
  static constexpr const char* word = "contrast";
  static constexpr std::array keys{"tile", "limit"};
  static constexpr const char* size_key = "/tile";
  int tile = 64;     ///< pixels
  double limit = 2;  ///< of the slope
  bool operator==(const ContrastStep&) const = default;
};

/// What changes within `radius` pixels, about the middle of the range.
struct HighpassStep {
  static constexpr const char* word = "highpass";
  static constexpr std::array keys{"radius"};
  static constexpr const char* size_key = "/radius";
  double radius = 16;
  bool operator==(const HighpassStep&) const = default;
};

struct DenoiseStep {
  static constexpr const char* word = "denoise";
  static constexpr std::array keys{"radius", "method"};
  static constexpr const char* size_key = "/radius";
  double radius = 1;
  bool median = true;  ///< else Gaussian
  bool operator==(const DenoiseStep&) const = default;
};

struct ConvolveStep {
  static constexpr const char* word = "convolve";
  static constexpr std::array keys{"kernel", "scale", "offset", "depth"};
  static constexpr const char* size_key = "/kernel";
  Grid kernel{3, 3, {0, 0, 0, 0, 1, 0, 0, 0, 0}};
  double scale = 1, offset = 0;
  std::optional<Depth> depth;  ///< that comes out; the station's without it
  bool operator==(const ConvolveStep&) const = default;
};

StepGeometry geometry_of(const BandsStep& step, const StepInput& input);
StepGeometry geometry_of(const ContrastStep& step, const StepInput& input);
StepGeometry geometry_of(const HighpassStep& step, const StepInput& input);
StepGeometry geometry_of(const DenoiseStep& step, const StepInput& input);
StepGeometry geometry_of(const ConvolveStep& step, const StepInput& input);
void read_step(JsonReader& in, BandsStep& step);
void read_step(JsonReader& in, ContrastStep& step);
void read_step(JsonReader& in, HighpassStep& step);
void read_step(JsonReader& in, DenoiseStep& step);
void read_step(JsonReader& in, ConvolveStep& step);
void write_step(nlohmann::ordered_json& out, const BandsStep& step);
void write_step(nlohmann::ordered_json& out, const ContrastStep& step);
void write_step(nlohmann::ordered_json& out, const HighpassStep& step);
void write_step(nlohmann::ordered_json& out, const DenoiseStep& step);
void write_step(nlohmann::ordered_json& out, const ConvolveStep& step);
Image pixels_of(const BandsStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);
Image pixels_of(const ContrastStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);
Image pixels_of(const HighpassStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);
Image pixels_of(const DenoiseStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);
Image pixels_of(const ConvolveStep& step, const Image& input, const Resampling& resampling, const Job& job,
                std::int64_t& clamped);

}  // namespace fexel

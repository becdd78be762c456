#pragma once
/// The edge of a picture along a path: samples across it, the curve along which they change, the width of the edge, and
/// the curve's coefficients with their covariance. Lines and circles are both found with it.
#include <optional>
#include <string>

#include "measure/edge_profiles.h"

namespace fexel {

/// Why no edge was taken.
struct EdgeRefusal {
  enum class Why {
    none,       ///< nothing stands out
    weak,       ///< something may, but it does not stand out of the noise
    uncertain,  ///< it is there, and where it lies is not known well enough
    disagree    ///< parts of it lie on different curves
  };
  Why why = Why::none;
  double contrast = 0;  ///< of the edge, in sample values
  double noise = 0;     ///< of one sample, likewise
  double width = 0;     ///< standard deviation of the blur across it, in pixels
  double sigma = 0;     ///< standard uncertainty where it is largest, in pixels
};
/// A sentence's end: "is too soft and faint: contrast 5, noise 8, blur 3.1 px".
std::string reason_of(const EdgeRefusal& refusal);

/// A curve through an edge.
struct EdgeFit {
  Eigen::VectorXd value;       ///< coefficients
  Eigen::MatrixXd covariance;  ///< from the scatter of parts of the edge, whose disturbance is shared within a part
  double scatter = 0;          ///< RMS of the places across the curve, in pixels
  double width = 0;            ///< standard deviation of the blur across the edge, in pixels
  double contrast = 0;         ///< step across it, mean of sizes, in sample values summed over the bands
  double noise = 0;            ///< of a place's samples about the step, likewise
  double significance = 0;     ///< contrast in multiples of its standard uncertainty
  int used = 0;                ///< places that lie on the curve
};

/// A blurred step in one row of samples.
struct StepInProfile {
  double place = 0, sigma = 0;  ///< pixels from the first sample, and its standard uncertainty from the noise about it
  double width = 0;             ///< standard deviation of the blur
  double contrast = 0, contrast_sigma = 0;
};
/// In samples EdgeProfiles::pitch apart, near a place, where the next edge is `room` pixels away; `noise` is that of
/// samples a pixel apart. Nothing where no step
/// is there, or the row ends too near.
std::optional<StepInProfile> step_in_profile(const std::vector<float>& samples, double place, double room,
                                             double noise);

/// Edges along the path, the one with most contrast first; at most two that run side by side. `near` terms of the curve
/// are searched over all of the reach, at the finest of several scales at which an edge stands out (J. Canny, 1986, "A
/// computational approach to edge detection"). Then, at the scale of the edge itself, a blurred step is fitted to each
/// place by least squares, together with a ramp of light, and the curve to the places with weights that exclude
/// outliers (J. W. Tukey's biweight). `curved` has one term more.
struct FoundEdge {
  EdgeFit fit, curved;
};
std::vector<FoundEdge> edges_along(const EdgePath& path, const EdgeProfiles& profiles, EdgeRefusal* why);

}  // namespace fexel

#pragma once
/// The size of a pixel from known lengths.
#include <optional>
#include <span>

namespace fexel {

/// A known length as it lies in a picture.
struct MeasuredLength {
  double pixels;
  double length;   ///< the true length, in some unit
  double by_hand;  ///< standard uncertainty of `pixels` from placing its ends
};

/// The size of one pixel by known lengths, in their unit.
struct PixelScale {
  double per_pixel = 0;
  double uncertainty = 0;  ///< standard uncertainty, in the same unit
  double worst = 0;        ///< the largest share by which one of the lengths departs from it
  bool agree = true;       ///< none departs by more than four times what placing its ends explains
};

/// The scale by least squares through the origin over pixels. Of several lengths, their scatter counts where it is
/// larger than the uncertainty of placing their ends. The lengths themselves are taken as exact. Nothing without a
/// length, or where one is not above zero.
std::optional<PixelScale> scale_of(std::span<const MeasuredLength> lengths);

}  // namespace fexel

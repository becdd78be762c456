#pragma once
/// Order statistics of numbers.
#include <algorithm>
#include <vector>

namespace fexel {

/// The value below which a share of the values lies: of n values in order, number floor(share (n - 1)), from 0. Needs
/// at least one value.
template <class T>
T quantile(std::vector<T> values, double share) {
  const auto at = values.begin() + static_cast<std::ptrdiff_t>(share * static_cast<double>(values.size() - 1));
  std::ranges::nth_element(values, at);
  return *at;
}

/// The middle value; of an even number of values the higher one of the two in the middle. Needs at least one value.
template <class T>
T median(std::vector<T> values) {
  const auto at = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
  std::ranges::nth_element(values, at);
  return *at;
}

/// The middle value; of an even number of values the mean of the two in the middle. Needs at least one value.
template <class T>
T central_median(std::vector<T> values) {
  const auto at = values.begin() + static_cast<std::ptrdiff_t>(values.size() / 2);
  std::ranges::nth_element(values, at);
  return values.size() % 2 == 1 ? *at : (*at + *std::max_element(values.begin(), at)) / 2;
}

}  // namespace fexel

#pragma once
/// Pixels of a station, or of a view of it.
#include <map>
#include <memory>
#include <mutex>

#include "chain/layout.h"
#include "resample/warp.h"

namespace fexel {

/// The pictures that runs of steps begin with: the source, and what steps that end a run make of theirs. Each is made
/// when it is first asked for, and kept. Reading is safe from several threads.
class RunPictures {
 public:
  /// What `before` has made is taken over as far as the chain up to there is the same.
  RunPictures(std::shared_ptr<const Pyramid> source, Chain chain, Layout layout, const RunPictures* before = nullptr);
  /// The picture of a station that a run begins with (Station::run_start).
  std::shared_ptr<const Pyramid> at(int run_start, const Job& job) const;
  /// All pixels of a station, and how they came about since the source.
  Image pixels(int station, const Job& job, WarpReport* report = nullptr) const;
  const Layout& layout() const { return layout_; }

 private:
  struct Made {
    std::shared_ptr<const Pyramid> picture;
    WarpReport report;
  };
  Made made_at(int run_start, const Job& job) const;
  Image resampled(int station, const Resampling& how, const Job& job, WarpReport& report) const;

  std::shared_ptr<const Pyramid> source_;
  Chain chain_;
  Layout layout_;
  mutable std::recursive_mutex making_;  // for as long as a picture takes; each is made from the one before
  mutable std::mutex mutex_;             // of what is made, for a moment only: windows take it over
  mutable std::map<int, Made> made_;
};

/// How the pixels of a station come from the picture that its run begins with, in one resampling.
WarpPlan plan_for(const Layout& layout, int station);
/// The same for a view: `station_from_view` carries view pixels to the station; the view has `size` pixels.
WarpPlan plan_for_view(const Layout& layout, int station, const Map& station_from_view, Size size);
/// Whether all pixels of a station are those of the source, moved.
bool is_exact_station(const Layout& layout, int station);

/// How often the pixels of a station have been resampled since the source: once for each run that does not only move
/// them.
int resamplings(const Layout& layout, int station);

/// Raises a call error when the chain's fill has neither one value nor one for each band.
void check_fill(const Chain& chain, int bands);

/// All pixels of the chain's result.
Image evaluate(const Chain& chain, const Layout& layout, const Pyramid& source, const Job& job, WarpReport* report);

}  // namespace fexel

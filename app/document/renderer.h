#pragma once
/// Draws what a view shows, with the engine that writes files, on a thread of its own. The newest request wins.
#include <QImage>
#include <QObject>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <optional>
#include <stop_token>
#include <thread>

#include "chain/evaluate.h"

namespace fexel {

/// A part of a station, drawn. Image pixel (i, j) covers the station from (left + i step, top + j step), `step` wide.
struct StationImage {
  QImage image;                          ///< premultiplied; empty pixels are transparent
  std::shared_ptr<const Image> samples;  ///< the same pixels as they would be written, where they are few
  double left = 0, top = 0, step = 1;
  quint64 revision = 0;
  quint64 serial = 0;  ///< of the request
  Quality quality = Quality::final;
  double seconds = 0;  ///< that the engine took
};

/// How a picture of B shows A too: signed difference about a mid grey, or both in hues that cancel where they agree.
enum class Mix { none, difference, tint };
/// The difference that is shown as black or white, as a share of the depth's range.
inline constexpr double difference_range = 0.25;

struct RenderRequest {
  std::shared_ptr<const Pyramid> source;
  std::shared_ptr<const RunPictures> pictures;     ///< only where the plan reads what a step has made of all pixels
  int run_start = 0;                               ///< the station that the plan then reads
  WarpPlan plan;                                   ///< of the visible part
  std::optional<std::pair<double, double>> range;  ///< samples shown as black and white; not with mix
  Mix mix = Mix::none;
  std::optional<std::pair<double, double>> other_range;  ///< the same of A, with mix
  std::shared_ptr<const Pyramid> other_source;
  std::shared_ptr<const RunPictures> other_pictures;
  int other_run_start = 0;  ///< with mix: the same part of A, carried to B's place
  WarpPlan other;
  Resampling resampling;
  double left = 0, top = 0, step = 1;  ///< as in StationImage
  Quality quality = Quality::final;
  quint64 revision = 0;
  quint64 serial = 0;
  /// Whether both ask for the same pixels, whatever the revision and the quality.
  bool same_picture(const RenderRequest& other) const;
};

/// A and B mixed, from pictures of one size. Bands are averaged; where either is empty so is the mixture.
using Range = std::optional<std::pair<double, double>>;
QImage mixed(const Image& a, const Image& b, Mix mix, const Range& range_a = {}, const Range& range_b = {});
/// The pixels of an engine picture as the screen shows them: 8-bit as they are, 16-bit by 257, float from 0 to 1.
/// With a range, its ends are shown as black and white, whatever the depth.
QImage to_screen(const Image& image, const std::optional<std::pair<double, double>>& range = {});
/// B minus A about a mid grey, enlarged. Both come from to_screen() and have one size.
QImage enlarged_difference(const QImage& a, const QImage& b, int times);

class Renderer : public QObject {
  Q_OBJECT
 public:
  static constexpr int loupe_side = 18;        ///< station pixels across the loupe's picture
  static constexpr int max_samples = 1 << 14;  ///< pixels of a picture that is handed over with its samples

  explicit Renderer(QObject* parent = nullptr);
  ~Renderer() override;
  /// Draws this next. A final picture that is being drawn is given up; a draft is finished first, so that a drag never
  /// starves.
  void request(RenderRequest request);
  /// Draws this small picture before all else.
  void request_loupe(RenderRequest request);

 Q_SIGNALS:
  void ready(const fexel::StationImage& image);
  void loupe_ready(const fexel::StationImage& image);

 private:
  void run(const std::stop_token& stop);

  std::mutex mutex_;
  std::condition_variable_any wake_;
  std::optional<RenderRequest> next_, next_loupe_;
  std::stop_source current_;
  bool drawing_final_ = false;
  std::jthread thread_;
};

}  // namespace fexel

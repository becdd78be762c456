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
  QImage image;  ///< premultiplied; empty pixels are transparent
  double left = 0, top = 0, step = 1;
  quint64 revision = 0;
  Quality quality = Quality::final;
};

struct RenderRequest {
  std::shared_ptr<const Pyramid> source;
  Layout layout;
  Resampling resampling;
  int station = 0;
  double left = 0, top = 0, step = 1;  ///< as in StationImage
  Size size;
  Quality quality = Quality::final;
  quint64 revision = 0;
  std::optional<Point> loupe;  ///< also draw the surroundings of this station point, pixel by pixel
};

/// The pixels of an engine picture as the screen shows them: 8-bit as they are, 16-bit by 257, float from 0 to 1.
QImage to_screen(const Image& image);

class Renderer : public QObject {
  Q_OBJECT
 public:
  static constexpr int loupe_side = 18;  ///< station pixels across the loupe's picture

  explicit Renderer(QObject* parent = nullptr);
  ~Renderer() override;
  /// Draws this next. A final picture that is being drawn is given up; a draft is finished first, so that a drag never
  /// starves.
  void request(RenderRequest request);

 Q_SIGNALS:
  void ready(const fexel::StationImage& image);
  void loupe_ready(const fexel::StationImage& image);

 private:
  void run(const std::stop_token& stop);
  void draw(const RenderRequest& request, const std::stop_token& stop);

  std::mutex mutex_;
  std::condition_variable_any wake_;
  std::optional<RenderRequest> next_;
  std::stop_source current_;
  bool drawing_final_ = false;
  std::jthread thread_;
};

}  // namespace fexel

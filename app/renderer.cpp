#include "app/renderer.h"

#include <QMetaType>

namespace fexel {
namespace {

template <class T>
quint32 level(const T* row, int x) {
  if constexpr (sizeof(T) == 1) return row[x];
  if constexpr (sizeof(T) == 2) return row[x] / 257U;
  const auto v = static_cast<float>(row[x]);
  return v > 0 ? static_cast<quint32>(std::min(v, 1.0F) * 255.0F + 0.5F) : 0U;
}

}  // namespace

QImage to_screen(const Image& image) {
  QImage out(image.width(), image.height(), QImage::Format_ARGB32_Premultiplied);
  const bool colour = image.bands() >= 3;
  visit_depth(image.depth(), [&](auto sample) {
    using T = decltype(sample);
    for (int y = 0; y < image.height(); ++y) {
      auto* line = reinterpret_cast<quint32*>(out.scanLine(y));
      const T* r = image.row<T>(0, y);
      const T* g = image.row<T>(colour ? 1 : 0, y);
      const T* b = image.row<T>(colour ? 2 : 0, y);
      for (int x = 0; x < image.width(); ++x)
        line[x] = image.valid(x, y) ? 0xff000000U | level(r, x) << 16 | level(g, x) << 8 | level(b, x) : 0U;
    }
  });
  return out;
}

Renderer::Renderer(QObject* parent) : QObject(parent), thread_([this](std::stop_token stop) { run(stop); }) {
  qRegisterMetaType<StationImage>();
}

Renderer::~Renderer() {
  thread_.request_stop();
  {
    const std::scoped_lock lock(mutex_);
    current_.request_stop();
  }
  wake_.notify_all();
}

void Renderer::request(RenderRequest request) {
  {
    const std::scoped_lock lock(mutex_);
    next_ = std::move(request);
    if (drawing_final_) current_.request_stop();
  }
  wake_.notify_all();
}

void Renderer::run(const std::stop_token& stop) {
  yield_to_others();
  while (!stop.stop_requested()) {
    RenderRequest request;
    std::stop_token cancelled;
    {
      std::unique_lock lock(mutex_);
      if (!wake_.wait(lock, stop, [this] { return next_.has_value(); })) return;
      request = std::move(*next_);
      next_.reset();
      current_ = std::stop_source();
      cancelled = current_.get_token();
      drawing_final_ = request.quality == Quality::final;
    }
    try {
      draw(request, cancelled);
    } catch (const Error&) {
      // Given up for a newer request, or no memory for this one: the last picture stays.
    } catch (const std::bad_alloc&) {
    }
  }
}

void Renderer::draw(const RenderRequest& r, const std::stop_token& stop) {
  const Job job{stop, {}};
  if (r.loupe) {
    const double left = std::floor(r.loupe->x) - loupe_side / 2, top = std::floor(r.loupe->y) - loupe_side / 2;
    const Size size{loupe_side, loupe_side};
    const WarpPlan plan = plan_for_view(r.layout, r.station, translation(left, top), size);
    const Image pixels = warp(*r.source, plan, {0, 0, size.width, size.height}, r.resampling, Quality::final, job);
    Q_EMIT loupe_ready({to_screen(pixels), left, top, 1, r.revision, Quality::final});
  }
  if (r.size.width < 1 || r.size.height < 1) return;
  const WarpPlan plan =
      plan_for_view(r.layout, r.station, translation(r.left, r.top) * scaling(r.step, r.step), r.size);
  const Image pixels = warp(*r.source, plan, {0, 0, r.size.width, r.size.height}, r.resampling, r.quality, job);
  Q_EMIT ready({to_screen(pixels), r.left, r.top, r.step, r.revision, r.quality});
}

}  // namespace fexel

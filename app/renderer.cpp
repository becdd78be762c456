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

StationImage draw(const RenderRequest& r, const Job& job) {
  const Size size = r.plan.result;
  // A picture that a run begins with is made once and kept, so it is finished whatever is wanted next.
  const auto source = r.pictures ? r.pictures->at(r.run_start, {}) : r.source;
  const Image pixels = warp(*source, r.plan, {0, 0, size.width, size.height}, r.resampling, r.quality, job);
  return {to_screen(pixels), r.left, r.top, r.step, r.revision, r.serial, r.quality};
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

bool RenderRequest::same_picture(const RenderRequest& other) const {
  return source == other.source && pictures == other.pictures && run_start == other.run_start && plan == other.plan &&
         resampling == other.resampling && left == other.left && top == other.top && step == other.step;
}

void Renderer::request(RenderRequest request) {
  {
    const std::scoped_lock lock(mutex_);
    next_ = std::move(request);
    if (drawing_final_) current_.request_stop();
  }
  wake_.notify_all();
}

void Renderer::request_loupe(RenderRequest request) {
  {
    const std::scoped_lock lock(mutex_);
    next_loupe_ = std::move(request);
  }
  wake_.notify_all();
}

void Renderer::run(const std::stop_token& stop) {
  yield_to_others();
  while (!stop.stop_requested()) {
    RenderRequest request;
    std::stop_token cancelled;
    bool is_loupe = false;
    {
      std::unique_lock lock(mutex_);
      if (!wake_.wait(lock, stop, [this] { return next_ || next_loupe_; })) return;
      is_loupe = next_loupe_.has_value();
      auto& slot = is_loupe ? next_loupe_ : next_;
      request = std::move(*slot);
      slot.reset();
      current_ = std::stop_source();
      cancelled = current_.get_token();
      drawing_final_ = !is_loupe && request.quality == Quality::final;
    }
    try {
      const StationImage drawn = draw(request, {cancelled, {}});
      if (is_loupe)
        Q_EMIT loupe_ready(drawn);
      else
        Q_EMIT ready(drawn);
    } catch (const Error&) {
      // Given up for a newer request, or no memory for this one: the last picture stays.
    } catch (const std::bad_alloc&) {
    }
  }
}

}  // namespace fexel

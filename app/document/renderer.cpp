#include "app/document/renderer.h"

#include <chrono>

#include <QMetaType>

namespace fexel {
namespace {

/// The level on the screen of a sample, between those that are shown as black and white.
struct Levels {
  float low, scale;
  template <class T>
  quint32 operator()(T sample) const {
    const float v = (static_cast<float>(sample) - low) * scale;
    return v > 0 ? static_cast<quint32>(std::min(v, 255.0F) + 0.5F) : 0U;
  }
};

StationImage draw(const RenderRequest& r, const Job& job) {
  const Size size = r.plan.result;
  // A picture that a run begins with is made once and kept, so it is finished whatever is wanted next.
  const auto part = [&](const auto& from, const auto& pictures, int run_start, const WarpPlan& plan) {
    const auto source = pictures && run_start > 0 ? pictures->at(run_start, {}) : from;
    return warp(*source, plan, {0, 0, size.width, size.height}, r.resampling, r.quality, job);
  };
  Image pixels = part(r.source, r.pictures, r.run_start, r.plan);
  if (r.mix != Mix::none)
    return {mixed(part(r.other_source, r.other_pictures, r.other_run_start, r.other), pixels, r.mix, r.other_range,
                  r.range),
            nullptr,
            r.left,
            r.top,
            r.step,
            r.revision,
            r.serial,
            r.quality,
            0};
  QImage image = to_screen(pixels, r.range);
  const bool few = r.step == 1 && size.width * std::int64_t{size.height} <= Renderer::max_samples;
  auto samples = few ? std::make_shared<const Image>(std::move(pixels)) : nullptr;
  return {std::move(image), std::move(samples), r.left, r.top, r.step, r.revision, r.serial, r.quality, 0};
}

}  // namespace

QImage enlarged_difference(const QImage& a, const QImage& b, int times) {
  QImage out(a.size(), QImage::Format_RGB32);
  const auto level = [times](int from, int to) { return std::clamp(128 + times * (to - from), 0, 255); };
  for (int y = 0; y < out.height(); ++y) {
    const auto* p = reinterpret_cast<const QRgb*>(a.constScanLine(y));
    const auto* q = reinterpret_cast<const QRgb*>(b.constScanLine(y));
    auto* to = reinterpret_cast<QRgb*>(out.scanLine(y));
    for (int x = 0; x < out.width(); ++x)
      to[x] = qRgb(level(qRed(p[x]), qRed(q[x])), level(qGreen(p[x]), qGreen(q[x])), level(qBlue(p[x]), qBlue(q[x])));
  }
  return out;
}

QImage to_screen(const Image& image, const std::optional<std::pair<double, double>>& range) {
  QImage out(image.width(), image.height(), QImage::Format_ARGB32_Premultiplied);
  const bool colour = image.bands() >= 3;
  visit_depth(image.depth(), [&](auto sample) {
    using T = decltype(sample);
    const auto draw_all = [&](const auto& level) {
      for (int y = 0; y < image.height(); ++y) {
        auto* line = reinterpret_cast<quint32*>(out.scanLine(y));
        const T* r = image.row<T>(0, y);
        const T* g = image.row<T>(colour ? 1 : 0, y);
        const T* b = image.row<T>(colour ? 2 : 0, y);
        for (int x = 0; x < image.width(); ++x)
          line[x] = image.valid(x, y) ? 0xff000000U | level(r[x]) << 16 | level(g[x]) << 8 | level(b[x]) : 0U;
      }
    };
    if (!range && image.stated_largest() > 0)
      draw_all(Levels{0, static_cast<float>(255 / image.largest())});
    else if (range)
      draw_all(Levels{static_cast<float>(range->first), static_cast<float>(255 / (range->second - range->first))});
    else if constexpr (sizeof(T) == 1)
      draw_all([](T v) { return quint32{v}; });
    else if constexpr (sizeof(T) == 2)
      draw_all([](T v) { return v / 257U; });
    else
      draw_all(Levels{0, 255});
  });
  return out;
}

QImage mixed(const Image& a, const Image& b, Mix mix, const Range& range_a, const Range& range_b) {
  QImage out(b.width(), b.height(), QImage::Format_ARGB32_Premultiplied);
  // Row by row the mean of the bands, from 0 to 1.
  const auto means = [](const Image& image, const Range& range, int y, std::vector<float>& row) {
    const int bands = std::min(image.bands(), image.bands() >= 3 ? 3 : 1);
    row.assign(static_cast<std::size_t>(image.width()), 0);
    visit_depth(image.depth(), [&](auto sample) {
      using T = decltype(sample);
      const auto low = static_cast<float>(range ? range->first : 0);
      const float scale =
          1.0F / static_cast<float>(bands) / static_cast<float>(range ? range->second - range->first : image.largest());
      for (int band = 0; band < bands; ++band) {
        const T* from = image.row<T>(band, y);
        for (std::size_t x = 0; x < row.size(); ++x) row[x] += scale * (static_cast<float>(from[x]) - low);
      }
    });
  };
  const auto byte = [](float v) { return static_cast<quint32>(std::clamp(v, 0.0F, 1.0F) * 255.0F + 0.5F); };
  std::vector<float> row_a, row_b;
  for (int y = 0; y < out.height(); ++y) {
    means(a, range_a, y, row_a);
    means(b, range_b, y, row_b);
    auto* line = reinterpret_cast<quint32*>(out.scanLine(y));
    for (int x = 0; x < out.width(); ++x) {
      line[x] = 0;
      if (!a.valid(x, y) || !b.valid(x, y)) continue;
      const float of_a = row_a[static_cast<std::size_t>(x)], of_b = row_b[static_cast<std::size_t>(x)];
      quint32 red = byte(of_b), green = byte((of_a + of_b) / 2), blue = byte(of_a);
      if (mix == Mix::difference)
        red = green = blue = byte(128.0F / 255 + (of_b - of_a) * static_cast<float>(127 / 255.0 / difference_range));
      line[x] = 0xff000000U | red << 16 | green << 8 | blue;
    }
  }
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
         range == other.range && other_range == other.other_range && mix == other.mix &&
         other_source == other.other_source && other_pictures == other.other_pictures &&
         other_run_start == other.other_run_start && this->other == other.other && resampling == other.resampling &&
         left == other.left && top == other.top && step == other.step;
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
      const auto start = std::chrono::steady_clock::now();
      StationImage drawn = draw(request, {cancelled, {}});
      drawn.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
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

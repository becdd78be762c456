/// Drives the real window with a 24-megapixel photo: a step's handles are dragged, and the time from the last move to
/// the new visible picture of the result, the rate of new pictures, and the longest turn of the event loop are printed.
/// Arguments: a way of looking (side, curtain, ...), a map over the result (none, detail, picking, height), the word of
/// a step (rectify), and how many times its handles are dragged (400).
#include <fmt/format.h>

#include <unistd.h>
#include <QApplication>
#include <QElapsedTimer>
#include <QMouseEvent>

#include <ctime>
#include <filesystem>
#include <fstream>

#include "app/canvas/view_area.h"
#include "app/ui/theme.h"
#include "app/window/main_window.h"
#include "bench/stolen.h"

namespace {

using namespace fexel;

/// Milliseconds that this thread has computed. A turn that took far longer by the clock was kept waiting by the
/// machine.
double own_ms() {
  timespec now{};
  ::clock_gettime(CLOCK_THREAD_CPUTIME_ID, &now);
  return static_cast<double>(now.tv_sec) * 1e3 + static_cast<double>(now.tv_nsec) / 1e6;
}

/// Measures every turn of the event loop: each event that is delivered from its start to its end.
class Watched : public QApplication {
 public:
  using QApplication::QApplication;
  bool notify(QObject* receiver, QEvent* event) override {
    if (depth_ > 0 || !watching) return QApplication::notify(receiver, event);
    ++depth_;
    const QEvent::Type type = event->type();  // neither may live on behind it
    const std::string name = receiver->metaObject()->className();
    QElapsedTimer clock;
    const double own = own_ms();
    clock.start();
    const bool done = QApplication::notify(receiver, event);
    longest_own = std::max(longest_own, own_ms() - own);
    const double took = static_cast<double>(clock.nsecsElapsed()) / 1e6;
    if (turns.empty() || took > longest) {
      longest = took;
      what = fmt::format("event {} to {}", static_cast<int>(type), name);
    }
    turns.push_back(took);
    --depth_;
    return done;
  }
  bool watching = false;
  std::vector<double> turns;
  double longest = 0, longest_own = 0;
  std::string what;

 private:
  int depth_ = 0;
};

Image photo() {
  Image image(6000, 4000, 3, Depth::u8);
  for (int band = 0; band < 3; ++band)
    for (int y = 0; y < 4000; ++y)
      for (int x = 0; x < 6000; ++x) {
        const unsigned h = (static_cast<unsigned>(x) * 2654435761U) ^ (static_cast<unsigned>(y) * 40503U) ^
                           static_cast<unsigned>(band * 977);
        image.row<std::uint8_t>(band, y)[x] =
            static_cast<std::uint8_t>((((x / 50 + y / 50) & 1) != 0 ? 150 : 60) + (h >> 27));
      }
  return image;
}

void pump(int ms) {
  QElapsedTimer clock;
  clock.start();
  while (clock.elapsed() < ms) QCoreApplication::processEvents(QEventLoop::AllEvents, 2);
}

double percentile(std::vector<double> values, double share) {
  if (values.empty()) return 0;
  std::ranges::sort(values);
  return values[std::min(values.size() - 1, static_cast<std::size_t>(share * static_cast<double>(values.size())))];
}

}  // namespace

int main(int argc, char** argv) {
  Watched app(argc, argv);
  apply_theme(app);
  MainWindow window;
  window.resize(1280, 800);
  window.show();
  Document& document = window.document();
  OpenSource source;
  source.path = "photo.png";
  source.info.width = 6000;
  source.info.height = 4000;
  source.info.bands = 3;
  source.info.format = "png";
  source.pixels = std::make_shared<const Pyramid>(std::make_shared<const Image>(photo()));
  document.open(std::move(source), {}, {});
  const std::string word = argc > 3 ? argv[3] : "rectify";
  const int drags = argc > 4 ? std::stoi(argv[4]) : 400;
  document.insert_step(word, 0);
  for (int i = 0; i < 4; ++i)
    document.add_measurement(length_measurement("length", 0, {1500.0 + 500 * i, 1500}, {1900.0 + 500 * i, 1700}, 10));
  const std::string way_of_looking = argc > 1 ? argv[1] : "side", map = argc > 2 ? argv[2] : "none";
  constexpr std::array ways{"one", "side", "curtain", "blink", "difference", "tint"};
  for (std::size_t i = 0; i < ways.size(); ++i)
    if (way_of_looking == ways[i]) window.views().set_mode(static_cast<ViewArea::Mode>(i));
  constexpr std::array maps{"none", "detail", "picking", "height"};
  for (std::size_t i = 0; i < maps.size(); ++i)
    if (map == maps[i]) window.views().set_distortion_map(static_cast<DistortionMap>(i));
  pump(2500);

  PictureView* a = window.views().view_a();
  PictureView* b = window.views().view_b();
  std::map<quint64, double> shown;
  QElapsedTimer clock;
  clock.start();
  const auto now = [&] { return static_cast<double>(clock.nsecsElapsed()) / 1e6; };
  QObject::connect(b, &PictureView::shown, [&](quint64 revision) { shown.emplace(revision, now()); });
  const auto send = [&](QEvent::Type type, QPointF at, Qt::MouseButton button, Qt::MouseButtons buttons) {
    QMouseEvent event(type, at, a->mapToGlobal(at), button, buttons, Qt::NoModifier);
    QCoreApplication::sendEvent(a, &event);
  };

  const double stolen = stolen_seconds();
  app.watching = true;
  std::vector<double> latencies;
  int pictures = 0;
  double dragged = 0;
  // Many short drags at 125 moves a second; after each the hand rests, and the picture of its last move is awaited.
  constexpr int moves = 15;
  for (int round = 0; round < drags; ++round) {
    const auto handles = a->handles();
    if (handles.empty()) {
      fmt::print("{} has no handles to drag.\n", word);
      return 1;
    }
    const Handle handle = handles[static_cast<std::size_t>(round) % handles.size()];
    const QPointF from = a->to_widget(handle.at);
    // Forth and back, so that the corners stay where a rectangle may be.
    const QPointF way = QPointF(round % 2 != 0 ? 18 : -18, round % 3 != 0 ? 12 : -12) * (round / 4 % 2 != 0 ? -1 : 1);
    send(QEvent::MouseButtonPress, from, Qt::LeftButton, Qt::LeftButton);
    const double start = now();
    const std::size_t before = shown.size();
    double last = start;
    for (int i = 1; i <= moves; ++i) {
      last = now();
      send(QEvent::MouseMove, from + way * (double(i) / moves), Qt::NoButton, Qt::LeftButton);
      pump(8);
    }
    const quint64 revision = document.revision();
    dragged += now() - start;
    pictures += static_cast<int>(shown.size() - before);
    while (!shown.contains(revision) && now() - last < 2000) pump(1);
    latencies.push_back((shown.contains(revision) ? shown[revision] : now()) - last);
    send(QEvent::MouseButtonRelease, from + way, Qt::LeftButton, Qt::NoButton);
    pump(30);
  }
  app.watching = false;
  fmt::print("24 megapixels, three bands, {}, map {}, {} drags of the handles of {}\n", way_of_looking, map,
             latencies.size(), word);
  fmt::print(
      "last move to new visible picture: median {:.0f} ms, 99th percentile {:.0f} ms, worst {:.0f} ms (at most 100)\n",
      percentile(latencies, 0.5), percentile(latencies, 0.99), percentile(latencies, 1));
  fmt::print("new pictures while dragging: {:.0f} a second (at least 15)\n", 1000 * pictures / dragged);
  fmt::print(
      "turns of the event loop: median {:.2f} ms, 99th percentile {:.1f} ms, longest {:.1f} ms ({}; at most 33); "
      "longest "
      "by the thread's own time {:.1f} ms\n",
      percentile(app.turns, 0.5), percentile(app.turns, 0.99), app.longest, app.what, app.longest_own);
  fmt::print("time stolen from the cores meanwhile: {:.1f} s of {:.0f} s\n", stolen_seconds() - stolen, now() / 1000);
  document.undo_stack().setClean();
}

/// The background of a sequence as a picture, for the step that takes it off.
#include <QFileDialog>
#include <QFileInfo>

#include "app/ui/text.h"
#include "app/window/main_window.h"
#include "motion_run/backgrounds.h"

namespace fexel {
namespace {

void write_background(const Chain& chain, int step, const std::vector<FrameFile>& files, MotionBackground kind,
                      const std::filesystem::path& path, const std::shared_ptr<const ProtectedPaths>& keep,
                      const Job& job) {
  const MotionFrames frames(chain, step, files, {}, true);
  const std::vector<std::size_t> kept = frames.measured({});
  const int bands = frames.read(kept.empty() ? 0 : kept.front(), {job.stop, {}}).bands();
  Image all(frames.size().width, frames.size().height, bands, Depth::f32);
  for (int band = 0; band < bands; ++band) {
    const auto one = background_of(frames, kept, kind, std::int64_t{1} << 30,
                                   job.part(static_cast<double>(band) / bands, (band + 1.0) / bands), band);
    for (int y = 0; y < all.height(); ++y) std::copy_n(one->row<float>(0, y), all.width(), all.row<float>(band, y));
  }
  std::vector<Image> pages;
  pages.push_back(std::move(all));
  WriteOptions how;
  how.replace = true;
  how.keep = keep;
  write_pictures(path, pages, how, {job.stop, {}});
}

}  // namespace

void MainWindow::make_background(const BackgroundFileRequest& request) {
  const int step = document_.selected_step();
  if (step < 0 || !document_.source()) return;
  const bool choose = request.kind == MotionBackground::none;
  if (!choose && document_.frames().size() < 2) return say(tr("A background needs a sequence of two frames or more."));
  QString path = request.path;
  if (path.isEmpty()) {
    const QString sources = QFileInfo(document_.source()->path).absolutePath();
    path = choose ? QFileDialog::getOpenFileName(this, tr("The background"), sources)
                  : QFileDialog::getSaveFileName(this, tr("Keep the background"),
                                                 results_folder(sources) + "/background.tif", tr("TIFF (*.tif)"));
    if (path.isEmpty()) return;
    QDir().mkpath(QFileInfo(path).absolutePath());
  }
  if (busy()) return;
  say(QString());
  background_.start(
      choose ? tr("reading the background") : tr("working out the background"),
      [this, step, choose, kind = request.kind, path, files = document_.frames(), chain = document_.chain(),
       keep = document_.protected_paths()](const Job& job) -> Background::Finish {
        if (!choose) write_background(chain, step, files, kind, path.toStdString(), keep, job);
        return [this, step, path, sum = checksum(path.toStdString(), {})] {
          Chain chain = document_.chain();
          if (step >= static_cast<int>(chain.steps.size())) return;
          auto* off = std::get_if<BackgroundStep>(&chain.steps[static_cast<std::size_t>(step)].kind);
          if (!off) return;
          off->file = path.toStdString();
          off->sha256 = sum;
          document_.edit_chain(tr("background"), chain);
        };
      },
      [this](const Error& error) { say(error); });
}

}  // namespace fexel

/// Pictures that are made of all frames: projections, a slice along time, a mosaic, a film.
#include <QDir>
#include <QFileDialog>

#include "app/canvas/view_area.h"
#include "app/pairs/reference.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/window/main_window.h"
#include "stacks/mosaic.h"
#include "stacks/time_slice.h"
#include "stacks/write_stack.h"

namespace fexel {
namespace {

namespace fs = std::filesystem;

/// What is written, and what is said of it.
struct Made {
  StackPicture picture;
  QString said;
};

Made made_projection(const FrameStack& frames, Projection what, const Job& job) {
  const std::string word = projection_words()[static_cast<std::size_t>(what)];
  Projected done = project(frames, groups_of(frames.count(), 0).front(), what, memory_to_use(), job);
  Made out;
  out.said = QObject::tr("%1 of %2 frames").arg(text_of(word)).arg(done.frames);
  out.picture.notes = done.notes;
  out.picture.operation = {{"name", "project"}, {"statistic", word}};
  out.picture.pixel = frames.pixel();
  out.picture.pages.push_back(std::move(done.picture));
  return out;
}

Made made_slice(const FrameStack& frames, Point from, Point to, Kernel kernel, const Job& job) {
  TimeSlice done = slice_along_time(frames, from, to, 1, kernel, job);
  Made out;
  out.said = QObject::tr("%1 frames along %2 px").arg(frames.count()).arg(done.picture.width());
  out.picture.notes = done.notes;
  out.picture.operation = {{"name", "slice"}, {"line", {from.x, from.y, to.x, to.y}}};
  out.picture.pages.push_back(std::move(done.picture));
  return out;
}

Made made_mosaic(const FrameStack& frames, Model model, const Resampling& resampling, const Job& job) {
  MosaicOptions options;
  options.match.model = model;
  options.resampling = resampling;
  options.memory = memory_to_use() / 2;
  Mosaic done = make_mosaic(frames, options, job);
  Made out;
  int placed = 0;
  double least = 1, most = 1;
  for (const MosaicFrame& frame : done.frames)
    if (frame.placed) {
      ++placed;
      least = std::min(least, frame.gain);
      most = std::max(most, frame.gain);
    }
  out.said = QObject::tr("mosaic of %1 frames, %2 × %3 px; %4 overlaps, of which the worst is off by %5 px")
                 .arg(placed)
                 .arg(done.picture.width())
                 .arg(done.picture.height())
                 .arg(done.seams.size())
                 .arg(number_shown(number_text(done.largest_seam_px, 2)));
  constexpr double alike = 0.005;
  if (most - least > alike)
    out.said += QObject::tr("; exposures evened by %1 to %2")
                    .arg(number_shown(number_text(least, 3)), number_shown(number_text(most, 3)));
  out.picture.notes = done.notes;
  Json placements = Json::array();
  for (std::size_t i = 0; i < done.frames.size(); ++i)
    placements.push_back({{"index", frames.number(i)},
                          {"matrix", rows_of(done.frames[i].to_canvas)},
                          {"gain", done.frames[i].gain},
                          {"placed", done.frames[i].placed}});
  out.picture.operation = {{"name", "mosaic"}, {"model", name_of(model)}, {"frames", placements}};
  out.picture.pixel = frames.pixel();
  out.picture.pages.push_back(std::move(done.picture));
  return out;
}

/// A name and what it is, and what was left out of it.
QString said_of(const fs::path& path, const QString& what, const WrittenStack& written) {
  QString out = QObject::tr("Written: %1, %2.").arg(text_of(path.filename().string()), what);
  if (written.clamped > 0) out += QObject::tr(" %1 samples were clamped to the depth's range.").arg(written.clamped);
  for (const std::string& note : written.notes) out += " " + text_of(note);
  return out;
}

}  // namespace

void MainWindow::ask_of_frames(const FramesRequest& request) {
  if (document_.frames().size() < 2) return say(tr("Open several frames first: a folder, a stack or a film."));
  const QFileInfo source(document_.source()->path);
  const bool film = request.kind == FramesRequest::Kind::film;
  // A folder that is not there yet would send the file elsewhere.
  const QString folder = results_folder(source.absolutePath());
  const bool there = QFileInfo::exists(folder);
  QDir().mkpath(folder);
  const QString path = QFileDialog::getSaveFileName(
      this, request.title, folder + "/" + source.completeBaseName() + request.suffix,
      film ? tr("Films without loss (*.mkv);;Films for showing (*.webm)") : tr("TIFF (*.tif);;PNG (*.png)"));
  if (path.isEmpty()) {
    if (!there) QDir().rmdir(folder);
    return;
  }
  make_of_frames(request, path);
}

void MainWindow::make_of_frames(const FramesRequest& request, const QString& path) {
  if (busy()) return;
  Chain chain = document_.chain();
  chain.steps.resize(
      static_cast<std::size_t>(std::min<int>(document_.station_b(), static_cast<int>(chain.steps.size()))));
  for (std::string* file : files_of_steps(chain)) *file = reference_path(document_, *file).string();
  if (request.kind == FramesRequest::Kind::mosaic && align_step_of(chain))
    return say(tr("A mosaic aligns the frames itself: put flag B before the align step."));
  background_.start(
      request.title,
      [this, request, chain, file = fs::path(path.toStdString()), frames = document_.frames(),
       keep = document_.protected_paths()](const Job& job) -> Background::Finish {
        const FrameStack stack(chain, frames, {});
        QString said;
        const StackTarget target{file, true, keep, {}};  // the dialog has asked
        fs::create_directories(file.parent_path());
        if (request.kind == FramesRequest::Kind::film) {
          const FilmUse use = file.extension() == ".webm" ? FilmUse::showing : FilmUse::lossless;
          const WrittenStack written = write_film(stack, use, {}, target, chain, job);
          said = said_of(file,
                         tr("%1 frames, %2")
                             .arg(written.frames)
                             .arg(use == FilmUse::lossless ? tr("without loss") : tr("for showing")),
                         written);
        } else {
          Made made = request.kind == FramesRequest::Kind::projection ? made_projection(stack, request.projection, job)
                      : request.kind == FramesRequest::Kind::slice
                          ? made_slice(stack, request.from, request.to, chain.resampling.kernel, job)
                          : made_mosaic(stack, request.model, chain.resampling, job);
          said = said_of(file, made.said, write_stack(stack, std::move(made.picture), target, chain, {job.stop, {}}));
        }
        return [this, said, file] {
          remember(text_of(file.string()));
          say(said + tr(" File, Open recent opens it."));
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::ask_slice() {
  if (document_.frames().size() < 2) return say(tr("Open several frames first: a folder, a stack or a film."));
  views_->ask_for_line(tr("Drag the line that is followed through all frames"), document_.station_b(),
                       [this](Point from, Point to) {
                         FramesRequest request{FramesRequest::Kind::slice, tr("Slice along time"), "-slice.tif"};
                         request.from = from;
                         request.to = to;
                         ask_of_frames(request);
                       });
}

void MainWindow::build_frames_menu() {
  QMenu* menu = menuBar()->addMenu(tr("F&rames"));
  QMenu* project = menu->addMenu(tr("&One picture of all"));
  const std::pair<QString, Projection> all[] = {{tr("&Mean"), Projection::mean},
                                                {tr("M&edian"), Projection::median},
                                                {tr("M&inimum"), Projection::least},
                                                {tr("M&aximum"), Projection::largest},
                                                {tr("&Standard deviation"), Projection::deviation},
                                                {tr("&Range"), Projection::range},
                                                {tr("S&um"), Projection::sum}};
  for (const auto& [text, what] : all)
    need_source_.push_back(add_action(project, text, {}, [this, what = what] {
      const QString word = text_of(projection_words()[static_cast<std::size_t>(what)]);
      FramesRequest request{FramesRequest::Kind::projection, tr("The %1 of all frames").arg(word), "-" + word + ".tif"};
      request.projection = what;
      ask_of_frames(request);
    }));
  need_source_.push_back(add_action(menu, tr("&Slice along time…"), {}, [this] { ask_slice(); }));
  QMenu* mosaic = menu->addMenu(tr("&Mosaic of overlapping frames"));
  const std::pair<QString, Model> models[] = {{tr("Moved &only (translation)"), Model::translation},
                                              {tr("Moved and &rotated (rigid)"), Model::rigid},
                                              {tr("Also at other distances (&similarity)"), Model::similarity},
                                              {tr("Of a &plane, from any side (projective)"), Model::projective}};
  for (const auto& [text, model] : models)
    need_source_.push_back(add_action(mosaic, text, {}, [this, model = model] {
      FramesRequest request{FramesRequest::Kind::mosaic, tr("Mosaic"), "-mosaic.tif"};
      request.model = model;
      ask_of_frames(request);
    }));
  need_source_.push_back(
      add_action(menu, tr("&Carry to the other channels and planes"), {}, [this] { carry_to_axes(); }));
  need_source_.push_back(add_action(menu, tr("Save as a &film…"), {}, [this] {
    ask_of_frames({FramesRequest::Kind::film, tr("Save the frames as a film"), "-film.mkv"});
  }));
}

}  // namespace fexel

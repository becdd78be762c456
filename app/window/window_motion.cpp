/// What the window does with the movement of a sequence.
#include <fmt/format.h>

#include <QFileDialog>
#include <QFileInfo>

#include "app/canvas/view_area.h"
#include "app/document/motion_layer.h"
#include "app/motion/motion_page.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/window/main_window.h"
#include "motion/texture.h"
#include "motion_run/backgrounds.h"
#include "motion_run/motion_tables.h"

namespace fexel {

void MainWindow::show_motion() {
  if (!document_.source()) return;
  if (document_.chain().motions.empty()) {
    Chain chain = document_.chain();
    MotionProbe probe;
    probe.station = document_.station_b();
    const Size size = document_.layout().stations[static_cast<std::size_t>(probe.station)].size;
    // Some thousand points, and subsets that no small picture is too small for.
    const int step =
        std::clamp(static_cast<int>(std::sqrt(size.width * static_cast<double>(size.height) / 4000)), 5, 60);
    probe.settings.step_x = probe.settings.step_y = step;
    probe.settings.subset.size = std::clamp((std::min(size.width, size.height) / 8) | 1, 9, 25);
    chain.motions.push_back(probe);
    document_.edit_chain(tr("measure movement"), chain);
  }
  document_.session().show_motion_page(true);
}

std::variant<std::pair<int, int>, QString> MainWindow::motion_pair(int shown) {
  const MotionProbe* probe = document_.motion_layer().probe();
  const std::vector<FrameFile> files = document_.frames();
  if (!probe || shown >= static_cast<int>(files.size())) return tr("Movement needs a sequence of two frames or more.");
  if (left_out(document_.chain(), files)[static_cast<std::size_t>(shown)])
    return tr("This frame is left out: tick it to measure it.");
  const auto kept = measured_frames(document_.chain(), files, probe->settings);
  const auto at = std::ranges::find(kept, static_cast<std::size_t>(shown)) - kept.begin();
  if (at == static_cast<std::ptrdiff_t>(kept.size())) return tr("This frame has no other one to be a pair with.");
  const auto frame = [&](std::ptrdiff_t k) { return static_cast<int>(kept[static_cast<std::size_t>(k)]); };
  if (probe->settings.against == MotionAgainst::pairs) return std::pair(frame(at - at % 2), frame(at - at % 2 + 1));
  if (at == 0) return tr("This is the frame that displacements begin at: show another one to try.");
  return std::pair(probe->settings.against == MotionAgainst::neighbour ? frame(at - 1) : frame(0), shown);
}

void MainWindow::measure_motion(bool all) {
  MotionLayer& layer = document_.motion_layer();
  const MotionProbe* probe = layer.probe();
  if (!probe || document_.frames().size() < 2) return say(tr("Movement needs a sequence of two frames or more."));
  if (busy()) return;
  say(QString());
  // A try leads from the first frame, or from the one before, to the one that is shown; what is left out does not
  // count.
  const int shown = document_.frame();
  const std::vector<FrameFile> files = document_.frames();
  MotionRunOptions options;
  options.probe = *probe;
  if (!all) {
    if (probe->settings.method == MotionMethod::window && probe->settings.window.ensemble)
      return say(tr("All pairs are measured as one: one alone says nothing of it. Measure all."));
    const auto pair = motion_pair(shown);
    if (const QString* why = std::get_if<QString>(&pair)) return say(*why);
    options.only = std::get<std::pair<int, int>>(pair);
    if (layer.field(options.only->second + 1)) return say(tr("This frame is measured already, with these settings."));
  }
  const auto shape = document_.layout().stations[static_cast<std::size_t>(probe->station)].size;
  MotionGrid grid;
  try {
    check_motion(probe->settings);
    grid = grid_of(probe->settings, shape);
  } catch (const Error& error) {
    return say(error);
  }
  const auto kept = measured_frames(document_.chain(), files, probe->settings).size();
  layer.begin(grid, all && kept > 1 ? static_cast<int>(motion_targets(probe->settings, kept).size()) : 1);
  background_.start(
      all ? tr("measuring %1 frames").arg(files.size()) : tr("trying frame %1").arg(shown + 1),
      [this, files, chain = document_.chain(), options, all](const Job& job) -> Background::Finish {
        const MotionFrames frames(chain, options.probe.station, files, options.limits);
        const auto hand_over = [this](const MotionResultFrame& field) {
          QMetaObject::invokeMethod(
              this, [this, field] { document_.motion_layer().add(field); }, Qt::QueuedConnection);
        };
        QString notes;
        for (const std::string& note : run_motion(frames, options, hand_over, job).notes) notes += text_of(note) + " ";
        return [this, notes, all] {
          if (!notes.isEmpty()) say(notes.trimmed());
          if (all) document_.motion_layer().keep();
        };
      },
      [this, all](const Error& error) {
        say(error);
        // What was found until then is whole, and stays.
        if (all) document_.motion_layer().keep();
      });
}

void MainWindow::check_texture(double wanted) {
  MotionLayer& layer = document_.motion_layer();
  const MotionProbe* probe = layer.probe();
  if (!probe || !document_.source()) return;
  if (busy()) return;
  say(QString());
  const int shown = document_.frame();
  background_.start(
      tr("checking the texture"),
      [this, probe = *probe, files = document_.all_frames(), chain = document_.chain(), shown,
       wanted](const Job& job) -> Background::Finish {
        const MotionFrames frames(chain, probe.station, files, {});
        const auto at = static_cast<std::size_t>(shown);
        const ReadyFrame here = ready_frame(frames, at, probe.settings, job.part(0, 0.3));
        auto out = std::make_shared<MotionLayer::Texture>();
        out->noise = here.noise;
        out->grid = grid_of(probe.settings, frames.size());
        out->predicted =
            predicted_uncertainty(*here.frame, out->grid, probe.settings.size() | 1, out->noise, job.part(0.3, 0.5));
        out->share = share_within(out->grid, out->predicted, wanted);
        out->size = proposed_size(*here.frame, out->grid, out->noise, wanted, job.part(0.5, 1));
        return [this, out, probe] {
          if (document_.motion_layer().probe() && *document_.motion_layer().probe() == probe)
            document_.motion_layer().set_texture(out);
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::try_known_motion() {
  const MotionProbe* probe = document_.motion_layer().probe();
  if (!probe || !document_.source()) return;
  if (busy()) return;
  say(QString());
  background_.start(
      tr("trying a known movement"),
      [this, probe = *probe, files = document_.all_frames(), chain = document_.chain(),
       shown = document_.frame()](const Job& job) -> Background::Finish {
        const MotionFrames frames(chain, probe.station, files, {});
        const auto at = static_cast<std::size_t>(shown);
        const ReadyFrame here = ready_frame(frames, at, probe.settings, job.part(0, 0.3));
        const double noise = here.noise;
        const MotionTrial trial = motion_trial(here.image, probe.settings, noise, job.part(0.3, 1));
        return [this, trial, noise] {
          document_.motion_layer().set_trust(
              tr("A known movement of this frame, with noise of %1 grey levels: errors of %2 px RMS along each axis, "
                 "%3 "
                 "times what is stated; pull at parts of a pixel %4 px; largest error %5 px; %6 % of the points found.")
                  .arg(number_shown(number_text(noise, 1)), number_shown(short_number(trial.rms, 2)),
                       number_shown(number_text(trial.ratio, 2)), number_shown(short_number(trial.bias, 1)),
                       number_shown(short_number(trial.largest, 2)), number_shown(number_text(100 * trial.found, 0))));
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::measure_still_pair() {
  const MotionLayer& layer = document_.motion_layer();
  const auto shown = layer.shown();
  if (!layer.probe()) return;
  if (!shown) return say(tr("Measure this frame first: try it, or measure all."));
  if (layer.look().mean) return say(tr("Show a frame: the mean is of all."));
  const StrainSettings strain = strain_settings(layer.probe()->settings, layer.units());
  const StillNoise noise = still_noise(shown->field, strain, layer.probe()->settings.size(), {});
  if (noise.points == 0) return say(tr("No point of this frame is ok."));
  document_.motion_layer().set_trust(
      tr("If nothing moved: displacements scatter by %1 and %2 px (stated: %3 px), strain by %4 %. All moved by %5, %6 "
         "px "
         "together.")
          .arg(number_shown(short_number(noise.deviation.x, 2)), number_shown(short_number(noise.deviation.y, 2)),
               number_shown(short_number(noise.stated, 2)),
               noise.strain ? number_shown(short_number(100 * *noise.strain, 2)) : QStringLiteral("–"),
               number_shown(number_text(noise.mean.x, 3)), number_shown(number_text(noise.mean.y, 3))));
}

void MainWindow::export_motion(const MotionExportRequest& request) {
  MotionLayer& layer = document_.motion_layer();
  const std::vector<int> frames = layer.frames();
  if (!layer.probe() || frames.empty()) return say(tr("Nothing is measured yet."));
  if (!layer.settled()) return say(tr("The rules are still being carried out: try again in a moment."));
  using What = MotionExportRequest::What;
  QString path = request.path;
  const QFileInfo source(document_.source()->path);
  const QString begin = results_folder(source.absolutePath());
  if (path.isEmpty()) {
    path = request.what == What::mean
               ? QFileDialog::getSaveFileName(this, tr("Save the mean"), begin + "/mean-flow.csv", tr("Tables (*.csv)"))
           : request.what == What::table
               ? QFileDialog::getSaveFileName(this, tr("Save the table"), begin + "/movement.csv", tr("Tables (*.csv)"))
           : request.what == What::maps
               ? QFileDialog::getSaveFileName(this, tr("Save the maps"), begin + "/movement.tif", tr("TIFF (*.tif)"))
               : QFileDialog::getExistingDirectory(this, tr("A folder for a file a frame"), source.absolutePath());
    if (path.isEmpty()) return;
    QDir().mkpath(QFileInfo(path).absolutePath());
  }
  if (request.what == What::mean && !layer.has_mean()) return say(tr("A mean needs two fields of a flow."));
  if (busy()) return;
  say(QString());
  std::vector<std::shared_ptr<const MotionResultFrame>> fields;
  for (const int frame : frames) fields.push_back(layer.field(frame));
  const MotionResultHead head{
      *layer.probe(), layer.grid(),
      layer.units(),  document_.layout().stations[static_cast<std::size_t>(layer.probe()->station)].size,
      frames,         document_.chain().sources};
  background_.start(
      tr("writing the movement"),
      [this, fields, head, what = request.what, path,
       keep = document_.protected_paths()](const Job& job) -> Background::Finish {
        const std::filesystem::path target = path.toStdString();
        const MotionTable table = table_of(head.probe.settings, head.units, 0);
        if (what == What::mean) {
          FlowStatistics flow(head.grid);
          for (const auto& field : fields) flow.add(field->field);
          write_text(target, flow_csv(flow, head.units, 0), true, keep.get());
        } else if (what == What::table) {
          keep->check(target);
          SafeFile file(target, true);
          std::string text = motion_csv_head(table);
          for (const auto& field : fields) {
            job.check();
            text += motion_csv_rows(*field, head.units, table);
            file.write(text.data(), text.size());
            text.clear();
          }
          file.commit();
        } else if (what == What::maps) {
          MotionResultWriter writer(target, head, static_cast<int>(fields.size()), true, keep.get());
          for (const auto& field : fields) {
            job.check();
            writer.append(*field);
          }
          writer.finish();
        } else {
          for (const auto& field : fields) {
            job.check();
            write_text(
                target / fmt::format("frame-{:04}.vtk", field->number),
                motion_vtk(*field, head.units, head.probe.name, head.probe.settings.method == MotionMethod::window),
                true, keep.get());
          }
        }
        return [this, path, n = fields.size()] { say(tr("%1 fields were written to %2.").arg(n).arg(path)); };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::look_at_grains() {
  const MotionProbe* probe = document_.motion_layer().probe();
  if (!probe || !document_.source()) return;
  const auto pair = motion_pair(document_.frame());
  if (const QString* why = std::get_if<QString>(&pair)) return say(*why);
  if (busy()) return;
  say(QString());
  background_.start(
      tr("looking at the grains"),
      [this, probe = *probe, files = document_.frames(), chain = document_.chain(),
       pair = std::get<std::pair<int, int>>(pair)](const Job& job) -> Background::Finish {
        const MotionFrames frames(chain, probe.station, files, {});
        const GrainSigns signs =
            grains_in(frames, probe.settings,
                      std::pair(static_cast<std::size_t>(pair.first), static_cast<std::size_t>(pair.second)), job);
        return [this, signs, probe] {
          if (!document_.motion_layer().probe() || !(*document_.motion_layer().probe() == probe)) return;
          Chain chain = document_.chain();
          MotionSettings& s = chain.motions.front().settings;
          s.window.sizes = signs.proposed.sizes;
          s.step_x = s.step_y = signs.proposed.last() / 2;
          if (!(chain == document_.chain())) document_.edit_chain(tr("windows that suit the grains"), chain);
          document_.motion_layer().set_trust(
              tr("Grains of %1 px, one in %2 px²; the largest movement is %3 px. Windows of %4 px at last hold %5 of "
                 "them.")
                  .arg(number_shown(number_text(signs.diameter, 1)), number_shown(number_text(signs.for_each, 0)),
                       number_shown(number_text(signs.largest, 1)))
                  .arg(signs.proposed.last())
                  .arg(number_shown(number_text(signs.proposed.last() * signs.proposed.last() / signs.for_each, 0))));
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::show_motion_background() {
  const MotionProbe* probe = document_.motion_layer().probe();
  if (!probe || !document_.source()) return;
  if (probe->settings.prepare.background == MotionBackground::none) return say(tr("Choose a background first."));
  if (busy()) return;
  say(QString());
  const bool second = document_.frame() % 2 == 1;
  background_.start(
      tr("working out the background"),
      [this, probe = *probe, files = document_.frames(), chain = document_.chain(),
       second](const Job& job) -> Background::Finish {
        const MotionFrames frames(chain, probe.station, files, {});
        const auto [one, two] =
            backgrounds_for(frames, frames.measured(probe.settings), probe.settings, std::int64_t{1} << 30, job);
        const Image& plane = second ? *two : *one;
        const double top = files.empty() || !files.front().info || files.front().info->depth != Depth::u16 ? 1 : 257;
        auto image = std::make_shared<QImage>(plane.width(), plane.height(), QImage::Format_Grayscale8);
        for (int y = 0; y < plane.height(); ++y)
          for (int x = 0; x < plane.width(); ++x) {
            const auto v = static_cast<double>(plane.row<float>(0, y)[x]) / top;
            image->scanLine(y)[x] = std::isfinite(v) ? static_cast<uchar>(std::clamp(v, 0.0, 255.0)) : 0;
          }
        return [this, image, probe] {
          if (document_.motion_layer().probe() && *document_.motion_layer().probe() == probe)
            document_.motion_layer().set_background(image);
        };
      },
      [this](const Error& error) { say(error); });
}

}  // namespace fexel

/// What the window does with sequences: opening, showing and searching their frames, writing them.
#include <QFileDialog>

#include "app/canvas/view_area.h"
#include "app/compare/variants_sheet.h"
#include "app/ui/text.h"
#include "app/window/inspector.h"
#include "app/window/main_window.h"
#include "run/run.h"

namespace fexel {
namespace {

/// The frames as they are searched: those that are left out cannot be read. Both have to outlive the reader's use.
FrameReader reader_of(const Chain& chain, const std::vector<FrameFile>& frames) {
  return {static_cast<int>(frames.size()), [&frames, out_of_it = left_out(chain, frames)](int i, const Job& quiet) {
            const auto at = static_cast<std::size_t>(i);
            if (out_of_it[at])
              throw input_error(QObject::tr("It is left out.").toStdString(), {}, "Tick it to take it in.");
            return read_frame(frames[at], {}, quiet);
          }};
}

}  // namespace

/// A picture, or the first frame of a sequence that can be read.
OpenSource read_open_source(const std::vector<std::filesystem::path>& paths, const Job& job, bool alpha_band) {
  OpenSource source;
  source.alpha_band = alpha_band;
  Limits limits;
  limits.alpha_band = alpha_band;
  const std::vector<std::filesystem::path> files = expand_inputs(paths);
  for (const std::filesystem::path& file : files)
    if (identity_of(file)) source.files.emplace_back(file);
  source.frames = list_frames(files, false, limits);
  for (source.frame = 0;; ++source.frame) {
    const FrameFile& frame = source.frames[static_cast<std::size_t>(source.frame)];
    if (!frame.info && source.frame + 1 < static_cast<int>(source.frames.size())) continue;
    source.path = QString::fromStdString(frame.path.string());
    source.pixels = std::make_shared<const Pyramid>(std::make_shared<const Image>(read_frame(frame, {}, job)));
    source.info = *frame.info;
    break;
  }
  if (source.info.depth == Depth::f32) source.range = range_of_data(source.pixels->base());
  if (source.frames.size() == 1) source.frames.clear();
  return source;
}

void MainWindow::open_sequence(const QStringList& paths) {
  say(QString());
  std::vector<std::filesystem::path> files;
  for (const QString& path : paths) files.emplace_back(path.toStdString());
  if (files.empty()) return;
  std::ranges::sort(files, [](const auto& a, const auto& b) { return natural_less(a.string(), b.string()); });
  last_folder_ = QFileInfo(paths.front()).absolutePath();
  background_.start(
      tr("opening %1").arg(QFileInfo(paths.front()).fileName()),
      [this, files](const Job& job) -> Background::Finish {
        auto source = std::make_shared<OpenSource>(read_open_source(files, job));
        return [this, source] {
          document_.open(std::move(*source), {}, {});
          views_->view_a()->setFocus();
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::ask_folder() {
  const QString path = QFileDialog::getExistingDirectory(this, tr("A folder whose pictures are frames"), last_folder_);
  if (!path.isEmpty() && may_leave()) open_sequence({path});
}

void MainWindow::show_frame(int index) {
  const auto& frames = document_.frames();
  if (index < 0 || index >= static_cast<int>(frames.size())) return;
  shown_frames_[document_.frame()] = {document_.source()->info, document_.source()->pixels};
  if (const auto kept = shown_frames_.find(index); kept != shown_frames_.end()) {
    document_.show_frame(index, kept->second.first, kept->second.second);
    return;
  }
  reading_.start(
      {},
      [this, index, frame = frames[static_cast<std::size_t>(index)]](const Job& job) -> Background::Finish {
        auto pixels = std::make_shared<const Pyramid>(std::make_shared<const Image>(read_frame(frame, {}, job)));
        return [this, index, pixels, info = *frame.info] {
          constexpr std::size_t max_kept = 8;
          if (shown_frames_.size() >= max_kept) shown_frames_.clear();
          document_.show_frame(index, info, pixels);
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::answer(const PageRequest& request) {
  if (!document_.source()) return;
  // A page without a step is the source's.
  const int station = document_.is_result_tile(document_.state().selected) ? document_.layout().last()
                                                                           : std::max(0, document_.selected_step());
  struct {
    MainWindow& window;
    int station;
    void operator()(const LineRequest& r) { window.views_->ask_for_line(r.hint, station, r.take); }
    void operator()(const PointsRequest& r) {
      window.views_->ask_for_points(r.hint, r.station >= 0 ? r.station : station, r.take, r.count);
    }
    void operator()(const AlphaRequest& r) { window.read_alpha_again(r.band); }
    void operator()(const TextureRequest& r) { window.check_texture(r.wanted); }
    void operator()(const MotionRequest& r) { window.measure_motion(r.all); }
    void operator()(const MotionTrialRequest&) { window.try_known_motion(); }
    void operator()(const StillPairRequest&) { window.measure_still_pair(); }
    void operator()(const MotionExportRequest& r) { window.export_motion(r); }
    void operator()(const GrainRequest&) { window.look_at_grains(); }
    void operator()(const BackgroundFileRequest& r) { window.make_background(r); }
    void operator()(const BackgroundRequest&) { window.show_motion_background(); }
    void operator()(const SearchRequest& r) { window.search_frames(r.all); }
    void operator()(const ResidualRequest&) { window.look_for_movement(); }
    void operator()(const VariantsRequest&) { window.show_variants(); }
    void operator()(const ReferenceRequest&) { window.ask_reference(); }
    void operator()(const RefineRequest&) { window.refine_pairs(); }
    void operator()(const ProposeRequest& r) { window.propose_pairs_for_step(r.count); }
    void operator()(const SelfTestRequest& r) { window.run_self_test(r.take); }
  } doer{*this, station};
  std::visit(doer, request);
}

void MainWindow::search_frames(bool all) {
  const int at = document_.selected_step();
  const auto& frames = document_.frames();
  if (at < 0 || frames.size() < 2 || !document_.align_step()) return;
  if (busy()) return;
  say(QString());
  const int shown = document_.frame();
  struct Partly {
    std::mutex mutex;
    std::map<int, FoundFrame> frames;
  };
  const auto partly = std::make_shared<Partly>();
  const auto put = [this, at](const QString& text, const std::function<void(AlignStep&)>& body) {
    Chain next = document_.chain();
    if (at >= static_cast<int>(next.steps.size())) return;
    auto* step = std::get_if<AlignStep>(&next.steps[static_cast<std::size_t>(at)].kind);
    if (!step) return;  // it is gone
    body(*step);
    document_.edit_chain(text, next);
  };
  background_.start(
      all ? tr("aligning %1 frames").arg(frames.size()) : tr("trying frame %1").arg(shown + 1),
      [at, all, shown, frames, partly, put, chain = document_.chain()](const Job& job) -> Background::Finish {
        Chain now = chain;
        AlignStep& step = std::get<AlignStep>(now.steps[static_cast<std::size_t>(at)].kind);
        // One frame is tried against the first, or the chosen one.
        const AlignReference against = step.against;
        const int reference =
            against.mode == ReferenceMode::frame ? std::min(against.number, static_cast<int>(frames.size())) - 1 : 0;
        FrameReader reader = reader_of(chain, frames);
        if (!all) {
          reader = {2, [whole = reader.read, reference, shown](int i, const Job& quiet) {
                      return whole(i == 0 ? reference : shown, quiet);
                    }};
          reader.places = {reference, shown};
        }
        if (!all) step.against = {};
        AlignStep found = searched(now, at, reader, job, [&](int i, const FoundFrame& frame) {
          const std::scoped_lock lock(partly->mutex);
          if (all) partly->frames[i] = frame;
        });
        if (!all) {
          const FoundFrame tried = found.frames[1];
          found.frames = std::get<AlignStep>(chain.steps[static_cast<std::size_t>(at)].kind).frames;
          found.frames.resize(frames.size(),
                              {Matrix3::Identity(), 0, 0, MatchStatus::failed, tr("Not searched yet.").toStdString()});
          found.frames[static_cast<std::size_t>(shown)] = tried;
          found.frames[static_cast<std::size_t>(reference)] = {Matrix3::Identity(), 1, 0, MatchStatus::ok, {}};
        }
        found.against = std::get<AlignStep>(chain.steps[static_cast<std::size_t>(at)].kind).against;
        return [all, found, put] {
          put(all ? tr("align all frames") : tr("try on a frame"), [&](AlignStep& step) {
            const std::vector<FoundFrame> before = std::exchange(step, found).frames;
            // What was put somewhere by hand stays there when all are searched.
            for (std::size_t i = 0; all && i < std::min(before.size(), step.frames.size()); ++i)
              if (before[i].by_hand) step.frames[i] = before[i];
          });
        };
      },
      [this, put, partly, count = frames.size()](const Error& error) {
        if (error.kind() != Error::Kind::cancelled) return say(error);
        const std::scoped_lock lock(partly->mutex);
        if (partly->frames.empty()) return;
        put(tr("align some frames"), [&](AlignStep& step) {
          step.frames.resize(count, {Matrix3::Identity(), 0, 0, MatchStatus::failed,
                                     tr("The search was cancelled before it came here.").toStdString()});
          for (const auto& [i, frame] : partly->frames)
            if (FoundFrame& now = step.frames[static_cast<std::size_t>(i)]; !now.by_hand) now = frame;
        });
        say(tr("Cancelled; %1 of %2 frames were searched and are kept.").arg(partly->frames.size()).arg(count));
      });
}

void MainWindow::look_for_movement() {
  const auto at = align_step_of(document_.chain());
  const AlignStep* step = document_.align_step();
  const int shown = document_.frame();
  if (!at || !document_.source() || static_cast<std::size_t>(shown) >= step->frames.size()) return;
  if (busy()) return;
  const AlignReference& against = step->against;
  const auto first =
      std::ranges::find_if(step->frames, [](const FoundFrame& f) { return f.status != MatchStatus::failed; });
  const int reference =
      against.mode == ReferenceMode::frame ? against.number - 1 : static_cast<int>(first - step->frames.begin());
  const auto& frames = document_.frames();
  if (reference < 0 || reference >= static_cast<int>(frames.size()) || reference == shown) {
    say(tr("Frame %1 is what the others are compared with. Choose another frame.").arg(shown + 1));
    return;
  }
  say(QString());
  background_.start(
      tr("looking for movement"),
      [this, at = *at, shown, reference, frame = frames[static_cast<std::size_t>(reference)],
       pixels = document_.source()->pixels, chain = document_.chain(),
       revision = document_.revision()](const Job& job) -> Background::Finish {
        auto field = std::make_shared<ResidualField>(residual_displacements(
            chain, at, read_frame(frame, {}, {job.stop, {}}), reference, pixels->base().clone(), shown, job));
        return [this, field, at, revision] {
          // What was changed since may lie otherwise.
          if (revision == document_.revision())
            document_.session().set_residuals({at + 1, std::move(*field)}, revision);
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::show_variants() {
  const auto at = align_step_of(document_.chain());
  const auto& frames = document_.frames();
  if (!at || frames.size() < 2) return;
  if (busy()) return;
  say(QString());
  background_.start(
      tr("comparing ways to align"),
      [this, at = *at, frames, chain = document_.chain()](const Job& job) -> Background::Finish {
        const FrameReader reader = reader_of(chain, frames);
        const auto& step = std::get<AlignStep>(chain.steps[static_cast<std::size_t>(at)].kind);
        auto ways =
            std::make_shared<std::vector<AlignVariant>>(compare_variants(chain, at, variants_of(step), reader, job));
        return [this, ways, at] {
          auto* sheet = new VariantsSheet(*ways, this);
          connect(sheet, &VariantsSheet::chosen, this, [this, at](const AlignVariant& way) {
            Chain next = document_.chain();
            if (at >= static_cast<int>(next.steps.size())) return;
            if (auto* step = std::get_if<AlignStep>(&next.steps[static_cast<std::size_t>(at)].kind)) {
              *step = way.step;
              document_.edit_chain(tr("another way to align"), next);
            }
          });
          sheet->show();
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::ask_carry() {
  const QStringList paths =
      QFileDialog::getOpenFileNames(this, tr("The other stack: one file, or all of its frames"), last_folder_,
                                    tr("Pictures and films (%1)").arg(picture_patterns()) + ";;" + tr("All files (*)"));
  if (paths.isEmpty()) return;
  const QFileInfo first(paths.front());
  const QString target = QFileDialog::getSaveFileName(
      this, tr("Where the other stack goes"),
      results_folder(first.absolutePath()) + "/" + first.completeBaseName() + "-aligned.tif",
      tr("TIFF (*.tif *.tiff)"));
  if (!target.isEmpty()) write_carried(paths, target, true);
}

void MainWindow::write_carried(const QStringList& inputs, const QString& target, bool replace) {
  ResultPage* page = inspector_->result_page();
  if (busy()) return;
  std::vector<std::filesystem::path> files;
  for (const QString& path : inputs) files.emplace_back(path.toStdString());
  std::ranges::sort(files, [](const auto& a, const auto& b) { return natural_less(a.string(), b.string()); });
  const bool leave_out = page->leaves_out_unmatched();
  background_.start(
      tr("writing %1").arg(QFileInfo(target).fileName()),
      [page, files, replace, leave_out, limits = limits_for(document_.all_frames().front(), {}),
       keep = document_.protected_paths(), path = target.toStdString(), frames = document_.frames(),
       chain = document_.chain()](const Job& job) -> Background::Finish {
        WriteHow how;
        std::vector<FrameFile> others = list_frames(files, false, limits);
        how.sources = watched(others);
        how.keep_going = true;
        how.leave_out_unmatched = leave_out;
        Target out;
        out.path = path;
        out.format = Format::tiff;
        out.replace = replace;
        out.record = record_path(path, static_cast<int>(others.size()));
        ProtectedPaths all = *keep;
        for (const FrameFile& frame : others) all.add(frame.path, "a source");
        out.keep = std::make_shared<const ProtectedPaths>(std::move(all));
        const Chain carried = carried_to(chain, frames, others);
        std::filesystem::create_directories(out.path.parent_path());
        const RunResult made = write_frames(carried, others, out, how, job);
        return [page, made, path] {
          page->show_written(written_text(made, path) + tr(" The transforms are those of the open sequence."),
                             made.count(MatchStatus::failed) > 0);
        };
      },
      [page](const Error& error) { page->show_failure(error); });
}

void MainWindow::run_self_test(TakeSelfTest take) {
  const int at = document_.selected_step();
  if (at < 0 || !document_.source() || !document_.align_step()) return;
  if (busy()) return;
  constexpr int rounds = 8;
  background_.start(
      tr("trial on frame %1").arg(document_.frame() + 1),
      [at, take = std::move(take), pixels = document_.source()->pixels, chain = document_.chain(),
       frame = document_.frame()](const Job& job) -> Background::Finish {
        auto trial =
            std::make_shared<SelfTest>(fexel::run_self_test(chain, at, pixels->base().clone(), frame, rounds, job));
        return [take, trial] { take(*trial); };
      },
      [this](const Error& error) { say(error); });
}

}  // namespace fexel

/// What the window does with the reference of a fit step: opening it, refining pairs, proposing them.
#include <QFileDialog>
#include <QFileInfo>

#include "align/prepared.h"
#include "app/canvas/view_area.h"
#include "app/measurements/snapping.h"
#include "app/pairs/reference.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/window/main_window.h"
#include "points/patch_match.h"
#include "points/propose_pairs.h"

namespace fexel {
namespace {

constexpr double refine_reach = 8;  // pixels of the coarser picture
constexpr double unknown_shape = 0.3;

/// How a small step at a place lies on the reference.
std::optional<Eigen::Matrix2d> local_of(const std::optional<Map>& map, Point at, double scale) {
  if (!map) return std::nullopt;
  const auto j = map->jacobian(at);
  return j ? std::optional<Eigen::Matrix2d>(*j / scale) : std::nullopt;
}

struct Refined {
  FitStep step;
  int moved = 0;
  std::vector<std::pair<std::string, std::string>> stayed;  ///< pairs, and why
  double worst = 0;                                         ///< standard uncertainty, px of the reference
};

Refined refined(FitStep step, const std::vector<int>& which, const Image& source, const Image& reference,
                const Job& job) {
  Refined out;
  const double scale = reference_scale(step) * step.pixel_size.value_or(1);
  const std::optional<Map> map = preliminary_map(step);
  std::vector<std::optional<PatchMatch>> found(which.size());
  std::vector<std::string> why(which.size());
  parallel_for(static_cast<int>(which.size()), job, [&](int k) {
    const PointPair& pair = step.pairs[static_cast<std::size_t>(which[static_cast<std::size_t>(k)])];
    const auto local = local_of(map, pair.from, reference_scale(step));
    try {
      found[static_cast<std::size_t>(k)] =
          matched_patch(source, reference, pair.from, 1 / scale * pair.to, local.value_or(Eigen::Matrix2d::Identity()),
                        {12, refine_reach, PatchMetric::automatic, local ? 0.05 : unknown_shape});
    } catch (const Error& error) {
      if (error.kind() == Error::Kind::cancelled) throw;
      why[static_cast<std::size_t>(k)] = error.message();
    }
  });
  for (std::size_t k = 0; k < which.size(); ++k) {
    PointPair& pair = step.pairs[static_cast<std::size_t>(which[k])];
    if (found[k]) {
      pair.to = scale * found[k]->to;
      pair.uncertainty = reference_scale(step) * stated_uncertainty(found[k]->sigma);
      out.worst = std::max(out.worst, found[k]->sigma);
      ++out.moved;
    } else {
      out.stayed.emplace_back(label_of(step, which[k]), why[k]);
    }
  }
  out.step = std::move(step);
  return out;
}

}  // namespace

void MainWindow::ask_reference() {
  const QString path = QFileDialog::getOpenFileName(this, tr("Open a reference"), last_folder_,
                                                    tr("Pictures (%1)").arg(picture_patterns()));
  if (!path.isEmpty()) open_reference_file(path);
}

void MainWindow::open_reference_file(const QString& path) {
  if (!selected_fit(document_)) return;
  const std::string file = QFileInfo(path).absoluteFilePath().toStdString();
  say(QString());
  const auto [source, step] = std::pair(document_.source()->pixels, document_.selected_step());
  references_.start(
      tr("opening the reference"),
      [this, file, source = source, step = step](const Job& job) -> Background::Finish {
        const Session::Reference made = read_reference(file, file, job);
        return [this, made, source, step] {
          // It was asked for this picture and this step.
          const FitStep* fit = selected_fit(document_);
          if (!fit || !document_.source() || document_.source()->pixels != source || document_.selected_step() != step)
            return say(tr("Another step was chosen meanwhile: open the reference again."));
          document_.session().set_reference(made);
          change_fit(document_, tr("lay on a reference"),
                     laid_on(*fit, made.file, {made.pixels->base().width(), made.pixels->base().height()}, made.pixel));
          document_.session().show_reference(Session::ReferenceView::place);
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::read_missing_reference() {
  const FitStep* fit = selected_fit(document_);
  if (!fit || !fit->reference || !document_.source() || references_.running()) return;
  const std::string& file = fit->reference->file;
  if (document_.session().reference(file) || missing_reference_ == file) return;
  missing_reference_ = file;  // once, and again when another one was asked for
  references_.start(
      tr("opening the reference"),
      [this, file, path = reference_path(document_, file)](const Job& job) -> Background::Finish {
        Session::Reference made = read_reference(path, file, job);
        return [this, made, path] {
          missing_reference_.clear();
          // Another document may name another picture in the same way.
          const FitStep* now = selected_fit(document_);
          if (now && now->reference && now->reference->file == made.file &&
              reference_path(document_, made.file) == path)
            document_.session().set_reference(made);
          else
            read_missing_reference();
        };
      },
      [this](const Error& error) {
        say(Error(error.kind(), error.message(), error.where(),
                  "The pairs are kept. Open the reference from where it is now."));
      });
}

void MainWindow::refine_pairs() {
  const auto open = open_reference(document_);
  if (!open || open->fit->pairs.empty()) return say(tr("Open a reference and place pairs first."));
  if (busy()) return;
  say(QString());
  std::vector<int> which;
  for (int i = 0; i < static_cast<int>(open->fit->pairs.size()); ++i) which.push_back(i);
  const FitStep before = *open->fit;
  background_.start(
      tr("refining %1 pairs").arg(which.size()),
      [this, before, which, step = open->step, reference = open->picture->pixels,
       pixels = StationPixels(document_)](const Job& job) -> Background::Finish {
        const Image source = station_plane(pixels, step, job.part(0, 0.3));
        const Refined made = refined(before, which, source, plane_of(reference->base(), 0, job), job.part(0.3, 1));
        return [this, before, made] {
          const FitStep* fit = selected_fit(document_);
          if (!fit || !(*fit == before))
            return say(tr("The pairs have changed meanwhile: nothing was refined. Try again."));
          if (made.moved > 0) change_fit(document_, tr("refine pairs"), made.step);
          QString said = made.moved > 0 ? tr("%1 pairs were refined, to ± %2 px or better.")
                                              .arg(made.moved)
                                              .arg(number_shown(short_number(made.worst, 2)))
                                        : tr("No pair could be refined.");
          if (!made.stayed.empty()) {
            QStringList names;
            for (const auto& [name, why] : made.stayed) names << text_of(name);
            said += " " + tr("%1 stayed where they are; of %2: %3")
                              .arg(names.join(", "), names.front(), text_of(made.stayed.front().second));
          }
          say(said);
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::propose_pairs_for_step(int count) {
  const auto open = open_reference(document_);
  if (!open) return say(tr("Open a reference first: pairs are proposed between two pictures."));
  if (busy()) return;
  say(QString());
  const FitStep before = *open->fit;
  background_.start(
      tr("proposing pairs"),
      [this, before, count, step = open->step, reference = open->picture->pixels,
       pixels = StationPixels(document_)](const Job& job) -> Background::Finish {
        const Image source = station_plane(pixels, step, job.part(0, 0.1));
        const Proposal made = propose_pairs(source, plane_of(reference->base(), 0, job), count, job.part(0.1, 1));
        return [this, before, made] {
          const FitStep* fit = selected_fit(document_);
          if (!fit || !(*fit == before))
            return say(tr("The pairs have changed meanwhile: nothing was added. Try again."));
          FitStep next = *fit;
          const double scale = reference_scale(next) * next.pixel_size.value_or(1);
          for (const ProposedPair& p : made.pairs) {
            PointPair pair = p.pair;
            pair.to = scale * pair.to;
            pair.uncertainty = reference_scale(next) * *pair.uncertainty;
            pair.name = std::to_string(next.pairs.size() + 1);
            next.pairs.push_back(pair);
          }
          change_fit(document_, tr("propose pairs"), next);
          say(tr("%1 pairs were proposed; they lie within %2 px RMS of one perspective. Undo takes them away, the "
                 "table leaves some out.")
                  .arg(made.pairs.size())
                  .arg(number_shown(number_text(made.rms, 2))));
        };
      },
      [this](const Error& error) { say(error); });
}

}  // namespace fexel

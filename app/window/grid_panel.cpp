#include "app/window/grid_panel.h"

#include <QDate>

#include "app/ui/language.h"
#include "app/ui/text.h"
#include "calibrate/grid_target.h"
#include "chain/edit.h"
#include "report/grid_chain.h"

namespace fexel {
namespace {

QString title_of(GridPattern pattern) {
  return pattern == GridPattern::checkerboard ? QObject::tr("A checkerboard")
         : pattern == GridPattern::dots       ? QObject::tr("Dots")
                                              : QObject::tr("Crossed lines");
}

}  // namespace

GridPanel::GridPanel(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->addWidget(fields::section(tr("From a grid: perspective and lens")));
  auto* row = new QHBoxLayout;
  pitch_ = new fields::Number(tr("From node to node"), 1e-9, 1e9, 9);
  pitch_->show_value(10);
  unit_ = fields::units(tr("Unit of the grid"), length_units());
  unit_->setCurrentText(QStringLiteral("mm"));
  row->addWidget(fields::label_for(tr("node to node"), pitch_));
  row->addWidget(pitch_, 1);
  row->addWidget(unit_);
  column->addLayout(row);
  find_ = new QPushButton(tr("Find the grid, and lay it square"));
  find_->setAccessibleName(find_->text());
  find_->setToolTip(
      tr("A checkerboard, dots or crossed lines of one pitch, seen at any angle: two steps undo the lens and the "
         "perspective"));
  column->addWidget(find_);
  connect(find_, &QPushButton::clicked, this, [this] { search_.running() ? search_.cancel() : find_grid(); });
  of_sequence_ = new QWidget;
  auto* of_lens = new QHBoxLayout(of_sequence_);
  of_lens->setContentsMargins(0, 0, 0, 0);
  name_ = new QLineEdit;
  name_->setAccessibleName(tr("Name of the lens"));
  name_->setPlaceholderText(tr("name of the lens"));
  lens_ = new QPushButton(tr("Lens from all frames"));
  lens_->setAccessibleName(lens_->text());
  lens_->setToolTip(
      tr("Three views of one grid or more, tilted to different sides: focal length, centre and distortion, kept in the "
         "library by this name"));
  of_lens->addWidget(name_, 1);
  of_lens->addWidget(lens_);
  column->addWidget(of_sequence_);
  connect(lens_, &QPushButton::clicked, this, [this] { search_.running() ? search_.cancel() : find_lens(); });
  connect(&search_, &Background::progressed, this, [this](double share) {
    say(tr("Looking for the grid in each frame… %1 %").arg(static_cast<int>(100 * share)));
  });
  connect(name_, &QLineEdit::textChanged, this, [this] { refresh(); });
  said_ = fields::sentence(tr("What the grid says"));
  said_->hide();
  column->addWidget(said_);
}

void GridPanel::say(const QString& text, bool wrong) {
  fields::say(said_, text, wrong);
  said_->setVisible(!text.isEmpty());
}

void GridPanel::failed(const Error& error) {
  refresh();
  if (error.kind() == Error::Kind::cancelled) return say(tr("Stopped."));
  say(text_of(error.message() + " " + error.remedy()), true);
}

void GridPanel::refresh() {
  // While it looks, the button that was pressed stops it.
  const bool runs = search_.running();
  find_->setText(runs && !of_frames_ ? tr("Stop looking") : tr("Find the grid, and lay it square"));
  lens_->setText(runs && of_frames_ ? tr("Stop looking") : tr("Lens from all frames"));
  for (QPushButton* button : {find_, lens_}) button->setAccessibleName(button->text());
  find_->setEnabled(document_.source() && (!runs || !of_frames_));
  of_sequence_->setVisible(document_.frames().size() > 1);
  lens_->setEnabled(document_.source() && (runs ? of_frames_ : !name_->text().trimmed().isEmpty()));
}

void GridPanel::find_grid() {
  const OpenSource* source = document_.source();
  if (!source || search_.running()) return;
  say(tr("Looking for a grid…"));
  of_frames_ = false;
  search_.start(
      {},
      [this, pixels = source->pixels, pitch = pitch_->value(),
       unit = unit_->currentText().toStdString()](const Job& job) -> Background::Finish {
        const Image& image = pixels->base();
        const GridTarget found = find_grid_target(image, {0, 0, image.width(), image.height()}, job);
        const Chain made = chain_of_grid(found, pitch, unit);
        return [this, found, made, pixels] {
          refresh();
          // Another picture may have been opened since.
          if (!document_.source() || document_.source()->pixels != pixels) return;
          // What an earlier search has put before all other steps gives way.
          DocumentState next = document_.state();
          const auto earlier = [&] {
            return !next.chain.steps.empty() &&
                   (next.chain.steps[0].name == lens_of_grid || next.chain.steps[0].name == plane_of_grid);
          };
          while (earlier()) next.chain = with_step_removed(next.chain, lay_out(next.chain, document_.shape()), 0);
          for (std::size_t i = 0; i < made.steps.size(); ++i)
            next.chain = with_step_inserted(next.chain, static_cast<int>(i), made.steps[i]);
          next.flag_a = 0;
          next.flag_b = static_cast<int>(next.chain.steps.size()) + 1;
          next.selected = 0;
          document_.edit(tr("lay the grid square"), next);
          document_.session().set_grid({pixels, found.nodes});
          QString text = tr("%1: %2 nodes of %3 × %4, within %5 px (RMS). ")
                             .arg(title_of(found.pattern))
                             .arg(found.nodes.size())
                             .arg(found.columns)
                             .arg(found.rows)
                             .arg(number_shown(short_number(found.view.rms, 2)));
          text += found.view.terms == Lens::Terms{} ? tr("No distortion is to be seen; one step lays the grid square.")
                                                    : tr("Two steps undo the lens (k1 %1) and lay the grid square.")
                                                          .arg(number_shown(short_number(found.view.terms.k1, 3)));
          say(text);
        };
      },
      [this](const Error& error) { failed(error); });
  refresh();
}

void GridPanel::find_lens() {
  if (!document_.source() || search_.running()) return;
  say(tr("Looking for the grid in each frame…"));
  of_frames_ = true;
  search_.start(
      {},
      [this, frames = document_.frames(),
       name = name_->text().trimmed().toStdString()](const Job& job) -> Background::Finish {
        std::vector<std::vector<GridNode>> views;
        Size size;
        QStringList without;
        for (std::size_t i = 0; i < frames.size(); ++i) {
          job.check();
          try {
            const Image image = read_frame(frames[i], {}, {job.stop, {}});
            if (views.empty()) size = {image.width(), image.height()};
            if (Size{image.width(), image.height()} != size)
              throw input_error("It has another size than the first one.", {});
            views.push_back(find_grid_target(image, {0, 0, image.width(), image.height()}, {job.stop, {}}).nodes);
          } catch (const Error& error) {
            if (error.kind() == Error::Kind::cancelled) throw;
            without << QString::number(i + 1);
          }
          if (job.progress) job.progress(static_cast<double>(i + 1) / static_cast<double>(frames.size()));
        }
        const LensCalibration found = solve_lens(views, size);
        const auto file = lens_file(name);
        std::error_code code;
        std::filesystem::create_directories(file.parent_path(), code);
        save_lens({name, name, QDate::currentDate().toString(Qt::ISODate).toStdString(), found}, file, false);
        return [this, found, without, name] {
          refresh();
          QString text =
              tr("Kept as “%1”: focal length %2 ± %3 px, centre %4, %5 ± %6 px, from %7 nodes in %8 views, within %9 "
                 "px (RMS). The step Lens takes it over.")
                  .arg(text_of(name), number_shown(number_text(found.focal.value, decimals_for(found.focal.sigma))),
                       number_shown(short_number(found.focal.sigma, 2)),
                       number_shown(number_text(found.centre_x.value, decimals_for(found.centre_x.sigma))),
                       number_shown(number_text(found.centre_y.value, decimals_for(found.centre_y.sigma))),
                       number_shown(short_number(std::max(found.centre_x.sigma, found.centre_y.sigma), 2)))
                  .arg(found.nodes)
                  .arg(found.views)
                  .arg(number_shown(short_number(found.rms, 2)));
          if (!without.isEmpty()) text += tr(" No grid was found in frame %1.").arg(without.join(", "));
          say(text);
        };
      },
      [this](const Error& error) { failed(error); });
  refresh();
}

}  // namespace fexel

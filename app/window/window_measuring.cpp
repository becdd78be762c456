/// What the window does with measurements: snapping, sets of them.
#include <QFileDialog>
#include <QFileInfo>

#include "app/canvas/view_area.h"
#include "app/measurements/snapping.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/window/main_window.h"

namespace fexel {

void MainWindow::snap_measurement() {
  const int index = document_.session().measurement();
  if (!document_.source() || index < 0 || index >= static_cast<int>(document_.chain().measurements.size()))
    return say(tr("Select a measurement first: its points are then moved to the edges near them."));
  const Measurement before = document_.chain().measurements[static_cast<std::size_t>(index)];
  if (before.station > document_.layout().last()) return;
  // As far as a hand is off on the screen.
  const double reach = std::clamp(10 / views_->active()->zoom(), 4.0, 24.0);
  if (busy()) return;
  say(QString());
  background_.start(
      tr("snapping to edges"),
      [this, index, before, reach, pixels = StationPixels(document_)](const Job& job) -> Background::Finish {
        const Snapping snapped = with_points_snapped(pixels, before, reach, job);
        return [this, index, before, reach, snapped] {
          Chain chain = document_.chain();
          // It may be another one by now.
          if (index >= static_cast<int>(chain.measurements.size())) return;
          Measurement& now = chain.measurements[static_cast<std::size_t>(index)];
          if (!(now == before)) return;
          now = snapped.measurement;
          if (snapped.moved > 0) document_.edit_chain(tr("snap to edges"), chain);
          if (snapped.ring) return say(tr("No rim was found near this circle: %1").arg(text_of(*snapped.ring)));
          if (snapped.stayed.empty()) return;
          QStringList numbers;
          for (const int number : snapped.stayed) numbers << QString::number(number);
          say(tr("No edge stands out within %1 px of point %2; it stays where it was placed.")
                  .arg(number_shown(short_number(reach, 2)), numbers.join(", ")));
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::set_axes(const QString& text, const std::function<void(Axes&, const Station&)>& change) {
  if (!document_.source()) return;
  Chain chain = document_.chain();
  const int station = document_.station_b();
  // Laid on another picture they begin anew here.
  Axes axes = chain.axes && chain.axes->station == station ? *chain.axes : Axes{};
  axes.station = station;
  change(axes, document_.layout().stations[static_cast<std::size_t>(station)]);
  chain.axes = axes;
  if (!(chain == document_.chain())) document_.edit_chain(text, chain);
}

void MainWindow::load_measurements(const QString& path) {
  if (!document_.source()) return;
  try {
    const Chain set = load_chain(path.toStdString());
    if (set.measurements.empty())
      throw call_error("This file holds no measurements.", path.toStdString(),
                       "Choose a set that was saved here, or a chain.");
    Chain chain = document_.chain();
    int beyond = 0;
    for (Measurement measurement : set.measurements) {
      // A station that this chain has not is the result.
      if (measurement.station > static_cast<int>(chain.steps.size())) {
        measurement.station = static_cast<int>(chain.steps.size());
        ++beyond;
      }
      chain.measurements.push_back(std::move(measurement));
    }
    document_.edit_chain(tr("load measurements"), chain);
    say(beyond > 0 ? tr("%1 measurements of %2 were laid on the result: this chain has fewer steps.")
                         .arg(beyond)
                         .arg(QFileInfo(path).fileName())
                   : QString());
  } catch (const Error& error) {
    say(error);
  }
}

void MainWindow::save_measurements(const QString& path) {
  try {
    Chain set;
    set.measurements = document_.chain().measurements;
    if (set.measurements.empty()) throw call_error("There are no measurements yet.", {}, "Measure something first.");
    // Their stations need as many steps in the file; loading takes the measurements only.
    int most = 0;
    for (const Measurement& m : set.measurements) most = std::max(most, m.station);
    set.steps.assign(document_.chain().steps.begin(), document_.chain().steps.begin() + most);
    // Of a name that was completed here nobody was asked whether it may be replaced.
    const bool whole = path.endsWith(".json", Qt::CaseInsensitive);
    const QString target = whole ? path : path + ".fexel.json";
    write_text(target.toStdString(), write_chain(set), whole, document_.protected_paths().get());
    say(QString());
  } catch (const Error& error) {
    say(error);
  }
}

void MainWindow::ask_load_measurements() {
  const QString path = QFileDialog::getOpenFileName(this, tr("Measurements, or a chain that has some"), last_folder_,
                                                    tr("Measurements and chains (*.json)"));
  if (!path.isEmpty()) load_measurements(path);
}

void MainWindow::ask_save_measurements() {
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Save the measurements as a set"),
                                   last_folder_ + "/measurements.fexel.json", tr("Measurements (*.fexel.json)"));
  if (!path.isEmpty()) save_measurements(path);
}

}  // namespace fexel

#pragma once
/// What the pixels of B say of the selected measurement: samples along a profile with its edges, the histogram of an
/// area; or where the uncertainty of its value comes from.
#include <QWidget>

#include "app/document/background.h"
#include "app/document/document.h"
#include "measure/profile.h"

class QCustomPlot;
class QLabel;

namespace fexel {

class SelectedReading : public QWidget {
  Q_OBJECT
 public:
  explicit SelectedReading(Document& document, QWidget* parent = nullptr);
  /// Whether the selected measurement has something to show here.
  bool wanted() const;
  void refresh();
  /// What is said below the chart.
  QString said() const;

 private:
  /// What was read of one measurement at one station.
  struct Samples {
    std::optional<Profile> profile;
    std::vector<ProfileEdge> edges;
    double scale = 1;  ///< of a pixel along the profile, in `unit`
    std::string unit = "px";
    /// How many samples of an area lie in each of the steps from `first` on.
    std::vector<double> counts;
    double first = 0, step = 1;
    std::vector<Detail> details;
  };
  static Samples read(const RunPictures& pictures, const Measurement& measurement, int station, const Job& job);
  void show_profile(const Samples& samples);
  void show_histogram(const Samples& samples);
  void show_samples(const Samples& samples);
  void show_budget();

  Document& document_;
  QCustomPlot* plot_;
  QLabel* said_;
  int said_of_ = -1;                             // the measurement that the chart is of
  std::optional<std::pair<quint64, int>> read_;  // revision and measurement that are shown
  Background reading_;                           // the last member: its thread ends before the rest
};

}  // namespace fexel

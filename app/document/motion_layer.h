#pragma once
/// The fields of the chain's movement: as they were measured, and with its rules. What views and charts show.
#include <QImage>
#include <QObject>
#include <map>
#include <memory>

#include "app/document/background.h"
#include "motion_run/flow_tables.h"
#include "motion_run/motion_result.h"

namespace fexel {

class Document;

/// What of a field is shown: a number at each point.
enum class MotionQuantity {
  dx,
  dy,
  length,
  exx,
  eyy,
  exy,
  first,
  shear,
  rotation,
  uncertainty,
  score,
  vorticity,
  divergence,
  shear_rate,
  fluctuation,
  peaks
};
/// What fields of a method have, in the order of choice.
const std::vector<MotionQuantity>& quantities_of(MotionMethod method);
/// Whether its sign says something, so that its scale is even about zero.
bool has_sign(MotionQuantity quantity);

class MotionLayer : public QObject {
  Q_OBJECT
 public:
  explicit MotionLayer(Document& document);
  /// The chain's movement; null where it has none.
  const MotionProbe* probe() const;
  /// How its numbers are told: units of its station.
  const MotionUnits& units() const { return units_; }
  /// Counts what may look different.
  quint64 generation() const { return generation_; }

  /// The fields and the look of another document that has the same open.
  void take_over(const MotionLayer& other);
  /// Forgets what was measured, for another run with the settings as they are, of so many fields.
  void begin(const MotionGrid& grid, int wanted);
  /// A field as it was matched.
  void add(const MotionResultFrame& matched);
  /// Frames that have a field which was measured with the settings as they are, in order; from 1.
  std::vector<int> frames() const;
  /// The field of a frame, from 1, with the rules carried out; null where there is none, or where settings have changed
  /// since.
  std::shared_ptr<const MotionResultFrame> field(int frame) const;
  /// That of the frame that is shown, or of the pair that it belongs to; the mean of all where the look says so. A
  /// mean has the number 0.
  std::shared_ptr<const MotionResultFrame> shown() const;
  /// What the chain's rules do to the shown field, one after the other.
  std::vector<CleanEffect> effects() const;
  /// Whether there are fields that the settings no longer belong to.
  bool outdated() const { return !fields_.empty() && !current(); }
  const MotionGrid& grid() const { return grid_; }

  /// How well places can be found in the frame that is shown, with the settings as they are.
  struct Texture {
    MotionGrid grid;
    std::vector<double> predicted;  ///< px, of each point
    double noise = 0;               ///< grey levels of one frame
    double share = 0;               ///< of the points that are predicted to `wanted` and better
    std::optional<int> size;        ///< the smallest that is good enough
  };
  const Texture* texture() const;
  void set_texture(std::shared_ptr<const Texture> texture);

  /// The value of a quantity at a point, in the units of the station; nothing where there is none.
  std::optional<double> value(const MotionResultFrame& field, std::size_t point, MotionQuantity quantity) const;
  QString unit_of(MotionQuantity quantity) const;
  /// The time that numbers of a field are divided by: 1 where they are displacements.
  double time_of(const MotionResultFrame& field) const;
  /// Displacements of flows are velocities where the time step is known.
  QString title_of(MotionQuantity quantity) const;

  /// How fields are shown. That is no part of the document.
  struct Look {
    enum class Way { nothing, arrows, map, contours, tracks, mesh, streamlines };
    Way way = Way::arrows;
    MotionQuantity quantity = MotionQuantity::length;
    double enlarged = 0;      ///< arrows and mesh; 0: as fits
    bool mean = false;        ///< the mean over the fields, in place of the shown one
    bool background = false;  ///< the background that is taken off, in place of the frame
    bool all_frames = true;   ///< the range is that of all fields, and not of the shown one
    bool operator==(const Look&) const = default;
  };
  const Look& look() const { return look_; }
  void set_look(const Look& look);
  /// The range of the quantity that is shown, but for one in a hundred at each end; nothing without a value.
  std::optional<std::pair<double, double>> range() const;

  /// Points of the grid whose course is charted, and pairs of points whose distance is.
  const std::vector<std::size_t>& charted() const { return charted_; }
  const std::vector<std::pair<std::size_t, std::size_t>>& extensometers() const { return extensometers_; }
  void chart(Point place);
  void chart_between(Point from, Point to);
  void chart_area(const std::vector<Point>& outline);
  void set_profile(Point from, Point to);
  void clear_charts();
  /// Points of the grid whose mean is charted, with the outline that they lie in.
  struct Area {
    std::vector<Point> outline;
    std::vector<std::size_t> points;
  };
  const std::vector<Area>& areas() const { return areas_; }
  /// A line along which the shown field is drawn.
  const std::optional<std::pair<Point, Point>>& profile() const { return profile_; }
  /// The value of a quantity between points of the grid, linear; nothing where one of the four around has none.
  std::optional<double> value_at(const MotionResultFrame& field, Point place, MotionQuantity quantity) const;

  std::optional<std::size_t> nearest(Point place) const;

  /// Whether there are two fields of a flow, of which there is a mean.
  bool has_mean() const;
  /// Of a flow: what all fields come to. Null before there are two. Worked out when it is first asked for.
  const FlowStatistics* statistics() const;
  /// Lines along the shown field, in px of the station.
  const std::vector<std::vector<Point>>& stream() const;
  /// A line through which, or a polygon round which, the flow is told.
  struct FlowLine {
    std::vector<Point> points;
    bool round = false;
  };
  const std::vector<FlowLine>& flow_lines() const { return flow_lines_; }
  void add_flow_line(const std::vector<Point>& points, bool round);
  /// What it comes to in the shown field, in a sentence.
  QString flow_says(std::size_t line) const;
  /// The background that was last worked out, and of which settings.
  std::shared_ptr<const QImage> background() const;
  void set_background(std::shared_ptr<const QImage> image);

  /// What tests of the settings came to, in sentences; of the settings as they are.
  QString trust() const;
  void set_trust(const QString& text);

  /// Whether all that is shown is that of the document as it is.
  bool settled() const;
  /// Reads a result that lies beside the chain, if it is of this chain.
  void read_kept();
  /// Keeps all fields beside the chain. Nothing where there are none, or the chain has no file.
  void keep();
  /// Where they are kept.
  QString kept_path() const;

 Q_SIGNALS:
  void changed();
  void said(const QString& text);

 private:
  /// What the matching of fields depends on.
  struct Key {
    Chain chain;
    MotionProbe probe;
    std::vector<bool> skipped;  // frames that are left out
    bool operator==(const Key&) const = default;
  };
  Key key() const;
  bool current() const;
  void refresh();
  void finish_fields();
  void put(const MotionResultFrame& matched);
  /// Tells that something is different.
  void tell();

  Document& document_;
  MotionUnits units_;
  quint64 generation_ = 0;
  mutable quint64 range_of_ = ~quint64{0};  // the generation whose range is kept
  mutable int range_frame_ = -1;
  mutable std::optional<std::pair<double, double>> range_;
  std::optional<Key> of_;
  MotionGrid grid_;
  /// A field, and what the rules did to it; by which settings and pixel, where they were carried out.
  struct Kept {
    std::shared_ptr<const MotionResultFrame> field;
    std::vector<CleanEffect> effects;
    std::optional<MotionSettings> by;
    std::optional<PixelSize> pixel;
  };
  bool finished(const Kept& kept) const;
  std::map<int, Kept> fields_;
  int wanted_ = 0;
  bool unkept_ = false;  // fields that are in no file yet
  std::shared_ptr<const MotionResultFrame> mean() const;
  /// The fields that the mean is of, and the one that lines are along: as they were then.
  mutable quint64 mean_generation_ = ~quint64{0};  // the generation that it was looked at
  mutable std::vector<std::shared_ptr<const MotionResultFrame>> mean_of_fields_;
  mutable std::optional<FlowStatistics> statistics_;
  mutable std::vector<FlowAt> flow_at_;
  mutable std::shared_ptr<const MotionResultFrame> mean_, stream_of_;
  mutable std::vector<std::vector<Point>> stream_;
  std::vector<FlowLine> flow_lines_;
  std::shared_ptr<const QImage> background_image_;
  std::optional<Key> background_of_;
  std::shared_ptr<const Texture> texture_;
  std::optional<Key> texture_of_;
  int texture_frame_ = 0;
  Look look_;
  QString trust_;
  std::optional<Key> trust_of_;
  std::vector<std::size_t> charted_;
  std::vector<std::pair<std::size_t, std::size_t>> extensometers_;
  std::vector<Area> areas_;
  std::optional<std::pair<Point, Point>> profile_;
  Background work_;     // rules and strain
  Background keeping_;  // the last members: their threads end before the rest
};

}  // namespace fexel

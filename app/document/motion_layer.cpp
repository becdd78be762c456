#include "app/document/motion_layer.h"

#include <QDir>
#include <QFileInfo>

#include "app/document/document.h"
#include "app/ui/text.h"
#include "base/statistics.h"
#include "geometry/polygon.h"
#include "motion_run/motion_tables.h"

namespace fexel {
namespace {

/// The settings without what is done to fields after they were matched.
MotionProbe matched_part(MotionProbe probe) {
  probe.name.clear();
  probe.settings.clean.clear();
  probe.settings.fill = false;
  probe.settings.strain.reset();
  probe.settings.measure = {};
  return probe;
}

}  // namespace

bool has_sign(MotionQuantity quantity) {
  return quantity != MotionQuantity::length && quantity != MotionQuantity::shear &&
         quantity != MotionQuantity::uncertainty && quantity != MotionQuantity::score &&
         quantity != MotionQuantity::shear_rate && quantity != MotionQuantity::fluctuation &&
         quantity != MotionQuantity::peaks;
}

MotionLayer::MotionLayer(Document& document) : document_(document) {
  connect(&document, &Document::changed, this, &MotionLayer::refresh);
  // What is shown follows with the change that opening is.
  connect(&document, &Document::opened, this, [this] {
    fields_.clear();
    of_.reset();
    texture_.reset();
    charted_.clear();
    extensometers_.clear();
    areas_.clear();
    profile_.reset();
    flow_lines_.clear();
    read_kept();
  });
}

const MotionProbe* MotionLayer::probe() const {
  const auto& motions = document_.chain().motions;
  return motions.empty() ? nullptr : &motions.front();
}

void MotionLayer::tell() {
  ++generation_;
  Q_EMIT changed();
}

MotionLayer::Key MotionLayer::key() const {
  Key out{document_.chain(), matched_part(*probe()), left_out(document_.chain(), document_.frames())};
  // What lies behind the station, and what only tells, changes no match.
  out.chain.steps.resize(std::min(out.chain.steps.size(), static_cast<std::size_t>(probe()->station)));
  out.chain.measurements.clear();
  out.chain.motions.clear();
  out.chain.marks.clear();
  out.chain.mark_style = {};
  out.chain.axes.reset();
  out.chain.time_step.reset();
  out.chain.resampling.kernel = Kernel::bspline3;  // whatever the result is made with
  // At the source a pixel's size changes no match; steps may go by it.
  if (out.chain.steps.empty()) {
    out.chain.calibration.reset();
    out.chain.resampling = {};
  }
  out.chain.sources.clear();
  return out;
}

bool MotionLayer::current() const {
  return probe() && of_ && *of_ == key();
}

void MotionLayer::begin(const MotionGrid& grid, int wanted) {
  of_ = key();
  grid_ = grid;
  wanted_ = wanted;
  fields_.clear();
  charted_.clear();
  extensometers_.clear();
  areas_.clear();
  tell();
}

void MotionLayer::take_over(const MotionLayer& other) {
  units_ = other.units_;
  of_ = other.of_;
  grid_ = other.grid_;
  fields_ = other.fields_;
  wanted_ = other.wanted_;
  unkept_ = false;
  look_ = other.look_;
  charted_ = other.charted_;
  extensometers_ = other.extensometers_;
  areas_ = other.areas_;
  profile_ = other.profile_;
  flow_lines_ = other.flow_lines_;
  texture_ = other.texture_;
  texture_of_ = other.texture_of_;
  texture_frame_ = other.texture_frame_;
  if (current()) finish_fields();
  tell();
}

void MotionLayer::put(const MotionResultFrame& matched) {
  auto made = std::make_shared<MotionResultFrame>(matched);
  made->field = made->matched;
  fields_[matched.number] = {std::move(made), {}, {}, {}};
}

void MotionLayer::add(const MotionResultFrame& matched) {
  if (!current()) return;
  put(matched);
  unkept_ = true;
  finish_fields();
  tell();
}

bool MotionLayer::finished(const Kept& kept) const {
  return kept.by && probe() && *kept.by == probe()->settings && kept.pixel == units_.pixel;
}

bool MotionLayer::settled() const {
  return !work_.running() && !keeping_.running() &&
         (!current() || std::ranges::all_of(fields_, [&](const auto& kept) { return finished(kept.second); }));
}

std::vector<CleanEffect> MotionLayer::effects() const {
  const auto at = fields_.find(document_.frame() + 1);
  return current() && at != fields_.end() && finished(at->second) ? at->second.effects : std::vector<CleanEffect>();
}

std::vector<int> MotionLayer::frames() const {
  std::vector<int> out;
  if (current())
    for (const auto& [frame, field] : fields_) out.push_back(frame);
  return out;
}

std::shared_ptr<const MotionResultFrame> MotionLayer::field(int frame) const {
  const auto at = fields_.find(frame);
  return current() && at != fields_.end() ? at->second.field : nullptr;
}

std::shared_ptr<const MotionResultFrame> MotionLayer::shown() const {
  if (look_.mean)
    if (auto all = mean()) return all;
  if (auto own = field(document_.frame() + 1)) return own;
  // All pairs as one have one field, whichever frame is shown; the first frame of a pair has the pair's.
  if (probe() && current() && probe()->settings.method == MotionMethod::window && probe()->settings.window.ensemble &&
      fields_.size() == 1)
    return fields_.begin()->second.field;
  if (!probe() || probe()->settings.against != MotionAgainst::pairs || !current()) return nullptr;
  const auto next = fields_.upper_bound(document_.frame() + 1);
  return next != fields_.end() && next->second.field->matched.from == document_.frame() ? next->second.field : nullptr;
}

void MotionLayer::refresh() {
  units_ = {};
  if (const MotionProbe* p = probe(); p && p->station <= document_.layout().last()) {
    const Station& at = document_.layout().stations[static_cast<std::size_t>(p->station)];
    units_ = {at.pixel, at.axes, document_.chain().time_step};
  }
  if (!probe()) {
    if (!fields_.empty() || texture_) tell();
    return;
  }
  if (current()) finish_fields();
  tell();
}

/// Carries the rules out on the fields that need it, on a thread of its own; one pass is finished before the next
/// begins.
void MotionLayer::finish_fields() {
  if (work_.running()) return;
  auto open = std::make_shared<std::map<int, Kept>>();
  for (const auto& [frame, kept] : fields_)
    if (!finished(kept)) open->emplace(frame, kept);
  if (open->empty()) return;
  work_.start(
      {},
      [this, open, settings = probe()->settings, units = units_](const Job& job) -> Background::Finish {
        auto made = std::make_shared<std::map<int, Kept>>();
        for (const auto& [frame, kept] : *open) {
          job.check();
          auto next = std::make_shared<MotionResultFrame>(*kept.field);
          Kept done{nullptr, {}, settings, units.pixel};
          finish(*next, settings, units, job, &done.effects);
          done.field = std::move(next);
          made->emplace(frame, std::move(done));
        }
        return [this, open, made] {
          // One that came anew meanwhile has its own turn.
          for (auto& [frame, kept] : *made)
            if (const auto at = fields_.find(frame); at != fields_.end() && at->second.field == open->at(frame).field)
              at->second = kept;
          tell();
          if (current()) finish_fields();
        };
      },
      [this](const Error& error) { Q_EMIT said(text_of(error.message())); });
}

const MotionLayer::Texture* MotionLayer::texture() const {
  return texture_ && probe() && texture_of_ == key() && texture_frame_ == document_.frame() ? texture_.get() : nullptr;
}

void MotionLayer::set_texture(std::shared_ptr<const Texture> texture) {
  texture_ = std::move(texture);
  texture_of_ = key();
  texture_frame_ = document_.frame();
  tell();
}

void MotionLayer::set_look(const Look& look) {
  if (look_ == look) return;
  look_ = look;
  tell();
}

std::optional<std::pair<double, double>> MotionLayer::range() const {
  if (range_of_ == generation_ && range_frame_ == document_.frame()) return range_;
  std::vector<double> values;
  const auto take = [&](const MotionResultFrame& field) {
    for (std::size_t i = 0; i < field.field.points.size(); ++i)
      if (const auto v = value(field, i, look_.quantity)) values.push_back(*v);
  };
  if (look_.all_frames && current())
    for (const auto& [frame, kept] : fields_) take(*kept.field);
  else if (const auto one = shown())
    take(*one);
  std::optional<std::pair<double, double>> out;
  if (!values.empty()) out = std::pair(quantile(values, 0.01), quantile(values, 0.99));
  if (out && has_sign(look_.quantity)) {
    const double most = std::max(std::abs(out->first), std::abs(out->second));
    out = std::pair(-most, most);
  }
  range_of_ = generation_;
  range_frame_ = document_.frame();
  range_ = out;
  return out;
}

std::optional<std::size_t> MotionLayer::nearest(Point place) const {
  std::optional<std::size_t> best;
  double least = 1e18;
  for (std::size_t i = 0; i < grid_.count(); ++i) {
    if (grid_.used[i] == 0) continue;
    const double d = distance(grid_.at(i), place);
    if (d < least) {
      least = d;
      best = i;
    }
  }
  return best;
}

void MotionLayer::chart(Point place) {
  if (const auto i = nearest(place)) charted_.push_back(*i);
  tell();
}
void MotionLayer::chart_between(Point from, Point to) {
  const auto a = nearest(from), b = nearest(to);
  if (a && b && *a != *b) extensometers_.emplace_back(*a, *b);
  tell();
}
void MotionLayer::chart_area(const std::vector<Point>& outline) {
  Area area{outline, {}};
  for (std::size_t i = 0; i < grid_.count(); ++i)
    if (grid_.used[i] != 0 && inside_polygon(outline, grid_.at(i))) area.points.push_back(i);
  if (area.points.empty())
    Q_EMIT said(tr("No point of the grid lies in this area: draw a larger one."));
  else
    areas_.push_back(std::move(area));
  tell();
}
void MotionLayer::set_profile(Point from, Point to) {
  profile_ = std::pair(from, to);
  tell();
}

std::optional<double> MotionLayer::value_at(const MotionResultFrame& field, Point place,
                                            MotionQuantity quantity) const {
  const double x = (place.x - grid_.first.x) / grid_.step_x, y = (place.y - grid_.first.y) / grid_.step_y;
  const int c = static_cast<int>(std::floor(x)), r = static_cast<int>(std::floor(y));
  if (c < 0 || r < 0 || c + 1 >= grid_.columns || r + 1 >= grid_.rows) return std::nullopt;
  double sum = 0;
  for (const auto& [dc, dr] : {std::pair(0, 0), std::pair(1, 0), std::pair(0, 1), std::pair(1, 1)}) {
    const auto v = value(field, static_cast<std::size_t>((r + dr) * grid_.columns + c + dc), quantity);
    if (!v) return std::nullopt;
    sum += (dc == 1 ? x - c : 1 - (x - c)) * (dr == 1 ? y - r : 1 - (y - r)) * *v;
  }
  return sum;
}

void MotionLayer::clear_charts() {
  charted_.clear();
  extensometers_.clear();
  areas_.clear();
  profile_.reset();
  flow_lines_.clear();
  tell();
}

QString MotionLayer::trust() const {
  return probe() && trust_of_ == key() ? trust_ : QString();
}
void MotionLayer::set_trust(const QString& text) {
  trust_ = text;
  trust_of_ = key();
  tell();
}

QString MotionLayer::kept_path() const {
  if (document_.chain_path().isEmpty()) return {};
  const QFileInfo chain(document_.chain_path());
  return chain.dir().filePath(chain.fileName().section('.', 0, 0) + QStringLiteral("-movement.tif"));
}

void MotionLayer::read_kept() {
  const QString path = kept_path();
  if (!probe() || path.isEmpty() || !QFileInfo::exists(path)) return;
  keeping_.start(
      tr("opening the movement"),
      [this, path = path.toStdString(), of = key(),
       sources = document_.chain().sources](const Job& job) -> Background::Finish {
        const MotionResult kept(path);
        // It is that of this chain only where it was matched so, and of these files.
        const bool same = matched_part(kept.head().probe) == of.probe &&
                          std::ranges::equal(kept.head().sources, sources, [](const auto& a, const auto& b) {
                            return a.sha256 == b.sha256 && !a.sha256.empty();
                          });
        if (!same)
          throw input_error("The movement beside the chain is of other frames or settings, and is not shown.", path,
                            "Measure again.");
        auto made = std::make_shared<std::vector<MotionResultFrame>>();
        for (int k = 0; k < kept.fields(); ++k) {
          job.check();
          made->push_back(kept.field(k));
        }
        return [this, made, grid = kept.head().grid, wanted = kept.head().wanted, of] {
          if (!probe() || !(key() == of)) return;
          begin(grid, wanted);
          for (const MotionResultFrame& field : *made) put(field);
          unkept_ = false;
          finish_fields();
          tell();
        };
      },
      [this](const Error& error) { Q_EMIT said(text_of(error.message() + " " + error.remedy())); });
}

void MotionLayer::keep() {
  const QString path = kept_path();
  if (path.isEmpty() || fields_.empty() || !unkept_ || !current()) return;
  MotionResultHead head{
      *probe(), grid_, units_, document_.layout().stations[static_cast<std::size_t>(probe()->station)].size, {}, {}};
  std::vector<std::shared_ptr<const MotionResultFrame>> fields;
  for (const auto& [frame, kept] : fields_) fields.push_back(kept.field);
  unkept_ = false;
  keeping_.start(
      tr("keeping the movement"),
      [path = path.toStdString(), head, fields, wanted = wanted_,
       chain = document_.chain_path().toStdString()](const Job& job) mutable -> Background::Finish {
        // A file of that name that is no movement is somebody's own.
        if (std::filesystem::exists(path)) (void)MotionResult(path);
        head.sources = load_chain(chain).sources;  // as they were saved, with their checksums
        MotionResultWriter writer(path, head, std::max(wanted, static_cast<int>(fields.size())), true, nullptr);
        for (const auto& field : fields) {
          job.check();
          writer.append(*field);
        }
        writer.finish();
        return [] {};
      },
      [this, path](const Error& error) {
        unkept_ = true;
        Q_EMIT said(tr("The movement is not kept beside the chain (%1): %2").arg(path, text_of(error.message())));
      });
}

}  // namespace fexel

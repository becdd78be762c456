/// Rectify: what is known of the rectangle, its corners, the result.
#include "app/steps/rectify_finder.h"
#include "app/steps/step_page.h"
#include "app/ui/language.h"
#include "app/ui/theme.h"
#include "quality/uncertainty.h"

namespace fexel {
namespace {

class RectifyPage : public InspectorPage {
 public:
  explicit RectifyPage(Document& document) : InspectorPage(document, RectifyStep::word) {
    show_switch();
    add_rectangle();
    add_corners(document);
    add_result();
    add_corrections();
    add_check();
  }

  void refresh() override {
    InspectorPage::refresh();
    const auto* rectify = step<RectifyStep>();
    if (!rectify) return;
    show_rectangle(*rectify);
    for (std::size_t i = 0; i < 4; ++i) {
      corners_[2 * i]->show_value(rectify->corners[i].x);
      corners_[2 * i + 1]->show_value(rectify->corners[i].y);
    }
    const auto wrong_order = check_quad(rectify->corners);
    order_->setVisible(wrong_order && !check_quad(in_order(rectify->corners)));
    finder_->refresh(*rectify);
    RectifyStep::Allow allow = rectify->allow;
    for (int i = 0; i < 5; ++i) allow_[static_cast<std::size_t>(i)]->setChecked(allowed(allow, i));
    extent_->show_current(std::array{0, 2, 1}[static_cast<std::size_t>(rectify->extent)]);
    const bool margin = rectify->extent == RectifyStep::Extent::margin;
    margin_->setVisible(margin);
    margin_label_->setVisible(margin);
    margin_->show_value(rectify->margin);
    detail_->show_current(rectify->pixels ? 2 : rectify->pixel_size ? 1 : 0);
    pixel_->setEnabled(rectify->pixel_size.has_value());
    across_->setEnabled(rectify->pixels.has_value());
    down_->setEnabled(rectify->pixels.has_value());
    if (show_problem()) {
      fields::say(finest_, {});
      return;
    }
    const Station& out = made();
    const StepInput input = input_of_step(document().layout(), document().selected_step());
    std::optional<RectifyPlane> known;
    try {
      known = rectify_plane(*rectify, input);
    } catch (const Error& error) {
      // Of a step that is off: nobody has asked for it yet.
      fields::say(finest_, {});
      check(text_of(error.message() + " " + error.remedy()), true);
      return;
    }
    const RectifyPlane& plane = *known;
    const QString unit = unit_text(plane.unit);
    detail_->button(1)->setEnabled(!plane.unit.empty());
    pixel_->setSuffix(plane.unit.empty() ? QString() : " " + unit);
    margin_->setSuffix(plane.unit.empty() ? tr(" heights") : " " + unit);
    // Said as the tile and the status bar do.
    const auto made = [](const PixelSize& p) { return rounded_to(p.square() ? p.mean() : p.x, 4); };
    if (out.pixel) pixel_->show_value(rectify->pixel_size.value_or(made(*out.pixel)));
    pixel_->setVisible(!plane.unit.empty());
    pixel_label_->setVisible(!plane.unit.empty());
    across_->show_value(out.size.width);
    down_->show_value(out.size.height);
    const double finest = finest_pixel_size(plane, input);
    fields::say(finest_,
                plane.unit.empty()
                    ? tr("No length of this plane is known yet: give a scale to measure on it.")
                    : tr("the source shows no less than %1 %2").arg(number_shown(short_number(finest, 3)), unit));
    if (plane.estimate)
      fields::say(
          estimate_,
          tr("width / height is %1 ± %2 where the camera's axis meets the picture within 1 % of its middle: not in a "
             "cut-out of a larger picture.")
              .arg(number_shown(number_text(plane.estimate->ratio, decimals_for(plane.estimate->uncertainty))),
                   number_shown(number_text(plane.estimate->uncertainty, decimals_for(plane.estimate->uncertainty)))));
    check(check_text(*rectify, plane, finest));
  }

 private:
  void add_rectangle() {
    column()->addWidget(fields::section(tr("The real rectangle")));
    shape_ = new fields::Segments(tr("What is known of it"), {tr("sides"), tr("ratio"), tr("estimate")});
    column()->addWidget(shape_);
    connect(shape_, &fields::Segments::chosen, this, [this](int way) { take_shape(way); });
    sides_ = new QWidget;
    auto* sides = new QGridLayout(sides_);
    sides->setContentsMargins(0, 0, 0, 0);
    width_ = new fields::Number(tr("Width of the real rectangle"), 0, 1e9, 6);
    height_ = new fields::Number(tr("Height of the real rectangle"), 0, 1e9, 6);
    for (fields::Number* side : {width_, height_}) side->setSpecialValueText(tr("not given"));
    unit_ = fields::units(tr("Unit of the sides"), length_units());
    sides->addWidget(fields::label_for(tr("width"), width_), 0, 0);
    sides->addWidget(width_, 0, 1);
    sides->addWidget(unit_, 0, 2);
    sides->addWidget(fields::label_for(tr("height"), height_), 1, 0);
    sides->addWidget(height_, 1, 1);
    sides->setColumnStretch(1, 1);
    setTabOrder(width_, height_);
    setTabOrder(height_, unit_);
    column()->addWidget(sides_);
    for (fields::Number* side : {width_, height_})
      connect(side, &QDoubleSpinBox::valueChanged, this, [this] { take_sides(); });
    connect(unit_, &QComboBox::activated, this,
            [this] { take([&](RectifyStep& s) { s.unit = unit_->currentText().toStdString(); }); });
    ratio_row_ = new QWidget;
    auto* ratio = new QHBoxLayout(ratio_row_);
    ratio->setContentsMargins(0, 0, 0, 0);
    ratio_ = new fields::Number(tr("Width divided by height"), 1e-3, 1e3, 6);
    ratio->addWidget(fields::label_for(tr("width / height"), ratio_));
    ratio->addWidget(ratio_, 1);
    column()->addWidget(ratio_row_);
    connect(ratio_, &QDoubleSpinBox::valueChanged, this,
            [this](double v) { take([&](RectifyStep& s) { s.ratio = v; }); });
    estimate_ = fields::reserved(fields::sentence(tr("Estimated ratio")), 2);
    column()->addWidget(estimate_);
    auto* scale = new QHBoxLayout;
    scale_ = new QComboBox;
    scale_->setAccessibleName(tr("What gives the scale"));
    scale->addWidget(fields::label_for(tr("scale from"), scale_));
    scale->addWidget(scale_, 1);
    column()->addLayout(scale);
    connect(scale_, &QComboBox::activated, this, [this](int row) { take_scale(row); });
  }

  void add_corners(Document& document) {
    column()->addWidget(fields::section(tr("Corners")));
    auto* grid = new QGridLayout;
    grid->setVerticalSpacing(3);
    const QString heads[] = {"", tr("x, px"), tr("y, px")};
    for (int i = 0; i < 3; ++i) {
      auto* head = fields::label_for(heads[i], nullptr);
      head->setFont(text_font(8.5));
      head->setAlignment(Qt::AlignRight);
      grid->addWidget(head, 0, i);
    }
    const QString names[] = {tr("top left"), tr("top right"), tr("bottom right"), tr("bottom left")};
    for (int i = 0; i < 4; ++i) {
      for (int axis = 0; axis < 2; ++axis) {
        auto* field =
            new fields::Number(tr("Corner %1 (%2), %3").arg(i + 1).arg(names[i], axis == 0 ? "x" : "y"), -1e9, 1e9, 2);
        corners_.push_back(field);
        grid->addWidget(field, i + 1, axis + 1);
        connect(field, &QDoubleSpinBox::valueChanged, this, [this, i, axis](double v) {
          take([&](RectifyStep& s) {
            (axis == 0 ? s.corners[static_cast<std::size_t>(i)].x : s.corners[static_cast<std::size_t>(i)].y) = v;
          });
        });
      }
      auto* name = new QLabel(QString("<b style='color:%1'>%2</b> %3").arg(theme().a.name()).arg(i + 1).arg(names[i]));
      name->setBuddy(corners_[static_cast<std::size_t>(2 * i)]);
      grid->addWidget(name, i + 1, 0);
    }
    grid->setColumnStretch(1, 1);
    grid->setColumnStretch(2, 1);
    column()->addLayout(grid);
    add_problem();
    order_ = new QPushButton(tr("Put the corners in order"));
    order_->setAccessibleName(order_->text());
    connect(order_, &QPushButton::clicked, this,
            [this] { take([](RectifyStep& s) { s.corners = in_order(s.corners); }); });
    column()->addWidget(order_);
    finder_ = new RectifyFinder(document, [this](const QString& text, const RectifyStep& next, const QString& merge) {
      change(text, next, merge);
    });
    column()->addWidget(finder_);
  }

  void add_result() {
    column()->addWidget(fields::section(tr("The result")));
    extent_ = new fields::Segments(tr("How much of the plane"), {tr("rectangle"), tr("margin"), tr("whole view")});
    column()->addWidget(extent_);
    connect(extent_, &fields::Segments::chosen, this, [this](int way) {
      take([&](RectifyStep& s) {
        s.extent = std::array{RectifyStep::Extent::reference, RectifyStep::Extent::margin,
                              RectifyStep::Extent::whole}[static_cast<std::size_t>(way)];
        if (way == 1 && s.margin == 0) s.margin = rounded_to(0.1 * std::min(s.width, s.height), 2);
      });
    });
    detail_ = new fields::Segments(tr("Pixel size"), {tr("all detail"), tr("pixel size"), tr("pixels")});
    column()->addWidget(detail_);
    auto* result = new QGridLayout;
    margin_ = new fields::Number(tr("Margin around the rectangle"), 0, 1e9, 6);
    result->addWidget(margin_label_ = fields::label_for(tr("margin"), margin_), 0, 0);
    result->addWidget(margin_, 0, 1);
    pixel_ = new fields::Number(tr("Pixel size of the result"), 1e-9, 1e9, 6);
    result->addWidget(pixel_label_ = fields::label_for(tr("pixel size"), pixel_), 1, 0);
    result->addWidget(pixel_, 1, 1);
    across_ = new fields::Number(tr("Width of the result"), 1, largest_side, 0, tr("px"));
    down_ = new fields::Number(tr("Height of the result"), 1, largest_side, 0, tr("px"));
    result->addWidget(fields::label_for(tr("width"), across_), 2, 0);
    result->addWidget(across_, 2, 1);
    result->addWidget(fields::label_for(tr("height"), down_), 3, 0);
    result->addWidget(down_, 3, 1);
    result->setColumnStretch(1, 1);
    finest_ = fields::sentence(tr("Finest pixel size"));
    finest_->setFont(text_font(8.5));
    result->addWidget(finest_, 4, 0, 1, 2);
    column()->addLayout(result);
    connect(margin_, &QDoubleSpinBox::valueChanged, this,
            [this](double v) { take([&](RectifyStep& s) { s.margin = v; }); });
    connect(pixel_, &QDoubleSpinBox::valueChanged, this,
            [this](double v) { take([&](RectifyStep& s) { s.pixel_size = v; }); });
    for (auto* field : {across_, down_})
      connect(field, &QDoubleSpinBox::valueChanged, this, [this] {
        take([&](RectifyStep& s) {
          s.pixels = Size{static_cast<int>(across_->value()), static_cast<int>(down_->value())};
        });
      });
    connect(detail_, &fields::Segments::chosen, this, [this](int way) {
      take([&](RectifyStep& s) {
        s.pixel_size.reset();
        s.pixels.reset();
        if (way == 1 && made().pixel) s.pixel_size = rounded_to(made().pixel->x, 3);
        if (way == 2) s.pixels = made().size;
      });
    });
  }

  void add_corrections() {
    column()->addWidget(fields::section(tr("What is corrected")));
    auto* allow = new QGridLayout;
    const QString parts[] = {tr("place"), tr("scale"), tr("turn"), tr("skew"), tr("perspective")};
    for (int i = 0; i < 5; ++i) {
      auto* box = new QCheckBox(parts[i]);
      box->setAccessibleName(tr("Correct: %1").arg(parts[i]));
      allow->addWidget(box, i / 3, i % 3);
      allow_.push_back(box);
      connect(box, &QCheckBox::clicked, this,
              [this, i](bool on) { take([&](RectifyStep& s) { allowed(s.allow, i) = on; }); });
    }
    column()->addLayout(allow);
  }

  static bool& allowed(RectifyStep::Allow& allow, int i) {
    bool* const parts[] = {&allow.shift, &allow.scale, &allow.turn, &allow.skew, &allow.perspective};
    return *parts[i];
  }

  void show_rectangle(const RectifyStep& rectify) {
    using Shape = RectifyStep::Shape;
    // Sides that nobody has given yet are a ratio only.
    if (wanted_of_ != document().selected_step()) wants_sides_ = false;
    const bool given = rectify.shape == Shape::sides, waiting = rectify.shape == Shape::ratio && wants_sides_;
    shape_->show_current(waiting ? 0 : static_cast<int>(rectify.shape));
    sides_->setVisible(given || waiting);
    ratio_row_->setVisible(rectify.shape == Shape::ratio && !waiting);
    fields::say(estimate_, waiting ? tr("Sides not given: the ratio alone is used, and lengths have no unit.")
                           : given ? tr("Both sides are known: lengths in the plane are true.")
                           : rectify.shape == Shape::ratio
                               ? tr("The ratio alone is known: lengths have no unit without a scale.")
                               : QString());
    if (given) {
      width_->show_value(rectify.width);
      height_->show_value(rectify.height);
    } else if (!waiting || !(width_->value() > 0 || height_->value() > 0)) {
      width_->show_value(0);
      height_->show_value(0);
    }
    unit_->setCurrentText(text_of(rectify.unit));
    ratio_->show_value(rectify.ratio);
    // The scale comes from the sides, or from a measurement of known length.
    scale_->clear();
    scale_->addItem(rectify.shape == Shape::sides ? tr("the sides") : tr("nothing: no unit"), -1);
    const auto& measurements = document().chain().measurements;
    int current = 0;
    for (std::size_t i = 0; i < measurements.size(); ++i) {
      const auto known = known_of(measurements[i]);
      if (!known) continue;
      scale_->addItem(
          tr("“%1”, %2 %3")
              .arg(text_of(measurements[i].name), number_shown(short_number(known->length, 6)), unit_text(known->unit)),
          static_cast<int>(i));
      if (!rectify.known.empty() && rectify.known[0] == *known) current = scale_->count() - 1;
    }
    if (current == 0 && !rectify.known.empty() && rectify.known[0].scale) {
      scale_->addItem(
          tr("%1 %2 in the plane")
              .arg(number_shown(short_number(rectify.known[0].length, 6)), unit_text(rectify.known[0].unit)),
          -2);
      current = scale_->count() - 1;
    }
    scale_->setCurrentIndex(current);
  }

  /// A measurement of known length as a length that gives the scale, in the coordinates that the step gets.
  std::optional<KnownLength> known_of(const Measurement& measurement) const {
    const auto* length = std::get_if<LengthMeasurement>(&measurement.kind);
    const int here = document().selected_step();
    if (!length || !length->expected || measurement.station > here) return std::nullopt;
    const Carried a = carry(document().layout(), measurement.points[0], measurement.station, here),
                  b = carry(document().layout(), measurement.points[1], measurement.station, here);
    if (a.status == CarryStatus::beyond_horizon || b.status == CarryStatus::beyond_horizon) return std::nullopt;
    KnownLength known{a.point, b.point, *length->expected, length->unit, true};
    const Map from_source = map_between(document().layout(), 0, here);
    for (const std::size_t end : {std::size_t{0}, std::size_t{1}}) {
      const auto at = from_source.backward(end == 0 ? a.point : b.point);
      const auto scale = at ? from_source.scale_at(*at) : std::nullopt;
      if (scale) known.picking[end] = rounded_to(measurement.picking[end] * *scale, 3);
    }
    return known;
  }

  /// Both sides are given; with one of them, what is known is still the ratio.
  void take_sides() {
    if (!(width_->value() > 0 && height_->value() > 0)) return;
    const double width = width_->value(), height = height_->value();
    take([&](RectifyStep& s) {
      s.shape = RectifyStep::Shape::sides;
      s.width = width;
      s.height = height;
      s.unit = unit_->currentText().toStdString();
    });
  }

  void take_shape(int way) {
    const auto* now = step<RectifyStep>();
    wants_sides_ = way == 0;
    wanted_of_ = document().selected_step();
    if (way == 0 && now && now->shape != RectifyStep::Shape::sides) {
      // What was given before is there to be taken again; nothing is made up.
      width_->show_value(0);
      height_->show_value(0);
      if (now->shape == RectifyStep::Shape::ratio) return refresh();
      way = static_cast<int>(RectifyStep::Shape::ratio);
    }
    const bool sound = !made().problem;
    const Size size = made().size;
    take([&](RectifyStep& s) {
      s.shape = static_cast<RectifyStep::Shape>(way);
      if (s.shape == RectifyStep::Shape::ratio && sound && s.extent == RectifyStep::Extent::reference)
        s.ratio = rounded_to(s.pixels ? s.ratio : double(size.width) / size.height, 4);
      const bool no_unit = s.shape != RectifyStep::Shape::sides &&
                           std::ranges::none_of(s.known, [](const KnownLength& k) { return k.scale; });
      if (no_unit) s.pixel_size.reset();
    });
  }

  void take_scale(int row) {
    const int which = scale_->itemData(row).toInt();
    if (which == -2) return;
    take([&](RectifyStep& s) {
      std::erase_if(s.known, [](const KnownLength& k) { return k.scale; });
      if (which < 0) {
        if (s.shape != RectifyStep::Shape::sides) s.pixel_size.reset();
        return;
      }
      s.known.insert(s.known.begin(), *known_of(document().chain().measurements[static_cast<std::size_t>(which)]));
    });
  }

  void step_added() override {
    wants_sides_ = true;
    wanted_of_ = document().selected_step();
    refresh();
    finder_->propose(true);
  }

  QString check_text(const RectifyStep& rectify, const RectifyPlane& plane, double finest) const {
    QStringList said;
    for (const KnownLength& known : rectify.known)
      if (const auto reading = known_reading(known, plane); reading && !known.scale)
        said << tr("The known %1 %3 read %2 %3.")
                    .arg(number_shown(short_number(known.length, 6)), number_shown(number_text(*reading, 2)),
                         unit_text(known.unit));
    if (rectify.shape == RectifyStep::Shape::sides &&
        std::ranges::any_of(rectify.known, [](const KnownLength& known) { return known.scale; }))
      said << tr("By that length the sides are %1 × %2 %3; as given they are %4 × %5 %6.")
                  .arg(number_shown(short_number(plane.width, 5)), number_shown(short_number(plane.height, 5)),
                       unit_text(plane.unit), number_shown(short_number(rectify.width, 5)),
                       number_shown(short_number(rectify.height, 5)), unit_text(rectify.unit));
    if (!rectify.allow.all()) said << tr("Not all that the view needs is corrected: lengths are not true everywhere.");
    const int index = document().selected_step();
    const LengthSummary before = summarise_lengths(document().chain(), document().shape(), document().layout(), index);
    const LengthSummary after =
        summarise_lengths(document().chain(), document().shape(), document().layout(), index + 1);
    if (after.agree > 0) {
      const double shown = std::max(after.largest, 0.1 * after.uncertainty);
      said << tr("%1 of %2 known lengths are right within %3 %4.")
                  .arg(after.agree)
                  .arg(after.count)
                  .arg(number_shown(number_text(shown, decimals_for(shown))), unit_text(after.unit));
    }
    if (!after.worst_name.empty())
      said << tr("“%1” is off by %2%3 %4: it may stand off the plane, or a corner is wrong.")
                  .arg(text_of(after.worst_name), after.worst > 0 ? "+" : "", number_shown(number_text(after.worst, 2)),
                       unit_text(after.unit));
    if (after.count > 1 && before.count == after.count)
      said << tr("Before, the same lengths differed by %1 %.").arg(number_shown(number_text(100 * before.spread, 0)));
    if (after.count == 0) said << tr("Measure a known length (G) to check the result.");
    if (rectify.pixel_size && *rectify.pixel_size < 0.7 * finest)
      said << tr("The pixels are finer than the source: this adds no detail.");
    if (rectify.pixel_size && *rectify.pixel_size > 1.4 * finest)
      said << tr("The pixels are coarser than the source: some detail is given up.");
    said << tr("Only the plane of the rectangle is true; what stands off it reads long or short.");
    return said.join(" ");
  }

  template <class Change>
  void take(Change body) {
    const auto* rectify = step<RectifyStep>();
    if (!rectify) return;
    RectifyStep next = *rectify;
    const Quad before = next.corners;
    body(next);
    for (std::size_t i = 0; i < 4; ++i)
      if (next.corners[i] != before[i]) next.picking[i] = picking_by_hand;
    change(tr("rectify"), next);
  }

  RectifyFinder* finder_;
  fields::Segments* shape_;
  QWidget* sides_;
  QWidget* ratio_row_;
  fields::Number* ratio_;
  QLabel* estimate_;
  QComboBox* scale_;
  std::vector<QCheckBox*> allow_;
  fields::Segments* extent_;
  QLabel* margin_label_;
  QLabel* pixel_label_;
  fields::Number* margin_;
  fields::Number* across_;
  fields::Number* down_;
  fields::Number* width_;
  bool wants_sides_ = false;  // the person is about to give them
  int wanted_of_ = -1;        // for this step
  fields::Number* height_;
  QComboBox* unit_;
  std::vector<fields::Number*> corners_;
  QPushButton* order_;
  fields::Segments* detail_;
  fields::Number* pixel_;
  QLabel* finest_;
};

class RectifyUi : public StepUiOf<RectifyStep> {
 public:
  RectifyUi()
      : StepUiOf({QObject::tr("Rectify"), QObject::tr("lay a known rectangle square, so that lengths are true"),
                  QObject::tr("perspective straighten keystone square homography facade plane corners")}) {}
  InspectorPage* page(Document& document) const override { return new RectifyPage(document); }
  QString summary_of(const RectifyStep& step) const override {
    if (step.shape == RectifyStep::Shape::ratio)
      return QObject::tr("as %1 to 1").arg(number_shown(short_number(step.ratio, 4)));
    if (step.shape == RectifyStep::Shape::estimated) return QObject::tr("ratio estimated");
    return QString("%1 × %2 %3")
        .arg(number_shown(short_number(step.width, 5)), number_shown(short_number(step.height, 5)),
             unit_text(step.unit));
  }
  StepFigure figure_of(const RectifyStep& step, const StepInput&) const override {
    StepFigure out;
    for (std::size_t i = 0; i < 4; ++i) out.handles.push_back({step.corners[i], std::to_string(i + 1)});
    out.lines.push_back({{step.corners.begin(), step.corners.end()}, true});
    return out;
  }
  RectifyStep moved(RectifyStep step, const StepInput&, int index, Point to) const override {
    step.corners[static_cast<std::size_t>(index)] = to;
    step.picking[static_cast<std::size_t>(index)] = picking_by_hand;
    return step;
  }
  RectifyStep with_picking_of(RectifyStep step, int index, double sigma) const override {
    step.picking[static_cast<std::size_t>(index)] = sigma;
    return step;
  }
  QString handle_purpose(int index) const override { return QObject::tr("move corner %1").arg(index + 1); }
};

}  // namespace

const StepUi& rectify_ui() {
  return made_in_language<RectifyUi>();
}

}  // namespace fexel

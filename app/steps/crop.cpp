/// Crop: by numbers, ratio, or to what is not empty.
#include <QComboBox>

#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

/// A crop of a ratio keeps it, and its opposite corner, and is a rectangle from then on.
CropStep moved_in_ratio(const CropStep& step, const StepInput& input, int index, Point to) {
  const CropRatio ratio = std::get<CropRatio>(step.what);
  CropRectangle r = crop_rectangle(step, input);
  if (index == 4) {
    r.x = std::round(to.x - r.width / 2.0);
    r.y = std::round(to.y - r.height / 2.0);
    return {r};
  }
  const bool left = index == 0 || index == 3, top = index < 2;
  const Point still{left ? r.x + r.width : r.x, top ? r.y + r.height : r.y};
  const double across = left ? still.x - to.x : to.x - still.x, down = top ? still.y - to.y : to.y - still.y;
  const double units = std::max({across / ratio.across, down / ratio.down, 1 / std::min(ratio.across, ratio.down)});
  r.width = std::max(1, static_cast<int>(std::lround(units * ratio.across)));
  r.height = std::max(1, static_cast<int>(std::lround(units * ratio.down)));
  r.x = left ? still.x - r.width : still.x;
  r.y = top ? still.y - r.height : still.y;
  return {r};
}

class CropPage : public InspectorPage {
 public:
  explicit CropPage(Document& document) : InspectorPage(document, CropStep::word) {
    show_switch();
    column()->addWidget(fields::section(tr("What to keep")));
    by_ = new fields::Segments(tr("What to keep"), {tr("numbers"), tr("ratio"), tr("no gaps")});
    connect(by_, &fields::Segments::chosen, this, &CropPage::choose);
    column()->addWidget(by_);

    numbers_ = new QWidget;
    auto* grid = new QGridLayout(numbers_);
    grid->setContentsMargins(0, 4, 0, 0);
    const struct {
      const char* text;
      double low;
    } rows[] = {{"left", -largest_side}, {"top", -largest_side}, {"width", 1}, {"height", 1}};
    for (int i = 0; i < 4; ++i) {
      auto* field =
          new fields::Number(tr("Crop %1").arg(tr(rows[i].text)), rows[i].low, largest_side, i < 2 ? 3 : 0, "px");
      grid->addWidget(fields::label_for(tr(rows[i].text), field), i, 0);
      grid->addWidget(field, i, 1);
      connect(field, &QDoubleSpinBox::valueChanged, this, &CropPage::take_numbers);
      fields_.push_back(field);
    }
    last_ = fields::sentence(tr("First and last pixel"));
    grid->addWidget(last_, 4, 0, 1, 2);
    column()->addWidget(numbers_);

    ratio_ = new QWidget;
    auto* ratio_grid = new QGridLayout(ratio_);
    ratio_grid->setContentsMargins(0, 4, 0, 0);
    across_ = new fields::Number(tr("Ratio across"), 1e-3, 1e6, 3);
    down_ = new fields::Number(tr("Ratio down"), 1e-3, 1e6, 3);
    anchor_ = new QComboBox;
    anchor_->setAccessibleName(tr("Where the crop is held"));
    for (const auto& word : crop_anchors()) anchor_->addItem(QString::fromStdString(word));
    ratio_grid->addWidget(fields::label_for(tr("across : down"), across_), 0, 0);
    ratio_grid->addWidget(across_, 0, 1);
    ratio_grid->addWidget(down_, 0, 2);
    ratio_grid->addWidget(fields::label_for(tr("held at"), anchor_), 1, 0);
    ratio_grid->addWidget(anchor_, 1, 1, 1, 2);
    connect(across_, &QDoubleSpinBox::valueChanged, this, &CropPage::take_ratio);
    connect(down_, &QDoubleSpinBox::valueChanged, this, &CropPage::take_ratio);
    connect(anchor_, &QComboBox::activated, this, &CropPage::take_ratio);
    column()->addWidget(ratio_);

    add_problem();
    add_check();
  }

  void refresh() override {
    InspectorPage::refresh();
    const auto* crop = step<CropStep>();
    if (!crop) return;
    by_->show_current(static_cast<int>(crop->what.index()));
    numbers_->setVisible(crop->what.index() == 0);
    ratio_->setVisible(crop->what.index() == 1);
    if (const auto* r = std::get_if<CropRectangle>(&crop->what)) {
      const double values[] = {r->x, r->y, double(r->width), double(r->height)};
      for (std::size_t i = 0; i < 4; ++i) fields_[i]->show_value(values[i]);
      const bool whole = r->x == std::floor(r->x) && r->y == std::floor(r->y);
      fields::say(last_, whole ? tr("columns %1 to %2, rows %3 to %4, counted from 1")
                                     .arg(r->x + 1)
                                     .arg(r->x + r->width)
                                     .arg(r->y + 1)
                                     .arg(r->y + r->height)
                               : tr("off the pixel grid: the picture is resampled"));
    } else if (const auto* ratio = std::get_if<CropRatio>(&crop->what)) {
      across_->show_value(ratio->across);
      down_->show_value(ratio->down);
      anchor_->setCurrentText(QString::fromStdString(ratio->anchor));
    }
    const Station& out = made();
    if (show_problem()) return;
    check(tr("%1 × %2 px are kept. %3 Coordinates trace back to the source: the rail shows both.")
              .arg(out.size.width)
              .arg(out.size.height)
              .arg(out.exact ? tr("Pixels are moved bit for bit.")
                             : tr("Pixels are resampled, with all geometry of the chain, once.")));
  }

 private:
  void choose(int way) {
    const int index = document().selected_step();
    const StepInput input = input_of_step(document().layout(), index);
    const auto* crop = step<CropStep>();
    if (!crop) return;
    CropStep next;
    if (way == 0) {
      try {
        next.what = crop_rectangle(*crop, input);
      } catch (const Error&) {
        next.what = CropRectangle{0, 0, input.size.width, input.size.height};
      }
    } else if (way == 1) {
      next.what = CropRatio{4, 3, "centre"};
    } else {
      next.what = CropValid{};
    }
    change(tr("crop"), next);
  }
  void take_numbers() {
    change(tr("crop"),
           CropStep{CropRectangle{fields_[0]->value(), fields_[1]->value(), static_cast<int>(fields_[2]->value()),
                                  static_cast<int>(fields_[3]->value())}});
  }
  void take_ratio() {
    change(tr("crop"), CropStep{CropRatio{across_->value(), down_->value(), anchor_->currentText().toStdString()}});
  }

  fields::Segments* by_;
  QWidget* numbers_;
  QWidget* ratio_;
  std::vector<fields::Number*> fields_;
  fields::Number* across_;
  fields::Number* down_;
  QComboBox* anchor_;
  QLabel* last_;
};

class CropUi : public StepUiOf<CropStep> {
 public:
  CropUi()
      : StepUiOf({QObject::tr("Crop"), QObject::tr("cut out a rectangle"),
                  QObject::tr("trim region of interest window ratio")}) {}
  InspectorPage* page(Document& document) const override { return new CropPage(document); }
  QString summary_of(const CropStep& step) const override {
    if (std::holds_alternative<CropValid>(step.what)) return QObject::tr("to the area without gaps");
    if (const auto* ratio = std::get_if<CropRatio>(&step.what))
      return QString("%1 : %2").arg(ratio->across).arg(ratio->down);
    const auto& r = std::get<CropRectangle>(step.what);
    return QObject::tr("from %1, %2").arg(r.x).arg(r.y);
  }
  StepFigure figure_of(const CropStep& step, const StepInput& input) const override {
    CropRectangle r;
    try {
      r = crop_rectangle(step, input);
    } catch (const Error&) {
      return {};
    }
    const Point a{r.x, r.y}, c{r.x + r.width, r.y + r.height};
    StepFigure out;
    out.lines.push_back({{a, {c.x, a.y}, c, {a.x, c.y}}, true});
    if (!std::holds_alternative<CropValid>(step.what))
      out.handles = {{a, "1"}, {{c.x, a.y}, "2"}, {c, "3"}, {{a.x, c.y}, "4"}, {0.5 * (a + c), ""}};
    return out;
  }
  CropStep moved(CropStep step, const StepInput& input, int index, Point to) const override {
    if (std::holds_alternative<CropRatio>(step.what)) return moved_in_ratio(step, input, index, to);
    auto* r = std::get_if<CropRectangle>(&step.what);
    if (!r) return step;
    if (index == 4) {
      r->x = std::round(to.x - r->width / 2.0);
      r->y = std::round(to.y - r->height / 2.0);
      return step;
    }
    // The opposite corner stays.
    const bool left = index == 0 || index == 3, top = index < 2;
    const double right = r->x + r->width, bottom = r->y + r->height;
    if (left) {
      r->x = std::min(std::round(to.x), right - 1);
      r->width = std::max(1, static_cast<int>(std::lround(right - r->x)));
    } else {
      r->width = std::max(1, static_cast<int>(std::lround(to.x - r->x)));
    }
    if (top) {
      r->y = std::min(std::round(to.y), bottom - 1);
      r->height = std::max(1, static_cast<int>(std::lround(bottom - r->y)));
    } else {
      r->height = std::max(1, static_cast<int>(std::lround(to.y - r->y)));
    }
    return step;
  }
};

}  // namespace

const StepUi& crop_ui() {
  return made_in_language<CropUi>();
}

}  // namespace fexel

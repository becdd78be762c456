#include <QComboBox>

#include "app/ui/fields.h"
#include "app/window/inspector.h"

namespace fexel {
namespace {

class CropPage : public InspectorPage {
 public:
  explicit CropPage(Document& document) : InspectorPage(document, "crop", tr("Crop")) {
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

}  // namespace

InspectorPage* make_crop_page(Document& document) {
  return new CropPage(document);
}

}  // namespace fexel

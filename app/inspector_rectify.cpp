#include <QComboBox>

#include "app/fields.h"
#include "app/inspector.h"
#include "app/text.h"
#include "app/theme.h"
#include "chain/trust.h"

namespace fexel {
namespace {

class RectifyPage : public InspectorPage {
 public:
  explicit RectifyPage(Document& document) : InspectorPage(document, "rectify", tr("Rectify")) {
    show_switch();
    column()->addWidget(fields::section(tr("The real rectangle")));
    auto* sides = new QGridLayout;
    width_ = new fields::Number(tr("Width of the real rectangle"), 1e-9, 1e9, 6);
    height_ = new fields::Number(tr("Height of the real rectangle"), 1e-9, 1e9, 6);
    unit_ = new QComboBox;
    unit_->setAccessibleName(tr("Unit of the sides"));
    for (const auto& unit : length_units()) unit_->addItem(text_of(unit));
    sides->addWidget(fields::label_for(tr("width"), width_), 0, 0);
    sides->addWidget(width_, 0, 1);
    sides->addWidget(unit_, 0, 2);
    sides->addWidget(fields::label_for(tr("height"), height_), 1, 0);
    sides->addWidget(height_, 1, 1);
    sides->setColumnStretch(1, 1);
    column()->addLayout(sides);
    connect(width_, &QDoubleSpinBox::valueChanged, this,
            [this](double v) { take([&](RectifyStep& s) { s.width = v; }); });
    connect(height_, &QDoubleSpinBox::valueChanged, this,
            [this](double v) { take([&](RectifyStep& s) { s.height = v; }); });
    connect(unit_, &QComboBox::activated, this,
            [this] { take([&](RectifyStep& s) { s.unit = unit_->currentText().toStdString(); }); });

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

    column()->addWidget(fields::section(tr("The result")));
    detail_ = new fields::Segments(tr("Pixel size"), {tr("all detail"), tr("as given")});
    column()->addWidget(detail_);
    auto* result = new QGridLayout;
    pixel_ = new fields::Number(tr("Pixel size of the result"), 1e-9, 1e9, 6);
    result->addWidget(fields::label_for(tr("pixel size"), pixel_), 0, 0);
    result->addWidget(pixel_, 0, 1);
    result->setColumnStretch(1, 1);
    finest_ = fields::sentence(tr("Finest pixel size"));
    finest_->setFont(text_font(8.5));
    result->addWidget(finest_, 1, 0, 1, 2);
    column()->addLayout(result);
    connect(pixel_, &QDoubleSpinBox::valueChanged, this,
            [this](double v) { take([&](RectifyStep& s) { s.pixel_size = v; }); });
    connect(detail_, &fields::Segments::chosen, this, [this](int way) {
      take([&](RectifyStep& s) {
        if (way == 0)
          s.pixel_size.reset();
        else if (made().pixel)
          s.pixel_size = std::stod(short_number(made().pixel->x, 3));
      });
    });

    add_check();
  }

  void refresh() override {
    InspectorPage::refresh();
    const auto* rectify = step<RectifyStep>();
    if (!rectify) return;
    width_->show_value(rectify->width);
    height_->show_value(rectify->height);
    unit_->setCurrentText(text_of(rectify->unit));
    pixel_->setSuffix(" " + text_of(rectify->unit));
    for (std::size_t i = 0; i < 4; ++i) {
      corners_[2 * i]->show_value(rectify->corners[i].x);
      corners_[2 * i + 1]->show_value(rectify->corners[i].y);
    }
    detail_->show_current(rectify->pixel_size ? 1 : 0);
    pixel_->setEnabled(rectify->pixel_size.has_value());
    const Station& out = made();
    const auto wrong_order = check_quad(rectify->corners);
    order_->setVisible(wrong_order && !check_quad(in_order(rectify->corners)));
    if (show_problem()) {
      fields::say(finest_, {});
      return;
    }
    if (out.pixel) pixel_->show_value(rectify->pixel_size.value_or(std::stod(short_number(out.pixel->x, 4))));
    const int index = document().selected_step();
    const double finest = finest_pixel_size(rectify_plane(*rectify, input_of_step(document().layout(), index)), input_of_step(document().layout(), index));
    fields::say(
        finest_,
        tr("the source shows no less than %1 %2").arg(text_of(short_number(finest, 3)), text_of(rectify->unit)));
    check(check_text(*rectify, finest));
  }

 private:
  QString check_text(const RectifyStep& rectify, double finest) const {
    QStringList said;
    const int index = document().selected_step();
    const GaugeSummary before = summarise_gauges(document().chain(), document().shape(), document().layout(), index);
    const GaugeSummary after = summarise_gauges(document().chain(), document().shape(), document().layout(), index + 1);
    if (after.agree > 0) {
      const double shown = std::max(after.largest, 0.1 * after.uncertainty);
      said << tr("%1 of %2 gauges of known length are right within %3 %4.")
                  .arg(after.agree)
                  .arg(after.count)
                  .arg(text_of(number_text(shown, decimals_for(shown))), text_of(after.unit));
    }
    if (!after.worst_name.empty())
      said << tr("“%1” is off by %2%3 %4: it may stand off the plane, or a corner is wrong.")
                  .arg(text_of(after.worst_name), after.worst > 0 ? "+" : "", text_of(number_text(after.worst, 2)),
                       text_of(after.unit));
    if (after.count > 1 && before.count == after.count)
      said << tr("Before, the same lengths differed by %1 %.").arg(text_of(number_text(100 * before.spread, 0)));
    if (after.count == 0) said << tr("Lay a gauge along a known length (G) to check the result.");
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
    body(next);
    change(tr("rectify"), next);
  }

  fields::Number* width_;
  fields::Number* height_;
  QComboBox* unit_;
  std::vector<fields::Number*> corners_;
  QPushButton* order_;
  fields::Segments* detail_;
  fields::Number* pixel_;
  QLabel* finest_;
};

}  // namespace

InspectorPage* make_rectify_page(Document& document) {
  return new RectifyPage(document);
}

}  // namespace fexel

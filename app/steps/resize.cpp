/// Resize: by factor, size or pixel size.
#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class ResizePage : public StepPage<ResizeStep> {
 public:
  explicit ResizePage(Document& document) : StepPage(document) {
    // Long because it lays the page out, from top to bottom.
    head(tr("To what"));
    segments(
        tr("Resize to"), {tr("factor"), tr("size"), tr("pixel size")},
        [](const ResizeStep& s) { return s.scale        ? 0
                                         : s.pixel_size ? 2
                                                        : 1; },
        [this](ResizeStep& s, int i) { begin(s, i); });
    by_x_ = number(
        tr("factor"), 1e-4, 1e4, 6, {}, [](const ResizeStep& s) { return s.scale ? s.scale->first : 1; },
        [this](ResizeStep& s, double v) {
          s.scale = {v, alike_->isChecked() || !s.scale ? v : s.scale->second};
        });
    by_y_ = number(
        tr("factor in y"), 1e-4, 1e4, 6, {}, [](const ResizeStep& s) { return s.scale ? s.scale->second : 1; },
        [this](ResizeStep& s, double v) {
          s.scale = {alike_->isChecked() || !s.scale ? v : s.scale->first, v};
        });
    alike_ = new QCheckBox(tr("the same in x and y"));
    alike_->setAccessibleName(alike_->text());
    alike_->setChecked(true);
    row({}, alike_);
    connect(alike_, &QCheckBox::clicked, this, [this](bool on) {
      if (on) take([](ResizeStep& s) { s.scale = {s.scale ? s.scale->first : 1, s.scale ? s.scale->first : 1}; });
      refresh();
    });
    width_ = number(
        tr("width"), 1, largest_side, 0, tr("px"),
        [this](const ResizeStep& s) { return s.width.value_or(made().size.width); },
        [this](ResizeStep& s, double v) {
          s.width = static_cast<int>(v);
          if (follows_->isChecked()) s.height.reset();
        });
    height_ = number(
        tr("height"), 1, largest_side, 0, tr("px"),
        [this](const ResizeStep& s) { return s.height.value_or(made().size.height); },
        [this](ResizeStep& s, double v) {
          s.height = static_cast<int>(v);
          if (follows_->isChecked()) s.width.reset();
        });
    follows_ = new QCheckBox(tr("the other side follows"));
    follows_->setAccessibleName(follows_->text());
    follows_->setChecked(true);
    row({}, follows_);
    connect(follows_, &QCheckBox::clicked, this, [this](bool on) {
      take([&](ResizeStep& s) {
        if (on && s.width) s.height.reset();
        if (!on) s.width = made().size.width, s.height = made().size.height;
      });
    });
    pixel_ = number(
        tr("pixel size"), 1e-9, 1e9, 9, {}, [](const ResizeStep& s) { return s.pixel_size.value_or(1); },
        [](ResizeStep& s, double v) { s.pixel_size = v; });
    needs_ = fields::sentence(tr("What the pixel size needs"));
    column()->addWidget(needs_);
    needs_->hide();
    differs_ = new QLabel(tr("The wanted shape is another one:"));
    column()->addWidget(differs_);
    when_ = segments(
        tr("When the shape differs"), {tr("stretch"), tr("crop"), tr("pad")},
        [](const ResizeStep& s) { return static_cast<int>(s.when_shape_differs); },
        [](ResizeStep& s, int i) { s.when_shape_differs = static_cast<ResizeStep::WhenShapeDiffers>(i); });
    finish();
    show_with([this](const ResizeStep& s) {
      if (input().pixel) fields::say(needs_, {});
      const bool factor = s.scale.has_value(), size = !factor && !s.pixel_size;
      if (factor && s.scale->first != s.scale->second) alike_->setChecked(false);
      if (size) follows_->setChecked(!(s.width && s.height));
      show_row(by_x_, factor);
      show_row(by_y_, factor && !alike_->isChecked());
      show_row(alike_, factor);
      show_row(width_, size);
      show_row(height_, size);
      show_row(follows_, size);
      show_row(pixel_, s.pixel_size.has_value());
      pixel_->setSuffix(" " + unit_text(s.unit));
      const Size in = input().size;
      const bool asks =
          size && s.width && s.height &&
          std::abs(double(*s.width) * in.height - double(*s.height) * in.width) > 0.5 * std::max(in.width, in.height);
      differs_->setVisible(asks);
      when_->setVisible(asks);
    });
  }

 private:
  void begin(ResizeStep& s, int way) {
    const Station& out = made();
    const StepInput in = input();
    const auto when = s.when_shape_differs;
    s = {};
    s.when_shape_differs = when;
    if (way == 0) {
      const double factor = rounded_to(double(out.size.width) / in.size.width, 4);
      s.scale = {factor, factor};
    } else if (way == 1 || !in.pixel) {
      s.width = out.size.width;
    } else {
      s.pixel_size = rounded_to(in.pixel->x * in.size.width / out.size.width, 4);
      s.unit = in.pixel->unit;
    }
    const bool unknown = way == 2 && !in.pixel;
    fields::say(needs_,
                unknown
                    ? tr("The pixel size of this picture is not known. Give it on the page of the source, by numbers "
                         "or from lengths.")
                    : QString(),
                unknown);
  }

  QString says(const ResizeStep& s, const StepInput& input, const Station& made) override {
    const auto j = made.from_previous.jacobian(input.size.middle());
    if (!j) return {};
    const double x = (*j)(0, 0), y = (*j)(1, 1);
    QStringList said{tr("%1 became %2: ×\u00a0%3 across and ×\u00a0%4 down, as whole pixels allow.")
                         .arg(size_of(input.size), size_of(made.size), plain(x), plain(y))};
    if (std::abs(x / y - 1) > 1e-3)
      said << tr("The shape changed: lengths in x and y no longer compare in pixels%1.")
                  .arg(made.pixel ? tr("; in %1 they do").arg(unit_text(made.pixel->unit)) : QString());
    if (s.width && s.height && s.when_shape_differs == ResizeStep::WhenShapeDiffers::pad && std::abs(x / y - 1) < 1e-3)
      said << tr("What was missing of the shape is empty.");
    if (x > 1 || y > 1) said << tr("Enlarging adds no detail.");
    if (s.scale) {
      const double wanted = s.scale->first * input.size.width;
      if (std::abs(wanted - std::round(wanted)) > 1e-6)
        said << tr("%1 px wide was asked for; a picture has whole pixels.").arg(plain(wanted, 6));
    }
    said << how(made);
    return said.join(" ");
  }

  fields::Number *by_x_, *by_y_, *width_, *height_, *pixel_;
  QCheckBox *alike_, *follows_;
  QLabel *needs_, *differs_;
  fields::Segments* when_;
};

class ResizeUi : public StepUiOf<ResizeStep> {
 public:
  ResizeUi()
      : StepUiOf({QObject::tr("Resize"), QObject::tr("another size, by pixels, factor or pixel size"),
                  QObject::tr("scale resample enlarge shrink zoom dpi resolution thumbnail")}) {}
  InspectorPage* page(Document& document) const override { return new ResizePage(document); }
  QString summary_of(const ResizeStep& step) const override {
    if (step.scale)
      return step.scale->first == step.scale->second
                 ? QString("× %1").arg(plain(step.scale->first))
                 : QString("× %1, × %2").arg(plain(step.scale->first), plain(step.scale->second));
    if (step.pixel_size) return QObject::tr("to %1 %2/px").arg(plain(*step.pixel_size), unit_text(step.unit));
    if (step.width && step.height) return QObject::tr("to %1 × %2 px").arg(*step.width).arg(*step.height);
    return step.width ? QObject::tr("to %1 px across").arg(*step.width)
                      : QObject::tr("to %1 px down").arg(*step.height);
  }
};

}  // namespace

const StepUi& resize_ui() {
  return made_in_language<ResizeUi>();
}

}  // namespace fexel

/// Pages of steps that change a picture's size: resize, reduce, pad.
#include "app/pipeline/tile.h"
#include "app/steps/step_page.h"
#include "app/ui/text.h"

namespace fexel {
namespace {

class ResizePage : public StepPage<ResizeStep> {
 public:
  explicit ResizePage(Document& document) : StepPage(document, step_title(ResizeStep::word)) {
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
                         "or from gauges.")
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

class ReducePage : public StepPage<ReduceStep> {
 public:
  explicit ReducePage(Document& document) : StepPage(document, step_title(ReduceStep::word)) {
    head(tr("Blocks"));
    number(
        tr("columns"), 1, 4096, 0, tr("to one"), [](const ReduceStep& s) { return s.factor_x; },
        [](ReduceStep& s, double v) { s.factor_x = static_cast<int>(v); });
    number(
        tr("rows"), 1, 4096, 0, tr("to one"), [](const ReduceStep& s) { return s.factor_y; },
        [](ReduceStep& s, double v) { s.factor_y = static_cast<int>(v); });
    choice(
        tr("take the"), {tr("first sample"), tr("mean"), tr("median"), tr("smallest"), tr("largest")},
        [](const ReduceStep& s) { return static_cast<int>(s.take); },
        [](ReduceStep& s, int i) { s.take = static_cast<ReduceStep::Take>(i); });
    head(tr("What does not fill a block"));
    segments(
        tr("Remainder"), {tr("is dropped"), tr("counts too")}, [](const ReduceStep& s) { return s.partial ? 1 : 0; },
        [](ReduceStep& s, int i) { s.partial = i == 1; });
    finish();
  }

 private:
  QString says(const ReduceStep& s, const StepInput& input, const Station& made) override {
    if (s.factor_x == 1 && s.factor_y == 1) return tr("Nothing is reduced yet: blocks are of one pixel.");
    const int over_x = input.size.width % s.factor_x, over_y = input.size.height % s.factor_y;
    QStringList over;
    if (over_x > 0) over << (over_x == 1 ? tr("1 column at the right") : tr("%1 columns at the right").arg(over_x));
    if (over_y > 0) over << (over_y == 1 ? tr("1 row below") : tr("%1 rows below").arg(over_y));
    QStringList said{tr("%1 became %2.").arg(size_of(input.size), size_of(made.size))};
    if (!over.isEmpty() && s.partial)
      said << (over.size() == 2 ? tr("The last column and the last row stand for fewer pixels.")
               : over_x > 0     ? tr("The last column stands for fewer pixels.")
                                : tr("The last row stands for fewer pixels."));
    else if (over_x + over_y == 1)
      said << tr("%1 does not fill a block, and is left out.").arg(over.front());
    else if (!over.isEmpty())
      said << tr("%1 do not fill a block, and are left out.").arg(over.join(tr(" and ")));
    said << (s.take == ReduceStep::Take::first
                 ? tr("Samples are taken as they are; fine patterns may show as coarse ones.")
                 : tr("Each pixel is worked out from the %1 pixels of its block.").arg(s.factor_x * s.factor_y));
    return said.join(" ");
  }
};

class PadPage : public StepPage<PadStep> {
 public:
  explicit PadPage(Document& document) : StepPage(document, step_title(PadStep::word)) {
    head(tr("More pixels"));
    const std::pair<QString, int PadStep::*> sides[] = {{tr("left"), &PadStep::left},
                                                        {tr("top"), &PadStep::top},
                                                        {tr("right"), &PadStep::right},
                                                        {tr("bottom"), &PadStep::bottom}};
    for (const auto& [name, side] : sides)
      number(
          name, 0, largest_side, 0, tr("px"), [side = side](const PadStep& s) { return s.*side; },
          [side = side](PadStep& s, double v) { s.*side = static_cast<int>(v); });
    head(tr("What they show"));
    QStringList words{tr("as the result: empty")};
    for (const auto name : edge_names()) words << QString::fromUtf8(name.data());
    choice(
        tr("edge rule"), words,
        [](const PadStep& s) {
          if (!s.edge) return 0;
          const auto names = edge_names();
          return static_cast<int>(std::ranges::find(names, name_of(*s.edge)) - names.begin()) + 1;
        },
        [](PadStep& s, int i) {
          s.edge = i == 0 ? std::nullopt : edge_named(edge_names()[static_cast<std::size_t>(i) - 1]);
          if (s.edge != Edge::fill) s.fill.clear();
        });
    fill_ = number(
        tr("value"), -1e9, 1e9, 4, {}, [](const PadStep& s) { return s.fill.empty() ? 0.0 : s.fill[0]; },
        [](PadStep& s, double v) { s.fill = {v}; });
    finish();
    show_with([this](const PadStep& s) { show_row(fill_, s.edge == Edge::fill); });
  }

 private:
  QString says(const PadStep& s, const StepInput& input, const Station& made) override {
    QStringList said{tr("%1 became %2.").arg(size_of(input.size), size_of(made.size))};
    if (!s.edge)
      said << tr("What was added is empty, and never measured.");
    else if (*s.edge == Edge::fill)
      said << tr("What was added has one value, and is empty.");
    else
      said << tr("What was added repeats the picture by the rule “%1”: it is no new information.")
                  .arg(QString::fromUtf8(name_of(*s.edge).data()));
    said << tr("The picture's own pixels are moved bit for bit.");
    return said.join(" ");
  }
  fields::Number* fill_;
};

}  // namespace

InspectorPage* make_resize_page(Document& document) {
  return new ResizePage(document);
}
InspectorPage* make_reduce_page(Document& document) {
  return new ReducePage(document);
}
InspectorPage* make_pad_page(Document& document) {
  return new PadPage(document);
}

}  // namespace fexel

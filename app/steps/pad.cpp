/// Pad: more pixels around the picture.
#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class PadPage : public StepPage<PadStep> {
 public:
  explicit PadPage(Document& document) : StepPage(document) {
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
    for (const auto name : border_mode_names()) words << QString::fromUtf8(name.data());
    choice(
        tr("border mode"), words,
        [](const PadStep& s) {
          if (!s.edge) return 0;
          const auto names = border_mode_names();
          return static_cast<int>(std::ranges::find(names, name_of(*s.edge)) - names.begin()) + 1;
        },
        [](PadStep& s, int i) {
          s.edge = i == 0 ? std::nullopt : border_mode_named(border_mode_names()[static_cast<std::size_t>(i) - 1]);
          if (s.edge != BorderMode::fill) s.fill.clear();
        });
    fill_ = number(
        tr("value"), -1e9, 1e9, 4, {}, [](const PadStep& s) { return s.fill.empty() ? 0.0 : s.fill[0]; },
        [](PadStep& s, double v) { s.fill = {v}; });
    finish();
    show_with([this](const PadStep& s) { show_row(fill_, s.edge == BorderMode::fill); });
  }

 private:
  QString says(const PadStep& s, const StepInput& input, const Station& made) override {
    QStringList said{tr("%1 became %2.").arg(size_of(input.size), size_of(made.size))};
    if (!s.edge)
      said << tr("What was added is empty, and never measured.");
    else if (*s.edge == BorderMode::fill)
      said << tr("What was added has one value, and is empty.");
    else
      said << tr("What was added repeats the picture by the rule “%1”: it is no new information.")
                  .arg(QString::fromUtf8(name_of(*s.edge).data()));
    said << tr("The picture's own pixels are moved bit for bit.");
    return said.join(" ");
  }
  fields::Number* fill_;
};

class PadUi : public StepUiOf<PadStep> {
 public:
  PadUi()
      : StepUiOf({QObject::tr("Pad"), QObject::tr("more pixels around the picture"),
                  QObject::tr("border margin extend canvas frame")}) {}
  InspectorPage* page(Document& document) const override { return new PadPage(document); }
  QString summary_of(const PadStep& step) const override {
    if (step.left == step.right && step.left == step.top && step.left == step.bottom)
      return QObject::tr("%1 px all around").arg(step.left);
    return QObject::tr("%1, %2, %3, %4 px").arg(step.left).arg(step.top).arg(step.right).arg(step.bottom);
  }
  std::optional<PadStep> with_border(PadStep step, BorderMode border) const override {
    // Without a border mode of its own it takes the chain's.
    if (!step.edge) return std::nullopt;
    step.edge = border;
    return step;
  }
};

}  // namespace

const StepUi& pad_ui() {
  return made_in_language<PadUi>();
}

}  // namespace fexel

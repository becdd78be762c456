/// Downsample: blocks of pixels to one each.
#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class DownsamplePage : public StepPage<DownsampleStep> {
 public:
  explicit DownsamplePage(Document& document) : StepPage(document) {
    head(tr("Blocks"));
    number(
        tr("columns"), 1, 4096, 0, tr("to one"), [](const DownsampleStep& s) { return s.factor_x; },
        [](DownsampleStep& s, double v) { s.factor_x = static_cast<int>(v); });
    number(
        tr("rows"), 1, 4096, 0, tr("to one"), [](const DownsampleStep& s) { return s.factor_y; },
        [](DownsampleStep& s, double v) { s.factor_y = static_cast<int>(v); });
    choice(
        tr("take the"), {tr("first sample"), tr("mean"), tr("median"), tr("smallest"), tr("largest")},
        [](const DownsampleStep& s) { return static_cast<int>(s.take); },
        [](DownsampleStep& s, int i) { s.take = static_cast<DownsampleStep::Take>(i); });
    head(tr("What does not fill a block"));
    segments(
        tr("Remainder"), {tr("is dropped"), tr("counts too")},
        [](const DownsampleStep& s) { return s.partial ? 1 : 0; },
        [](DownsampleStep& s, int i) { s.partial = i == 1; });
    finish();
  }

 private:
  QString says(const DownsampleStep& s, const StepInput& input, const Station& made) override {
    if (s.factor_x == 1 && s.factor_y == 1) return tr("Blocks of one pixel change nothing yet.");
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
    said << (s.take == DownsampleStep::Take::first
                 ? tr("Samples are taken as they are; fine patterns may show as coarse ones.")
                 : tr("Each pixel is worked out from the %1 pixels of its block.").arg(s.factor_x * s.factor_y));
    return said.join(" ");
  }
};

class DownsampleUi : public StepUiOf<DownsampleStep> {
 public:
  DownsampleUi()
      : StepUiOf({QObject::tr("Downsample"), QObject::tr("blocks of pixels to one each"),
                  QObject::tr("bin average reduce smaller sum")}) {}
  InspectorPage* page(Document& document) const override { return new DownsamplePage(document); }
  QString summary_of(const DownsampleStep& step) const override {
    const QString by = step.factor_x == step.factor_y ? QObject::tr("by %1").arg(step.factor_x)
                                                      : QObject::tr("by %1 × %2").arg(step.factor_x).arg(step.factor_y);
    static const char* const takes[] = {QT_TR_NOOP("first"), QT_TR_NOOP("mean"), QT_TR_NOOP("median"),
                                        QT_TR_NOOP("min"), QT_TR_NOOP("max")};
    return by + ", " + QObject::tr(takes[static_cast<std::size_t>(step.take)]);
  }
  StepVariants variants_of(const DownsampleStep& step) const override {
    StepVariants out{QObject::tr("statistic"), {}};
    const std::pair<QString, QString> takes[] = {
        {QObject::tr("first sample"), QObject::tr("samples as they are; may alias")},
        {QObject::tr("mean"), QObject::tr("least noise, hardly any aliasing")},
        {QObject::tr("median"), QObject::tr("outliers vanish")},
        {QObject::tr("smallest"), QObject::tr("dark things grow")},
        {QObject::tr("largest"), QObject::tr("bright things grow")}};
    for (int i = 0; i < 5; ++i) {
      DownsampleStep with = step;
      with.take = static_cast<DownsampleStep::Take>(i);
      out.all.push_back({takes[i].first, takes[i].second, with});
    }
    return out;
  }
};

}  // namespace

const StepUi& downsample_ui() {
  return made_in_language<DownsampleUi>();
}

}  // namespace fexel

#include "app/pipeline/tile.h"
#include "app/ui/fields.h"
#include "app/window/inspector.h"

namespace fexel {
namespace {

class QuarterPage : public InspectorPage {
 public:
  explicit QuarterPage(Document& document) : InspectorPage(document, "quarter", tr("Quarter turn")) {
    show_switch();
    column()->addWidget(fields::section(tr("Turn")));
    turns_ = new fields::Segments(tr("Turn"), {tr("90° left"), tr("180°"), tr("90° right")});
    connect(turns_, &fields::Segments::chosen, this,
            [this](int index) { change(tr("quarter turn"), QuarterStep{index + 1}); });
    column()->addWidget(turns_);
    add_check();
  }
  void refresh() override {
    InspectorPage::refresh();
    const auto* quarter = step<QuarterStep>();
    if (!quarter) return;
    const int turns = ((quarter->turns % 4) + 4) % 4;
    if (turns > 0) turns_->show_current(turns - 1);
    check(tr("%1: pixels are moved bit for bit, none is computed. The picture is now %2 × %3 px.")
              .arg(turns == 0   ? tr("No turn")
                   : turns == 2 ? tr("A half turn, not a mirror image")
                   : turns == 1 ? tr("A quarter turn counter-clockwise")
                                : tr("A quarter turn clockwise"))
              .arg(made().size.width)
              .arg(made().size.height));
  }

 private:
  fields::Segments* turns_;
};

}  // namespace

InspectorPage* make_quarter_page(Document& document) {
  return new QuarterPage(document);
}

}  // namespace fexel

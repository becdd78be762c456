#include "app/fields.h"
#include "app/inspector.h"
#include "app/text.h"
#include "app/tile.h"
#include "chain/chain.h"

namespace fexel {
namespace {

/// A step that is written in the chain file and has no fields of its own here: its text, what it made, and the switch.
class PlainPage : public InspectorPage {
 public:
  PlainPage(Document& document, const std::string& word)
      : InspectorPage(document, text_of(word), step_title(word)), word_(word) {
    show_switch();
    column()->addWidget(fields::section(tr("As the chain file says")));
    text_ = fields::sentence(tr("The step's text"));
    text_->setTextInteractionFlags(Qt::TextSelectableByMouse | Qt::TextSelectableByKeyboard);
    column()->addWidget(text_);
    add_problem();
    add_check();
  }
  void refresh() override {
    InspectorPage::refresh();
    const int index = document().selected_step();
    if (index < 0) return;
    const Step& step = document().chain().steps[static_cast<std::size_t>(index)];
    if (word_of(step.kind) != word_) return;
    QString text = text_of(write_one_step(step));
    fields::say(text_, text.replace(",", ", ").replace(":", ": "));
    if (show_problem()) return;
    const Station& out = made();
    const Size before = input_of_step(document().layout(), index).size;
    check(tr("The picture of %1 × %2 px became one of %3 × %4 px. %5 Its values are changed in the chain file.")
              .arg(before.width)
              .arg(before.height)
              .arg(out.size.width)
              .arg(out.size.height)
              .arg(out.exact                    ? tr("Pixels are moved bit for bit.")
                   : out.run_start == index + 1 ? tr("Its pixels are worked out from all pixels before it.")
                                                : tr("Pixels are resampled, with all geometry of the chain, once.")));
  }

 private:
  std::string word_;
  QLabel* text_;
};

}  // namespace

InspectorPage* make_plain_page(Document& document, const std::string& word) {
  return new PlainPage(document, word);
}

}  // namespace fexel

/// Bands: grey, or some in another order.
#include <QLineEdit>

#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class BandsPage : public StepPage<BandsStep> {
 public:
  explicit BandsPage(Document& document) : StepPage(document) {
    head(tr("What comes out"));
    segments(
        tr("What comes out"), {tr("grey"), tr("bands in order")},
        [](const BandsStep& s) { return s.take.empty() ? 0 : 1; },
        [this](BandsStep& s, int i) {
          s = {};
          if (i == 1)
            for (int band = 1; band <= input().bands; ++band) s.take.push_back(band);
        });
    list_ = new QLineEdit;
    list_->setAccessibleName(tr("Bands in order"));
    row(tr("bands"), list_);
    connect(list_, &QLineEdit::editingFinished, this, [this] {
      QString wrong;
      const auto numbers = fields::whole_numbers_in(list_->text(), wrong);
      fields::say(wrong_, numbers ? QString() : no_number(wrong), true);
      if (numbers)
        take([&](BandsStep& s) {
          s.take.clear();
          for (const int v : *numbers) s.take.push_back(std::clamp(v, 1, 1'000'000));
          if (s.take.empty()) s.take = {1};
        });
    });
    weights_ = new QLineEdit;
    weights_->setAccessibleName(tr("Weights of the bands"));
    weights_->setPlaceholderText(tr("as the eye sees, or equal"));
    row(tr("weights"), weights_);
    connect(weights_, &QLineEdit::editingFinished, this, [this] {
      if (const auto numbers = read(weights_->text())) take([&](BandsStep& s) { s.weights = *numbers; });
    });
    wrong_ = fields::sentence(tr("What is wrong with the numbers"));
    wrong_->hide();
    column()->addWidget(wrong_);
    finish();
    show_with([this](const BandsStep& s) {
      fields::say(wrong_, {});
      show_row(list_, !s.take.empty());
      show_row(weights_, s.take.empty());
      QStringList words;
      for (const int band : s.take) words << QString::number(band);
      if (!list_->hasFocus()) list_->setText(words.join(", "));
      words.clear();
      for (const double w : s.weights) words << plain(w, 6);
      if (!weights_->hasFocus()) weights_->setText(words.join(between_numbers()));
    });
  }

 private:
  std::optional<std::vector<double>> read(const QString& text) {
    QString wrong;
    auto numbers = fields::numbers_in(text, wrong);
    fields::say(wrong_, numbers ? QString() : no_number(wrong), true);
    return numbers;
  }
  QString says(const BandsStep& s, const StepInput& input, const Station& made) override {
    if (!s.take.empty()) return tr("%1 of %2 bands, in this order, as they are.").arg(made.bands).arg(input.bands);
    return s.weights.empty() && input.bands == 3
               ? tr("One band: 0.2126 red, 0.7152 green, 0.0722 blue, as the eye weighs them (BT.709).")
               : tr("One band, from all %1 with their weights.").arg(input.bands);
  }
  QLineEdit *list_, *weights_;
  QLabel* wrong_;
};

class BandsUi : public StepUiOf<BandsStep> {
 public:
  BandsUi()
      : StepUiOf({QObject::tr("Bands"), QObject::tr("grey, or some bands in another order"),
                  QObject::tr("channels colour color red green blue grey gray")}) {}
  InspectorPage* page(Document& document) const override { return new BandsPage(document); }
  QString summary_of(const BandsStep& step) const override {
    if (step.take.empty()) return QObject::tr("grey");
    QStringList numbers;
    for (const int number : step.take) numbers << QString::number(number);
    return QObject::tr("band %1").arg(numbers.join(", "));
  }
};

}  // namespace

const StepUi& bands_ui() {
  return made_in_language<BandsUi>();
}

}  // namespace fexel

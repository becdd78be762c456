/// The background of a sequence, taken off.
#include <QFileInfo>

#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class BackgroundPage : public StepPage<BackgroundStep> {
 public:
  explicit BackgroundPage(Document& document) : StepPage(document) {
    head(tr("Background"));
    kind_ = new QComboBox;
    kind_->setAccessibleName(tr("Statistic"));
    kind_->addItems({tr("the median"), tr("the mean"), tr("the minimum")});
    row(tr("of the frames"), kind_);
    auto* make = new QPushButton(tr("Work it out from the frames…"));
    make->setAccessibleName(make->text());
    make->setToolTip(tr("Of all frames that are not left out, as they are before this step; kept as a picture"));
    column()->addWidget(make);
    connect(make, &QPushButton::clicked, this, [this] {
      constexpr MotionBackground kinds[] = {MotionBackground::median, MotionBackground::mean,
                                            MotionBackground::minimum};
      Q_EMIT asked(BackgroundFileRequest{kinds[std::max(0, kind_->currentIndex())], {}});
    });
    auto* choose = new QPushButton(tr("Choose a picture…"));
    choose->setAccessibleName(choose->text());
    column()->addWidget(choose);
    connect(choose, &QPushButton::clicked, this, [this] {
      Q_EMIT asked(BackgroundFileRequest{MotionBackground::none, {}});
    });
    file_ = fields::sentence(tr("The background's file"));
    column()->addWidget(file_);
    keep_ = new QCheckBox(tr("keep its level"));
    keep_->setAccessibleName(keep_->text());
    keep_->setToolTip(tr("Puts the background's mean back, so that dark samples do not end at 0"));
    column()->addWidget(keep_);
    connect(keep_, &QCheckBox::clicked, this, [this](bool on) { take([&](BackgroundStep& s) { s.keep_level = on; }); });
    show_with([this](const BackgroundStep& s) {
      fields::say(file_, s.file.empty() ? tr("No background yet: the picture stays as it is.")
                                        : QFileInfo(QString::fromStdString(s.file)).fileName());
      keep_->setChecked(s.keep_level);
    });
    finish();
  }

 private:
  QString says(const BackgroundStep& s, const StepInput& input, const Station&) override {
    if (s.file.empty()) return tr("Nothing is taken off.");
    if (input.depth == Depth::f32 || s.keep_level)
      return tr("What the background shows is taken off, sample by sample; what moves stays.");
    return tr("What the background shows is taken off; what is darker than it ends at 0.");
  }
  QComboBox* kind_;
  QLabel* file_;
  QCheckBox* keep_;
};

class BackgroundUi : public StepUiOf<BackgroundStep> {
 public:
  BackgroundUi()
      : StepUiOf({QObject::tr("Background"), QObject::tr("take off what stands still in all frames"),
                  QObject::tr("subtract still sequence fixed pattern")}) {}
  InspectorPage* page(Document& document) const override { return new BackgroundPage(document); }
  QString summary_of(const BackgroundStep& step) const override {
    return step.file.empty() ? QObject::tr("none yet") : QFileInfo(QString::fromStdString(step.file)).fileName();
  }
};

}  // namespace

const StepUi& background_ui() {
  return made_in_language<BackgroundUi>();
}

}  // namespace fexel

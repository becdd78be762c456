#include <QComboBox>
#include <QFileInfo>

#include "app/fields.h"
#include "app/inspector.h"
#include "app/masks_panel.h"
#include "app/text.h"
#include "app/tile.h"

namespace fexel {
namespace {

class SourcePage : public InspectorPage {
 public:
  explicit SourcePage(Document& document) : InspectorPage(document, "source", tr("Source")) {
    column()->addWidget(fields::section(tr("As it was read")));
    facts_ = fields::sentence(tr("What the file says"));
    column()->addWidget(facts_);
    time_ = new QWidget;
    auto* row = new QHBoxLayout(time_);
    row->setContentsMargins(0, 0, 0, 0);
    step_ = new fields::Number(tr("Time between frames"), 0, 1e9, 6);
    step_->setSpecialValueText(tr("not known"));
    unit_ = new QComboBox;
    unit_->setAccessibleName(tr("Unit of time"));
    for (const std::string& unit : time_units()) unit_->addItem(text_of(unit));
    unit_->setCurrentText(QStringLiteral("s"));
    row->addWidget(fields::label_for(tr("between frames"), step_));
    row->addWidget(step_, 1);
    row->addWidget(unit_);
    column()->addWidget(time_);
    connect(step_, &QDoubleSpinBox::valueChanged, this, [this] { take_time(); });
    connect(unit_, &QComboBox::activated, this, [this] { take_time(); });
    masks_ = new MasksPanel(document);
    column()->addWidget(masks_);
    connect(masks_, &MasksPanel::line_wanted, this, &InspectorPage::line_wanted);
    connect(masks_, &MasksPanel::corners_wanted, this, &InspectorPage::corners_wanted);
    add_check();
  }
  void refresh() override {
    const OpenSource* source = document().source();
    const bool sequence = source && source->frames.size() > 1;
    time_->setVisible(sequence);
    const auto& step = document().chain().time_step;
    step_->show_value(step ? step->value : 0);
    if (step) unit_->setCurrentText(text_of(step->unit));
    // Nothing is matched in a single picture.
    masks_->setVisible(source && (sequence || !document().chain().masks.empty()));
    masks_->refresh();
    if (!source) {
      fields::say(facts_, tr("No picture is open. Open one with Ctrl+O, or drop it on the window."));
      check({});
      return;
    }
    const FileInfo& info = source->info;
    const QString depth = info.depth == Depth::u8    ? tr("8-bit")
                          : info.depth == Depth::u16 ? tr("16-bit")
                                                     : tr("floating point");
    const QString bands = info.bands == 1   ? tr("grey")
                          : info.bands == 3 ? tr("three bands")
                                            : tr("%1 bands").arg(info.bands);
    // A calibration in the chain comes before what the file says.
    const Station& first = document().layout().stations[0];
    const QString scale = first.pixel
                              ? tr("%1, %2").arg(pixel_text(*first.pixel), extent_text(first.size, *first.pixel))
                              : tr("pixel size not known");
    fields::say(facts_, tr("%1\n%2 × %3 px, %4, %5\n%6")
                            .arg(QFileInfo(source->path).fileName())
                            .arg(info.width)
                            .arg(info.height)
                            .arg(depth, bands, scale));
    QStringList notes;
    if (!info.pixel_size) notes << tr("The file does not say how large a pixel is, so lengths here are in pixels.");
    if (info.orientation != 1)
      notes << tr("The file carries orientation tag %1; it was applied once, so the picture stands upright here.")
                   .arg(info.orientation);
    if (source->pixels->base().has_mask())
      notes << (info.alpha ? tr("An alpha band says which pixels are empty; what lies under it is not used.")
                           : tr("Pixels that hold no number (NaN) are empty."));
    if (!info.profile.empty()) notes << tr("It carries a colour profile, which goes on to the result.");
    if (info.frames > 1) notes << tr("The file has %1 pages.").arg(info.frames);
    if (info.depth == Depth::f32) notes << tr("Values from 0 to 1 are shown from black to white.");
    notes << tr("The file is only ever read.");
    check(notes.join(" "));
  }

 private:
  void take_time() {
    Chain chain = document().chain();
    chain.time_step.reset();
    if (step_->value() > 0) chain.time_step = TimeStep{step_->value(), unit_->currentText().toStdString()};
    if (!(chain == document().chain())) document().edit_chain(tr("time between frames"), chain);
  }

  QWidget* time_;
  fields::Number* step_;
  QComboBox* unit_;
  QLabel* facts_;
  MasksPanel* masks_;
};

}  // namespace

InspectorPage* make_source_page(Document& document) {
  return new SourcePage(document);
}

}  // namespace fexel

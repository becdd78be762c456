#include <QDate>
#include <QFileInfo>

#include "app/pipeline/tile.h"
#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/window/calibration_panel.h"
#include "app/window/grid_panel.h"
#include "app/window/inspector.h"
#include "app/window/masks_panel.h"
#include "quality/uncertainty.h"

namespace fexel {
namespace {

/// A small share, as "0.05 %".
QString share_text(double share) {
  return number_shown(short_number(100 * share, 2)) + QStringLiteral(" %");
}

class SourcePage : public InspectorPage {
 public:
  explicit SourcePage(Document& document) : InspectorPage(document, "source", tr("Source")) {
    column()->addWidget(fields::section(tr("As it was read")));
    facts_ = fields::sentence(tr("What the file says"));
    column()->addWidget(facts_);
    alpha_ = new QCheckBox(tr("Use alpha as a band"));
    alpha_->setAccessibleName(alpha_->text());
    alpha_->setToolTip(tr("Its numbers become the last band; without it, alpha says which pixels are empty"));
    column()->addWidget(alpha_);
    connect(alpha_, &QCheckBox::clicked, this, [this](bool on) { Q_EMIT asked(AlphaRequest{on}); });
    add_size();
    calibration_ = new CalibrationPanel(document);
    column()->addWidget(calibration_);
    connect(calibration_, &CalibrationPanel::asked, this, &InspectorPage::asked);
    grid_ = new GridPanel(document);
    column()->addWidget(grid_);
    time_ = new QWidget;
    auto* row = new QHBoxLayout(time_);
    row->setContentsMargins(0, 0, 0, 0);
    step_ = new fields::Number(tr("Time between frames"), 0, 1e9, 6);
    step_->setSpecialValueText(tr("not known"));
    unit_ = fields::units(tr("Unit of time"), time_units());
    unit_->setCurrentText(QStringLiteral("s"));
    row->addWidget(fields::label_for(tr("between frames"), step_));
    row->addWidget(step_, 1);
    row->addWidget(unit_);
    column()->addWidget(time_);
    connect(step_, &QDoubleSpinBox::valueChanged, this, [this] { take_time(); });
    connect(unit_, &QComboBox::activated, this, [this] { take_time(); });
    pairs_row_ = new QWidget;
    auto* of_pairs = new QHBoxLayout(pairs_row_);
    of_pairs->setContentsMargins(0, 0, 0, 0);
    pairs_ = new QComboBox;
    pairs_->setAccessibleName(tr("Pairs of frames"));
    pairs_->addItems({tr("as their names say (a, b)"), tr("by order: 1 and 2, 3 and 4"), tr("none")});
    of_pairs->addWidget(fields::label_for(tr("pairs"), pairs_));
    of_pairs->addWidget(pairs_, 1);
    column()->addWidget(pairs_row_);
    connect(pairs_, &QComboBox::activated, this, [this](int row) {
      Chain chain = this->document().chain();
      chain.pairing = static_cast<Pairing>(row);
      if (!(chain == this->document().chain())) this->document().edit_chain(tr("pairs of frames"), chain);
    });
    masks_ = new MasksPanel(document);
    column()->addWidget(masks_);
    connect(masks_, &MasksPanel::asked, this, &InspectorPage::asked);
    add_check();
  }
  void refresh() override {
    const OpenSource* source = document().source();
    size_->setVisible(source != nullptr);
    alpha_->setVisible(source && (source->info.alpha || source->alpha_band));
    alpha_->setChecked(source && source->alpha_band);
    calibration_->setVisible(source != nullptr);
    calibration_->refresh();
    grid_->setVisible(source != nullptr);
    grid_->refresh();
    if (source) show_size(source->info.pixel_size);
    const bool sequence = source && source->frames.size() > 1;
    time_->setVisible(sequence);
    pairs_row_->setVisible(sequence);
    pairs_->setCurrentIndex(static_cast<int>(document().chain().pairing));
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
    QString depth = info.depth == Depth::u8    ? tr("8-bit")
                    : info.depth == Depth::u16 ? tr("16-bit")
                                               : tr("floating point");
    if (info.largest > 0) depth = tr("%1 to %2").arg(depth).arg(info.largest);
    const QString bands = info.bands == 1   ? tr("grey")
                          : info.bands == 3 ? tr("three bands")
                                            : tr("%1 bands").arg(info.bands);
    fields::say(facts_, tr("%1\n%2 × %3 px, %4, %5")
                            .arg(QFileInfo(source->path).fileName())
                            .arg(info.width)
                            .arg(info.height)
                            .arg(depth, bands));
    QStringList notes;
    if (!document().layout().stations[0].pixel)
      notes << tr("The file does not say how large a pixel is, so lengths here are in pixels.");
    if (info.orientation != 1)
      notes << tr("The file carries orientation tag %1; it was applied once, so the picture stands upright here.")
                   .arg(info.orientation);
    if (source->pixels->base().has_mask())
      notes << (info.alpha ? tr("An alpha band says which pixels are empty; what lies under it is not used.")
                           : tr("Pixels that hold no number (NaN) are empty."));
    for (const std::string& reading : info.readings) notes << text_of(reading);
    if (const auto partly = source->pixels->base().partly_there(); partly > 0)
      notes << tr("%1 of its pixels are partly transparent: those of at least half are taken as whole, the others as "
                  "empty.")
                   .arg(partly);
    if (!info.converted.empty())
      notes << tr("Its colours are stored as %1; they are read as sRGB.").arg(text_of(info.converted));
    if (!info.profile.empty()) notes << tr("It carries a colour profile, which goes on to the result.");
    if (info.frames > 1) notes << tr("The file has %1 pages.").arg(info.frames);
    if (info.depth == Depth::f32)
      notes << tr("Black and white are the least and the largest value of the data (Range, above the pictures).");
    notes << tr("The file is only ever read.");
    check(notes.join(" "));
  }

 private:
  void add_size() {
    size_ = new QWidget;
    auto* rows = new QVBoxLayout(size_);
    rows->setContentsMargins(0, 0, 0, 0);
    rows->addWidget(fields::section(tr("Pixel size")));
    auto* row = new QHBoxLayout;
    wide_ = new fields::Number(tr("Pixel width"), 0, 1e9, 9);
    high_ = new fields::Number(tr("Pixel height"), 0, 1e9, 9);
    for (fields::Number* number : {wide_, high_}) number->setSpecialValueText(tr("not known"));
    size_unit_ = fields::units(tr("Unit of the pixel size"), length_units());
    size_unit_->setCurrentText(QStringLiteral("mm"));
    row->addWidget(wide_, 1);
    row->addWidget(new QLabel(QStringLiteral("×")));
    row->addWidget(high_, 1);
    row->addWidget(size_unit_);
    rows->addLayout(row);
    size_said_ = fields::sentence(tr("Where the pixel size is from"));
    rows->addWidget(size_said_);
    auto* words = new QHBoxLayout;
    from_lengths_ = new QPushButton(tr("From the lengths"));
    from_lengths_->setAccessibleName(from_lengths_->text());
    as_read_ = new QPushButton(tr("As the file says"));
    as_read_->setAccessibleName(as_read_->text());
    words->addWidget(from_lengths_);
    words->addWidget(as_read_);
    rows->addLayout(words);
    as_density_ = new QPushButton;
    as_density_->setAccessibleName(tr("Use the density as scale"));
    rows->addWidget(as_density_);
    connect(as_density_, &QPushButton::clicked, this, [this] {
      const OpenSource* source = document().source();
      if (!source || !source->info.density) return;
      Calibration made;
      made.name = tr("the file's density").toStdString();
      made.pixel = *source->info.density;
      made.made = QDate::currentDate().toString(Qt::ISODate).toStdString();
      calibrate(tr("density as scale"), made);
    });
    column()->addWidget(size_);
    connect(wide_, &QDoubleSpinBox::valueChanged, this, [this](double v) {
      // Pixels that are square stay so; the others keep what was typed of them.
      const auto& before = document().layout().stations[0].pixel;
      take_size(v, !before || before->square() ? v : before->y);
    });
    connect(high_, &QDoubleSpinBox::valueChanged, this, [this](double v) {
      const auto& before = document().layout().stations[0].pixel;
      take_size(before ? before->x : v, v);
    });
    connect(size_unit_, &QComboBox::activated, this, [this] { take_unit(size_unit_->currentText().toStdString()); });
    connect(from_lengths_, &QPushButton::clicked, this, [this] {
      const auto scaled = scale_from_lengths(document().chain(), document().layout());
      if (!scaled) return;
      Calibration made;
      made.name = (scaled->count == 1 ? tr("from a length") : tr("from %1 lengths").arg(scaled->count)).toStdString();
      made.pixel = scaled->pixel;
      made.uncertainty = scaled->scale.uncertainty;
      made.made = QDate::currentDate().toString(Qt::ISODate).toStdString();
      calibrate(tr("pixel size from lengths"), made);
    });
    connect(as_read_, &QPushButton::clicked, this, [this] { calibrate(tr("pixel size as read"), std::nullopt); });
  }
  void show_size(const std::optional<PixelSize>& in_file) {
    const Chain& chain = document().chain();
    const Station& first = document().layout().stations[0];
    const auto& now = first.pixel;
    // To a digit beyond its uncertainty; without one to six.
    const double sigma = chain.calibration ? chain.calibration->uncertainty : 0;
    const int digits =
        now && sigma > 0 ? std::clamp(static_cast<int>(std::ceil(std::log10(now->x / sigma))) + 1, 2, 6) : 6;
    wide_->show_value(now ? rounded_to(now->x, digits) : 0);
    high_->show_value(now ? rounded_to(now->y, digits) : 0);
    if (now) size_unit_->setCurrentText(text_of(now->unit));
    const auto& density = document().source()->info.density;
    as_density_->setVisible(density.has_value());
    if (density) {
      as_density_->setText(tr("%1 dpi: use as scale").arg(number_shown(short_number(25.4 / density->x, 4))));
      as_density_->setToolTip(
          tr("The file says how it is to be printed. Take it as a scale only where a scanner wrote it."));
    }
    as_read_->setText(in_file ? tr("As the file says") : tr("Forget"));
    as_read_->setEnabled(chain.calibration.has_value());
    // Behind a rectify step measurements check it; what they are long in the source says nothing then.
    const bool rectified = std::ranges::any_of(
        chain.steps, [](const Step& s) { return s.on && std::holds_alternative<RectifyStep>(s.kind); });
    const auto scaled = rectified ? std::nullopt : scale_from_lengths(chain, document().layout());
    from_lengths_->setEnabled(scaled.has_value());
    QStringList said;
    if (chain.calibration) {
      const Calibration& c = *chain.calibration;
      said << (c.name.empty() ? tr("Set here.") : tr("Set here, %1.").arg(text_of(c.name)));
      if (c.uncertainty > 0) said << tr("Standard uncertainty %1.").arg(share_text(c.uncertainty / c.pixel.x));
      if (in_file) said << tr("The file says %1.").arg(pixel_text(*in_file));
    } else if (in_file) {
      said << tr("The file says so.");
    } else if (!scaled) {
      said << tr(
          "Type it; or press G, drag along a known length, type what it should be into the table, "
          "and take the size from there.");
    }
    if (now) said << tr("The picture is %1.").arg(extent_text(first.size, *now));
    if (scaled && !(chain.calibration && chain.calibration->pixel == scaled->pixel))
      said << tr("The lengths say %1, with a standard uncertainty of %2.")
                  .arg(pixel_text(scaled->pixel), share_text(scaled->scale.uncertainty / scaled->pixel.x));
    const bool apart = scaled && !scaled->scale.agree;
    if (apart)
      said << tr("Lengths are up to %1 off it: the picture is not seen straight on, or one of them is off. "
                 "Rectify it, or take that one away.")
                  .arg(share_text(scaled->scale.worst));
    fields::say(size_said_, said.join(" "), apart);
  }
  void take_size(double wide, double high) {
    if (!(wide > 0 && high > 0)) return calibrate(tr("pixel size"), std::nullopt);
    Calibration typed;
    typed.pixel = {wide, high, size_unit_->currentText().toStdString()};
    calibrate(tr("pixel size"), typed);
  }
  /// What was typed is meant in the unit that is chosen then; what was read or measured is the same size in any.
  void take_unit(const std::string& unit) {
    const auto& before = document().layout().stations[0].pixel;
    const auto& set = document().chain().calibration;
    if (!before || before->unit == unit) return;
    Calibration changed = set.value_or(Calibration{});
    const bool typed = set && set->name.empty();
    changed.uncertainty *= typed ? 1 : metres_per(before->unit) / metres_per(unit);
    changed.pixel = typed ? PixelSize{before->x, before->y, unit} : in_unit(*before, unit);
    if (!set) changed.name = tr("as the file says").toStdString();
    calibrate(tr("unit of the pixel size"), changed);
  }
  void calibrate(const QString& text, const std::optional<Calibration>& calibration) {
    Chain chain = document().chain();
    chain.calibration = calibration;
    if (!(chain == document().chain())) document().edit_chain(text, chain);
  }
  void take_time() {
    Chain chain = document().chain();
    chain.time_step.reset();
    if (step_->value() > 0) chain.time_step = TimeStep{step_->value(), unit_->currentText().toStdString()};
    if (!(chain == document().chain())) document().edit_chain(tr("time between frames"), chain);
  }

  QWidget *size_, *time_, *pairs_row_;
  QComboBox* pairs_;
  fields::Number *wide_, *high_;
  QComboBox* size_unit_;
  QLabel* size_said_;
  QPushButton *from_lengths_, *as_read_, *as_density_;
  fields::Number* step_;
  QComboBox* unit_;
  QLabel* facts_;
  QCheckBox* alpha_;
  MasksPanel* masks_;
  CalibrationPanel* calibration_;
  GridPanel* grid_;
};

}  // namespace

InspectorPage* make_source_page(Document& document) {
  return new SourcePage(document);
}

}  // namespace fexel

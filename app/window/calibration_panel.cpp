#include "app/window/calibration_panel.h"

#include <QDate>

#include "app/ui/language.h"
#include "app/ui/text.h"
#include "calibrate/ruled_target.h"
#include "chain/calibrations.h"

namespace fexel {
namespace {

/// The lines about a line that was drawn by hand: in boxes from wide to narrow, about it and to either side of it, for
/// beside ticks there are numbers and edges. What the widest says where none has any.
RuledTarget lines_beside(const Image& image, Point from, Point to, const Job& job) {
  std::optional<Error> why;
  const bool level = std::abs(to.x - from.x) >= std::abs(to.y - from.y);
  for (const double about : {0.06, 0.03, 0.015})
    for (const double shift : {0.0, -1.0, 1.0}) {
      const double beside = std::max(8.0, about * distance(from, to)), aside = shift * beside;
      const double left = std::min(from.x, to.x) - beside + (level ? 0 : aside),
                   top = std::min(from.y, to.y) - beside + (level ? aside : 0);
      const Region box{std::max(0, static_cast<int>(left)), std::max(0, static_cast<int>(top)),
                       static_cast<int>(std::abs(to.x - from.x) + 2 * beside),
                       static_cast<int>(std::abs(to.y - from.y) + 2 * beside)};
      try {
        return find_ruled_target(image, box, job);
      } catch (const Error& error) {
        if (error.kind() == Error::Kind::cancelled) throw;
        if (!why) why = error;
      }
    }
  throw *why;
}

}  // namespace

CalibrationPanel::CalibrationPanel(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->addWidget(fields::section(tr("From a ruler")));
  auto* row = new QHBoxLayout;
  spacing_ = new fields::Number(tr("From line to line"), 1e-9, 1e9, 9);
  spacing_->show_value(1);
  unit_ = fields::units(tr("Unit of the spacing"), length_units());
  unit_->setCurrentText(QStringLiteral("mm"));
  row->addWidget(fields::label_for(tr("line to line"), spacing_));
  row->addWidget(spacing_, 1);
  row->addWidget(unit_);
  column->addLayout(row);
  find_ = new QPushButton(tr("Find its lines…"));
  find_->setAccessibleName(find_->text());
  find_->setToolTip(tr("Drag along a ruler, across its lines: all of them are found and give the pixel size"));
  column->addWidget(find_);
  found_ = fields::sentence(tr("What the lines say"));
  found_->hide();
  column->addWidget(found_);
  connect(find_, &QPushButton::clicked, this, [this] {
    Q_EMIT asked(
        LineRequest{tr("Drag along the ruler, across its lines, from the first to the last. Escape leaves it."),
                    [this](Point from, Point to) { find_lines(from, to); }});
  });

  column->addWidget(fields::section(tr("Library of pixel sizes")));
  proposed_ = new QPushButton;
  proposed_->setAccessibleName(tr("Use the proposed calibration"));
  proposed_->setToolTip(tr("The file says no pixel size, and this one was made for pictures of this size"));
  proposed_->hide();
  column->addWidget(proposed_);
  connect(proposed_, &QPushButton::clicked, this, [this] {
    library_->setCurrentText(proposed_->property("name").toString());
    take_over();
  });
  auto* of_library = new QHBoxLayout;
  library_ = new QComboBox;
  library_->setAccessibleName(tr("Calibrations in the library"));
  take_ = new QPushButton(tr("Use"));
  take_->setAccessibleName(tr("Use the calibration of the library"));
  of_library->addWidget(library_, 1);
  of_library->addWidget(take_);
  column->addLayout(of_library);
  auto* of_name = new QHBoxLayout;
  name_ = new QLineEdit;
  name_->setAccessibleName(tr("Name in the library"));
  name_->setPlaceholderText(tr("name, such as the lens"));
  keep_ = new QPushButton(tr("Keep"));
  keep_->setAccessibleName(tr("Keep this pixel size in the library"));
  of_name->addWidget(name_, 1);
  of_name->addWidget(keep_);
  column->addLayout(of_name);
  said_ = fields::sentence(tr("What the library says"));
  said_->hide();
  column->addWidget(said_);
  unfit_ = fields::sentence(tr("Whether the calibration fits"));
  unfit_->hide();
  column->addWidget(unfit_);
  connect(take_, &QPushButton::clicked, this, [this] { take_over(); });
  connect(keep_, &QPushButton::clicked, this, [this] { keep(); });
  connect(name_, &QLineEdit::returnPressed, this, [this] {
    if (keep_->isEnabled()) keep();
  });
  connect(name_, &QLineEdit::textChanged, this, [this] { refresh(); });
  show_library();
}

void CalibrationPanel::refresh() {
  const OpenSource* source = document_.source();
  const auto& calibration = document_.chain().calibration;
  find_->setEnabled(source && !search_.running());
  take_->setEnabled(source && library_->count() > 0);
  keep_->setEnabled(source && document_.layout().stations[0].pixel && !name_->text().trimmed().isEmpty());
  // What was found is said for as long as it holds.
  if (of_lines_ && (!calibration || !(*calibration == *of_lines_))) {
    of_lines_.reset();
    found_->hide();
  }
  // One of this size is proposed where there is no scale; it is never taken by itself.
  const auto fitting = std::ranges::find_if(sizes_, [&](const auto& one) {
    return source && one.second == Size{source->info.width, source->info.height};
  });
  const bool propose = source && !document_.layout().stations[0].pixel && fitting != sizes_.end();
  proposed_->setVisible(propose);
  if (propose) {
    proposed_->setText(tr("Use “%1”, made for this size").arg(fitting->first));
    proposed_->setAccessibleName(tr("Use the proposed calibration"));
    proposed_->setProperty("name", fitting->first);
  }
  const auto unfit =
      source && calibration ? unfit_for(*calibration, {source->info.width, source->info.height}) : std::nullopt;
  unfit_->setVisible(unfit.has_value());
  if (unfit) fields::say(unfit_, text_of(*unfit), true);
}

void CalibrationPanel::set(const QString& text, const Calibration& calibration) {
  Chain chain = document_.chain();
  chain.calibration = calibration;
  if (!(chain == document_.chain())) document_.edit_chain(text, chain);
}

/// Looks for the lines beside the window.
void CalibrationPanel::find_lines(Point from, Point to) {
  const OpenSource* source = document_.source();
  if (!source || search_.running()) return;
  find_->setEnabled(false);
  search_.start(
      tr("Looking for the lines"),
      [this, from, to, pixels = source->pixels, size = Size{source->info.width, source->info.height},
       tall = document_.layout().stations[0].pixel
                  ? document_.layout().stations[0].pixel->y / document_.layout().stations[0].pixel->x
                  : 1.0,
       spacing = spacing_->value(), unit = unit_->currentText().toStdString()](const Job& job) -> Background::Finish {
        const RuledTarget found = lines_beside(pixels->base(), from, to, job);
        return [this, found, size, spacing, unit, tall, pixels] {
          find_->setEnabled(true);
          // Another picture may have been opened since.
          if (!document_.source() || document_.source()->pixels != pixels) return;
          Calibration made;
          made.name = tr("from %1 lines of a ruler").arg(found.lines.size()).toStdString();
          const double wide = pixel_width(found, spacing, tall);
          made.pixel = {wide, tall * wide, unit};
          made.uncertainty = made.pixel.x * found.uncertainty / found.pitch;
          made.made = QDate::currentDate().toString(Qt::ISODate).toStdString();
          made.size = size;
          made.method = "ruled target, " + std::to_string(found.lines.size()) + " lines";
          of_lines_ = made;
          set(tr("pixel size from a ruler"), made);
          QString text = tr("%1 lines, %2 px apart, at %3°; they lie within %4 px (RMS) of even spacing.")
                             .arg(found.lines.size())
                             .arg(number_shown(number_text(found.pitch, decimals_for(found.uncertainty))),
                                  number_shown(number_text(found.angle, 2)), number_shown(short_number(found.rms, 2)));
          if (found.missing > 0) text += tr(" %1 between them are hidden.").arg(found.missing);
          const bool stretched = std::abs(found.stretch) > 3 * found.stretch_sigma && std::abs(found.stretch) > 5e-4;
          if (stretched)
            text += tr(" Their spacing changes by %1 % along the ruler: it was tilted, or the lens bends. Rectify the "
                       "picture to measure on it.")
                        .arg(number_shown(short_number(100 * found.stretch, 2)));
          fields::say(found_, text, stretched);
          found_->show();
          refresh();
        };
      },
      [this](const Error& error) {
        find_->setEnabled(true);
        fields::say(found_, text_of(error.message() + " Drag along its lines only, across five of them or more."),
                    true);
        found_->show();
      });
}

void CalibrationPanel::show_library() {
  const QString before = library_->currentText();
  library_->clear();
  sizes_.clear();
  for (const LibraryEntry& entry : calibrations_in_library())
    if (entry.calibration) {
      library_->addItem(text_of(entry.name));
      if (entry.calibration->size) sizes_.emplace_back(text_of(entry.name), *entry.calibration->size);
    }
  library_->setEnabled(library_->count() > 0);
  if (library_->count() == 0) library_->setPlaceholderText(tr("empty"));
  library_->setCurrentIndex(std::max(0, library_->findText(before)));
}

void CalibrationPanel::take_over() {
  try {
    const Calibration taken = calibration_named(library_->currentText().toStdString());
    said_->hide();
    set(tr("pixel size from the library"), taken);
  } catch (const Error& error) {
    fields::say(said_, text_of(error.message() + " " + error.remedy()), true);
    said_->show();
    show_library();
  }
  refresh();
}

/// The pixel size as it is now, by name; one of the same name is replaced only when that is asked for again.
void CalibrationPanel::keep() {
  const OpenSource* source = document_.source();
  const auto& pixel = document_.layout().stations[0].pixel;
  if (!source || !pixel) return;
  const std::string name = name_->text().trimmed().toStdString();
  Calibration kept = document_.chain().calibration.value_or(Calibration{});
  kept.pixel = *pixel;
  kept.name = name;
  kept.size = Size{source->info.width, source->info.height};
  if (kept.made.empty()) kept.made = QDate::currentDate().toString(Qt::ISODate).toStdString();
  try {
    const auto file = calibration_file(name);
    std::error_code code;
    std::filesystem::create_directories(file.parent_path(), code);
    save_calibration(kept, file, false);
    fields::say(said_, tr("Kept as “%1”, for pictures of %2 × %3 px.")
                           .arg(text_of(name))
                           .arg(kept.size->width)
                           .arg(kept.size->height));
    show_library();
    library_->setCurrentIndex(library_->findText(text_of(name)));
    name_->clear();
  } catch (const Error& error) {
    fields::say(said_, text_of(error.message() + " " + error.remedy()), true);
  }
  said_->show();
}

}  // namespace fexel

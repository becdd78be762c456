#pragma once
/// Colours, type and pictograms of the window, in a light and a dark look that follows the desktop.
#include <QColor>
#include <QFont>
#include <QPixmap>
#include <optional>

class QApplication;

namespace fexel {

struct Theme {
  QColor paper, panel, field, ink, soft_ink, line, teal, teal_soft, a, b, brick, moss;
  QColor surround{0x77, 0x77, 0x77};
};
/// The look in use.
const Theme& theme();
/// Chooses light or dark, from the desktop's palette where nothing is said, and sets palette and style sheet.
void apply_theme(QApplication& app, std::optional<bool> dark = {});

/// The light look, for as long as this lives: what is drawn for paper.
class PaperLook {
 public:
  PaperLook();
  ~PaperLook();
  PaperLook(const PaperLook&) = delete;
  PaperLook& operator=(const PaperLook&) = delete;

 private:
  const Theme* before_;
};

QFont text_font(double points = 9, bool strong = false);
/// A pictogram ("crop", "source" ...) in the look's colours.
QPixmap pictogram(const QString& name, int side, double ratio);

}  // namespace fexel

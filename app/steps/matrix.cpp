/// A planar map by its nine numbers.
#include <QApplication>
#include <QClipboard>
#include <QRegularExpression>

#include <Eigen/LU>

#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

class MatrixPage : public StepPage<MatrixStep> {
 public:
  explicit MatrixPage(Document& document) : StepPage(document) {
    head(tr("Source to result, on (x, y, 1)"));
    auto* grid = new QGridLayout;
    grid->setSpacing(4);
    for (int i = 0; i < 9; ++i) {
      const int r = i / 3, c = i % 3;
      auto* field = new fields::Number(tr("Matrix row %1, column %2").arg(r + 1).arg(c + 1), -1e9, 1e9, 12);
      grid->addWidget(field, r, c);
      show_with([field, r, c](const MatrixStep& s) { field->show_value(s.matrix(r, c)); });
      connect(field, &QDoubleSpinBox::valueChanged, this,
              [this, r, c](double v) { take([&](MatrixStep& s) { s.matrix(r, c) = v; }); });
    }
    column()->addLayout(grid);
    button(tr("Paste nine numbers"), [this] { paste(with_plain_minus(QApplication::clipboard()->text())); });
    pasted_ = fields::sentence(tr("What was pasted"));
    pasted_->hide();
    column()->addWidget(pasted_);
    button(tr("Change nothing (identity)"), [this] { take([](MatrixStep& s) { s.matrix = Matrix3::Identity(); }); });
    head(tr("Output size"));
    frame_size();
    finish();
  }

 private:
  /// Rows of a table, a list of lists, or nine numbers in a row: whatever has nine numbers.
  void paste(const QString& text) {
    static const QRegularExpression number(R"([-+]?(\d+\.?\d*|\.\d+)([eE][-+]?\d+)?)");
    std::vector<double> found;
    for (auto it = number.globalMatch(text); it.hasNext();) found.push_back(it.next().captured().toDouble());
    if (found.size() != 9) {
      fields::say(pasted_, tr("The clipboard holds %1 numbers; a matrix has nine, in three rows.").arg(found.size()),
                  true);
      return;
    }
    fields::say(pasted_, {});
    take([&](MatrixStep& s) {
      for (int i = 0; i < 9; ++i) s.matrix(i / 3, i % 3) = found[static_cast<std::size_t>(i)];
    });
  }
  QString says(const MatrixStep& s, const StepInput& input, const Station& made) override {
    const Point middle = input.size.middle();
    const bool bent = s.matrix(2, 0) != 0 || s.matrix(2, 1) != 0;
    QStringList said{bent ? tr("A projective map: scale varies over the picture.")
                          : tr("An affine map: parallel lines stay parallel.")};
    if (const auto at = made.from_previous.forward(middle))
      said << tr("The middle goes from %1, %2 to %3, %4.")
                  .arg(plain(middle.x), plain(middle.y), plain(at->x), plain(at->y));
    if (const auto j = made.from_previous.jacobian(middle)) {
      const SingularValues scale = singular_values(*j);
      said << tr("There it enlarges %1 times one way and %2 times the other%3.")
                  .arg(plain(scale.large, 4), plain(scale.small, 4),
                       j->determinant() < 0 ? tr(", and mirrors") : QString());
    }
    said << how(made);
    return said.join(" ");
  }
  QLabel* pasted_;
};

class MatrixUi : public StepUiOf<MatrixStep> {
 public:
  MatrixUi()
      : StepUiOf({QObject::tr("Matrix"), QObject::tr("any planar map, by its nine numbers"),
                  QObject::tr("affine projective homography transform shear")}) {}
  InspectorPage* page(Document& document) const override { return new MatrixPage(document); }
  QString summary_of(const MatrixStep& step) const override {
    return step.matrix(2, 0) == 0 && step.matrix(2, 1) == 0 ? QObject::tr("affine") : QObject::tr("projective");
  }
};

}  // namespace

const StepUi& matrix_ui() {
  return made_in_language<MatrixUi>();
}

}  // namespace fexel

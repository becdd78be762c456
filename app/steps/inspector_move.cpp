/// Pages of steps that move a picture without bending it: mirror, turn, shift, matrix.
#include <QApplication>
#include <QClipboard>
#include <QRegularExpression>

#include <Eigen/LU>

#include "app/pipeline/tile.h"
#include "app/steps/step_page.h"

namespace fexel {
namespace {

class MirrorPage : public StepPage<MirrorStep> {
 public:
  explicit MirrorPage(Document& document) : StepPage(document, step_title(MirrorStep::word)) {
    head(tr("What changes places"));
    segments(
        tr("What changes places"), {tr("left ↔ right"), tr("up ↕ down")},
        [](const MirrorStep& s) { return s.reverse == 'x' ? 0 : 1; },
        [](MirrorStep& s, int i) { s.reverse = i == 0 ? 'x' : 'y'; });
    finish();
  }

 private:
  QString says(const MirrorStep& s, const StepInput&, const Station& made) override {
    return tr("%1 have changed places: a mirror image, in which letters read backwards; not a half turn. %2")
        .arg(s.reverse == 'x' ? tr("Left and right") : tr("Upper and lower side"), how(made));
  }
};

const QStringList& extent_names() {
  static const QStringList names{QObject::tr("grow"), QObject::tr("keep"), QObject::tr("inside")};
  return names;
}

class TurnPage : public StepPage<TurnStep> {
 public:
  explicit TurnPage(Document& document) : StepPage(document, step_title(TurnStep::word)) {
    head(tr("Turn"));
    angle(
        tr("angle"), [](const TurnStep& s) { return s.degrees; }, [](TurnStep& s, double v) { s.degrees = v; });
    auto* level = button(tr("Level along a line…"), [this] {
      Q_EMIT line_wanted(tr("Drag along what should be level or plumb. Escape leaves it."), [this](Point a, Point b) {
        const double run = b.x - a.x, rise = a.y - b.y;
        // The angle that takes the line to the nearer of level and plumb.
        const double slope = std::atan2(rise, run) * 180 / M_PI;
        const double off = std::remainder(slope, 90);
        take([&](TurnStep& s) { s.degrees = -std::round(off * 1e4) / 1e4; });
      });
    });
    level->setToolTip(tr("Draw a line on the picture; the turn makes it level or plumb, whichever is nearer"));
    exact_ = button(tr("Make it the exact quarter turn"), [this] {
      const TurnStep* now = step<TurnStep>();
      if (!now) return;
      change(tr("quarter turn"), QuarterStep{static_cast<int>(std::lround(now->degrees / 90))});
    });
    head(tr("About"));
    centre(&TurnStep::centre);
    head(tr("Output size"));
    segments(
        tr("Frame"), extent_names(), [](const TurnStep& s) { return static_cast<int>(s.extent); },
        [](TurnStep& s, int i) { s.extent = static_cast<Extent>(i); });
    finish();
    show_with([this](const TurnStep& s) {
      const double off = std::remainder(s.degrees, 90);
      const bool near = std::abs(s.degrees) > 80 && std::abs(off) < 2 && (off != 0 || s.centre);
      exact_->setVisible(near);
    });
  }

 private:
  QString says(const TurnStep& s, const StepInput& input, const Station& made) override {
    const double turned = std::remainder(s.degrees, 360);
    if (turned == 0) return tr("No turn: type an angle, drag the handle on the picture, or level along a line.");
    QStringList said{turned < 0 ? tr("Turned by %1° clockwise.").arg(plain(-turned, 6))
                                : tr("Turned by %1° counter-clockwise.").arg(plain(turned, 6))};
    const int across = made.size.width - input.size.width, down = made.size.height - input.size.height;
    if (std::remainder(turned, 90) == 0) {
      if (std::abs(turned) == 180) said << tr("A half turn, not a mirror image.");
    } else if (s.extent == Extent::grow) {
      said << tr("The picture grew by %1 × %2 px; its corners are empty.").arg(across).arg(down);
    } else if (s.extent == Extent::keep) {
      said << tr("The frame stayed: corners of the picture are cut off, and corners of the frame are empty.");
    } else {
      said << tr("%1 are left, as large as can be without empty corners.").arg(size_of(made.size));
    }
    said << how(made);
    return said.join(" ");
  }
  QPushButton* exact_;
};

class ShiftPage : public StepPage<ShiftStep> {
 public:
  explicit ShiftPage(Document& document) : StepPage(document, step_title(ShiftStep::word)) {
    head(tr("Move by"));
    number(
        tr("right"), -largest_side, largest_side, 3, tr("px"), [](const ShiftStep& s) { return s.dx; },
        [](ShiftStep& s, double v) { s.dx = v; });
    number(
        tr("down"), -largest_side, largest_side, 3, tr("px"), [](const ShiftStep& s) { return s.dy; },
        [](ShiftStep& s, double v) { s.dy = v; });
    head(tr("Output size"));
    segments(
        tr("Frame"), extent_names().mid(0, 2), [](const ShiftStep& s) { return s.extent == Extent::keep ? 1 : 0; },
        [](ShiftStep& s, int i) { s.extent = i == 1 ? Extent::keep : Extent::grow; });
    finish();
  }

 private:
  QString says(const ShiftStep& s, const StepInput&, const Station& made) override {
    if (s.dx == 0 && s.dy == 0) return tr("Nothing moves yet: type a distance, or drag the handle on the picture.");
    return tr("The picture moved %1 px %2 and %3 px %4. %5")
        .arg(plain(std::abs(s.dx)), s.dx < 0 ? tr("left") : tr("right"), plain(std::abs(s.dy)),
             s.dy < 0 ? tr("up") : tr("down"))
        .arg(made.exact ? how(made) : tr("Fractions of a pixel: %1").arg(how(made)));
  }
};

class MatrixPage : public StepPage<MatrixStep> {
 public:
  explicit MatrixPage(Document& document) : StepPage(document, step_title(MatrixStep::word)) {
    head(tr("Source to result, acting on (x, y, 1)"));
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

}  // namespace

InspectorPage* make_mirror_page(Document& document) {
  return new MirrorPage(document);
}
InspectorPage* make_turn_page(Document& document) {
  return new TurnPage(document);
}
InspectorPage* make_shift_page(Document& document) {
  return new ShiftPage(document);
}
InspectorPage* make_matrix_page(Document& document) {
  return new MatrixPage(document);
}

}  // namespace fexel

/// Convolve with a kernel.
#include <QFontDatabase>
#include <QPlainTextEdit>

#include "app/steps/step_page.h"
#include "app/ui/language.h"

namespace fexel {
namespace {

struct NamedKernel {
  QString name;
  Grid grid;
  double scale;
};
const std::vector<NamedKernel>& named_kernels() {
  struct All {
    std::vector<NamedKernel> list = {{QObject::tr("choose…"), {}, 1},
                                     {QObject::tr("mean 3 × 3"), {3, 3, {1, 1, 1, 1, 1, 1, 1, 1, 1}}, 1.0 / 9},
                                     {QObject::tr("mean 2 × 2 (half a pixel aside)"), {2, 2, {1, 1, 1, 1}}, 0.25},
                                     {QObject::tr("binomial 3 × 3"), {3, 3, {1, 2, 1, 2, 4, 2, 1, 2, 1}}, 1.0 / 16},
                                     {QObject::tr("sharpen"), {3, 3, {0, -1, 0, -1, 5, -1, 0, -1, 0}}, 1},
                                     {QObject::tr("slope in x"), {3, 3, {-1, 0, 1, -2, 0, 2, -1, 0, 1}}, 0.125},
                                     {QObject::tr("slope in y"), {3, 3, {-1, -2, -1, 0, 0, 0, 1, 2, 1}}, 0.125},
                                     {QObject::tr("Laplacian"), {3, 3, {0, 1, 0, 1, -4, 1, 0, 1, 0}}, 1}};
  };
  return made_in_language<All>().list;
}

class ConvolvePage : public StepPage<ConvolveStep> {
 public:
  explicit ConvolvePage(Document& document) : StepPage(document) {
    head(tr("The kernel, row by row"));
    QStringList names;
    for (const NamedKernel& kernel : named_kernels()) names << kernel.name;
    list_ = new QComboBox;
    list_->setAccessibleName(tr("Kernels"));
    list_->addItems(names);
    column()->addWidget(list_);
    connect(list_, &QComboBox::activated, this, [this](int i) {
      if (i == 0) return;
      const NamedKernel& kernel = named_kernels()[static_cast<std::size_t>(i)];
      take([&](ConvolveStep& s) {
        s.kernel = kernel.grid;
        s.scale = kernel.scale;
        const double middle = input().depth == Depth::u8 ? 128 : input().depth == Depth::u16 ? 32768 : 0;
        s.offset = std::abs(kernel.grid.sum()) < 1e-12 ? middle : 0;
      });
      list_->setCurrentIndex(0);
    });
    text_ = new QPlainTextEdit;
    text_->setAccessibleName(tr("Kernel"));
    text_->setFixedHeight(84);
    text_->setFont(QFontDatabase::systemFont(QFontDatabase::FixedFont));  // numbers stand in columns
    text_->setLineWrapMode(QPlainTextEdit::NoWrap);
    text_->setTabChangesFocus(true);
    column()->addWidget(text_);
    connect(text_, &QPlainTextEdit::textChanged, this, [this] { read_kernel(); });
    wrong_ = fields::sentence(tr("What is wrong with the kernel"));
    wrong_->hide();
    column()->addWidget(wrong_);
    number(
        tr("times"), -1e9, 1e9, 9, {}, [](const ConvolveStep& s) { return s.scale; },
        [](ConvolveStep& s, double v) { s.scale = v; });
    number(
        tr("plus"), -1e9, 1e9, 4, tr("grey levels"), [](const ConvolveStep& s) { return s.offset; },
        [](ConvolveStep& s, double v) { s.offset = v; });
    choice(
        tr("depth"), {tr("as it comes"), tr("8-bit"), tr("16-bit"), tr("float")},
        [](const ConvolveStep& s) { return s.depth ? static_cast<int>(*s.depth) + 1 : 0; },
        [](ConvolveStep& s, int i) { s.depth = i == 0 ? std::nullopt : std::optional(static_cast<Depth>(i - 1)); });
    finish();
    show_with([this](const ConvolveStep& s) {
      if (text_->hasFocus()) return;
      QStringList words, lines;
      for (const double number : s.kernel.numbers) words << plain(number, 7);
      qsizetype widest = 0;
      for (const QString& word : words) widest = std::max(widest, word.size());
      for (int j = 0; j < s.kernel.height; ++j) {
        QString line;
        for (int i = 0; i < s.kernel.width; ++i)
          line += words[j * s.kernel.width + i].rightJustified(widest + (i > 0 ? 2 : 0));
        lines << line;
      }
      const QSignalBlocker quiet(text_);
      text_->setPlainText(lines.join("\n"));
      fields::say(wrong_, {});
    });
  }

 private:
  void read_kernel() {
    Grid grid{0, 0, {}};
    const auto refuse = [this](const QString& why) { fields::say(wrong_, why, true); };
    for (const QString& line : text_->toPlainText().split('\n', Qt::SkipEmptyParts)) {
      QString wrong;
      const auto numbers = fields::numbers_in(line, wrong);
      if (!numbers) return refuse(no_number(wrong));
      const auto here = static_cast<int>(numbers->size());
      if (here == 0) continue;
      grid.numbers.insert(grid.numbers.end(), numbers->begin(), numbers->end());
      if (grid.height > 0 && here != grid.width)
        return refuse(tr("Row %1 has %2, the first has %3: rows are to be of one length.")
                          .arg(grid.height + 1)
                          .arg(here)
                          .arg(grid.width));
      grid.width = here;
      ++grid.height;
    }
    if (grid.width > 101 || grid.height > 101) return refuse(tr("A kernel has at most 101 rows and columns."));
    if (std::ranges::all_of(grid.numbers, [](double v) { return v == 0; }))
      return refuse(tr("A kernel of zeros leaves nothing of the picture. Give at least one number that is not 0."));
    fields::say(wrong_, {});
    take([&](ConvolveStep& s) { s.kernel = grid; });
  }

  QString says(const ConvolveStep& s, const StepInput& input, const Station& made) override {
    double low = 0, high = 0;
    for (const double v : s.kernel.numbers) (v * s.scale < 0 ? low : high) += v * s.scale;
    const OpenSource* source = document().source();
    const double top =
        source && source->info.depth == input.depth ? source->pixels->base().largest() : top_of(input.depth);
    QStringList said{tr("The numbers sum to %1, times %2 = %3.")
                         .arg(plain(s.kernel.sum(), 6), plain(s.scale, 6), plain(s.kernel.sum() * s.scale, 6))};
    const double least = low * top + s.offset, most = high * top + s.offset;
    said << tr("From samples of 0 to %1 it makes %2 to %3.").arg(plain(top, 6), plain(least, 6), plain(most, 6));
    const double holds = top_of(made.depth);
    if (made.depth != Depth::f32 && (least < -0.5 || most > holds + 0.5))
      said << tr("%1 holds 0 to %2: what is beyond is clamped. Choose float to keep it.")
                  .arg(made.depth == Depth::u8 ? tr("8-bit") : tr("16-bit"), plain(holds, 6));
    if (s.kernel.width % 2 == 0 || s.kernel.height % 2 == 0)
      said << tr("An even kernel's middle lies between pixels; coordinates follow it by half a pixel.");
    return said.join(" ");
  }
  QComboBox* list_;
  QPlainTextEdit* text_;
  QLabel* wrong_;
};

class ConvolveUi : public StepUiOf<ConvolveStep> {
 public:
  ConvolveUi()
      : StepUiOf({QObject::tr("Convolve"), QObject::tr("sums of neighbours with a kernel of your own"),
                  QObject::tr("filter sharpen edge derivative sobel kernel")}) {}
  InspectorPage* page(Document& document) const override { return new ConvolvePage(document); }
  QString summary_of(const ConvolveStep& step) const override {
    return QObject::tr("%1 × %2 numbers").arg(step.kernel.width).arg(step.kernel.height);
  }
};

}  // namespace

const StepUi& convolve_ui() {
  return made_in_language<ConvolveUi>();
}

}  // namespace fexel

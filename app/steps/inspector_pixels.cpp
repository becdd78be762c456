/// Pages of steps that change samples: bands, local contrast, high-pass, denoise, convolve.
#include <QFontDatabase>
#include <QLineEdit>
#include <QPlainTextEdit>

#include "app/pipeline/tile.h"
#include "app/steps/step_page.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

QString no_number(const QString& word) {
  return QObject::tr("“%1” is no number.").arg(word);
}

class BandsPage : public StepPage<BandsStep> {
 public:
  explicit BandsPage(Document& document) : StepPage(document, step_title(BandsStep::word)) {
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
      if (const auto numbers = read(list_->text()))
        take([&](BandsStep& s) {
          s.take.clear();
          for (const double v : *numbers) s.take.push_back(static_cast<int>(std::clamp(v, 1.0, 1e6)));
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
      if (!weights_->hasFocus()) weights_->setText(words.join(", "));
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

class ContrastPage : public StepPage<ContrastStep> {
 public:
  explicit ContrastPage(Document& document) : StepPage(document, step_title(ContrastStep::word)) {
    head(tr("How local, how strong"));
    number(
        tr("tile"), 8, largest_side, 0, tr("px"), [](const ContrastStep& s) { return s.tile; },
        [](ContrastStep& s, double v) { s.tile = static_cast<int>(v); });
    number(
        tr("at most"), 1, 1000, 2, tr("times steeper"), [](const ContrastStep& s) { return s.limit; },
        [](ContrastStep& s, double v) { s.limit = v; });
    finish();
  }

 private:
  QString says(const ContrastStep& s, const StepInput&, const Station&) override {
    return tr("Contrast is even over tiles of %1 px. Grey levels no longer compare across the picture: use it to match "
              "and to look, not to measure light.")
        .arg(s.tile);
  }
};

class HighpassPage : public StepPage<HighpassStep> {
 public:
  explicit HighpassPage(Document& document) : StepPage(document, step_title(HighpassStep::word)) {
    head(tr("Keep what changes within"));
    number(
        tr("radius"), 0.5, 2000, 2, tr("px"), [](const HighpassStep& s) { return s.radius; },
        [](HighpassStep& s, double v) { s.radius = v; });
    finish();
  }

 private:
  QString says(const HighpassStep& s, const StepInput& input, const Station&) override {
    return tr("What changes over more than about %1 px is taken away%2. Half of the contrast is left of waves %3 px "
              "long.")
        .arg(plain(2 * s.radius, 3),
             input.depth == Depth::f32 ? QString() : tr("; the middle grey stands for nothing left"),
             // exp(-2 pi^2 sigma^2 / L^2) = 1/2 with sigma = radius / 2
             plain(M_PI * s.radius / std::sqrt(2 * std::log(2.0)), 3));
  }
};

class DenoisePage : public StepPage<DenoiseStep> {
 public:
  explicit DenoisePage(Document& document) : StepPage(document, step_title(DenoiseStep::word)) {
    head(tr("Take from the surroundings"));
    segments(
        tr("Method"), {tr("median"), tr("Gaussian")}, [](const DenoiseStep& s) { return s.median ? 0 : 1; },
        [](DenoiseStep& s, int i) {
          s.median = i == 0;
          if (s.median) s.radius = std::clamp(std::round(s.radius), 1.0, 100.0);
        });
    number(
        tr("radius"), 0.5, 2000, 2, tr("px"), [](const DenoiseStep& s) { return s.radius; },
        [](DenoiseStep& s, double v) { s.radius = s.median ? std::clamp(std::round(v), 1.0, 100.0) : v; });
    finish();
  }

 private:
  QString says(const DenoiseStep& s, const StepInput&, const Station&) override {
    if (s.median) {
      const int side = 2 * static_cast<int>(s.radius) + 1;
      return tr("Each sample is the middle one of %1 × %1. Single outliers vanish, edges stay; things smaller than "
                "about "
                "%2 px vanish, too.")
          .arg(side)
          .arg(s.radius + 1);
    }
    // The mean of white noise under a Gaussian of sigma: 1 / (2 sqrt(pi) sigma)
    return tr("A Gaussian with a standard deviation of %1 px: noise goes down to about %2 %, and detail with it.")
        .arg(plain(s.radius / 2, 3), plain(std::min(100.0, 100 / (std::sqrt(M_PI) * s.radius)), 2));
  }
};

struct NamedKernel {
  QString name;
  Grid grid;
  double scale;
};
const std::vector<NamedKernel>& named_kernels() {
  static const std::vector<NamedKernel> kernels = {
      {QObject::tr("choose…"), {}, 1},
      {QObject::tr("mean 3 × 3"), {3, 3, {1, 1, 1, 1, 1, 1, 1, 1, 1}}, 1.0 / 9},
      {QObject::tr("mean 2 × 2 (half a pixel aside)"), {2, 2, {1, 1, 1, 1}}, 0.25},
      {QObject::tr("binomial 3 × 3"), {3, 3, {1, 2, 1, 2, 4, 2, 1, 2, 1}}, 1.0 / 16},
      {QObject::tr("sharpen"), {3, 3, {0, -1, 0, -1, 5, -1, 0, -1, 0}}, 1},
      {QObject::tr("slope in x"), {3, 3, {-1, 0, 1, -2, 0, 2, -1, 0, 1}}, 0.125},
      {QObject::tr("slope in y"), {3, 3, {-1, -2, -1, 0, 0, 0, 1, 2, 1}}, 0.125},
      {QObject::tr("Laplacian"), {3, 3, {0, 1, 0, 1, -4, 1, 0, 1, 0}}, 1}};
  return kernels;
}

class ConvolvePage : public StepPage<ConvolveStep> {
 public:
  explicit ConvolvePage(Document& document) : StepPage(document, step_title(ConvolveStep::word)) {
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

}  // namespace

InspectorPage* make_bands_page(Document& document) {
  return new BandsPage(document);
}
InspectorPage* make_contrast_page(Document& document) {
  return new ContrastPage(document);
}
InspectorPage* make_highpass_page(Document& document) {
  return new HighpassPage(document);
}
InspectorPage* make_denoise_page(Document& document) {
  return new DenoisePage(document);
}
InspectorPage* make_convolve_page(Document& document) {
  return new ConvolvePage(document);
}

}  // namespace fexel

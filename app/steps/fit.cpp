/// Control points: model, pairs as a table, residuals.
#include <QApplication>
#include <QClipboard>
#include <QHeaderView>
#include <QRegularExpression>
#include <QTableWidget>

#include "app/steps/step_page.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

constexpr std::size_t longest_name = 3;  // beside a handle

double unit_of(const FitStep& step) {
  return step.pixel_size.value_or(1);
}

/// How near a model comes to the pairs.
QString model_text(const FitStep& step) {
  try {
    const Fit fit = fit_of(step);
    if (fit.used <= pairs_needed(step.model) || step.model == Model::thin_plate)
      return QObject::tr("goes through all %1 pairs; nothing is left to check it").arg(fit.used);
    return QObject::tr("%1 pairs within %2 px RMS").arg(fit.used).arg(text_of(number_text(fit.rms, 2)));
  } catch (const Error&) {
    return QObject::tr("not with these pairs");
  }
}

class FitPage : public StepPage<FitStep> {
 public:
  explicit FitPage(Document& document) : StepPage(document) {
    head(tr("The model"));
    QStringList models;
    for (const std::string& name : model_names()) models << text_of(name);
    choice(
        tr("model"), models, [](const FitStep& s) { return static_cast<int>(s.model); },
        [](FitStep& s, int i) { s.model = static_cast<Model>(i); });
    robust_ = new QCheckBox(tr("exclude outliers"));
    robust_->setAccessibleName(robust_->text());
    row({}, robust_);
    connect(robust_, &QCheckBox::clicked, this, [this](bool on) { take([&](FitStep& s) { s.robust = on; }); });
    head(tr("Pairs: from here, to there"));
    table_ = new QTableWidget(0, 4);
    table_->setAccessibleName(tr("Pairs"));
    table_->verticalHeader()->hide();
    table_->horizontalHeader()->setSectionResizeMode(QHeaderView::Stretch);
    for (const int narrow : {0, 2, 3})
      table_->horizontalHeader()->setSectionResizeMode(narrow, QHeaderView::ResizeToContents);
    table_->setWordWrap(false);
    table_->setFixedHeight(190);
    table_->setFont(text_font(8.5));
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    column()->addWidget(table_);
    connect(table_, &QTableWidget::cellChanged, this, &FitPage::take_cell);
    button(tr("Add a pair"), [this] {
      take([this](FitStep& s) {
        const Point middle = input().size.middle();
        const auto at = fitted_ ? fitted_->map.forward(middle) : std::optional(middle);
        Point to = at.value_or(middle);
        if (s.pixel_size) to = *s.pixel_size * to;
        s.pairs.push_back({middle, to, std::to_string(s.pairs.size() + 1), true});
      });
    });
    button(tr("Remove the selected pair"), [this] {
      const int row = table_->currentRow();
      take([&](FitStep& s) {
        if (row >= 0 && row < static_cast<int>(s.pairs.size())) s.pairs.erase(s.pairs.begin() + row);
      });
    });
    button(tr("Paste pairs"), [this] {
      paste(with_plain_minus(QApplication::clipboard()->text()));
    })->setToolTip(tr("Rows of from x, from y, to x, to y, and a name if there is one"));
    pasted_ = fields::sentence(tr("What was pasted"));
    pasted_->hide();
    column()->addWidget(pasted_);
    head(tr("Output size"));
    frame_size();
    finish();
    show_with([this](const FitStep& s) {
      robust_->setChecked(s.robust);
      fitted_.reset();
      try {
        fitted_ = fit_of(s);
      } catch (const Error&) {
        // The page says it where the step's problem stands.
      }
      show_pairs(s);
    });
  }

 private:
  void show_pairs(const FitStep& s) {
    const QSignalBlocker quiet(table_);
    const QString unit = s.pixel_size ? unit_text(s.unit) : tr("px");
    table_->setHorizontalHeaderLabels({tr("use"), tr("from, px"), tr("to, %1").arg(unit), tr("off, px")});
    table_->setRowCount(static_cast<int>(s.pairs.size()));
    for (int i = 0; i < table_->rowCount(); ++i) {
      const PointPair& pair = s.pairs[static_cast<std::size_t>(i)];
      auto* use = new QTableWidgetItem(text_of(label_of(s, i)));
      use->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable | Qt::ItemIsUserCheckable);
      use->setCheckState(pair.use ? Qt::Checked : Qt::Unchecked);
      use->setToolTip(tr("Pair %1 counts, or is only checked").arg(use->text()));
      table_->setItem(i, 0, use);
      const Point places[] = {pair.from, pair.to};
      for (int k = 0; k < 2; ++k) {
        auto* item = new QTableWidgetItem(tr("%1, %2").arg(plain(places[k].x), plain(places[k].y)));
        item->setToolTip(tr("%1, %2").arg(plain(places[k].x, 9), plain(places[k].y, 9)));
        item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
        table_->setItem(i, k + 1, item);
      }
      QString off;
      bool outlier = false;
      if (fitted_) {
        const Point d = fitted_->residuals[static_cast<std::size_t>(i)];
        off = text_of(number_text(std::hypot(d.x, d.y), 2));
        outlier = is_outlier(s, i);
      }
      auto* item = new QTableWidgetItem(off);
      if (outlier) item->setToolTip(tr("An outlier: it disagrees with the rest"));
      item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
      item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
      if (outlier) item->setForeground(theme().brick);
      table_->setItem(i, 3, item);
    }
  }
  static std::optional<Point> place_in(const QString& text) {
    QString wrong;
    const auto two = fields::numbers_in(text, wrong);
    return two && two->size() == 2 ? std::optional(Point{(*two)[0], (*two)[1]}) : std::nullopt;
  }
  void take_cell(int row, int column) {
    const QTableWidgetItem* item = table_->item(row, column);
    take([&](FitStep& s) {
      PointPair& pair = s.pairs[static_cast<std::size_t>(row)];
      if (column == 0) {
        pair.use = item->checkState() == Qt::Checked;
        return;
      }
      if (const auto place = place_in(item->text())) (column == 1 ? pair.from : pair.to) = *place;
    });
    refresh();  // what was not taken goes back
  }
  void paste(const QString& text) {
    std::vector<PointPair> pairs;
    int line_number = 0;
    for (const QString& line : text.split('\n', Qt::SkipEmptyParts)) {
      ++line_number;
      const QStringList words = line.trimmed().split(QRegularExpression("[,;\\t]\\s*"));
      std::vector<double> v;
      for (const QString& word : words.mid(0, 4)) {
        bool is = false;
        const double number = word.toDouble(&is);
        if (is && std::abs(number) <= 1e9) v.push_back(number);
      }
      if (v.size() < 4) {
        if (line_number == 1) continue;  // a head
        fields::say(pasted_, tr("Line %1 has no four numbers.").arg(line_number), true);
        return;
      }
      pairs.push_back({{v[0], v[1]}, {v[2], v[3]}, words.value(4).trimmed().toStdString(), true});
    }
    if (pairs.empty()) {
      fields::say(pasted_, tr("The clipboard holds no pairs: rows of from x, from y, to x, to y."), true);
      return;
    }
    fields::say(pasted_, tr("%1 pairs.").arg(pairs.size()));
    take([&](FitStep& s) { s.pairs = pairs; });
  }
  bool is_outlier(const FitStep& s, int i) const {
    const auto k = static_cast<std::size_t>(i);
    return s.pairs[k].use && !(fitted_->weights[k] > 0);
  }
  QString says(const FitStep& s, const StepInput& input, const Station& made) override {
    if (!fitted_) return {};
    QStringList said{tr("%1 pairs, %2 px RMS off (%3).")
                         .arg(fitted_->used)
                         .arg(text_of(number_text(fitted_->rms, 2)), text_of(name_of(s.model)))};
    if (fitted_->freedom > 0)
      said << tr("They scatter by %1 px along each axis.").arg(text_of(number_text(fitted_->noise, 2)));
    // A spline bends with every pair: how well it is known between them nobody has worked out.
    if (s.model != Model::thin_plate)
      said << tr("Corners of the picture are known to ± %1 px of the result, with pairs placed to ± %2 px.")
                  .arg(text_of(short_number(corner_uncertainty(s, *fitted_, input.size), 2)),
                       text_of(short_number(s.picking, 2)));
    if (fitted_->freedom > 0 && fitted_->noise > 3 * picking_in_result(s, *fitted_))
      said << tr(
          "That is much less than they scatter: the model is too simple for these pairs, or they were placed "
          "worse.");
    QStringList outliers;
    for (int i = 0; i < static_cast<int>(s.pairs.size()); ++i)
      if (is_outlier(s, i)) outliers << text_of(label_of(s, i));
    if (outliers.size() == 1)
      said << tr("%1 counts for nothing: it disagrees with the rest.").arg(outliers.front());
    else if (!outliers.isEmpty())
      said << tr("%1 count for nothing: they disagree with the rest.").arg(outliers.join(", "));
    if (const auto equal = equal_pairs(s))
      said << tr("Pairs %1 and %2 begin at the same place: they count twice there.")
                  .arg(text_of(label_of(s, equal->first)), text_of(label_of(s, equal->second)));
    if (fitted_->used == pairs_needed(s.model) || s.model == Model::thin_plate)
      said << tr("The transform goes through all pairs, so nothing checks it: more pairs would.");
    said << how(made);
    return said.join(" ");
  }
  QCheckBox* robust_;
  QTableWidget* table_;
  QLabel* pasted_;
  std::optional<Fit> fitted_;
};

class FitUi : public StepUiOf<FitStep> {
 public:
  FitUi()
      : StepUiOf({QObject::tr("Control points"), QObject::tr("lay control points on where they belong"),
                  QObject::tr(
                      "affine projective polynomial thin-plate spline warp register control points landmarks pairs")}) {
  }
  InspectorPage* page(Document& document) const override { return new FitPage(document); }
  QString summary_of(const FitStep& step) const override {
    const auto used = std::ranges::count_if(step.pairs, [](const PointPair& pair) { return pair.use; });
    return QObject::tr("%1, %2 pairs").arg(text_of(name_of(step.model))).arg(used);
  }
  StepFigure figure_of(const FitStep& step, const StepInput&) const override {
    StepFigure out;
    for (int i = 0; i < static_cast<int>(step.pairs.size()); ++i)
      out.handles.push_back({step.pairs[static_cast<std::size_t>(i)].from, label_of(step, i).substr(0, longest_name)});
    return out;
  }
  FitStep moved(FitStep step, const StepInput&, int index, Point to) const override {
    step.pairs[static_cast<std::size_t>(index)].from = to;
    return step;
  }
  StepFigure result_figure_of(const FitStep& step, const Map& made) const override {
    StepFigure out;
    for (int i = 0; i < static_cast<int>(step.pairs.size()); ++i) {
      const PointPair& pair = step.pairs[static_cast<std::size_t>(i)];
      const Point to = 1 / unit_of(step) * pair.to;
      out.handles.push_back({to, label_of(step, i).substr(0, longest_name)});
      if (const auto put = made.forward(pair.from)) out.lines.push_back({{*put, to}});
    }
    return out;
  }
  FitStep result_moved(FitStep step, int index, Point to) const override {
    step.pairs[static_cast<std::size_t>(index)].to = unit_of(step) * to;
    return step;
  }
  StepVariants variants_of(const FitStep& step) const override {
    StepVariants out{QObject::tr("model"), {}};
    for (const std::string& word : model_names()) {
      FitStep with = step;
      with.model = *model_named(word);
      out.all.push_back({text_of(word), model_text(with), with});
    }
    return out;
  }
};

}  // namespace

const StepUi& fit_ui() {
  static const FitUi ui;
  return ui;
}

}  // namespace fexel

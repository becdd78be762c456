/// Control points: model, pairs as a table, residuals.
#include <QApplication>
#include <QClipboard>
#include <QFileInfo>
#include <QRegularExpression>

#include "app/pairs/reference.h"
#include "app/steps/step_page.h"
#include "app/ui/language.h"
#include "app/ui/theme.h"
#include "base/statistics.h"
#include "fit/pairs_csv.h"
#include "fit/typing_mistakes.h"

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
    return QObject::tr("%1 pairs within %2 px RMS").arg(fit.used).arg(number_shown(number_text(fit.rms, 2)));
  } catch (const Error&) {
    return QObject::tr("not with these pairs");
  }
}

class FitPage : public StepPage<FitStep> {
 public:
  explicit FitPage(Document& document) : StepPage(document) {
    head(tr("The model"));
    QStringList models;
    for (const std::string& name : model_names()) models << core_word(name);
    choice(
        tr("model"), models, [](const FitStep& s) { return static_cast<int>(s.model); },
        [](FitStep& s, int i) { s.model = static_cast<Model>(i); });
    robust_ = new QCheckBox(tr("exclude outliers"));
    robust_->setAccessibleName(robust_->text());
    row({}, robust_);
    connect(robust_, &QCheckBox::clicked, this, [this](bool on) { take([&](FitStep& s) { s.robust = on; }); });
    head(tr("The reference"));
    file_ = fields::sentence(tr("Reference"));
    column()->addWidget(file_);
    button(tr("Open a reference…"), [this] {
      Q_EMIT asked(ReferenceRequest{});
    })->setToolTip(tr("The picture, plan or map that the points belong on"));
    view_ = new fields::Segments(tr("Reference"), {tr("off"), tr("place pairs"), tr("compare")});
    column()->addWidget(view_);
    connect(view_, &fields::Segments::chosen, this,
            [this](int i) { this->document().session().show_reference(static_cast<Session::ReferenceView>(i)); });
    propose_ = button(tr("Propose 30 pairs"), [this] { Q_EMIT asked(ProposeRequest{30}); });
    propose_->setToolTip(tr("Find places that both pictures show, and match each"));
    refine_ = button(tr("Refine by matching"), [this] { Q_EMIT asked(RefineRequest{}); });
    refine_->setToolTip(
        tr("Move the targets to what the reference shows of their places; a pair that cannot be matched stays"));
    take_frame_ = button(tr("Take the reference's frame"), [this] {
      const auto open = open_reference(this->document());
      if (!open) return;
      const Image& base = open->picture->pixels->base();
      take([&](FitStep& s) {
        s = laid_on(s, open->picture->file, {base.width(), base.height()}, open->picture->pixel);
      });
    });
    take_frame_->setToolTip(tr("Size and pixel size of the result, so that it lies on the reference pixel by pixel"));
    head(tr("The pairs"));
    button(tr("Paste pairs"), [this] {
      paste(with_plain_minus(QApplication::clipboard()->text()));
    })->setToolTip(tr("Rows of from x, from y, to x, to y, and a name if there is one"));
    pasted_ = fields::sentence(tr("What was pasted"));
    pasted_->hide();
    column()->addWidget(pasted_);
    mistake_ = fields::sentence(tr("Typing mistake"));
    column()->addWidget(mistake_);
    mend_ = button({}, [this] {
      if (mistakes_.empty()) return;
      take([this](FitStep& s) {
        std::optional<double> height;
        if (const auto open = open_reference(this->document()))
          height = open->picture->pixels->base().height() * open->scale * unit_of(s);
        s.pairs = mended(s.pairs, mistakes_.front(), height);
      });
    });
    mend_->setAccessibleName(tr("Fix the typing mistake"));
    head(tr("Output size"));
    frame_size();
    finish();
    show_with([this](const FitStep& s) {
      robust_->setChecked(s.robust);
      fitted_ = this->document().pairs_review().fit(s);
      show_reference(s);
      show_mistakes(s);
    });
    connect(&document.session(), &Session::reference_changed, this, [this] { refresh(); });
    connect(&document.pairs_review(), &PairsReview::changed, this, [this] { refresh(); });
  }

 private:
  void show_reference(const FitStep& s) {
    const auto open = open_reference(this->document());
    const QString name = s.reference ? QFileInfo(text_of(s.reference->file)).fileName() : QString();
    if (!s.reference)
      fields::say(file_, tr("None: targets are typed, pasted or dragged on the result."));
    else if (!open)
      fields::say(file_, tr("%1 is not open.").arg(name));
    else {
      const Image& base = open->picture->pixels->base();
      fields::say(
          file_,
          tr("%1, %2").arg(name, size_of({base.width(), base.height()})) +
              (open->picture->pixel
                   ? tr(", %1 %2 a pixel").arg(plain(open->picture->pixel->x), unit_text(open->picture->pixel->unit))
                   : QString()));
    }
    for (QWidget* w : std::initializer_list<QWidget*>{view_, propose_, refine_}) w->setVisible(open.has_value());
    refine_->setEnabled(!s.pairs.empty());
    const bool taken = open && s.width == open->picture->pixels->base().width() &&
                       s.height == open->picture->pixels->base().height() && open->scale == 1;
    take_frame_->setVisible(open && !taken);
    view_->show_current(static_cast<int>(this->document().session().reference_view()));
  }
  void show_mistakes(const FitStep& s) {
    const PairsFindings* found = this->document().pairs_review().findings(s);
    mistakes_ = found && !this->document().session().dragging() ? found->mistakes : std::vector<TypingMistake>();
    mistake_->setVisible(!mistakes_.empty());
    mend_->setVisible(!mistakes_.empty());
    if (mistakes_.empty()) return;
    std::vector<std::string> labels;
    for (int i = 0; i < static_cast<int>(s.pairs.size()); ++i) labels.push_back(label_of(s, i));
    fields::say(mistake_, text_of(sentence_of(mistakes_.front(), labels)), true);
    mend_->setText(text_of(remedy_of(mistakes_.front())));
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
    return s.pairs[k].counts() && !(fitted_->weights[k] > 0);
  }
  QString says(const FitStep& s, const StepInput& input, const Station& made) override {
    if (!fitted_) return {};
    QStringList said{tr("%1 pairs, %2 px RMS off (%3).")
                         .arg(fitted_->used)
                         .arg(number_shown(number_text(fitted_->rms, 2)), core_word(name_of(s.model)))};
    const auto stated = least_uncertainty(s.pairs);
    if (fitted_->freedom > 0)
      said << (stated ? tr("They scatter %1 times as far as their uncertainties say.")
                            .arg(number_shown(short_number(fitted_->noise / picking_in_result(s, *fitted_), 2)))
                      : tr("They scatter by %1 px along each axis.").arg(number_shown(number_text(fitted_->noise, 2))));
    // A spline bends with every pair: how well it is known between them nobody has worked out.
    if (s.model != Model::thin_plate)
      said << (stated ? tr("Corners of the picture are known to ± %1 px of the result, with pairs as uncertain as they "
                           "say.")
                      : tr("Corners of the picture are known to ± %1 px of the result, with pairs placed to ± %2 px."))
                  .arg(number_shown(short_number(corner_uncertainty(s, *fitted_, input.size), 2)))
                  .replace("%2", number_shown(short_number(s.picking, 2)));
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
  QLabel *file_, *mistake_;
  fields::Segments* view_;
  QPushButton *propose_, *refine_, *take_frame_, *mend_;
  std::vector<TypingMistake> mistakes_;
  QLabel* pasted_;
  std::shared_ptr<const Fit> fitted_;
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
    return QObject::tr("%1, %2 pairs").arg(core_word(name_of(step.model))).arg(used);
  }
  StepFigure figure_of(const FitStep& step, const StepInput&) const override {
    StepFigure out;
    for (int i = 0; i < static_cast<int>(step.pairs.size()); ++i)
      out.handles.push_back({step.pairs[static_cast<std::size_t>(i)].from, label_of(step, i).substr(0, longest_name)});
    return out;
  }
  FitStep moved(FitStep step, const StepInput&, int index, Point to) const override {
    PointPair& pair = step.pairs[static_cast<std::size_t>(index)];
    pair.from = to;
    pair.uncertainty.reset();  // it was that of another place
    return step;
  }
  StepFigure result_figure_of(const FitStep& step, const Map& made) const override {
    StepFigure out;
    std::vector<std::optional<Point>> off;  // of pairs in use, with what lies so far off that it is shown as it is
    std::vector<double> sizes;
    Point low{1e300, 1e300}, high{-1e300, -1e300};
    for (int i = 0; i < static_cast<int>(step.pairs.size()); ++i) {
      const PointPair& pair = step.pairs[static_cast<std::size_t>(i)];
      const Point to = 1 / unit_of(step) * pair.to;
      out.handles.push_back({to, label_of(step, i).substr(0, longest_name)});
      const auto put = pair.use ? made.forward(pair.from) : std::nullopt;
      off.push_back(put ? std::optional(*put - to) : std::nullopt);
      if (put) sizes.push_back(distance(*put, to));
      low = {std::min(low.x, to.x), std::min(low.y, to.y)};
      high = {std::max(high.x, to.x), std::max(high.y, to.y)};
    }
    if (sizes.empty()) return out;
    constexpr double far = 8;       // medians: an arrow that is not enlarged
    constexpr double share = 0.07;  // of the pairs' extent: the longest of the others
    const double middle = median(sizes);
    double longest = 0;
    for (const double size : sizes)
      if (size <= far * middle) longest = std::max(longest, size);
    double times = 1;
    if (longest > 1e-9) {
      const double wanted = share * distance(low, high) / longest;
      for (const double step_of : {1.0, 2.0, 5.0, 10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0})
        if (step_of <= wanted) times = step_of;
    }
    for (std::size_t i = 0; i < off.size(); ++i) {
      if (!off[i]) continue;
      const Point to = out.handles[i].at;
      const bool apart = std::hypot(off[i]->x, off[i]->y) > far * middle;
      out.lines.push_back({{to, to + (apart ? 1 : times) * *off[i]}, false, true});
    }
    if (times > 1) out.says = QObject::tr("Residuals, fitted less given, enlarged %1 times").arg(times).toStdString();
    return out;
  }
  std::optional<FitStep> without_handle_of(FitStep step, int index) const override {
    if (index < 0 || index >= static_cast<int>(step.pairs.size())) return std::nullopt;
    step.pairs.erase(step.pairs.begin() + index);
    return step;
  }
  FitStep result_moved(FitStep step, int index, Point to) const override {
    PointPair& pair = step.pairs[static_cast<std::size_t>(index)];
    pair.to = unit_of(step) * to;
    pair.uncertainty.reset();
    return step;
  }
  StepVariants variants_of(const FitStep& step) const override {
    StepVariants out{QObject::tr("model"), {}};
    for (const std::string& word : model_names()) {
      FitStep with = step;
      with.model = *model_named(word);
      out.all.push_back({core_word(word), model_text(with), with});
    }
    return out;
  }
};

}  // namespace

const StepUi& fit_ui() {
  return made_in_language<FitUi>();
}

}  // namespace fexel

#include "app/motion/flow_rows.h"

#include "app/ui/text.h"

namespace fexel {
namespace {

QVBoxLayout* column_in(QWidget* widget) {
  auto* column = new QVBoxLayout(widget);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(4);
  return column;
}

void add_row(QVBoxLayout* column, const QString& text, QWidget* field) {
  auto* line = new QHBoxLayout;
  QLabel* label = fields::label_for(text, field);
  label->setMinimumWidth(112);
  line->addWidget(label);
  line->addWidget(field, 1);
  column->addLayout(line);
}

}  // namespace

FlowRows::FlowRows(Document& document, Take take, Ask ask, QObject* parent)
    : QObject(parent),
      document_(document),
      take_(std::move(take)),
      ask_(std::move(ask)),
      windows_(new QWidget),
      background_(new QWidget),
      derived_(new QWidget) {
  build_windows();
  build_background();
  build_derived();
}

void FlowRows::build_windows() {
  QVBoxLayout* column = column_in(windows_);
  sizes_ = new QLineEdit;
  sizes_->setAccessibleName(tr("Window sizes"));
  sizes_->setToolTip(
      tr("Sides of the windows in px, from large to small: a pass each. The first is at least four times "
         "the largest movement"));
  add_row(column, tr("windows, px"), sizes_);
  sizes_say_ = fields::sentence(tr("What is wrong with the window sizes"));
  column->addWidget(sizes_say_);
  connect(sizes_, &QLineEdit::editingFinished, this, [this] {
    WindowSettings next =
        document_.chain().motions.empty() ? WindowSettings{} : document_.chain().motions.front().settings.window;
    next.sizes.clear();
    for (const QString& part : sizes_->text().split(QRegularExpression("[,;\\s]+"), Qt::SkipEmptyParts)) {
      bool whole = false;
      next.sizes.push_back(part.toInt(&whole));
      if (!whole) next.sizes.back() = 0;
    }
    try {
      check_windows(next);
    } catch (const Error& error) {
      return fields::say(sizes_say_, text_of(error.message() + " " + error.remedy()), true);
    }
    fields::say(sizes_say_, {});
    take_(tr("windows"), [&](MotionSettings& s) {
      if (s.window.sizes != next.sizes && s.window.last() != next.last()) s.step_x = s.step_y = next.last() / 2;
      s.window.sizes = next.sizes;
    });
  });
  passes_ = new fields::Number(tr("Passes on deformed frames"), 0, 20, 0);
  passes_->setToolTip(
      tr("At the last size, with frames that are deformed by what is known: follows slopes, and costs "
         "some noise each; 0 shifts the windows alone"));
  add_row(column, tr("deformed passes"), passes_);
  connect(passes_, &QDoubleSpinBox::valueChanged, this, [this](double v) {
    take_(tr("passes"),
          [&](MotionSettings& s) { s.window.passes = std::max(static_cast<int>(v), s.window.ensemble ? 1 : 0); });
  });
  const auto box = [&](const QString& text, const QString& tip, bool WindowSettings::*which) {
    auto* made = new QCheckBox(text);
    made->setAccessibleName(text);
    made->setToolTip(tip);
    column->addWidget(made);
    connect(made, &QCheckBox::clicked, this, [this, text, which](bool on) {
      take_(text, [&](MotionSettings& s) {
        s.window.*which = on;
        if (s.window.ensemble) s.window.passes = std::max(1, s.window.passes);
      });
    });
    return made;
  };
  robust_ = box(tr("robust: products of shifted windows"),
                tr("A peak counts where shifted windows show it, too: for poor pictures, at five times the time"),
                &WindowSettings::robust);
  ensemble_ = box(tr("all pairs as one: a steady flow"),
                  tr("Correlations of all pairs are added up before the peak is sought: for few grains"),
                  &WindowSettings::ensemble);
  auto* suggest = new QPushButton(tr("Set the windows by the grains"));
  suggest->setAccessibleName(suggest->text());
  column->addWidget(suggest);
  connect(suggest, &QPushButton::clicked, this, [this] { ask_(GrainRequest{}); });
}

void FlowRows::build_background() {
  QVBoxLayout* column = column_in(background_);
  kind_ = new QComboBox;
  kind_->setAccessibleName(tr("Background"));
  kind_->addItems({tr("nothing"), tr("the mean"), tr("the median"), tr("the minimum")});
  kind_->setToolTip(tr("What stands still over all frames is taken off before they are matched; the frames stay"));
  add_row(column, tr("take off"), kind_);
  connect(kind_, &QComboBox::activated, this, [this](int i) {
    take_(tr("background"), [&](MotionSettings& s) { s.prepare.background = static_cast<MotionBackground>(i); });
  });
  apart_ = new QCheckBox(tr("a and b have a background each"));
  apart_->setAccessibleName(apart_->text());
  column->addWidget(apart_);
  connect(apart_, &QCheckBox::clicked, this,
          [this](bool on) { take_(tr("background"), [&](MotionSettings& s) { s.prepare.apart = on; }); });
  shown_ = new QCheckBox(tr("show the background"));
  shown_->setAccessibleName(shown_->text());
  column->addWidget(shown_);
  connect(shown_, &QCheckBox::clicked, this, [this](bool on) {
    MotionLayer& layer = document_.motion_layer();
    if (on && !layer.background()) {
      shown_->setChecked(false);  // until it is there
      return ask_(BackgroundRequest{});
    }
    MotionLayer::Look look = layer.look();
    look.background = on;
    layer.set_look(look);
  });
}

void FlowRows::build_derived() {
  QVBoxLayout* column = column_in(derived_);
  mean_ = new QCheckBox(tr("show the mean of all pairs"));
  mean_->setAccessibleName(mean_->text());
  column->addWidget(mean_);
  connect(mean_, &QCheckBox::clicked, this, [this](bool on) {
    MotionLayer::Look look = document_.motion_layer().look();
    look.mean = on;
    document_.motion_layer().set_look(look);
  });
  auto* line = new QVBoxLayout;
  line->setSpacing(4);
  const std::tuple<QString, QString, bool> kinds[] = {
      {tr("Flow through a line…"), tr("Click corners of the line; Return or a double click ends it"), false},
      {tr("Circulation…"), tr("Click corners of the polygon; Return or a double click closes it"), true}};
  for (const auto& [text, hint, round] : kinds) {
    auto* pick = new QPushButton(text);
    pick->setAccessibleName(text);
    line->addWidget(pick);
    connect(pick, &QPushButton::clicked, this, [this, hint = hint, round = round] {
      const MotionProbe* probe = document_.motion_layer().probe();
      if (!probe) return;
      PointsRequest wanted{hint, [this, round](const std::vector<Point>& points) {
                             document_.motion_layer().add_flow_line(points, round);
                           }};
      wanted.station = probe->station;
      wanted.count = round ? 0 : 2;
      ask_(wanted);
    });
  }
  column->addLayout(line);
  lines_say_ = fields::sentence(tr("Flow through lines"));
  column->addWidget(lines_say_);
}

void FlowRows::refresh(const MotionSettings& s) {
  const MotionLayer& layer = document_.motion_layer();
  const bool flow = s.method == MotionMethod::window;
  windows_->setVisible(flow);
  derived_->setVisible(flow);
  if (!sizes_->hasFocus()) {
    QStringList sizes;
    for (const int size : s.window.sizes) sizes << QString::number(size);
    sizes_->setText(sizes.join(", "));
    fields::say(sizes_say_, {});
  }
  sizes_say_->setVisible(!sizes_say_->text().isEmpty());
  {
    const QSignalBlocker quiet(passes_);
    passes_->setMinimum(s.window.ensemble ? 1 : 0);
  }
  if (!passes_->hasFocus()) passes_->show_value(s.window.passes);
  robust_->setChecked(s.window.robust);
  ensemble_->setChecked(s.window.ensemble);
  kind_->setCurrentIndex(static_cast<int>(s.prepare.background));
  const bool on = s.prepare.background != MotionBackground::none;
  apart_->setVisible(on && s.against == MotionAgainst::pairs);
  apart_->setChecked(s.prepare.apart);
  shown_->setVisible(on);
  shown_->setChecked(layer.background() && layer.look().background);
  mean_->setEnabled(layer.has_mean());
  mean_->setChecked(layer.look().mean && layer.has_mean());
  QStringList says;
  for (std::size_t k = 0; flow && k < layer.flow_lines().size(); ++k) says << layer.flow_says(k);
  fields::say(lines_say_, says.join("\n"));
  lines_say_->setVisible(!says.isEmpty());
}

}  // namespace fexel

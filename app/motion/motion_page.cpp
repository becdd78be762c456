#include "app/motion/motion_page.h"

#include "app/ui/text.h"

namespace fexel {
namespace {

using Kind = CleanRule::Kind;

QString title_of(Kind kind) {
  const QString titles[] = {QObject::tr("texture"),       QObject::tr("glare"),      QObject::tr("correlation"),
                            QObject::tr("uncertainty"),   QObject::tr("way back"),   QObject::tr("limits"),
                            QObject::tr("far from mean"), QObject::tr("neighbours"), QObject::tr("peak ratio")};
  return titles[static_cast<std::size_t>(kind)];
}
QString tip_of(Kind kind) {
  const QString tips[] = {
      QObject::tr("Takes out points whose texture lets expect a larger uncertainty than this, in px"),
      QObject::tr("Takes out points of whose subset a larger share is at the ends of the range"),
      QObject::tr("Takes out points with a lower correlation"),
      QObject::tr("Takes out points that state a larger uncertainty, in px"),
      QObject::tr("Takes out points whose way back ends farther from the start, in px"),
      QObject::tr("Takes out points whose displacement lies outside of what was drawn on the scatter"),
      QObject::tr("Takes out points more than so many standard deviations from the mean of all"),
      QObject::tr("Takes out points unlike their neighbours, by the normalised median test"),
      QObject::tr("Takes out points of which another peak of the correlation is nearly as high: the ratio of the two")};
  return tips[static_cast<std::size_t>(kind)];
}

}  // namespace

double MotionPage::plain_limit(CleanRule::Kind kind) {
  constexpr double limits[] = {0.05, 0.05, 0.8, 0.05, 0.1, 0, 4, 2, 1.3};
  return limits[static_cast<std::size_t>(kind)];
}

MotionPage::MotionPage(Document& document) : InspectorPage(document, "align", tr("Movement")) {
  place_ = column();
  flow_ = new FlowRows(
      document, [this](const QString& what, const std::function<void(MotionSettings&)>& body) { take(what, body); },
      [this](const PageRequest& request) { Q_EMIT asked(request); }, this);
  build_frames();
  build_where();
  build_grid();
  build_measure();
  build_clean();
  build_look();
  build_trust();
  build_out();
  place_->addStretch(1);
  connect(&document.motion_layer(), &MotionLayer::changed, this, [this] {
    if (isVisible()) refresh();
  });
}

QWidget* MotionPage::row(const QString& label, QWidget* field) {
  auto* line = new QHBoxLayout;
  QLabel* text = fields::label_for(label, field);
  text->setMinimumWidth(112);
  line->addWidget(text);
  line->addWidget(field, 1);
  place_->addLayout(line);
  return text;
}

void MotionPage::show_method(const MotionSettings& s) {
  const bool flow = s.method == MotionMethod::window;
  for (QWidget* widget : of_surfaces_) widget->setVisible(!flow);
  renew_->setVisible(!flow && s.against == MotionAgainst::first);
  strain_on_->setText(flow ? tr("vorticity, divergence, shear rate") : tr("strain and rotation"));
  strain_on_->setAccessibleName(strain_on_->text());
  rules_[static_cast<std::size_t>(Kind::back)].on->setEnabled(!flow);
  rules_[static_cast<std::size_t>(Kind::peaks)].on->setEnabled(flow);
  const auto& quantities = quantities_of(s.method);
  if (quantity_->property("method") != static_cast<int>(s.method) || quantity_->count() == 0) quantity_->clear();
  quantity_->setProperty("method", static_cast<int>(s.method));
  const MotionLayer& layer = document().motion_layer();
  for (std::size_t k = 0; k < quantities.size(); ++k) {
    const QString title = layer.title_of(quantities[k]);
    if (quantity_->count() <= static_cast<int>(k)) quantity_->addItem(title, static_cast<int>(quantities[k]));
    quantity_->setItemText(static_cast<int>(k), title);
  }
  // What the other method's fields have is shown as their length.
  const auto at = std::ranges::find(quantities, layer.look().quantity);
  quantity_->setCurrentIndex(at == quantities.end() ? 2 : static_cast<int>(at - quantities.begin()));
}

fields::Number* MotionPage::number(const QString& label, const QString& name, double low, double high, int decimals,
                                   const QString& unit, const std::function<void(MotionSettings&, double)>& put) {
  auto* field = new fields::Number(name, low, high, decimals, unit);
  last_label_ = row(label, field);
  connect(field, &QDoubleSpinBox::valueChanged, this,
          [this, label, put](double v) { take(label, [&](MotionSettings& s) { put(s, v); }); });
  return field;
}

QPushButton* MotionPage::button(const QString& text, const std::function<void()>& body) {
  auto* made = new QPushButton(text);
  made->setAccessibleName(text);
  place_->addWidget(made);
  connect(made, &QPushButton::clicked, this, body);
  return made;
}

QCheckBox* MotionPage::check_box(const QString& text, const std::function<void(bool)>& body) {
  auto* made = new QCheckBox(text);
  made->setAccessibleName(text);
  place_->addWidget(made);
  connect(made, &QCheckBox::clicked, this, body);
  return made;
}

void MotionPage::take(const QString& what, const std::function<void(MotionSettings&)>& body) {
  Chain chain = document().chain();
  if (chain.motions.empty()) return;
  body(chain.motions.front().settings);
  if (!(chain == document().chain())) document().edit_chain(tr("movement: %1").arg(what), chain, "motion " + what);
}

void MotionPage::build_frames() {
  method_ = new QComboBox;
  method_->setAccessibleName(tr("Method"));
  method_->addItems({tr("a surface (subsets)"), tr("a fluid (windows)")});
  row(tr("what moves"), method_);
  connect(method_, &QComboBox::activated, this, [this](int i) {
    take(tr("method"), [&](MotionSettings& s) {
      if (s.method == static_cast<MotionMethod>(i)) return;
      s.method = static_cast<MotionMethod>(i);
      // What suits it, to begin with.
      const bool flow = s.method == MotionMethod::window;
      s.against = flow ? MotionAgainst::pairs : MotionAgainst::first;
      s.step_x = s.step_y = flow ? s.window.last() / 2 : 10;
    });
  });
  place_->addWidget(fields::section(tr("Frames")));
  against_ = new QComboBox;
  against_->setAccessibleName(tr("Matched against"));
  against_->addItems({tr("the first frame"), tr("the frame before"), tr("in pairs, a and b")});
  row(tr("matched against"), against_);
  connect(against_, &QComboBox::activated, this,
          [this](int i) { take(tr("frames"), [&](MotionSettings& s) { s.against = static_cast<MotionAgainst>(i); }); });
  renew_ = check_box(tr("renew the reference where needed"),
                     [this](bool on) { take(tr("reference"), [&](MotionSettings& s) { s.renew = on; }); });
}

void MotionPage::build_where() {
  place_->addWidget(fields::section(tr("Where")));
  where_ = fields::sentence(tr("Region"));
  place_->addWidget(where_);
  auto* line = new QHBoxLayout;
  auto* draw = new QPushButton(tr("Draw a region…"));
  draw->setAccessibleName(draw->text());
  auto* whole = new QPushButton(tr("Whole picture"));
  whole->setAccessibleName(whole->text());
  line->addWidget(draw, 1);
  line->addWidget(whole, 1);
  place_->addLayout(line);
  connect(draw, &QPushButton::clicked, this, [this] {
    const int station = document().chain().motions.empty() ? 0 : document().chain().motions.front().station;
    PointsRequest wanted{tr("Click the corners of the region; Return or a double click closes it"),
                         [this](const std::vector<Point>& points) {
                           take(tr("region"), [&](MotionSettings& s) { s.region = points; });
                         }};
    wanted.station = station;
    Q_EMIT asked(wanted);
  });
  connect(whole, &QPushButton::clicked, this,
          [this] { take(tr("region"), [](MotionSettings& s) { s.region.clear(); }); });
  place_->addWidget(fields::section(tr("Prepare, for matching only")));
  place_->addWidget(flow_->background());
  high_pass_ = number(tr("high-pass radius"), tr("High-pass radius"), 0, 1000, 1, tr("px"),
                      [](MotionSettings& s, double v) { s.prepare.high_pass = v > 0 ? std::max(0.5, v) : 0; });
  high_pass_->setToolTip(tr("Takes slow changes of light out; 0 leaves the frames as they are"));
  contrast_ = number(tr("local contrast"), tr("Local contrast"), 0, 1000, 0, tr("px"),
                     [](MotionSettings& s, double v) { s.prepare.local_contrast = v > 0 ? std::max(4.0, v) : 0; });
  smoothing_ = number(tr("smoothing radius"), tr("Smoothing"), 0, 20, 1, tr("px"),
                      [](MotionSettings& s, double v) { s.prepare.smoothing = v > 0 ? std::max(0.1, v) : 0; });
}

void MotionPage::build_grid() {
  place_->addWidget(fields::section(tr("Grid")));
  step_x_ = number(tr("spacing"), tr("Spacing of points"), 1, 1000, 0, tr("px"),
                   [](MotionSettings& s, double v) { s.step_x = s.step_y = static_cast<int>(v); });
  size_ = number(tr("subset size"), tr("Subset size"), 9, 201, 0, tr("px"), [](MotionSettings& s, double v) {
    s.subset.size = static_cast<int>(v) | 1;  // a pixel is in the middle
  });
  of_surfaces_ = {last_label_, size_};
  size_->setSingleStep(2);
  reach_ = number(tr("search reaches"), tr("Reach of the first search"), 1, 10000, 0, tr("px"),
                  [](MotionSettings& s, double v) { s.subset.reach = v; });
  of_surfaces_.insert(of_surfaces_.end(), {last_label_, reach_});
  place_->addWidget(flow_->windows());
  overlap_ = fields::sentence(tr("Overlap of subsets"));
  place_->addWidget(overlap_);
  texture_ = fields::sentence(tr("What the texture promises"));
  wanted_ = new fields::Number(tr("Wanted uncertainty"), 0.001, 1, 3, tr("px"));
  wanted_->show_value(0.02);
  row(tr("wanted ±"), wanted_);
  button(tr("Check the texture"), [this] {
    Q_EMIT asked(TextureRequest{wanted_->value()});
  })->setToolTip(tr("Shows how well each point of the grid can be found, before anything is measured"));
  place_->addWidget(texture_);
  propose_ = button(tr("Take the proposed size"), [this] {
    const auto* t = this->document().motion_layer().texture();
    if (t && t->size) take(tr("subset size"), [&](MotionSettings& s) { s.subset.size = *t->size; });
  });
}

void MotionPage::build_measure() {
  place_->addWidget(fields::section(tr("Measure")));
  back_ = check_box(tr("match the way back, too"),
                    [this](bool on) { take(tr("way back"), [&](MotionSettings& s) { s.subset.back = on; }); });
  of_surfaces_.push_back(back_);
  try_ = button(tr("Try on this frame"), [this] { Q_EMIT asked(MotionRequest{false}); });
  all_ = button(tr("Measure all frames"), [this] { Q_EMIT asked(MotionRequest{true}); });
  all_->setProperty("primary", true);
  found_ = fields::sentence(tr("What was found"));
  place_->addWidget(found_);
}

void MotionPage::build_clean() {
  place_->addWidget(fields::section(tr("Clean up")));
  auto* grid = new QGridLayout;
  grid->setVerticalSpacing(3);
  grid->setColumnStretch(2, 1);
  for (int k = 0; k < static_cast<int>(rules_.size()); ++k) {
    const auto kind = static_cast<Kind>(k);
    RuleRow& rule = rules_[static_cast<std::size_t>(k)];
    rule.on = new QCheckBox(title_of(kind));
    rule.on->setAccessibleName(tr("Rule: %1").arg(title_of(kind)));
    rule.on->setToolTip(tip_of(kind));
    rule.says = fields::sentence(tr("What the rule does: %1").arg(title_of(kind)));
    rule.says->setWordWrap(false);
    rule.says->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    grid->addWidget(rule.on, k, 0);
    grid->addWidget(rule.says, k, kind == Kind::limits ? 1 : 2, 1, kind == Kind::limits ? 2 : 1);
    connect(rule.on, &QCheckBox::clicked, this, [this, kind](bool on) {
      const auto shown = this->document().motion_layer().shown();
      take(title_of(kind), [&](MotionSettings& s) {
        std::erase_if(s.clean, [&](const CleanRule& r) { return r.kind == kind; });
        if (!on) return;
        CleanRule rule = shown ? proposed_rule(shown->matched, kind) : CleanRule{kind, plain_limit(kind), {}};
        if (kind == Kind::back) s.subset.back = true;
        if (kind == Kind::limits && rule.outline.size() < 3) return;
        rule.limit = rounded_to(rule.limit, 2);
        s.clean.push_back(rule);
        std::ranges::stable_sort(s.clean, {}, &CleanRule::kind);
      });
    });
    if (kind == Kind::limits) continue;
    rule.limit = new fields::Number(tr("Limit: %1").arg(title_of(kind)), 0, 1e6, 4);
    rule.limit->setFixedWidth(70);
    grid->addWidget(rule.limit, k, 1);
    connect(rule.limit, &QDoubleSpinBox::valueChanged, this, [this, kind](double v) {
      take(title_of(kind), [&](MotionSettings& s) {
        for (CleanRule& r : s.clean)
          if (r.kind == kind) r.limit = v;
      });
    });
  }
  place_->addLayout(grid);
  fill_ = check_box(tr("fill holes; they stay marked"),
                    [this](bool on) { take(tr("holes"), [&](MotionSettings& s) { s.fill = on; }); });
}

void MotionPage::build_look() {
  place_->addWidget(fields::section(tr("Derive")));
  strain_on_ = check_box(tr("strain and rotation"), [this](bool on) {
    take(tr("strain"), [&](MotionSettings& s) { s.strain = on ? std::optional(5) : std::nullopt; });
  });
  window_ = number(tr("window"), tr("Window of strain"), 3, 101, 0, tr("points"), [](MotionSettings& s, double v) {
    if (s.strain) s.strain = static_cast<int>(v) | 1;
  });
  window_->setSingleStep(2);
  green_ = check_box(tr("Green–Lagrange: large strains"), [this](bool on) {
    take(tr("strain"),
         [&](MotionSettings& s) { s.measure = on ? StrainMeasure::green_lagrange : StrainMeasure::small; });
  });
  of_surfaces_.push_back(green_);
  gauge_ = fields::sentence(tr("Gauge length"));
  place_->addWidget(gauge_);
  place_->addWidget(flow_->derived());
  place_->addWidget(fields::section(tr("Look")));
  way_ = new QComboBox;
  way_->setAccessibleName(tr("Shown as"));
  way_->addItems({tr("nothing"), tr("arrows"), tr("map"), tr("contours"), tr("tracked points"), tr("deformed grid"),
                  tr("streamlines")});
  row(tr("shown as"), way_);
  quantity_ = new QComboBox;
  quantity_->setAccessibleName(tr("Quantity"));
  row(tr("colours tell"), quantity_);
  enlarged_ = new fields::Number(tr("Enlarged"), 0, 10000, 1);
  enlarged_->setToolTip(tr("How many times displacements are drawn as long; 0 chooses"));
  row(tr("enlarged"), enlarged_);
  const auto look = [this](const std::function<void(MotionLayer::Look&)>& body) {
    MotionLayer::Look next = this->document().motion_layer().look();
    body(next);
    this->document().motion_layer().set_look(next);
  };
  connect(way_, &QComboBox::activated, this,
          [look](int i) { look([&](MotionLayer::Look& l) { l.way = static_cast<MotionLayer::Look::Way>(i); }); });
  connect(quantity_, &QComboBox::activated, this, [look, this](int i) {
    look([&](MotionLayer::Look& l) { l.quantity = static_cast<MotionQuantity>(quantity_->itemData(i).toInt()); });
  });
  connect(enlarged_, &QDoubleSpinBox::valueChanged, this,
          [look](double v) { look([&](MotionLayer::Look& l) { l.enlarged = v; }); });
  all_frames_ = check_box(tr("one range of colours for all"),
                          [look](bool on) { look([&](MotionLayer::Look& l) { l.all_frames = on; }); });
  auto* picks = new QGridLayout;
  picks->setSpacing(4);
  struct Pick {
    QString text, hint;
    int count;  // of clicks; 0 for an outline
    void (*take)(MotionLayer&, const std::vector<Point>&);
  };
  const Pick kinds[] = {{tr("Chart a point…"), tr("Click a point: its course over the frames is charted"), 1,
                         [](MotionLayer& l, const std::vector<Point>& at) { l.chart(at[0]); }},
                        {tr("Chart a length…"), tr("Click two points: their distance over the frames is charted"), 2,
                         [](MotionLayer& l, const std::vector<Point>& at) { l.chart_between(at[0], at[1]); }},
                        {tr("Chart an area…"), tr("Click corners, Return closes: the mean over the frames is charted"),
                         0, [](MotionLayer& l, const std::vector<Point>& at) { l.chart_area(at); }},
                        {tr("Profile…"), tr("Click two points: what is shown is charted along the line"), 2,
                         [](MotionLayer& l, const std::vector<Point>& at) { l.set_profile(at[0], at[1]); }}};
  int at = 0;
  for (const Pick& kind : kinds) {
    auto* pick = new QPushButton(kind.text);
    pick->setAccessibleName(kind.text);
    picks->addWidget(pick, at / 2, at % 2);
    ++at;
    connect(pick, &QPushButton::clicked, this, [this, kind] {
      MotionLayer& layer = this->document().motion_layer();
      if (!layer.probe()) return;
      PointsRequest wanted{kind.hint, [this, kind](const std::vector<Point>& points) {
                             kind.take(this->document().motion_layer(), points);
                           }};
      wanted.station = layer.probe()->station;
      wanted.count = kind.count;
      Q_EMIT asked(wanted);
    });
  }
  place_->addLayout(picks);
  button(tr("Clear the charts"), [this] { this->document().motion_layer().clear_charts(); });
}

void MotionPage::build_trust() {
  place_->addWidget(fields::section(tr("How far to trust it")));
  button(tr("Test on a known movement"), [this] {
    Q_EMIT asked(MotionTrialRequest{});
  })->setToolTip(tr("Moves this frame by a known field, and measures it with these settings"));
  button(tr("Nothing moved here: say the noise"), [this] {
    Q_EMIT asked(StillPairRequest{});
  })->setToolTip(tr("What is then measured is the noise of displacement and strain on this set-up"));
  trust_ = fields::sentence(tr("How far to trust it"));
  place_->addWidget(trust_);
}

void MotionPage::build_out() {
  place_->addWidget(fields::section(tr("Out")));
  auto* grid = new QGridLayout;
  grid->setSpacing(4);
  const std::pair<QString, MotionExportRequest::What> kinds[] = {{tr("Table…"), MotionExportRequest::What::table},
                                                                 {tr("Maps…"), MotionExportRequest::What::maps},
                                                                 {tr("For viewers…"), MotionExportRequest::What::vtk},
                                                                 {tr("Mean…"), MotionExportRequest::What::mean}};
  for (const auto& [text, what] : kinds) {
    auto* out = new QPushButton(text);
    out->setAccessibleName(tr("Export: %1").arg(text));
    const int at = grid->count();
    grid->addWidget(out, at / 2, at % 2);
    connect(out, &QPushButton::clicked, this, [this, what = what] { Q_EMIT asked(MotionExportRequest{what, {}}); });
  }
  place_->addLayout(grid);
  auto* remove = new QPushButton(tr("Remove the movement"));
  remove->setAccessibleName(remove->text());
  place_->addWidget(remove);
  connect(remove, &QPushButton::clicked, this, [this] {
    Chain chain = this->document().chain();
    chain.motions.clear();
    this->document().session().show_motion_page(false);
    this->document().edit_chain(tr("remove the movement"), chain);
  });
}

}  // namespace fexel

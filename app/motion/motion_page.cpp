#include "app/motion/motion_page.h"

#include "app/ui/text.h"

namespace fexel {
namespace {

using Kind = CleanRule::Kind;

QString title_of(Kind kind) {
  const QString titles[] = {QObject::tr("texture"),       QObject::tr("glare"),     QObject::tr("correlation"),
                            QObject::tr("uncertainty"),   QObject::tr("way back"),  QObject::tr("limits"),
                            QObject::tr("far from mean"), QObject::tr("neighbours")};
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
      QObject::tr("Takes out points unlike their neighbours, by the normalised median test")};
  return tips[static_cast<std::size_t>(kind)];
}
double plain_limit(Kind kind) {
  constexpr double limits[] = {0.05, 0.05, 0.8, 0.05, 0.1, 0, 4, 2};
  return limits[static_cast<std::size_t>(kind)];
}

}  // namespace

MotionPage::MotionPage(Document& document) : InspectorPage(document, "align", tr("Movement")) {
  place_ = column();
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

void MotionPage::row(const QString& label, QWidget* field) {
  auto* line = new QHBoxLayout;
  if (!label.isEmpty()) {
    QLabel* text = fields::label_for(label, field);
    text->setMinimumWidth(112);
    line->addWidget(text);
  }
  line->addWidget(field, 1);
  place_->addLayout(line);
}

fields::Number* MotionPage::number(const QString& label, const QString& name, double low, double high, int decimals,
                                   const QString& unit, const std::function<void(MotionSettings&, double)>& put) {
  auto* field = new fields::Number(name, low, high, decimals, unit);
  row(label, field);
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
  if (!(chain == document().chain()))
    document().edit_chain(tr("movement: %1").arg(what), chain, QString("motion %1").arg(quintptr(sender())));
}

void MotionPage::build_frames() {
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
  high_pass_ = number(tr("high-pass radius"), tr("High-pass radius"), 0, 1000, 1, tr("px"),
                      [](MotionSettings& s, double v) { s.prepare.high_pass = v > 0 ? std::max(0.5, v) : 0; });
  high_pass_->setToolTip(tr("Takes slow changes of light out; 0 leaves the frames as they are"));
  contrast_ = number(tr("local contrast radius"), tr("Local contrast"), 0, 1000, 0, tr("px"),
                     [](MotionSettings& s, double v) { s.prepare.local_contrast = v > 0 ? std::max(4.0, v) : 0; });
  smoothing_ = number(tr("smoothing radius"), tr("Smoothing"), 0, 20, 1, tr("px"),
                      [](MotionSettings& s, double v) { s.prepare.smoothing = v > 0 ? std::max(0.1, v) : 0; });
}

void MotionPage::build_grid() {
  place_->addWidget(fields::section(tr("Grid and subsets")));
  step_x_ = number(tr("spacing"), tr("Spacing of points"), 1, 1000, 0, tr("px"),
                   [](MotionSettings& s, double v) { s.step_x = s.step_y = static_cast<int>(v); });
  size_ = number(tr("subset size"), tr("Subset size"), 9, 201, 0, tr("px"), [](MotionSettings& s, double v) {
    s.subset.size = static_cast<int>(v) | 1;  // a pixel is in the middle
  });
  size_->setSingleStep(2);
  reach_ = number(tr("search reaches"), tr("Reach of the first search"), 1, 10000, 0, tr("px"),
                  [](MotionSettings& s, double v) { s.subset.reach = v; });
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
  for (int k = 0; k < 8; ++k) {
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
  gauge_ = fields::sentence(tr("Gauge length"));
  place_->addWidget(gauge_);
  place_->addWidget(fields::section(tr("Look")));
  way_ = new QComboBox;
  way_->setAccessibleName(tr("Shown as"));
  way_->addItems({tr("nothing"), tr("arrows"), tr("map"), tr("contours"), tr("tracked points"), tr("deformed grid")});
  row(tr("shown as"), way_);
  quantity_ = new QComboBox;
  quantity_->setAccessibleName(tr("Quantity"));
  for (int i = 0; i < motion_quantities; ++i) quantity_->addItem(fexel::title_of(static_cast<MotionQuantity>(i)));
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
  connect(quantity_, &QComboBox::activated, this,
          [look](int i) { look([&](MotionLayer::Look& l) { l.quantity = static_cast<MotionQuantity>(i); }); });
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
  auto* line = new QHBoxLayout;
  const std::pair<QString, MotionExportRequest::What> kinds[] = {{tr("Table…"), MotionExportRequest::What::table},
                                                                 {tr("Maps…"), MotionExportRequest::What::maps},
                                                                 {tr("For viewers…"), MotionExportRequest::What::vtk}};
  for (const auto& [text, what] : kinds) {
    auto* out = new QPushButton(text);
    out->setAccessibleName(tr("Export: %1").arg(text));
    line->addWidget(out, 1);
    connect(out, &QPushButton::clicked, this, [this, what = what] { Q_EMIT asked(MotionExportRequest{what, {}}); });
  }
  place_->addLayout(line);
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

QString MotionPage::texture_text() const {
  const auto* t = document().motion_layer().texture();
  if (!t) return {};
  QString out = tr("Noise of at most %1 grey levels: %2 % of the points can be found to ± %3 px or better.")
                    .arg(text_of(number_text(t->noise, 1)), text_of(number_text(100 * t->share, 0)),
                         text_of(short_number(wanted_->value(), 2)));
  if (t->size)
    out += " " + tr("The smallest size at which 95 % can is %1 px.").arg(*t->size);
  else
    out += " " + tr("No size up to 101 px is enough for 95 % of them.");
  return out;
}

void MotionPage::show_clean() {
  const MotionLayer& layer = document().motion_layer();
  const auto& clean = layer.probe()->settings.clean;
  const auto shown = layer.shown();
  for (std::size_t k = 0; k < rules_.size(); ++k) {
    const auto at = std::ranges::find(clean, static_cast<Kind>(k), &CleanRule::kind);
    const bool on = at != clean.end();
    rules_[k].on->setChecked(on);
    if (rules_[k].limit) {
      rules_[k].limit->setEnabled(on);
      if (!rules_[k].limit->hasFocus()) rules_[k].limit->show_value(on ? at->limit : plain_limit(static_cast<Kind>(k)));
    }
    const auto index = static_cast<std::size_t>(at - clean.begin());
    QString says;
    if (on && shown && index < layer.effects().size()) {
      const CleanEffect& effect = layer.effects()[index];
      says = effect.taken == 0
                 ? tr("none")
                 : tr("−%1, %2 px")
                       .arg(effect.taken)
                       .arg(text_of(number_text(std::hypot(effect.mean_moves.x, effect.mean_moves.y), 3)));
    } else if (!on && static_cast<Kind>(k) == Kind::limits) {
      says = tr("drawn on the scatter");
    }
    rules_[k].says->setText(says);
    rules_[k].says->setToolTip(
        on && !says.isEmpty() ? tr("Points taken out, and by how much the mean of the rest moves") : QString());
  }
}

void MotionPage::show_findings() {
  const MotionLayer& layer = document().motion_layer();
  const auto shown = layer.shown();
  const auto frames = layer.frames();
  QString says;
  if (layer.outdated())
    says = tr("The settings or the chain have changed since: measure again, or undo.");
  else if (shown) {
    const MotionField& f = shown->field;
    says = tr("Frame %1: %2 of %3 points are ok").arg(shown->number).arg(f.count(MotionStatus::ok)).arg(f.used());
    const std::pair<MotionStatus, QString> others[] = {{MotionStatus::weak, tr("weak")},
                                                       {MotionStatus::masked, tr("masked")},
                                                       {MotionStatus::rejected, tr("rejected")},
                                                       {MotionStatus::filled, tr("filled")}};
    for (const auto& [status, word] : others)
      if (const int n = f.count(status)) says += QString(", %1 %2").arg(n).arg(word);
    const Point mean = layer.units().displacement(mean_of(f));
    std::vector<double> sigmas;
    for (const MotionPoint& p : f.points)
      if (p.good()) sigmas.push_back(std::max(p.sigma.x, p.sigma.y));
    const double scale = layer.units().pixel ? layer.units().pixel->mean() : 1;
    if (!sigmas.empty()) {
      std::ranges::nth_element(sigmas, sigmas.begin() + static_cast<std::ptrdiff_t>(sigmas.size() / 2));
      const double usual = scale * sigmas[sigmas.size() / 2];
      const int decimals = decimals_for(usual);
      says += tr(". Mean %1, %2 %4; a point is known to ± %3 %4.")
                  .arg(text_of(number_text(mean.x, decimals)), text_of(number_text(mean.y, decimals)),
                       text_of(short_number(usual, 2)), unit_text(layer.units().unit()));
    } else {
      says += ".";
    }
    if (layer.probe()->settings.against == MotionAgainst::first && f.reference != f.from)
      says += " " + tr("The reference was renewed at frame %1.").arg(f.reference + 1);
  } else if (!frames.empty()) {
    says = tr("%1 frames are measured; this one leads nowhere: displacements begin here, or it was left out.")
               .arg(frames.size());
  }
  if (frames.size() > 1) says += " " + tr("%1 frames are measured.").arg(frames.size());
  fields::say(found_, says, layer.outdated());
}

void MotionPage::refresh() {
  const MotionLayer& layer = document().motion_layer();
  const MotionProbe* probe = layer.probe();
  if (!probe) return;
  const MotionSettings& s = probe->settings;
  against_->setCurrentIndex(static_cast<int>(s.against));
  renew_->setChecked(s.renew);
  renew_->setVisible(s.against == MotionAgainst::first);
  fields::say(where_, s.region.empty() ? tr("The whole picture, but for masks.")
                                       : tr("A region with %1 corners, but for masks.").arg(s.region.size()));
  const auto show = [](fields::Number* field, double v) {
    if (!field->hasFocus()) field->show_value(v);
  };
  show(high_pass_, s.prepare.high_pass);
  show(contrast_, s.prepare.local_contrast);
  show(smoothing_, s.prepare.smoothing);
  show(step_x_, s.step_x);
  show(size_, s.subset.size);
  show(reach_, s.subset.reach);
  const double shared = std::max(0.0, 1 - static_cast<double>(s.step_x) / s.subset.size);
  fields::say(overlap_, shared > 0 ? tr("Neighbours share %1 % of their pixels: they are not independent.")
                                         .arg(text_of(number_text(100 * shared, 0)))
                                   : tr("Subsets do not overlap."));
  const QString texture = texture_text();
  fields::say(texture_, texture);
  texture_->setVisible(!texture.isEmpty());
  const auto* t = layer.texture();
  propose_->setVisible(t && t->size && *t->size != s.subset.size);
  back_->setChecked(s.subset.back);
  const bool sequence = document().frames().size() > 1;
  try_->setEnabled(sequence);
  all_->setEnabled(sequence);
  if (!sequence)
    fields::say(found_, tr("One picture is open: movement needs a sequence of frames."), true);
  else
    show_findings();
  show_clean();
  fill_->setChecked(s.fill);
  strain_on_->setChecked(s.strain.has_value());
  window_->setEnabled(s.strain.has_value());
  show(window_, s.strain.value_or(5));
  green_->setChecked(s.measure == StrainMeasure::green_lagrange);
  green_->setEnabled(s.strain.has_value());
  if (s.strain) {
    MotionGrid grid = layer.grid();
    grid.step_x = s.step_x;
    grid.step_y = s.step_y;
    const Point g = gauge_length(grid, strain_settings(s, layer.units()), s.subset.size);
    QString says = tr("A strain is a mean over %1 px").arg(g.x);
    if (layer.units().pixel)
      says += QString(" (%1 %2)")
                  .arg(text_of(short_number(g.x * layer.units().pixel->x, 3)), unit_text(layer.units().unit()));
    if (const auto shown = layer.shown()) {
      std::vector<double> sigmas;
      for (const auto& one : shown->strain)
        if (one) sigmas.push_back(one->sigma);
      if (!sigmas.empty()) {
        std::ranges::nth_element(sigmas, sigmas.begin() + static_cast<std::ptrdiff_t>(sigmas.size() / 2));
        says += tr(", known to ± %1 %").arg(text_of(short_number(100 * sigmas[sigmas.size() / 2], 2)));
      }
    }
    fields::say(gauge_, says + ".");
  }
  gauge_->setVisible(s.strain.has_value());
  way_->setCurrentIndex(static_cast<int>(layer.look().way));
  quantity_->setCurrentIndex(static_cast<int>(layer.look().quantity));
  show(enlarged_, layer.look().enlarged);
  all_frames_->setChecked(layer.look().all_frames);
  fields::say(trust_, layer.trust());
  trust_->setVisible(!layer.trust().isEmpty());
}

}  // namespace fexel

#include "app/compare/proof_sheet.h"

#include <QButtonGroup>
#include <QCheckBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QPushButton>

#include "app/canvas/drawing.h"
#include "app/document/document.h"
#include "app/steps/step_ui.h"
#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

constexpr int foot = 46;          // below a picture: its name and what it keeps
constexpr int magnification = 4;  // of differences
constexpr int cell_gap = 8;

QString words_of(Kernel kernel) {
  const auto share = [&](double f) { return static_cast<int>(std::lround(100 * frequency_response(kernel, f))); };
  return QObject::tr("%1 % of 4 px waves, %2 % of 2.5 px").arg(share(0.25)).arg(share(0.4));
}

QString words_of(BorderMode edge) {
  switch (edge) {
    case BorderMode::fill:
      return QObject::tr("empty beyond the picture");
    case BorderMode::extend:
      return QObject::tr("the last pixel goes on");
    case BorderMode::mirror:
      return QObject::tr("mirrored, the last pixel twice");
    case BorderMode::mirror_once:
      return QObject::tr("mirrored, the last pixel once");
    case BorderMode::tile:
      return QObject::tr("the picture again and again");
  }
  return {};
}

QString named(std::string_view word) {
  return QString::fromUtf8(word.data(), static_cast<qsizetype>(word.size()));
}

}  // namespace

ProofCell::ProofCell(ProofSheet& sheet, Proof proof) : sheet_(sheet), proof_(std::move(proof)) {
  setFocusPolicy(Qt::StrongFocus);
  setMinimumSize(140, 120);
  setCursor(Qt::PointingHandCursor);
  setAccessibleName(tr("Setting: %1").arg(proof_.name));
  setAccessibleDescription(proof_.says);
  setToolTip(
      tr("Click or Return to use it; drag to look elsewhere; wheel to zoom. The share of waves that is left is the "
         "kernel's frequency response."));
  constexpr int points = 24;
  for (int i = 0; proof_.kernel && i <= points; ++i)
    response_.push_back(frequency_response(*proof_.kernel, 0.5 * i / points));
  const Document& document = sheet_.document();
  layout_ = lay_out(proof_.chain, document.shape());
  if (layout_.result().run_start > 0)
    pictures_ = std::make_shared<const RunPictures>(document.source()->pixels, proof_.chain, layout_,
                                                    document.pictures().get());
  connect(&renderer_, &Renderer::ready, this, [this](const StationImage& image) {
    if (image.serial != serial_) return;
    drawn_ = image;
    corner_ = asked_corner_;
    sheet_.redraw();
    // The first picture makes tables and coefficients that the next ones find ready: its time is not the setting's.
    if (std::exchange(first_, false)) {
      ask();
      return;
    }
    sheet_.ask_next();
  });
}

QRect ProofCell::stage() const {
  return rect().adjusted(2, 2, -2, -foot);
}

bool ProofCell::ask() {
  const auto at = layout_.result().from_source.forward(sheet_.spot());
  if (!at || layout_.result().problem || stage().isEmpty()) return false;
  const double ratio = devicePixelRatioF(), zoom = sheet_.zoom();
  const double step = zoom * ratio < 1 ? 1 / (zoom * ratio) : 1;
  const QSizeF room = QSizeF(stage().size()) / zoom;
  RenderRequest request;
  request.source = sheet_.document().source()->pixels;
  request.pictures = pictures_;
  request.run_start = layout_.result().run_start;
  request.resampling = proof_.chain.resampling;
  request.step = step;
  request.left = std::floor(at->x - room.width() / 2);
  request.top = std::floor(at->y - room.height() / 2);
  const Size part{static_cast<int>(std::ceil(room.width() / step)) + 2,
                  static_cast<int>(std::ceil(room.height() / step)) + 2};
  // What the border mode makes beyond the frame is looked at, too.
  request.plan =
      plan_for_view(layout_, layout_.last(), Map(translation(request.left, request.top) * scaling(step, step)), part);
  request.serial = ++serial_;
  asked_corner_ = QPointF(stage().center()) + (QPointF(request.left, request.top) - QPointF(at->x, at->y)) * zoom;
  renderer_.request(std::move(request));
  return true;
}

void ProofCell::compare_with(const ProofCell* reference) {
  difference_ = {};
  if (reference && reference != this && reference->picture().size() == drawn_.image.size() && !drawn_.image.isNull())
    difference_ = enlarged_difference(reference->picture(), drawn_.image, magnification);
  update();
}

void ProofCell::paintEvent(QPaintEvent*) {
  const Theme& t = theme();
  QPainter painter(this);
  const bool current = sheet_.is_current(proof_);
  painter.fillRect(rect(), t.panel);
  painter.fillRect(stage(), t.surround);
  painter.save();
  painter.setClipRect(stage());
  if (layout_.result().problem) {
    painter.setPen(Qt::white);
    painter.setFont(text_font(9));
    painter.drawText(stage().adjusted(8, 8, -8, -8), Qt::AlignCenter | Qt::TextWordWrap,
                     text_of(layout_.result().problem->message()));
  } else if (!drawn_.image.isNull()) {
    const double side = drawn_.step * sheet_.zoom();
    const QRectF where(corner_, QSizeF(drawn_.image.width() * side, drawn_.image.height() * side));
    painter.fillRect(where, drawing::hatch());
    painter.drawImage(where, difference_.isNull() ? drawn_.image : difference_);
  }
  painter.restore();
  const QRect below = rect().adjusted(10, height() - foot + 4, -10, -4);
  painter.setFont(text_font(9.5, true));
  painter.setPen(t.ink);
  const QString name = current ? tr("%1 · in use").arg(proof_.name) : proof_.name;
  painter.drawText(below, Qt::AlignLeft | Qt::AlignTop, name);
  painter.setFont(text_font(8.5));
  painter.setPen(t.soft_ink);
  if (drawn_.seconds > 0)
    painter.drawText(below.adjusted(0, 1, 0, 0), Qt::AlignRight | Qt::AlignTop,
                     tr("%1 ms").arg(number_shown(number_text(1000 * drawn_.seconds, drawn_.seconds < 0.01 ? 1 : 0))));
  const int curve = proof_.kernel ? 64 : 0;
  painter.drawText(below.adjusted(0, 18, -curve, 0), Qt::AlignLeft | Qt::AlignTop | Qt::TextWordWrap, proof_.says);
  if (proof_.kernel) paint_response(painter, QRect(below.right() - 54, below.bottom() - 20, 54, 20));
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(current ? t.teal : t.line, current ? 3 : 1));
  painter.drawRect(QRectF(rect()).adjusted(1, 1, -1, -1));
  if (!hasFocus()) return;
  painter.setPen(QPen(t.teal, 1, Qt::DotLine));
  painter.drawRect(QRectF(rect()).adjusted(4, 4, -4, -4));
}

/// From waves without end at the left to two pixels a wave at the right.
void ProofCell::paint_response(QPainter& painter, QRect box) const {
  painter.save();
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(theme().line, 1));
  painter.drawLine(box.bottomLeft(), box.bottomRight());
  QPainterPath path;
  const int points = static_cast<int>(response_.size()) - 1;
  for (int i = 0; i <= points; ++i) {
    const QPointF p(box.left() + box.width() * double(i) / points,
                    box.bottom() - box.height() * std::min(1.15, response_[static_cast<std::size_t>(i)]));
    i == 0 ? path.moveTo(p) : path.lineTo(p);
  }
  painter.setPen(QPen(theme().teal, 1.6));
  painter.drawPath(path);
  painter.restore();
}

void ProofCell::resizeEvent(QResizeEvent*) {
  sheet_.ask_all();
}

void ProofCell::mousePressEvent(QMouseEvent* event) {
  setFocus();
  pressed_ = last_ = event->position();
}

void ProofCell::mouseMoveEvent(QMouseEvent* event) {
  if (!(event->buttons() & Qt::LeftButton)) return;
  sheet_.pan(event->position() - last_);
  last_ = event->position();
}

void ProofCell::mouseReleaseEvent(QMouseEvent* event) {
  if ((event->position() - pressed_).manhattanLength() < 4) sheet_.take(proof_);
}

void ProofCell::wheelEvent(QWheelEvent* event) {
  sheet_.zoom_by(std::pow(1.25, event->angleDelta().y() / 120.0));
}

void ProofCell::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
    case Qt::Key_Return:
    case Qt::Key_Enter:
      sheet_.take(proof_);
      return;
    case Qt::Key_Left:
      return sheet_.pan({40, 0});
    case Qt::Key_Right:
      return sheet_.pan({-40, 0});
    case Qt::Key_Up:
      return sheet_.pan({0, 40});
    case Qt::Key_Down:
      return sheet_.pan({0, -40});
    case Qt::Key_Plus:
      return sheet_.zoom_by(1.25);
    case Qt::Key_Minus:
      return sheet_.zoom_by(0.8);
    default:
      QWidget::keyPressEvent(event);
  }
}

ProofSheet::ProofSheet(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  setAccessibleName(tr("Proof sheet"));
  setAutoFillBackground(true);
  setFocusPolicy(Qt::StrongFocus);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(cell_gap, cell_gap, cell_gap, cell_gap);
  auto* head = new QHBoxLayout;
  auto* title = new QLabel(tr("Proof sheet"));
  title->setFont(text_font(11, true));
  head->addWidget(title);
  bar_ = new QHBoxLayout;
  head->addSpacing(12);
  head->addLayout(bar_);
  head->addStretch(1);
  place_ = new QLabel;
  head->addWidget(place_);
  differences_ = new QCheckBox(tr("differences ×%1").arg(magnification));
  differences_->setAccessibleName(tr("Show differences to the setting in use"));
  connect(differences_, &QCheckBox::clicked, this, &ProofSheet::redraw);
  head->addWidget(differences_);
  auto* save = fields::word_button(tr("save figure…"));
  connect(save, &QPushButton::clicked, this, &ProofSheet::figure_wanted);
  head->addWidget(save);
  auto* close = fields::word_button(tr("close"));
  close->setAccessibleName(tr("Close the proof sheet"));
  connect(close, &QPushButton::clicked, this, [this] {
    hide();
    Q_EMIT closed();
  });
  head->addWidget(close);
  column->addLayout(head);
  grid_ = new QGridLayout;
  grid_->setSpacing(cell_gap);
  column->addLayout(grid_, 1);
  group_ = new QButtonGroup(this);
  connect(group_, &QButtonGroup::idClicked, this, [this](int id) {
    choice_ = id;
    if (id == 1) look_at_edge();
    build();
  });
  connect(&document_, &Document::changed, this, [this] {
    if (isVisible()) build();
  });
  hide();
}

/// BorderMode rules are alike inside the picture: the spot moves to the edge that is nearest.
void ProofSheet::look_at_edge() {
  const Size size = document_.shape().size;
  const double right = size.width - spot_.x, bottom = size.height - spot_.y;
  const double least = std::min({spot_.x, spot_.y, right, bottom});
  if (least == spot_.x || least == right)
    spot_.x = least == right ? size.width : 0;
  else
    spot_.y = least == bottom ? size.height : 0;
}

QStringList ProofSheet::choices() const {
  QStringList out{tr("kernel"), tr("border mode")};
  const int step = document_.selected_step();
  if (step < 0) return out;
  if (const auto variants = selected_variants(); !variants.all.empty()) out << variants.choice;
  return out;
}

StepVariants ProofSheet::selected_variants() const {
  const int step = document_.selected_step();
  if (step < 0) return {};
  const StepKind& kind = document_.chain().steps[static_cast<std::size_t>(step)].kind;
  return ui_of(kind).variants(kind);
}

std::vector<Proof> ProofSheet::proofs() const {
  std::vector<Proof> out;
  const Chain& chain = document_.chain();
  const auto add = [&](const QString& name, const QString& says, auto change) {
    Proof proof{name, says, chain, {}};
    change(proof.chain);
    out.push_back(std::move(proof));
  };
  const int selected = document_.selected_step();
  const auto step = [&](Chain& c) -> StepKind& { return c.steps[static_cast<std::size_t>(selected)].kind; };
  if (choice_ == 1) {
    for (const auto word : border_mode_names()) {
      const BorderMode edge = *border_mode_named(word);
      add(named(word), words_of(edge), [&](Chain& c) {
        const auto own = selected >= 0 ? ui_of(step(c)).with_border_mode(step(c), edge) : std::nullopt;
        if (own)
          step(c) = *own;
        else
          c.resampling.edge = edge;
      });
    }
  } else if (choice_ == 2 && selected >= 0) {
    for (const StepVariant& variant : selected_variants().all) {
      Chain with = chain;
      step(with) = variant.step;
      QString says = variant.says;
      if (says.isEmpty()) {
        const Size size = lay_out(with, document_.shape()).result().size;
        says = tr("result of %1 × %2 px").arg(size.width).arg(size.height);
      }
      out.push_back({variant.name, says, std::move(with), {}});
    }
  } else {
    for (const auto word : kernel_names()) {
      const Kernel kernel = *kernel_named(word);
      add(named(word), kernel == Kernel::area ? tr("for shrinking: the mean under each pixel") : words_of(kernel),
          [&](Chain& c) { c.resampling.kernel = kernel; });
      out.back().kernel = kernel;
    }
  }
  return out;
}

void ProofSheet::open_at(Point source, double zoom) {
  spot_ = source;
  zoom_ = std::clamp(zoom, 0.25, 32.0);
  choice_ = 0;
  differences_->setChecked(false);
  show();
  raise();
  build();
  if (!cells_.empty()) cells_.front()->setFocus();
}

void ProofSheet::build() {
  const QStringList names = choices();
  choice_ = std::min(choice_, static_cast<int>(names.size()) - 1);
  for (QAbstractButton* button : group_->buttons()) {
    group_->removeButton(button);
    button->hide();
    button->deleteLater();
  }
  for (int i = 0; i < names.size(); ++i) {
    auto* button = new QPushButton(names[i]);
    button->setCheckable(true);
    button->setChecked(i == choice_);
    button->setProperty("mode", true);
    button->setAccessibleName(tr("Choice: %1").arg(names[i]));
    group_->addButton(button, i);
    bar_->addWidget(button);
    button->show();
  }
  const int focused =
      static_cast<int>(std::ranges::find_if(cells_, [](auto* c) { return c->hasFocus(); }) - cells_.begin());
  const bool had_focus = focused < static_cast<int>(cells_.size());
  for (ProofCell* cell : cells_) {
    cell->hide();
    cell->deleteLater();
  }
  cells_.clear();
  waiting_.clear();
  const std::vector<Proof> all = proofs();
  const int columns = all.size() > 4 ? 3 : std::max(1, static_cast<int>(all.size() + 1) / (all.size() > 3 ? 2 : 1));
  for (std::size_t i = 0; i < all.size(); ++i) {
    auto* cell = new ProofCell(*this, all[i]);
    grid_->addWidget(cell, static_cast<int>(i) / columns, static_cast<int>(i) % columns);
    cells_.push_back(cell);
    cell->show();
  }
  if (had_focus && focused < static_cast<int>(cells_.size())) cells_[static_cast<std::size_t>(focused)]->setFocus();
  // Results of other sizes have no differences pixel by pixel.
  const Size first = all.empty() ? Size{} : lay_out(all.front().chain, document_.shape()).result().size;
  differences_->setEnabled(std::ranges::all_of(
      all, [&](const Proof& proof) { return lay_out(proof.chain, document_.shape()).result().size == first; }));
  redraw();
}

void ProofSheet::redraw() {
  place_->setText(tr("about %1, %2 px of the source · %3 %")
                      .arg(number_shown(number_text(spot_.x, 0)), number_shown(number_text(spot_.y, 0)))
                      .arg(static_cast<int>(std::lround(100 * zoom_ * devicePixelRatioF()))));
  for (ProofCell* cell : cells_) cell->compare_with(reference());
}

/// One after the other, so that each one's time is its own.
void ProofSheet::ask_all() {
  waiting_.assign(cells_.begin(), cells_.end());
  ask_next();
}

void ProofSheet::ask_next() {
  while (!waiting_.empty()) {
    ProofCell* cell = waiting_.front();
    waiting_.pop_front();
    if (cell->ask()) return;
  }
}

void ProofSheet::pan(QPointF by) {
  const Station& result = document_.layout().result();
  const auto at = result.from_source.forward(spot_);
  if (!at) return;
  if (const auto back = result.from_source.backward({at->x - by.x() / zoom_, at->y - by.y() / zoom_})) spot_ = *back;
  ask_all();
  redraw();
}

void ProofSheet::zoom_by(double factor) {
  zoom_ = std::clamp(zoom_ * factor, 0.05, 64.0);
  ask_all();
  redraw();
}

void ProofSheet::take(const Proof& proof) {
  // The cells are made anew by the change, this one among them.
  const Proof copy = proof;
  document_.edit_chain(tr("take %1").arg(copy.name), copy.chain);
}

bool ProofSheet::is_current(const Proof& proof) const {
  return proof.chain == document_.chain();
}

const ProofCell* ProofSheet::reference() const {
  if (!differences_->isChecked() || !differences_->isEnabled()) return nullptr;
  for (const ProofCell* cell : cells_)
    if (is_current(cell->proof())) return cell;
  return cells_.empty() ? nullptr : cells_.front();
}

QStringList ProofSheet::caption() const {
  QStringList names;
  for (const ProofCell* cell : cells_) names << cell->proof().name;
  const QString shown = reference()
                            ? tr("differences to “%1”, %2 times").arg(reference()->proof().name).arg(magnification)
                            : tr("%1 %").arg(static_cast<int>(std::lround(100 * zoom_)));
  return {tr("One spot, about %1, %2 px of the source, under: %3.")
              .arg(number_shown(number_text(spot_.x, 0)), number_shown(number_text(spot_.y, 0)), names.join(", ")),
          tr("Shown: %1.").arg(shown)};
}

void ProofSheet::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape || event->key() == Qt::Key_P) {
    hide();
    Q_EMIT closed();
    return;
  }
  QWidget::keyPressEvent(event);
}

}  // namespace fexel

#include "app/window/masks_panel.h"

#include <QFileDialog>
#include <QFileInfo>
#include <QMessageBox>

#include "app/canvas/overlays/mask_handles.h"
#include "app/ui/text.h"

namespace fexel {
namespace {

QString shape_word(Mask::Shape shape) {
  const QString words[] = {QObject::tr("rectangle"), QObject::tr("circle"), QObject::tr("ring"),
                           QObject::tr("polygon")};
  return words[static_cast<int>(shape)];
}

/// "all", or numbers and ranges of frames.
QString frames_text(const std::vector<int>& frames) {
  if (frames.empty()) return QObject::tr("all");
  QStringList parts;
  for (std::size_t i = 0; i < frames.size();) {
    std::size_t last = i;
    while (last + 1 < frames.size() && frames[last + 1] == frames[last] + 1) ++last;
    parts << (last > i ? QString("%1-%2").arg(frames[i]).arg(frames[last]) : QString::number(frames[i]));
    i = last + 1;
  }
  return parts.join(", ");
}

/// Nothing where the text says no frames.
std::optional<std::vector<int>> frames_of(const QString& text, int count) {
  std::vector<int> out;
  if (text.trimmed().isEmpty() || text.trimmed().compare(QObject::tr("all"), Qt::CaseInsensitive) == 0) return out;
  for (const QString& part : text.split(',')) {
    const QStringList ends = part.trimmed().split('-');
    bool first_sound = false, last_sound = false;
    const int first = ends.front().toInt(&first_sound), last = ends.back().toInt(&last_sound);
    if (!first_sound || !last_sound || ends.size() > 2 || first < 1 || last < first || last > std::max(count, 1))
      return std::nullopt;
    for (int i = first; i <= last; ++i) out.push_back(i);
  }
  std::ranges::sort(out);
  out.erase(std::unique(out.begin(), out.end()), out.end());
  return out;
}

}  // namespace

MasksPanel::MasksPanel(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  // Long because it lays the page out, from top to bottom.
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(6);
  column->addWidget(fields::section(tr("Masks: what matching leaves out")));
  list_ = new QListWidget;
  list_->setAccessibleName(tr("Masks"));
  share_ = fields::sentence(tr("How much is left out"));
  const auto row_of = [&](const std::vector<std::pair<QString, std::function<void()>>>& buttons,
                          const QString& prefix) {
    auto* row = new QHBoxLayout;
    row->setSpacing(4);
    for (const auto& [text, body] : buttons) {
      auto* button = new QPushButton(text);
      button->setAccessibleName(prefix + text);
      connect(button, &QPushButton::clicked, this, [body = body] { body(); });
      row->addWidget(button);
    }
    column->addLayout(row);
    return row;
  };
  row_of({{tr("Rectangle"), [this] { draw(Mask::Shape::rectangle); }},
          {tr("Circle"), [this] { draw(Mask::Shape::circle); }},
          {tr("Ring"), [this] { draw(Mask::Shape::ring); }},
          {tr("Polygon"), [this] { draw(Mask::Shape::polygon); }}},
         tr("Draw: "));
  row_of({{tr("Suggest glare"), [this] { suggest(Useless::saturated); }},
          {tr("Suggest flat parts"), [this] { suggest(Useless::flat); }}},
         {});

  column->addWidget(list_);
  column->addWidget(share_);
  one_ = new QWidget;
  auto* grid = new QGridLayout(one_);
  grid->setContentsMargins(0, 0, 0, 0);
  grid->setVerticalSpacing(4);
  grid->setColumnStretch(1, 1);
  use_ = new fields::Segments(tr("What the mask does"), {tr("leave out"), tr("only here")});
  grid->addWidget(use_, 0, 0, 1, 2);
  connect(use_, &fields::Segments::chosen, this,
          [this](int i) { take([i](Mask& m) { m.use = i == 1 ? Mask::Use::only : Mask::Use::leave_out; }); });
  frames_ = new QLineEdit;
  frames_->setAccessibleName(tr("Frames that the mask is for"));
  frames_->setPlaceholderText(tr("all, or 1, 3-5"));
  grid->addWidget(fields::label_for(tr("frames"), frames_), 1, 0);
  grid->addWidget(frames_, 1, 1);
  connect(frames_, &QLineEdit::editingFinished, this, [this] {
    const auto frames = frames_of(frames_->text(), static_cast<int>(document_.frames().size()));
    if (!frames) {
      fields::say(
          said_, tr("\"%1\" are no frames of this sequence. Give all, or numbers such as 1, 3-5.").arg(frames_->text()),
          true);
      return;
    }
    fields::say(said_, {});
    take([&](Mask& m) { m.frames = *frames; });
  });
  for (int i = 0; i < 4; ++i) {
    numbers_[i] = new fields::Number(tr("mask number %1").arg(i + 1), -1e6, 1e6, 1, tr("px"));
    labels_[i] = fields::label_for({}, numbers_[i]);
    labels_[i]->setMinimumWidth(84);
    grid->addWidget(labels_[i], 2 + i, 0);
    grid->addWidget(numbers_[i], 2 + i, 1);
    connect(numbers_[i], &QDoubleSpinBox::valueChanged, this, [this, i](double v) {
      take([&](Mask& m) {
        if (i < 2) {
          const double by = v - (i == 0 ? m.points[0].x : m.points[0].y);
          for (Point& p : m.points) (i == 0 ? p.x : p.y) += by;
        } else if (m.shape == Mask::Shape::rectangle) {
          (i == 2 ? m.points[1].x : m.points[1].y) = (i == 2 ? m.points[0].x : m.points[0].y) + std::max(1.0, v);
        } else if (m.shape == Mask::Shape::ring && i == 3) {
          m.inner = std::clamp(v, 0.0, m.radius - 0.5);
        } else {
          m.radius = std::max(v, m.inner + 0.5);
        }
      });
    });
  }
  auto* remove = new QPushButton(tr("Remove this mask"));
  remove->setAccessibleName(remove->text());
  connect(remove, &QPushButton::clicked, this, [this] { document_.remove_mask(document_.session().mask()); });
  grid->addWidget(remove, 6, 0, 1, 2);
  column->addWidget(one_);

  auto* files = row_of({{tr("Load masks…"),
                         [this] {
                           const QString path = QFileDialog::getOpenFileName(
                               this, tr("Masks, or a chain that has some"), {}, tr("Masks and chains (*.json)"));
                           if (!path.isEmpty()) load(path);
                         }},
                        {tr("Save masks…"),
                         [this] {
                           const QString path = QFileDialog::getSaveFileName(
                               this, tr("Save the masks"), "masks.fexel.json", tr("Masks (*.fexel.json)"));
                           if (!path.isEmpty()) save(path, true);
                         }}},
                       {});
  save_ = qobject_cast<QPushButton*>(files->itemAt(1)->widget());
  said_ = fields::sentence(tr("What the masks leave out"));
  column->addWidget(said_);
  connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
    if (row != document_.session().mask()) document_.session().select_mask(row);
  });
  connect(&document_, &Document::selection_changed, this, &MasksPanel::refresh);
}

const Mask* MasksPanel::selected() const {
  const int at = document_.session().mask();
  return at < 0 ? nullptr : &document_.chain().masks[static_cast<std::size_t>(at)];
}

void MasksPanel::draw(Mask::Shape shape) {
  fields::say(said_, {});
  if (shape == Mask::Shape::polygon) {
    Q_EMIT asked(PointsRequest{tr("Click the corners; Return or a double click closes, Backspace takes one back"),
                               [this](const std::vector<Point>& points) {
                                 Mask mask;
                                 mask.shape = Mask::Shape::polygon;
                                 mask.points = points;
                                 add({mask}, tr("add a mask"));
                               }});
    return;
  }
  Q_EMIT asked(LineRequest{shape == Mask::Shape::rectangle ? tr("Drag from corner to corner of what is not to be used")
                                                           : tr("Drag from the centre to the edge"),
                           [this, shape](Point a, Point b) { add({drawn_mask(shape, a, b)}, tr("add a mask")); }});
}

void MasksPanel::add(std::vector<Mask> masks, const QString& text) {
  Chain chain = document_.chain();
  for (Mask& mask : masks) {
    if (mask.name.empty()) mask.name = tr("mask %1").arg(chain.masks.size() + 1).toStdString();
    chain.masks.push_back(std::move(mask));
  }
  document_.edit_chain(text, chain);
  document_.session().select_mask(static_cast<int>(chain.masks.size()) - 1);
}

void MasksPanel::suggest(Useless what) {
  if (!document_.source() || search_.running()) return;
  fields::say(said_, tr("Looking…"));
  search_.start(
      {},
      [this, what, pixels = document_.source()->pixels](const Job& job) -> Background::Finish {
        auto made = std::make_shared<std::vector<Mask>>(suggested_masks(pixels->base(), what, job));
        return [this, what, made, pixels] {
          if (!document_.source() || document_.source()->pixels != pixels) return;  // another frame by now
          if (made->empty()) {
            fields::say(said_, what == Useless::saturated
                                   ? tr("Nothing in this frame is saturated over more than 32 px.")
                                   : tr("No part of this frame is flatter than the rest."));
            return;
          }
          // For all frames, to be edited: glare stays where the lamp is, and a flat part with what it shows.
          const auto count = made->size();
          add(std::move(*made), tr("suggest masks"));
          fields::say(said_,
                      tr("%1 suggested from this frame. Move, change or remove them as you see fit.").arg(count));
        };
      },
      [this](const Error& error) { fields::say(said_, text_of(error), true); });
}

void MasksPanel::take(const std::function<void(Mask&)>& body, const QString& merge) {
  const Mask* now = selected();
  if (!now) return;
  Mask next = *now;
  body(next);
  document_.change_mask(document_.session().mask(), next, merge);
}

void MasksPanel::load(const QString& path) {
  try {
    const Chain chain = load_chain(path.toStdString());
    if (chain.masks.empty())
      throw call_error("This file holds no masks.", path.toStdString(), "Choose one that was saved here, or a chain.");
    add(chain.masks, tr("load masks"));
    const auto count = chain.masks.size();
    const QString name = QFileInfo(path).fileName();
    fields::say(said_, count == 1 ? tr("One mask was read from %1.").arg(name)
                                  : tr("%1 masks were read from %2.").arg(count).arg(name));
  } catch (const Error& error) {
    fields::say(said_, text_of(error), true);
  }
}

void MasksPanel::save(const QString& path, bool replace) {
  try {
    write_text(path.toStdString(), write_masks(document_.chain().masks), replace, document_.protected_paths().get());
    fields::say(said_, tr("Saved: %1.").arg(QFileInfo(path).fileName()));
  } catch (const Error& error) {
    fields::say(said_, text_of(error), true);
  }
}

void MasksPanel::refresh() {
  const auto& masks = document_.chain().masks;
  const int at = document_.session().mask();
  {
    const QSignalBlocker quiet(list_);
    while (list_->count() > static_cast<int>(masks.size())) delete list_->takeItem(list_->count() - 1);
    for (std::size_t i = 0; i < masks.size(); ++i) {
      const Mask& mask = masks[i];
      QString text = QString("%1: %2, %3")
                         .arg(text_of(mask.name), shape_word(mask.shape),
                              mask.use == Mask::Use::only ? tr("only here") : tr("left out"));
      if (!mask.frames.empty()) text += tr(", frames %1").arg(frames_text(mask.frames));
      if (static_cast<int>(i) >= list_->count()) list_->addItem(text);
      if (auto* item = list_->item(static_cast<int>(i)); item->text() != text) item->setText(text);
    }
    list_->setCurrentRow(at);
  }
  constexpr int max_rows = 6;
  const int row = std::max(list_->sizeHintForRow(0), 16);
  list_->setFixedHeight(row * std::clamp(list_->count(), 1, max_rows) + 2 * list_->frameWidth() + 2);
  list_->setVisible(!masks.empty());
  share_->setVisible(!masks.empty());
  save_->setEnabled(!masks.empty());
  const Mask* mask = selected();
  one_->setVisible(mask != nullptr);
  if (!masks.empty() && document_.source()) {
    const double share = share_left_out(document_.chain().masks, document_.frame(), document_.shape().size);
    fields::say(share_, tr("%1 % of this frame is left out of matching.").arg(100 * share, 0, 'f', 1));
  }
  if (!mask) return;
  use_->show_current(mask->use == Mask::Use::only ? 1 : 0);
  if (!frames_->hasFocus()) frames_->setText(frames_text(mask->frames));
  const bool rectangle = mask->shape == Mask::Shape::rectangle, polygon = mask->shape == Mask::Shape::polygon,
             ring = mask->shape == Mask::Shape::ring;
  const QString words[] = {rectangle || polygon ? tr("x") : tr("centre x"),
                           rectangle || polygon ? tr("y") : tr("centre y"),
                           rectangle ? tr("width")
                           : ring    ? tr("outer radius")
                                     : tr("radius"),
                           rectangle ? tr("height") : tr("inner radius")};
  const Point first = mask->points[0];
  const double values[] = {first.x, first.y, rectangle ? mask->points[1].x - first.x : mask->radius,
                           rectangle ? mask->points[1].y - first.y : mask->inner};
  for (int i = 0; i < 4; ++i) {
    const bool on = !polygon && (i < 3 || rectangle || ring);
    labels_[i]->setText(words[i]);
    numbers_[i]->setAccessibleName(tr("mask: %1").arg(words[i]));
    labels_[i]->setVisible(on);
    numbers_[i]->setVisible(on);
    numbers_[i]->show_value(values[i]);
  }
}

}  // namespace fexel

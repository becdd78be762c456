#include "app/pipeline/tile.h"

#include <QDrag>
#include <QLineEdit>
#include <QMimeData>
#include <algorithm>

#include "app/canvas/drawing.h"
#include "app/steps/step_ui.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"
#include "chain/evaluate.h"

namespace fexel {
namespace {

constexpr const char* flag_type = "application/x-fexel-flag";

}  // namespace

QString tile_title(const Document& document, int tile) {
  if (tile == 0) return QObject::tr("Source");
  if (document.is_result_tile(tile)) return QObject::tr("Result");
  const Step& step = document.chain().steps[static_cast<std::size_t>(tile) - 1];
  return step.name.empty() ? step_title(word_of(step.kind)) : text_of(step.name);
}

Tile::Tile(Document& document, int index, QWidget* parent)
    : QAbstractButton(parent), document_(document), index_(index) {
  setFixedSize(tile_width, tile_height + 8);
  setFocusPolicy(Qt::StrongFocus);
  setCheckable(false);
  setAcceptDrops(true);
  refresh();
}

void Tile::refresh() {
  const Layout& layout = document_.layout();
  const Station& station = layout.stations[static_cast<std::size_t>(document_.station_of_tile(index_))];
  problem_ = false;
  off_ = false;
  title_ = tile_title(document_, index_);
  if (index_ == 0) {
    pictogram_ = "source";
    parameter_ = document_.source() ? QFileInfo(document_.source()->path).fileName() : tr("nothing open");
  } else if (document_.is_result_tile(index_)) {
    pictogram_ = "result";
    problem_ = std::ranges::any_of(layout.stations, [](const Station& s) { return s.problem.has_value(); });
    parameter_ = problem_ ? tr("a step cannot be made")
                 : resamplings(layout, layout.last()) == 0
                     ? how_made(layout, layout.last())
                     : tr("%1 · %2").arg(how_made(layout, layout.last()),
                                         QString::fromUtf8(name_of(document_.chain().resampling.kernel).data()));
  } else {
    const Step& step = document_.chain().steps[static_cast<std::size_t>(index_) - 1];
    pictogram_ = ui_of(step.kind).pictogram();
    parameter_ = parameter_text(step, station);
    problem_ = station.problem.has_value();
    off_ = !step.on;
  }
  size_ = document_.source() ? size_text(station) : QString();
  setAccessibleName(tr("%1, %2").arg(title_, parameter_));
  setAccessibleDescription(size_);
  setToolTip(station.problem && index_ > 0 && !document_.is_result_tile(index_)
                 ? text_of(station.problem->message() + " " + station.problem->remedy())
                 : QString());
  refresh_coordinates();
  update();
}

void Tile::refresh_coordinates() {
  QString text;
  const int station = document_.station_of_tile(index_);
  if (const auto& pointer = document_.session().pointer(); pointer && document_.source()) {
    const Carried c = carry(document_.layout(), pointer->point, pointer->station, station);
    const Station& here = document_.layout().stations[static_cast<std::size_t>(station)];
    const auto& pixel = here.pixel;
    const Point at = here.axes ? here.axes->coordinates(c.point)
                     : pixel   ? Point{c.point.x * pixel->x, c.point.y * pixel->y}
                               : c.point;
    if (c.status == CarryStatus::beyond_horizon)
      // Only flat maps have a horizon; under the others a point may have no place for other reasons.
      text = map_between(document_.layout(), pointer->station, station).planar() ? tr("beyond the horizon")
                                                                                 : tr("no place here");
    else if (pixel)
      text = QString("x %1  y %2 %3")
                 .arg(number_shown(number_text(at.x, decimals_for(pixel->x))),
                      number_shown(number_text(at.y, decimals_for(pixel->y))), unit_text(pixel->unit));
    else
      text = QString("x %1  y %2 px").arg(number_shown(number_text(at.x, 1)), number_shown(number_text(at.y, 1)));
    if (c.status == CarryStatus::empty) text += tr(" · empty");
  }
  // Without a selected measurement the first one is shown, so that it can be compared along the rail.
  const int shown_one = document_.session().measurement() >= 0   ? document_.session().measurement()
                        : document_.chain().measurements.empty() ? -1
                                                                 : 0;
  if (const int measurement = shown_one; text.isEmpty() && measurement >= 0 && document_.source()) {
    const Reading& reading = document_.readings(station)[static_cast<std::size_t>(measurement)];
    if (reading.value) {
      const QString value = QString(": %1 %2").arg(
          number_shown(number_text(reading.value->value, reading.uncertainty ? decimals_for(*reading.uncertainty) : 1)),
          unit_text(reading.value->unit));
      // A long name is cut, and never the number.
      const QFontMetrics metrics(text_font(8.5, true));
      text = metrics.elidedText(text_of(document_.chain().measurements[static_cast<std::size_t>(measurement)].name),
                                Qt::ElideRight, width() - 16 - metrics.horizontalAdvance(value)) +
             value;
    }
  }
  if (text == coordinates_) return;
  coordinates_ = text;
  update(0, 55, width(), 24);
}

QRect Tile::flag_rect(bool b) const {
  return {b ? width() - 24 : width() - 48, 0, 20, 24};
}

void Tile::paintEvent(QPaintEvent*) {
  const Theme& t = theme();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const bool selected = document_.state().selected == index_;
  const QRectF box(0.75, 4.75, width() - 1.5, tile_height - 1.5);
  painter.setPen(QPen(problem_ ? t.brick : selected || hasFocus() ? t.teal : t.line, selected || hasFocus() ? 1.6 : 1));
  painter.setBrush(selected ? t.field : t.panel);
  painter.drawRoundedRect(box, 6, 6);
  if (selected) {
    painter.setPen(QPen(t.teal, 3, Qt::SolidLine, Qt::FlatCap));
    painter.drawLine(QPointF(8, tile_height + 6), QPointF(width() - 8, tile_height + 6));
  }
  if (hasFocus()) {
    painter.setPen(QPen(t.teal, 1, Qt::DotLine));
    painter.setBrush(Qt::NoBrush);
    painter.drawRoundedRect(box.adjusted(3, 3, -3, -3), 4, 4);
  }
  painter.setOpacity(off_ ? 0.45 : 1);
  painter.drawPixmap(QPointF(8, 13), pictogram(pictogram_, 26, devicePixelRatioF()));
  const auto put = [&](QRect where, const QFont& font, const QColor& colour, const QString& text) {
    painter.setFont(font);
    painter.setPen(colour);
    painter.drawText(where, Qt::AlignLeft | Qt::AlignVCenter,
                     QFontMetrics(font).elidedText(text, Qt::ElideRight, where.width()));
  };
  // The title has all the room that flags leave.
  const bool has_a = document_.state().flag_a == index_, has_b = document_.state().flag_b == index_;
  const int right = has_a ? flag_rect(false).left() : has_b ? flag_rect(true).left() : width();
  put({40, 9, right - 44, 17}, text_font(9, true), t.ink, title_);
  put({40, 25, width() - 44 - (has_motion() ? 80 : 0), 16}, text_font(8), problem_ ? t.brick : t.soft_ink, parameter_);
  painter.setPen(t.line);
  painter.drawLine(8, 44, width() - 8, 44);
  // Where both do not fit, the pixel size tells what the numbers before it are.
  const QRect size_at{9, 46, width() - 14, 16};
  QString size = size_;
  if (QFontMetrics(text_font(8)).horizontalAdvance(size) > size_at.width())
    size.replace(QStringLiteral(" px · "), QStringLiteral(" · "));
  put(size_at, text_font(8), t.soft_ink, size);
  put({9, 61, width() - 14, 17}, text_font(8.5, true), t.ink, coordinates_);
  painter.setOpacity(1);
  if (has_motion()) {
    // What is measured here over all frames, as a tag that opens its page.
    const QRectF tag = motion_rect();
    painter.setPen(Qt::NoPen);
    painter.setBrush(t.teal);
    painter.drawRoundedRect(tag, 4, 4);
    painter.setPen(t.panel);
    painter.setFont(text_font(8, true));
    painter.drawText(tag, Qt::AlignCenter, tr("movement"));
  }
  for (const bool b : {false, true}) {
    if ((b ? document_.state().flag_b : document_.state().flag_a) != index_) continue;
    const QRectF r = flag_rect(b);
    painter.setPen(Qt::NoPen);
    painter.setBrush(drawing::flag_colour(b));
    painter.drawPolygon(QPolygonF({r.topLeft(), r.topRight(), r.bottomRight() - QPointF(0, 5),
                                   QPointF(r.center().x(), r.bottom()), r.bottomLeft() - QPointF(0, 5)}));
    painter.setPen(Qt::white);
    painter.setFont(text_font(9, true));
    painter.drawText(r.adjusted(0, 0, 0, -5), Qt::AlignCenter, b ? "B" : "A");
  }
}

bool Tile::has_motion() const {
  const auto& motions = document_.chain().motions;
  return !motions.empty() && motions.front().station == document_.station_of_tile(index_) &&
         !(document_.is_result_tile(index_) && index_ > document_.layout().last());
}

QRectF Tile::motion_rect() const {
  return {width() - 80.0, 26, 73, 15};
}

void Tile::mousePressEvent(QMouseEvent* event) {
  if (has_motion() && motion_rect().contains(event->position())) {
    Q_EMIT clicked();
    document_.session().show_motion_page(true);
    return;
  }
  for (const bool b : {false, true})
    if ((b ? document_.state().flag_b : document_.state().flag_a) == index_ &&
        flag_rect(b).contains(event->position().toPoint())) {
      auto* data = new QMimeData;
      data->setData(flag_type, b ? "B" : "A");
      auto* drag = new QDrag(this);
      drag->setMimeData(data);
      drag->exec(Qt::MoveAction);
      return;
    }
  pressed_ = event->position().toPoint();
  carried_ = false;
  QAbstractButton::mousePressEvent(event);
}

void Tile::mouseMoveEvent(QMouseEvent* event) {
  const bool is_step = index_ > 0 && !document_.is_result_tile(index_);
  if (is_step && (event->buttons() & Qt::LeftButton) &&
      (carried_ || (event->position().toPoint() - pressed_).manhattanLength() >= QApplication::startDragDistance())) {
    carried_ = true;
    setDown(false);
    setCursor(Qt::ClosedHandCursor);
    Q_EMIT dragged(event->globalPosition().toPoint());
    return;
  }
  QAbstractButton::mouseMoveEvent(event);
}

void Tile::mouseReleaseEvent(QMouseEvent* event) {
  if (!carried_) {
    QAbstractButton::mouseReleaseEvent(event);
    return;
  }
  carried_ = false;
  unsetCursor();
  Q_EMIT dropped(event->globalPosition().toPoint());
}

void Tile::keyPressEvent(QKeyEvent* event) {
  // Along the rail: a button would only pass the keyboard on.
  if (event->key() == Qt::Key_Left || event->key() == Qt::Key_Right) return event->ignore();
  QAbstractButton::keyPressEvent(event);
}

void Tile::contextMenuEvent(QContextMenuEvent* event) {
  Q_EMIT menu_wanted(event->globalPos());
}

void Tile::mouseDoubleClickEvent(QMouseEvent*) {
  rename();
}

void Tile::rename() {
  if (index_ < 1 || document_.is_result_tile(index_)) return;
  auto* field = new QLineEdit(title_, this);
  field->setAccessibleName(tr("Name of the step"));
  field->setFont(text_font(9, true));
  field->setGeometry(36, 7, width() - 88, 22);
  field->setMaxLength(60);
  field->selectAll();
  field->installEventFilter(this);
  connect(field, &QLineEdit::editingFinished, this, [this, field] {
    if (field->isHidden()) return;
    const QString name = field->text();
    field->hide();
    field->deleteLater();
    setFocus();
    const Step& step = document_.chain().steps[static_cast<std::size_t>(index_) - 1];
    if (name != title_) Q_EMIT renamed(name == step_title(word_of(step.kind)) ? QString() : name);
  });
  field->show();
  field->setFocus();
}

bool Tile::eventFilter(QObject* watched, QEvent* event) {
  auto* field = qobject_cast<QLineEdit*>(watched);
  if (field && event->type() == QEvent::KeyPress && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) {
    field->hide();
    field->deleteLater();
    setFocus();
    return true;
  }
  return QAbstractButton::eventFilter(watched, event);
}

void Tile::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasFormat(flag_type)) event->acceptProposedAction();
}

void Tile::dropEvent(QDropEvent* event) {
  Q_EMIT flag_dropped(event->mimeData()->data(flag_type) == "B", index_);
  event->acceptProposedAction();
}

}  // namespace fexel

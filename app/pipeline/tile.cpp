#include "app/pipeline/tile.h"

#include <QDrag>
#include <QLineEdit>
#include <QMimeData>
#include <algorithm>

#include "app/canvas/canvas_overlay.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"
#include "chain/evaluate.h"

namespace fexel {
namespace {

constexpr const char* flag_type = "application/x-fexel-flag";

struct Said {
  QString title, purpose, also;  // also: other words that people look for it by
};

Said said_of(const std::string& word) {
  static const std::map<std::string, Said> words = {
      {QuarterStep::word,
       {QObject::tr("Quarter turn"), QObject::tr("turn by whole quarters, bit for bit"),
        QObject::tr("rotate 90 180 270 degrees portrait landscape upright")}},
      {MirrorStep::word,
       {QObject::tr("Mirror"), QObject::tr("left and right, or up and down, change places"),
        QObject::tr("flip reverse handedness reflect")}},
      {TurnStep::word,
       {QObject::tr("Turn"), QObject::tr("turn by any angle"),
        QObject::tr("rotate straighten level plumb tilted slanted angle degrees horizon")}},
      {ShiftStep::word,
       {QObject::tr("Shift"), QObject::tr("move the picture in its window"),
        QObject::tr("move translate offset displace")}},
      {CropStep::word,
       {QObject::tr("Crop"), QObject::tr("cut out a rectangle"), QObject::tr("trim region of interest window ratio")}},
      {ResizeStep::word,
       {QObject::tr("Resize"), QObject::tr("another size, by pixels, factor or pixel size"),
        QObject::tr("scale resample enlarge shrink zoom dpi resolution thumbnail")}},
      {ReduceStep::word,
       {QObject::tr("Reduce"), QObject::tr("blocks of pixels to one each"),
        QObject::tr("bin average downsample smaller sum")}},
      {PadStep::word,
       {QObject::tr("Pad"), QObject::tr("more pixels around the picture"),
        QObject::tr("border margin extend canvas frame")}},
      {MatrixStep::word,
       {QObject::tr("Matrix"), QObject::tr("any planar map, by its nine numbers"),
        QObject::tr("affine projective homography transform shear")}},
      {RectifyStep::word,
       {QObject::tr("Rectify"), QObject::tr("lay a known rectangle square, so that lengths are true"),
        QObject::tr("perspective straighten keystone square homography facade plane corners")}},
      {TiltStep::word,
       {QObject::tr("Tilt"), QObject::tr("turn the picture's plane in space"),
        QObject::tr("perspective pitch yaw roll rotate in space")}},
      {LensStep::word,
       {QObject::tr("Lens"), QObject::tr("undo the distortion of a lens, or add it"),
        QObject::tr("distortion barrel pincushion undistort straight lines")}},
      {FitStep::word,
       {QObject::tr("Fit"), QObject::tr("lay control points on where they belong"),
        QObject::tr("affine projective polynomial thin-plate spline warp register control points landmarks pairs")}},
      {UnwrapStep::word,
       {QObject::tr("Unwrap"), QObject::tr("roll a ring out to a strip"),
        QObject::tr("polar ring rim circle dial cylinder")}},
      {BandsStep::word,
       {QObject::tr("Bands"), QObject::tr("grey, or some bands in another order"),
        QObject::tr("channels colour color red green blue grey gray")}},
      {ContrastStep::word,
       {QObject::tr("Even contrast"), QObject::tr("the same contrast everywhere"),
        QObject::tr("equalise equalize local brightness")}},
      {HighpassStep::word,
       {QObject::tr("High-pass"), QObject::tr("take slow changes of light away"),
        QObject::tr("background flatten shading illumination")}},
      {DenoiseStep::word,
       {QObject::tr("Denoise"), QObject::tr("median or Gaussian of the surroundings"),
        QObject::tr("median gaussian smooth blur noise")}},
      {ConvolveStep::word,
       {QObject::tr("Convolve"), QObject::tr("sums of neighbours with a kernel of your own"),
        QObject::tr("filter sharpen edge derivative sobel kernel")}},
      {AlignStep::word,
       {QObject::tr("Align"), QObject::tr("bring all frames, or bands, to one of them"),
        QObject::tr("register stack sequence stabilise stabilize drift channels")}}};
  return words.at(word);
}

QString plain(double value) {
  return text_of(short_number(value, 6));
}

QString parameter_of(const QuarterStep& step) {
  const int turns = ((step.turns % 4) + 4) % 4;
  return turns == 0   ? QObject::tr("no turn")
         : turns == 2 ? QObject::tr("half turn")
         : turns == 1 ? QObject::tr("90° counter-clockwise")
                      : QObject::tr("90° clockwise");
}

QString parameter_of(const MirrorStep& step) {
  return step.reverse == 'x' ? QObject::tr("left ↔ right") : QObject::tr("up ↔ down");
}

QString parameter_of(const TurnStep& step) {
  if (step.degrees == 0) return QObject::tr("no turn");
  return step.degrees < 0 ? QObject::tr("%1° clockwise").arg(plain(-step.degrees))
                          : QObject::tr("%1° counter-clockwise").arg(plain(step.degrees));
}

QString parameter_of(const ShiftStep& step) {
  return QObject::tr("%1 px %2, %3 px %4")
      .arg(plain(std::abs(step.dx)), step.dx < 0 ? QObject::tr("left") : QObject::tr("right"), plain(std::abs(step.dy)),
           step.dy < 0 ? QObject::tr("up") : QObject::tr("down"));
}

QString parameter_of(const CropStep& step) {
  if (std::holds_alternative<CropValid>(step.what)) return QObject::tr("to the area without gaps");
  if (const auto* ratio = std::get_if<CropRatio>(&step.what))
    return QString("%1 : %2").arg(ratio->across).arg(ratio->down);
  const auto& r = std::get<CropRectangle>(step.what);
  return QObject::tr("from %1, %2").arg(r.x).arg(r.y);
}

QString parameter_of(const ResizeStep& step) {
  if (step.scale)
    return step.scale->first == step.scale->second
               ? QString("× %1").arg(plain(step.scale->first))
               : QString("× %1, × %2").arg(plain(step.scale->first), plain(step.scale->second));
  if (step.pixel_size) return QObject::tr("to %1 %2/px").arg(plain(*step.pixel_size), unit_text(step.unit));
  if (step.width && step.height) return QObject::tr("to %1 × %2 px").arg(*step.width).arg(*step.height);
  return step.width ? QObject::tr("to %1 px across").arg(*step.width) : QObject::tr("to %1 px down").arg(*step.height);
}

QString parameter_of(const ReduceStep& step) {
  const QString by = step.factor_x == step.factor_y ? QObject::tr("by %1").arg(step.factor_x)
                                                    : QObject::tr("by %1 × %2").arg(step.factor_x).arg(step.factor_y);
  static const char* const takes[] = {QT_TR_NOOP("first"), QT_TR_NOOP("mean"), QT_TR_NOOP("median"), QT_TR_NOOP("min"),
                                      QT_TR_NOOP("max")};
  return by + ", " + QObject::tr(takes[static_cast<std::size_t>(step.take)]);
}

QString parameter_of(const PadStep& step) {
  if (step.left == step.right && step.left == step.top && step.left == step.bottom)
    return QObject::tr("%1 px all around").arg(step.left);
  return QObject::tr("%1, %2, %3, %4 px").arg(step.left).arg(step.top).arg(step.right).arg(step.bottom);
}

QString parameter_of(const MatrixStep& step) {
  return step.matrix(2, 0) == 0 && step.matrix(2, 1) == 0 ? QObject::tr("affine") : QObject::tr("projective");
}

QString parameter_of(const RectifyStep& step) {
  if (step.shape == RectifyStep::Shape::ratio)
    return QObject::tr("as %1 to 1").arg(text_of(short_number(step.ratio, 4)));
  if (step.shape == RectifyStep::Shape::estimated) return QObject::tr("ratio estimated");
  return QString("%1 × %2 %3")
      .arg(text_of(short_number(step.width, 5)), text_of(short_number(step.height, 5)), unit_text(step.unit));
}

QString parameter_of(const TiltStep& step) {
  return QObject::tr("%1°, %2°, %3°").arg(plain(step.about_x), plain(step.about_y), plain(step.about_z));
}

QString parameter_of(const LensStep& step) {
  return (step.add ? QObject::tr("add, k1 %1") : QObject::tr("undo, k1 %1")).arg(plain(step.terms.k1));
}

QString parameter_of(const FitStep& step) {
  const auto used = std::ranges::count_if(step.pairs, [](const PointPair& pair) { return pair.use; });
  return QObject::tr("%1, %2 pairs").arg(text_of(name_of(step.model))).arg(used);
}

QString parameter_of(const UnwrapStep& step) {
  return QObject::tr("radius %1 to %2 px").arg(plain(step.inner), plain(step.outer));
}

QString parameter_of(const BandsStep& step) {
  if (step.take.empty()) return QObject::tr("grey");
  QStringList numbers;
  for (const int number : step.take) numbers << QString::number(number);
  return QObject::tr("band %1").arg(numbers.join(", "));
}

QString parameter_of(const ContrastStep& step) {
  return QObject::tr("tiles of %1 px").arg(step.tile);
}

QString parameter_of(const HighpassStep& step) {
  return QObject::tr("within %1 px").arg(plain(step.radius));
}

QString parameter_of(const DenoiseStep& step) {
  return (step.median ? QObject::tr("median, radius %1 px") : QObject::tr("Gaussian, radius %1 px"))
      .arg(plain(step.radius));
}

QString parameter_of(const ConvolveStep& step) {
  return QObject::tr("%1 × %2 numbers").arg(step.kernel.width).arg(step.kernel.height);
}

QString parameter_of(const AlignStep& step) {
  if (step.frames.empty()) return QObject::tr("not searched yet");
  const auto matched =
      std::ranges::count_if(step.frames, [](const FoundFrame& f) { return f.status != MatchStatus::failed; });
  return QObject::tr("%1 of %2 matched").arg(matched).arg(step.frames.size());
}

}  // namespace

QString step_title(const std::string& word) {
  return said_of(word).title;
}

const std::vector<std::string>& steps_in_order() {
  static const std::vector<std::string> words = {
      RectifyStep::word,  FitStep::word,      CropStep::word,    TurnStep::word,     QuarterStep::word,
      MirrorStep::word,   ShiftStep::word,    ResizeStep::word,  ReduceStep::word,   PadStep::word,
      TiltStep::word,     UnwrapStep::word,   LensStep::word,    MatrixStep::word,   BandsStep::word,
      ContrastStep::word, HighpassStep::word, DenoiseStep::word, ConvolveStep::word, AlignStep::word};
  return words;
}

QString step_purpose(const std::string& word) {
  return said_of(word).purpose;
}

QString called(const Step& step) {
  return step.name.empty() ? step_title(word_of(step.kind)).toLower() : "“" + text_of(step.name) + "”";
}

QString tile_title(const Document& document, int tile) {
  if (tile == 0) return QObject::tr("Source");
  if (document.is_result_tile(tile)) return QObject::tr("Result");
  const Step& step = document.chain().steps[static_cast<std::size_t>(tile) - 1];
  return step.name.empty() ? step_title(word_of(step.kind)) : text_of(step.name);
}

bool step_answers(const std::string& word, const QString& wanted) {
  const Said said = said_of(word);
  const QString all = said.title + ' ' + said.purpose + ' ' + said.also;
  return std::ranges::all_of(wanted.split(' ', Qt::SkipEmptyParts),
                             [&](const QString& part) { return all.contains(part, Qt::CaseInsensitive); });
}

QString parameter_text(const Step& step, const Station& made) {
  if (made.problem) return QObject::tr("cannot be made");
  if (!step.on) return QObject::tr("off");
  return std::visit([](const auto& kind) { return parameter_of(kind); }, step.kind);
}

QString pixel_text(const PixelSize& pixel) {
  const QString unit = unit_text(pixel.unit);
  return pixel.square()
             ? QString("%1 %2/px").arg(text_of(short_number(pixel.mean())), unit)
             : QString("%1 × %2 %3/px").arg(text_of(short_number(pixel.x)), text_of(short_number(pixel.y)), unit);
}

QString size_text(const Station& s) {
  const QString text = QString("%1 × %2 px").arg(s.size.width).arg(s.size.height);
  return s.pixel ? text + " · " + pixel_text(*s.pixel) : text;
}

QString extent_text(Size size, const PixelSize& pixel) {
  return QString("%1 × %2 %3")
      .arg(text_of(short_number(size.width * pixel.x)), text_of(short_number(size.height * pixel.y)),
           unit_text(pixel.unit));
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
    pictogram_ = word_of(step.kind);
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
  if (const auto& pointer = document_.pointer(); pointer && document_.source()) {
    const Carried c = carry(document_.layout(), pointer->point, pointer->station, station);
    const auto& pixel = document_.layout().stations[static_cast<std::size_t>(station)].pixel;
    if (c.status == CarryStatus::beyond_horizon)
      // Only flat maps have a horizon; under the others a point may have no place for other reasons.
      text = map_between(document_.layout(), pointer->station, station).planar() ? tr("beyond the horizon")
                                                                                 : tr("no place here");
    else if (pixel)
      text = QString("x %1  y %2 %3")
                 .arg(text_of(number_text(c.point.x * pixel->x, decimals_for(pixel->x))),
                      text_of(number_text(c.point.y * pixel->y, decimals_for(pixel->y))), unit_text(pixel->unit));
    else
      text = QString("x %1  y %2 px").arg(text_of(number_text(c.point.x, 1)), text_of(number_text(c.point.y, 1)));
    if (c.status == CarryStatus::empty) text += tr(" · empty");
  }
  // Without a chosen gauge the first one is told, so that lengths are there to be compared along the rail.
  const int told = document_.selected_gauge() >= 0    ? document_.selected_gauge()
                   : document_.chain().gauges.empty() ? -1
                                                      : 0;
  if (const int gauge = told; text.isEmpty() && gauge >= 0 && document_.source()) {
    const GaugeReading& reading = document_.readings(station)[static_cast<std::size_t>(gauge)];
    if (reading.length) {
      const QString value = QString(": %1 %2").arg(
          text_of(number_text(reading.length->value, reading.uncertainty ? decimals_for(*reading.uncertainty) : 1)),
          unit_text(reading.length->unit));
      // A long name is cut, and never the number.
      const QFontMetrics metrics(text_font(8.5, true));
      text = metrics.elidedText(text_of(document_.chain().gauges[static_cast<std::size_t>(gauge)].name), Qt::ElideRight,
                                width() - 16 - metrics.horizontalAdvance(value)) +
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
  put({40, 9, width() - 92, 17}, text_font(9, true), t.ink, title_);
  put({40, 25, width() - 44, 16}, text_font(8), problem_ ? t.brick : t.soft_ink, parameter_);
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
  for (const bool b : {false, true}) {
    if ((b ? document_.state().flag_b : document_.state().flag_a) != index_) continue;
    const QRectF r = flag_rect(b);
    painter.setPen(Qt::NoPen);
    painter.setBrush(overlay::flag_colour(b));
    painter.drawPolygon(QPolygonF({r.topLeft(), r.topRight(), r.bottomRight() - QPointF(0, 5),
                                   QPointF(r.center().x(), r.bottom()), r.bottomLeft() - QPointF(0, 5)}));
    painter.setPen(Qt::white);
    painter.setFont(text_font(9, true));
    painter.drawText(r.adjusted(0, 0, 0, -5), Qt::AlignCenter, b ? "B" : "A");
  }
}

void Tile::mousePressEvent(QMouseEvent* event) {
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

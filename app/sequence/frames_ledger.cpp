#include "app/sequence/frames_ledger.h"

#include <QHeaderView>

#include "app/document/follow.h"
#include "app/sequence/frames_column.h"
#include "app/ui/chart.h"
#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {

FramesModel::FramesModel(Document& document, QObject* parent) : QAbstractTableModel(parent), document_(document) {
  const auto follow = [this] {
    const auto now = static_cast<int>(document_.frames().size());
    if (now != rows_) {
      beginResetModel();
      rows_ = now;
      endResetModel();
    } else if (rows_ > 0) {
      Q_EMIT dataChanged(index(0, 0), index(rows_ - 1, columns - 1));
    }
  };
  connect(&document_, &Document::changed, this, follow);
  connect(&document_, &Document::opened, this, follow);
  follow();
}

int FramesModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : rows_;
}
int FramesModel::columnCount(const QModelIndex&) const {
  return columns;
}

QVariant FramesModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  const QString words[] = {tr("frame"), tr("x, px"), tr("y, px"), tr("angle, °"),
                           tr("scale"), tr("score"), tr("± px"),  tr("match")};
  return words[section];
}

std::optional<double> FramesModel::number(const FoundFrame& found, int column) const {
  if (found.status == MatchStatus::failed) return std::nullopt;
  if (found.by_hand && (column == score || column == uncertainty)) return std::nullopt;
  const Motion motion = document_.motion_of_frame(found);
  switch (column) {
    case shift_x:
      return motion.shift.x;
    case shift_y:
      return motion.shift.y;
    case turn:
      return motion.degrees;
    case scale:
      return motion.scale;
    case score:
      return found.score;
    case uncertainty:
      return found.uncertainty_px;
    default:
      return std::nullopt;
  }
}

QVariant FramesModel::data(const QModelIndex& index, int role) const {
  const auto row = static_cast<std::size_t>(index.row());
  if (row >= document_.frames().size()) return {};
  const FrameFile& frame = document_.frames()[row];
  const AlignStep* align = document_.align_step();
  const FoundFrame* found = align && row < align->frames.size() ? &align->frames[row] : nullptr;
  if (role == Qt::TextAlignmentRole)
    return static_cast<int>((index.column() == name || index.column() == status ? Qt::AlignLeft : Qt::AlignRight) |
                            Qt::AlignVCenter);
  if (role == Qt::ToolTipRole && found) return text_of(found->reason);
  if (role == Qt::ForegroundRole && found && found->status == MatchStatus::failed && index.column() == status)
    return theme().brick;
  if (role != Qt::DisplayRole) return {};
  if (index.column() == name) {
    const QString time = frame_time(document_, index.row());
    return QString("%1  %2").arg(frame_number_text(document_, index.row()), frame_name(frame)) +
           (time.isEmpty() || (frame.info && frame.info->time) ? QString() : "  " + time);
  }
  if (!found) return index.column() == status ? tr("not yet") : QVariant();
  if (index.column() == status)
    return found->by_hand                            ? tr("by hand")
           : found->status == MatchStatus::ok        ? tr("ok")
           : found->status == MatchStatus::weak      ? tr("weak: %1").arg(text_of(found->reason))
           : found->status == MatchStatus::ambiguous ? tr("ambiguous: %1").arg(text_of(found->reason))
                                                     : tr("not matched: %1").arg(text_of(found->reason));
  const auto value = number(*found, index.column());
  if (!value) return QStringLiteral("–");
  const int decimals = index.column() == scale ? 5 : index.column() == turn ? 4 : index.column() == uncertainty ? 4 : 3;
  return number_shown(number_text(*value, decimals));
}

QString FramesModel::csv() const {
  QString out = QStringLiteral("frame,name,x_px,y_px,turn_deg,scale,score,uncertainty_px,status\n");
  const AlignStep* align = document_.align_step();
  for (int i = 0; i < rows_; ++i) {
    const auto k = static_cast<std::size_t>(i);
    out += QString("%1,%2").arg(i + 1).arg(frame_name(document_.frames()[k]));
    const FoundFrame* found = align && k < align->frames.size() ? &align->frames[k] : nullptr;
    for (int column = shift_x; column <= uncertainty; ++column) {
      const auto value = found ? number(*found, column) : std::nullopt;
      out += value ? "," + QString::number(*value, 'g', 12) : QStringLiteral(",");
    }
    out += "," + QString(found ? name_of(found->status) : "") + "\n";
  }
  return out;
}

FramesLedger::FramesLedger(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(12);
  model_ = new FramesModel(document, this);
  table_ = fields::table(tr("What each frame did"), model_, 21);
  table_->horizontalHeader()->setSectionResizeMode(QHeaderView::ResizeToContents);
  table_->horizontalHeader()->setSectionResizeMode(FramesModel::status, QHeaderView::Stretch);
  table_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  row->addWidget(table_, 3);
  table_->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(table_, &QWidget::customContextMenuRequested, this, [this](QPoint at) {
    if (const QModelIndex index = table_->indexAt(at); index.isValid())
      Q_EMIT menu_wanted(index.row(), table_->viewport()->mapToGlobal(at));
  });
  plot_ = new QCustomPlot;
  plot_->setAccessibleName(tr("Drift: how far each frame lies from the reference"));
  dress(*plot_);
  const std::pair<QString, QColor> curves[] = {{tr("x"), theme().a}, {tr("y"), theme().b}};
  for (int k = 0; k < 2; ++k) {
    QCPGraph* graph = plot_->addGraph();
    graph->setName(curves[k].first);
    graph->setPen(QPen(curves[k].second, 1.4, k == 0 ? Qt::SolidLine : Qt::DashLine));
    graph->setScatterStyle(QCPScatterStyle(k == 0 ? QCPScatterStyle::ssDisc : QCPScatterStyle::ssSquare, 5));
  }
  plot_->xAxis->setLabel(tr("frame"));
  plot_->yAxis->setLabel(tr("shift, px"));
  for (int k = 0; k < 2; ++k) {
    ends_[k] = new QCPItemText(plot_);
    ends_[k]->setText(curves[k].first);
    ends_[k]->setFont(text_font(9, true));
    ends_[k]->setColor(curves[k].second);
    ends_[k]->setPositionAlignment(Qt::AlignLeft | Qt::AlignVCenter);
    ends_[k]->setPadding(QMargins(5, 0, 0, 0));
    ends_[k]->setClipToAxisRect(false);
  }
  row->addWidget(plot_, 2);
  connect(table_->selectionModel(), &QItemSelectionModel::currentRowChanged, this, [this](const QModelIndex& current) {
    if (current.isValid() && current.row() != document_.frame()) Q_EMIT frame_wanted(current.row());
  });
  follow_changes(document_, this, 120, [this] { refresh(); });
  refresh();
}

void FramesLedger::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  // In a narrow window the numbers have the room.
  constexpr int narrow = 740;
  plot_->setVisible(width() >= narrow);
}

QString FramesLedger::summary() const {
  const AlignStep* align = document_.align_step();
  if (!align || align->frames.empty()) return tr("not searched yet");
  const auto count = [align](MatchStatus status) {
    return std::ranges::count(align->frames, status, &FoundFrame::status);
  };
  const auto weak = count(MatchStatus::weak), ambiguous = count(MatchStatus::ambiguous),
             failed = count(MatchStatus::failed);
  QString text = tr("%1 matched").arg(count(MatchStatus::ok));
  if (weak > 0) text += tr(", %1 weak").arg(weak);
  if (ambiguous > 0) text += tr(", %1 ambiguous").arg(ambiguous);
  if (failed > 0) text += tr(", %1 not matched").arg(failed);
  return text;
}

void FramesLedger::refresh() {
  const AlignStep* align = document_.align_step();
  table_->setColumnHidden(FramesModel::scale,
                          align && (align->model == Model::translation || align->model == Model::rigid));
  table_->setColumnHidden(FramesModel::turn, align && align->model == Model::translation);
  QVector<double> at[2], value[2];
  const auto& time = document_.chain().time_step;
  plot_->xAxis->setLabel(time ? tr("time, %1").arg(unit_text(time->unit)) : tr("frame"));
  double low = 0, high = 0;
  if (align) {
    for (std::size_t i = 0; i < align->frames.size(); ++i) {
      const FoundFrame& f = align->frames[i];
      if (f.status == MatchStatus::failed) continue;
      const Motion motion = document_.motion_of_frame(f);
      const double shift[2] = {motion.shift.x, motion.shift.y};
      for (int k = 0; k < 2; ++k) {
        at[k] << (time ? static_cast<double>(i) * time->value : static_cast<double>(i + 1));
        value[k] << shift[k];
        low = std::min(low, shift[k]);
        high = std::max(high, shift[k]);
      }
    }
  }
  for (int k = 0; k < 2; ++k) {
    plot_->graph(k)->setData(at[k], value[k]);
    ends_[k]->setVisible(!at[k].isEmpty());
    if (!at[k].isEmpty()) ends_[k]->position->setCoords(at[k].last(), value[k].last());
  }
  const double room = std::max(0.5, 0.12 * (high - low));
  const double count = static_cast<double>(std::max<std::size_t>(document_.frames().size(), 2));
  if (time) {
    plot_->xAxis->setTicker(QSharedPointer<QCPAxisTicker>::create());
    plot_->xAxis->setRange(-0.5 * time->value, (count * 1.06 - 0.5) * time->value);
  } else {
    const auto ticker = QSharedPointer<QCPAxisTickerFixed>::create();
    ticker->setTickStep(std::ceil(count / 8));
    plot_->xAxis->setTicker(ticker);
    plot_->xAxis->setRange(0.5, count * 1.06 + 0.5);
  }
  plot_->yAxis->setRange(low - room, high + room);
  plot_->replot(QCustomPlot::rpQueuedReplot);
  const int row = document_.frame();
  if (row < model_->rowCount() && table_->currentIndex().row() != row) {
    const QSignalBlocker quiet(table_->selectionModel());
    table_->setCurrentIndex(model_->index(row, 0));
    table_->scrollTo(model_->index(row, 0));
    table_->viewport()->update();
  }
}

}  // namespace fexel

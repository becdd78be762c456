#include "app/pairs/pairs_model.h"

#include "app/pairs/reference.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {

PairsModel::PairsModel(Document& document, QObject* parent) : QAbstractTableModel(parent), document_(document) {
  connect(&document.pairs_review(), &PairsReview::changed, this, [this] {
    if (rowCount() > 0) Q_EMIT dataChanged(index(0, left_out), index(rowCount() - 1, left_out));
  });
}

int PairsModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() || !step_ ? 0 : static_cast<int>(step_->pairs.size());
}

int PairsModel::columnCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : columns;
}

void PairsModel::refresh() {
  const FitStep* now = selected_fit(document_);
  if (!now || step_ == *now) return;
  const int before = rowCount(), after = static_cast<int>(now->pairs.size());
  // Rows stay what they are, so that the view keeps its place and its selection.
  if (after > before) beginInsertRows({}, before, after - 1);
  if (after < before) beginRemoveRows({}, after, before - 1);
  const bool unit_changed = !step_ || step_->unit != now->unit || step_->pixel_size != now->pixel_size;
  step_ = *now;
  fit_ = document_.pairs_review().fit(*now);
  if (after > before) endInsertRows();
  if (after < before) endRemoveRows();
  if (after > 0) Q_EMIT dataChanged(index(0, 0), index(after - 1, columns - 1));
  if (unit_changed) Q_EMIT headerDataChanged(Qt::Horizontal, to_x, to_y);
}

bool PairsModel::is_outlier(std::size_t pair) const {
  return fit_ && step_->pairs[pair].counts() && !(fit_->weights[pair] > 0);
}

QString PairsModel::role_of(std::size_t k, bool explained) const {
  const PointPair& pair = step_->pairs[k];
  if (!pair.use) return explained ? tr("It is left out") : tr("no");
  if (pair.check) return explained ? tr("It is kept out of the fit, and checks it") : tr("check");
  if (is_outlier(k)) return explained ? tr("It disagrees with the rest, and counts for nothing") : tr("outlier");
  return explained ? tr("It counts. Type “check” to keep it out of the fit as a check point") : tr("fit");
}

std::optional<double> PairsModel::number_at(int row, int column) const {
  const auto k = static_cast<std::size_t>(row);
  const PointPair& pair = step_->pairs[k];
  switch (column) {
    case from_x:
      return pair.from.x;
    case from_y:
      return pair.from.y;
    case to_x:
      return pair.to.x;
    case to_y:
      return pair.to.y;
    case sigma:
      return pair.uncertainty;
    case left_out: {
      const PairsFindings* found = document_.pairs_review().findings(*step_);
      return found ? found->left_out[k] : std::nullopt;
    }
    default:
      break;
  }
  if (!fit_ || column < dx || !std::isfinite(fit_->residuals[k].x)) return std::nullopt;
  const Point d = fit_->residuals[k];
  return column == dx ? d.x : column == dy ? d.y : std::hypot(d.x, d.y);
}

QVariant PairsModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid() || !step_ || index.row() >= rowCount()) return {};
  const int row = index.row(), column = index.column();
  const auto k = static_cast<std::size_t>(row);
  const PointPair& pair = step_->pairs[k];
  if (column == name) {
    if (role == Qt::DisplayRole || role == Qt::EditRole) return text_of(label_of(*step_, row));
    if (role == Qt::CheckStateRole) return pair.use ? Qt::Checked : Qt::Unchecked;
    if (role == Qt::ToolTipRole) return tr("Whether the pair is used");
    return role == sort_role ? QVariant(row) : QVariant();
  }
  if (column == use) {
    if (role == Qt::DisplayRole || role == Qt::EditRole || role == sort_role) return role_of(k, false);
    return role == Qt::ToolTipRole ? QVariant(role_of(k, true)) : QVariant();
  }
  if (role == Qt::TextAlignmentRole) return int(Qt::AlignRight | Qt::AlignVCenter);
  if (role == Qt::ForegroundRole) return is_outlier(k) ? QVariant(theme().brick) : QVariant();
  if (role != Qt::DisplayRole && role != Qt::EditRole && role != sort_role) return {};
  const auto value = number_at(row, column);
  if (role == sort_role) return value.value_or(-1);
  if (!value) {
    if (column == sigma && role == Qt::EditRole) return QString();
    const bool comes = column == left_out && fit_ && !document_.pairs_review().settled();
    return comes ? QStringLiteral("…") : QStringLiteral("–");
  }
  if (column == sigma && role == Qt::DisplayRole) return number_shown(short_number(*value, 2));
  // What is edited keeps all its digits.
  if (role == Qt::EditRole) return number_shown(QString::number(*value, 'g', 12));
  const bool of_target = column == to_x || column == to_y;
  const int decimals = of_target && step_->pixel_size
                           ? std::clamp(static_cast<int>(std::ceil(-std::log10(*step_->pixel_size))) + 1, 0, 9)
                           : 2;
  return number_shown(number_text(*value, decimals));
}

QVariant PairsModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal) return {};
  if (role == Qt::ToolTipRole && section == sigma)
    return tr(
        "How well each coordinate of the pair is known, in px of the result: pairs weigh by it. Empty: as placed by "
        "hand");
  if (role == Qt::ToolTipRole && section == left_out)
    return tr("How far the pair would lie off the fit of all others, in px");
  if (role != Qt::DisplayRole) return {};
  const QString unit = step_ && step_->pixel_size ? unit_text(step_->unit) : tr("px");
  const QString heads[] = {tr("name"),
                           tr("use"),
                           tr("x, px"),
                           tr("y, px"),
                           tr("to x, %1").arg(unit),
                           tr("to y, %1").arg(unit),
                           tr("±, px"),
                           tr("dx, px"),
                           tr("dy, px"),
                           tr("off, px"),
                           tr("left out")};
  return section < columns ? heads[section] : QString();
}

Qt::ItemFlags PairsModel::flags(const QModelIndex& index) const {
  const Qt::ItemFlags plain = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
  if (index.column() == name) return plain | Qt::ItemIsEditable | Qt::ItemIsUserCheckable;
  return index.column() <= sigma ? plain | Qt::ItemIsEditable : plain;
}

bool PairsModel::setData(const QModelIndex& index, const QVariant& value, int role) {
  const FitStep* now = selected_fit(document_);
  const int i = index.row(), column = index.column();
  if (!now || !(step_ == *now) || i >= rowCount()) return false;
  FitStep next = *now;
  PointPair& pair = next.pairs[static_cast<std::size_t>(i)];
  const QString text = value.toString().trimmed();
  if (role == Qt::CheckStateRole && column == name) {
    pair.use = value.toInt() == Qt::Checked;
  } else if (role != Qt::EditRole) {
    return false;
  } else if (column == name) {
    if (text != text_of(label_of(*now, i))) pair.name = text.toStdString();
  } else if (column == use) {
    const QString word = text.toLower();
    if (word == tr("check")) pair.check = pair.use = true;
    if (word == tr("fit")) {
      pair.check = false;
      pair.use = true;
    }
    if (word == tr("no")) pair.use = false;
  } else {
    // An editor that was opened and closed changes nothing.
    if (text == data(index, Qt::EditRole).toString()) return false;
    bool is = false;
    const double number = number_typed(text).toDouble(&is);
    if (column == sigma) {
      if (text.isEmpty()) pair.uncertainty.reset();
      if (is && number >= least_stated && number <= most_stated) pair.uncertainty = number;
    } else if (is && std::abs(number) <= 1e9) {
      double* places[] = {&pair.from.x, &pair.from.y, &pair.to.x, &pair.to.y};
      *places[column - from_x] = number;
      pair.uncertainty.reset();  // it was that of another place
    }
  }
  if (next == *now) return false;
  change_fit(document_, tr("change a pair"), next);
  return true;
}

QString PairsModel::csv() const {
  QString out = QStringLiteral(
      "name,use,check,from_x,from_y,to_x,to_y,uncertainty_px,dx_px,dy_px,distance_px,leave_one_out_px\n");
  for (int i = 0; i < rowCount(); ++i) {
    const PointPair& p = step_->pairs[static_cast<std::size_t>(i)];
    QString label = text_of(label_of(*step_, i));
    out += QString("\"%1\",%2,%3").arg(label.replace('"', "\"\"")).arg(p.use).arg(p.check);
    for (int column = from_x; column < columns; ++column) {
      const auto value = number_at(i, column);
      out += value ? "," + QString::number(*value, 'g', 12) : QStringLiteral(",");
    }
    out += "\n";
  }
  return out;
}

}  // namespace fexel

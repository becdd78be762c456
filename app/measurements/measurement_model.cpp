#include "app/measurements/measurement_model.h"

#include <QRegularExpression>

#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

/// A length above zero, in `usual` where no unit is given.
std::optional<Quantity> typed_length(const QString& text, const std::string& usual) {
  static const QRegularExpression form(R"(^([-+0-9.,eE]+?)\s*([a-zµμ]*)$)");
  const auto found = form.match(text);
  bool good = false;
  const double value = found.captured(1).replace(',', '.').toDouble(&good);
  std::string unit = found.captured(2).replace(QRegularExpression("[µμ]"), "u").toStdString();
  if (unit.empty()) unit = usual;
  if (!good || !(value > 0) || !(value < 1e9) || !is_length_unit(unit)) return std::nullopt;
  return Quantity{value, unit};
}

}  // namespace

MeasurementModel::MeasurementModel(Document& document, QObject* parent)
    : QAbstractTableModel(parent), document_(document) {
  connect(&document_, &Document::changed, this, &MeasurementModel::refresh);
  rows_ = static_cast<int>(document_.chain().measurements.size());
}

void MeasurementModel::refresh() {
  const int rows = static_cast<int>(document_.chain().measurements.size());
  if (rows != rows_) {
    beginResetModel();
    rows_ = rows;
    endResetModel();
  } else if (rows_ > 0) {
    Q_EMIT dataChanged(index(0, 0), index(rows_ - 1, columns - 1));
  }
  Q_EMIT headerDataChanged(Qt::Horizontal, 0, columns - 1);
}

int MeasurementModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : rows_;
}
int MeasurementModel::columnCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : columns;
}

std::string MeasurementModel::unit_of_known(const Document& document) {
  const auto& pixel = document.layout().stations[static_cast<std::size_t>(document.station_b())].pixel;
  if (pixel) return pixel->unit;
  for (const Measurement& measurement : document.chain().measurements)
    if (const auto expected = expected_of(measurement.kind)) return expected->unit;
  return "mm";
}

void MeasurementModel::set_short_heads(bool on) {
  if (on == short_heads_) return;
  short_heads_ = on;
  Q_EMIT headerDataChanged(Qt::Horizontal, 0, columns - 1);
}

QString MeasurementModel::unit_at(int station) const {
  const auto& pixel = document_.layout().stations[static_cast<std::size_t>(station)].pixel;
  return pixel ? unit_text(pixel->unit) : QStringLiteral("px");
}

QString MeasurementModel::csv_unit(int station) const {
  const auto& pixel = document_.layout().stations[static_cast<std::size_t>(station)].pixel;
  return pixel ? text_of(pixel->unit) : QStringLiteral("px");
}

QString MeasurementModel::name_of(UncertaintySource source) {
  switch (source) {
    case UncertaintySource::points:
      return tr("placing its points");
    case UncertaintySource::corners:
      return tr("the corners of the rectangle");
    case UncertaintySource::ratio:
      return tr("the estimated ratio of the sides");
    case UncertaintySource::known:
      return tr("the known lengths that give the scale");
    case UncertaintySource::calibration:
      return tr("the calibration");
    case UncertaintySource::fit:
      return tr("the control points");
  }
  return {};
}

QString MeasurementModel::details_text(const Reading& reading) {
  if (reading.problem) return text_of(*reading.problem);
  QStringList said;
  for (const Detail& detail : reading.details) {
    const QString name = core_word(detail.name);
    said << QStringLiteral("%1: %2 %3")
                .arg(name, number_shown(short_number(detail.quantity.value, 6)), unit_text(detail.quantity.unit));
  }
  return said.join('\n');
}

QVariant MeasurementModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal) return {};
  if (role == Qt::TextAlignmentRole)
    return QVariant(Qt::AlignVCenter | (section == name ? Qt::AlignLeft : Qt::AlignRight));
  if (role != Qt::DisplayRole) return {};
  switch (section) {
    case name:
      return tr("name");
    case length_a:
      return (short_heads_ ? tr("A, %1") : tr("value at A, %1")).arg(unit_at(document_.station_a()));
    case length_b:
      return (short_heads_ ? tr("B, %1") : tr("value at B, %1")).arg(unit_at(document_.station_b()));
    case expected:
      return (short_heads_ ? tr("true, %1") : tr("expected, %1")).arg(unit_text(unit_of_known(document_)));
    case error:
      return (short_heads_ ? tr("error, %1") : tr("error at B, %1")).arg(unit_text(unit_of_known(document_)));
    case uncertainty:
      return (short_heads_ ? tr("±, %1") : tr("± at B, %1")).arg(unit_at(document_.station_b()));
    default:
      return {};
  }
}

QVariant MeasurementModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid() || index.row() >= static_cast<int>(document_.chain().measurements.size())) return {};
  const auto row = static_cast<std::size_t>(index.row());
  const Measurement& measurement = document_.chain().measurements[row];
  if (role == Qt::TextAlignmentRole)
    return QVariant(Qt::AlignVCenter | (index.column() == name ? Qt::AlignLeft : Qt::AlignRight));
  const Reading& a = document_.readings(document_.station_a())[row];
  const Reading& b = document_.readings(document_.station_b())[row];
  const auto expected_value = expected_of(measurement.kind);
  const std::string expected_unit = expected_value ? expected_value->unit : "mm";
  const double to_unit = metres_per(expected_unit) / metres_per(unit_of_known(document_));
  if (role == Qt::ForegroundRole && index.column() == error && b.error && b.uncertainty && b.value) {
    const auto limit = length_in({3 * *b.uncertainty, b.value->unit}, expected_unit);
    if (limit && std::abs(*b.error) > *limit) return theme().brick;
  }
  if (role == Qt::ForegroundRole && (index.column() == length_a || index.column() == length_b)) {
    const Reading& reading = index.column() == length_a ? a : b;
    if (reading.problem && !reading.value) return theme().brick;
  }
  if (role == Qt::ToolTipRole && (index.column() == length_a || index.column() == length_b))
    return details_text(index.column() == length_a ? a : b);
  if (role == Qt::ToolTipRole && index.column() == uncertainty) {
    QStringList placed;
    for (const double sigma : measurement.picking) placed << tr("± %1").arg(number_shown(short_number(sigma, 2)));
    QString text = tr("Standard uncertainty. Points placed to %1 px of the source, at the zoom of placing.")
                       .arg(placed.join(tr(" and ")));
    for (int i = 0; b.uncertainty && b.value && i < uncertainty_sources; ++i)
      if (b.parts[static_cast<std::size_t>(i)] > 0.01 * *b.uncertainty)
        text += QStringLiteral("\n%1: ± %2 %3")
                    .arg(name_of(static_cast<UncertaintySource>(i)),
                         number_shown(short_number(b.parts[static_cast<std::size_t>(i)], 2)),
                         unit_at(document_.station_b()));
    return text;
  }
  if (role != Qt::DisplayRole && role != Qt::EditRole) return {};
  // Lengths stand in the head's unit; what is none has its unit beside it.
  const auto length = [&](const Reading& r) {
    if (!r.value || !std::holds_alternative<LengthMeasurement>(measurement.kind))
      return number_shown(value_text(measurement, r));
    return number_shown(number_text(r.value->value, r.uncertainty ? decimals_for(*r.uncertainty) : 1));
  };
  const int decimals = b.uncertainty ? decimals_for(*b.uncertainty) : 2;
  // Of B in pixels the uncertainty says nothing of a known length.
  const bool in_unit = b.value && b.value->unit != "px";
  switch (index.column()) {
    case name:
      return text_of(measurement.name);
    case length_a:
      return length(a);
    case length_b:
      return length(b);
    case expected:
      if (role == Qt::EditRole)
        return expected_value ? number_shown(QString::number(expected_value->value * to_unit, 'g', 12)) : QString();
      if (!expected_value) return QStringLiteral("–");
      return number_shown(in_unit ? number_text(expected_value->value * to_unit, decimals)
                                  : short_number(expected_value->value * to_unit, 6));
    case error: {
      if (!b.error) return QStringLiteral("–");
      const QString text = number_shown(number_text(*b.error * to_unit, decimals));
      return *b.error > 0 && text.contains(QRegularExpression("[1-9]")) ? "+" + text : text;
    }
    case uncertainty: {
      if (!b.uncertainty || !b.value || b.value->unit.empty()) return QStringLiteral("–");
      const QString number = number_shown(number_text(*b.uncertainty, decimals));
      return std::holds_alternative<LengthMeasurement>(measurement.kind) ? number
             : b.value->unit == "°"                                      ? number + unit_text(b.value->unit)
                                                                         : number + " " + unit_text(b.value->unit);
    }
    default:
      return {};
  }
}

Qt::ItemFlags MeasurementModel::flags(const QModelIndex& index) const {
  Qt::ItemFlags flags = QAbstractTableModel::flags(index);
  const bool length = index.isValid() && index.row() < rows_ &&
                      std::holds_alternative<LengthMeasurement>(
                          document_.chain().measurements[static_cast<std::size_t>(index.row())].kind);
  if (index.column() == name || (index.column() == expected && length)) flags |= Qt::ItemIsEditable;
  return flags;
}

bool MeasurementModel::setData(const QModelIndex& index, const QVariant& value, int role) {
  if (role != Qt::EditRole || !index.isValid()) return false;
  Chain chain = document_.chain();
  Measurement& measurement = chain.measurements[static_cast<std::size_t>(index.row())];
  if (index.column() == name) {
    measurement.name = value.toString().trimmed().toStdString();
    document_.edit_chain(tr("name %1").arg(text_of(word_of(measurement.kind))), chain);
    return true;
  }
  if (index.column() != expected) return false;
  const QString text = value.toString().trimmed();
  if (text.isEmpty()) {
    set_expected(measurement.kind, std::nullopt);
  } else if (const auto length = typed_length(text, unit_of_known(document_))) {
    set_expected(measurement.kind, length);
  } else {
    Q_EMIT refused(tr("“%1” is no length above zero. Give it in %2, or with its unit, as 12.5 cm.")
                       .arg(text, unit_text(unit_of_known(document_))));
    return false;
  }
  document_.edit_chain(tr("expected length"), chain);
  return true;
}

QString MeasurementModel::csv() const {
  QString text =
      QString("name,length_a_%1,length_b_%2,expected_%3,error_b_%3,uncertainty_b_%2,kind,value_unit_a,value_unit_b\n")
          .arg(csv_unit(document_.station_a()), csv_unit(document_.station_b()), text_of(unit_of_known(document_)));
  for (int row = 0; row < rows_; ++row) {
    const Measurement& measurement = document_.chain().measurements[static_cast<std::size_t>(row)];
    const Reading& a = document_.readings(document_.station_a())[static_cast<std::size_t>(row)];
    const Reading& b = document_.readings(document_.station_b())[static_cast<std::size_t>(row)];
    const auto expected_value = expected_of(measurement.kind);
    const double to_unit =
        metres_per(expected_value ? expected_value->unit : "mm") / metres_per(unit_of_known(document_));
    const auto number = [](std::optional<double> v) { return v ? QString::number(*v, 'g', 9) : QString(); };
    const auto value = [](const std::optional<Quantity>& l) { return l ? std::optional(l->value) : std::nullopt; };
    const auto unit = [](const std::optional<Quantity>& l) { return l ? text_of(l->unit) : QString(); };
    const auto scaled = [&](std::optional<double> v) { return v ? std::optional(*v * to_unit) : std::nullopt; };
    text += csv_quoted(text_of(measurement.name)) + "," + number(value(a.value)) + "," + number(value(b.value)) + "," +
            number(scaled(value(expected_value))) + "," + number(scaled(b.error)) + "," + number(b.uncertainty) + "," +
            word_of(measurement.kind) + "," + unit(a.value) + "," + unit(b.value) + "\n";
  }
  return text;
}

}  // namespace fexel

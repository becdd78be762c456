#include "app/measurements/gauge_model.h"

#include <QRegularExpression>

#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

/// A length above zero, in `usual` where no unit is given.
std::optional<Length> typed_length(const QString& text, const std::string& usual) {
  static const QRegularExpression form(R"(^([-+0-9.,eE]+?)\s*([a-zµμ]*)$)");
  const auto found = form.match(text);
  bool good = false;
  const double value = found.captured(1).replace(',', '.').toDouble(&good);
  std::string unit = found.captured(2).replace(QRegularExpression("[µμ]"), "u").toStdString();
  if (unit.empty()) unit = usual;
  if (!good || !(value > 0) || !(value < 1e9) || !is_length_unit(unit)) return std::nullopt;
  return Length{value, unit};
}

}  // namespace

GaugeModel::GaugeModel(Document& document, QObject* parent) : QAbstractTableModel(parent), document_(document) {
  connect(&document_, &Document::changed, this, &GaugeModel::refresh);
}

void GaugeModel::refresh() {
  const int rows = static_cast<int>(document_.chain().gauges.size());
  if (rows != rows_) {
    beginResetModel();
    rows_ = rows;
    endResetModel();
  } else if (rows_ > 0) {
    Q_EMIT dataChanged(index(0, 0), index(rows_ - 1, columns - 1));
  }
  Q_EMIT headerDataChanged(Qt::Horizontal, 0, columns - 1);
}

int GaugeModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : rows_;
}
int GaugeModel::columnCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : columns;
}

std::string GaugeModel::unit_of_known(const Document& document) {
  const auto& pixel = document.layout().stations[static_cast<std::size_t>(document.station_b())].pixel;
  if (pixel) return pixel->unit;
  for (const Gauge& gauge : document.chain().gauges)
    if (gauge.expected) return gauge.unit;
  return "mm";
}

void GaugeModel::set_short_heads(bool on) {
  if (on == short_heads_) return;
  short_heads_ = on;
  Q_EMIT headerDataChanged(Qt::Horizontal, 0, columns - 1);
}

QString GaugeModel::unit_at(int station) const {
  const auto& pixel = document_.layout().stations[static_cast<std::size_t>(station)].pixel;
  return pixel ? unit_text(pixel->unit) : QStringLiteral("px");
}

QString GaugeModel::csv_unit(int station) const {
  const auto& pixel = document_.layout().stations[static_cast<std::size_t>(station)].pixel;
  return pixel ? text_of(pixel->unit) : QStringLiteral("px");
}

QVariant GaugeModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal) return {};
  if (role == Qt::TextAlignmentRole)
    return QVariant(Qt::AlignVCenter | (section == name ? Qt::AlignLeft : Qt::AlignRight));
  if (role != Qt::DisplayRole) return {};
  switch (section) {
    case name:
      return tr("name");
    case length_a:
      return (short_heads_ ? tr("A, %1") : tr("length at A, %1")).arg(unit_at(document_.station_a()));
    case length_b:
      return (short_heads_ ? tr("B, %1") : tr("length at B, %1")).arg(unit_at(document_.station_b()));
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

QVariant GaugeModel::data(const QModelIndex& index, int role) const {
  if (!index.isValid() || index.row() >= static_cast<int>(document_.chain().gauges.size())) return {};
  const auto row = static_cast<std::size_t>(index.row());
  const Gauge& gauge = document_.chain().gauges[row];
  if (role == Qt::TextAlignmentRole)
    return QVariant(Qt::AlignVCenter | (index.column() == name ? Qt::AlignLeft : Qt::AlignRight));
  const GaugeReading& a = document_.readings(document_.station_a())[row];
  const GaugeReading& b = document_.readings(document_.station_b())[row];
  const double to_unit = metres_per(gauge.unit) / metres_per(unit_of_known(document_));
  if (role == Qt::ForegroundRole && index.column() == error && b.error && b.uncertainty && b.length) {
    const auto limit = length_in({3 * *b.uncertainty, b.length->unit}, gauge.unit);
    if (limit && std::abs(*b.error) > *limit) return theme().brick;
  }
  if (role == Qt::ToolTipRole && index.column() == uncertainty)
    return tr("Standard uncertainty. Ends placed to ± %1 and ± %2 px of the source, at the zoom of placing.")
        .arg(text_of(short_number(gauge.picking[0], 2)), text_of(short_number(gauge.picking[1], 2)));
  if (role != Qt::DisplayRole && role != Qt::EditRole) return {};
  const auto length = [](const GaugeReading& r) {
    return r.length ? text_of(number_text(r.length->value, r.uncertainty ? decimals_for(*r.uncertainty) : 1))
                    : QStringLiteral("–");
  };
  const int decimals = b.uncertainty ? decimals_for(*b.uncertainty) : 2;
  // Of B in pixels the uncertainty says nothing of a known length.
  const bool in_unit = b.length && b.length->unit != "px";
  switch (index.column()) {
    case name:
      return text_of(gauge.name);
    case length_a:
      return length(a);
    case length_b:
      return length(b);
    case expected:
      if (role == Qt::EditRole) return gauge.expected ? QString::number(*gauge.expected * to_unit, 'g', 12) : QString();
      if (!gauge.expected) return QStringLiteral("–");
      return text_of(in_unit ? number_text(*gauge.expected * to_unit, decimals)
                             : short_number(*gauge.expected * to_unit, 6));
    case error: {
      if (!b.error) return QStringLiteral("–");
      const QString text = text_of(number_text(*b.error * to_unit, decimals));
      return *b.error > 0 && text.contains(QRegularExpression("[1-9]")) ? "+" + text : text;
    }
    case uncertainty:
      return b.uncertainty ? text_of(number_text(*b.uncertainty, decimals)) : QStringLiteral("–");
    default:
      return {};
  }
}

Qt::ItemFlags GaugeModel::flags(const QModelIndex& index) const {
  Qt::ItemFlags flags = QAbstractTableModel::flags(index);
  if (index.column() == name || index.column() == expected) flags |= Qt::ItemIsEditable;
  return flags;
}

bool GaugeModel::setData(const QModelIndex& index, const QVariant& value, int role) {
  if (role != Qt::EditRole || !index.isValid()) return false;
  Chain chain = document_.chain();
  Gauge& gauge = chain.gauges[static_cast<std::size_t>(index.row())];
  if (index.column() == name) {
    gauge.name = value.toString().trimmed().toStdString();
    document_.edit_chain(tr("name gauge"), chain);
    return true;
  }
  if (index.column() != expected) return false;
  const QString text = value.toString().trimmed();
  if (text.isEmpty()) {
    gauge.expected.reset();
  } else if (const auto length = typed_length(text, unit_of_known(document_))) {
    gauge.expected = length->value;
    gauge.unit = length->unit;
  } else {
    Q_EMIT refused(tr("“%1” is no length above zero. Give it in %2, or with its unit, as 12.5 cm.")
                       .arg(text, unit_text(unit_of_known(document_))));
    return false;
  }
  document_.edit_chain(tr("expected length"), chain);
  return true;
}

QString GaugeModel::csv() const {
  QString text =
      QString("name,length_a_%1,length_b_%2,expected_%3,error_b_%3,uncertainty_b_%2\n")
          .arg(csv_unit(document_.station_a()), csv_unit(document_.station_b()), text_of(unit_of_known(document_)));
  for (int row = 0; row < rows_; ++row) {
    const Gauge& gauge = document_.chain().gauges[static_cast<std::size_t>(row)];
    const GaugeReading& a = document_.readings(document_.station_a())[static_cast<std::size_t>(row)];
    const GaugeReading& b = document_.readings(document_.station_b())[static_cast<std::size_t>(row)];
    const double to_unit = metres_per(gauge.unit) / metres_per(unit_of_known(document_));
    const auto number = [](std::optional<double> v) { return v ? QString::number(*v, 'g', 9) : QString(); };
    const auto value = [](const std::optional<Length>& l) { return l ? std::optional(l->value) : std::nullopt; };
    const auto scaled = [&](std::optional<double> v) { return v ? std::optional(*v * to_unit) : std::nullopt; };
    QString quoted = text_of(gauge.name);
    text += "\"" + quoted.replace("\"", "\"\"") + "\"," + number(value(a.length)) + "," + number(value(b.length)) +
            "," + number(scaled(gauge.expected)) + "," + number(scaled(b.error)) + "," + number(b.uncertainty) + "\n";
  }
  return text;
}

}  // namespace fexel

#pragma once
/// The measurements as a table: value at A and at B, what is expected of a length, how far off.
#include <QAbstractTableModel>

#include "app/document/document.h"

namespace fexel {

class MeasurementModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Column { name, length_a, length_b, expected, error, uncertainty, columns };
  explicit MeasurementModel(Document& document, QObject* parent = nullptr);
  int rowCount(const QModelIndex& parent = {}) const override;
  int columnCount(const QModelIndex& parent = {}) const override;
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
  bool setData(const QModelIndex& index, const QVariant& value, int role) override;
  Qt::ItemFlags flags(const QModelIndex& index) const override;
  /// The unit of expected lengths and errors: that of B; without one, the measurement's that has a known length, or mm.
  static std::string unit_of_known(const Document& document);
  /// What a part of an uncertainty comes from.
  static QString name_of(UncertaintySource source);
  /// What a reading says beside its value, or why it has none.
  static QString details_text(const Reading& reading);
  /// Heads that take less room.
  void set_short_heads(bool on);
  /// The whole table as CSV, with full precision.
  QString csv() const;

 Q_SIGNALS:
  /// What was typed is not taken, and why.
  void refused(const QString& why);

 private:
  void refresh();
  QString unit_at(int station) const;
  QString csv_unit(int station) const;  // as files name it
  Document& document_;
  int rows_ = 0;
  bool short_heads_ = false;
};

}  // namespace fexel

#pragma once
/// The pairs of the selected fit step as a table: places, what each is used for, residuals.
#include <QAbstractTableModel>

#include "app/document/document.h"
#include "app/document/pairs_review.h"

namespace fexel {

class PairsModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Column { name, use, from_x, from_y, to_x, to_y, sigma, dx, dy, off, left_out, columns };
  static constexpr int sort_role = Qt::UserRole;  ///< a cell's number, or the pair's
  explicit PairsModel(Document& document, QObject* parent = nullptr);
  int rowCount(const QModelIndex& parent = {}) const override;
  int columnCount(const QModelIndex& parent = {}) const override;
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
  bool setData(const QModelIndex& index, const QVariant& value, int role) override;
  Qt::ItemFlags flags(const QModelIndex& index) const override;
  /// Takes over the document's pairs.
  void refresh();
  const std::optional<FitStep>& step() const { return step_; }
  /// Null where it cannot be made.
  const Fit* fit() const { return fit_.get(); }
  /// The table with all columns, with full precision.
  QString csv() const;

 private:
  std::optional<double> number_at(int row, int column) const;
  QString role_of(std::size_t pair, bool explained) const;
  bool is_outlier(std::size_t pair) const;
  Document& document_;
  std::optional<FitStep> step_;
  std::shared_ptr<const Fit> fit_;
};

}  // namespace fexel

#pragma once
/// The pictures of a run as a table, and their thumbnails.
#include <QAbstractTableModel>
#include <QPixmap>
#include <map>

#include "app/runs/run_session.h"

namespace fexel {

class RunModel : public QAbstractTableModel {
  Q_OBJECT
 public:
  enum Column { picture, name, size, makes, state, remark, columns };
  enum class Shown { all, to_look_at, finished };
  explicit RunModel(RunSession& session, QObject* parent = nullptr);
  int rowCount(const QModelIndex& parent = {}) const override;
  int columnCount(const QModelIndex& parent = {}) const override;
  QVariant data(const QModelIndex& index, int role) const override;
  QVariant headerData(int section, Qt::Orientation orientation, int role) const override;
  /// Which rows are shown; of those to look at, failed ones come first.
  void show(Shown shown);
  /// The row of the session that a line shows, or −1.
  int row_of(int line) const;
  int line_of(int row) const;
  static constexpr int thumbnail_side = 56;

 private:
  void reset();
  void row_changed(int row);
  void fetch();
  RunSession& session_;
  Shown shown_ = Shown::all;
  std::vector<int> lines_;
  mutable std::map<std::string, QPixmap> thumbnails_;  // null where there is none
  mutable std::vector<std::string> wanted_;
  Background reader_;  // the last member: its thread ends before the rest
};

/// What a state is in a word.
QString state_word(const RunRow& row);

}  // namespace fexel

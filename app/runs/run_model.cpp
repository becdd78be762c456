#include "app/runs/run_model.h"

#include <QTimer>

#include "app/document/thumbnail.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"

namespace fexel {
namespace {

constexpr std::size_t most_thumbnails = 4000;

/// What comes first when one looks for what is wrong.
int urgency(const RunRow& row) {
  if (row.state == RunRow::State::failed) return 0;
  return row.state == RunRow::State::unfit ? 1 : 2;
}

}  // namespace

QString state_word(const RunRow& row) {
  switch (row.state) {
    case RunRow::State::planned:
      return row.doubts.empty() ? QObject::tr("ready") : QObject::tr("doubtful");
    case RunRow::State::unfit:
      return QObject::tr("cannot be made");
    case RunRow::State::running:
      return QObject::tr("at work");
    case RunRow::State::done:
      return row.doubts.empty() ? QObject::tr("done") : QObject::tr("done, doubtful");
    case RunRow::State::stood:
      return row.doubts.empty() ? QObject::tr("done before") : QObject::tr("done before, doubtful");
    case RunRow::State::failed:
      return QObject::tr("failed");
  }
  return {};
}

RunModel::RunModel(RunSession& session, QObject* parent) : QAbstractTableModel(parent), session_(session) {
  connect(&session, &RunSession::planned, this, &RunModel::reset);
  connect(&session, &RunSession::row_changed, this, &RunModel::row_changed);
  reset();
}

int RunModel::rowCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : static_cast<int>(lines_.size());
}

int RunModel::columnCount(const QModelIndex& parent) const {
  return parent.isValid() ? 0 : columns;
}

int RunModel::row_of(int line) const {
  return line < 0 || line >= static_cast<int>(lines_.size()) ? -1 : lines_[static_cast<std::size_t>(line)];
}

int RunModel::line_of(int row) const {
  const auto at = std::ranges::find(lines_, row);
  return at == lines_.end() ? -1 : static_cast<int>(at - lines_.begin());
}

void RunModel::show(Shown shown) {
  shown_ = shown;
  reset();
}

void RunModel::reset() {
  beginResetModel();
  lines_.clear();
  const auto& rows = session_.rows();
  for (std::size_t i = 0; i < rows.size(); ++i)
    if (shown_ == Shown::all || (shown_ == Shown::to_look_at && rows[i].to_look_at()) ||
        (shown_ == Shown::finished && rows[i].finished()))
      lines_.push_back(static_cast<int>(i));
  if (shown_ == Shown::to_look_at)
    std::ranges::stable_sort(lines_, {}, [&](int row) { return urgency(rows[static_cast<std::size_t>(row)]); });
  endResetModel();
}

void RunModel::row_changed(int row) {
  const int line = line_of(row);
  const RunRow& of = session_.rows()[static_cast<std::size_t>(row)];
  if (of.finished()) thumbnails_.erase(of.item.target.path.string());
  if (line >= 0) Q_EMIT dataChanged(index(line, 0), index(line, columns - 1));
  // What has become doubtful or done joins its list; nothing leaves one while it is looked at.
  if (line < 0 && shown_ != Shown::all && (shown_ == Shown::finished ? of.finished() : of.to_look_at())) {
    beginInsertRows({}, rowCount(), rowCount());
    lines_.push_back(row);
    endInsertRows();
  }
}

QVariant RunModel::data(const QModelIndex& index, int role) const {
  const int number = row_of(index.row());
  if (number < 0) return {};
  const RunRow& row = session_.rows()[static_cast<std::size_t>(number)];
  const bool readable = !row.item.frames.empty() && row.item.frames.front().info;
  QStringList doubts;
  for (const std::string& doubt : row.doubts) doubts << text_of(doubt);
  if (role == Qt::ToolTipRole) {
    if (index.column() == name) return text_of(row.input.file.string());
    if (!row.problem.isEmpty()) return row.problem;
    return doubts.isEmpty() ? text_of(row.item.target.path.string()) : doubts.join("\n");
  }
  if (role == Qt::ForegroundRole && index.column() >= state) {
    if (row.state == RunRow::State::failed || row.state == RunRow::State::unfit) return theme().brick;
    if (!row.doubts.empty()) return theme().b;
    if (row.finished()) return theme().moss;
    return theme().soft_ink;
  }
  if (role == Qt::DecorationRole && index.column() == picture) {
    const std::string path = (row.finished() ? row.item.target.path : row.input.file).string();
    const auto found = thumbnails_.find(path);
    if (found != thumbnails_.end()) return found->second.isNull() ? QVariant() : QVariant(found->second);
    if (readable) {
      if (wanted_.empty()) QTimer::singleShot(0, this, [self = const_cast<RunModel*>(this)] { self->fetch(); });
      wanted_.push_back(path);
    }
    return {};
  }
  if (role == Qt::AccessibleTextRole && index.column() == picture) return text_of(row.input.file.filename().string());
  if (role != Qt::DisplayRole) return {};
  switch (index.column()) {
    case name: {
      const QString file = text_of((row.input.subfolder / row.input.file.filename()).string());
      return session_.has_own_chain(number) ? tr("%1\nown correction").arg(file) : file;
    }
    case size: {
      if (!readable) return QString();
      const FileInfo& info = *row.item.frames.front().info;
      QString text = tr("%1 × %2 px").arg(info.width).arg(info.height);
      if (row.item.frames.size() > 1) text += tr(", %1 pages").arg(row.item.frames.size());
      return text + "\n" + (info.pixel_size ? pixel_text(*info.pixel_size) : tr("no pixel size"));
    }
    case makes: {
      if (!row.makes) return QString();
      const Station& made = *row.makes;
      return tr("%1 × %2 px").arg(made.size.width).arg(made.size.height) + "\n" +
             (made.pixel ? pixel_text(*made.pixel) : tr("no pixel size"));
    }
    case state:
      return state_word(row);
    case remark:
      if (!row.problem.isEmpty()) return row.problem;
      if (!doubts.isEmpty()) return doubts.join(" ");
      return row.item.target.path.empty() ? QString() : text_of(row.item.target.path.filename().string());
    default:
      return {};
  }
}

QVariant RunModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || role != Qt::DisplayRole) return {};
  switch (section) {
    case name:
      return tr("picture");
    case size:
      return tr("has");
    case makes:
      return tr("becomes");
    case state:
      return tr("state");
    case remark:
      return tr("result, or what is wrong");
    default:
      return {};
  }
}

void RunModel::fetch() {
  if (reader_.running() || wanted_.empty()) return;
  auto paths = std::exchange(wanted_, {});
  // What was scrolled past comes last.
  if (paths.size() > 12) paths.erase(paths.begin(), paths.end() - 12);
  reader_.start(
      tr("reading thumbnails"),
      [this, paths](const Job& job) -> Background::Finish {
        auto read = std::make_shared<std::map<std::string, QImage>>();
        for (const std::string& path : paths) {
          job.check();
          if (read->contains(path)) continue;
          QImage& image = (*read)[path];
          try {
            image = thumbnail_of(read_picture(path, 1, {}, {job.stop, {}}), 2 * thumbnail_side);
          } catch (const Error& error) {
            if (error.kind() == Error::Kind::cancelled) throw;
          }
        }
        return [this, read] {
          if (thumbnails_.size() > most_thumbnails) thumbnails_.clear();
          for (auto& [path, image] : *read)
            thumbnails_[path] = image.isNull()
                                    ? QPixmap()
                                    : QPixmap::fromImage(image.scaled(thumbnail_side, 40, Qt::KeepAspectRatio,
                                                                      Qt::SmoothTransformation));
          if (rowCount() > 0) Q_EMIT dataChanged(index(0, picture), index(rowCount() - 1, picture));
          fetch();
        };
      },
      [](const Error&) {});
}

}  // namespace fexel

#include "app/sequence/frames_column.h"

#include "app/document/follow.h"
#include "app/document/thumbnail.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"
#include "image/pyramid.h"
#include "run/axes.h"

namespace fexel {
namespace {

constexpr int thumbnail_side = 96;
constexpr std::size_t max_thumbnails = 500;
constexpr std::size_t many = 2000;  // frames

std::vector<FrameFile> first_of(const std::vector<FrameFile>& frames, std::size_t count) {
  return {frames.begin(), frames.begin() + static_cast<std::ptrdiff_t>(std::min(count, frames.size()))};
}

}  // namespace

namespace {

/// Where a frame stands among the axes that are not chosen: "c1, z2, 90 s".
QString place_name(const FrameFile& frame, const AxisChoice& choice) {
  if (!frame.info || !frame.info->axes || !frame.info->place) return {};
  const StackAxes& axes = *frame.info->axes;
  const StackPlace& at = *frame.info->place;
  QStringList words;
  if (axes.channels > 1 && choice.channel == 0) words << QObject::tr("c%1").arg(at.channel + 1);
  if (axes.planes > 1 && choice.plane == 0) words << QObject::tr("z%1").arg(at.plane + 1);
  if (axes.times > 1)
    words << (axes.time_step ? QObject::tr("%1 s").arg(number_shown(short_number(at.time * *axes.time_step, 4)))
                             : QObject::tr("t%1").arg(at.time + 1));
  return words.join(", ");
}

/// A distance along the depth, in the unit that suits it.
QString depth_text(double millimetres, double step) {
  const bool fine = step < 0.1;
  return number_shown(short_number(fine ? millimetres * 1000 : millimetres, 4)) +
         (fine ? QObject::tr(" µm") : QObject::tr(" mm"));
}

}  // namespace

QString frame_name(const FrameFile& frame) {
  if (!frame.name.empty()) return text_of(frame.name);
  if (const QString place = place_name(frame, {}); !place.isEmpty()) return place;
  const QString file = QFileInfo(QString::fromStdString(frame.path.string())).fileName();
  if (frame.band > 0) return QObject::tr("band %1").arg(frame.band);
  if (frame.info && frame.info->time) return QObject::tr("%1 s").arg(*frame.info->time, 0, 'f', 2);
  return frame.info && frame.info->frames > 1 ? QObject::tr("page %1").arg(frame.page) : file;
}

QString frame_number_text(const Document& document, int index) {
  if (!in_pairs(document.chain(), document.frames())) return QString::number(index + 1);
  return QString::number(index / 2 + 1) + (index % 2 == 0 ? " a" : " b");
}

QString frame_time(const Document& document, int index) {
  // A film says it itself, at whatever rate.
  const auto& frames = document.frames();
  if (const auto at = static_cast<std::size_t>(index);
      at < frames.size() && frames[at].info && frames[at].info->time && !document.chain().time_step)
    return number_shown(short_number(*frames[at].info->time, 6)) + " s";
  const Chain& chain = document.chain();
  if (!chain.time_step) return {};
  return number_shown(short_number(index * chain.time_step->value, 6)) + " " + unit_text(chain.time_step->unit);
}

FramesColumn::FramesColumn(Document& document, QWidget* parent) : QWidget(parent), document_(document) {
  setFixedWidth(168);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(8, 6, 0, 0);
  column->setSpacing(4);
  head_ = new QLabel;
  head_->setFont(text_font(9, true));
  list_ = new QListWidget;
  list_->setAccessibleName(tr("Frames"));
  list_->setIconSize({46, 35});
  list_->setFrameShape(QFrame::NoFrame);
  list_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  list_->setWordWrap(true);
  list_->setFont(text_font(8));
  column->addWidget(head_);
  axes_ = new QWidget;
  auto* choices = new QVBoxLayout(axes_);
  choices->setContentsMargins(0, 0, 4, 2);
  choices->setSpacing(3);
  channel_ = new QComboBox;
  channel_->setAccessibleName(tr("Channel"));
  channel_->setToolTip(tr("Which channel is shown and matched; the others can go with it (Frames, Carry)"));
  plane_ = new QComboBox;
  plane_->setAccessibleName(tr("Plane of the depth"));
  plane_->setToolTip(tr("Which plane is shown and matched; the others can go with it (Frames, Carry)"));
  for (QComboBox* list : {channel_, plane_}) {
    list->setFont(text_font(8));
    choices->addWidget(list);
    connect(list, &QComboBox::activated, this, [this] { choose_axes(); });
  }
  column->addWidget(axes_);
  column->addWidget(list_, 1);
  player_ = new QWidget;
  auto* row = new QHBoxLayout(player_);
  row->setContentsMargins(0, 2, 4, 6);
  row->setSpacing(4);
  play_ = new QPushButton(tr("Play"));
  play_->setAccessibleName(tr("Play the frames"));
  play_->setToolTip(tr("One frame after the other (F8)"));
  speed_ = new QComboBox;
  speed_->setAccessibleName(tr("Frames a second"));
  for (const int speed : {1, 2, 5, 10, 25}) speed_->addItem(tr("%1 / s").arg(speed), speed);
  speed_->setCurrentIndex(2);
  row->addWidget(play_, 1);
  row->addWidget(speed_, 1);
  column->addWidget(player_);
  connect(play_, &QPushButton::clicked, this, [this] { play(!playing()); });
  connect(speed_, &QComboBox::currentIndexChanged, this,
          [this] { clock_.setInterval(1000 / std::max(1, speed_->currentData().toInt())); });
  clock_.setInterval(200);
  connect(&clock_, &QTimer::timeout, this, &FramesColumn::play_next);
  connect(list_, &QListWidget::itemChanged, this, [this](const QListWidgetItem* item) {
    const auto index = static_cast<std::size_t>(list_->row(item));
    const bool out = item->checkState() == Qt::Unchecked;
    if (out == left_out(document_.chain(), document_.frames())[index]) return;
    document_.edit_chain(out ? tr("leave a frame out") : tr("take a frame in"),
                         with_left_out(document_.chain(), document_.frames(), index, out));
  });
  list_->setContextMenuPolicy(Qt::CustomContextMenu);
  connect(list_, &QWidget::customContextMenuRequested, this, [this](QPoint at) {
    if (const QListWidgetItem* item = list_->itemAt(at))
      Q_EMIT menu_wanted(list_->row(item), list_->viewport()->mapToGlobal(at));
  });
  connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
    if (row >= 0 && row != document_.frame()) Q_EMIT frame_wanted(row);
  });
  connect(&document_, &Document::opened, this, &FramesColumn::fill);
  follow_changes(document_, this, 200, [this] { refresh(); });
  fill();
}

void FramesColumn::play(bool on) {
  if (on && document_.frames().size() > 1)
    clock_.start();
  else
    clock_.stop();
  played_ = -1;
  play_->setText(playing() ? tr("Stop") : tr("Play"));
}

void FramesColumn::play_next() {
  // The frame before is still being read: the clock waits for it.
  if (played_ >= 0 && played_ != document_.frame()) return;
  const auto& frames = document_.frames();
  const std::vector<bool> out_of_it = left_out(document_.chain(), frames);
  const auto count = static_cast<int>(frames.size());
  for (int k = 1; k < count; ++k) {
    const int next = (document_.frame() + k) % count;
    const auto at = static_cast<std::size_t>(next);
    if (out_of_it[at] || !frames[at].info) continue;
    played_ = next;
    Q_EMIT frame_wanted(next);
    return;
  }
  play(false);
}

void FramesColumn::fill() {
  play(false);
  const auto& frames = document_.frames();
  setVisible(frames.size() > 1);
  thumbnails_.cancel();
  {
    const QSignalBlocker quiet(list_);
    list_->clear();
    if (frames.size() < 2) return;
    QPixmap blank(list_->iconSize());
    blank.fill(theme().line);
    const QIcon icon(blank);
    // A film of hours has hundreds of thousands: rows of one height are laid out at once.
    list_->setUniformItemSizes(frames.size() > many);
    for (std::size_t i = 0; i < frames.size(); ++i) new QListWidgetItem(icon, QString(), list_);
  }
  plain_ = false;
  refresh();
  fetch_thumbnails();
}

void FramesColumn::choose_axes() {
  const auto& frames = document_.frames();
  const AxisChoice choice{std::max(0, channel_->currentIndex()), std::max(0, plane_->currentIndex())};
  document_.edit_chain(tr("choose channel and plane"), with_choice(document_.chain(), frames, choice));
  const std::vector<bool> in = of_choice(frames, choice);
  const auto shown = static_cast<std::size_t>(document_.frame());
  if (shown < in.size() && in[shown]) return;
  // The same moment in what was chosen.
  const auto& now = shown < frames.size() && frames[shown].info ? frames[shown].info->place : std::nullopt;
  int next = -1;
  for (std::size_t i = 0; i < in.size(); ++i)
    if (in[i] && (next < 0 || (now && frames[i].info->place->time == now->time))) {
      next = static_cast<int>(i);
      if (now && frames[i].info->place->time == now->time) break;
    }
  if (next >= 0) Q_EMIT frame_wanted(next);
}

void FramesColumn::show_axes() {
  const auto& frames = document_.frames();
  const auto axes = axes_of(frames);
  axes_->setVisible(axes && (axes->channels > 1 || axes->planes > 1));
  if (!axes) return;
  channel_->setVisible(axes->channels > 1);
  plane_->setVisible(axes->planes > 1);
  const auto fill = [](QComboBox* list, int count, const QString& all, const std::function<QString(int)>& name) {
    if (list->count() == count + 1) return;
    list->clear();
    list->addItem(all);
    for (int i = 0; i < count; ++i) list->addItem(name(i));
  };
  fill(channel_, axes->channels, tr("all channels"), [&](int i) {
    const auto at = static_cast<std::size_t>(i);
    const QString name = at < axes->channel_names.size() ? text_of(axes->channel_names[at]) : QString();
    return name.isEmpty() ? tr("channel %1").arg(i + 1) : name;
  });
  fill(plane_, axes->planes, tr("all planes"), [&](int i) {
    return axes->plane_step ? tr("plane %1, %2").arg(i + 1).arg(depth_text(i * *axes->plane_step, *axes->plane_step))
                            : tr("plane %1").arg(i + 1);
  });
  const auto choice = choice_in(document_.chain(), frames);
  channel_->setCurrentIndex(choice ? choice->channel : -1);
  plane_->setCurrentIndex(choice ? choice->plane : -1);
}

void FramesColumn::refresh() {
  const auto& frames = document_.frames();
  if (static_cast<int>(frames.size()) != list_->count()) return;
  const auto& step = document_.chain().time_step;
  const QString count = frames.empty()                                            ? QString()
                        : in_pairs(document_.chain(), frames)                     ? frames.size() % 2 == 0
                                                                                        ? tr("%1 pairs").arg(frames.size() / 2)
                                                                                        : tr("%1 pairs and a frame").arg(frames.size() / 2)
                                            : frames.front().name.empty() && frames.front().band == 0 ? tr("%1 frames").arg(frames.size())
                                                                                  : tr("%1 bands").arg(frames.size());
  head_->setText(
      step ? tr("%1, %2 %3 apart").arg(count, number_shown(short_number(step->value, 4)), unit_text(step->unit))
           : count);
  show_axes();
  const AlignStep* align = document_.align_step();
  const std::vector<bool> out_of_it = left_out(document_.chain(), frames);
  // Of a file with axes only what was chosen is listed.
  const auto choice = choice_in(document_.chain(), frames);
  const bool by_axes = axes_->isVisibleTo(this) && choice;
  if (by_axes && *choice != AxisChoice{})
    head_->setText(tr("%1 of %2 frames").arg(std::ranges::count(out_of_it, false)).arg(frames.size()));
  const QSignalBlocker quiet(list_);
  // Of many frames of which nothing is known yet the rows stay as they are.
  const bool plain = frames.size() > many && !by_axes && (!align || align->frames.empty()) &&
                     std::ranges::find(out_of_it, true) == out_of_it.end();
  const bool same = plain && plain_;
  plain_ = plain;
  for (int i = 0; i < list_->count() && !same; ++i) {
    const auto k = static_cast<std::size_t>(i);
    const QString place = by_axes ? place_name(frames[k], *choice) : QString();
    const QString name = place.isEmpty() ? frame_name(frames[k]) : place;
    QString text = QString("%1  %2").arg(frame_number_text(document_, i), name);
    QString why = text_of(frames[k].trouble);
    if (align && k < align->frames.size()) {
      const FoundFrame& found = align->frames[k];
      const bool failed = found.status == MatchStatus::failed;
      text += found.by_hand ? tr("\n✓ by hand")
              : failed      ? tr("\n✕ not matched")
                            : (found.status == MatchStatus::weak        ? tr("\n~ weak, %1")
                               : found.status == MatchStatus::ambiguous ? tr("\n? ambiguous, %1")
                                                                        : tr("\n✓ %1"))
                             .arg(number_shown(number_text(found.score, 3)));
      if (why.isEmpty()) why = text_of(found.reason);
    }
    if (!frames[k].trouble.empty()) text += tr("\n✕ unreadable");
    QListWidgetItem* item = list_->item(i);
    const bool out = out_of_it[k];
    if (item->isHidden() != (by_axes && out)) item->setHidden(by_axes && out);
    if (out) text = QString("%1  %2\n").arg(frame_number_text(document_, i), name) + tr("left out");
    const Qt::CheckState state = out ? Qt::Unchecked : Qt::Checked;
    if (item->checkState() != state || !(item->flags() & Qt::ItemIsUserCheckable)) item->setCheckState(state);
    if (item->text() != text) item->setText(text);
    if (item->toolTip() != why) item->setToolTip(why);
  }
  list_->setCurrentRow(document_.frame());
}

void FramesColumn::fetch_thumbnails() {
  thumbnails_.start(
      {},
      [this, frames = first_of(document_.frames(), max_thumbnails)](const Job& job) -> Background::Finish {
        for (std::size_t i = 0; i < frames.size(); ++i) {
          job.check();
          QImage picture;
          try {
            picture = thumbnail_of(read_frame(frames[i], {}, {job.stop, {}}), thumbnail_side);
          } catch (const Error& error) {
            if (error.kind() == Error::Kind::cancelled) throw;
            continue;
          }
          QMetaObject::invokeMethod(this, [this, i, picture, first = frames.front().path] {
            if (document_.frames().empty() || document_.frames().front().path != first) return;
            if (auto* item = list_->item(static_cast<int>(i))) item->setIcon(QPixmap::fromImage(picture));
          });
        }
        return [] {};
      },
      [](const Error&) {});
}

}  // namespace fexel

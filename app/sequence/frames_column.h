#pragma once
/// The frames of an open sequence, with thumbnails and how each was matched.
#include <QListWidget>
#include <QTimer>

#include "app/document/background.h"
#include "app/document/document.h"

class QComboBox;
class QLabel;
class QPushButton;

namespace fexel {

class FramesColumn : public QWidget {
  Q_OBJECT
 public:
  explicit FramesColumn(Document& document, QWidget* parent = nullptr);
  QListWidget* list() const { return list_; }
  /// One frame after the other, those that are left out passed over, from the first again after the last.
  void play(bool on);
  bool playing() const { return clock_.isActive(); }

 Q_SIGNALS:
  /// A frame is to be shown, from 0.
  void frame_wanted(int index);
  void menu_wanted(int index, QPoint global);

 private:
  void fill();
  void refresh();
  void fetch_thumbnails();
  void play_next();
  void choose_axes();
  void show_axes();
  Document& document_;
  QListWidget* list_;
  bool plain_ = false;  // the rows say nothing but number and name
  QLabel* head_;
  QWidget* axes_;  // channel and plane of a file that has several
  QComboBox *channel_, *plane_;
  QWidget* player_;
  QPushButton* play_;
  QComboBox* speed_;
  QTimer clock_;
  int played_ = -1;  ///< the frame that was asked for last, while playing
  Background thumbnails_;
};

/// The frame's own name: of its band, its file, or its page.
QString frame_name(const FrameFile& frame);
/// Its number, from 1; of pairs the pair's number, and a or b.
QString frame_number_text(const Document& document, int index);
/// When a frame was taken, from the first one on: "1.5 h"; empty where the chain knows no time step.
QString frame_time(const Document& document, int index);

}  // namespace fexel

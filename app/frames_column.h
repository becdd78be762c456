#pragma once
/// The frames of an open sequence, with thumbnails and how each was matched.
#include <QListWidget>

#include "app/background.h"
#include "app/document.h"

namespace fexel {

class FramesColumn : public QWidget {
  Q_OBJECT
 public:
  explicit FramesColumn(Document& document, QWidget* parent = nullptr);
  QListWidget* list() const { return list_; }

 Q_SIGNALS:
  /// A frame is to be shown, from 0.
  void frame_wanted(int index);

 private:
  void fill();
  void refresh();
  void fetch_thumbnails();
  Document& document_;
  QListWidget* list_;
  QLabel* head_;
  Background thumbnails_;
};

/// The frame's own name: of its band, its file, or its page.
QString frame_name(const FrameFile& frame);

}  // namespace fexel

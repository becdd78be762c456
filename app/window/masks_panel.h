#pragma once
/// The masks of the open chain: drawn, typed, suggested, saved and loaded.
#include <QLineEdit>
#include <QListWidget>

#include "app/document/background.h"
#include "app/document/document.h"
#include "app/steps/page_request.h"
#include "app/ui/fields.h"

namespace fexel {

class MasksPanel : public QWidget {
  Q_OBJECT
 public:
  explicit MasksPanel(Document& document, QWidget* parent = nullptr);
  void refresh();
  /// Reads the masks of a file, a chain or one with nothing but masks, and adds them. Says what is wrong in place.
  void load(const QString& path);
  /// Writes all masks to a file of their own. Says what is wrong in place.
  void save(const QString& path, bool replace);

 Q_SIGNALS:
  /// A line or corners are to be drawn on the picture, in the source's coordinates.
  void asked(const fexel::PageRequest& request);

 private:
  void draw(Mask::Shape shape);
  void add(std::vector<Mask> masks, const QString& text);
  void suggest(Useless what);
  /// Changes the selected mask.
  void take(const std::function<void(Mask&)>& body, const QString& merge = {});
  const Mask* selected() const;

  Document& document_;
  QListWidget* list_;
  QWidget* one_;
  fields::Segments* use_;
  QLineEdit* frames_;
  QLabel* labels_[4];
  fields::Number* numbers_[4];
  QLabel *said_, *share_;
  QPushButton* save_;
  Background search_;  // the last member: its thread ends before the rest
};

}  // namespace fexel

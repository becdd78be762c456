#pragma once
/// The page of a copy of the result with marks: what is drawn, how it looks, and the file.
#include <QCheckBox>
#include <QComboBox>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <set>

#include "app/document/background.h"
#include "app/steps/inspector_page.h"
#include "app/ui/fields.h"

namespace fexel {

class MarksPage : public InspectorPage {
  Q_OBJECT
 public:
  explicit MarksPage(Document& document);
  void refresh() override;
  /// Adds a mark of this kind: at once, or when it was drawn on the picture.
  void add(const std::string& word);
  /// Writes the copy. What is wrong is said in place.
  void write(const QString& path, bool replace);

 protected:
  void showEvent(QShowEvent* event) override;

 private:
  void build_marks();
  void build_fields();
  void build_style();
  void build_file();
  void put(MarkKind kind);
  /// Changes the selected mark, or the chain's style.
  template <class Change>
  void take(Change body);
  template <class Change>
  void restyle(Change body);
  void set_style(const MarkStyle& style);
  const Mark* selected() const;
  void row(const QString& label, QWidget* field);
  void show_row(QWidget* field, bool on);
  /// Fills the fields of a mark, and says which those are.
  std::set<QWidget*> show_fields(const Mark& mark);
  /// Reads the library of styles: when the page is shown, and when one was kept.
  void load_styles();
  void show_style();
  void show_file();
  void choose_file();

  QListWidget* list_;
  QGridLayout* grid_;
  QLabel* problem_;
  fields::Number *length_, *zoom_, *decimals_;
  QComboBox *unit_, *place_, *style_;
  QCheckBox *round_, *label_, *values_, *shown_;
  fields::Segments *which_, *direction_, *time_, *shape_;
  QPlainTextEdit* text_;
  QPushButton* remove_;
  fields::Number *text_size_, *line_width_, *bar_, *width_, *dpi_;
  QComboBox *font_, *colour_, *backing_;
  fields::Segments* ends_;
  QLineEdit *name_, *path_;
  QPushButton *keep_, *write_, *replace_;
  QLabel *style_said_, *said_;
  QString suggested_;
  std::vector<std::pair<std::string, MarkStyle>> kept_;  // of the library
  std::map<QWidget*, QLabel*> labels_;
  Background writing_;  // the last member: its thread ends before the rest
};

}  // namespace fexel

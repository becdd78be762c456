#pragma once
/// The guide inside the program: its chapters, a search, and the chapter of a page.
#include <QDialog>
#include <QString>

class QLineEdit;
class QListWidget;
class QTextBrowser;

namespace fexel {

class GuideWindow : public QDialog {
  Q_OBJECT

 public:
  explicit GuideWindow(QWidget* parent = nullptr);
  /// Shows the chapter that a page is about: the word of a step, or "source", "result", "motion", "runs".
  void show_chapter_of(const QString& word);
  /// Shows the next place where all of the text stands; says so where there is none.
  void find(const QString& text);
  /// The heading of the chapter that is shown, and of all.
  QString chapter() const;
  QStringList chapters() const;
  QTextBrowser* page() { return page_; }

 private:
  void show_chapter(int index);
  QLineEdit* search_;
  QListWidget* list_;
  QTextBrowser* page_;
};

}  // namespace fexel

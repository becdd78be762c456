#pragma once
/// What all pages of the inspector share: head with a switch, problem with a remedy, closing check.
#include <QWidget>

#include "app/document/document.h"
#include "app/steps/page_request.h"

class QLabel;
class QPushButton;
class QVBoxLayout;

namespace fexel {

/// A page: built once for a kind of tile, shows whatever the document says in refresh().
class InspectorPage : public QWidget {
  Q_OBJECT
 public:
  InspectorPage(Document& document, const QString& pictogram, const QString& title);
  /// The page of a step, with the title and pictogram of its kind and a switch.
  InspectorPage(Document& document, const char* step_word);
  virtual void refresh();
  /// None while another page is shown: the panel is as high as what it shows.
  int heightForWidth(int width) const override;
  QSize minimumSizeHint() const override;
  /// A person has just added the step that is shown.
  virtual void step_added() {}

 Q_SIGNALS:
  void asked(const fexel::PageRequest& request);

 public:
  /// The on-off switch in the head of a step's page.
  void show_switch();
  /// The sentences under *Check*; empty for a page without them.
  QString said() const;

 protected:
  void ask_line(const QString& hint, TakeLine take) { Q_EMIT asked(LineRequest{hint, std::move(take)}); }
  void ask_points(const QString& hint, TakePoints take) { Q_EMIT asked(PointsRequest{hint, std::move(take)}); }
  QVBoxLayout* column() const { return column_; }
  /// The place of the sentence that says why the step cannot be made.
  void add_problem();
  /// Shows or clears it; returns whether there is a problem.
  bool show_problem();
  /// Ends the page with the section that says what the step did.
  void add_check();
  void check(const QString& text, bool wrong = false);
  Document& document() const { return document_; }
  template <class Kind>
  const Kind* step() const {
    const int index = document_.selected_step();
    return index < 0 ? nullptr : std::get_if<Kind>(&document_.chain().steps[static_cast<std::size_t>(index)].kind);
  }
  /// The station that the selected step makes.
  const Station& made() const {
    return document_.layout().stations[static_cast<std::size_t>(document_.selected_step()) + 1];
  }
  /// Replaces the selected step; changes with one merge key become one undo step.
  void change(const QString& text, const StepKind& kind, const QString& merge = {});

 private:
  Document& document_;
  QVBoxLayout* column_;
  QString title_;
  QLabel* name_;
  QPushButton* switch_ = nullptr;
  QLabel* problem_ = nullptr;
  QPushButton* remedy_ = nullptr;
  QLabel* check_ = nullptr;
};

}  // namespace fexel

#pragma once
/// The panel of the selected tile. Each kind of tile has a page in a file of its own; inspector.cpp chooses.
#include <QFrame>
#include <QScrollArea>

#include "app/document/document.h"

class QLabel;
class QPushButton;
class QStackedLayout;
class QVBoxLayout;

namespace fexel {

class LossSpot;
/// What gets the outcome of a trial.
using TakeTrial = std::function<void(const Trial&)>;

/// A page: built once for a kind of tile, shows whatever the document says in refresh().
class InspectorPage : public QWidget {
  Q_OBJECT
 public:
  InspectorPage(Document& document, const QString& pictogram, const QString& title);
  virtual void refresh();
  /// None while another page is shown: the panel is as high as what it shows.
  int heightForWidth(int width) const override;
  /// A person has just added the step that is shown.
  virtual void step_added() {}

 Q_SIGNALS:
  /// A line is to be laid on the picture; `take` gets its ends in the coordinates of the station that the step gets.
  void line_wanted(const QString& hint, std::function<void(fexel::Point, fexel::Point)> take);
  /// Corners are to be clicked on the picture; `take` gets them in the coordinates of the station that the step gets.
  void corners_wanted(const QString& hint, fexel::TakePoints take);
  /// The frames are to be searched: all of them, or the one that is shown.
  void search_wanted(bool all);
  /// What still moves in the shown frame is to be looked for.
  void movement_wanted();
  /// The sequence is to be searched in several ways.
  void ways_wanted();
  /// The shown frame is to be moved by known amounts and searched; `take` gets what came of it.
  void trial_wanted(fexel::TakeTrial take);

 public:
  /// The on-off switch in the head of a step's page.
  void show_switch();

 protected:
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

InspectorPage* make_source_page(Document& document);
InspectorPage* make_quarter_page(Document& document);
InspectorPage* make_crop_page(Document& document);
InspectorPage* make_rectify_page(Document& document);
InspectorPage* make_mirror_page(Document& document);
InspectorPage* make_turn_page(Document& document);
InspectorPage* make_shift_page(Document& document);
InspectorPage* make_resize_page(Document& document);
InspectorPage* make_reduce_page(Document& document);
InspectorPage* make_pad_page(Document& document);
InspectorPage* make_matrix_page(Document& document);
InspectorPage* make_tilt_page(Document& document);
InspectorPage* make_lens_page(Document& document);
InspectorPage* make_fit_page(Document& document);
InspectorPage* make_unwrap_page(Document& document);
InspectorPage* make_bands_page(Document& document);
InspectorPage* make_contrast_page(Document& document);
InspectorPage* make_highpass_page(Document& document);
InspectorPage* make_denoise_page(Document& document);
InspectorPage* make_convolve_page(Document& document);
InspectorPage* make_align_page(Document& document);

/// What the result's page asks of the window.
class ResultPage : public InspectorPage {
  Q_OBJECT
 public:
  explicit ResultPage(Document& document);
  void refresh() override;
  void show_problem(const QString& text, bool may_replace);
  /// With `some_failed`, in the colour of what is wrong.
  void show_written(const QString& text, bool some_failed = false);
  /// Whether a file was written to this name, or its page was shown before.
  bool path_was_shown() const;
  /// Says where the result will go, and gives the name the keyboard.
  void show_path();
  /// Whether frames that did not match get no page.
  bool leaves_out_unmatched() const;
  /// Why nothing was written.
  void show_failure(const Error& error);
  QString path() const;
  LossSpot* loss_spot() const;
  bool eventFilter(QObject* watched, QEvent* event) override;

 Q_SIGNALS:
  void write_wanted(const QString& path, bool replace);
  void browse_wanted();
  void carry_wanted();

 public Q_SLOTS:
  void set_path(const QString& path);

 private:
  void say_folder();
  /// What does the same to a folder, for a shell; empty while the chain has no file.
  QString command() const;
  void take_fill();
  struct Parts;
  Parts* parts_;
};

class Inspector : public QScrollArea {
  Q_OBJECT
 public:
  explicit Inspector(Document& document, QWidget* parent = nullptr);
  ResultPage* result_page() const { return result_; }
  void step_added() { current_->step_added(); }

 Q_SIGNALS:
  void line_wanted(const QString& hint, std::function<void(fexel::Point, fexel::Point)> take);
  void corners_wanted(const QString& hint, fexel::TakePoints take);
  void search_wanted(bool all);
  void movement_wanted();
  void ways_wanted();
  void trial_wanted(fexel::TakeTrial take);
  /// The page that had the keyboard is gone.
  void keyboard_left();

 private:
  void choose();
  void add_page(const QString& kind, InspectorPage* page);
  Document& document_;
  std::map<QString, InspectorPage*> pages_;
  ResultPage* result_;
  QStackedLayout* stack_;
  InspectorPage* current_ = nullptr;
};

}  // namespace fexel

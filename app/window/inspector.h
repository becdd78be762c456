#pragma once
/// The panel of the selected tile. Steps have a page each in app/steps; those of source and result are here.
#include <QFrame>
#include <QScrollArea>

#include "app/steps/inspector_page.h"

class QStackedLayout;

namespace fexel {

class RoundTripSpot;

InspectorPage* make_source_page(Document& document);

class MarksPage;
class MotionPage;

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
  RoundTripSpot* round_trip_spot() const;
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
  MarksPage* marks_page() const { return marks_; }
  MotionPage* motion_page() const { return motion_; }
  void step_added() { current_->step_added(); }
  bool eventFilter(QObject* watched, QEvent* event) override;

 Q_SIGNALS:
  void asked(const fexel::PageRequest& request);
  /// The page that had the keyboard is gone.
  void keyboard_left();

 private:
  void choose();
  void add_page(const QString& kind, InspectorPage* page);
  Document& document_;
  std::map<QString, InspectorPage*> pages_;
  ResultPage* result_;
  MarksPage* marks_;
  MotionPage* motion_;
  QStackedLayout* stack_;
  InspectorPage* current_ = nullptr;
};

}  // namespace fexel

#pragma once
/// The window: menus, rail, pictures, ledger, inspector, status; opening, saving and writing out.
#include <QMainWindow>

#include "app/document/autosave.h"
#include "app/document/background.h"
#include "app/document/document.h"
#include "app/window/inspector.h"
#include "stacks/projection.h"

class QAction;
class QLabel;
class QMenu;
class QProgressBar;
class QPushButton;
class QStackedLayout;
class QVBoxLayout;

namespace fexel {

class FramesColumn;
class GuideWindow;
class Inspector;
class Ledger;
class PictureView;
class Rail;
class RunPanel;
class RunReview;
class StepPalette;
class ViewArea;

/// Where results go that no folder was chosen for: one of their own, beside the sources.
QString results_folder(const QString& sources);
/// What was written, in sentences.
QString written_text(const RunResult& made, const std::filesystem::path& target);

/// A picture, or a film, that is made of all frames as they are at B.
struct FramesRequest {
  enum class Kind { projection, slice, mosaic, film };
  Kind kind;
  QString title, suffix;  ///< of what is asked for, and of the file's name
  Projection projection = Projection::mean;
  Model model = Model::translation;
  Point from = {}, to = {};
};

class MainWindow : public QMainWindow {
  Q_OBJECT
 public:
  /// Unsaved work is kept in a folder: the application's own where none is given.
  explicit MainWindow(const QString& unsaved_folder = {});
  ~MainWindow() override;

  Document& document() { return document_; }
  ViewArea& views() { return *views_; }
  Rail& rail() { return *rail_; }
  Ledger& ledger() { return *ledger_; }
  Inspector& inspector() { return *inspector_; }
  StepPalette& palette_sheet() { return *palette_; }
  Background& background() { return background_; }
  FramesColumn& frames() { return *frames_; }

  /// Opens a picture, or a chain with its sources, in the background. What is wrong is said in place.
  void open_file(const QString& path) { open_file(path, false); }
  /// With keep_steps the open chain's steps are given to another picture.
  void open_file(const QString& path, bool keep_steps);
  /// Opens several pictures, or the pictures of a folder, as one sequence in natural order.
  void open_sequence(const QStringList& paths);
  /// Opens several files: as a sequence where they are alike; else it is asked what they are.
  void open_several(const QStringList& paths);
  /// Opens the picture, or the files, that the clipboard holds; whether it holds any.
  bool paste_picture();
  /// Puts the picture of B on the clipboard, as it is shown.
  void copy_picture();
  /// Reads the source again, with its alpha as a band or as the mask. The steps stay; what was undone is forgotten.
  void read_alpha_again(bool band);
  /// The transforms of the matched channel and plane are given to all others, which take part again.
  void carry_to_axes();
  /// Reads and shows another frame of the sequence, from 0.
  void show_frame(int index);
  /// Does what a page asks for.
  void answer(const PageRequest& request);
  /// Searches the selected align step: all frames, or the one that is shown. Cancelled, it keeps what was matched.
  void search_frames(bool all);
  /// The trial of the selected align step on the frame that is shown.
  void run_self_test(TakeSelfTest take);
  /// Looks for what still moves between the shown frame and the reference.
  void look_for_movement();
  /// Searches the sequence in several ways, and shows what came of each.
  void show_variants();
  /// Writes another stack, whose frames belong to the open ones, with the same transforms.
  void write_carried(const QStringList& inputs, const QString& target, bool replace);
  /// Opens what was not saved when a program last ended without leaving.
  void bring_back();
  bool has_unsaved_work() const;
  /// The next file that is opened says that there is unsaved work, if there is.
  void mention_unsaved_work() { mention_unsaved_ = true; }
  /// Renders the demo where needed, and opens its chain.
  void open_demo(const QString& chain = QStringLiteral("wall.fexel.json"));
  /// Writes the chain; the source is named relative to it.
  bool save_chain(const QString& path);
  /// Asks what to do with a chain's file that somebody else has written since; whether it may be replaced.
  bool may_save_over(const QString& target);
  /// Moves the points of the selected measurement to the edges and corners near them.
  void snap_measurement();
  /// Axes at the station of B: `change` gets those that there are, or fresh ones in its upper left corner.
  void set_axes(const QString& text, const std::function<void(Axes&, const Station&)>& change);
  /// Lays the measurements of a set, or of a chain, on this picture; and keeps those that there are as a set.
  void load_measurements(const QString& path);
  void save_measurements(const QString& path);
  void ask_load_measurements();
  void ask_save_measurements();
  /// The page of the movement; begun at the station of B where there is none yet.
  void show_motion();
  /// Measures the movement: over all frames, or to the one that is shown. Cancelled, what was found stays.
  void measure_motion(bool all);
  /// Works out how well the movement's points can be found in the frame that is shown.
  void check_texture(double wanted);
  void try_known_motion();
  void measure_still_pair();
  void export_motion(const MotionExportRequest& request);
  /// Looks at the grains of the shown pair, and says which windows suit them.
  void look_at_grains();
  /// The frames that a try on this one leads from and to, from 0; or why there are none.
  std::variant<std::pair<int, int>, QString> motion_pair(int shown);
  /// Works out what is taken off the frames before they are matched, and shows it.
  void show_motion_background();
  /// Works the background of the frames before the selected step out, writes it, and has the step take it off.
  void make_background(const BackgroundFileRequest& request);
  /// The reference of the selected fit step: asked for, or this file.
  void ask_reference();
  void open_reference_file(const QString& path);
  /// Moves the targets of all pairs to what the reference shows of their places.
  void refine_pairs();
  /// Adds pairs of places that both pictures show.
  void propose_pairs_for_step(int count);
  void write_out(const QString& path, bool replace);
  /// Writes what is asked for to a file, in the background.
  void make_of_frames(const FramesRequest& request, const QString& path);
  /// Writes the report of what is open, or of the run that is shown, in the background: PDF or HTML by the ending.
  void save_report_to(const QString& path);
  /// The panel of a run over many pictures, with the chain that is open.
  void show_runs();
  /// The guide, at the chapter of what is selected.
  void show_guide();
  GuideWindow* guide() const { return guide_; }
  void show_about();
  /// What this program is, where it runs, what is open, and the end of the log: for a report of what went wrong.
  QString diagnosis() const;
  void copy_diagnosis();
  /// The program ended by a fault when it ran last: says so, and where the note of it is.
  void mention_crash(const QString& note);
  RunPanel* runs() const { return runs_; }
  RunReview* review() const { return review_.get(); }
  /// This window belongs to another one, which keeps what is done in it: closing it asks nothing.
  void set_companion() { companion_ = true; }
  /// A bar above the pictures.
  void set_head(QWidget* head);
  /// What Ctrl+E does: the first time it shows the page that says the file's name and folder.
  void write_or_show();
  QString notice() const;

 protected:
  void dragEnterEvent(QDragEnterEvent*) override;
  void dropEvent(QDropEvent*) override;
  void closeEvent(QCloseEvent*) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  void ask_unlike(const QStringList& paths, const QString& unlike);
  void build_menus();
  /// Opens the reference of a step that was selected.
  void read_missing_reference();
  void build_frames_menu();
  void ask_of_frames(const FramesRequest& request);
  void ask_slice();
  void build_status();
  void review_rows(std::vector<int> rows, bool propose);
  /// Whether the window may be closed while a run is under way.
  bool may_stop_run();
  QAction* add_action(QMenu* menu, const QString& text, const QKeySequence& keys, std::function<void()> body);
  /// A key that acts in the whole window, and needs a source.
  QAction* add_key(QMenu* menu, const QString& text, const QKeySequence& keys, std::function<void()> body);
  void refresh();
  /// Whether something long is running, which is then said.
  bool busy();
  void say(const QString& text);
  void say(const Error& error);
  void remember(const QString& path);
  void fill_recent();
  void ask_open();
  void ask_folder();
  void ask_carry();
  void ask_same_again();
  void ask_figure();
  void ask_report();
  void ask_print();
  void ask_report_template();
  void ask_save(bool as);
  void ask_write_path();
  /// Whether the open chain may be left: it is saved, or the person says so.
  bool may_leave();
  void add_step(const std::string& word, int index);
  void open_palette(int index);
  void show_keys();
  void show_picture_menu(PictureView& view, QPoint global);
  void show_tile_menu(int tile, QPoint global);
  /// -1 for a place without a measurement.
  void show_ledger_menu(int measurement, QPoint global);
  void show_frame_menu(int frame, QPoint global);
  void add_measurement_entries(QMenu& menu, int measurement);

  Document document_;
  Autosave autosave_;
  Background background_;
  Background references_;
  std::string missing_reference_;
  Background reading_;                                                               // of another frame
  std::map<int, std::pair<FileInfo, std::shared_ptr<const Pyramid>>> shown_frames_;  // those that were shown last
  Rail* rail_;
  ViewArea* views_;
  Ledger* ledger_;
  FramesColumn* frames_;
  Inspector* inspector_;
  StepPalette* palette_;
  QWidget* notice_bar_;
  QLabel* notice_;
  QLabel* value_;
  QLabel* calibration_;
  QLabel* kept_;
  QLabel* task_;
  QProgressBar* progress_;
  QPushButton* cancel_;
  QMenu* recent_;
  bool mention_unsaved_ = false, companion_ = false;
  QStackedLayout* middle_;  // the pictures, or the panel of a run
  QVBoxLayout* left_column_;
  RunPanel* runs_ = nullptr;
  GuideWindow* guide_ = nullptr;
  Chain run_chain_;  // that the panel was last shown with
  std::unique_ptr<RunReview> review_;
  QAction* undo_;
  QAction* redo_;
  /// Entries of the bar that other menus have, too.
  struct Actions {
    QAction *add, *copy, *paste, *left, *right, *rename, *remove, *fit, *one_to_one, *flag_a, *flag_b, *keep, *proof,
        *figure, *write;
    std::vector<QAction*> measure;  ///< one for each kind
  } actions_{};
  std::vector<QAction*> need_source_;
  std::vector<QAction*> need_step_;
  QString last_folder_, crash_note_;
};

}  // namespace fexel

#pragma once
/// What is open and saved: a source, a chain, two flags and the selected tile. Every change can be undone.
#include <QObject>
#include <QUndoStack>
#include <map>
#include <memory>

#include "app/document/session.h"
#include "chain/evaluate.h"
#include "chain/masks.h"
#include "files/picture.h"
#include "image/pyramid.h"
#include "quality/uncertainty.h"
#include "run/align_search.h"
#include "run/frames.h"
#include "run/write_frames.h"

namespace fexel {

/// A picture as it was read.
struct OpenSource {
  QString path;
  FileInfo info;
  std::shared_ptr<const Pyramid> pixels;
  std::vector<FrameFile> frames = {};                   ///< of the sequence that is open; none for a single picture
  int frame = 0;                                        ///< the one that is shown, from 0
  std::vector<WatchedFile> files = {};                  ///< all that the frames come from, since they were opened
  bool alpha_band = false;                              ///< alpha was read as a band
  std::optional<std::pair<double, double>> range = {};  ///< of floating-point samples, which have none of their own
};

/// A picture, or the first frame of a sequence that can be read. Raises what listing and reading raise.
OpenSource read_open_source(const std::vector<std::filesystem::path>& paths, const Job& job, bool alpha_band = false);

/// Everything that undo brings back. Tiles are counted from the source, 0; the result's tile is always the last one.
struct DocumentState {
  Chain chain;
  int flag_a = 0;
  int flag_b = 1;
  int selected = 0;
  bool operator==(const DocumentState&) const = default;
};

class MarksLayer;
class MotionLayer;
class PairsReview;

class Document : public QObject {
  Q_OBJECT
 public:
  explicit Document(QObject* parent = nullptr);
  ~Document() override;

  const Chain& chain() const { return state_.chain; }
  const DocumentState& state() const { return state_; }
  const Layout& layout() const { return layout_; }
  const OpenSource* source() const { return source_ ? &*source_ : nullptr; }
  /// What stations behind a step that ends a run are drawn from; nothing where there is no such step.
  const std::shared_ptr<const RunPictures>& pictures() const { return pictures_; }
  SourceShape shape() const;
  /// The frames of the sequence; none where a single picture is open.
  const std::vector<FrameFile>& frames() const;
  /// The one that is shown, from 0.
  int frame() const { return source_ ? source_->frame : 0; }
  /// The chain's align step; null where it has none that is on.
  const AlignStep* align_step() const;
  /// What the align step does to a frame, as it is at the station that the step gets. Needs an align step.
  Motion motion_of_frame(const FoundFrame& frame) const;
  /// Another frame of the same sequence is shown. That is no change of the chain.
  void show_frame(int index, FileInfo info, std::shared_ptr<const Pyramid> pixels);
  /// What is at hand and not part of the document.
  Session& session() { return session_; }
  const Session& session() const { return session_; }
  /// The chain's marks, laid out for the frame that is shown.
  MarksLayer& marks_layer() { return *marks_layer_; }
  /// The fields of the chain's movement.
  MotionLayer& motion_layer() { return *motion_layer_; }
  /// What the pairs of the selected fit step come to.
  PairsReview& pairs_review() { return *pairs_review_; }
  QUndoStack& undo_stack() { return undo_; }
  /// Counts changes of the chain and the source; views say which one they show.
  quint64 revision() const { return revision_; }

  int tiles() const { return static_cast<int>(state_.chain.steps.size()) + 2; }
  int station_of_tile(int tile) const { return std::min(tile, layout_.last()); }
  int station_a() const { return station_of_tile(state_.flag_a); }
  int station_b() const { return station_of_tile(state_.flag_b); }
  bool is_result_tile(int tile) const { return tile == tiles() - 1; }
  /// The step of the selected tile, or −1.
  int selected_step() const;
  /// What all measurements read at a station, computed once for each revision.
  const std::vector<Reading>& readings(int station) const;

  QString chain_path() const { return chain_path_; }
  void set_chain_path(const QString& path);
  /// Whether somebody else has written the chain's file since it was opened or saved here.
  bool chain_file_changed() const;
  /// What nothing that is written may replace: the sources, the chain's file, what the chain reads.
  std::shared_ptr<const ProtectedPaths> protected_paths() const;
  /// All frames that are open, a single picture too.
  std::vector<FrameFile> all_frames() const;
  /// Numbers, from 1, of the frames that are not left out and did not match.
  std::vector<int> unmatched_frames() const;
  /// How many frames are written: those that are not left out.
  int frames_to_write() const;
  bool clean() const { return undo_.isClean(); }

  /// A new source with a chain of its own; what could be undone is forgotten.
  void open(OpenSource source, Chain chain, const QString& chain_path);

  /// Opens what another document has open, as it is now, with its flags and what was measured of its movement.
  void take_over(const Document& other);

  /// A change that can be undone. Changes with the same non-empty `merge` key that follow each other become one.
  void edit(const QString& text, DocumentState next, const QString& merge = {});
  void edit_chain(const QString& text, const Chain& chain, const QString& merge = {});
  void end_merging() { ++merge_generation_; }

  /// Changes with the merge key `adding` that follow an insert_step() belong to it.
  static inline const QString adding = QStringLiteral("adding");
  void insert_step(const std::string& word, int index);
  void remove_selected_step();
  /// The selected step changes places with its neighbour, to the right (+1) or left (−1). Measurements stay where they
  /// lie.
  void move_selected_step(int by);
  /// The step at `from` is taken out and put in so that it becomes number `to` (from 0).
  void move_step(int from, int to);
  void rename_step(int index, const QString& name);
  /// The selected step as the text that chain files hold; empty without one.
  QString step_text() const;
  /// Steps from text, a step or a whole chain, behind the selected one. Raises a call error that says what is wrong.
  void paste_steps(const QString& text);
  void add_measurement(const Measurement& measurement);
  void remove_measurement(int index);
  /// Several as one change.
  void remove_measurements(std::vector<int> rows);
  void change_mask(int index, const Mask& mask, const QString& merge = {});
  void remove_mask(int index);
  void add_mark(const Mark& mark);
  void change_mark(int index, const Mark& mark, const QString& merge = {});
  void remove_mark(int index);

  /// Selection is kept with each change, but choosing is not a change of its own.
  void select_tile(int tile);
  void set_flag(bool b, int tile);

 Q_SIGNALS:
  void opened();
  void changed();
  void selection_changed();

 private:
  friend class StateCommand;
  void restore(const DocumentState& state);
  void lay_out_again();

  DocumentState state_;
  Layout layout_;
  std::optional<OpenSource> source_;
  std::shared_ptr<const RunPictures> pictures_;
  QUndoStack undo_;
  QString chain_path_;
  std::optional<FileIdentity> chain_file_;  // when it was opened or saved
  quint64 revision_ = 0;
  mutable std::map<int, std::vector<Reading>> readings_;  // of this revision
  int merge_generation_ = 0;
  Session session_;
  std::unique_ptr<MarksLayer> marks_layer_;
  std::unique_ptr<PairsReview> pairs_review_;
  std::unique_ptr<MotionLayer> motion_layer_;
};

}  // namespace fexel

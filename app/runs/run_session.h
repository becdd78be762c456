#pragma once
/// A run over many pictures, from the window: what goes in, what became of each, corrections of single files.
#include <QElapsedTimer>
#include <QObject>
#include <deque>
#include <memory>
#include <set>

#include "app/document/background.h"
#include "batch/journal.h"

namespace fexel {

/// One picture of the run.
struct RunRow {
  enum class State { planned, unfit, running, done, stood, failed };
  ChosenInput input;
  RunItem item;
  State state = State::planned;
  std::optional<Chain> values;      ///< the chain with what a table says of this file
  std::optional<Station> makes;     ///< what the chain would make of its first page
  std::vector<std::string> doubts;  ///< before it runs, or about its result
  QString problem;                  ///< why it is unfit or failed, with what helps
  bool anew = false;                ///< it was corrected, and is looked at again before it runs
  /// Whether a person should look at it.
  bool to_look_at() const { return state == State::unfit || state == State::failed || !doubts.empty(); }
  bool finished() const { return state == State::done || state == State::stood; }
};

/// What is set in the panel.
struct RunSettings {
  InputChoice choice;
  QString folder;  ///< of the results
  QString name = "{stem}-{chain}";
  std::optional<Format> format = {};  ///< the source's without it
  Finish finish = {};
  bool keep_alpha = true;
  bool compress = true;
  QString calibration = {};  ///< a name in the library, a file or "none"; the chain's when empty
  QString values = {};       ///< a table of values of single files
  enum class Existing { keep, go_on, replace } existing = Existing::keep;
};

class RunSession : public QObject {
  Q_OBJECT
 public:
  explicit RunSession(QObject* parent = nullptr);
  ~RunSession() override;

  /// The chain that pictures go through; what single files have of their own is forgotten. `made_for` is what it was
  /// made on.
  void set_chain(const Chain& chain, const QString& name, const MadeFor& made_for);
  const Chain& chain() const { return chain_; }
  const QString& chain_name() const { return chain_name_; }
  const RunSettings& settings() const { return settings_; }
  /// Looks at the inputs again in the background; planned() follows.
  void change(const RunSettings& settings);
  /// Why nothing can be run as it is set; empty where something can.
  const QString& trouble() const { return trouble_; }
  const QStringList& notes() const { return notes_; }

  const std::vector<RunRow>& rows() const { return rows_; }
  int count(RunRow::State state) const;
  int to_look_at() const;
  /// How many would be made now.
  int to_run() const;
  /// The chain of one row, as it runs or ran.
  Chain chain_of(int row) const;
  bool has_own_chain(int row) const;

  bool planning() const { return plan_.running(); }
  bool running() const { return run_.running(); }
  /// While pictures run, or are corrected, the list stays as it is: settings cannot be changed.
  bool locked() const { return running() || held_; }
  void hold(bool on);
  bool paused() const { return pause_.paused(); }
  double share() const { return share_; }
  /// Seconds that the rest takes by what was done so far; nothing while that is not known.
  std::optional<double> seconds_left() const;

  void start();
  void set_paused(bool paused);
  void cancel();
  /// Gives one row a chain of its own, and runs it; behind what runs now.
  void correct(int row, const Chain& chain);
  /// Opens the journal of an earlier run: its inputs, settings, chain and corrections. Raises what reading raises.
  void open_journal(const std::filesystem::path& path);

 Q_SIGNALS:
  void planned();
  void row_changed(int row);
  void progressed();
  void started();
  void finished();
  void said(const QString& text);

 private:
  RunOptions options() const;
  void plan_again();
  /// All that a run needs to know, for its own thread.
  struct Work {
    Chain chain;
    RunOptions options;
    std::vector<ChosenInput> inputs;  ///< of all rows
    std::map<std::filesystem::path, Chain> corrected;
    std::map<std::filesystem::path, JournalEntry> known;
    std::map<std::filesystem::path, int> targets;  ///< which row writes a file
    std::vector<RunItem> unfit;
    std::vector<int> rows;  ///< that run, with their items
    std::vector<RunItem> items;
    std::vector<bool> anew;
  };
  std::shared_ptr<Work> work_for(const std::vector<int>& rows) const;
  static std::unique_ptr<JournalWriter> begun_journal(const Work& work);
  static RunItem planned_anew(const Work& work, std::size_t i, const Job& job);
  void run_rows(const std::vector<int>& rows);
  void take(int row, const BatchOutcome& outcome, const JournalEntry& entry);

  Chain chain_, calibrated_;  // as it was given, and with the calibration that the settings name
  QString chain_name_ = "chain";
  MadeFor made_for_;
  RunSettings settings_;
  std::vector<RunRow> rows_;
  std::map<std::filesystem::path, Chain> own_;
  std::map<std::filesystem::path, JournalEntry> known_;  // of an earlier run
  QString trouble_;
  QStringList notes_;
  std::unique_ptr<JournalWriter> journal_;  // of the run's thread while one runs
  std::deque<int> queued_;
  Pause pause_;
  double share_ = 0;
  QElapsedTimer clock_;
  qint64 held_ms_ = 0, held_since_ = 0;
  bool held_ = false;
  Background plan_, run_;  // the last members: their threads end before the rest
};

}  // namespace fexel

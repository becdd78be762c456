#include "app/runs/run_session.h"

#include <QDir>
#include <QFileInfo>

#include "app/ui/text.h"
#include "batch/values.h"
#include "chain/calibrations.h"
#include "files/safe_file.h"
#include "run/align_search.h"

namespace fexel {
namespace fs = std::filesystem;
namespace {

fs::path whole(const fs::path& path) {
  return fs::absolute(path).lexically_normal();
}

/// What is wrong with a file that is named beside it.
QString problem_text(const Error& error) {
  const QString where = error.where().starts_with("/steps") ? " (" + text_of(error.where()) + ")" : QString();
  return (text_of(error.message()) + where + " " + text_of(error.remedy())).trimmed();
}

/// What planning finds.
struct Planned {
  Chain chain;
  std::vector<RunRow> rows;
  std::map<fs::path, Chain> own;
  std::map<fs::path, JournalEntry> known;
  QStringList notes;
  QString trouble;
};

/// Corrections that an earlier run of this chain left in the folder, beside those that are known here; and, where it is
/// gone on with, what became of each picture.
void take_over(const Chain& chain, const RunOptions& options, Planned& out) {
  const fs::path path = journal_path(options.folder, options.chain_name);
  std::error_code code;
  if (!fs::exists(path, code)) return;
  const Journal before = load_journal(path);
  const auto corrected =
      std::ranges::count_if(before.options.own, [](const auto& own) { return own.second.chain.has_value(); });
  if (!same_run(before, chain)) {
    if (corrected > 0)
      out.notes << QObject::tr("An earlier run here went by another chain; its corrections are not used.");
    return;
  }
  for (const auto& [file, own] : before.options.own)
    if (own.chain) out.own.try_emplace(file, *own.chain);
  if (options.resume) out.known.insert(before.entries.begin(), before.entries.end());
  if (corrected > 0) out.notes << QObject::tr("Corrections of an earlier run are taken over: %1.").arg(corrected);
}

Planned plan_rows(const Chain& chain, const RunSettings& settings, RunOptions options, const MadeFor& made_for,
                  Planned out, const Job& job) {
  out.chain = chain;
  std::vector<std::optional<Chain>> values;
  const ChosenInputs chosen = choose_inputs(settings.choice);
  for (const std::string& note : chosen.notes) out.notes << text_of(note);
  if (chosen.results > 0)
    out.notes
        << QObject::tr("%1 pictures are left out: Fexel wrote them, as records beside them say.").arg(chosen.results);
  std::vector<fs::path> inputs;
  for (const ChosenInput& input : chosen.files) {
    inputs.push_back(whole(input.file));
    if (!input.subfolder.empty()) options.own[inputs.back()].subfolder = input.subfolder;
  }
  std::vector<RunItem> items;
  try {
    take_over(chain, options, out);
    values.resize(inputs.size());
    if (!settings.values.isEmpty()) {
      const ValuesTable table = ValuesTable::parse(read_text(settings.values.toStdString()));
      const auto without = table.without_file(inputs);
      if (!without.empty())
        out.notes << QObject::tr("The table has values for %1, which is not among the pictures%2.")
                         .arg(text_of(without.front()), without.size() > 1
                                                            ? QObject::tr(", and for %1 more").arg(without.size() - 1)
                                                            : QString());
      for (std::size_t i = 0; i < inputs.size(); ++i) values[i] = table.chain_for(inputs[i], chain);
    }
    for (std::size_t i = 0; i < inputs.size(); ++i)
      if (const auto own = out.own.find(inputs[i]); own != out.own.end())
        options.own[inputs[i]].chain = own->second;
      else if (values[i])
        options.own[inputs[i]].chain = values[i];
    if (align_step_of(chain))
      throw call_error("A chain that aligns is for the frames of one sequence.", {},
                       "Write the sequence on the Result page, or switch the align step off.");
    items = plan_run(chain, inputs, options, job);
  } catch (const Error& error) {
    if (error.kind() == Error::Kind::cancelled) throw;
    out.trouble = text_of(error);
  }
  for (std::size_t i = 0; i < inputs.size(); ++i) {
    RunRow row;
    row.input = {inputs[i], chosen.files[i].subfolder};
    if (i < items.size()) {
      const Chain& its = chain_for(inputs[i], chain, options);
      row.item = items[i];
      row.values = values[i];
      row.makes = would_make(row.item, its);
      row.doubts = doubts_before(row.item, its, made_for);
      if (row.item.failure) {
        row.state = RunRow::State::unfit;
        row.problem = problem_text(*row.item.failure);
      } else if (row.item.skip) {
        row.state = RunRow::State::stood;
        if (const auto entry = out.known.find(inputs[i]); entry != out.known.end()) row.doubts = entry->second.doubts;
      } else if (const auto entry = out.known.find(inputs[i]);
                 entry != out.known.end() && entry->second.state == JournalEntry::State::failed) {
        row.state = RunRow::State::failed;
        row.problem = problem_text(input_error(entry->second.message, {}, entry->second.remedy));
      }
    }
    out.rows.push_back(std::move(row));
  }
  return out;
}

}  // namespace

RunSession::RunSession(QObject* parent) : QObject(parent), plan_(this), run_(this) {
  connect(&run_, &Background::progressed, this, [this](double share) {
    share_ = share;
    Q_EMIT progressed();
  });
}

RunSession::~RunSession() {
  pause_.set(false);
  plan_.cancel();
  run_.cancel();
}

void RunSession::set_chain(const Chain& chain, const QString& name, const MadeFor& made_for) {
  if (locked()) return;
  chain_ = chain;
  chain_.sources.clear();
  chain_name_ = name;
  made_for_ = made_for;
  own_.clear();
  known_.clear();
  plan_again();
}

void RunSession::change(const RunSettings& settings) {
  if (locked()) return;
  settings_ = settings;
  plan_again();
}

RunOptions RunSession::options() const {
  RunOptions out;
  out.limits = limits_for(chain_, out.limits);
  out.folder = settings_.folder.toStdString();
  out.name = settings_.name.toStdString();
  out.chain_name = chain_name_.toStdString();
  out.format = settings_.format;
  out.finish = settings_.finish;
  out.keep_alpha = settings_.keep_alpha;
  out.compress = settings_.compress;
  out.replace = settings_.existing == RunSettings::Existing::replace;
  out.resume = settings_.existing == RunSettings::Existing::go_on;
  out.each_by_itself = true;
  return out;
}

void RunSession::plan_again() {
  if ((settings_.choice.places.empty() && settings_.choice.listed.empty()) || settings_.folder.isEmpty()) {
    plan_.cancel();
    rows_.clear();
    notes_.clear();
    trouble_.clear();
    Q_EMIT planned();
    return;
  }
  RunSettings settings = settings_;
  settings.choice.out = settings.folder.toStdString();
  plan_.start(
      tr("looking at the pictures"),
      [this, chain = chain_, settings, options = options(), made_for = made_for_,
       begin = Planned{{}, {}, own_, known_, {}, {}}](const Job& job) -> Background::Finish {
        auto found = std::make_shared<Planned>(plan_rows(with_calibration(chain, settings.calibration.toStdString()),
                                                         settings, options, made_for, begin, job));
        return [this, found] {
          rows_ = std::move(found->rows);
          own_ = std::move(found->own);
          known_ = std::move(found->known);
          journal_.reset();
          calibrated_ = std::move(found->chain);
          notes_ = found->notes;
          trouble_ = found->trouble;
          Q_EMIT planned();
        };
      },
      [this](const Error& error) {
        if (error.kind() == Error::Kind::cancelled) return;
        rows_.clear();
        notes_.clear();
        trouble_ = text_of(error);
        Q_EMIT planned();
      });
}

int RunSession::count(RunRow::State state) const {
  return static_cast<int>(std::ranges::count(rows_, state, &RunRow::state));
}

int RunSession::to_look_at() const {
  return static_cast<int>(std::ranges::count_if(rows_, &RunRow::to_look_at));
}

int RunSession::to_run() const {
  if (!trouble_.isEmpty()) return 0;
  return static_cast<int>(std::ranges::count_if(rows_, [](const RunRow& row) {
    return row.state == RunRow::State::planned || row.state == RunRow::State::failed;
  }));
}

Chain RunSession::chain_of(int row) const {
  const RunRow& of = rows_[static_cast<std::size_t>(row)];
  if (const auto own = own_.find(of.input.file); own != own_.end()) return own->second;
  return of.values.value_or(calibrated_);
}

bool RunSession::has_own_chain(int row) const {
  return own_.contains(rows_[static_cast<std::size_t>(row)].input.file);
}

std::optional<double> RunSession::seconds_left() const {
  const double elapsed = static_cast<double>(clock_.elapsed() - held_ms_) / 1000;
  if (!running() || paused() || elapsed < 0.5 || share_ < 0.02) return std::nullopt;
  return elapsed / share_ * (1 - share_);
}

std::shared_ptr<RunSession::Work> RunSession::work_for(const std::vector<int>& rows) const {
  auto out = std::make_shared<Work>();
  out->chain = calibrated_;
  out->options = options();
  out->known = known_;
  for (std::size_t i = 0; i < rows_.size(); ++i) {
    const RunRow& row = rows_[i];
    out->inputs.push_back(row.input);
    OwnOfInput own;
    own.subfolder = row.input.subfolder;
    if (const auto at = own_.find(row.input.file); at != own_.end())
      own.chain = at->second;
    else
      own.chain = row.values;
    if (own.chain || !own.subfolder.empty()) out->options.own[row.input.file] = own;
    if (own_.contains(row.input.file)) out->corrected[row.input.file] = own_.at(row.input.file);
    if (row.state == RunRow::State::unfit && row.item.failure) out->unfit.push_back(row.item);
    if (!row.item.failure) out->targets[row.item.target.path] = static_cast<int>(i);
  }
  for (const int row : rows) {
    out->rows.push_back(row);
    out->items.push_back(rows_[static_cast<std::size_t>(row)].item);
    out->anew.push_back(rows_[static_cast<std::size_t>(row)].anew);
  }
  return out;
}

/// The journal of this run, as it stands before anything is made.
std::unique_ptr<JournalWriter> RunSession::begun_journal(const Work& work) {
  Journal journal;
  journal.chain = work.chain;
  journal.options = work.options;
  // What a table says is told by the table; corrections are told here.
  for (auto& [file, own] : journal.options.own)
    if (const auto at = work.corrected.find(file); at != work.corrected.end())
      own.chain = at->second;
    else
      own.chain.reset();
  journal.inputs = work.inputs;
  journal.entries = work.known;
  for (const RunItem& item : work.unfit)
    journal.entries[item.input] = entry_for(item, {{}, item.failure, 0}, work.options.folder);
  fs::create_directories(work.options.folder);
  sweep_left_behind(work.options.folder);
  return std::make_unique<JournalWriter>(journal_path(work.options.folder, work.options.chain_name),
                                         std::move(journal));
}

/// One picture that was corrected, looked at again: its own result may be replaced, and nothing else.
RunItem RunSession::planned_anew(const Work& work, std::size_t i, const Job& job) {
  RunOptions options = work.options;
  options.first_index = work.rows[i] + 1;
  options.replace = false;
  options.resume = true;
  const fs::path& input = work.inputs[static_cast<std::size_t>(work.rows[i])].file;
  RunItem item = plan_run(work.chain, {input}, options, job).front();
  const auto other = work.targets.find(item.target.path);
  if (!item.failure && other != work.targets.end() && other->second != work.rows[i])
    item.failure =
        input_error(work.inputs[static_cast<std::size_t>(other->second)].file.string() + " is written to this file.",
                    item.target.path.string(), "Use {index} or subfolders in the names.");
  return item;
}

void RunSession::start() {
  if (running() || planning()) return;
  std::vector<int> rows;
  for (std::size_t i = 0; i < rows_.size(); ++i)
    if (rows_[i].state == RunRow::State::planned || rows_[i].state == RunRow::State::failed)
      rows.push_back(static_cast<int>(i));
  if (!rows.empty()) run_rows(rows);
}

void RunSession::run_rows(const std::vector<int>& rows) {
  share_ = 0;
  held_ms_ = 0;
  clock_.start();
  pause_.set(false);
  const auto work = work_for(rows);
  const auto tell = [this](std::function<void()> body) {
    QMetaObject::invokeMethod(this, std::move(body), Qt::QueuedConnection);
  };
  run_.start(
      tr("running"),
      [this, work, tell](const Job& job) -> Background::Finish {
        if (!journal_) journal_ = begun_journal(*work);
        std::vector<std::size_t> which(work->items.size());
        for (std::size_t i = 0; i < which.size(); ++i) {
          which[i] = i;
          if (!work->anew[i]) continue;
          const fs::path& input = work->items[i].input;
          const auto own = work->corrected.find(input);
          journal_->set_own_chain(input,
                                  own == work->corrected.end() ? std::nullopt : std::optional<Chain>(own->second));
          work->items[i] = planned_anew(*work, i, job);
          tell([this, row = work->rows[i], item = work->items[i],
                makes = would_make(work->items[i], chain_for(input, work->chain, work->options))] {
            RunRow& of = rows_[static_cast<std::size_t>(row)];
            of.item = item;
            of.makes = makes;
            of.anew = false;
          });
        }
        BatchHow batch;
        batch.pause = &pause_;
        batch.begun = [&](std::size_t i) {
          tell([this, row = work->rows[i]] {
            rows_[static_cast<std::size_t>(row)].state = RunRow::State::running;
            Q_EMIT row_changed(row);
          });
        };
        batch.ended = [&](std::size_t i, const BatchOutcome& outcome) {
          // On the disk first: what the window shows is kept.
          const JournalEntry entry = entry_for(work->items[i], outcome, work->options.folder);
          journal_->add(work->items[i].input, entry);
          tell([this, row = work->rows[i], outcome, entry] { take(row, outcome, entry); });
        };
        run_batch(work->chain, work->items, which, work->options, batch, job);
        journal_->tidy();
        return [this] {
          share_ = 1;
          if (queued_.empty()) {
            Q_EMIT finished();
            return;
          }
          const std::vector<int> next(queued_.begin(), queued_.end());
          queued_.clear();
          run_rows(next);
        };
      },
      [this](const Error& error) {
        queued_.clear();
        // Those that were at work when the run ended have left nothing.
        for (std::size_t i = 0; i < rows_.size(); ++i)
          if (rows_[i].state == RunRow::State::running) {
            rows_[i].state = RunRow::State::planned;
            Q_EMIT row_changed(static_cast<int>(i));
          }
        if (error.kind() != Error::Kind::cancelled) Q_EMIT said(text_of(error));
        Q_EMIT finished();
      });
  Q_EMIT started();
}

void RunSession::take(int row, const BatchOutcome& outcome, const JournalEntry& entry) {
  RunRow& of = rows_[static_cast<std::size_t>(row)];
  if (outcome.failure) {
    of.state = RunRow::State::failed;
    of.problem = problem_text(*outcome.failure);
  } else {
    of.state = outcome.result ? RunRow::State::done : RunRow::State::stood;
    of.problem.clear();
    of.item.skip = false;
    // What was doubtful before still is, unless the file has a chain of its own by now.
    if (has_own_chain(row)) of.doubts.clear();
    of.doubts.insert(of.doubts.end(), entry.doubts.begin(), entry.doubts.end());
  }
  known_[of.input.file] = entry;
  Q_EMIT row_changed(row);
}

void RunSession::set_paused(bool paused) {
  if (paused == this->paused()) return;
  if (paused)
    held_since_ = clock_.elapsed();
  else
    held_ms_ += clock_.elapsed() - held_since_;
  pause_.set(paused);
  Q_EMIT progressed();
}

void RunSession::cancel() {
  pause_.set(false);
  queued_.clear();
  run_.cancel();
}

void RunSession::correct(int row, const Chain& chain) {
  RunRow& of = rows_[static_cast<std::size_t>(row)];
  Chain own = chain;
  own.sources.clear();
  // What was not changed is no correction.
  if (for_record(own) == for_record(of.values.value_or(calibrated_)))
    own_.erase(of.input.file);
  else
    own_[of.input.file] = own;
  of.anew = true;
  of.doubts.clear();
  of.problem.clear();
  of.state = RunRow::State::planned;
  Q_EMIT row_changed(row);
  if (!running())
    run_rows({row});
  else if (std::ranges::find(queued_, row) == queued_.end())
    queued_.push_back(row);
}

void RunSession::hold(bool on) {
  held_ = on;
  Q_EMIT progressed();
}

void RunSession::open_journal(const fs::path& path) {
  if (locked()) return;
  Journal journal = load_journal(path);
  chain_ = journal.chain;
  chain_name_ = text_of(journal.options.chain_name);
  made_for_ = {};
  own_.clear();
  for (const auto& [file, own] : journal.options.own)
    if (own.chain) own_[file] = *own.chain;
  known_ = journal.entries;
  RunSettings settings;
  settings.choice.listed = journal.inputs;
  settings.folder = text_of(fs::absolute(path).parent_path().string());
  settings.name = text_of(journal.options.name);
  settings.format = journal.options.format;
  settings.finish = journal.options.finish;
  settings.keep_alpha = journal.options.keep_alpha;
  settings.compress = journal.options.compress;
  settings.existing = RunSettings::Existing::go_on;
  change(settings);
}

}  // namespace fexel

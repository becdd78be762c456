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

/// What planning finds: rows without their pictures.
struct Planned {
  Chain chain;
  std::vector<RunRow> rows;
  QStringList notes;
  QString trouble;
};

Planned plan_rows(const Chain& chain, const RunSettings& settings, RunOptions options, const MadeFor& made_for,
                  const std::map<fs::path, JournalEntry>& known, const Job& job) {
  Planned out;
  out.chain = chain;
  const ChosenInputs chosen = choose_inputs(settings.choice);
  for (const std::string& note : chosen.notes) out.notes << text_of(note);
  if (chosen.results > 0)
    out.notes
        << QObject::tr("%1 pictures are left out: Fexel wrote them, as records beside them say.").arg(chosen.results);
  std::vector<fs::path> inputs;
  std::vector<std::string> names;
  for (const ChosenInput& input : chosen.files) {
    inputs.push_back(whole(input.file));
    names.push_back(input.file.filename().string());
    if (!input.subfolder.empty()) options.own[inputs.back()].subfolder = input.subfolder;
  }
  std::vector<RunItem> items;
  try {
    if (!settings.values.isEmpty()) {
      const ValuesTable table = ValuesTable::parse(read_text(settings.values.toStdString()));
      for (std::size_t i = 0; i < inputs.size(); ++i) {
        OwnOfInput& own = options.own[inputs[i]];
        if (!own.chain) own.chain = table.chain_for(names[i], chain);
      }
      const auto without = table.without_file(names);
      if (!without.empty())
        out.notes << QObject::tr("The table has values for %1, which is not among the pictures%2.")
                         .arg(text_of(without.front()), without.size() > 1
                                                            ? QObject::tr(", and for %1 more").arg(without.size() - 1)
                                                            : QString());
    }
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
      if (const auto own = options.own.find(inputs[i]); own != options.own.end()) row.values = own->second.chain;
      row.makes = would_make(row.item, its);
      row.doubts = doubts_before(row.item, its, made_for);
      if (row.item.failure) {
        row.state = RunRow::State::unfit;
        row.problem = problem_text(*row.item.failure);
      } else if (row.item.skip) {
        row.state = RunRow::State::stood;
        if (const auto entry = known.find(inputs[i]); entry != known.end()) row.doubts = entry->second.doubts;
      } else if (const auto entry = known.find(inputs[i]);
                 entry != known.end() && entry->second.state == JournalEntry::State::failed) {
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
  chain_ = chain;
  chain_.sources.clear();
  chain_name_ = name;
  made_for_ = made_for;
  own_.clear();
  known_.clear();
  plan_again();
}

void RunSession::change(const RunSettings& settings) {
  settings_ = settings;
  plan_again();
}

RunOptions RunSession::options() const {
  RunOptions out;
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
  for (const auto& [file, chain] : own_) out.own[file].chain = chain;
  return out;
}

void RunSession::plan_again() {
  if (running()) return;
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
       known = known_](const Job& job) -> Background::Finish {
        auto found = std::make_shared<Planned>(plan_rows(with_calibration(chain, settings.calibration.toStdString()),
                                                         settings, options, made_for, known, job));
        return [this, found] {
          rows_ = std::move(found->rows);
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
  const double elapsed = static_cast<double>(clock_.elapsed()) / 1000;
  if (!running() || elapsed < 0.5 || share_ < 0.02) return std::nullopt;
  return elapsed / share_ * (1 - share_);
}

void RunSession::begin_journal() {
  Journal journal;
  journal.chain = calibrated_;
  journal.options = options();
  for (const RunRow& row : rows_) {
    journal.inputs.push_back({row.input.file, row.input.subfolder});
    if (!row.input.subfolder.empty()) journal.options.own[row.input.file].subfolder = row.input.subfolder;
  }
  journal.entries = known_;
  QDir().mkpath(settings_.folder);
  journal_ = std::make_unique<JournalWriter>(this->journal(), std::move(journal));
}

void RunSession::start() {
  if (running() || planning()) return;
  std::vector<int> rows;
  for (std::size_t i = 0; i < rows_.size(); ++i)
    if (rows_[i].state == RunRow::State::planned || rows_[i].state == RunRow::State::failed)
      rows.push_back(static_cast<int>(i));
  try {
    begin_journal();
    sweep_left_behind(settings_.folder.toStdString());
    // What cannot be made is told as well.
    for (const RunRow& row : rows_)
      if (row.state == RunRow::State::unfit && row.item.failure)
        journal_->add(row.input.file, entry_for(row.item, {{}, row.item.failure, 0}, options().folder));
  } catch (const Error& error) {
    Q_EMIT said(text_of(error));
    return;
  }
  run_rows(std::move(rows));
}

void RunSession::run_rows(std::vector<int> rows) {
  if (rows.empty()) {
    Q_EMIT finished();
    return;
  }
  share_ = 0;
  clock_.start();
  pause_.set(false);
  auto items = std::make_shared<std::vector<RunItem>>();
  std::vector<std::size_t> which;
  RunOptions how = options();
  for (const int row : rows) {
    which.push_back(items->size());
    items->push_back(rows_[static_cast<std::size_t>(row)].item);
    how.own[rows_[static_cast<std::size_t>(row)].input.file].chain = chain_of(row);
  }
  const auto tell = [this](std::function<void()> body) {
    QMetaObject::invokeMethod(this, std::move(body), Qt::QueuedConnection);
  };
  run_.start(
      tr("running"),
      [this, items, which, rows, how, chain = calibrated_, tell, journal = journal_.get(),
       folder = options().folder](const Job& job) -> Background::Finish {
        BatchHow batch;
        batch.pause = &pause_;
        batch.begun = [&](std::size_t i) {
          tell([this, row = rows[i]] {
            rows_[static_cast<std::size_t>(row)].state = RunRow::State::running;
            Q_EMIT row_changed(row);
          });
        };
        batch.ended = [&](std::size_t i, const BatchOutcome& outcome) {
          // On the disk first: what the window shows is kept.
          if (journal) journal->add((*items)[i].input, entry_for((*items)[i], outcome, folder));
          tell([this, row = rows[i], outcome] { take(row, outcome); });
        };
        run_batch(chain, *items, which, how, batch, job);
        if (journal) journal->tidy();
        return [this] {
          share_ = 1;
          if (queued_.empty()) {
            Q_EMIT finished();
            return;
          }
          std::vector<int> next(queued_.begin(), queued_.end());
          queued_.clear();
          run_rows(std::move(next));
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

void RunSession::take(int row, const BatchOutcome& outcome) {
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
    if (outcome.result)
      for (std::string& doubt : doubts_after(*outcome.result)) of.doubts.push_back(std::move(doubt));
  }
  known_[of.input.file] = entry_for(of.item, outcome, options().folder);
  Q_EMIT row_changed(row);
}

void RunSession::set_paused(bool paused) {
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
  const bool changed = !(for_record(own) == for_record(of.values.value_or(calibrated_)));
  if (changed)
    own_[of.input.file] = own;
  else
    own_.erase(of.input.file);
  try {
    if (!journal_) begin_journal();
    journal_->set_own_chain(of.input.file, changed ? std::optional(own) : std::nullopt);
    RunOptions options = this->options();
    options.first_index = row + 1;
    options.replace = false;
    options.resume = true;  // its own result is replaced, and nothing else
    if (!of.input.subfolder.empty()) options.own[of.input.file].subfolder = of.input.subfolder;
    RunItem item = plan_run(calibrated_, {of.input.file}, options).front();
    for (std::size_t i = 0; i < rows_.size() && !item.failure; ++i)
      if (static_cast<int>(i) != row && !rows_[i].item.failure && rows_[i].item.target.path == item.target.path)
        item.failure = input_error(rows_[i].input.file.string() + " is written to this file.",
                                   item.target.path.string(), "Use {index} or subfolders in the names.");
    of.item = item;
    of.makes = would_make(item, own);
    of.doubts.clear();
    of.problem = item.failure ? problem_text(*item.failure) : QString();
    of.state = item.failure ? RunRow::State::unfit : RunRow::State::planned;
  } catch (const Error& error) {
    of.state = RunRow::State::unfit;
    of.problem = text_of(error);
  }
  Q_EMIT row_changed(row);
  if (of.state == RunRow::State::unfit) return;
  if (running())
    queued_.push_back(row);
  else
    run_rows({row});
}

void RunSession::open_journal(const fs::path& path) {
  Journal journal = load_journal(path);
  if (running()) return;
  chain_ = journal.chain;
  chain_name_ = text_of(journal.options.chain_name);
  made_for_ = {};
  own_.clear();
  for (const auto& [file, own] : journal.options.own)
    if (own.chain) own_[file] = *own.chain;
  known_ = journal.entries;
  journal_.reset();
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

/// What the window does with files: opening, finding again, saving, bringing back, writing out.
#include <QDir>
#include <QFileDialog>
#include <QSettings>
#include <QStandardPaths>

#include "app/canvas/view_area.h"
#include "app/compare/figure.h"
#include "app/compare/proof_sheet.h"
#include "app/document/motion_layer.h"
#include "app/pairs/reference.h"
#include "app/pipeline/tile.h"
#include "app/steps/step_ui.h"
#include "app/ui/text.h"
#include "app/window/inspector.h"
#include "app/window/main_window.h"
#include "base/log.h"
#include "chain/evaluate.h"
#include "demo/demo.h"
#include "run/axes.h"
#include "run/run.h"
#include "run/sources.h"

namespace fexel {
namespace {

constexpr int max_recent = 10;

std::vector<std::filesystem::path> paths_of(const Chain& chain) {
  std::vector<std::filesystem::path> out;
  for (const SourceReference& source : chain.sources) out.emplace_back(source.path);
  return out;
}

/// A source may have gone; the chain is kept all the same.
std::string checksum_if_there(const std::filesystem::path& path) {
  try {
    return checksum(path);
  } catch (const Error&) {
    return {};
  }
}

/// "7", "7 and 9", "7, 9 and 11".
QString numbers_text(const std::vector<int>& numbers) {
  QStringList words;
  for (const int number : numbers) words << QString::number(number);
  if (words.size() < 2) return words.join(QString());
  const QString last = words.takeLast();
  return QObject::tr("%1 and %2").arg(words.join(", "), last);
}

/// Steps whose points lie beside the picture that is open now, in a sentence; empty for none.
QString outside_text(const Document& document) {
  const Layout& layout = document.layout();
  QStringList steps;
  for (std::size_t i = 0; i < document.chain().steps.size(); ++i) {
    const Step& step = document.chain().steps[i];
    const StepInput input = input_of_step(layout, static_cast<int>(i));
    const auto beside = [&](const StepHandle& handle) {
      return handle.at.x < 0 || handle.at.y < 0 || handle.at.x > input.size.width || handle.at.y > input.size.height;
    };
    if (step.on && std::ranges::any_of(ui_of(step.kind).figure(step.kind, input).handles, beside))
      steps << QObject::tr("step %1, %2").arg(i + 1).arg(called(step));
  }
  if (steps.isEmpty()) return {};
  const Size size = document.shape().size;
  return QObject::tr("This picture has %1 × %2 px, and points of %3 lie outside of it: move them onto the picture.")
      .arg(size.width)
      .arg(size.height)
      .arg(steps.join("; "));
}

/// Of a file with axes the first channel and plane are shown over time; where it has no times, the first channel.
void choose_first(const OpenSource& source, Chain& chain) {
  const auto axes = axes_of(source.frames);
  if (!axes || (axes->channels < 2 && axes->planes < 2)) return;
  const AxisChoice choice{axes->channels > 1 && axes->times * axes->planes > 1 ? 1 : 0,
                          axes->planes > 1 && axes->times > 1 ? 1 : 0};
  if (choice != AxisChoice{}) chain = with_choice(std::move(chain), source.frames, choice);
}

/// A chain's name with the ending by which it is known for one.
QString with_ending(const QString& path) {
  return path.isEmpty() || path.endsWith(".json", Qt::CaseInsensitive) ? path : path + ".fexel.json";
}

}  // namespace

void MainWindow::open_file(const QString& path, bool keep_steps) {
  say(QString());
  last_folder_ = QFileInfo(path).absolutePath();
  const std::string file = path.toStdString();
  const bool is_chain = path.endsWith(".json", Qt::CaseInsensitive) && !keep_steps;
  background_.start(
      tr("opening %1").arg(QFileInfo(path).fileName()),
      [this, file, is_chain, path, keep_steps, steps = document_.chain(),
       alpha_band = document_.source() && document_.source()->alpha_band](const Job& job) -> Background::Finish {
        auto chain = std::make_shared<Chain>();
        std::vector<std::filesystem::path> pictures{file};
        QString note;
        if (is_chain) {
          *chain = load_chain(file);
          if (chain->sources.empty())
            throw call_error("This chain names no picture to open.", file,
                             "Open a picture first, or run the chain with fexel-cli apply.");
          pictures.clear();
          for (const SourceReference& named : chain->sources) {
            const FoundSource found = find_source(file, named, job);
            pictures.emplace_back(found.path);
            if (found.moved)
              note = tr("%1 was found at %2, with the checksum that the chain names.")
                         .arg(QString::fromStdString(named.path), QString::fromStdString(found.path));
          }
        }
        auto source = std::make_shared<OpenSource>(read_open_source(
            pictures, job.part(0, 0.9), is_chain ? limits_for(*chain, {}).alpha_band : keep_steps && alpha_band));
        for (std::size_t i = 0; is_chain && note.isEmpty() && i < pictures.size(); ++i)
          if (!chain->sources[i].sha256.empty() && checksum(pictures[i], job) != chain->sources[i].sha256)
            note = tr("%1 is not the file that this chain was made with: its checksum differs.")
                       .arg(QString::fromStdString(pictures[i].string()));
        if (keep_steps) {
          *chain = steps;
          chain->sources.clear();
        }
        if (!is_chain && !keep_steps) choose_first(*source, *chain);
        return [this, source, chain, is_chain, keep_steps, path, note] {
          document_.open(std::move(*source), std::move(*chain), is_chain ? path : QString());
          remember(path);
          views_->view_a()->setFocus();
          const bool mention = std::exchange(mention_unsaved_, false) && note.isEmpty() && has_unsaved_work();
          const QString beside = keep_steps ? outside_text(document_) : QString();
          if (!beside.isEmpty()) return say(beside);
          if (note.isEmpty() && !mention && !document_.source()->info.notes.empty()) {
            QStringList notes;
            for (const std::string& one : document_.source()->info.notes) notes << text_of(one);
            return say(notes.join(" "));
          }
          say(mention ? tr("Work that was not saved when Fexel last ended is kept: File, Bring back unsaved work.")
                      : note);
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::bring_back() {
  const auto work = autosave_.left_behind();
  if (!work) {
    say(tr("There is no unsaved work to bring back."));
    return;
  }
  background_.start(
      tr("bringing back unsaved work"),
      [this, work = *work](const Job& job) -> Background::Finish {
        auto source = std::make_shared<OpenSource>(
            read_open_source(paths_of(work.chain), job, limits_for(work.chain, {}).alpha_band));
        return [this, source, work] {
          Chain chain = work.chain;
          if (chain.sources.size() < 2 &&
              (chain.sources.empty() || (chain.sources.front().skip.empty() && !chain.sources.front().alpha_band)))
            chain.sources.clear();
          document_.open(std::move(*source), std::move(chain), work.chain_path);
          document_.undo_stack().resetClean();
          autosave_.take_over(work);
          log_info("unsaved work was brought back");
          const QString brought =
              tr("Brought back what was not saved when Fexel last ended. Save the chain to keep it.");
          say(crash_note_.isEmpty()
                  ? brought
                  : brought + " " + tr("It ended by a fault; a note of it is in %1.").arg(crash_note_));
          views_->view_a()->setFocus();
        };
      },
      [this](const Error& error) { say(error); });
}

bool MainWindow::has_unsaved_work() const {
  return autosave_.left_behind().has_value();
}

void MainWindow::remember(const QString& path) {
  QSettings settings("fexel", QCoreApplication::applicationName());
  QStringList recent = settings.value("recent").toStringList();
  const QString whole = QFileInfo(path).absoluteFilePath();
  recent.removeAll(whole);
  recent.prepend(whole);
  settings.setValue("recent", recent.mid(0, max_recent));
}

void MainWindow::fill_recent() {
  recent_->clear();
  for (const QString& path : QSettings("fexel", QCoreApplication::applicationName()).value("recent").toStringList()) {
    const QString text = QFileInfo(path).fileName() + "   " + QFileInfo(path).absolutePath();
    QAction* action = recent_->addAction(QString(text).replace('&', "&&"));
    action->setEnabled(QFileInfo::exists(path));
    connect(action, &QAction::triggered, this, [this, path] {
      if (may_leave()) open_file(path);
    });
  }
  recent_->setEnabled(!recent_->isEmpty());
}

void MainWindow::ask_same_again() {
  const QString path =
      QFileDialog::getOpenFileName(this, tr("The same steps with another picture"), last_folder_,
                                   tr("Pictures and films (%1)").arg(picture_patterns()) + ";;" + tr("All files (*)"));
  if (!path.isEmpty() && may_leave()) open_file(path, true);
}

void MainWindow::open_demo(const QString& chain) {
  const QString folder = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/demo";
  if (demo_is_there(folder.toStdString(), chain.toStdString())) {
    open_file(folder + "/" + chain);
    return;
  }
  background_.start(
      tr("rendering the demo"),
      [this, folder, chain](const Job& job) -> Background::Finish {
        write_demo(folder.toStdString(), job, chain.toStdString());
        return [this, folder, chain] { open_file(folder + "/" + chain); };
      },
      [this](const Error& error) { say(error); });
}

bool MainWindow::may_save_over(const QString& target) {
  QMessageBox question(QMessageBox::NoIcon, tr("Fexel"),
                       tr("%1 has changed since it was opened here: another program or window has written it.")
                           .arg(QFileInfo(target).fileName()),
                       QMessageBox::NoButton, this);
  QPushButton* beside = question.addButton(tr("Save beside"), QMessageBox::AcceptRole);
  QPushButton* open = question.addButton(tr("Open what is there"), QMessageBox::ActionRole);
  QPushButton* replace = question.addButton(tr("Replace it"), QMessageBox::DestructiveRole);
  question.addButton(tr("Cancel"), QMessageBox::RejectRole);
  question.exec();
  if (question.clickedButton() == replace) return true;
  if (question.clickedButton() == open) open_file(target);
  if (question.clickedButton() == beside) {
    const QFileInfo file(target);
    QString stem = file.fileName();
    stem.replace(".fexel.json", QString());
    for (int number = 2;; ++number) {
      const QString other = file.absolutePath() + QString("/%1-%2.fexel.json").arg(stem).arg(number);
      if (QFileInfo::exists(other)) continue;
      save_chain(other);
      break;
    }
  }
  return false;
}

bool MainWindow::save_chain(const QString& path) {
  if (!document_.source()) return false;
  const QString target = with_ending(path);
  const bool own = QFileInfo(target).absoluteFilePath() == QFileInfo(document_.chain_path()).absoluteFilePath();
  if (own && document_.chain_file_changed() && !may_save_over(target)) return false;
  try {
    Chain chain = document_.chain();
    std::vector<std::filesystem::path> files;
    for (const FrameFile& frame : document_.frames())
      if (files.empty() || files.back() != std::filesystem::absolute(frame.path))
        files.push_back(std::filesystem::absolute(frame.path));
    if (files.empty()) files.push_back(std::filesystem::absolute(document_.source()->path.toStdString()));
    const std::filesystem::path& source = files.front();
    const std::filesystem::path folder = std::filesystem::absolute(target.toStdString()).parent_path();
    const bool same =
        !chain.sources.empty() &&
        std::filesystem::absolute(std::filesystem::path(document_.chain_path().toStdString()).parent_path() /
                                  chain.sources[0].path)
                .lexically_normal() == source.lexically_normal();
    std::vector<SourceReference> named;
    for (std::size_t i = 0; i < files.size(); ++i) {
      const bool known =
          same && i < chain.sources.size() && chain.sources.size() == files.size() && !chain.sources[i].sha256.empty();
      named.push_back({files[i].lexically_relative(folder).string(),
                       known ? chain.sources[i].sha256 : checksum_if_there(files[i])});
    }
    for (std::size_t i = 0; chain.sources.size() == files.size() && i < files.size(); ++i)
      named[i].skip = chain.sources[i].skip;
    for (SourceReference& source_named : named) source_named.alpha_band = document_.source()->alpha_band;
    chain.sources = named;
    ProtectedPaths keep;
    for (const std::filesystem::path& file : files) keep.add(file, "a source");
    for (const std::filesystem::path& also : read_by(chain)) keep.add(also, "a reference of the chain");
    for (std::string* file : files_of_steps(chain))
      *file = reference_path(document_, *file).lexically_normal().lexically_relative(folder).string();
    write_text(target.toStdString(), write_chain(chain), true, &keep);
  } catch (const Error& error) {
    say(error);
    return false;
  }
  say(QString());
  document_.set_chain_path(target);
  document_.motion_layer().keep();
  refresh();
  return true;
}

QString results_folder(const QString& sources) {
  return QDir(sources).absoluteFilePath("results");
}

QString written_text(const RunResult& made, const std::filesystem::path& target) {
  const QString name = QString::fromStdString(target.filename().string());
  const auto frames = std::ranges::count(made.frames, true, &FrameOutcome::written);
  QString text =
      frames > 1
          ? QObject::tr("Written: %1, %2 frames of %3 × %4 px, ").arg(name).arg(frames).arg(made.width).arg(made.height)
          : QObject::tr("Written: %1, %2 × %3 px, ").arg(name).arg(made.width).arg(made.height);
  text += made.exact              ? QObject::tr("exact.")
          : made.resamplings == 1 ? QObject::tr("resampled once.")
          : made.resamplings == 0 ? QObject::tr("worked out of whole pixels.")
                                  : QObject::tr("resampled %1 times.").arg(made.resamplings);
  if (made.empty_share > 0) text += QObject::tr(" %1 % of it is empty.").arg(100 * made.empty_share, 0, 'f', 1);
  if (made.clamped > 0) text += QObject::tr(" %1 samples were clamped to the depth's range.").arg(made.clamped);
  for (const std::string& note : made.notes) text += " " + text_of(note);
  std::vector<int> unread, unmatched;
  for (std::size_t i = 0; i < made.frames.size(); ++i) {
    const FrameOutcome& frame = made.frames[i];
    if (frame.status != MatchStatus::failed) continue;
    (frame.empty_page || !frame.written ? unread : unmatched).push_back(static_cast<int>(i) + 1);
  }
  if (!unmatched.empty())
    text += QObject::tr(" Not matched, and written where they were: page %1.").arg(numbers_text(unmatched));
  if (!unread.empty()) {
    text += QObject::tr(" Could not be used, and are empty: page %1").arg(numbers_text(unread));
    text += " (" + QString::fromStdString(made.frames[static_cast<std::size_t>(unread.front()) - 1].reason) + ").";
  }
  return text;
}

void MainWindow::write_out(const QString& path, bool replace) {
  ResultPage* page = inspector_->result_page();
  if (!document_.source()) return;
  if (busy()) return;
  if (path.isEmpty()) {
    page->show_problem(tr("Give the file a name."), false);
    return;
  }
  const auto frames = document_.all_frames();
  const bool sequence = frames.size() > 1;
  Target target;
  target.path = QFileInfo(path).absoluteFilePath().toStdString();
  target.replace = replace;
  target.keep = document_.protected_paths();
  WriteHow how;
  how.sources = document_.source()->files;
  how.keep_going = sequence;
  how.leave_out_unmatched = page->leaves_out_unmatched();
  int count = document_.frames_to_write();
  if (how.leave_out_unmatched) count -= static_cast<int>(document_.unmatched_frames().size());
  target.record = record_path(target.path, count);
  try {
    document_.layout().require_sound();
    const auto format = format_of_name(target.path);
    if (!format)
      throw call_error("The name's ending does not say what to write.", target.path.string(),
                       "Use .tif, .png, .jpg, .pgm, .ppm or .pfm.");
    if (!sequence && is_numbered(target.path))
      throw call_error("There is one picture, and {index} stands for the numbers of several.", target.path.string(),
                       "Give the file a name without {index}.");
    target.format = *format;
    if (document_.source()->info.alpha && (*format == Format::tiff || *format == Format::png))
      target.finish.empty = EmptyAs::alpha;
    plan_frames(document_.chain(), frames, target, how);
  } catch (const Error& error) {
    bool may_replace = false;
    std::error_code code;
    for (const auto& file : files_of(target, count))
      may_replace = may_replace || (!replace && std::filesystem::is_regular_file(file, code));
    Target replacing = target;
    replacing.replace = true;
    try {
      plan_frames(document_.chain(), frames, replacing, how);
    } catch (const Error&) {
      may_replace = false;
    }
    page->show_problem(
        QString::fromStdString(error.message()) + " " +
            (may_replace ? tr("Choose another name, or replace it.") : QString::fromStdString(error.remedy())),
        may_replace);
    return;
  }
  if (!sequence && !how.sources.empty())
    how.at_hand = AtHand{how.sources.front().identity(), document_.source()->pixels};
  page->show_problem({}, false);
  background_.start(
      count > 1 ? tr("writing %1 frames").arg(count) : tr("writing %1").arg(QFileInfo(path).fileName()),
      [page, chain = document_.chain(), frames, target, how](const Job& job) -> Background::Finish {
        std::error_code code;
        std::filesystem::create_directories(target.path.parent_path(), code);
        const RunResult made = write_frames(chain, frames, target, how, job);
        return [page, made, path = target.path] {
          page->show_written(written_text(made, path), made.count(MatchStatus::failed) > 0);
        };
      },
      [page](const Error& error) { page->show_failure(error); });
}

void MainWindow::ask_open() {
  const QStringList paths = QFileDialog::getOpenFileNames(
      this, tr("Open a picture, a sequence of several, or a chain"), last_folder_,
      tr("Pictures, films and chains (%1 *.json)").arg(picture_patterns()) + ";;" + tr("All files (*)"));
  if (paths.isEmpty() || !may_leave()) return;
  if (paths.size() == 1)
    open_file(paths.front());
  else
    open_several(paths);
}

void MainWindow::ask_save(bool as) {
  QString path = document_.chain_path();
  if (as || path.isEmpty()) {
    const QFileInfo source(document_.source()->path);
    path = QFileDialog::getSaveFileName(
        this, tr("Save the chain"),
        path.isEmpty() ? source.absolutePath() + "/" + source.completeBaseName() + ".fexel.json" : path,
        tr("Chains (*.fexel.json)"));
    // The dialog has asked about the name that was typed, not about the one that its ending makes of it.
    if (const QString whole = with_ending(path); whole != path && QFileInfo::exists(whole)) {
      QMessageBox question(QMessageBox::NoIcon, tr("Fexel"),
                           tr("%1 is there already.").arg(QFileInfo(whole).fileName()), QMessageBox::NoButton, this);
      QPushButton* replace = question.addButton(tr("Replace it"), QMessageBox::DestructiveRole);
      question.addButton(tr("Leave it"), QMessageBox::RejectRole);
      question.exec();
      if (question.clickedButton() != replace) return;
    }
  }
  if (!path.isEmpty()) save_chain(path);
}

void MainWindow::ask_figure() {
  const QFileInfo source(document_.source()->path);
  const QString path = QFileDialog::getSaveFileName(
      this, tr("Save this comparison as a figure"),
      results_folder(source.absolutePath()) + "/" + source.completeBaseName() + "-figure.png",
      tr("Figures (*.png *.svg *.pdf)"));
  if (path.isEmpty()) return;
  QDir().mkpath(QFileInfo(path).absolutePath());
  try {
    if (views_->proof_sheet()->isVisible())
      save_captioned(path, views_->proof_sheet()->grab(), views_->proof_sheet()->caption(), document_);
    else
      save_figure(path, *views_, document_);
    say(QString());
  } catch (const Error& error) {
    say(error);
  }
}

void MainWindow::ask_write_path() {
  const QString path =
      QFileDialog::getSaveFileName(this, tr("Where to write the result"), inspector_->result_page()->path(),
                                   tr("TIFF (*.tif);;PNG (*.png);;JPEG (*.jpg);;PNM (*.pgm *.ppm);;PFM (*.pfm)"),
                                   nullptr, QFileDialog::DontConfirmOverwrite);
  if (!path.isEmpty()) inspector_->result_page()->set_path(path);
}

}  // namespace fexel

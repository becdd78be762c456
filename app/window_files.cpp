/// What the window does with files: opening, finding again, saving, bringing back, writing out.
#include <QFileDialog>
#include <QSettings>
#include <QStandardPaths>

#include "app/figure.h"
#include "app/inspector.h"
#include "app/main_window.h"
#include "app/proof_sheet.h"
#include "app/text.h"
#include "app/view_area.h"
#include "chain/evaluate.h"
#include "chain/record.h"
#include "chain/run.h"
#include "chain/sources.h"
#include "demo/demo.h"

namespace fexel {
namespace {

constexpr int most_recent = 10;

std::vector<std::filesystem::path> paths_of(const Chain& chain) {
  std::vector<std::filesystem::path> out;
  for (const SourceReference& source : chain.sources) out.emplace_back(source.path);
  return out;
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
      [this, file, is_chain, path, keep_steps, steps = document_.chain()](const Job& job) -> Background::Finish {
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
        auto source = std::make_shared<OpenSource>(read_open_source(pictures, job.part(0, 0.9)));
        for (std::size_t i = 0; is_chain && note.isEmpty() && i < pictures.size(); ++i)
          if (!chain->sources[i].sha256.empty() && checksum(pictures[i], job) != chain->sources[i].sha256)
            note = tr("%1 is not the file that this chain was made with: its checksum differs.")
                       .arg(QString::fromStdString(pictures[i].string()));
        if (keep_steps) {
          *chain = steps;
          chain->sources.clear();
        }
        return [this, source, chain, is_chain, path, note] {
          document_.open(std::move(*source), std::move(*chain), is_chain ? path : QString());
          remember(path);
          const bool mention = std::exchange(mention_unsaved_, false) && note.isEmpty() && has_unsaved_work();
          say(mention ? tr("Work that was not saved when Fexel last ended is kept: File, Bring back unsaved work.")
                      : note);
          views_->view_a()->setFocus();
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::bring_back() {
  const auto work = keeper_.left_behind();
  if (!work) {
    say(tr("There is no unsaved work to bring back."));
    return;
  }
  background_.start(
      tr("bringing back unsaved work"),
      [this, work = *work](const Job& job) -> Background::Finish {
        auto source = std::make_shared<OpenSource>(read_open_source(paths_of(work.chain), job));
        return [this, source, work] {
          Chain chain = work.chain;
          if (chain.sources.size() < 2) chain.sources.clear();
          document_.open(std::move(*source), std::move(chain), work.chain_path);
          document_.undo_stack().resetClean();
          keeper_.take_over(work);
          say(tr("Brought back what was not saved when Fexel last ended. Save the chain to keep it."));
          views_->view_a()->setFocus();
        };
      },
      [this](const Error& error) { say(error); });
}

bool MainWindow::has_unsaved_work() const {
  return keeper_.left_behind().has_value();
}

void MainWindow::remember(const QString& path) {
  QSettings settings("fexel", QCoreApplication::applicationName());
  QStringList recent = settings.value("recent").toStringList();
  const QString whole = QFileInfo(path).absoluteFilePath();
  recent.removeAll(whole);
  recent.prepend(whole);
  settings.setValue("recent", recent.mid(0, most_recent));
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
  const QString path = QFileDialog::getOpenFileName(
      this, tr("The same steps with another picture"), last_folder_,
      tr("Pictures (*.tif *.tiff *.png *.jpg *.jpeg *.pgm *.ppm *.pnm *.pfm);;All files (*)"));
  if (!path.isEmpty() && may_leave()) open_file(path, true);
}

void MainWindow::open_demo(const QString& chain) {
  const QString folder = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/demo";
  if (demo_is_there(folder.toStdString())) {
    open_file(folder + "/" + chain);
    return;
  }
  background_.start(
      tr("rendering the demo"),
      [this, folder, chain](const Job& job) -> Background::Finish {
        write_demo(folder.toStdString(), job);
        return [this, folder, chain] { open_file(folder + "/" + chain); };
      },
      [this](const Error& error) { say(error); });
}

bool MainWindow::save_chain(const QString& path) {
  if (!document_.source()) return false;
  const QString target = with_ending(path);
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
      named.push_back(
          {files[i].lexically_relative(folder).string(), known ? chain.sources[i].sha256 : checksum(files[i])});
    }
    for (std::size_t i = 0; chain.sources.size() == files.size() && i < files.size(); ++i)
      named[i].skip = chain.sources[i].skip;
    chain.sources = named;
    WriteOptions checks;
    checks.sources = files;
    checks.replace = true;
    check_target(target.toStdString(), checks);
    write_text(target.toStdString(), write_chain(chain), true);
  } catch (const Error& error) {
    say(error);
    return false;
  }
  say(QString());
  document_.set_chain_path(target);
  refresh();
  return true;
}

void MainWindow::write_out(const QString& path, bool replace) {
  ResultPage* page = inspector_->result_page();
  if (!document_.source()) return;
  if (busy()) return;
  if (path.isEmpty()) {
    page->show_problem(tr("Give the file a name."), false);
    return;
  }
  const std::string target = QFileInfo(path).absoluteFilePath().toStdString();
  const auto format = format_of_name(target);
  WriteOptions options;
  Finish finish;
  options.replace = replace;
  options.sources = {document_.source()->path.toStdString()};
  try {
    document_.layout().require_sound();
    if (!format)
      throw call_error("The name's ending does not say what to write.", target, "Use .tif, .png, .pgm, .ppm or .pfm.");
    const FileInfo& info = document_.source()->info;
    if (info.alpha && (*format == Format::tiff || *format == Format::png)) finish.empty = EmptyAs::alpha;
    check_finish(finish, *format, info.bands, info.depth);
    check_target(target, options);
  } catch (const Error& error) {
    std::error_code code;
    WriteOptions replacing = options;
    replacing.replace = true;
    bool may_replace = !replace && std::filesystem::is_regular_file(target, code);
    try {
      check_target(target, replacing);
    } catch (const Error&) {
      may_replace = false;
    }
    page->show_problem(
        QString::fromStdString(error.message()) + " " +
            (may_replace ? tr("Choose another name, or replace it.") : QString::fromStdString(error.remedy())),
        may_replace);
    return;
  }
  options.format = *format;
  options.pixel_size = document_.layout().result().pixel;
  if (document_.frames().size() > 1 && document_.align_step() && *format == Format::tiff) {
    page->show_problem({}, false);
    write_sequence_out(target, options);
    return;
  }
  const auto chain = std::make_shared<const Chain>(for_frame(document_.chain(), document_.frame()));
  const auto layout = std::make_shared<const Layout>(document_.layout());
  const auto pixels = document_.source()->pixels;
  page->show_problem({}, false);
  background_.start(
      tr("writing %1").arg(QFileInfo(path).fileName()),
      [page, chain, layout, pixels, options, target, finish](const Job& job) -> Background::Finish {
        WarpReport report;
        std::vector<Image> pages;
        WriteOptions how = options;
        how.attached = carried_on(options.sources.front(), pixels->base().bands(), finish);
        Image made = evaluate(*chain, *layout, *pixels, job.part(0, 0.5), &report);
        pages.push_back(finished(std::move(made), finish, report.clamped));
        write_finished(target, pages, how, finish, job.part(0.5, 0.9));
        const int width = pages.front().width(), height = pages.front().height();
        const RunResult outcome{width, height, report.exact, 0, empty_share(pages.front()), report.clamped};
        save_record(record_path(target), options.sources, target, options.format, finish, outcome, *chain, true,
                    job.part(0.9, 1));
        return [page, report, layout, width, height, target] {
          QString text = tr("Written: %1, %2 × %3 px, %4.")
                             .arg(QString::fromStdString(std::filesystem::path(target).filename().string()))
                             .arg(width)
                             .arg(height)
                             .arg(how_made(*layout, layout->last()));
          if (report.empty > 0)
            text +=
                tr(" %1 % of it is empty.")
                    .arg(100.0 * static_cast<double>(report.empty) / (static_cast<double>(width) * height), 0, 'f', 1);
          if (report.clamped > 0) text += tr(" %1 samples were clamped to the depth's range.").arg(report.clamped);
          page->show_written(text);
        };
      },
      [page](const Error& error) { page->show_failure(error); });
}

void MainWindow::ask_open() {
  const QStringList paths = QFileDialog::getOpenFileNames(
      this, tr("Open a picture, a sequence of several, or a chain"), last_folder_,
      tr("Pictures and chains (*.tif *.tiff *.png *.jpg *.jpeg *.pgm *.ppm *.pnm *.pfm *.json);;All files (*)"));
  if (paths.isEmpty() || !may_leave()) return;
  if (paths.size() == 1)
    open_file(paths.front());
  else
    open_sequence(paths);
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
      source.absolutePath() + "/" + source.completeBaseName() + "-figure.png", tr("Figures (*.png *.svg *.pdf)"));
  if (path.isEmpty()) return;
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

/// What the window does with pictures that come several at once, or by the clipboard.
#include <QClipboard>
#include <QDateTime>
#include <QDir>
#include <QProcess>
#include <QStandardPaths>
#include <set>

#include "app/canvas/view_area.h"
#include "app/document/renderer.h"
#include "app/runs/run_panel.h"
#include "app/ui/text.h"
#include "app/window/main_window.h"
#include "chain/evaluate.h"
#include "run/axes.h"

namespace fexel {
namespace {

constexpr int most_looked_at = 300;  // headers, of pictures that are opened at once
constexpr int most_windows = 12;

/// Sizes of the pictures that differ, in words; empty where they are alike.
QString unlike_text(const std::vector<std::filesystem::path>& files, const Job& job) {
  std::set<std::pair<int, int>> sizes;
  for (const std::filesystem::path& file : files) {
    job.check();
    try {
      const FileInfo info = read_info(file);
      sizes.insert({info.width, info.height});
    } catch (const Error&) {
      // It says so itself when it is opened.
    }
  }
  if (sizes.size() < 2) return {};
  const auto text = [](const std::pair<int, int>& size) {
    return QString("%1 × %2 px").arg(size.first).arg(size.second);
  };
  return sizes.size() == 2 ? QObject::tr("%1 and %2").arg(text(*sizes.begin()), text(*sizes.rbegin()))
                           : QObject::tr("from %1 to %2").arg(text(*sizes.begin()), text(*sizes.rbegin()));
}

}  // namespace

void MainWindow::open_several(const QStringList& paths) {
  std::vector<std::filesystem::path> files;
  for (const QString& path : paths) {
    if (QFileInfo(path).isDir()) return open_sequence(paths);
    if (static_cast<int>(files.size()) < most_looked_at) files.emplace_back(path.toStdString());
  }
  if (paths.size() < 2) {
    if (!paths.isEmpty()) open_file(paths.front());
    return;
  }
  background_.start(
      tr("looking at %1 pictures").arg(paths.size()),
      [this, paths, files](const Job& job) -> Background::Finish {
        const QString unlike = unlike_text(files, job);
        return [this, paths, unlike] {
          if (unlike.isEmpty()) return open_sequence(paths);
          // The question is asked when the work that led to it has ended.
          QTimer::singleShot(0, this, [this, paths, unlike] { ask_unlike(paths, unlike); });
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::ask_unlike(const QStringList& paths, const QString& unlike) {
  QMessageBox question(QMessageBox::NoIcon, tr("Fexel"),
                       tr("These %1 pictures have different sizes: %2.").arg(paths.size()).arg(unlike),
                       QMessageBox::NoButton, this);
  question.setInformativeText(
      tr("The frames of a sequence mostly have one size. Unrelated pictures are better opened each on its own, or run "
         "through one chain (File, Run over many pictures)."));
  QPushButton* each = paths.size() <= most_windows
                          ? question.addButton(tr("Each in its own window"), QMessageBox::AcceptRole)
                          : nullptr;
  QPushButton* run = question.addButton(tr("As a run"), QMessageBox::ActionRole);
  QPushButton* sequence = question.addButton(tr("As a sequence"), QMessageBox::ActionRole);
  question.addButton(tr("Cancel"), QMessageBox::RejectRole);
  question.exec();
  if (question.clickedButton() == sequence) return open_sequence(paths);
  if (question.clickedButton() == run) {
    show_runs();
    if (runs()) runs()->add_places(paths);
    return;
  }
  if (!each || question.clickedButton() != each) return;
  open_file(paths.front());
  for (const QString& path : paths.mid(1)) QProcess::startDetached(QCoreApplication::applicationFilePath(), {path});
}

bool MainWindow::paste_picture() {
  const QMimeData* data = QApplication::clipboard()->mimeData();
  if (!data) return false;
  // A file that was copied in a file manager is opened itself.
  if (data->hasUrls()) {
    QStringList files;
    for (const QUrl& url : data->urls())
      if (url.isLocalFile()) files << url.toLocalFile();
    if (files.isEmpty()) return false;
    if (may_leave()) open_several(files);
    return true;
  }
  if (!data->hasImage()) return false;
  const QImage image = qvariant_cast<QImage>(data->imageData());
  if (image.isNull() || !may_leave()) return true;
  // What a chain is of has to be a file: it is kept where work is.
  const QString folder = QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/pasted";
  const QString path =
      QString("%1/pasted-%2.png").arg(folder, QDateTime::currentDateTime().toString("yyyy-MM-dd-hhmmss-zzz"));
  QDir().mkpath(folder);
  // Its size in dots per metre is the screen's, which says nothing of the scene.
  QImage plain = image.hasAlphaChannel() ? image.convertToFormat(QImage::Format_RGBA8888)
                 : image.isGrayscale()   ? image.convertToFormat(QImage::Format_Grayscale8)
                                         : image.convertToFormat(QImage::Format_RGB888);
  plain.setDotsPerMeterX(0);
  plain.setDotsPerMeterY(0);
  if (!plain.save(path, "PNG")) {
    say(tr("The pasted picture could not be kept in %1. Check that the disk has room.").arg(folder));
    return true;
  }
  open_file(path);
  return true;
}

void MainWindow::copy_picture() {
  if (!document_.source() || busy()) return;
  constexpr double most_pixels = 120e6;
  const int station = document_.station_b();
  const Station& shown = document_.layout().stations[static_cast<std::size_t>(station)];
  if (static_cast<double>(shown.size.width) * shown.size.height > most_pixels)
    return say(tr("%1 is too large for the clipboard. Write it to a file (Ctrl+E).").arg(size_text(shown)));
  Chain chain = document_.chain();
  chain.steps.resize(static_cast<std::size_t>(std::min<int>(station, static_cast<int>(chain.steps.size()))));
  for (std::string* file : files_of_steps(chain)) *file = reference_path(document_, *file).string();
  background_.start(
      tr("copying the picture"),
      [this, chain, pixels = document_.source()->pixels, shape = document_.shape(),
       range = views_->range()](const Job& job) -> Background::Finish {
        const Layout layout = lay_out(chain, shape);
        const Image made = evaluate(chain, layout, *pixels, job, nullptr);
        const QImage image = to_screen(made, range);
        return [this, image] {
          QApplication::clipboard()->setImage(image);
          say(tr("Copied as it is shown: %1 × %2 px of 8 bits. For measuring, write it to a file (Ctrl+E).")
                  .arg(image.width())
                  .arg(image.height()));
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::read_alpha_again(bool band) {
  if (!document_.source() || busy() || document_.source()->alpha_band == band) return;
  std::vector<std::filesystem::path> files;
  for (const FrameFile& frame : document_.all_frames())
    if (files.empty() || files.back() != frame.path) files.push_back(frame.path);
  background_.start(
      tr("reading alpha again"),
      [this, files, band](const Job& job) -> Background::Finish {
        auto source = std::make_shared<OpenSource>(read_open_source(files, job, band));
        return [this, source, files, band] {
          Chain chain = document_.chain();
          if (chain.sources.size() != files.size()) {
            chain.sources.clear();
            for (const auto& file : files) chain.sources.push_back({std::filesystem::absolute(file).string(), {}, {}});
          }
          for (SourceReference& named : chain.sources) named.alpha_band = band;
          document_.open(std::move(*source), std::move(chain), document_.chain_path());
          document_.undo_stack().resetClean();
          say(band ? tr("Alpha is the last band now, and says nothing of which pixels are empty. The chain keeps it.")
                   : tr("Alpha says which pixels are empty."));
        };
      },
      [this](const Error& error) { say(error); });
}

void MainWindow::carry_to_axes() {
  try {
    document_.edit_chain(tr("carry to the other channels and planes"),
                         with_transforms_carried(document_.chain(), document_.frames()));
    say(tr("All channels and planes lie as the matched ones of their moment do; they are all written."));
  } catch (const Error& error) {
    say(error);
  }
}

}  // namespace fexel

/// The menu Help: the guide, what this program is, and what it knows of where it runs.
#include <QClipboard>
#include <QFile>
#include <QSysInfo>
#include <QThread>

#include "app/document/motion_layer.h"
#include "app/runs/run_panel.h"
#include "app/ui/text.h"
#include "app/window/guide_window.h"
#include "app/window/main_window.h"
#include "base/log.h"
#include "files/picture.h"

namespace fexel {

void MainWindow::show_guide() {
  if (!guide_) guide_ = new GuideWindow(this);
  QString word = QStringLiteral("source");
  if (runs_ && runs_->isVisible())
    word = QStringLiteral("runs");
  else if (document_.session().motion_page())
    word = document_.motion_layer().probe() && document_.motion_layer().probe()->settings.method == MotionMethod::window
               ? QStringLiteral("flow")
               : QStringLiteral("motion");
  else if (document_.is_result_tile(document_.state().selected))
    word = QStringLiteral("result");
  else if (const int step = document_.selected_step(); step >= 0)
    word = text_of(word_of(document_.chain().steps[static_cast<std::size_t>(step)].kind));
  guide_->show();
  guide_->raise();
  guide_->activateWindow();
  guide_->show_chapter_of(word);
}

void MainWindow::show_about() {
  QMessageBox about(QMessageBox::NoIcon, tr("About Fexel"),
                    tr("Fexel %1: geometry for people who measure in pictures.").arg(FEXEL_VERSION), QMessageBox::Ok,
                    this);
  QStringList libraries;
  for (const FormatFacts& facts : known_formats())
    if (!facts.library.empty() && facts.library != "Fexel" && !libraries.contains(text_of(facts.library)))
      libraries << text_of(facts.library);
  about.setInformativeText(tr("Free software under the GNU General Public License, version 3 or later, without any "
                              "warranty.\n\nIt uses Qt %1, "
                              "and reads pictures by %2.")
                               .arg(qVersion(), libraries.join(", ")));
  about.exec();
}

QString MainWindow::diagnosis() const {
  QString out = tr("Fexel %1, Qt %2, %3, %4, %5 cores\n")
                    .arg(FEXEL_VERSION, qVersion(), QSysInfo::prettyProductName(), QSysInfo::currentCpuArchitecture())
                    .arg(QThread::idealThreadCount());
  for (const FormatFacts& facts : known_formats())
    out +=
        QString("%1: %2\n")
            .arg(QString::fromUtf8(name_of(facts.format).data(), static_cast<qsizetype>(name_of(facts.format).size())),
                 facts.library.empty() ? tr("no library") : text_of(facts.library));
  if (document_.source()) {
    const FileInfo& info = document_.source()->info;
    out += tr("open: %1, %2 × %3 px, %4 bands, %5 frames, %6 steps\n")
               .arg(text_of(info.format))
               .arg(info.width)
               .arg(info.height)
               .arg(info.bands)
               .arg(std::max<std::size_t>(1, document_.frames().size()))
               .arg(document_.chain().steps.size());
  }
  if (QFile note(crash_note_); !crash_note_.isEmpty() && note.open(QIODevice::ReadOnly))
    out += tr("how it ended when it ran last:\n") + QString::fromUtf8(note.read(20000));
  constexpr qint64 most = 6000;  // bytes of the log's end
  QFile log(QString::fromStdString((log_folder() / "fexel.log").string()));
  if (log.open(QIODevice::ReadOnly)) {
    log.seek(std::max<qint64>(0, log.size() - most));
    out += tr("the end of the log:\n") + QString::fromUtf8(log.readAll());
  }
  return out;
}

void MainWindow::mention_crash(const QString& note) {
  crash_note_ = note;
  log_warning("the last run ended by a fault; a note of it is in " + note.toStdString());
  say(tr("Fexel ended by a fault when it ran last. A note of it is in %1; Help, Copy diagnosis has it. Work that was "
         "not "
         "saved is kept: File, Bring back unsaved work.")
          .arg(note));
}

void MainWindow::copy_diagnosis() {
  QApplication::clipboard()->setText(diagnosis());
  say(tr(
      "Copied: versions, what is open, and the end of the log. It names files; look through it before you send it."));
}

}  // namespace fexel

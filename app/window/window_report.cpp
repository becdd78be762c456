/// The report of what is open, or of the run that is shown.
#include <QDir>
#include <QFileDialog>
#include <QSettings>

#include "app/canvas/view_area.h"
#include "app/report/make_report.h"
#include "app/report/report_content.h"
#include "app/report/report_of_run.h"
#include "app/runs/run_panel.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/window/main_window.h"

namespace fexel {

void MainWindow::ask_report() {
  if (!document_.source()) return;
  const bool of_run = runs_ && runs_->isVisible();
  if (of_run && runs_->session().running()) return say(tr("The run is not done yet. Report on it when it is."));
  const QFileInfo source(document_.source()->path);
  const QString folder = of_run ? runs_->session().settings().folder : results_folder(source.absolutePath());
  const QString name = of_run ? runs_->session().chain_name() : source.completeBaseName();
  const QString path = QFileDialog::getSaveFileName(this, tr("Save the report"), folder + "/" + name + "-report.pdf",
                                                    tr("Reports (*.pdf *.html)"));
  if (path.isEmpty()) return;
  QDir().mkpath(QFileInfo(path).absolutePath());
  save_report_to(path);
}

void MainWindow::save_report_to(const QString& path) {
  if (!document_.source() || busy()) return;
  say(QString());
  const bool of_run = runs_ && runs_->isVisible();
  const auto keep = document_.protected_paths();
  const std::filesystem::path target = path.toStdString();
  ReportTemplate style;
  try {
    check_report_target(target, true, keep.get());
    const QString chosen =
        QSettings("fexel", QCoreApplication::applicationName()).value(QStringLiteral("report/template")).toString();
    if (!chosen.isEmpty()) style = load_report_template(chosen.toStdString());
  } catch (const Error& error) {
    return say(error);
  }
  const auto save = [this, target, keep, path, spoken = style.language](const std::function<Report()>& made) {
    try {
      {
        const InLanguage in_language(spoken);
        save_report(made(), target, true, keep.get());
      }
      say(tr("The report is written: %1").arg(path));
    } catch (const Error& error) {
      say(error);
    }
  };
  const auto failed = [this](const Error& error) { say(error); };
  if (of_run) {
    const RunSession& session = runs_->session();
    const auto file = journal_path(session.settings().folder.toStdString(), session.chain_name().toStdString());
    background_.start(
        tr("measuring for the report"),
        [file, style, save](const Job& job) -> Background::Finish {
          const auto journal = std::make_shared<const Journal>(load_journal(file));
          const auto measured =
              std::make_shared<const std::vector<MeasuredFile>>(measured_of_run(*journal, file.parent_path(), job));
          return [=] { save([&] { return report_of_run(*journal, file, *measured, style); }); };
        },
        failed);
    return;
  }
  const auto input = std::make_shared<const ReportInput>(document_);
  const quint64 revision = document_.revision();
  background_.start(
      tr("reading for the report"),
      [this, input, style, save, revision](const Job& job) -> Background::Finish {
        const auto facts = std::make_shared<const ReportFacts>(facts_of(*input, job));
        return [=, this] {
          if (document_.revision() != revision)
            return say(tr("The work was changed while the report was made. Make it again."));
          save([&] { return report_of(document_, *facts, style, views_->range()); });
        };
      },
      failed);
}

void MainWindow::ask_report_template() {
  QSettings settings("fexel", QCoreApplication::applicationName());
  const QString path = QFileDialog::getOpenFileName(this, tr("The template of reports"), last_folder_,
                                                    tr("Templates of reports (*.json)"));
  if (path.isEmpty()) return;
  try {
    load_report_template(path.toStdString());
  } catch (const Error& error) {
    return say(error);
  }
  settings.setValue(QStringLiteral("report/template"), path);
  say(tr("Reports are made with %1 from now on.").arg(QFileInfo(path).fileName()));
}

}  // namespace fexel

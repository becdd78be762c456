/// Runs over many pictures, from the window: the panel, and the corrections of single pictures.
#include <QDir>
#include <QStackedLayout>

#include "app/canvas/view_area.h"
#include "app/pairs/reference.h"
#include "app/runs/run_panel.h"
#include "app/runs/run_review.h"
#include "app/ui/text.h"
#include "app/window/main_window.h"

namespace fexel {

void MainWindow::show_runs() {
  if (!document_.source()) return;
  if (!runs_) {
    runs_ = new RunPanel;
    middle_->addWidget(runs_);
    connect(runs_, &RunPanel::left, this, [this] {
      middle_->setCurrentIndex(0);
      views_->active()->setFocus();
    });
    connect(runs_, &RunPanel::review_wanted, this, [this](int row) {
      if (row >= 0) review_rows({row}, false);
    });
    connect(runs_, &RunPanel::one_by_one_wanted, this, [this] {
      std::vector<int> rows;
      const auto& all = runs_->session().rows();
      for (std::size_t i = 0; i < all.size(); ++i)
        if (!all[i].finished() && !all[i].item.frames.empty()) rows.push_back(static_cast<int>(i));
      if (!rows.empty()) review_rows(std::move(rows), true);
    });
  }
  const QString folder = QFileInfo(document_.source()->path).absolutePath();
  runs_->begin_at(folder);
  RunSession& session = runs_->session();
  Chain chain = document_.chain();
  chain.sources.clear();
  for (std::string* file : files_of_steps(chain)) *file = reference_path(document_, *file).string();
  QString name = QFileInfo(document_.chain_path()).fileName();
  for (const char* ending : {".json", ".fexel"})
    if (name.endsWith(ending)) name.chop(static_cast<int>(std::strlen(ending)));
  if (name.isEmpty()) name = QStringLiteral("chain");
  // A run that is there stays until the chain here is another one than when it was last shown.
  if (!session.locked() && (session.rows().empty() || !(chain == run_chain_))) {
    const SourceShape shape = document_.shape();
    run_chain_ = chain;
    session.set_chain(chain, name, {shape.size, document_.source()->info.pixel_size.has_value()});
  }
  middle_->setCurrentWidget(runs_);
  runs_->table()->setFocus();
}

void MainWindow::review_rows(std::vector<int> rows, bool propose) {
  if (runs_->session().planning()) return;
  if (review_) return review_->window().activateWindow();
  review_ = std::make_unique<RunReview>(runs_->session(), std::move(rows), propose);
  connect(review_.get(), &RunReview::ended, this, [this] {
    review_.release()->deleteLater();
    activateWindow();
    runs_->table()->setFocus();
  });
}

bool MainWindow::may_stop_run() {
  if (!runs_ || !runs_->session().running()) return true;
  QMessageBox question(QMessageBox::NoIcon, tr("Fexel"),
                       tr("A run is under way. What is done stays; File, Run over many pictures, goes on with the rest "
                          "later."),
                       QMessageBox::NoButton, this);
  QPushButton* stop = question.addButton(tr("Stop it and leave"), QMessageBox::DestructiveRole);
  question.addButton(tr("Stay"), QMessageBox::RejectRole);
  question.exec();
  return question.clickedButton() == stop;
}

void MainWindow::set_head(QWidget* head) {
  left_column_->insertWidget(0, head);
}

}  // namespace fexel

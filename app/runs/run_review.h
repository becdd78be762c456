#pragma once
/// Pictures of a run, one after the other in a window of their own: each with the chain as it runs on it, to be
/// corrected for this picture alone.
#include <QPointer>
#include <map>

#include "app/document/document.h"
#include "app/runs/run_session.h"

class QLabel;
class QPushButton;

namespace fexel {

class MainWindow;

class RunReview : public QObject {
  Q_OBJECT
 public:
  /// With `propose`, corners are looked for on each picture before it is shown.
  RunReview(RunSession& session, std::vector<int> rows, bool propose);
  ~RunReview() override;
  MainWindow& window() { return *window_; }
  /// The row that is shown; −1 while it is being opened.
  int row() const { return shown_ ? rows_[at_] : -1; }
  /// What is shown becomes this picture's own chain, which runs on it in the background; then the next one is shown.
  void accept();
  /// The next picture without a change of this one, or the one before.
  void go(int by);

 Q_SIGNALS:
  void ended();

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  struct Ready {
    std::shared_ptr<OpenSource> source;
    Chain chain;
    QString note;
  };
  void build_bar();
  void open(std::size_t at);
  void show(std::size_t at, const Ready& ready);
  void read_ahead(std::size_t at);
  void end();
  static Ready make_ready(const std::filesystem::path& file, Chain chain, bool propose, const std::optional<Quad>& near,
                          const Job& job);
  RunSession& session_;
  std::vector<int> rows_;
  bool propose_;
  std::size_t at_ = 0;
  bool shown_ = false, ending_ = false;
  std::optional<Quad> last_corners_;  // those that a person accepted
  std::map<std::size_t, Ready> ready_;
  std::unique_ptr<MainWindow> window_;
  QLabel *where_, *note_;
  QPushButton *accept_, *skip_, *back_, *close_;
  Background reader_, ahead_;  // the last members: their threads end before the rest
};

}  // namespace fexel

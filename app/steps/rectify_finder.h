#pragma once
/// Finds the corners of a rectangle for the rectify step: proposals, corners from edges, and the lens that bows them.
#include <QWidget>

#include "app/document/background.h"
#include "app/document/document.h"
#include "measure/bow.h"
#include "measure/edges.h"
#include "measure/proposal.h"

class QLabel;
class QPushButton;

namespace fexel {

class RectifyFinder : public QWidget {
  Q_OBJECT
 public:
  /// Replaces the selected step: text for undo, the step, and a key for merging.
  using Take = std::function<void(const QString&, const RectifyStep&, const QString&)>;
  RectifyFinder(Document& document, Take take);
  void refresh(const RectifyStep& rectify);
  /// Looks for a rectangle in the background. By itself it says nothing where there is none, and what it finds belongs
  /// to the adding of the step; it is taken if the corners have not changed since.
  void propose(bool by_itself);

 private:
  const RectifyStep* step() const;
  std::optional<std::size_t> shown_proposal() const;
  void take_proposal(const QString& merge);
  void find_edges();
  void undo_lens();
  void show_found(const RectifyStep& rectify);

  Document& document_;
  Take take_;
  QPushButton *propose_, *edges_, *lens_;
  QLabel* found_;
  std::vector<Proposal> proposals_;  // of the picture that was searched last
  std::weak_ptr<const Pyramid> proposals_of_;
  Map proposals_from_;  // from that picture to what the step gets
  std::optional<EdgeCorners> last_found_;
  std::optional<BowedLens> bowed_;
  Background search_;  // the last member: its thread ends before the rest
};

}  // namespace fexel

#pragma once
/// What the pairs of the selected fit step come to. What takes longer than a frame is worked out on a thread of its
/// own.
#include <QObject>
#include <memory>

#include "app/document/background.h"
#include "fit/model_choice.h"
#include "fit/typing_mistakes.h"
#include "steps/fit.h"

namespace fexel {

class Document;

/// The selected step, where it is a fit; null else.
const FitStep* selected_fit(const Document& document);

struct PairsFindings {
  FitStep of;
  std::vector<std::optional<double>> left_out;  ///< of each pair, in pixels of the result
  std::vector<ModelTried> tried;
  std::vector<TypingMistake> mistakes;
};

class PairsReview : public QObject {
  Q_OBJECT
 public:
  explicit PairsReview(Document& document);
  /// fit_of(), kept for the step that was asked for last. Null where it cannot be made; the layout says why.
  std::shared_ptr<const Fit> fit(const FitStep& step);
  /// Those of this step; null until they are there.
  const PairsFindings* findings(const FitStep& step) const;
  /// Whether the findings are those of the pairs as they are.
  bool settled() const;

 Q_SIGNALS:
  void changed();

 private:
  void refresh();
  Document& document_;
  std::optional<FitStep> fitted_;
  std::shared_ptr<const Fit> fit_;
  std::shared_ptr<const PairsFindings> findings_;
  Background work_;  // the last member: its thread ends before the rest
};

}  // namespace fexel

#pragma once
/// What the window knows of each kind of step: titles, page, summary, handles, variants. The rest of the window asks
/// this registry and names no kind. A new kind is a file in this folder and a line in step_ui.cpp.
#include <QObject>
#include <QString>
#include <optional>

#include "app/steps/step_figure.h"
#include "chain/layout.h"

namespace fexel {

class Document;
class InspectorPage;

/// Settings of a step that can be compared side by side.
struct StepVariant {
  QString name, says;  ///< without `says`, the size of the result is shown
  StepKind step;
};
struct StepVariants {
  QString choice;  ///< what differs between them
  std::vector<StepVariant> all;
};

class StepUi {
 public:
  struct Texts {
    QString title;         ///< "Rotate"
    QString purpose;       ///< what it is for, in half a sentence
    QString search_words;  ///< other words that people look for it by
  };
  explicit StepUi(Texts texts) : texts_(std::move(texts)) {}
  StepUi(const StepUi&) = delete;
  StepUi& operator=(const StepUi&) = delete;
  virtual ~StepUi() = default;

  virtual const char* word() const = 0;
  const Texts& texts() const { return texts_; }
  /// The name of its drawing in app/ui/art.
  QString pictogram() const { return QString::fromUtf8(word()); }
  virtual InspectorPage* page(Document& document) const = 0;
  /// The one number that matters, for the step's tile.
  virtual QString summary(const StepKind& step) const = 0;
  /// Whether it works on all frames of a sequence, which the ledger then lists.
  virtual bool of_sequence() const { return false; }

  /// Handles and lines on the picture that the step gets.
  virtual StepFigure figure(const StepKind& step, const StepInput& input) const = 0;
  virtual StepKind with_handle_at(const StepKind& step, const StepInput& input, int index, Point to) const = 0;
  /// Handles and lines on the step's result, in its coordinates. `made` is the step's map.
  virtual StepFigure result_figure(const StepKind& step, const Map& made) const = 0;
  virtual StepKind with_result_handle_at(const StepKind& step, int index, Point to) const = 0;
  /// The step without what a handle stands for; nothing where its handles cannot be removed.
  virtual std::optional<StepKind> without_handle(const StepKind& step, int index) const = 0;
  /// The step with the standard uncertainty, in pixels, to which a handle was placed, where it keeps one.
  virtual StepKind with_picking(const StepKind& step, int index, double sigma) const = 0;
  /// What moving this handle does, for undo.
  virtual QString handle_purpose(int) const { return texts_.title.toLower(); }

  /// Settings to compare; none where there is nothing to choose from.
  virtual StepVariants variants(const StepKind& step) const = 0;
  /// The step with another border mode, where it has one of its own.
  virtual std::optional<StepKind> with_border_mode(const StepKind& step, BorderMode border) const = 0;

 private:
  Texts texts_;
};

/// The same for one kind: a file of this folder says only what its kind has.
template <class Kind>
class StepUiOf : public StepUi {
 public:
  using StepUi::StepUi;
  const char* word() const final { return Kind::word; }
  QString summary(const StepKind& step) const final { return summary_of(of(step)); }
  StepFigure figure(const StepKind& step, const StepInput& input) const final { return figure_of(of(step), input); }
  StepKind with_handle_at(const StepKind& step, const StepInput& input, int index, Point to) const final {
    return moved(of(step), input, index, to);
  }
  StepFigure result_figure(const StepKind& step, const Map& made) const final {
    return result_figure_of(of(step), made);
  }
  StepKind with_result_handle_at(const StepKind& step, int index, Point to) const final {
    return result_moved(of(step), index, to);
  }
  std::optional<StepKind> without_handle(const StepKind& step, int index) const final {
    if (auto without = without_handle_of(of(step), index)) return StepKind(*without);
    return std::nullopt;
  }
  StepKind with_picking(const StepKind& step, int index, double sigma) const final {
    return with_picking_of(of(step), index, sigma);
  }
  StepVariants variants(const StepKind& step) const final { return variants_of(of(step)); }
  std::optional<StepKind> with_border_mode(const StepKind& step, BorderMode border) const final {
    if (auto with = with_border(of(step), border)) return StepKind(*with);
    return std::nullopt;
  }

 protected:
  virtual QString summary_of(const Kind& step) const = 0;
  virtual StepFigure figure_of(const Kind&, const StepInput&) const { return {}; }
  virtual Kind moved(Kind step, const StepInput&, int, Point) const { return step; }
  virtual StepFigure result_figure_of(const Kind&, const Map&) const { return {}; }
  virtual Kind result_moved(Kind step, int, Point) const { return step; }
  virtual std::optional<Kind> without_handle_of(Kind, int) const { return std::nullopt; }
  virtual Kind with_picking_of(Kind step, int, double) const { return step; }
  virtual StepVariants variants_of(const Kind&) const { return {}; }
  virtual std::optional<Kind> with_border(Kind, BorderMode) const { return std::nullopt; }

  /// The step with each of these output sizes.
  static StepVariants extent_variants(const Kind& step, std::initializer_list<Extent> extents) {
    StepVariants out{QObject::tr("output size"), {}};
    for (const Extent extent : extents) {
      Kind with = step;
      with.extent = extent;
      out.all.push_back({QObject::tr(extent_words()[static_cast<std::size_t>(extent)].c_str()), {}, with});
    }
    return out;
  }

 private:
  static const Kind& of(const StepKind& step) { return std::get<Kind>(step); }
};

/// All kinds of steps in the order of the work.
const std::vector<const StepUi*>& step_uis();
const StepUi& ui_of(const std::string& word);
const StepUi& ui_of(const StepKind& step);

/// "Rectify", "Crop", "Control points".
QString step_title(const std::string& word);
/// A step as sentences name it: by its own name in quotes, or its title in small letters.
QString called(const Step& step);
/// Whether a step is what someone looks for: each of the words wanted is in its title, its purpose, or among its search
/// words.
bool step_answers(const StepUi& ui, const QString& wanted);
/// What a step's tile says under its name.
QString parameter_text(const Step& step, const Station& made);

}  // namespace fexel

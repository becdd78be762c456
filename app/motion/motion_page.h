#pragma once
/// The page of the movement, in the order of the work: frames, where, prepare, texture, grid, measure, clean up, look,
/// derive, trust, out.
#include <QCheckBox>
#include <array>

#include "app/document/motion_layer.h"
#include "app/motion/flow_rows.h"
#include "app/steps/inspector_page.h"
#include "app/ui/fields.h"

namespace fexel {

class MotionPage : public InspectorPage {
  Q_OBJECT
 public:
  explicit MotionPage(Document& document);
  void refresh() override;

 private:
  void build_frames();
  void build_where();
  void build_grid();
  void build_measure();
  void build_clean();
  void build_look();
  void build_trust();
  void build_out();
  /// The label.
  QWidget* row(const QString& label, QWidget* field);
  /// Rows of one method are hidden with the other.
  void show_method(const MotionSettings& settings);
  fields::Number* number(const QString& label, const QString& name, double low, double high, int decimals,
                         const QString& unit, const std::function<void(MotionSettings&, double)>& put);
  QPushButton* button(const QString& text, const std::function<void()>& body);
  QCheckBox* check_box(const QString& text, const std::function<void(bool)>& body);
  /// Changes the settings as one change for undo.
  void take(const QString& what, const std::function<void(MotionSettings&)>& body);
  void show_clean();
  void show_findings();
  QString texture_text() const;
  /// Of a rule that nothing was proposed for yet.
  static double plain_limit(CleanRule::Kind kind);

  struct RuleRow {
    QCheckBox* on;
    fields::Number* limit;
    QLabel* says;
  };
  QVBoxLayout* place_;
  FlowRows* flow_;
  std::vector<QWidget*> of_surfaces_;
  QWidget* last_label_ = nullptr;
  QComboBox *method_, *against_, *quantity_, *way_;
  QCheckBox *renew_, *fill_, *strain_on_, *green_, *all_frames_, *back_;
  QLabel *where_, *texture_, *overlap_, *found_, *gauge_, *trust_, *limits_says_;
  fields::Number *high_pass_, *contrast_, *smoothing_, *step_x_, *size_, *reach_, *window_, *enlarged_, *wanted_;
  QPushButton *try_, *all_, *propose_, *limits_clear_;
  std::array<RuleRow, 9> rules_{};
};

}  // namespace fexel

#pragma once
/// What the page of the movement has for flows: windows, background, means, lines that the flow goes through.
#include <QCheckBox>
#include <QLineEdit>

#include "app/document/motion_layer.h"
#include "app/steps/page_request.h"
#include "app/ui/fields.h"

namespace fexel {

class FlowRows : public QObject {
  Q_OBJECT
 public:
  using Take = std::function<void(const QString&, const std::function<void(MotionSettings&)>&)>;
  using Ask = std::function<void(const PageRequest&)>;
  FlowRows(Document& document, Take take, Ask ask, QObject* parent);
  /// The windows and their passes.
  QWidget* windows() const { return windows_; }
  /// What is taken off the frames.
  QWidget* background() const { return background_; }
  /// Means, and flow through lines.
  QWidget* derived() const { return derived_; }
  void refresh(const MotionSettings& settings);

 private:
  void build_windows();
  void build_background();
  void build_derived();
  Document& document_;
  Take take_;
  Ask ask_;
  QWidget *windows_, *background_, *derived_;
  QLineEdit* sizes_ = nullptr;
  QLabel *sizes_say_ = nullptr, *lines_say_ = nullptr;
  fields::Number* passes_ = nullptr;
  QCheckBox *robust_ = nullptr, *ensemble_ = nullptr, *apart_ = nullptr, *shown_ = nullptr, *mean_ = nullptr;
  QComboBox* kind_ = nullptr;
};

}  // namespace fexel

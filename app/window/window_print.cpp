/// The result on paper, at a scale.
#include <QDialog>
#include <QDialogButtonBox>
#include <QFileInfo>
#include <QPrintDialog>
#include <QPrinter>
#include <QProgressDialog>

#include "app/document/marks_layer.h"
#include "app/report/print_result.h"
#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/window/main_window.h"

namespace fexel {
namespace {

/// Asks at which scale; nothing where it was left.
struct Asked {
  std::optional<double> reduction;
  bool marks = false;
};
std::optional<Asked> ask_scale(QWidget* parent, bool has_marks,
                               const std::function<QString(std::optional<double>)>& says) {
  QDialog dialog(parent);
  dialog.setWindowTitle(QObject::tr("Print to scale"));
  auto* column = new QVBoxLayout(&dialog);
  auto* which = new fields::Segments(
      QObject::tr("Scale"), {QObject::tr("true size, 1 : 1"), QObject::tr("1 : n"), QObject::tr("on one sheet")});
  column->addWidget(which);
  auto* n = new fields::Number(QObject::tr("n of 1 : n"), 1e-6, 1e9, 4);
  n->show_value(10);
  auto* row = new QHBoxLayout;
  row->addWidget(fields::label_for(QObject::tr("n"), n));
  row->addWidget(n, 1);
  column->addLayout(row);
  auto* marks = new QCheckBox(QObject::tr("with its marks"));
  marks->setChecked(has_marks);
  marks->setVisible(has_marks);
  column->addWidget(marks);
  auto* said = fields::reserved(fields::sentence(QObject::tr("What is printed")), 3);
  column->addWidget(said);
  auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
  buttons->button(QDialogButtonBox::Ok)->setText(QObject::tr("Choose the printer…"));
  column->addWidget(buttons);
  QObject::connect(buttons, &QDialogButtonBox::accepted, &dialog, &QDialog::accept);
  QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
  int mode = 0;
  const auto reduction = [&]() -> std::optional<double> {
    return mode == 2 ? std::nullopt : std::optional(mode == 0 ? 1.0 : n->value());
  };
  const auto refresh = [&] {
    which->show_current(mode);
    n->setEnabled(mode == 1);
    fields::say(said, says(reduction()));
  };
  QObject::connect(which, &fields::Segments::chosen, &dialog, [&](int i) {
    mode = i;
    refresh();
  });
  QObject::connect(n, &QDoubleSpinBox::valueChanged, &dialog, refresh);
  refresh();
  dialog.setMinimumWidth(380);
  if (dialog.exec() != QDialog::Accepted) return std::nullopt;
  return Asked{reduction(), has_marks && marks->isChecked()};
}

}  // namespace

void MainWindow::ask_print() {
  if (!document_.source() || busy()) return;
  const Station& result = document_.layout().result();
  QPrinter printer(QPrinter::HighResolution);
  const auto paper = [&] { return printer.pageLayout().paintRect(QPageLayout::Millimeter).size(); };
  try {
    document_.layout().require_sound();
    print_plan(result, paper(), std::nullopt);
  } catch (const Error& error) {
    return say(error);
  }
  const auto says = [&](std::optional<double> reduction) {
    try {
      const PrintPlan plan = print_plan(result, paper(), reduction);
      return tr("%1 × %2 mm on paper, %3 sheets, scale %4. A ruler on each sheet shows whether the printer kept the "
                "size.")
          .arg(number_shown(number_text(plan.width_mm, 1)), number_shown(number_text(plan.height_mm, 1)))
          .arg(plan.across * plan.down)
          .arg(scale_text(plan.reduction));
    } catch (const Error& error) {
      return text_of(error);
    }
  };
  const auto asked = ask_scale(this, !document_.chain().marks.empty(), says);
  if (!asked) return;
  printer.setDocName(QFileInfo(document_.source()->path).completeBaseName());
  printer.setFullPage(false);
  if (QPrintDialog(&printer, this).exec() != QDialog::Accepted) return;
  try {
    // The paper may be another one now.
    const PrintPlan plan = print_plan(result, paper(), asked->reduction);
    QProgressDialog progress(tr("printing"), tr("cancel"), 0, 100, this);
    progress.setWindowModality(Qt::WindowModal);
    std::stop_source stop;
    connect(&progress, &QProgressDialog::canceled, this, [&] { stop.request_stop(); });
    const Job job{stop.get_token(), [&](double share) { progress.setValue(static_cast<int>(100 * share)); }};
    progress.setValue(0);
    print_result(document_.marks_layer().result(), plan, asked->marks, printer.docName(), printer, job);
    say(tr("Printed: %1 sheets, scale %2. Measure the ruler before you trust the size.")
            .arg(plan.across * plan.down)
            .arg(scale_text(plan.reduction)));
  } catch (const Error& error) {
    if (error.kind() == Error::Kind::cancelled) printer.abort();
    say(error);
  }
}

}  // namespace fexel

#include "app/ui/fields.h"
#include "app/ui/language.h"

#include <QButtonGroup>
#include <QHeaderView>
#include <QKeyEvent>
#include <QLineEdit>
#include <QRegularExpression>

#include "app/ui/text.h"
#include "app/ui/theme.h"
#include "base/units.h"

namespace fexel::fields {

QWidget* section(const QString& text) {
  auto* label = new QLabel(text.toUpper());
  QFont font = text_font(8, true);
  font.setLetterSpacing(QFont::AbsoluteSpacing, 0.8);
  label->setFont(font);
  label->setStyleSheet(QString("color:%1; border:none; border-bottom:1px solid %2; padding:8px 0 3px 0;")
                           .arg(theme().teal.name(), theme().line.name()));
  return label;
}

QWidget* rule(Qt::Orientation orientation) {
  auto* line = new QFrame;
  if (orientation == Qt::Vertical)
    line->setFixedWidth(1);
  else
    line->setFixedHeight(1);
  line->setStyleSheet(QString("background:%1;").arg(theme().line.name()));
  return line;
}

Number::Number(const QString& name, double low, double high, int decimals, const QString& unit) {
  setAccessibleName(name);
  setDecimals(decimals);
  setRange(low, high);
  setKeyboardTracking(false);
  setButtonSymbols(QAbstractSpinBox::NoButtons);
  setAlignment(Qt::AlignRight);
  setMinimumWidth(56);
  setGroupSeparatorShown(false);
  setLocale(QLocale::c());
  if (!unit.isEmpty()) setSuffix(unit == QStringLiteral("°") ? unit : " " + unit);
  lineEdit()->installEventFilter(this);
}

void Number::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Escape) {
    const QSignalBlocker quiet(this);
    lineEdit()->setText(prefix() + textFromValue(value()) + suffix());
    setValue(value());
    event->accept();
    return;
  }
  QDoubleSpinBox::keyPressEvent(event);
}

bool Number::eventFilter(QObject* watched, QEvent* event) {
  if (watched == lineEdit() && event->type() == QEvent::MouseButtonDblClick) {
    selectAll();
    return true;
  }
  return QDoubleSpinBox::eventFilter(watched, event);
}

QString Number::textFromValue(double value) const {
  QString text = QString::number(value, 'f', decimals());
  if (text.contains('.')) {
    while (text.endsWith('0')) text.chop(1);
    if (text.endsWith('.')) text.chop(1);
  }
  return number_shown(text);
}

double Number::valueFromText(const QString& text) const {
  return QDoubleSpinBox::valueFromText(number_typed(text));
}

QValidator::State Number::validate(QString& text, int& position) const {
  QString plain = number_typed(text);
  const QValidator::State state = QDoubleSpinBox::validate(plain, position);
  // What is typed stays as it was typed where this language writes it so.
  if (number_locale().decimalPoint() == ".") text = plain;
  return state;
}

std::optional<std::vector<int>> whole_numbers_in(const QString& text, QString& wrong) {
  std::vector<int> out;
  static const QRegularExpression apart("[,;\\s]+");
  for (const QString& word : text.split(apart, Qt::SkipEmptyParts)) {
    bool is = false;
    out.push_back(with_plain_minus(word).toInt(&is));
    if (is) continue;
    wrong = word;
    return std::nullopt;
  }
  return out;
}

std::optional<std::vector<double>> numbers_in(const QString& text, QString& wrong) {
  std::vector<double> out;
  // A decimal comma has no blank behind it.
  static const QRegularExpression by_comma("[,;\\s]+"), by_semicolon("(?:,\\s|[;\\s])+");
  for (const QString& word :
       text.split(number_locale().decimalPoint() == "." ? by_comma : by_semicolon, Qt::SkipEmptyParts)) {
    bool is = false;
    out.push_back(number_typed(word).toDouble(&is));
    if (is && std::abs(out.back()) <= 1e9) continue;
    wrong = word;
    return std::nullopt;
  }
  return out;
}

Angle::Angle(const QString& name) : Number(name, -1e6, 1e6, 6, QStringLiteral("°")) {
  setToolTip(tr("Degrees, positive counter-clockwise; or radians, as 0.5 rad"));
}

double Angle::valueFromText(const QString& text) const {
  const int rad = static_cast<int>(text.indexOf("rad"));
  if (rad < 0) return Number::valueFromText(text);
  return number_typed(text.left(rad)).trimmed().toDouble() * 180 / 3.14159265358979323846;
}

QValidator::State Angle::validate(QString& text, int& position) const {
  const int r = static_cast<int>(text.indexOf('r'));
  if (r < 0) return Number::validate(text, position);
  bool number = false;
  number_typed(text.left(r)).trimmed().toDouble(&number);
  if (!number) return QValidator::Invalid;
  const QString word = QString(text.mid(r)).remove(QStringLiteral("°")).trimmed();
  return word == "rad"                            ? QValidator::Acceptable
         : QStringLiteral("rad").startsWith(word) ? QValidator::Intermediate
                                                  : QValidator::Invalid;
}

void Number::show_value(double value) {
  const QSignalBlocker quiet(this);
  if (!hasFocus() || std::abs(value - this->value()) > 1e-9) setValue(value);
}

Segments::Segments(const QString& name, const QStringList& words) {
  setAccessibleName(name);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(4);
  auto* group = new QButtonGroup(this);
  for (int i = 0; i < words.size(); ++i) {
    auto* button = new QPushButton(words[i]);
    button->setCheckable(true);
    button->setAccessibleName(name + ": " + words[i]);
    group->addButton(button, i);
    row->addWidget(button, 1);
    buttons_.push_back(button);
  }
  connect(group, &QButtonGroup::idClicked, this, &Segments::chosen);
}

void Segments::show_current(int index) {
  button(index)->setChecked(true);
}

QLabel* sentence(const QString& accessible_name) {
  auto* label = new QLabel;
  label->setWordWrap(true);
  label->setAccessibleName(accessible_name);
  label->setTextInteractionFlags(Qt::TextSelectableByMouse);
  return label;
}

void say(QLabel* label, const QString& text, bool wrong) {
  label->setText(text);
  // A new style is worked out for the label anew, which takes longer than its text.
  const QString style = wrong ? QString("color:%1;").arg(theme().brick.name()) : QString();
  if (label->styleSheet() != style) label->setStyleSheet(style);
  label->setVisible(!text.isEmpty() || label->property("reserved").toBool());
}

QLabel* reserved(QLabel* label, int lines) {
  label->setProperty("reserved", true);
  label->setMinimumHeight(lines * QFontMetrics(label->font()).lineSpacing());
  label->setAlignment(Qt::AlignLeft | Qt::AlignTop);
  return label;
}

QLabel* label_for(const QString& text, QWidget* field) {
  auto* label = new QLabel(text);
  label->setStyleSheet(QString("color:%1;").arg(theme().soft_ink.name()));
  label->setBuddy(field);
  return label;
}

QComboBox* units(const QString& accessible_name, const std::vector<std::string>& names) {
  auto* box = new QComboBox;
  box->setAccessibleName(accessible_name);
  for (const std::string& name : names) box->addItem(QString::fromStdString(name));
  return box;
}

QPushButton* word_button(const QString& text) {
  auto* button = new QPushButton(text);
  button->setProperty("flatword", true);
  button->setAccessibleName(text);
  return button;
}

namespace {

class DeleteKey : public QObject {
 public:
  DeleteKey(QWidget* list, std::function<void()> body) : QObject(list), body_(std::move(body)) {
    list->installEventFilter(this);
  }

 protected:
  bool eventFilter(QObject*, QEvent* event) override {
    const bool override = event->type() == QEvent::ShortcutOverride;
    if (!override && event->type() != QEvent::KeyPress) return false;
    if (static_cast<QKeyEvent*>(event)->key() != Qt::Key_Delete) return false;
    event->accept();
    if (!override) body_();
    return true;
  }

 private:
  std::function<void()> body_;
};

}  // namespace

void on_delete(QWidget* list, std::function<void()> body) {
  new DeleteKey(list, std::move(body));
}

QTableView* table(const QString& accessible_name, QAbstractItemModel* model, int row_height) {
  auto* made = new QTableView;
  made->setModel(model);
  made->setAccessibleName(accessible_name);
  made->setSelectionBehavior(QAbstractItemView::SelectRows);
  made->setSelectionMode(QAbstractItemView::SingleSelection);
  made->setShowGrid(false);
  made->setTabKeyNavigation(false);
  made->verticalHeader()->hide();
  made->verticalHeader()->setDefaultSectionSize(row_height);
  made->horizontalHeader()->setHighlightSections(false);
  return made;
}

}  // namespace fexel::fields

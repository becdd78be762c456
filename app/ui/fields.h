#pragma once
/// Fields and rows that all inspectors are made of.
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <QTableView>
#include <QVBoxLayout>
#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace fexel::fields {

/// A small spaced heading with a hairline under it.
QWidget* section(const QString& text);
/// A number with its unit. Takes any number of decimals that are typed, shows at most `decimals` without trailing
/// zeros.
class Number : public QDoubleSpinBox {
  Q_OBJECT
 public:
  Number(const QString& name, double low, double high, int decimals, const QString& unit = {});
  QString textFromValue(double value) const override;
  double valueFromText(const QString& text) const override;
  /// A true minus and a decimal comma become what numbers are read with.
  QValidator::State validate(QString& text, int& position) const override;
  /// Sets without telling.
  void show_value(double value);

 protected:
  /// Escape puts back what was there before it was typed over.
  void keyPressEvent(QKeyEvent* event) override;
  /// A double click selects the whole number.
  bool eventFilter(QObject* watched, QEvent* event) override;
};
/// Degrees, positive counter-clockwise; radians are taken too, as "0.5 rad".
class Angle : public Number {
  Q_OBJECT
 public:
  explicit Angle(const QString& name);
  double valueFromText(const QString& text) const override;
  QValidator::State validate(QString& text, int& position) const override;
};
/// Buttons in a row of which one is chosen. `names` are the accessible words.
class Segments : public QWidget {
  Q_OBJECT
 public:
  Segments(const QString& name, const QStringList& words);
  void show_current(int index);
  QPushButton* button(int index) const { return buttons_[static_cast<std::size_t>(index)]; }

 Q_SIGNALS:
  void chosen(int index);

 private:
  std::vector<QPushButton*> buttons_;
};
/// Wrapped text in the soft ink, or in brick for what is wrong.
QLabel* sentence(const QString& accessible_name);
void say(QLabel* label, const QString& text, bool wrong = false);
/// The label keeps room for so many lines, so that what stands below it stays where it is.
QLabel* reserved(QLabel* label, int lines);
/// The numbers of a text, apart by commas, semicolons or blanks and with either minus; nothing where a word is none, or
/// beyond ±1e9, and that word.
std::optional<std::vector<double>> numbers_in(const QString& text, QString& wrong);
/// The same of whole numbers, which a comma parts in every language.
std::optional<std::vector<int>> whole_numbers_in(const QString& text, QString& wrong);
/// A hairline across or down.
QWidget* rule(Qt::Orientation orientation);
/// A label in the soft ink that belongs to `field`.
QLabel* label_for(const QString& text, QWidget* field);
/// A list of units, as the core names them.
QComboBox* units(const QString& accessible_name, const std::vector<std::string>& names);
QPushButton* word_button(const QString& text);
/// Delete in a list or table is its own, also where the key means something else to the window.
void on_delete(QWidget* list, std::function<void()> body);
/// A table of whole rows, one of which is chosen at a time.
QTableView* table(const QString& accessible_name, QAbstractItemModel* model, int row_height);

}  // namespace fexel::fields

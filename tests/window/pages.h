#pragma once
/// What the tests of pages share.
#include <QPlainTextEdit>
#include <QTableWidget>
#include <catch2/catch.hpp>
#include <numeric>
#include "app/steps/plane_drawing.h"
#include "geometry/lens.h"
#include "tests/window/desk.h"

namespace fexel::test::pages {

inline void click(test::Desk& desk, const QString& name) {
  QTest::mouseClick(desk.named<QAbstractButton>(name), Qt::LeftButton);
}
/// By keyboard: down or up until the word is there.
inline void choose(test::Desk& desk, const QString& list, const QString& word) {
  auto* box = desk.named<QComboBox>(list);
  const int to = box->findText(word);
  INFO(list.toStdString() << ": " << word.toStdString());
  REQUIRE(to >= 0);
  box->setFocus();
  while (box->currentIndex() != to) {
    const int before = box->currentIndex();
    QTest::keyClick(box, to > before ? Qt::Key_Down : Qt::Key_Up);
    if (box->currentText() == word) return;
    // A list that goes back to its first word when one is taken.
    if (box->currentIndex() == before) break;
  }
}
/// A word of a list whose choice is taken at once.
inline void pick(test::Desk& desk, const QString& list, const QString& word) {
  auto* box = desk.named<QComboBox>(list);
  REQUIRE(box->findText(word) >= 0);
  box->setCurrentIndex(box->findText(word));
  Q_EMIT box->activated(box->currentIndex());
}
inline void write_line(test::Desk& desk, const QString& field, const QString& text) {
  auto* line = desk.named<QLineEdit>(field);
  line->setFocus();
  line->selectAll();
  line->insert(text);  // as pasted
  QTest::keyClick(line, Qt::Key_Return);
}
inline QString problem(test::Desk& desk) {
  for (QLabel* label : desk.window.findChildren<QLabel*>())
    if (label->accessibleName() == "What is wrong" && label->isVisible()) return label->text();
  return {};
}
inline void undo(test::Desk& desk) {
  desk.document().undo_stack().undo();
}

/// A picture of 40 x 30 pixels whose samples are a formula of their place.
inline int formula(int band, int x, int y) {
  return (37 * x + 101 * y + 59 * band + x * y) % 251;
}
inline void open_formula(test::Desk& desk, int bands) {
  Image image(40, 30, bands, Depth::u8);
  for (int band = 0; band < bands; ++band)
    for (int y = 0; y < 30; ++y)
      for (int x = 0; x < 40; ++x) image.row<std::uint8_t>(band, y)[x] = static_cast<std::uint8_t>(formula(band, x, y));
  const auto path = (desk.scratch / "formula.png").string();
  std::vector<Image> pages;
  pages.push_back(std::move(image));
  write_pictures(path, pages, {Format::png, {}, false, {}});
  desk.open(path);
}
/// What would be written out.
inline Image result_of(test::Desk& desk) {
  return evaluate(desk.document().chain(), desk.document().layout(), *desk.document().source()->pixels, {}, nullptr);
}
/// Each sample of the result against a plain formula of its place, within half a grey level.
template <class Wanted>
void check_result(test::Desk& desk, Size size, const Wanted& wanted) {
  const Image made = result_of(desk);
  REQUIRE(Size{made.width(), made.height()} == size);
  double worst = 0;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) worst = std::max(worst, std::abs(test::value(made, 0, x, y) - wanted(x, y)));
  INFO(said(desk).toStdString());
  CHECK(worst <= 0.5 + 1e-3);
}

}  // namespace fexel::test::pages

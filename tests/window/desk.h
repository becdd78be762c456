#pragma once
/// The real window on a picture of its own, and hands to drive it with.
#include <QApplication>
#include <QSignalSpy>
#include <QTest>
#include <QtWidgets>

#include "app/canvas/view_area.h"
#include "app/compare/proof_sheet.h"
#include "app/document/pairs_review.h"
#include "app/pipeline/rail.h"
#include "app/window/inspector.h"
#include "app/window/ledger.h"
#include "app/window/main_window.h"
#include "chain/evaluate.h"
#include "quality/uncertainty.h"
#include "tests/support.h"

namespace fexel::test {

/// How long a test waits for what has to come, in ms. Work in the background yields to whatever else runs, so this is
/// long; a test ends as soon as it has come.
inline constexpr int patience = 120000;

/// The plane of the test's photo: a rectangle of 300 x 200 mm whose corners lie at these pixels.
inline const Quad photo_corners{Point{160, 120}, Point{640, 170}, Point{690, 480}, Point{110, 520}};

/// A chequered plane in perspective, 800 x 600, grey: drawn from the formula of its map.
inline void make_photo(const std::filesystem::path& path) {
  const Map to_plane = Map(unit_square_to_quad(photo_corners) * scaling(1 / 300.0, 1 / 200.0)).inverse();
  Image image(800, 600, 1, Depth::u8);
  for (int y = 0; y < 600; ++y)
    for (int x = 0; x < 800; ++x) {
      const auto p = to_plane.forward({x + 0.5, y + 0.5});
      const bool dark = p && (static_cast<int>(std::floor(p->x / 25) + std::floor(p->y / 25)) & 1) != 0;
      image.row<std::uint8_t>(0, y)[x] = dark ? 60 : 200;
    }
  std::vector<Image> pages;
  pages.push_back(std::move(image));
  write_pictures(path, pages, {Format::png, {}, false, {}});
}

/// A cell as it is shown, and as its editor hands it over.
inline QString cell(const QTableView* table, int row, int column) {
  return table->model()->index(row, column).data().toString();
}
inline void set_cell(QTableView* table, int row, int column, const QVariant& value, int role = Qt::EditRole) {
  table->model()->setData(table->model()->index(row, column), value, role);
}

struct Desk {
  Scratch scratch;
  std::string photo = (scratch / "photo.png").string();
  MainWindow window;

  Desk() {
    make_photo(photo);
    QSettings("fexel", QCoreApplication::applicationName()).remove("recent");
    window.resize(1280, 800);
    window.show();
    REQUIRE(QTest::qWaitForWindowExposed(&window));
    front();
    open(photo);
  }
  ~Desk() { window.document().undo_stack().setClean(); }
  void open(const std::string& path) {
    window.open_file(QString::fromStdString(path));
    wait();
  }
  /// The window has the keyboard again, as a desktop gives it back when a sheet closes.
  void front() {
    window.activateWindow();
    REQUIRE(QTest::qWaitForWindowActive(&window));
  }
  /// Until nothing runs in the background.
  void wait() {
    REQUIRE(QTest::qWaitFor([&] { return !window.background().running(); }, patience));
    QTest::qWait(20);
  }
  /// Until what the pairs come to is worked out.
  void wait_findings() {
    REQUIRE(QTest::qWaitFor([&] { return document().pairs_review().settled(); }, patience));
  }
  /// Until a view shows the newest revision.
  void wait_shown(PictureView* view) {
    REQUIRE(QTest::qWaitFor([&] { return view->shown_revision() == window.document().revision(); }, patience));
  }
  Document& document() { return window.document(); }
  PictureView* a() { return window.views().view_a(); }
  PictureView* b() { return window.views().view_b(); }
  template <class Widget>
  Widget* named(const QString& name) {
    for (Widget* widget : window.findChildren<Widget*>())
      if (widget->accessibleName() == name && widget->isVisible()) return widget;
    FAIL("no visible control is named " << name.toStdString());
    return nullptr;
  }
  void type(const QString& field, const QString& text) {
    auto* spin = named<QAbstractSpinBox>(field);
    spin->setFocus();
    spin->selectAll();
    QTest::keyClicks(spin, text);
    QTest::keyClick(spin, Qt::Key_Return);
  }
  void drag(PictureView* view, QPointF from, QPointF to) {
    QTest::mousePress(view, Qt::LeftButton, {}, from.toPoint());
    for (int i = 1; i <= 6; ++i) {
      QTest::mouseMove(view, (from + (to - from) * i / 6).toPoint());
      QTest::qWait(5);
    }
    QTest::mouseRelease(view, Qt::LeftButton, {}, to.toPoint());
  }
  /// A rotation by 90 degrees, added as one change that can be undone.
  void insert_quarter_turn(int index) {
    document().insert_step("rotate", index);
    Chain chain = document().chain();
    std::get<RotateStep>(chain.steps[static_cast<std::size_t>(index)].kind).degrees = 90;
    document().edit_chain("rotate", chain, Document::adding);
    document().end_merging();
  }
  const RectifyStep& rectify() { return std::get<RectifyStep>(document().chain().steps.at(0).kind); }
};

/// The right rectangle, with sides of 300 x 200 mm.
inline RectifyStep rectify_photo() {
  RectifyStep step;
  step.corners = photo_corners;
  step.width = 300;
  step.height = 200;
  step.pixel_size = 0.5;
  return step;
}
/// Adds a rectify step before all others.
inline void rectify_with(Desk& desk, const RectifyStep& step, const std::vector<Measurement>& measurements = {}) {
  desk.document().insert_step("rectify", 0);
  Chain chain = desk.document().chain();
  chain.steps[0].kind = step;
  chain.measurements = measurements;
  desk.document().edit_chain("rectify", chain);
}

/// Adds a step behind all others, as the palette does, and shows it.
template <class Kind>
const Kind& add(Desk& desk) {
  const int index = static_cast<int>(desk.document().chain().steps.size());
  desk.document().insert_step(Kind::word, index);
  return std::get<Kind>(desk.document().chain().steps[static_cast<std::size_t>(index)].kind);
}
template <class Kind>
Kind now(Desk& desk, std::size_t index = 0) {
  return std::get<Kind>(desk.document().chain().steps.at(index).kind);
}
/// What the page says that its step did.
inline QString said(Desk& desk) {
  return desk.named<QLabel>("Check")->text();
}

/// The proof sheet, opened as its key does.
inline ProofSheet* open_proof_sheet(Desk& desk) {
  desk.a()->setFocus();
  QTest::keyClick(desk.a(), Qt::Key_P);
  ProofSheet* sheet = desk.window.views().proof_sheet();
  REQUIRE(sheet->isVisible());
  return sheet;
}
/// An action of the menus by its words.
inline QAction* action(Desk& desk, const QString& text) {
  for (QAction* found : desk.window.findChildren<QAction*>())
    if (QString(found->text()).remove('&') == text) return found;
  FAIL("no action is called " << text.toStdString());
  return nullptr;
}
/// Answers the next question with one of its buttons, once it is there.
inline void answer_next(const QString& button) {
  auto* timer = new QTimer;
  QObject::connect(timer, &QTimer::timeout, timer, [timer, button] {
    auto* question = qobject_cast<QMessageBox*>(QApplication::activeModalWidget());
    if (!question) return;
    timer->deleteLater();
    for (QAbstractButton* b : question->buttons())
      if (b->text() == button) return b->click();
    question->reject();
  });
  timer->start(10);
}

inline QPointF q(Point p) {
  return {p.x, p.y};
}

}  // namespace fexel::test

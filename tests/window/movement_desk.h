#pragma once
/// A desk with a sequence open and the page of its movement at hand.
#include "app/document/motion_layer.h"
#include "tests/field_errors.h"
#include "tests/window/desk.h"

namespace fexel::test {

struct MovementDesk : Desk {
  /// An empty folder for the frames.
  QString folder;
  MovementDesk() : folder(QString::fromStdString((scratch / "frames").string())) {
    std::filesystem::create_directories(folder.toStdString());
  }
  void put(Image image, const std::string& name) const {
    std::vector<Image> pages;
    pages.push_back(std::move(image));
    write_pictures(folder.toStdString() + "/" + name, pages, {});
  }
  /// Opens the frames, and begins the movement by its key.
  void begin() {
    window.open_sequence({folder});
    wait();
    front();
    a()->setFocus();
    QTest::keyClick(a(), Qt::Key_V);
    wait_layer();
  }
  MotionLayer& layer() { return document().motion_layer(); }
  const MotionSettings& settings() { return layer().probe()->settings; }
  void wait_layer() {
    wait();
    REQUIRE(QTest::qWaitFor([&] { return layer().settled(); }, patience));
    QTest::qWait(20);
  }
  void click(const QString& name) {
    auto* button = named<QAbstractButton>(name);
    QTest::mouseClick(button, Qt::LeftButton, {}, QPoint(8, button->height() / 2));
    wait_layer();
  }
};

}  // namespace fexel::test

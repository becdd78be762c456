#pragma once
/// What the tests of sequence share.
#include <catch2/catch.hpp>
#include "app/compare/variants_sheet.h"
#include "app/sequence/frames_column.h"
#include "app/window/masks_panel.h"
#include "run/verify.h"
#include "tests/scene.h"
#include "tests/window/desk.h"
#include "text/json.h"

namespace fexel::test::sequence {

/// A window with a folder of frames open; frame i lies 4 i px right and 3 i px up of the first.
struct Frames : test::Desk {
  static constexpr Size size{320, 240};
  QString folder;
  explicit Frames(int count, int stranger = -1) {
    folder = QString::fromStdString((scratch / "frames").string());
    std::filesystem::create_directories(folder.toStdString());
    const test::Scene scene = test::textured(80, 0.01, 0.2, 40, 9), other = test::textured(80, 0.01, 0.2, 40, 10);
    for (int i = 0; i < count; ++i) {
      std::vector<Image> pages;
      pages.push_back(test::frame_of(i == stranger ? other : scene, translation(4 * i, -3 * i), size, Depth::u16, 3,
                                     static_cast<unsigned>(i), 100, 2000));
      write_pictures(folder.toStdString() + "/frame-" + std::to_string(i + 1) + ".tif", pages, {});
    }
    window.open_sequence({folder});
    wait();
  }
  QListWidget* list() { return window.frames().list(); }
  void show(int index) {
    list()->setCurrentRow(index);
    REQUIRE(QTest::qWaitFor([&] { return document().frame() == index; }, test::patience));
  }
  void add_align() {
    document().insert_step("align", 0);
    document().select_tile(1);
  }
  const AlignStep& align() { return *document().align_step(); }
  void click(const QString& name) {
    QTest::mouseClick(named<QPushButton>(name), Qt::LeftButton);
    wait();
  }
};

}  // namespace fexel::test::sequence

/// Results on paper at a scale: printed to a PDF, which is measured by independent readers.
#include <QPdfWriter>
#include <QProcess>
#include <catch2/catch.hpp>

#include "app/document/marks_layer.h"
#include "app/report/print_result.h"
#include "tests/window/desk.h"

namespace fexel::test::print {
namespace {
namespace fs = std::filesystem;

QString said_by(const QString& program, const QStringList& words) {
  QProcess process;
  process.start(program, words);
  REQUIRE(process.waitForFinished(patience));
  REQUIRE(process.exitCode() == 0);
  return QString::fromUtf8(process.readAllStandardOutput());
}

Station sized(int width, int height, double mm) {
  Station out;
  out.size = {width, height};
  out.pixel = PixelSize{mm, mm, "mm"};
  return out;
}

}  // namespace

TEST_CASE("sheets follow from size, paper and scale", "[window][print]") {
  const QSizeF paper(190, 277);
  const PrintPlan one = print_plan(sized(500, 300, 0.25), paper, 1.0);
  CHECK(one.width_mm == Approx(125));
  CHECK(one.height_mm == Approx(75));
  CHECK(one.across * one.down == 1);
  const PrintPlan twice = print_plan(sized(500, 300, 0.25), paper, 0.5);
  CHECK(twice.width_mm == Approx(250));
  CHECK(twice.across == 2);
  CHECK(twice.down == 1);
  // 190 + 2 x 185 mm hold 560 mm, and not more.
  CHECK(print_plan(sized(560, 10, 1), paper, 1.0).across == 3);
  CHECK(print_plan(sized(561, 10, 1), paper, 1.0).across == 4);
  // On one sheet: the next round scale.
  CHECK(print_plan(sized(3000, 2000, 0.3), paper, {}).reduction == 5);
  CHECK(print_plan(sized(300, 200, 0.001), paper, {}).across == 1);
  CHECK(scale_text(2.5) == "1 : 2.5");
  CHECK(scale_text(0.5) == "2 : 1");
  Station bare = sized(10, 10, 1);
  bare.pixel.reset();
  CHECK_THROWS_AS(print_plan(bare, paper, 1.0), Error);
  bare.pixel = PixelSize{1, 2, "mm"};
  CHECK_THROWS_AS(print_plan(bare, paper, 1.0), Error);
  CHECK_THROWS_AS(print_plan(sized(9000, 9000, 1), paper, 0.01), Error);
}

TEST_CASE("a picture and its ruler have their true size on paper, sheet by sheet", "[window][print]") {
  Desk desk;
  Chain chain = desk.document().chain();
  chain.calibration.emplace();
  chain.calibration->pixel = {0.25, 0.25, "mm"};
  desk.document().edit_chain("scale", chain);  // 800 x 600 px: 200 x 150 mm
  const Station& result = desk.document().layout().result();
  const QString pdf = QString::fromStdString((desk.scratch / "p.pdf").string()),
                page = QString::fromStdString((desk.scratch / "page").string());
  QPdfWriter device(pdf);
  device.setPageSize(QPageSize(QPageSize::A4));
  device.setPageMargins(QMarginsF(10, 10, 10, 10), QPageLayout::Millimeter);
  device.setResolution(600);
  const QSizeF paper = device.pageLayout().paintRect(QPageLayout::Millimeter).size();
  const PrintPlan plan = print_plan(result, paper, 1.0);
  CHECK(plan.across == 2);
  CHECK(plan.down == 1);
  print_result(desk.document().marks_layer().result(), plan, true, "photo", device, {});
  CHECK(said_by("pdfinfo", {pdf}).contains(QRegularExpression("Pages:\\s+2")));
  const QString text = said_by("pdftotext", {pdf, "-"}).simplified();
  CHECK(text.contains("This ruler is 100 mm long. Scale 1 : 1."));
  CHECK(text.contains("Sheet 2 of 2, row 1, column 2; sheets overlap by 5 mm."));
  said_by("pdftoppm", {"-r", "254", "-gray", "-png", pdf, page});  // ten pixels a millimetre
  const QImage sheet(page + "-1.png");
  REQUIRE_FALSE(sheet.isNull());
  // The ruler: the longest dark row in the lowest part of the sheet.
  int longest = 0;
  for (int y = sheet.height() - 320; y < sheet.height(); ++y) {
    int first = -1, last = -1;
    for (int x = 0; x < sheet.width(); ++x)
      if (qGray(sheet.pixel(x, y)) < 140) {
        if (first < 0) first = x;
        last = x;
      }
    int dark = 0;
    for (int x = std::max(first, 0); x <= last; ++x) dark += qGray(sheet.pixel(x, y)) < 140;
    if (first >= 0 && dark == last - first + 1) longest = std::max(longest, dark);
  }
  CHECK(longest == Approx(1000).margin(4));
  // What a broken step leaves is not printed as the result.
  desk.document().insert_step("rectify", 0);
  chain = desk.document().chain();
  std::get<RectifyStep>(chain.steps[0].kind).corners.fill(Point{10, 10});
  desk.document().edit_chain("one place", chain);
  REQUIRE(desk.document().layout().stations[1].problem);
  CHECK_THROWS_AS(print_result(desk.document().marks_layer().result(), plan, false, "photo", device, {}), Error);
  // The picture is as high as it is: 150 mm from the margin down.
  int bottom = 0;
  for (int y = 100; y < 2000; ++y)
    if (qGray(sheet.pixel(300, y)) < 230) bottom = y;
  CHECK(bottom == Approx(1600).margin(4));
}

}  // namespace fexel::test::print

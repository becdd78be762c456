/// Everything that the window says of a step or a measurement is there for each of them.
#include <QFile>

#include "app/document/document.h"
#include "app/measurements/measurement_ui.h"
#include "app/steps/inspector_page.h"
#include "app/steps/step_ui.h"
#include "tests/window/desk.h"

using namespace fexel;

TEST_CASE("each step has titles, a pictogram, a page, a summary and handles that move it", "[registry]") {
  test::Desk desk;
  const std::vector<std::string> words = step_words();
  CHECK(step_uis().size() == words.size());
  for (const std::string& word : words) {
    INFO(word);
    const auto at = std::ranges::find_if(step_uis(), [&](const StepUi* ui) { return word == ui->word(); });
    REQUIRE(at != step_uis().end());
    const StepUi& ui = **at;
    CHECK_FALSE(ui.texts().title.isEmpty());
    CHECK_FALSE(ui.texts().purpose.isEmpty());
    CHECK_FALSE(ui.texts().search_words.isEmpty());
    CHECK(QFile::exists(":/art/" + ui.pictogram() + ".svg"));
    const std::unique_ptr<InspectorPage> page(ui.page(desk.document()));
    CHECK(page != nullptr);
    const StepInput input = input_of_step(desk.document().layout(), 0);
    const StepKind step = step_begun(word, input);
    CHECK_FALSE(ui.summary(step).isEmpty());
    const StepFigure figure = ui.figure(step, input);
    for (int i = 0; i < static_cast<int>(figure.handles.size()); ++i) {
      const Point to = figure.handles[static_cast<std::size_t>(i)].at + Point{7, 5};
      CHECK_FALSE(ui.with_handle_at(step, input, i, to) == step);
      CHECK_FALSE(ui.handle_purpose(i).isEmpty());
    }
    const StepVariants variants = ui.variants(step);
    CHECK(variants.choice.isEmpty() == variants.all.empty());
    for (const StepVariant& variant : variants.all) CHECK(word_of(variant.step) == word);
  }
}

TEST_CASE("each measurement has titles, a pictogram, a hint, and is drawn", "[registry]") {
  test::Desk desk;
  const std::vector<std::string> words = measurement_words();
  CHECK(measurement_uis().size() == words.size());
  for (const std::string& word : words) {
    INFO(word);
    const MeasurementUi& ui = ui_of_measurement(word);
    CHECK_FALSE(ui.texts().title.isEmpty());
    CHECK_FALSE(ui.texts().action.isEmpty());
    CHECK_FALSE(ui.texts().hint.isEmpty());
    CHECK(ui.texts().name.contains("%1"));
    CHECK(QFile::exists(":/art/" + ui.pictogram() + ".svg"));
    const MeasurementKind kind = ui.begun(desk.document());
    CHECK(word_of(kind) == word);
    QPolygonF points;
    for (std::size_t i = 0; i < points_of(kind).first; ++i)
      points << QPointF(20 + 30.0 * double(i), 25 + 20.0 * double(i % 2));
    QImage picture(100, 100, QImage::Format_RGB32);
    picture.fill(Qt::black);
    const QImage before = picture.copy();
    QPainter painter(&picture);
    ui.paint(painter, points, Qt::red);
    painter.end();
    CHECK(picture != before);
  }
}

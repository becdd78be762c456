/// Reports of what is open and of runs, read back by independent readers: what a PDF says as text, which pictures it
/// holds, and whether HTML is valid.
#include <QProcess>
#include <catch2/catch.hpp>

#include "app/document/motion_layer.h"
#include "app/measurements/measurement_model.h"
#include "app/report/make_report.h"
#include "app/report/report_content.h"
#include "app/report/report_html.h"
#include "app/report/report_of_run.h"
#include "app/report/report_pdf.h"
#include "app/runs/run_panel.h"
#include "app/sequence/frames_ledger.h"
#include "demo/demo.h"
#include "tests/window/desk.h"

namespace fexel::test::report {
namespace {
namespace fs = std::filesystem;

struct Said {
  int code = -1;
  QString out, err;
};

Said run(const QString& program, const QStringList& words) {
  QProcess process;
  process.start(program, words);
  REQUIRE(process.waitForFinished(patience));
  return {process.exitCode(), QString::fromUtf8(process.readAllStandardOutput()),
          QString::fromUtf8(process.readAllStandardError())};
}

/// The words of a PDF, with blanks and breaks of lines made one blank.
QString words_of(const fs::path& pdf) {
  const Said said = run("pdftotext", {"-layout", QString::fromStdString(pdf.string()), "-"});
  REQUIRE(said.code == 0);
  return said.out.simplified();
}

/// The cells of a table that are shown and hold a number, each as it stands.
QStringList numbers_shown(const QTableView* view) {
  QStringList out;
  for (int row = 0; row < view->model()->rowCount(); ++row)
    for (int column = 0; column < view->model()->columnCount(); ++column) {
      const QString text = view->model()->index(row, column).data().toString().simplified();
      if (!view->isColumnHidden(column) && text.contains(QRegularExpression("[0-9]"))) out << text;
    }
  return out;
}

/// Cells that a text does not have; words that wrap are looked for one by one.
QStringList missing(const QStringList& cells, const QString& text) {
  QStringList out;
  for (const QString& cell : cells)
    for (const QString& word : cell.split(' '))
      if (!text.contains(word)) out << cell;
  return out;
}

/// How many pictures the pages hold.
int pictures_in(const fs::path& pdf) {
  const Said said = run("pdfimages", {"-list", QString::fromStdString(pdf.string())});
  REQUIRE(said.code == 0);
  return static_cast<int>(said.out.count("\n")) - 2;
}

void check_valid(const fs::path& html) {
  const Said said = run("tidy", {"-e", "-q", QString::fromStdString(html.string())});
  INFO(said.err.toStdString());
  CHECK(said.code == 0);
}

QString text_in(const fs::path& path) {
  return QString::fromStdString(read_text(path));
}

}  // namespace

TEST_CASE("reports of the demos have every number of the window's tables, in PDF and in HTML", "[window][report]") {
  Desk desk;
  const fs::path folder = desk.scratch / "demo";
  // The others take minutes to render and to search: with FEXEL_WIDE.
  std::vector<std::string> chains{"wall.fexel.json", "card.fexel.json", "survey.fexel.json", "drying.fexel.json"};
  if (std::getenv("FEXEL_WIDE")) chains = demo_chains();
  for (const std::string& chain : chains) {
    INFO(chain);
    write_demo(folder, {}, chain);
    desk.open((folder / chain).string());
    desk.wait_findings();
    if (desk.document().frames().size() > 1 && desk.document().align_step() &&
        desk.document().align_step()->frames.empty()) {
      desk.window.search_frames(true);
      desk.wait();
    }
    QStringList cells = numbers_shown(desk.window.ledger().table());
    cells << numbers_shown(desk.window.ledger().frames()->table());
    // The table of pairs keeps those of the last fit that was selected.
    if (selected_fit(desk.document())) cells << numbers_shown(desk.window.ledger().pairs()->table());
    const bool has_tables = !desk.document().chain().measurements.empty() || desk.document().align_step() ||
                            selected_fit(desk.document()) != nullptr;
    CHECK((cells.size() > 6 || !has_tables));
    const fs::path pdf = folder / (chain + ".pdf"), html = folder / (chain + ".html");
    for (const fs::path& path : {pdf, html}) {
      desk.window.save_report_to(QString::fromStdString(path.string()));
      desk.wait();
      CHECK(desk.window.notice().startsWith("The report is written"));
    }
    const QString text = words_of(pdf);
    CHECK(missing(cells, text).join("; ").toStdString() == "");
    CHECK(missing(cells, text_in(html)).join("; ").toStdString() == "");
    // What it says beside them: the files, by their checksums, and the step in the words of its page.
    CHECK(text.contains(QString::fromStdString(checksum(desk.document().all_frames().front().path))));
    CHECK(text.contains("From the source to the result") ==
          (std::ranges::count_if(desk.document().chain().steps, &Step::on) > 1));
    // Figures are pictures; charts are not.
    const bool same = desk.document().station_a() == desk.document().station_b();
    const int figures = (same ? 1 : 2) + (desk.document().chain().motions.empty() ? 0 : 1);
    check_valid(html);
    if (!desk.document().motion_layer().frames().empty() || desk.document().chain().motions.empty()) {
      CHECK(pictures_in(pdf) == figures);
      CHECK(text_in(html).count("<img ") == figures);
    }
    if (has_tables) CHECK(text_in(html).count("<svg") >= 1);
    if (has_tables) CHECK(text_in(html).count("<text") >= 4);
  }
}

TEST_CASE("making a report changes nothing of what is open", "[window][report]") {
  Desk desk;
  desk.document().insert_step("rotate", 0);
  desk.document().select_tile(0);
  const DocumentState before = desk.document().state();
  const int undos = desk.document().undo_stack().index();
  const fs::path path = desk.scratch / "r.pdf";
  desk.window.save_report_to(QString::fromStdString(path.string()));
  desk.wait();
  REQUIRE(fs::exists(path));
  CHECK(desk.document().state() == before);
  CHECK(desk.document().undo_stack().index() == undos);
  CHECK_FALSE(desk.document().session().motion_page());
  // What the chain was made with was another file: the first thing that the report says.
  Chain chain = desk.document().chain();
  chain.sources = {{desk.photo, std::string(64, '0')}};
  desk.document().edit_chain("other", chain);
  save_report(report_of(desk.document(), facts_of(ReportInput(desk.document()), {}), {}, {}), path, true, nullptr);
  CHECK(words_of(path).contains("is not the file that this chain was made with"));
  // A source is never written over, and an ending has to say what is meant.
  desk.window.save_report_to(QString::fromStdString(desk.photo));
  desk.wait();
  CHECK(desk.window.notice().contains(".pdf or .html"));
  desk.window.save_report_to(QString::fromStdString((desk.scratch / "r.doc").string()));
  desk.wait();
  CHECK(desk.window.notice().contains(".pdf or .html"));
  CHECK_FALSE(fs::exists(desk.scratch / "r.doc"));
}

TEST_CASE("a template gives title, names, logo and paper; what is wrong with it is said", "[window][report]") {
  Desk desk;
  QImage logo(60, 20, QImage::Format_RGB32);
  logo.fill(Qt::darkGreen);
  logo.save(QString::fromStdString((desk.scratch / "logo.png").string()));
  const auto parsed = [&](const std::string& text) { return parse_report_template(text, desk.scratch.path()); };
  const ReportTemplate style = parsed(
      R"({"fexel_report":1,"title":"Wall <7> & more","author":"A. Person","organisation":"A workshop","logo":"logo.png","paper":"letter"})");
  const ReportInput input(desk.document());
  const Report report = report_of(desk.document(), facts_of(input, {}), style, {});
  const fs::path pdf = desk.scratch / "r.pdf", html = desk.scratch / "r.html";
  save_report(report, pdf, false, nullptr);
  save_report(report, html, false, nullptr);
  CHECK_THROWS_AS(save_report(report, pdf, false, nullptr), Error);
  const QString text = words_of(pdf);
  for (const char* word : {"Wall <7> & more", "A. Person", "A workshop"}) CHECK(text.contains(word));
  CHECK(pictures_in(pdf) == 2);  // A and B are the same, and the logo
  check_valid(html);
  CHECK(text_in(html).contains("Wall &lt;7&gt; &amp; more"));
  CHECK(run("pdfinfo", {QString::fromStdString(pdf.string())}).out.contains("letter"));
  const auto said = [&](const std::string& text) {
    try {
      parsed(text);
    } catch (const Error& error) {
      return std::string(error.what());
    }
    return std::string();
  };
  CHECK(said("{}").find("fexel_report") != std::string::npos);
  CHECK(said(R"({"fexel_report":2})").find("newer") != std::string::npos);
  CHECK(said(R"({"fexel_report":1,"colour":"red"})").find("colour") != std::string::npos);
  CHECK(said(R"({"fexel_report":1,"paper":"A9"})").find("letter") != std::string::npos);
  CHECK(said(R"({"fexel_report":1,"logo":"none.png"})").find("none.png") != std::string::npos);
  CHECK(said(R"({"fexel_report":1,"author":7})").find("author") != std::string::npos);
}

TEST_CASE("the report of a run has its failures, and the distribution of each measurement", "[window][report]") {
  Scratch scratch;
  const fs::path in = scratch / "in", results = scratch / "out", chain = scratch / "greys.fexel.json";
  fs::create_directories(in);
  std::ofstream(chain)
      << R"({"fexel":1,"steps":[],"measurements":[{"measure":"rectangle","name":"patch","points":[[2,2],[10,8]],"station":0}]})";
  const int count = 12;
  double sum = 0;
  const auto put = [&](int i, double value) {
    Image image(16, 12, 1, Depth::u8);
    image.row<std::uint8_t>(0, 0)[0] = static_cast<std::uint8_t>(value);
    const double side = 0.1 + 0.01 * i;
    write_pictures(in / ("p" + std::to_string(i) + ".png"), test::one_page(std::move(image)),
                   {Format::png, PixelSize{side, side, "mm"}, true, {}});
    return 8 * 6 * side * side;
  };
  for (int i = 0; i < count; ++i) sum += put(i, 1);
  put(count, 1);
  std::ofstream(in / "broken.png") << "no picture";
  const auto text_form = [](const fs::path& path) { return QString::fromStdString(path.string()); };
  const fs::path kept = results / "greys.run.jsonl";
  CHECK(run(FEXEL_CLI, {"apply", text_form(chain), text_form(in), "--out", text_form(results), "--journal",
                        text_form(kept), "--quiet"})
            .code == 1);
  Journal journal = load_journal(kept);
  REQUIRE(journal.entries.size() == count + 2);
  journal.entries.at(in / "p3.png").doubts = {"A third of it is empty."};
  journal.inputs.push_back({scratch / "waiting.png", {}});
  std::ofstream(kept) << write_journal(journal);
  put(count, 2);  // another picture since then
  const fs::path pdf = scratch / "run.pdf", html = scratch / "run.html";
  make_report({kept, pdf, {}, false}, {});
  make_report({kept, html, {}, false}, {});
  const QString text = words_of(pdf);
  INFO(text.toStdString());
  for (const char* word : {"files 15", "done 13", "failed 1", "not run 1", "A third of it is empty.",
                           "It has changed since the run.", "to be looked at 2", "Distribution of patch"}) {
    INFO(word);
    CHECK(text.contains(word));
  }
  double square = 0;
  for (int i = 0; i < count; ++i) {
    const double area = 48 * (0.1 + 0.01 * i) * (0.1 + 0.01 * i);
    square += (area - sum / count) * (area - sum / count);
  }
  CHECK(text.contains(QString("patch 12 %1 %2 0.5 2.1 mm²")
                          .arg(sum / count, 0, 'f', 1)
                          .arg(std::sqrt(square / (count - 1)), 0, 'f', 2)));
  CHECK(pictures_in(pdf) == 0);
  check_valid(html);
}

TEST_CASE("fexel --report needs no screen, and tells by its exit code what went wrong", "[window][report]") {
  Scratch scratch;
  const fs::path folder = scratch / "demo";
  write_demo(folder, {}, "card.fexel.json");
  const QString chain = QString::fromStdString((folder / "card.fexel.json").string()),
                out = QString::fromStdString((scratch / "out.pdf").string());
  qunsetenv("DISPLAY");
  const auto report = [](QStringList words) { return run(FEXEL_PROGRAM, QStringList{"--report"} + words); };
  CHECK(report({chain, out}).code == 0);
  CHECK(words_of(out.toStdString()).contains("RECORD") == false);
  CHECK(words_of(out.toStdString()).contains("Report on card.fexel.json"));
  const Said again = report({chain, out});
  CHECK(again.code == 2);
  CHECK(again.err.contains("exists"));
  CHECK(report({chain, out, "--replace"}).code == 0);
  CHECK(report({chain}).code == 2);
  CHECK(report({chain, "x.doc"}).code == 2);
  CHECK(report({"none.fexel.json", out, "--replace"}).code == 2);
  fs::remove(folder / "record-card.png");
  const Said gone = report({chain, out, "--replace"});
  CHECK(gone.code != 0);
  CHECK(gone.err.contains("record-card.png"));
}

}  // namespace fexel::test::report

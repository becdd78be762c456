#include "app/report/report_content.h"

#include <QDateTime>
#include <QTableWidget>

#include "app/document/motion_layer.h"
#include "app/document/pairs_review.h"
#include "app/measurements/measurement_chart.h"
#include "app/measurements/measurement_model.h"
#include "app/motion/motion_ledger.h"
#include "app/pairs/pairs_ledger.h"
#include "app/pairs/reference.h"
#include "app/report/report_figures.h"
#include "app/sequence/frames_ledger.h"
#include "app/steps/inspector_page.h"
#include "app/steps/step_ui.h"
#include "app/ui/fields.h"
#include "app/ui/language.h"
#include "app/ui/text.h"
#include "app/ui/theme.h"
#include "chain/calibrations.h"
#include "chain/masks.h"
#include "files/identity.h"

namespace fexel {
namespace {

QString number(double value, int digits = 6) {
  return number_shown(short_number(value, digits));
}

/// Three rows of a matrix, with w of the last place 1 where it can be.
QString matrix_text(Matrix3 m) {
  if (std::abs(m(2, 2)) > 1e-12) m /= m(2, 2);
  QStringList rows;
  for (int r = 0; r < 3; ++r) {
    QStringList cells;
    for (int c = 0; c < 3; ++c) cells << QString::number(m(r, c), 'g', 10);
    rows << "[" + cells.join(", ") + "]";
  }
  return rows.join("\n");
}

/// A step as its file says it, but for long lists, which have tables of their own.
QString parameters_text(const Step& step) {
  Chain only;
  only.steps.push_back(step);
  const Json json = parse_json(write_one_step(without_folders(only).steps.front()));
  QStringList said;
  for (const auto& [key, value] : json.items()) {
    if (key == "do" || key == "name" || key == "on") continue;
    const bool rows = value.is_array() && !value.empty() && (value.front().is_object() || value.dump().size() > 160);
    said << text_of(key) + ": " +
                (rows ? QStringLiteral("(%1)").arg(value.size())
                      : text_of(value.is_string() ? value.get<std::string>() : value.dump()));
  }
  return said.join("   ");
}

QString station_title(const Document& document, int station) {
  if (station == 0) return QObject::tr("the source");
  return station == document.layout().last() ? QObject::tr("the result") : QObject::tr("after step %1").arg(station);
}

ReportSection pictures_section(Document& copy, const ReportFacts& facts, const ShownRange& range) {
  ReportSection out{QObject::tr("Pictures"), {}};
  const OpenSource& source = *copy.source();
  const FileInfo& info = source.info;
  QString kind = text_of(info.format);
  std::vector<std::pair<QString, QString>> rows;
  rows.emplace_back(
      QObject::tr("source"),
      QFileInfo(source.path).fileName() +
          (source.frames.size() > 1 ? QObject::tr(" and more: %1 frames").arg(source.frames.size()) : QString()));
  rows.emplace_back(QObject::tr("size"),
                    QStringLiteral("%1 × %2 px, %3, %4")
                        .arg(info.width)
                        .arg(info.height)
                        .arg(info.bands == 1 ? QObject::tr("1 band") : QObject::tr("%1 bands").arg(info.bands),
                             QString::fromUtf8(name_of(info.depth).data())));
  rows.emplace_back(QObject::tr("format"), kind);
  QStringList readings;
  for (const std::string& one : info.readings) readings << text_of(one);
  rows.emplace_back(QObject::tr("as it was read"), readings.join(" "));
  for (int flag = 0; flag < 2; ++flag) {
    const int at = flag == 0 ? copy.station_a() : copy.station_b();
    const Station& station = copy.layout().stations[static_cast<std::size_t>(at)];
    rows.emplace_back(
        flag == 0 ? QObject::tr("A") : QObject::tr("B"),
        QStringLiteral("%1: %2 (%3)").arg(station_title(copy, at), size_text(station), how_made(copy.layout(), at)));
  }
  out.blocks.emplace_back(facts_table(rows));
  out.blocks.emplace_back(figure_of_station(
      copy, false, range,
      QObject::tr("A: %1, with what was measured on it.").arg(station_title(copy, copy.station_a()))));
  if (copy.station_a() != copy.station_b())
    out.blocks.emplace_back(figure_of_station(
        copy, true, range,
        QObject::tr("B: %1, with what was measured on it.").arg(station_title(copy, copy.station_b()))));
  ReportTable files{
      QObject::tr("Files and their checksums"), {QObject::tr("file"), QObject::tr("SHA-256")}, {}, {false, false}};
  for (const ReportFacts::File& file : facts.sources)
    files.rows.push_back({QFileInfo(file.path).fileName(), text_of(file.sha256)});
  out.blocks.emplace_back(std::move(files));
  return out;
}

/// The sentences of a step's page under *Check*.
QString check_text(Document& copy, std::size_t index) {
  copy.select_tile(static_cast<int>(index) + 1);
  const std::unique_ptr<InspectorPage> page(ui_of(copy.chain().steps[index].kind).page(copy));
  page->refresh();
  return page->said();
}

ReportSection chain_section(Document& copy) {
  ReportSection out{QObject::tr("Chain"), {}};
  const Chain& chain = copy.chain();
  if (chain.steps.empty()) {
    out.blocks.emplace_back(ReportText{QObject::tr("There are no steps: the result is the source.")});
    return out;
  }
  ReportTable steps{{},
                    {QObject::tr("no."), QObject::tr("step"), QObject::tr("setting"), QObject::tr("size"),
                     QObject::tr("pixel"), QObject::tr("made")},
                    {},
                    {}};
  steps.numbers.assign(6, false);
  for (std::size_t i = 0; i < chain.steps.size(); ++i) {
    const Step& step = chain.steps[i];
    const Station& made = copy.layout().stations[i + 1];
    const QString title = step_title(word_of(step.kind));
    steps.rows.push_back(
        {QString::number(i + 1), step.name.empty() ? title : text_of(step.name) + " (" + title + ")",
         parameter_text(step, made), QStringLiteral("%1 × %2 px").arg(made.size.width).arg(made.size.height),
         made.pixel ? pixel_text(*made.pixel) : QStringLiteral("–"), how_made(copy.layout(), static_cast<int>(i) + 1)});
  }
  out.blocks.emplace_back(std::move(steps));
  const Resampling& how = chain.resampling;
  out.blocks.emplace_back(
      ReportText{QObject::tr("Kernel: %1. Outside the source: %2.")
                     .arg(QString::fromUtf8(name_of(how.kernel).data()), QString::fromUtf8(name_of(how.edge).data()))});
  for (std::size_t i = 0; i < chain.steps.size(); ++i) {
    const Step& step = chain.steps[i];
    if (!step.on) continue;
    const QString check = check_text(copy, i);
    out.blocks.emplace_back(
        ReportText{QStringLiteral("%1. %2. %3").arg(i + 1).arg(step_title(word_of(step.kind)), check)});
    out.blocks.emplace_back(ReportText{parameters_text(step), ReportText::Look::code});
    const Map& map = copy.layout().stations[i + 1].from_previous;
    if (map.planar() && !map.matrix().isIdentity(1e-15))
      out.blocks.emplace_back(ReportText{matrix_text(map.matrix()), ReportText::Look::code});
  }
  const Map& all = copy.layout().result().from_source;
  const auto on = std::ranges::count_if(chain.steps, &Step::on);
  if (on > 1)
    out.blocks.emplace_back(ReportText{all.planar()
                                           ? QObject::tr("From the source to the result:")
                                           : QObject::tr("No single matrix leads from the source to the result.")});
  if (on > 1 && all.planar()) out.blocks.emplace_back(ReportText{matrix_text(all.matrix()), ReportText::Look::code});
  out.blocks.emplace_back(ReportText{QObject::tr(
      "Matrices take a column (x, y, 1) of one picture to the next one. x counts to the right and y down, in pixels; "
      "(0, 0) is the outer corner of the first pixel, whose middle is (0.5, 0.5). Angles are positive "
      "counter-clockwise.")});
  return out;
}

std::optional<ReportSection> calibration_section(const Document& copy) {
  const auto& calibration = copy.chain().calibration;
  const Station& source = copy.layout().stations.front();
  if (!calibration && !source.pixel && !copy.chain().axes) return std::nullopt;
  ReportSection out{QObject::tr("Calibration"), {}};
  std::vector<std::pair<QString, QString>> rows;
  if (calibration) {
    rows.emplace_back(QObject::tr("name"), text_of(calibration->name));
    rows.emplace_back(QObject::tr("pixel size"), pixel_text(calibration->pixel));
    rows.emplace_back(QObject::tr("standard uncertainty"),
                      calibration->uncertainty > 0 ? QStringLiteral("± %1 %2").arg(number(calibration->uncertainty, 2),
                                                                                   unit_text(calibration->pixel.unit))
                                                   : QObject::tr("not known"));
    rows.emplace_back(QObject::tr("lens"), text_of(calibration->lens));
    rows.emplace_back(QObject::tr("made"), text_of(calibration->made));
    rows.emplace_back(QObject::tr("method"), text_of(calibration->method));
    if (calibration->size)
      rows.emplace_back(QObject::tr("for pictures of"),
                        QStringLiteral("%1 × %2 px").arg(calibration->size->width).arg(calibration->size->height));
  } else if (source.pixel) {
    rows.emplace_back(QObject::tr("pixel size"), QObject::tr("%1, as the file says").arg(pixel_text(*source.pixel)));
  }
  if (const auto& axes = copy.chain().axes)
    rows.emplace_back(QObject::tr("axes"),
                      QObject::tr("x to the %1, y %2, turned by %3°; %4 at %5 of the picture that they were laid on")
                          .arg(axes->right ? QObject::tr("right") : QObject::tr("left"),
                               axes->up ? QObject::tr("up") : QObject::tr("down"), number(axes->turn))
                          .arg(QStringLiteral("(%1, %2)").arg(number(axes->value.x), number(axes->value.y)),
                               QObject::tr("(%1, %2) px").arg(number(axes->origin.x), number(axes->origin.y))));
  if (const auto& time = copy.chain().time_step)
    rows.emplace_back(QObject::tr("time from frame to frame"), number(time->value) + " " + unit_text(time->unit));
  out.blocks.emplace_back(facts_table(rows));
  return out;
}

std::optional<ReportSection> measurements_section(Document& copy, const ReportFacts& facts) {
  const auto& measurements = copy.chain().measurements;
  if (measurements.empty()) return std::nullopt;
  ReportSection out{QObject::tr("Measurements"), {}};
  MeasurementModel model(copy);
  QTableView view;
  view.setModel(&model);
  out.blocks.emplace_back(
      table_as_shown(QObject::tr("Values at A (%1) and B (%2); ± is the standard uncertainty at B.")
                         .arg(station_title(copy, copy.station_a()), station_title(copy, copy.station_b())),
                     view));
  const auto& readings = copy.readings(copy.station_b());
  if (std::ranges::any_of(readings, [](const Reading& r) { return r.error.has_value(); })) {
    auto chart = std::make_shared<MeasurementChart>(copy);
    out.blocks.emplace_back(
        chart_of(QObject::tr("Errors at B with their standard uncertainty, in the order of the table."), chart,
                 chart->plot(), 55));
  }
  ReportTable budget{QObject::tr("Where the standard uncertainty comes from"),
                     {QObject::tr("name"), QObject::tr("total")},
                     {},
                     {false, true}};
  std::vector<std::size_t> sources;  // that give a part of any
  for (std::size_t k = 0; k < uncertainty_sources; ++k)
    if (std::ranges::any_of(readings, [&](const Reading& r) { return r.uncertainty && r.parts[k] > 0; }))
      sources.push_back(k);
  for (const std::size_t k : sources) {
    budget.heads << MeasurementModel::name_of(static_cast<UncertaintySource>(k));
    budget.numbers.push_back(true);
  }
  budget.heads << QObject::tr("unit");
  budget.numbers.push_back(false);
  ReportTable details{QObject::tr("What else the measurements and their pixels say"),
                      {QObject::tr("name"), QObject::tr("of"), QObject::tr("value"), QObject::tr("unit")},
                      {},
                      {false, false, true, false}};
  for (std::size_t i = 0; i < measurements.size(); ++i) {
    const Reading& r = readings[i];
    const QString name = text_of(measurements[i].name);
    if (r.uncertainty && r.value) {
      QStringList cells{name, number(*r.uncertainty, 2)};
      for (const std::size_t k : sources) cells << (r.parts[k] > 0 ? number(r.parts[k], 2) : QStringLiteral("–"));
      budget.rows.push_back(cells << unit_text(r.value->unit));
    }
    std::vector<Detail> all = r.details;
    if (i < facts.sampled.size()) all.insert(all.end(), facts.sampled[i].begin(), facts.sampled[i].end());
    for (const Detail& detail : all)
      details.rows.push_back({name, core_word(detail.name),
                              detail.quantity.unit == "°" ? number_shown(number_text(detail.quantity.value, 2))
                                                          : number(detail.quantity.value, 5),
                              unit_text(detail.quantity.unit)});
    if (r.problem) out.blocks.emplace_back(ReportText{name + ": " + text_of(*r.problem), ReportText::Look::warning});
  }
  if (!budget.rows.empty()) out.blocks.emplace_back(std::move(budget));
  if (!details.rows.empty()) out.blocks.emplace_back(std::move(details));
  return out;
}

void add_pairs(Document& copy, std::size_t index, std::vector<ReportSection>& sections) {
  copy.select_tile(static_cast<int>(index) + 1);
  if (!wait_until([&] { return copy.pairs_review().settled(); }))
    throw input_error("The pairs were not worked out within a minute.", {}, "Try again.");
  auto ledger = std::make_shared<PairsLedger>(copy);
  show_unseen(*ledger, {900, 260});
  ReportSection out{QObject::tr("Control points of step %1").arg(index + 1), {}};
  out.blocks.emplace_back(ReportText{ledger->summary()});
  out.blocks.emplace_back(table_as_shown(QObject::tr("Pairs, and how far each lies off the fit"), *ledger->table()));
  if (ledger->models()->rowCount() > 0)
    out.blocks.emplace_back(table_as_shown(QObject::tr("Models side by side"), *ledger->models()));
  ledger->show_beside(1);
  out.blocks.emplace_back(chart_of(QObject::tr("Residuals of the pairs, in px."), ledger, ledger->plot(), 70));
  sections.push_back(std::move(out));
}

std::optional<ReportSection> alignment_section(Document& copy) {
  if (!copy.align_step() || copy.frames().size() < 2) return std::nullopt;
  ReportSection out{QObject::tr("Alignment"), {}};
  auto ledger = std::make_shared<FramesLedger>(copy);
  out.blocks.emplace_back(ReportText{ledger->summary() + "."});
  out.blocks.emplace_back(table_as_shown(
      QObject::tr("What was found for each frame; ± is the standard uncertainty of its shift"), *ledger->table()));
  out.blocks.emplace_back(chart_of(QObject::tr("How far each frame lies from the reference."), ledger, ledger->plot()));
  return out;
}

/// Settings of the movement as its file says them.
QString settings_text(const MotionSettings& settings) {
  nlohmann::ordered_json json;
  write_motion(json, settings);
  QStringList said;
  for (const auto& [key, value] : json.items())
    said << text_of(key) + ": " + text_of(value.is_string() ? value.get<std::string>() : value.dump());
  return said.join("   ");
}

std::optional<ReportSection> motion_section(Document& copy, const ReportFacts& facts, const ShownRange& range) {
  MotionLayer& layer = copy.motion_layer();
  if (!layer.probe()) return std::nullopt;
  ReportSection out{QObject::tr("Movement"), {}};
  auto ledger = std::make_shared<MotionLedger>(copy);
  out.blocks.emplace_back(
      ReportText{ledger->summary() + ".", layer.outdated() ? ReportText::Look::warning : ReportText::Look::plain});
  out.blocks.emplace_back(ReportText{settings_text(layer.probe()->settings), ReportText::Look::code});
  if (layer.frames().empty()) return out;
  if (!wait_until([&] { return layer.settled(); }))
    throw input_error("The rules of the movement were not carried out within a minute.", {}, "Try again.");
  if (facts.moved) copy.show_frame(facts.moved->index, facts.moved->info, facts.moved->pixels);
  copy.session().show_motion_page(true);
  if (copy.station_b() != layer.probe()->station) copy.set_flag(true, layer.probe()->station);
  out.blocks.emplace_back(figure_of_station(
      copy, true, range,
      QObject::tr("The movement over the picture of %1.")
          .arg(layer.shown() && layer.shown()->number == 0 ? QObject::tr("all frames")
                                                           : QObject::tr("frame %1").arg(copy.frame() + 1))));
  copy.session().show_motion_page(false);
  const QString unit = layer.unit_of(MotionQuantity::length);
  ReportTable table{QObject::tr("Points and mean movement of each field; ± is the standard uncertainty of one point"),
                    {QObject::tr("frame"), QObject::tr("ok"), QObject::tr("weak"), QObject::tr("rejected"),
                     QObject::tr("masked"), QObject::tr("filled"), QObject::tr("mean x, %1").arg(unit),
                     QObject::tr("mean y, %1").arg(unit), QObject::tr("± %1").arg(unit)},
                    {},
                    std::vector<bool>(9, true)};
  for (const int frame : layer.frames()) {
    const auto shown = layer.field(frame);
    const MotionField& f = shown->field;
    const double time = layer.time_of(*shown);
    const Point mean = 1 / time * layer.units().displacement(mean_of(f));
    std::vector<double> sigmas;
    for (const MotionPoint& p : f.points)
      if (p.good()) sigmas.push_back(std::max(p.sigma.x, p.sigma.y));
    double usual = 0;
    if (!sigmas.empty()) {
      std::ranges::nth_element(sigmas, sigmas.begin() + static_cast<std::ptrdiff_t>(sigmas.size() / 2));
      usual = sigmas[sigmas.size() / 2] * (layer.units().pixel ? layer.units().pixel->mean() : 1) / time;
    }
    const int decimals = decimals_for(usual);
    QStringList cells{QString::number(frame)};
    for (const MotionStatus status :
         {MotionStatus::ok, MotionStatus::weak, MotionStatus::rejected, MotionStatus::masked, MotionStatus::filled})
      cells << QString::number(f.count(status));
    if (sigmas.empty())
      cells << "–"
            << "–"
            << "–";
    else
      cells << number_shown(number_text(mean.x, decimals)) << number_shown(number_text(mean.y, decimals))
            << number(usual, 2);
    table.rows.push_back(cells);
  }
  out.blocks.emplace_back(std::move(table));
  using View = MotionLedger::View;
  const std::tuple<View, QString, bool> charts[] = {
      {View::over_time, QObject::tr("The course over the frames."),
       !layer.charted().empty() || !layer.extensometers().empty() || !layer.areas().empty()},
      {View::profile, QObject::tr("Along the profile."), layer.profile().has_value()},
      {View::scatter, QObject::tr("The two components of each point, with the limits."), true},
      {View::histogram, QObject::tr("Histogram of what the figure shows."), true}};
  for (const auto& [view, caption, there] : charts) {
    if (!there) continue;
    auto own = std::make_shared<MotionLedger>(copy);
    own->show_view(view);
    out.blocks.emplace_back(chart_of(caption, own, own->plot()));
  }
  return out;
}

std::optional<ReportSection> warnings_section(Document& copy, const ReportFacts& facts) {
  ReportSection out{QObject::tr("Warnings"), {}};
  const auto warn = [&](const QString& text) {
    if (!text.isEmpty()) out.blocks.emplace_back(ReportText{text, ReportText::Look::warning});
  };
  for (const std::string& note : copy.source()->info.notes) warn(text_of(note));
  const auto& named = copy.chain().sources;
  for (std::size_t i = 0; i < std::min(named.size(), facts.sources.size()); ++i)
    if (!named[i].sha256.empty() && named[i].sha256 != facts.sources[i].sha256)
      warn(QObject::tr("%1 is not the file that this chain was made with: its checksum differs.")
               .arg(QFileInfo(facts.sources[i].path).fileName()));
  for (std::size_t i = 1; i < copy.layout().stations.size(); ++i)
    if (const auto& problem = copy.layout().stations[i].problem)
      warn(QObject::tr("Step %1 cannot be made: %2").arg(i).arg(text_of(*problem)));
  if (copy.chain().calibration)
    if (const auto unfit = unfit_for(*copy.chain().calibration, copy.layout().stations.front().size))
      warn(text_of(*unfit));
  if (const auto unmatched = copy.unmatched_frames(); !unmatched.empty()) {
    QStringList numbers;
    for (const int one : unmatched) numbers << QString::number(one);
    warn(QObject::tr("Frames that did not match: %1. They are written where they are, or left out.")
             .arg(numbers.join(", ")));
  }
  if (copy.align_step() && copy.align_step()->frames.empty()) warn(QObject::tr("The sequence is not aligned yet."));
  if (copy.motion_layer().outdated())
    warn(QObject::tr("The movement was measured with other settings, or before the chain was changed."));
  if (out.blocks.empty()) return std::nullopt;
  return out;
}

}  // namespace

QString made_text() {
  return QObject::tr("made on %1 with Fexel %2")
      .arg(QDateTime::currentDateTime().toString(QStringLiteral("yyyy-MM-dd HH:mm")), FEXEL_VERSION);
}

ReportInput::ReportInput(Document& document)
    : chain(document.chain()), layout(document.layout()), station(document.station_b()) {
  sources = document.source()->files;
  Chain copy = chain;
  for (const std::string* file : files_of_steps(copy))
    if (const auto path = reference_path(document, *file); std::filesystem::is_regular_file(path))
      others.push_back(path);
  const MotionLayer& layer = document.motion_layer();
  if (const auto measured = layer.frames(); !measured.empty() && !layer.shown() && measured.back() > 0)
    moved.emplace(measured.back() - 1, document.frames()[static_cast<std::size_t>(measured.back() - 1)]);
  pictures = document.pictures()
                 ? document.pictures()
                 : std::make_shared<const RunPictures>(document.source()->pixels, document.chain(), document.layout());
}

ReportFacts facts_of(const ReportInput& input, const Job& job) {
  ReportFacts out;
  const bool pixels =
      std::ranges::any_of(input.chain.measurements, [](const Measurement& m) { return reads_pixels(m.kind); });
  const double files_share = pixels ? 0.5 : 1;
  const auto n = static_cast<double>(std::max<std::size_t>(1, input.sources.size()));
  for (std::size_t i = 0; i < input.sources.size(); ++i)
    out.sources.push_back({text_of(input.sources[i].path().string()),
                           input.sources[i].checked_checksum(job.part(files_share * static_cast<double>(i) / n,
                                                                      files_share * static_cast<double>(i + 1) / n))});
  for (const auto& path : input.others) out.sources.push_back({text_of(path.string()), checksum(path, {job.stop, {}})});
  if (input.moved && input.moved->second.info)
    out.moved = ReportFacts::Frame{input.moved->first, *input.moved->second.info,
                                   std::make_shared<const Pyramid>(std::make_shared<const Image>(
                                       read_frame(input.moved->second, limits_for(input.chain, {}), {job.stop, {}})))};
  if (!pixels) return out;
  const Image image = input.pictures->pixels(input.station, job.part(files_share, 1));
  for (const Measurement& measurement : input.chain.measurements)
    out.sampled.push_back(sampled_at(input.layout, measurement, input.station, image));
  return out;
}

Report report_of(const Document& document, const ReportFacts& facts, const ReportTemplate& style,
                 const ShownRange& range) {
  const PaperLook paper;
  // What is selected, shown and flagged meanwhile is this copy's.
  Document copy;
  copy.take_over(document);
  Report out;
  out.style = style;
  const QString name = document.chain_path().isEmpty() ? document.source()->path : document.chain_path();
  out.title = style.title.isEmpty() ? QObject::tr("Report on %1").arg(QFileInfo(name).fileName()) : style.title;
  out.subtitle = QFileInfo(name).fileName();
  out.made = made_text();
  if (auto warnings = warnings_section(copy, facts)) out.sections.push_back(std::move(*warnings));
  out.sections.push_back(pictures_section(copy, facts, range));
  if (auto section = calibration_section(copy)) out.sections.push_back(std::move(*section));
  if (auto section = measurements_section(copy, facts)) out.sections.push_back(std::move(*section));
  out.sections.push_back(chain_section(copy));
  for (std::size_t i = 0; i < copy.chain().steps.size(); ++i)
    if (std::holds_alternative<FitStep>(copy.chain().steps[i].kind)) add_pairs(copy, i, out.sections);
  if (auto section = alignment_section(copy)) out.sections.push_back(std::move(*section));
  if (auto section = motion_section(copy, facts, range)) out.sections.push_back(std::move(*section));
  return out;
}

}  // namespace fexel

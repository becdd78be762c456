// Runs over many files: which files, values of their own, several at a time, the journal.
#include <atomic>
#include <catch2/catch.hpp>
#include <set>
#include <thread>

#include "base/error.h"
#include "batch/journal.h"
#include "batch/values.h"
#include "tests/support.h"

using namespace fexel;
namespace fs = std::filesystem;

namespace {

fs::path picture(const fs::path& path, int width = 40, int height = 30, unsigned seed = 1) {
  fs::create_directories(path.parent_path());
  write_pictures(path, test::one_page(test::noise(width, height, 1, Depth::u8, seed)),
                 {*format_of_name(path), {}, false, {}});
  return path;
}

Chain rotated(double degrees) {
  Chain chain;
  chain.steps = {{RotateStep{degrees}, true, {}}};
  return chain;
}

std::vector<std::string> names_of(const ChosenInputs& chosen, const fs::path& root) {
  std::vector<std::string> out;
  for (const ChosenInput& input : chosen.files) out.push_back(input.file.lexically_relative(root).string());
  return out;
}

std::string bytes_of(const fs::path& path) {
  std::ifstream in(path, std::ios::binary);
  return {std::istreambuf_iterator<char>(in), {}};
}

/// Every file of a folder with its bytes.
std::map<std::string, std::string> contents(const fs::path& folder) {
  std::map<std::string, std::string> out;
  for (const auto& entry : fs::recursive_directory_iterator(folder))
    if (entry.is_regular_file()) out[entry.path().lexically_relative(folder).string()] = bytes_of(entry.path());
  return out;
}

std::vector<std::size_t> all_of(const std::vector<RunItem>& items) {
  std::vector<std::size_t> out(items.size());
  for (std::size_t i = 0; i < out.size(); ++i) out[i] = i;
  return out;
}

}  // namespace

TEST_CASE("patterns take any characters for a star and one for a question mark", "[batch]") {
  CHECK(fits_pattern("IMG_1.tif", ""));
  CHECK(fits_pattern("IMG_1.tif", "img_*.TIF"));
  CHECK(fits_pattern("IMG_1.tif", "*.png *.tif"));
  CHECK(fits_pattern("IMG_1.tif", "IMG_?.tif"));
  CHECK(fits_pattern("abcabd", "*abd"));
  CHECK(fits_pattern("a", "*?*"));
  CHECK_FALSE(fits_pattern("IMG_10.tif", "IMG_?.tif"));
  CHECK_FALSE(fits_pattern("IMG_1.tif", "*.png"));
  CHECK_FALSE(fits_pattern("", "?"));
  // Many stars over a long name end at once.
  CHECK_FALSE(fits_pattern(std::string(5000, 'a'), "*a*a*a*a*a*a*a*a*a*a*b"));
}

TEST_CASE("folders give their pictures in natural order, below them too where that is asked for", "[batch]") {
  const test::Scratch scratch;
  const fs::path root = scratch / "in";
  for (const char* name : {"b10.tif", "b2.tif", "sub/c.png", "sub/deep/d.tif", "out/e.tif", ".hidden/f.tif"})
    picture(root / name);
  std::ofstream(root / "notes.txt") << "no picture";
  fs::create_directory_symlink(root, root / "sub" / "circle");
  CHECK(names_of(choose_inputs({{root}}), root) == std::vector<std::string>{"b2.tif", "b10.tif"});
  const ChosenInputs below = choose_inputs({{root}, "*.tif", true, {}, root / "out"});
  CHECK(names_of(below, root) == std::vector<std::string>{"b2.tif", "b10.tif", "sub/deep/d.tif"});
  CHECK(below.files.back().subfolder == "sub/deep");
  // A named file is taken whatever the pattern, and once.
  CHECK(choose_inputs({{root / "sub" / "c.png", root, root / "b2.tif"}, "b*"}).files.size() == 3);
  CHECK(choose_inputs({{root}, "*.jpg"}).notes.size() == 1);
  CHECK(choose_inputs({{root}, "*.jpg", true}).notes.size() == 1);
}

TEST_CASE("a table gives each file its own values, and says what it cannot give", "[batch]") {
  Chain chain = rotated(1);
  chain.steps.push_back({CropStep{}, true, {}});
  std::get<CropStep>(chain.steps[1].kind).what = CropRectangle{0, 0, 20, 10};
  const ValuesTable table = ValuesTable::parse(
      "\xEF\xBB\xBF"
      "file,/steps/0/degrees,/steps/1/x,/steps/0/centre\r\n"
      "a.tif,2.5,3,\n"
      "b,-90,,\"10.5 4\"\n"
      "gone.tif,1,1,1 2\n");
  const auto a = table.chain_for("a.tif", chain), b = table.chain_for("b.png", chain);
  REQUIRE(a);
  REQUIRE(b);
  CHECK(std::get<RotateStep>(a->steps[0].kind).degrees == 2.5);
  CHECK_FALSE(std::get<RotateStep>(a->steps[0].kind).centre);
  CHECK(write_chain(*a).find("\"x\": 3") != std::string::npos);
  CHECK(std::get<RotateStep>(b->steps[0].kind).degrees == -90);
  CHECK(std::get<RotateStep>(b->steps[0].kind).centre == Point{10.5, 4});
  CHECK_FALSE(table.chain_for("c.tif", chain));
  CHECK(table.without_file({"a.tif", "b.png"}) == std::vector<std::string>{"gone.tif"});

  const auto refused = [&](const std::string& text, const std::string& file = "a") {
    try {
      ValuesTable::parse(text).chain_for(file, chain);
    } catch (const Error& error) {
      CHECK(error.kind() == Error::Kind::call);
      CHECK_FALSE(error.remedy().empty());
      return error.where();
    }
    return std::string("nothing");
  };
  CHECK(refused("") == "row 1");
  CHECK(refused("name,/steps/0/degrees\n") == "row 1");
  CHECK(refused("file\n") == "row 1");
  CHECK(refused("file,degrees\n") == "row 1");
  CHECK(refused("file,/a,/a\n") == "row 1");
  CHECK(refused("file,/steps/0/degrees\na,1,2\n") == "row 2");
  CHECK(refused("file,/steps/0/degrees\nx/a,1\nx/./a,2\n") == "row 3");
  CHECK(refused("file,/steps/0/degrees\na,much\n") == "row 2, /steps/0/degrees");
  CHECK(refused("file,/steps/7/degrees\na,1\n") == "row 2, /steps/7/degrees");
  CHECK(refused("file,/steps/x/degrees\na,1\n") == "row 2, /steps/x/degrees");
  CHECK(refused("file,/steps/0/speed\na,1\n") == "row 2, /steps/0/speed");
  CHECK(refused("file,/steps/0/degrees\na,[1\n") == "row 2, /steps/0/degrees");
}

TEST_CASE("rows are found by the end of a path, and one that fits several files is refused", "[batch]") {
  const Chain chain = rotated(1);
  const ValuesTable table = ValuesTable::parse("file,/steps/0/degrees\na.tif,1\nleft/a.tif,2\n/up/left/a.tif,3\nb,4\n");
  const auto degrees = [&](const fs::path& file) {
    const auto own = table.chain_for(file, chain);
    return own ? std::get<RotateStep>(own->steps[0].kind).degrees : 0;
  };
  CHECK(degrees("/x/right/a.tif") == 1);
  CHECK(degrees("/x/left/a.tif") == 2);
  CHECK(degrees("/up/left/a.tif") == 3);
  CHECK(degrees("/x/bleft/a.tif") == 1);
  CHECK(degrees("/x/b.png") == 4);
  CHECK(degrees("/x/a.png") == 0);
  CHECK(table.without_file({"/x/left/a.tif", "/x/b.png"}) == std::vector<std::string>{"/up/left/a.tif", "a.tif"});
  for (const auto& files : std::vector<std::vector<fs::path>>{{"/x/right/a.tif", "/x/wrong/a.tif"}, {"b.png", "b.tif"}})
    try {
      table.without_file(files);
      CHECK(false);
    } catch (const Error& error) {
      CHECK(error.kind() == Error::Kind::call);
      CHECK(error.where() == (files[0] == "b.png" ? "row 5" : "row 2"));
      CHECK_FALSE(error.remedy().empty());
    }
}

TEST_CASE("corners stand in one cell, apart by blanks", "[batch]") {
  Chain chain;
  RectifyStep step;
  step.corners = {{{1, 1}, {50, 2}, {49, 40}, {2, 41}}};
  chain.steps = {{step, true, {}}};
  const auto own = ValuesTable::parse("file,/steps/0/corners\na.tif,3 4 60 5 58.5 44 6 45\n").chain_for("a.tif", chain);
  REQUIRE(own);
  const auto& corners = std::get<RectifyStep>(own->steps[0].kind).corners;
  CHECK(corners[0] == Point{3, 4});
  CHECK(corners[2] == Point{58.5, 44});
}

TEST_CASE("several files at a time give the bytes of one after the other, whatever fails among them", "[batch]") {
  const test::Scratch scratch;
  std::vector<fs::path> inputs;
  for (int i = 0; i < 24; ++i)
    inputs.push_back(
        picture(scratch / "in" / ("p" + std::to_string(i) + ".tif"), 40 + i, 30, static_cast<unsigned>(i)));
  std::ofstream(inputs[3], std::ios::trunc) << "no picture";
  const Chain chain = rotated(7);
  std::map<std::string, std::string> first;
  for (const int workers : {1, 2, 5}) {
    INFO(workers);
    RunOptions options;
    options.folder = scratch / ("out" + std::to_string(workers));
    options.chain_name = "r";
    options.own[inputs[5]] = {rotated(90), "below"};
    const auto items = plan_run(chain, inputs, options);
    fs::remove(inputs[7]);  // it vanishes behind the plan
    std::map<std::size_t, BatchOutcome> outcomes;
    BatchHow how;
    how.workers = workers;
    how.ended = [&](std::size_t i, const BatchOutcome& outcome) {
      CHECK_FALSE(outcomes.contains(i));
      outcomes[i] = outcome;
    };
    double last = 0;
    bool back = false;
    run_batch(chain, items, all_of(items), options, how, {{}, [&](double share) {
                                                            back = back || share < last - 1e-9;
                                                            last = share;
                                                          }});
    CHECK(last == Approx(1));
    CHECK_FALSE(back);
    REQUIRE(outcomes.size() == inputs.size());
    for (const auto& [i, outcome] : outcomes) CHECK((i == 3 || i == 7) == outcome.failure.has_value());
    CHECK(fs::exists(options.folder / "below" / "p5-r.tif"));
    CHECK(load_record(record_path(options.folder / "below" / "p5-r.tif")).chain == for_record(rotated(90)));
    CHECK(load_record(record_path(options.folder / "p6-r.tif")).chain == for_record(chain));
    const auto made = contents(options.folder);
    CHECK(made.size() == 2 * 22);
    if (workers == 1)
      first = made;
    else
      CHECK(made == first);
    picture(inputs[7], 47, 30, 7);
  }
}

TEST_CASE("names that clash fail by themselves where each file is by itself", "[batch]") {
  const test::Scratch scratch;
  const std::vector<fs::path> inputs{picture(scratch / "a" / "x.tif"), picture(scratch / "b" / "x.tif"),
                                     picture(scratch / "b" / "y.tif")};
  RunOptions options;
  options.folder = scratch / "out";
  options.chain_name = "r";
  CHECK_THROWS_AS(plan_run(rotated(3), inputs, options), Error);
  options.each_by_itself = true;
  const auto items = plan_run(rotated(3), inputs, options);
  CHECK_FALSE(items[0].failure);
  REQUIRE(items[1].failure);
  CHECK(items[1].failure->message().find("both") != std::string::npos);
  CHECK_FALSE(items[2].failure);
}

TEST_CASE("a run that is held goes on where it was, and a stop ends it while it is held", "[batch]") {
  const test::Scratch scratch;
  std::vector<fs::path> inputs;
  for (int i = 0; i < 12; ++i) inputs.push_back(picture(scratch / "in" / ("p" + std::to_string(i) + ".tif")));
  RunOptions options;
  options.folder = scratch / "out";
  const Chain chain = rotated(3);
  const auto items = plan_run(chain, inputs, options);
  Pause pause;
  std::atomic<int> done = 0;
  BatchHow how;
  how.workers = 2;
  how.pause = &pause;
  how.ended = [&](std::size_t, const BatchOutcome&) {
    if (++done == 4) pause.set(true);
  };
  std::stop_source stop;
  std::atomic<bool> cancelled = false;
  std::jthread run([&] {
    try {
      run_batch(chain, items, all_of(items), options, how, {stop.get_token(), {}});
    } catch (const Error& error) {
      cancelled = error.kind() == Error::Kind::cancelled;
    }
  });
  const auto wait_for = [](auto&& what) {
    for (int i = 0; i < 2000 && !what(); ++i) std::this_thread::sleep_for(std::chrono::milliseconds(5));
    return what();
  };
  REQUIRE(wait_for([&] { return done >= 4; }));
  std::this_thread::sleep_for(std::chrono::milliseconds(100));
  CHECK(done <= 5);  // what was at work is finished
  CHECK(pause.paused());
  const int held = done;
  pause.set(false);
  REQUIRE(wait_for([&] { return done > held; }));
  pause.set(true);
  stop.request_stop();
  run.join();
  CHECK((cancelled || done == 12));
}

TEST_CASE("files at work together stay within the memory that is allowed", "[batch]") {
  const test::Scratch scratch;
  std::vector<fs::path> inputs;
  for (int i = 0; i < 8; ++i) inputs.push_back(picture(scratch / "in" / ("p" + std::to_string(i) + ".tif"), 400, 300));
  RunOptions options;
  options.folder = scratch / "out";
  const Chain chain = rotated(3);
  const auto items = plan_run(chain, inputs, options);
  const double one = memory_for(items[0], chain, options);
  CHECK(one > 400.0 * 300);
  for (const double files : {1.5, 2.5, 100.0}) {
    options.memory = static_cast<std::int64_t>(files * one);
    options.replace = true;
    const auto again = plan_run(chain, inputs, options);
    int now = 0, most = 0;
    BatchHow how;
    how.workers = 4;
    how.begun = [&](std::size_t) { most = std::max(most, ++now); };
    how.ended = [&](std::size_t, const BatchOutcome&) { --now; };
    run_batch(chain, again, all_of(again), options, how, {});
    INFO(files);
    CHECK(most <= std::min(4, static_cast<int>(files)));
    CHECK(now == 0);
  }
}

TEST_CASE("a journal reads back, wherever it was cut off", "[batch]") {
  const test::Scratch scratch;
  Journal journal;
  journal.chain = rotated(12.5);
  journal.options.folder = scratch.path();
  journal.options.chain_name = "wall";
  journal.options.name = "{stem}_{index}";
  journal.options.format = Format::png;
  journal.options.finish = {Depth::u16, std::pair{1.0, 9.0}, EmptyAs::mask, 77};
  journal.options.compress = false;
  journal.options.own["/in/b.tif"] = {rotated(4), "sub"};
  journal.inputs = {{"/in/a.tif", {}}, {"/in/b.tif", "sub"}, {"/in/\xff\xfe.tif", {}}};
  journal.entries["/in/a.tif"] = {JournalEntry::State::done, "a.png", {"It is empty."}, {}, {}, {}};
  journal.entries["/in/\xff\xfe.tif"] = {JournalEntry::State::failed, {}, {}, "It broke.", "x", "Try \"again\"."};
  const std::string text = write_journal(journal);
  const auto same = [&](const Journal& back) {
    CHECK(back.chain == journal.chain);
    CHECK(back.options.name == journal.options.name);
    CHECK(back.options.chain_name == "wall");
    CHECK(back.options.format == Format::png);
    CHECK(back.options.finish == journal.options.finish);
    CHECK_FALSE(back.options.compress);
    CHECK(back.inputs.size() == 3);
  };
  const Journal back = parse_journal(text);
  same(back);
  CHECK(back.options.own == journal.options.own);
  CHECK(back.entries == journal.entries);
  CHECK(write_journal(back) == text);
  const std::size_t head = text.find('\n');
  for (std::size_t cut = 0; cut < text.size(); ++cut) {
    if (cut <= head) {
      CHECK_THROWS_AS(parse_journal(text.substr(0, cut)), Error);
      continue;
    }
    const Journal part = parse_journal(text.substr(0, cut));
    CHECK(part.entries.size() <= 2);
    for (const auto& [input, entry] : part.entries) CHECK(entry == journal.entries.at(input));
  }
  CHECK_THROWS_WITH(parse_journal(text + "{\"input\": 3}\n"), Catch::Contains("line 5"));
  std::string out_of_it = text;
  out_of_it.replace(out_of_it.find("\"sub\""), 5, "\"../../x\"");
  CHECK_THROWS_AS(parse_journal(out_of_it), Error);
}

TEST_CASE("a journal on the disk tells at once, and its end does not depend on the order", "[batch]") {
  const test::Scratch scratch;
  Journal journal;
  journal.chain = rotated(2);
  journal.options.folder = scratch.path();
  journal.options.chain_name = "c";
  for (int i = 0; i < 6; ++i) journal.inputs.push_back({"/in/" + std::to_string(i) + ".tif", {}});
  std::set<std::string> ends;
  for (const bool back : {false, true}) {
    const fs::path path = scratch / (back ? "b.jsonl" : "a.jsonl");
    JournalWriter writer(path, journal);
    for (int k = 0; k < 6; ++k) {
      const fs::path input = journal.inputs[static_cast<std::size_t>(back ? 5 - k : k)].file;
      writer.add(input, {JournalEntry::State::failed, {}, {}, "First.", {}, {}});
      writer.add(input, {JournalEntry::State::done, "x.tif", {}, {}, {}, {}});
      if (k == 2) writer.set_own_chain(input, rotated(5));
      if (k == 3) writer.set_own_chain(input, std::nullopt);
      const Journal now = load_journal(path);
      CHECK(now.options.folder == scratch.path());
      CHECK(now.entries.size() == static_cast<std::size_t>(k + 1));
      CHECK(now.entries.at(input).state == JournalEntry::State::done);
    }
    writer.set_own_chain(journal.inputs[back ? 3 : 2].file, std::nullopt);
    writer.tidy();
    ends.insert(bytes_of(path));
  }
  CHECK(ends.size() == 1);
}

TEST_CASE("what may be wrong about an input or a result is said", "[batch]") {
  const test::Scratch scratch;
  RunOptions options;
  options.folder = scratch / "out";
  const Chain chain = rotated(3);
  const auto items = plan_run(chain, {picture(scratch / "a.tif", 40, 30)}, options);
  CHECK(doubts_before(items[0], chain, {Size{40, 30}, false}).empty());
  CHECK(doubts_before(items[0], chain, {Size{40, 31}, true}).size() == 2);
  CHECK(would_make(items[0], rotated(90))->size == Size{30, 40});
  RunResult result;
  CHECK(doubts_after(result).empty());
  result.empty_share = 0.75;
  result.clamped = 3;
  result.frames = {{"a.tif", 1, 0, {}, MatchStatus::weak, "It is blurred."}};
  CHECK(doubts_after(result).size() == 3);
}

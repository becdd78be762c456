#include <unistd.h>
#include <catch2/catch.hpp>
#include <thread>

#include "run/result_writer.h"
#include "run/run.h"
#include "tests/support.h"

using namespace fexel;

TEST_CASE("names sort as people count", "[run]") {
  CHECK(natural_less("frame-2.tif", "frame-10.tif"));
  CHECK_FALSE(natural_less("frame-10.tif", "frame-2.tif"));
  CHECK(natural_less("a-007", "a-8"));
  CHECK(natural_less("a", "b"));
  CHECK_FALSE(natural_less("a", "a"));
  CHECK((natural_less("01", "1") != natural_less("1", "01")));
}

TEST_CASE("a source that is gone, or another one, when its turn comes is said", "[run]") {
  const test::Scratch scratch;
  std::vector<Image> pages;
  pages.push_back(test::noise(20, 10, 1, Depth::u8));
  write_pictures(scratch / "a.tif", pages, {});
  RunOptions options;
  options.folder = scratch.path();
  options.name = "result";
  const Chain chain;
  const RunItem item = plan_run(chain, {scratch / "a.tif"}, options).front();
  std::filesystem::remove(scratch / "a.tif");
  CHECK_THROWS_WITH(run_one(chain, item, options, {}), Catch::Contains("cannot be opened"));
  std::ofstream(scratch / "a.tif") << "no picture any more";
  CHECK_THROWS_WITH(run_one(chain, item, options, {}), Catch::Contains("not a picture"));
  CHECK_FALSE(std::filesystem::exists(item.target.path));
  CHECK_FALSE(std::filesystem::exists(item.target.record));
  if (::geteuid() == 0) return;  // to whom every folder is open
  std::filesystem::create_directory(scratch / "closed");
  std::filesystem::permissions(scratch / "closed", std::filesystem::perms::owner_exec);
  CHECK_THROWS_WITH(expand_inputs({scratch / "closed"}), Catch::Contains("cannot be read"));
  std::filesystem::permissions(scratch / "closed",
                               std::filesystem::perms::owner_read | std::filesystem::perms::owner_exec);
  CHECK_THROWS_WITH(write_pictures(scratch / "closed" / "a.tif", pages, {}), Catch::Contains("may not be written"));
  std::filesystem::permissions(scratch / "closed", std::filesystem::perms::owner_all);
}

TEST_CASE("clashing names, existing files and sources stop a run before it starts", "[run]") {
  const test::Scratch scratch;
  std::vector<std::filesystem::path> inputs;
  for (const char* name : {"a.png", "b.png"}) {
    std::vector<Image> pages;
    pages.push_back(test::noise(20, 10, 1, Depth::u8));
    write_pictures(scratch / name, pages, {Format::png, {}, false, {}});
    inputs.push_back(scratch / name);
  }
  RunOptions options;
  options.folder = scratch.path();
  options.chain_name = "turned";
  Chain chain;
  chain.steps = {{RotateStep{90}, true, {}}};
  CHECK(plan_run(chain, inputs, options)[1].target.path == scratch / "b-turned.png");
  options.name = "same";
  CHECK_THROWS_WITH(plan_run(chain, inputs, options), Catch::Contains("both"));
  options.name = "{stem}";
  options.replace = true;
  CHECK_THROWS_WITH(plan_run(chain, inputs, options), Catch::Contains("source"));
  options.name = "{index}-{stem}.{ext}";
  CHECK(plan_run(chain, inputs, options)[0].target.path == scratch / "1-a.png");
  options.name = "../{stem}-x";
  CHECK_THROWS_WITH(plan_run(chain, inputs, options), Catch::Contains("slash"));
}

TEST_CASE("two runs that place the same names at once leave one whole set", "[run]") {
  const test::Scratch scratch;
  Target target;
  target.path = scratch / "a.tif";
  target.finish.empty = EmptyAs::mask;
  target.record = record_path(target.path);
  // What a set says of itself: the checksums of its files.
  const auto sums = [](const std::vector<WrittenFile>& files) {
    std::string text;
    for (const WrittenFile& file : files) text += file.sha256 + "\n";
    return text;
  };
  const auto writer = [&](unsigned seed) {
    auto made =
        std::make_unique<ResultWriter>(target, std::vector<OutputShape>{{{30, 20}, 1, Depth::u8, {}}}, Attached{});
    Image image = test::noise(30, 20, 1, Depth::u8, seed);
    image.make_mask(seed == 1);
    made->append(std::move(image), {});
    made->end_page();
    return made;
  };
  const auto first = writer(1), second = writer(2);
  std::string refused;
  std::jthread other;
  // While the first is about to place its files, the second places its own, or tries to.
  first->commit(
      [&](const std::vector<WrittenFile>& files) {
        other = std::jthread([&] {
          try {
            second->commit(sums, {});
          } catch (const Error& error) {
            refused = error.what();
          }
        });
        std::this_thread::sleep_for(std::chrono::milliseconds(300));
        return sums(files);
      },
      {});
  other.join();
  CHECK(refused.find("exists already") != std::string::npos);
  CHECK(read_text(target.record) == checksum(target.path) + "\n" + checksum(mask_path(target.path, 1)) + "\n");
}

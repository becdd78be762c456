#include "stacks/write_stack.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"

namespace fexel {
namespace {

std::vector<std::string> all_notes(const FrameStack& frames, const std::vector<std::string>& own) {
  std::vector<std::string> out = frames.remarks();
  for (const auto* notes : {&frames.notes(), &own}) out.insert(out.end(), notes->begin(), notes->end());
  return out;
}

/// The rate of the frames' own times, where they have such; else of the chain's time step.
double rate_of(const FrameStack& frames, const std::optional<Chain>& chain) {
  const auto begin = frames.file(0).info->time, end = frames.file(frames.count() - 1).info->time;
  double rate = 25;
  if (begin && end && *end > *begin)
    rate = static_cast<double>(frames.count() - 1) / (*end - *begin);
  else if (chain && chain->time_step && chain->time_step->unit == "s" && chain->time_step->value > 0)
    rate = 1 / chain->time_step->value;
  return std::clamp(rate, least_film_rate, most_film_rate);
}

}  // namespace

WrittenStack write_stack(const FrameStack& frames, StackPicture picture, const StackTarget& target,
                         const std::optional<Chain>& chain, const Job& job) {
  const auto format = format_of_name(target.path);
  if (!format || *format == Format::film)
    throw call_error("This name has no ending of a picture.", target.path.string(), "End it with .tif, .png or .jpg.");
  WrittenStack out;
  WriteOptions how;
  how.format = *format;
  how.replace = target.replace;
  how.keep = target.keep;
  how.pixel_size = picture.pixel;
  const bool holes = std::ranges::any_of(picture.pages, &Image::has_mask);
  for (Image& page : picture.pages) {
    if (target.depth && page.depth() != *target.depth) page = with_depth(page, *target.depth, out.clamped);
    out.bands = page.bands();
    // Of several pages all have an alpha band, or none has.
    how.alpha = holes && page.depth() != Depth::f32;
    if (how.alpha && !page.has_mask()) page.make_mask(true);
    if (how.alpha)
      page = with_alpha(page);
    else if (page.depth() == Depth::f32)
      put_nan(page);
  }
  out.size = {picture.pages.front().width(), picture.pages.front().height()};
  out.depth = picture.pages.front().depth();
  out.notes = all_notes(frames, picture.notes);
  out.missing = frames.notes().size() + picture.notes.size();
  write_made(target.path, picture.pages, how, {std::move(picture.operation), chain, out.notes}, frames.sources(), job);
  return out;
}

WrittenStack write_film(const FrameStack& frames, FilmUse use, std::optional<double> rate, const StackTarget& target,
                        const std::optional<Chain>& chain, const Job& job) {
  const auto ending = target.path.extension();
  if (ending != ".mkv" && ending != ".webm")
    throw call_error("A film's name ends with .mkv or .webm.", target.path.string(), "Give such a name.");
  if (use == FilmUse::lossless && ending == ".webm")
    throw call_error("WebM holds no film without loss.", target.path.string(),
                     "Name it .mkv, or write it for showing (--for showing).");
  FilmLook look;
  look.size = frames.size();
  look.bands = frames.bands();
  look.depth = target.depth.value_or(use == FilmUse::showing ? Depth::u8 : frames.depth());
  look.use = use;
  look.rate = rate.value_or(rate_of(frames, chain));
  WriteOptions how;
  how.replace = target.replace;
  how.keep = target.keep;
  WrittenStack out{look.size, look.bands, look.depth, 0, look.rate, 0, all_notes(frames, {})};
  const std::size_t said = out.notes.size();
  std::unique_ptr<FilmWriter> writer;
  for (std::size_t i = 0; i < frames.count(); ++i) {
    job.check();
    Image frame;
    try {
      frame = frames.read(i, {job.stop, {}});
    } catch (const Error& error) {
      if (error.kind() != Error::Kind::input) throw;
      out.notes.push_back(fmt::format("Frame {} is left out: {}", frames.number(i), error.message()));
      continue;
    }
    if (frame.depth() != look.depth) frame = with_depth(frame, look.depth, out.clamped);
    frame.drop_mask();
    if (!writer) {
      look.largest = frame.stated_largest();
      writer = std::make_unique<FilmWriter>(target.path, look, how);
    }
    writer->add(frame, rate ? std::nullopt : frames.file(i).info->time);
    ++out.frames;
    if (job.progress) job.progress(static_cast<double>(i + 1) / static_cast<double>(frames.count()));
  }
  if (!writer) throw input_error("None of the frames can be used.", target.path.string(), "Name other pictures.");
  const char* word = use == FilmUse::lossless ? "lossless" : "showing";
  out.missing = frames.notes().size() + out.notes.size() - said;
  writer->finish([&](int descriptor) {
    write_provenance(target.path, descriptor,
                     {{{"name", "film"}, {"for", word}, {"rate", look.rate}}, chain, out.notes}, frames.sources(), job);
  });
  return out;
}

}  // namespace fexel
